package standin

import (
	"fmt"
	"math"
	"slices"

	"yugen/instrument"
)

// Take takes a list and gets ready for it. One that is under way is not given up for another.
func (i *Instrument) Take(list instrument.List, who string) error {
	i.mu.Lock()
	defer i.mu.Unlock()
	switch {
	case list.ID == "" || len(list.ID) > instrument.MaxWords || len(list.For) > instrument.MaxWords:
		return refuse("a list has an id and a name of at most %d letters", instrument.MaxWords)
	case i.list.ID == list.ID:
		return nil // it was sent twice
	case i.list.ID != "":
		return refuse("%s is under way on %s; end it first", i.list.For, i.about.Name)
	case i.vented != nil:
		return refuse("%s is vented for %s; shut it first", i.about.Name, i.vented.For)
	case len(list.Rows) == 0 || len(list.Rows) > instrument.MaxRows:
		return refuse("a list has 1 to %d rows, not %d", instrument.MaxRows, len(list.Rows))
	case !slices.Contains(instrument.Starts, list.Start):
		return refuse("a list starts %v, not %q", instrument.Starts, list.Start)
	case !slices.Contains(instrument.Endings, list.Ending):
		return refuse("a list ends as one of %v, not %q", instrument.Endings, list.Ending)
	case list.RunMin != 0 && (math.IsNaN(list.RunMin) || list.RunMin < 0.5 || list.RunMin > 600):
		return refuse("a run lasts 0.5 to 600 min, not %g", list.RunMin)
	}
	for k := range list.Rows {
		r := &list.Rows[k]
		if err := i.row(r, list.Rows[:k]); err != nil {
			return err
		}
		*r = instrument.Row{ID: r.ID, Name: r.Name, Vial: r.Vial, State: instrument.RowWaits}
	}
	for id, v := range list.Settings {
		if err := i.dev.set(id, v); err != nil {
			return err
		}
	}
	i.list, i.looked, i.trace, i.preparedS = list, map[string]bool{}, nil, 0
	i.pauseNext, i.stopNext, i.trouble, i.confirmed, i.confirmAt, i.readySince = false, false, nil, "", nil, nil
	i.dev.on(list)
	i.enter(instrument.Preparing)
	i.tell(fmt.Sprintf("took the list for %s, %d injections", list.For, len(list.Rows)), who)
	return nil
}

func (i *Instrument) row(r *instrument.Row, others []instrument.Row) error {
	switch {
	case r.ID == "" || r.Vial == "" || len(r.ID) > instrument.MaxWords || len(r.Vial) > instrument.MaxWords || len(r.Name) > instrument.MaxWords:
		return refuse("each row has an id, a vial, and a name, of at most %d letters", instrument.MaxWords)
	case slices.ContainsFunc(others, func(o instrument.Row) bool { return o.ID == r.ID }):
		return refuse("two rows have the id %q", r.ID)
	}
	return nil
}

// waiting is where a row stands that has not begun.
func (i *Instrument) waiting(id string) (int, error) {
	k := slices.IndexFunc(i.list.Rows, func(r instrument.Row) bool { return r.ID == id })
	if k < 0 {
		return 0, refuse("no row has the id %q", id)
	}
	if i.list.Rows[k].State != instrument.RowWaits {
		return 0, refuse("row %d has begun; only those that have not can be moved or taken out", k+1)
	}
	return k, nil
}

