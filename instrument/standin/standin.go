// Package standin simulates instruments that are not there: their heat, flow, light, flame and vacuum, what elutes from their columns, and what goes wrong with
// them, in a time of their own that may run faster.
package standin

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	mathrand "math/rand/v2"
	"slices"
	"strings"
	"sync"
	"time"

	"yugen/bench"
	"yugen/instrument"
)

// ErrRefused marks what was asked and cannot be; its text says why.
var ErrRefused = errors.New("refused")

func refuse(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrRefused, fmt.Sprintf(format, args...))
}

// maxUnheard is how many events are kept for those who have not heard them. When there are more, simulated time stands.
const maxUnheard = 5000

// maxAhead bounds how much simulated time one beat takes, s: what is further behind is caught up with later.
const maxAhead = 60.0

// beat is how often simulated time goes on.
const beat = 50 * time.Millisecond

// Instrument is a stand-in. Make it with New.
type Instrument struct {
	mu    sync.Mutex
	about instrument.Description
	now   time.Time
	phase instrument.Phase
	dev   device
	tray  map[string]bench.Solution
	rng   *mathrand.Rand

	list       instrument.List
	looked     map[string]bool
	phaseS     float64 // in this phase
	preparedS  float64 // since the list was taken
	readySince *time.Time
	running    int     // the row that is measured, or -1
	ranS       float64 // of it
	hurt       bool    // something happened in the run
	pauseNext  bool
	stopNext   bool
	trouble    *instrument.Trouble
	leaving    instrument.Ending
	confirmed  string
	confirmAt  *time.Time

	recorded map[string]*instrument.Signal
	order    []string
	scans    []instrument.Scan

	trace []instrument.Reading // while it gets ready

	events []instrument.Event
	last   int64
	told   chan struct{} // closed and made anew at each event
	waits  bool
}

// device is what instruments differ in.
type device interface {
	says() string
	// on turns on what a list wants, off leaves on what an ending leaves.
	on(list instrument.List)
	end(e instrument.Ending)
	// left tells what was measured once an ending is done, and whether it is.
	left(e instrument.Ending) (string, bool)
	endings() []instrument.EndingChoice
	// step lets time pass; inRun is the minute of the run, or below 0.
	step(inRun float64)
	conditions(looked map[string]bool) []instrument.Condition
	supplies() []supply
	settings(inRun float64) []instrument.Setting
	set(id string, value float64) error
	inject(s bench.Solution)
	// measure records what detectors see at a time of the run.
	measure(tMin float64, r recorder)
	runMin() float64
	betweenS() float64
	// back tells whether it is where a run begins.
	back() bool
	readings() []instrument.Reading
	// failing is what has just gone wrong; nil where nothing has. inRun as in step.
	failing(inRun float64) *instrument.Trouble
	// mended is what must be true before it goes on after trouble.
	mended(t instrument.Trouble, looked map[string]bool) []instrument.Condition
	world(what string) error
	faults() []string
	fault(name string) error
	unit() string
}

// supply is a supply with how much an injection takes of it.
type supply struct {
	instrument.Supply
	each float64
}

// recorder takes what detectors see.
type recorder interface {
	signal(name, unit string, everyS, tMin, value float64)
	scan(s instrument.Scan)
}

// New makes a stand-in of a kind that begins at a time. The same seed makes the same noise.
func New(kind instrument.Kind, name string, speed float64, seed uint64, now time.Time) (*Instrument, error) {
	if speed <= 0 || speed > 10000 || math.IsNaN(speed) {
		return nil, refuse("a speed is above 0 and at most 10000, not %g", speed)
	}
	boot := make([]byte, 8)
	_, _ = rand.Read(boot) // never fails
	i := &Instrument{now: now, phase: instrument.Resting, rng: mathrand.New(mathrand.NewPCG(seed, 0x1257)), running: -1, told: make(chan struct{}), recorded: map[string]*instrument.Signal{}, looked: map[string]bool{}}
	switch kind {
	case instrument.LC:
		i.dev, i.tray = newLC(i.rng), bench.TeaTray()
	case instrument.GC:
		i.dev, i.tray = newGC(i.rng, func() time.Time { return i.now }), bench.OilTray()
	case instrument.GCMS:
		i.dev, i.tray = newGCMS(i.rng), bench.AromaTray()
	default:
		return nil, refuse("%q is no kind of instrument; known are %v", kind, instrument.Kinds)
	}
	i.about = instrument.Description{Name: name, Kind: kind, Says: i.dev.says(), Boot: hex.EncodeToString(boot), Speed: speed, StandIn: true}
	return i, nil
}

