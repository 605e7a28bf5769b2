package standin

import (
	"math"
	"slices"

	"yugen/instrument"
)

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
	e := instrument.Event{Kind: instrument.Measured, RowID: i.list.Rows[i.running].ID, Scans: i.scans, Unit: i.dev.unit(), Axis: i.dev.axis()}
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
