// Package instrument is what the bench and an instrument say to each other: what it is, how it stands, its run list, and the events that it tells in order.
// docs/instruments.md tells the same to those who write a driver.
package instrument

import (
	"encoding/json"
	"time"
)

// Kind is what an instrument is.
type Kind string

// The kinds of instrument.
const (
	LC   Kind = "lc"   // liquid chromatograph with UV detector
	GC   Kind = "gc"   // gas chromatograph with flame ionisation
	GCMS Kind = "gcms" // gas chromatograph with mass detector
)

// Kinds lists them.
var Kinds = []Kind{LC, GC, GCMS}

// Phase is what an instrument is about.
type Phase string

// The phases of an instrument.
const (
	Resting   Phase = "resting"   // nothing is asked of it
	Preparing Phase = "preparing" // conditions are getting true
	Ready     Phase = "ready"     // waits for a person to start
	Running   Phase = "running"   // an injection is measured
	Between   Phase = "between"   // washes, cools, and takes the next
	Paused    Phase = "paused"    // all on, nothing injected
	Stopped   Phase = "stopped"   // by trouble; a person is wanted
	Leaving   Phase = "leaving"   // does what was chosen for the end
	Venting   Phase = "venting"   // cools, and lets air in once it may be
	Open      Phase = "open"      // to the air: its door may be opened
)

// Phases lists them.
var Phases = []Phase{Resting, Preparing, Ready, Running, Between, Paused, Stopped, Leaving, Venting, Open}

// Standing is how a condition stands.
type Standing string

// The standings of a condition.
const (
	True   Standing = "true"
	Coming Standing = "coming" // by itself
	After  Standing = "after"  // waits for another
	Person Standing = "person" // waits for somebody
)

// Standings lists them.
var Standings = []Standing{True, Coming, After, Person}

// Description is what an instrument says of itself once.
type Description struct {
	Name  string  `json:"name"` // as LC 1
	Kind  Kind    `json:"kind"`
	Says  string  `json:"says"`  // what it is, in words
	Boot  string  `json:"boot"`  // another one after each start: lists and events of an earlier one are gone
	Speed float64 `json:"speed"` // simulated seconds in one; 1 of what is no stand-in
	// StandIn tells that acts of the world (valves, bottles) are done through the protocol, since there is no world.
	StandIn bool `json:"stand_in"`
}

// Condition is one thing that must be true before anything is injected.
type Condition struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Standing Standing `json:"standing"`
	Says     string   `json:"says"` // the value now and the one wanted
	// Share is how far it has got, 0 to 1, and LeftS when it will be true; null while nobody can say.
	Share *float64 `json:"share"`
	LeftS *float64 `json:"left_s"`
	// Help is what a person does about it; only where one is wanted.
	Help string `json:"help,omitempty"`
	// Looked tells that the instrument cannot see it: a person says that it is so, in the words of Answer where there are any.
	Looked bool   `json:"looked"`
	Answer string `json:"answer,omitempty"`
	// World is the act by which a stand-in's world is put right; empty elsewhere.
	World string `json:"world,omitempty"`
}

// Supply is something that an instrument uses up.
type Supply struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Here   float64 `json:"here"`
	Full   float64 `json:"full"`
	Unit   string  `json:"unit"`
	Needed float64 `json:"needed"` // to the end of the list
	// Lasts is for how many more injections it is enough.
	Lasts int `json:"lasts"`
	// Fills tells that it is room that is filled, as a waste bottle's.
	Fills bool `json:"fills"`
}

// Change says when a setting may be changed.
type Change string

// When settings may be changed.
const (
	Fixed  Change = "fixed"  // belongs to the method
	Next   Change = "next"   // from the next injection
	Longer Change = "longer" // only upwards
)

// Changes lists them.
var Changes = []Change{Fixed, Next, Longer}

// Setting is a condition that was asked for, with what it is now.
type Setting struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Asked  float64  `json:"asked"`
	Says   string   `json:"says"` // asked, in words
	Now    *float64 `json:"now"`
	Unit   string   `json:"unit"`
	Change Change   `json:"change"`
	Low    float64  `json:"low"`
	High   float64  `json:"high"`
}

