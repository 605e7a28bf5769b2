// Package standin simulates instruments that are not there: their heat, flow, light, flame and vacuum, what elutes from their columns, and what goes wrong with
// them, in a time of their own that may run faster.
package standin

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	mathrand "math/rand/v2"
	"slices"
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

	trace []instrument.Reading // while it gets ready, or is vented

	vented *instrument.Vented

	events []instrument.Event
	last   int64
	told   chan struct{} // closed and made anew at each event
	waits  bool
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
	if i.list.ID != "" || i.vented != nil {
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
		if math.Mod(i.phaseS+stepS/2, 1) < stepS && i.allTrue() { // once a second
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
	case instrument.Venting:
		i.ventStep()
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
	i.add(instrument.Event{Kind: instrument.Injected, RowID: row.ID, Row: &copied, Settings: i.dev.settings(0), Unit: i.dev.unit(), Axis: i.dev.axis()})
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