// Description is what it says of itself.
func (i *Instrument) Description() instrument.Description { return i.about }

// Run lets time pass until it is stopped.
func (i *Instrument) Run(ctx context.Context) {
	t := time.NewTicker(beat)
	defer t.Stop()
	owed, last := 0.0, time.Now()
	for {
		select {
		case <-ctx.Done():
			return
		case now := <-t.C:
			owed = math.Min(maxAhead, owed+now.Sub(last).Seconds()*i.about.Speed)
			last = now
			owed -= i.Pass(owed)
		}
	}
}

// Pass lets simulated time pass, s, and gives how much did: it stands where too much has not been heard.
func (i *Instrument) Pass(seconds float64) (passed float64) {
	i.mu.Lock()
	defer i.mu.Unlock()
	for passed+stepS <= seconds+1e-9 {
		if i.waits = len(i.events) >= maxUnheard; i.waits {
			break
		}
		i.step()
		passed += stepS
	}
	i.flush()
	return passed
}

func (i *Instrument) inRun() float64 {
	if i.running < 0 {
		return -1
	}
	return i.ranS / 60
}

func (i *Instrument) step() {
	i.now = i.now.Add(time.Duration(stepS * float64(time.Second)))
	i.phaseS += stepS
	i.dev.step(i.inRun())
	if i.list.ID != "" {
		i.preparedS += stepS
		i.follow()
	}
	if i.phase != instrument.Resting && i.phase != instrument.Stopped && i.phase != instrument.Leaving {
		if t := i.dev.failing(i.inRun()); t != nil {
			i.fails(*t)
		}
	}
	switch i.phase {
	case instrument.Preparing:
		if i.allTrue() {
			now := i.now
			i.readySince = &now
			i.tell("everything that must be true is true", "")
			if i.list.Start == instrument.WhenReady {
				i.next()
			} else {
				i.enter(instrument.Ready)
			}
		}
	case instrument.Running:
		i.measure()
	case instrument.Between:
		if i.phaseS >= i.dev.betweenS() && i.dev.back() {
			i.next()
		}
	case instrument.Leaving:
		if says, done := i.dev.left(i.leaving); done {
			now := i.now
			i.confirmed, i.confirmAt = says, &now
			i.tell("left: "+says, "")
			i.enter(instrument.Resting)
			i.list, i.looked = instrument.List{Rows: i.list.Rows, For: i.list.For}, map[string]bool{}
		}
	}
}

func (i *Instrument) enter(p instrument.Phase) { i.phase, i.phaseS = p, 0 }

func (i *Instrument) allTrue() bool {
	for _, c := range i.dev.conditions(i.looked) {
		if c.Standing != instrument.True {
			return false
		}
	}
	return true
}

// next injects the first row that waits, or ends the list.
func (i *Instrument) next() {
	at := slices.IndexFunc(i.list.Rows, func(r instrument.Row) bool { return r.State == instrument.RowWaits })
	switch {
	case at < 0 || i.stopNext:
		i.endList()
		return
	case i.pauseNext:
		i.pauseNext = false
		i.tell("paused; everything stays on", "")
		i.enter(instrument.Paused)
		return
	}
	row := &i.list.Rows[at]
	solution, there := i.tray[row.Vial]
	if !there {
		i.running = -1
		i.fails(instrument.Trouble{Kind: instrument.NoVial, Says: "There is no vial at " + row.Vial, RowID: row.ID, Happened: []instrument.Happening{i.happening("found no vial at " + row.Vial + "; nothing was injected")}})
		return
	}
	if t := i.dev.failing(-2); t != nil { // at the moment of injecting
		t.RowID = row.ID
		i.fails(*t)
		return
	}
	now := i.now
	row.State, row.Begun, row.Expected = instrument.RowRuns, &now, nil
	i.running, i.ranS, i.hurt = at, 0, false
	i.dev.inject(solution)
	i.enter(instrument.Running)
	copied := *row
	i.add(instrument.Event{Kind: instrument.Injected, RowID: row.ID, Row: &copied, Settings: i.dev.settings(0), Unit: i.dev.unit()})
}

func (i *Instrument) runMin() float64 {
	if i.list.RunMin > 0 {
		return i.list.RunMin
	}
	return i.dev.runMin()
}

func (i *Instrument) measure() {
	i.dev.measure(i.ranS/60, i)
	i.ranS = math.Round((i.ranS+stepS)*10) / 10
	if i.ranS > i.runMin()*60 {
		state := instrument.RowDone
		if i.hurt {
			state = instrument.RowDoubted
		}
		i.finish(state)
		if i.trouble != nil {
			i.stopped()
			return
		}
		i.enter(instrument.Between)
	}
}