// Do does what is asked while it works, or says why not.
func (i *Instrument) Do(a instrument.Act) error {
	i.mu.Lock()
	defer i.mu.Unlock()
	if a.Kind == instrument.World {
		if err := i.dev.world(a.What); err != nil {
			return err
		}
		i.tell(a.What+", on the stand-in", a.Who)
		return nil
	}
	if i.vented != nil || a.Kind == instrument.Vent {
		return i.ventAct(a)
	}
	if i.list.ID == "" {
		return refuse("%s has no list", i.about.Name)
	}
	switch a.Kind {
	case instrument.Begin:
		switch i.phase {
		case instrument.Ready, instrument.Paused:
			i.tell("started", a.Who)
			i.next()
		case instrument.Preparing:
			i.list.Start = instrument.WhenReady
		case instrument.Running, instrument.Between:
			i.pauseNext = false
		default:
			return refuse("%s is %s; it cannot be started so", i.about.Name, i.phase)
		}
	case instrument.PauseAfter:
		if i.phase == instrument.Preparing {
			i.list.Start = instrument.WhenTold
			break
		}
		i.pauseNext = !i.pauseNext
	case instrument.StopAfter:
		if i.running < 0 && i.phase != instrument.Between {
			i.tell("the list was ended", a.Who)
			i.endList()
			break
		}
		i.stopNext = !i.stopNext
	case instrument.StopNow:
		i.tell("stopped at once; what is recorded is kept", a.Who)
		if i.running >= 0 {
			i.finish(instrument.RowCut)
		}
		i.endList()
	case instrument.Looked:
		i.looked[a.What] = true
		i.tell("looked: "+a.What, a.Who)
	case instrument.Ends:
		e := instrument.Ending(a.Choice)
		if !slices.Contains(instrument.Endings, e) {
			return refuse("a list ends as one of %v, not %q", instrument.Endings, a.Choice)
		}
		i.list.Ending = e
	case instrument.Sets:
		return i.sets(a)
	case instrument.Adds:
		if a.Row == nil {
			return refuse("a row to add is missing")
		}
		if len(i.list.Rows) >= instrument.MaxRows {
			return refuse("a list has at most %d rows", instrument.MaxRows)
		}
		if i.phase == instrument.Leaving {
			return refuse("the list has ended; begin another")
		}
		if err := i.row(a.Row, i.list.Rows); err != nil {
			return err
		}
		i.list.Rows = append(i.list.Rows, instrument.Row{ID: a.Row.ID, Name: a.Row.Name, Vial: a.Row.Vial, State: instrument.RowWaits})
	case instrument.Removes:
		k, err := i.waiting(a.What)
		if err != nil {
			return err
		}
		i.list.Rows = slices.Delete(i.list.Rows, k, k+1)
		if i.running > k {
			i.running--
		}
	case instrument.Moves:
		k, err := i.waiting(a.What)
		if err != nil {
			return err
		}
		first := slices.IndexFunc(i.list.Rows, func(r instrument.Row) bool { return r.State == instrument.RowWaits })
		to := max(first, min(len(i.list.Rows)-1, int(math.Max(0, math.Min(a.Value, instrument.MaxRows)))))
		if i.list.Rows[to].State != instrument.RowWaits {
			return refuse("row %d has begun; nothing goes before it", to+1)
		}
		r := i.list.Rows[k]
		i.list.Rows = slices.Insert(slices.Delete(i.list.Rows, k, k+1), to, r)
	case instrument.GoOn:
		return i.goOn(a)
	case instrument.LeaveNow:
		if i.running >= 0 {
			return refuse("an injection is measured; stop it first")
		}
		i.endList()
	default:
		return refuse("%q is nothing that can be asked; known are %v", a.Kind, instrument.ActKinds)
	}
	return nil
}

func (i *Instrument) sets(a instrument.Act) error {
	if a.What == "run" {
		if i.running >= 0 && a.Value*60 < i.ranS || a.Value < i.runMin() || a.Value > 600 || math.IsNaN(a.Value) {
			return refuse("a run is made longer only, up to 600 min")
		}
		i.list.RunMin = a.Value
		return nil
	}
	for _, s := range i.dev.settings(i.inRun()) {
		if s.ID != a.What {
			continue
		}
		if s.Change == instrument.Fixed {
			return refuse("%s belongs to the method: results of one batch come from one way of measuring", s.Name)
		}
		if !(a.Value >= s.Low && a.Value <= s.High) {
			return refuse("%s is between %g and %g %s, not %g", s.Name, s.Low, s.High, s.Unit, a.Value)
		}
		i.tell(fmt.Sprintf("%s from the next injection: %g %s", s.Name, a.Value, s.Unit), a.Who)
		return i.dev.set(a.What, a.Value)
	}
	return refuse("%s has no setting %q", i.about.Name, a.What)
}

