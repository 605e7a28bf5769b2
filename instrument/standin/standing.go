package standin

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"time"

	"yugen/instrument"
)

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
	if i.vented != nil {
		s.Conditions, s.Vented = i.dev.(opened).beforeAir(i.looked), i.ventShown()
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
	case instrument.Venting:
		return "venting; stay near"
	case instrument.Open:
		return "open to the air"
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
	if i.phase != instrument.Preparing && i.phase != instrument.Venting {
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
		if k < len(ahead) && (i.phase == instrument.Preparing || i.phase == instrument.Venting) {
			for j, m := range ahead[k].WillMins {
				r.WillMins, r.WillValues = append(r.WillMins, i.preparedS/60+m), append(r.WillValues, ahead[k].WillValues[j])
			}
		}
		out = append(out, r)
	}
	return out
}