// finish ends the row that is measured; what was recorded of it is told first.
func (i *Instrument) finish(state instrument.RowState) {
	i.flush()
	row := &i.list.Rows[i.running]
	now := i.now
	row.State, row.Ended = state, &now
	copied := *row
	i.add(instrument.Event{Kind: instrument.Finished, RowID: row.ID, Row: &copied, Trouble: i.trouble})
	i.running, i.ranS = -1, 0
}

// endList does what was chosen for the end.
func (i *Instrument) endList() {
	for k := range i.list.Rows {
		if i.list.Rows[k].State == instrument.RowWaits {
			i.list.Rows[k].State = instrument.RowNot
		}
	}
	i.stopNext, i.pauseNext, i.trouble = false, false, nil
	i.leaving = i.list.Ending
	i.add(instrument.Event{Kind: instrument.ListEnds, RowID: i.list.ID, Says: "the list has ended", By: "bench"})
	i.dev.end(i.leaving)
	i.enter(instrument.Leaving)
}

// signal takes one value of a channel.
func (i *Instrument) signal(name, unit string, everyS, tMin, value float64) {
	s := i.recorded[name]
	if s == nil {
		s = &instrument.Signal{Name: name, Unit: unit, EveryS: everyS, FromS: math.Round(tMin*60*10) / 10}
		i.recorded[name], i.order = s, append(i.order, name)
	}
	s.Values = append(s.Values, value)
}

func (i *Instrument) scan(s instrument.Scan) { i.scans = append(i.scans, s) }

// flush tells what was recorded since it was told last.
func (i *Instrument) flush() {
	if len(i.order)+len(i.scans) == 0 || i.running < 0 {
		return
	}
	e := instrument.Event{Kind: instrument.Measured, RowID: i.list.Rows[i.running].ID, Scans: i.scans, Unit: i.dev.unit()}
	for _, name := range i.order {
		e.Signals = append(e.Signals, *i.recorded[name])
	}
	i.recorded, i.order, i.scans = map[string]*instrument.Signal{}, nil, nil
	i.add(e)
}

func (i *Instrument) add(e instrument.Event) {
	i.last++
	e.N, e.At = i.last, i.now
	i.events = append(i.events, e)
	close(i.told)
	i.told = make(chan struct{})
}

func (i *Instrument) happening(says string) instrument.Happening {
	return instrument.Happening{At: i.now, By: "bench", Says: says}
}

func (i *Instrument) tell(says, by string) {
	if by == "" {
		by = "bench"
	}
	i.add(instrument.Event{Kind: instrument.Happened, Says: says, By: by})
}

// Since gives what has happened after a number, in order, and a channel that is closed at the next event.
func (i *Instrument) Since(after int64) ([]instrument.Event, <-chan struct{}) {
	i.mu.Lock()
	defer i.mu.Unlock()
	k := slices.IndexFunc(i.events, func(e instrument.Event) bool { return e.N > after })
	if k < 0 {
		return nil, i.told
	}
	return slices.Clone(i.events[k:min(len(i.events), k+200)]), i.told
}

// Heard forgets events to a number.
func (i *Instrument) Heard(n int64) {
	i.mu.Lock()
	defer i.mu.Unlock()
	i.events = slices.DeleteFunc(i.events, func(e instrument.Event) bool { return e.N <= n })
}

// State is how it stands.
func (i *Instrument) State() instrument.State {
	i.mu.Lock()
	defer i.mu.Unlock()
	s := instrument.State{
		At: i.now, Phase: i.phase, ListID: i.list.ID, For: i.list.For, Conditions: i.dev.conditions(i.looked), ReadySince: i.readySince, Settings: i.dev.settings(i.inRun()),
		Rows: slices.Clone(i.list.Rows), Start: cmp.Or(i.list.Start, instrument.WhenReady), Ending: cmp.Or(i.list.Ending, instrument.LeaveClean), Endings: i.dev.endings(), RunMin: i.runMin(), PauseNext: i.pauseNext, StopNext: i.stopNext,
		Confirmed: i.confirmed, ConfirmedAt: i.confirmAt, Readings: i.willBe(), Last: i.last, Waits: i.waits, Supplies: []instrument.Supply{},
	}
	if s.Rows == nil {
		s.Rows = []instrument.Row{}
	}
	if i.running >= 0 {
		m := i.ranS / 60
		s.AtMin = &m
	}
	if i.trouble != nil {
		t := *i.trouble
		t.ToDo = i.dev.mended(t, i.looked)
		t.Happened = append([]instrument.Happening{}, t.Happened...)
		if t.ToDo == nil {
			t.ToDo = []instrument.Condition{}
		}
		s.Trouble = &t
	}
	waiting := 0
	for _, r := range i.list.Rows {
		if r.State == instrument.RowWaits {
			waiting++
		}
	}
	for _, u := range i.dev.supplies() {
		u.Needed = u.each * float64(waiting)
		if left := u.Here; u.each > 0 {
			if u.Fills {
				left = u.Full - u.Here
			}
			u.Lasts = int(left / u.each)
		}
		s.Supplies = append(s.Supplies, u.Supply)
	}
	i.clocks(&s, waiting)
	s.Says = i.inWords(s)
	return s
}