// RowState is where a row of the list stands.
type RowState string

// The states of a row.
const (
	RowWaits   RowState = "waits"
	RowRuns    RowState = "runs"
	RowDone    RowState = "done"
	RowCut     RowState = "cut"  // ended before its time; what was recorded is whole
	RowNot     RowState = "not"  // was not injected
	RowDoubted RowState = "hurt" // whole, but something happened in it
)

// RowStates lists them.
var RowStates = []RowState{RowWaits, RowRuns, RowDone, RowCut, RowNot, RowDoubted}

// Row is one injection of a list.
type Row struct {
	ID    string     `json:"id"`
	Name  string     `json:"name"`
	Vial  string     `json:"vial"`
	State RowState   `json:"state"`
	Begun *time.Time `json:"begun"`
	Ended *time.Time `json:"ended"`
	// Expected is when it begins, as things stand; null once it has begun.
	Expected *time.Time `json:"expected"`
}

// Start says when a list begins.
type Start string

// When a list begins.
const (
	WhenReady Start = "when_ready"
	WhenTold  Start = "when_told"
)

// Starts lists them.
var Starts = []Start{WhenReady, WhenTold}

// Ending is what is done when a list ends.
type Ending string

// The endings.
const (
	StayReady  Ending = "stay_ready"
	Rest       Ending = "rest"
	LeaveClean Ending = "leave_clean"
)

// Endings lists them.
var Endings = []Ending{StayReady, Rest, LeaveClean}

// EndingChoice is an ending with what it means and costs on this instrument.
type EndingChoice struct {
	ID   Ending `json:"id"`
	Says string `json:"says"`
	Then string `json:"then"` // what stays on
}

// List is what an instrument is asked to do.
type List struct {
	ID     string  `json:"id"`
	For    string  `json:"for"`
	Rows   []Row   `json:"rows"`
	Start  Start   `json:"start"`
	Ending Ending  `json:"ending"`
	RunMin float64 `json:"run_min"` // 0 for the usual
	// Settings are asked for by id; what is not said is as usual.
	Settings map[string]float64 `json:"settings,omitempty"`
}

// ActKind is something that is asked of an instrument while it works.
type ActKind string

// The acts.
const (
	Begin      ActKind = "begin"       // start a list that waits to be told, or go on after a pause
	PauseAfter ActKind = "pause_after" // this injection
	GoOn       ActKind = "go_on"       // after trouble, as Choice says
	StopAfter  ActKind = "stop_after"  // this injection
	StopNow    ActKind = "stop_now"    // what is recorded is kept
	Looked     ActKind = "looked"      // at What, a condition
	World      ActKind = "world"       // What is done to a stand-in's world
	Ends       ActKind = "ends"        // the ending is Choice
	Sets       ActKind = "sets"        // the setting What is Value
	Adds       ActKind = "adds"        // Row at the end
	Removes    ActKind = "removes"     // the row What, which has not begun
	Moves      ActKind = "moves"       // the row What to the place Value among those that have not begun
	LeaveNow   ActKind = "leave_now"   // do what was chosen for the end
	Vent       ActKind = "vent"        // let air in, for What, and then do Choice, a Then
	Back       ActKind = "back"        // to rest, while no air is in
	Changed    ActKind = "changed"     // the supply What, while it is open: its count begins anew
)

// ActKinds lists them.
var ActKinds = []ActKind{Begin, PauseAfter, GoOn, StopAfter, StopNow, Looked, World, Ends, Sets, Adds, Removes, Moves, LeaveNow, Vent, Back, Changed}

// Act is asked of an instrument by somebody.
type Act struct {
	Kind   ActKind `json:"kind"`
	What   string  `json:"what,omitempty"`
	Choice string  `json:"choice,omitempty"`
	Value  float64 `json:"value,omitempty"`
	Row    *Row    `json:"row,omitempty"`
	Who    string  `json:"who,omitempty"`
}

