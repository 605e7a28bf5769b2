package instrument

import "net/http"

// Operation is one request of the protocol, as api/instruments.json tells it.
type Operation struct {
	Method, Path, ID, Summary string
	Body                      any // nil, or a zero value
	Answer                    any
}

// Asked is a list with who sends it.
type Asked struct {
	List List   `json:"list"`
	Who  string `json:"who"`
}

// Fault makes something go wrong with a stand-in.
type Fault struct {
	Name string `json:"name"`
}

// Faults are what can be made to go wrong.
type Faults struct {
	Names []string `json:"names"`
}

// Refusal is why something is not done.
type Refusal struct {
	Detail string `json:"detail"`
}

// Operations are all requests of the protocol.
var Operations = []Operation{
	{http.MethodGet, "/instrument", "instrument", "What it is", nil, Description{}},
	{http.MethodGet, "/state", "state", "How it stands", nil, State{}},
	{http.MethodPut, "/list", "list", "Take a list and get ready; the same list twice is taken once", Asked{}, State{}},
	{http.MethodPost, "/acts", "act", "Ask something of it while it works", Act{}, State{}},
	{http.MethodGet, "/events", "events", "A stream of events after a number (after=), one JSON value in each data line", nil, Event{}},
	{http.MethodPost, "/heard", "heard", "Say to which number events are on disk; it may forget them", Heard{}, Heard{}},
	{http.MethodGet, "/faults", "faults", "What can be made to go wrong with a stand-in", nil, Faults{}},
	{http.MethodPost, "/faults", "fault", "Make something go wrong with a stand-in", Fault{}, State{}},
}