// clocks says when rows begin, as things stand.
func (i *Instrument) clocks(s *instrument.State, waiting int) {
	at := i.now
	switch i.phase {
	case instrument.Preparing:
		left := 0.0
		for _, c := range s.Conditions {
			switch {
			case c.Standing == instrument.True:
			case c.Standing == instrument.Person || c.LeftS == nil:
				return
			default:
				left = math.Max(left, *c.LeftS)
			}
		}
		at = at.Add(seconds(left))
		s.ReadyAt = &at
	case instrument.Running:
		at = at.Add(seconds(i.runMin()*60 - i.ranS + i.dev.betweenS()))
	case instrument.Between:
		at = at.Add(seconds(math.Max(0, i.dev.betweenS()-i.phaseS)))
	case instrument.Ready, instrument.Paused:
	default:
		return
	}
	begins := at
	for k := range s.Rows {
		if s.Rows[k].State != instrument.RowWaits {
			continue
		}
		t := begins
		s.Rows[k].Expected = &t
		begins = begins.Add(seconds(i.runMin()*60 + i.dev.betweenS()))
	}
	end := begins.Add(-seconds(i.dev.betweenS()))
	s.EndsAt = &end
}

func seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

func (i *Instrument) inWords(s instrument.State) string {
	switch i.phase {
	case instrument.Preparing:
		n := 0
		for _, c := range s.Conditions {
			if c.Standing == instrument.Person {
				n++
			}
		}
		if n > 0 {
			return "getting ready; needs you"
		}
		return "getting ready"
	case instrument.Ready:
		return "ready, waits for you"
	case instrument.Running:
		return "running"
	case instrument.Between:
		return "between two"
	case instrument.Paused:
		return "paused, all on"
	case instrument.Stopped:
		return "stopped: " + strings.ToLower(i.trouble.Says[:1]) + i.trouble.Says[1:]
	case instrument.Leaving:
		return "leaves as chosen"
	}
	if i.confirmed != "" {
		return "ended; " + i.confirmed
	}
	return "at rest"
}

// maxTrace bounds the points of a reading while it gets ready.
const maxTrace = 400

// follow keeps what is shown of getting ready: a point every five seconds, fewer as it takes longer.
func (i *Instrument) follow() {
	if i.phase != instrument.Preparing {
		return
	}
	tick := int(math.Round(i.preparedS / stepS))
	if tick%50 != 1 {
		return
	}
	now := i.dev.readings()
	if len(i.trace) != len(now) {
		i.trace = make([]instrument.Reading, len(now))
		for k, r := range now {
			i.trace[k] = instrument.Reading{Name: r.Name, Unit: r.Unit}
		}
	}
	for k := range now {
		r := &i.trace[k]
		r.Asked = now[k].Asked
		r.Mins, r.Values = append(r.Mins, math.Round(i.preparedS/60*1000)/1000), append(r.Values, now[k].Values[len(now[k].Values)-1])
		if len(r.Mins) > maxTrace {
			for j := range maxTrace / 2 {
				r.Mins[j], r.Values[j] = r.Mins[2*j], r.Values[2*j]
			}
			r.Mins, r.Values = r.Mins[:maxTrace/2], r.Values[:maxTrace/2]
		}
	}
}

// willBe is the trace with where it will go.
func (i *Instrument) willBe() []instrument.Reading {
	out := []instrument.Reading{}
	ahead := i.dev.readings()
	for k, r := range i.trace {
		r.Mins, r.Values = slices.Clone(r.Mins), slices.Clone(r.Values)
		r.WillMins, r.WillValues = []float64{}, []float64{}
		if k < len(ahead) && i.phase == instrument.Preparing {
			for j, m := range ahead[k].WillMins {
				r.WillMins, r.WillValues = append(r.WillMins, i.preparedS/60+m), append(r.WillValues, ahead[k].WillValues[j])
			}
		}
		out = append(out, r)
	}
	return out
}