// Then is what an instrument does when its door is shut again.
type Then string

// What is done after the air.
const (
	PumpDown Then = "pump_down"
	StayOff  Then = "stay_off"
)

// Thens lists them.
var Thens = []Then{PumpDown, StayOff}

// Vented is an instrument that is opened to the air, or is on its way there.
type Vented struct {
	For  string `json:"for"`
	By   string `json:"by"`
	Then Then   `json:"then"`
	// Back tells that it can still go back to rest.
	Back bool        `json:"back"`
	Done []Happening `json:"done"`
	// Ahead is what comes, with when as it looks; null while that waits for a person.
	Ahead []Ahead `json:"ahead"`
	// Return is what it takes until it measures again.
	Return []Ahead `json:"return"`
}

// Ahead is a step that comes.
type Ahead struct {
	Says  string     `json:"says"`
	Asked string     `json:"asked"`
	By    string     `json:"by"` // bench, or you
	At    *time.Time `json:"at"`
	Mins  float64    `json:"mins"` // that it takes; 0 where that is a person's
}

// TroubleKind is what can go wrong.
type TroubleKind string

// The troubles.
const (
	FlameOut     TroubleKind = "flame_out"
	PressureHigh TroubleKind = "pressure_high"
	PressureLow  TroubleKind = "pressure_low"
	SolventLow   TroubleKind = "solvent_low"
	LampFailed   TroubleKind = "lamp"
	Blocked      TroubleKind = "blocked" // syringe or tray
	NoVial       TroubleKind = "no_vial"
	VacuumLost   TroubleKind = "vacuum"
	FilamentGone TroubleKind = "filament"
)

// TroubleKinds lists them.
var TroubleKinds = []TroubleKind{FlameOut, PressureHigh, PressureLow, SolventLow, LampFailed, Blocked, NoVial, VacuumLost, FilamentGone}

// Happening is one line of what happened.
type Happening struct {
	At   time.Time `json:"at"`
	By   string    `json:"by"` // bench, or who it was
	Says string    `json:"says"`
}

// Choice is a way to go on after trouble.
type Choice struct {
	ID   string `json:"id"`
	Says string `json:"says"`
}

// The ways to go on.
const (
	AgainAtEnd = "again_at_end"
	AgainFirst = "again_first"
	AsItIs     = "as_it_is"
	EndHere    = "end_here"
)

// Trouble is something that stopped a list.
type Trouble struct {
	Kind  TroubleKind `json:"kind"`
	Says  string      `json:"says"` // the event as a heading
	At    time.Time   `json:"at"`
	RowID string      `json:"row_id"` // the injection that it came into; empty between two
	// FromMin is from where the injection is in doubt, AtMin when it happened, and RecordedMin until when there is anything to see; minutes of the run.
	FromMin     float64 `json:"from_min"`
	AtMin       float64 `json:"at_min"`
	RecordedMin float64 `json:"recorded_min"`
	// Quantity is the channel that caused it, with the limit that it passed; empty where none did.
	Quantity string      `json:"quantity"`
	Limit    *float64    `json:"limit"`
	Happened []Happening `json:"happened"`
	ToDo     []Condition `json:"to_do"`
	Choices  []Choice    `json:"choices"`
	On       string      `json:"on"`  // what is on meanwhile
	Off      string      `json:"off"` // and what is not
}

// Reading is a quantity against time while the instrument gets ready, or is vented.
type Reading struct {
	Name   string    `json:"name"`
	Unit   string    `json:"unit"`
	Asked  float64   `json:"asked"`
	Mins   []float64 `json:"mins"` // since the list was taken
	Values []float64 `json:"values"`
	// Will are points of where it will be.
	WillMins   []float64 `json:"will_mins"`
	WillValues []float64 `json:"will_values"`
}

