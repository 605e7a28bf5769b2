package server

import (
	"net/http"

	"yugen/core/batch"
	"yugen/instrument"
	"yugen/lab"
	"yugen/store"
)

// BenchAct is something asked of an instrument while it works; Fields are those of a row that is added.
type BenchAct struct {
	Kind   instrument.ActKind     `json:"kind"`
	What   string                 `json:"what,omitempty"`
	Choice string                 `json:"choice,omitempty"`
	Value  float64                `json:"value,omitempty"`
	Fields map[batch.Field]string `json:"fields,omitempty"`
}

// BenchFault makes something go wrong with a stand-in.
type BenchFault struct {
	Name string `json:"name"`
}

// TakenAsItIs is why something doubtful is taken as it is.
type TakenAsItIs struct {
	Reason string `json:"reason"`
}

// benchOperations are those of the instruments.
func (s *server) benchOperations(view func(*call, store.Batch, error) (any, error)) []operation {
	const at = "/bench/:instrument"
	return []operation{
		{http.MethodGet, "/bench", "bench", "The instruments, how each stands, and what became of its list", nil, nil, []lab.BenchPost{}, func(c *call, _ any) (any, error) {
			return s.lab.Bench(c.Request().Context())
		}},
		{http.MethodGet, "/bench-troubles", "troubles", "Trouble that instruments had, the newest first", nil, nil, []lab.PastTrouble{}, func(c *call, _ any) (any, error) {
			return s.lab.Troubles(c.Request().Context())
		}},
		{http.MethodGet, at + "/live", "live", "What an instrument measures, or measured last", nil, nil, lab.Live{}, func(c *call, _ any) (any, error) {
			return s.lab.Live(c.Request().Context(), c.Param("instrument"))
		}},
		{http.MethodPost, at + "/list", "startList", "Give an instrument a list; each run is taken into the batch as it ends", nil, &lab.ListAsked{}, lab.BenchPost{}, func(c *call, body any) (any, error) {
			return s.lab.StartList(c.Request().Context(), c.Param("instrument"), *body.(*lab.ListAsked), c.who)
		}},
		{http.MethodPost, at + "/acts", "benchAct", "Ask something of an instrument while it works", nil, &BenchAct{}, lab.BenchPost{}, func(c *call, body any) (any, error) {
			a := body.(*BenchAct)
			return s.lab.ActAt(c.Request().Context(), c.Param("instrument"), instrument.Act{Kind: a.Kind, What: a.What, Choice: a.Choice, Value: a.Value}, a.Fields, c.who)
		}},
		{http.MethodPost, at + "/faults", "benchFault", "Make something go wrong with a stand-in, to learn by", nil, &BenchFault{}, lab.BenchPost{}, func(c *call, body any) (any, error) {
			return s.lab.FaultAt(c.Request().Context(), c.Param("instrument"), body.(*BenchFault).Name, c.who)
		}},
		{http.MethodPost, "/batches/:batch/injections/:injection/taken", "takeAsItIs", "Take what is in doubt of an injection as it is, so that it counts", nil, &TakenAsItIs{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.TakeAsItIs(c.Request().Context(), c.Param("batch"), c.revision, c.Param("injection"), body.(*TakenAsItIs).Reason, c.who)
			return view(c, b, err)
		}},
	}
}