// fails is what it does by itself when something goes wrong.
func (i *Instrument) fails(t instrument.Trouble) {
	if i.trouble != nil {
		i.trouble.Happened = append(i.trouble.Happened, t.Happened...)
		return
	}
	t.At = i.now
	if i.running >= 0 {
		t.RowID, t.AtMin = i.list.Rows[i.running].ID, i.ranS/60
		t.RecordedMin = i.runMin()
		if t.FromMin == 0 || t.FromMin > t.AtMin {
			t.FromMin = t.AtMin
		}
		i.hurt = true
	}
	for k := range t.Happened {
		if t.Happened[k].At.IsZero() {
			t.Happened[k].At = i.now
		}
	}
	if t.Kind == instrument.SolventLow { // not worth a run: the list pauses after this one
		i.hurt = false
	}
	t.Choices = []instrument.Choice{{ID: instrument.AgainAtEnd, Says: "run it again at the end"}, {ID: instrument.AgainFirst, Says: "run it again first"}, {ID: instrument.AsItIs, Says: "go on with the next, leave it as it is"}, {ID: instrument.EndHere, Says: "end here as chosen"}}
	switch {
	case t.RowID != "" && i.running < 0: // it was not injected
		t.Choices = []instrument.Choice{{ID: instrument.AgainFirst, Says: "try it again"}, {ID: instrument.AsItIs, Says: "leave it out, go on with the next"}, {ID: instrument.EndHere, Says: "end here as chosen"}}
	case t.RowID == "" || !i.hurt:
		t.Choices = []instrument.Choice{{ID: instrument.AsItIs, Says: "go on"}, {ID: instrument.EndHere, Says: "end here as chosen"}}
	}
	i.trouble = &t
	copied := t
	i.add(instrument.Event{Kind: instrument.Happened, Says: t.Says, By: "bench", Trouble: &copied})
	switch {
	case i.running < 0:
		i.stopped()
	case t.Kind == instrument.PressureHigh || t.Kind == instrument.LampFailed || t.Kind == instrument.VacuumLost || t.Kind == instrument.FilamentGone:
		t.RecordedMin = t.AtMin
		i.trouble.RecordedMin = t.AtMin
		i.trouble.Happened = append(i.trouble.Happened, i.happening("ended the run; what was recorded to here is kept"))
		i.finish(instrument.RowCut)
		i.stopped()
	}
}

// stopped stops the list before the next injection.
func (i *Instrument) stopped() {
	k := slices.IndexFunc(i.list.Rows, func(r instrument.Row) bool { return r.State == instrument.RowWaits })
	says := "stopped the list"
	if k >= 0 {
		says = fmt.Sprintf("stopped the list before %d", k+1)
	}
	i.trouble.Happened = append(i.trouble.Happened, i.happening(says))
	i.enter(instrument.Stopped)
}

// goOn goes on after trouble, once what must be true is.
func (i *Instrument) goOn(a instrument.Act) error {
	t := i.trouble
	if t == nil || i.phase != instrument.Stopped {
		return refuse("%s is in no trouble that it waits in", i.about.Name)
	}
	if a.Choice == instrument.EndHere {
		i.tell("ended after trouble", a.Who)
		i.endList()
		return nil
	}
	if !slices.ContainsFunc(t.Choices, func(c instrument.Choice) bool { return c.ID == a.Choice }) {
		return refuse("how it goes on is one of the choices, not %q", a.Choice)
	}
	for _, c := range i.dev.mended(*t, i.looked) {
		if c.Standing != instrument.True {
			return refuse("%s: %s", c.Name, c.Says)
		}
	}
	k := slices.IndexFunc(i.list.Rows, func(r instrument.Row) bool { return r.ID == t.RowID })
	if k >= 0 && a.Choice != instrument.AsItIs {
		old := i.list.Rows[k]
		again := instrument.Row{ID: i.another(old.ID), Name: old.Name, Vial: old.Vial, State: instrument.RowWaits}
		to := len(i.list.Rows)
		if a.Choice == instrument.AgainFirst {
			to = k + 1
		}
		if old.State == instrument.RowWaits { // it was not injected
			i.list.Rows = slices.Delete(i.list.Rows, k, k+1)
			to, again.ID = max(0, to-1), old.ID
		}
		i.list.Rows = slices.Insert(i.list.Rows, to, again)
	} else if k >= 0 && i.list.Rows[k].State == instrument.RowWaits {
		i.list.Rows[k].State = instrument.RowNot
	}
	i.trouble, i.looked = nil, map[string]bool{}
	i.dev.on(i.list)
	i.tell("went on after trouble: "+a.Choice, a.Who)
	i.enter(instrument.Preparing) // conditions are looked at again
	i.list.Start = instrument.WhenReady
	for _, c := range i.dev.conditions(nil) {
		if c.Looked { // was looked at when the list began
			i.looked[c.ID] = true
		}
	}
	return nil
}

// another is an id for a row that is run again.
func (i *Instrument) another(id string) string {
	for n := 2; ; n++ {
		next := fmt.Sprintf("%s-%d", id, n)
		if !slices.ContainsFunc(i.list.Rows, func(r instrument.Row) bool { return r.ID == next }) {
			return next
		}
	}
}

// Faults are what can be made to go wrong.
func (i *Instrument) Faults() []string { return i.dev.faults() }

// Fault makes something go wrong, for tests and for learning.
func (i *Instrument) Fault(name string) error {
	i.mu.Lock()
	defer i.mu.Unlock()
	return i.dev.fault(name)
}