// State is how an instrument stands.
type State struct {
	At         time.Time      `json:"at"` // its clock
	Phase      Phase          `json:"phase"`
	Says       string         `json:"says"` // in a few words
	ListID     string         `json:"list_id"`
	For        string         `json:"for"`
	Conditions []Condition    `json:"conditions"`
	ReadySince *time.Time     `json:"ready_since"`
	ReadyAt    *time.Time     `json:"ready_at"` // as it looks; null while that waits for a person
	Supplies   []Supply       `json:"supplies"`
	Settings   []Setting      `json:"settings"`
	Rows       []Row          `json:"rows"`
	Start      Start          `json:"start"`
	Ending     Ending         `json:"ending"`
	Endings    []EndingChoice `json:"endings"`
	EndsAt     *time.Time     `json:"ends_at"` // the last run, as it looks
	RunMin     float64        `json:"run_min"`
	AtMin      *float64       `json:"at_min"` // of the run; null where none is measured
	PauseNext  bool           `json:"pause_next"`
	StopNext   bool           `json:"stop_next"`
	Trouble    *Trouble       `json:"trouble"`
	// Confirmed is what was measured at the end of a list: that it is off.
	Confirmed   string     `json:"confirmed"`
	ConfirmedAt *time.Time `json:"confirmed_at"`
	// Vented is set while it is opened to the air.
	Vented   *Vented   `json:"vented"`
	Readings []Reading `json:"readings"`
	Last     int64     `json:"last"` // number of the newest event
	// Waits tells that its clock stands because nobody hears what it has told; of a stand-in.
	Waits bool `json:"waits"`
}

// EventKind is what an event tells.
type EventKind string

// The events.
const (
	Injected EventKind = "injected" // Row has begun
	Measured EventKind = "measured" // Signals and Scans of Row
	Finished EventKind = "finished" // Row has ended, as its state says
	Happened EventKind = "happened" // Says, by By
	ListEnds EventKind = "list_ends"
)

// EventKinds lists them.
var EventKinds = []EventKind{Injected, Measured, Finished, Happened, ListEnds}

// Signal is a stretch of a channel. Values are a fixed time apart.
type Signal struct {
	Name   string    `json:"name"`
	Unit   string    `json:"unit"`
	FromS  float64   `json:"from_s"` // of the first value, since injection
	EveryS float64   `json:"every_s"`
	Values []float64 `json:"values"`
}

// Axis is what stands along a scan.
type Axis string

// What scans are along; where nothing is said they are of masses.
const (
	Masses      Axis = "m/z"
	Wavelengths Axis = "nm"
)

// Scan is a spectrum as it was recorded.
type Scan struct {
	AtS    float64   `json:"at_s"`
	Axis   []float64 `json:"axis"` // m/z or nm
	Values []float64 `json:"values"`
}

// Event is what an instrument tells. Numbers go up by one; whoever has heard them to a number says so, and asks for those after it.
type Event struct {
	N       int64     `json:"n"`
	At      time.Time `json:"at"`
	Kind    EventKind `json:"kind"`
	RowID   string    `json:"row_id,omitempty"`
	Row     *Row      `json:"row,omitempty"`
	Signals []Signal  `json:"signals,omitempty"`
	Scans   []Scan    `json:"scans,omitempty"`
	// Unit is that of the scans' values, Axis what stands along them.
	Unit string `json:"unit,omitempty"`
	Axis Axis   `json:"axis,omitempty"`
	// Settings are those of an injection that has begun.
	Settings []Setting `json:"settings,omitempty"`
	Trouble  *Trouble  `json:"trouble,omitempty"`
	Says     string    `json:"says,omitempty"`
	By       string    `json:"by,omitempty"`
}

// Heard says that everything to a number is on disk; the instrument may forget it.
type Heard struct {
	N int64 `json:"n"`
}

// The bounds of what either side sends.
const (
	MaxRows  = 1000
	MaxWords = 200
	MaxBody  = 4 << 20
	// MaxLine bounds one event of the stream.
	MaxLine = 8 << 20
)

// Line is an event as a line of the stream.
func (e Event) Line() ([]byte, error) { return json.Marshal(e) }
