// Package review says what persons changed in a batch since its raw data and its approved method, and what each of that does to a reported number.
package review

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/store"
)

// Kind is what sort of thing was changed.
type Kind string

// The kinds.
const (
	Edited   Kind = "edit"     // of a peak, by hand
	Point    Kind = "point"    // of a curve, left out
	Level    Kind = "level"    // of a curve, left out or kept
	Borrowed Kind = "curves"   // of another batch
	Setting  Kind = "setting"  // of the method, against the approved version
	Version  Kind = "version"  // of the method, that nobody has approved
	Typed    Kind = "typed"    // in the run list
	Taken    Kind = "taken"    // an injection taken out
	Order    Kind = "order"    // of the run
	Signal   Kind = "signal"   // another one, or another file, of an injection
	Settled  Kind = "notice"   // settled
	Screened Kind = "screened" // what was said of a compound in a sample
	Released Kind = "released" // a report that had been held back
)

// Kinds are all of them.
var Kinds = []Kind{Edited, Point, Level, Borrowed, Setting, Version, Typed, Taken, Order, Signal, Settled, Screened, Released}

// Item is one thing that a person changed.
type Item struct {
	Key         string    `json:"key"` // another one where what was changed is another
	Kind        Kind      `json:"kind"`
	What        string    `json:"what"`
	Where       string    `json:"where"` // the injection, or how many
	InjectionID string    `json:"injection_id,omitempty"`
	CompoundID  string    `json:"compound_id,omitempty"`
	AtMin       *float64  `json:"at_min"` // of the run
	Channel     string    `json:"channel,omitempty"`
	Before      string    `json:"before"` // empty for nothing
	After       string    `json:"after"`
	Why         string    `json:"why"`
	Who         string    `json:"who"`
	At          time.Time `json:"at"`
	Since       bool      `json:"since"`    // a signature was withdrawn
	RunList     bool      `json:"run_list"` // what was said of a whole run, as its list is
	Says        []string  `json:"says"`     // what speaks against it

	exactly any // what it is, to the last digit
	// Without is the batch without this change; nil where no number stands on it.
	Without func(store.Batch) (store.Batch, error) `json:"-"`
}

// Batch is what is looked at.
type Batch struct {
	Now      store.Batch
	Notices  []checks.Notice
	Rows     []store.Change  // of the record of the batch, in their order
	Versions []store.Version // of its method after the one that it is compared with, with their documents, up to the one in use
	Approved *store.Version  // that it is compared with; nil where none is approved
	// Withdrawn is the row that unlocked the batch last; 0 where none did.
	Withdrawn int64
}

// changeOf is a row of the record with its states.
type changeOf struct {
	store.Change
	before, after change.State
}

// looked is a batch with what its record says, row by row.
type looked struct {
	Batch
	rows  []changeOf
	first map[string]store.Injection // as they came in
	place map[string]int             // in the run, from 1
	names map[string]string          // of compounds
	items []Item
}

// Items are all that persons changed in a batch, in no order.
func Items(b Batch) ([]Item, error) {
	l := looked{Batch: b, first: map[string]store.Injection{}, place: map[string]int{}, names: map[string]string{}, items: []Item{}}
	for _, r := range b.Rows {
		c := changeOf{Change: r}
		if !strings.HasPrefix(r.After, "{") || r.Before != "" && json.Unmarshal([]byte(r.Before), &c.before) != nil || json.Unmarshal([]byte(r.After), &c.after) != nil {
			continue
		}
		l.rows = append(l.rows, c)
		for _, in := range c.after.Back {
			if _, known := l.first[in.ID]; !known {
				l.first[in.ID] = in
			}
		}
	}
	for k, in := range b.Now.Injections {
		l.place[in.ID] = k + 1
	}
	for _, c := range b.Now.Version.Method.Compounds {
		l.names[c.ID] = c.Name
	}
	l.edits()
	l.choices()
	l.typed()
	l.runs()
	l.settled()
	l.released()
	err := l.settings()
	return l.items, err
}

// newest is the last row of which something is true; nil where there is none.
func (l *looked) newest(is func(changeOf) bool) *changeOf {
	for k := len(l.rows) - 1; k >= 0; k-- {
		if is(l.rows[k]) {
			return &l.rows[k]
		}
	}
	return nil
}

// add takes an item that a row made; nil where no row tells of it.
func (l *looked) add(i Item, by *changeOf) {
	if by != nil {
		i.Who, i.At, i.Since = by.Who, by.At, l.Withdrawn > 0 && by.Seq > l.Withdrawn
		if i.Why == "" {
			i.Why = by.Why
		}
	}
	if i.Says == nil {
		i.Says = []string{}
	}
	i.Key = store.Hash([]byte(change.JSON([]any{i.Kind, i.InjectionID, i.CompoundID, i.What, i.Before, i.After, i.exactly})))[:24]
	l.items = append(l.items, i)
}

// injected is what an injection is called, with its place in the run.
func (l *looked) injected(id string) string {
	k := l.place[id]
	if k == 0 {
		return l.first[id].Name
	}
	in := l.Now.Injections[k-1]
	if r := l.Now.Replicates[k-1]; r != "" {
		return in.Name + " " + r
	}
	return in.Name
}

// edits are those of peaks.
func (l *looked) edits() {
	for _, in := range l.Now.Injections {
		for _, e := range in.Edits {
			has := func(list []peaks.Edit) bool { return contains(list, e) }
			by := l.newest(func(c changeOf) bool { return has(c.after.Edits[in.ID]) && !has(c.before.Edits[in.ID]) })
			at := e.ApexMin
			l.add(Item{Kind: Edited, What: e.String(), Where: l.injected(in.ID), InjectionID: in.ID, AtMin: &at, Channel: e.Channel, After: says(e), exactly: e, Says: l.unlike(in, e), Without: withoutEdit(in.ID, e)}, by)
		}
	}
}

// sameMin is how near two edits are, in minutes, that are of the same peak.
const sameMin = 0.15

// unlike says which replicates of an injection nobody has touched at that place: they are split otherwise now.
func (l *looked) unlike(in store.Injection, e peaks.Edit) []string {
	list := []string{}
	for _, other := range l.Now.Injections {
		if other.ID == in.ID || other.Name != in.Name || other.Role != in.Role || in.Role == batch.NoRole {
			continue
		}
		touched := slices.ContainsFunc(other.Edits, func(o peaks.Edit) bool { return o.Channel == e.Channel && math.Abs(o.ApexMin-e.ApexMin) <= sameMin })
		if !touched {
			list = append(list, l.injected(other.ID)+" stands there as it was found.")
		}
	}
	return list
}

// says is what an edit leaves, in few words.
func says(e peaks.Edit) string {
	if e.ToMin != 0 {
		return fmt.Sprintf("%.2f → %.2f min", e.ApexMin, e.ToMin)
	}
	return fmt.Sprintf("at %.2f min", e.ApexMin)
}

func contains(list []peaks.Edit, e peaks.Edit) bool {
	if len(list) == 0 { // as in nearly every row
		return false
	}
	want := change.JSON(e)
	return slices.ContainsFunc(list, func(o peaks.Edit) bool { return change.JSON(o) == want })
}

func withoutEdit(id string, e peaks.Edit) func(store.Batch) (store.Batch, error) {
	want := change.JSON(e)
	return func(b store.Batch) (store.Batch, error) {
		return each(b, func(in *store.Injection) {
			if in.ID == id {
				in.Edits = slices.DeleteFunc(slices.Clone(in.Edits), func(o peaks.Edit) bool { return change.JSON(o) == want })
			}
		}), nil
	}
}

// each is a batch with its injections changed, the given one left as it is.
func each(b store.Batch, f func(*store.Injection)) store.Batch {
	b.Injections = slices.Clone(b.Injections)
	for k := range b.Injections {
		f(&b.Injections[k])
	}
	return b
}

// settled are notices that were dealt with.
func (l *looked) settled() {
	known := map[string]checks.Notice{}
	for _, n := range l.Notices {
		known[n.Key] = n
	}
	for _, key := range l.Now.Settled {
		n, there := known[key]
		if !there { // it is none any more
			continue
		}
		by := l.newest(func(c changeOf) bool { return c.after.Settled[key] })
		l.add(Item{Kind: Settled, What: n.Subject + ": " + n.Text, Where: l.whereOf(n.InjectionID), InjectionID: n.InjectionID, CompoundID: n.CompoundID, Before: "open", After: "settled"}, by)
	}
}

// HeldBack is what a row says, between the report and the reason, of a report that somebody made although it was held back.
const HeldBack = " made although "

// released are reports that were made although something held them back.
func (l *looked) released() {
	for k := range l.rows {
		if c := &l.rows[k]; c.Action == store.SetAction {
			if name, why, is := strings.Cut(c.Subject, HeldBack); is {
				l.add(Item{Kind: Released, What: "Report of " + name, Before: "held back: " + why, After: "made", exactly: c.Seq}, c)
			}
		}
	}
}

func (l *looked) whereOf(injectionID string) string {
	if injectionID == "" {
		return ""
	}
	return l.injected(injectionID)
}

// runs are injections that were taken out, their order, and what of their files is processed.
func (l *looked) runs() {
	var out []string
	for _, c := range l.rows {
		out = append(out, c.after.Gone...)
	}
	slices.Sort(out)
	for _, id := range slices.Compact(out) {
		if l.place[id] > 0 {
			continue
		}
		by := l.newest(func(c changeOf) bool { return slices.Contains(c.after.Gone, id) })
		if by.Action == change.UndoAction { // what was undone never came
			continue
		}
		last, order := l.first[id], by.before.Order
		for _, in := range by.before.Back {
			if in.ID == id {
				last = in
			}
		}
		l.add(Item{Kind: Taken, What: last.Name + " taken out", Where: last.FileName, Before: "in the batch", Without: func(b store.Batch) (store.Batch, error) {
			at := min(max(0, slices.Index(order, id)), len(b.Injections))
			b.Injections = slices.Insert(slices.Clone(b.Injections), at, last)
			b.Replicates = batch.Replicates(len(b.Injections), func(k int) batch.Entry { return b.Injections[k].Entry })
			return b, nil
		}}, by)
	}
	if by := l.newest(func(c changeOf) bool { return c.Action == "run order" && len(c.after.Order) > 0 }); by != nil && slices.Equal(by.after.Order, change.Order(l.Now)) {
		was := by.before.Order
		l.add(Item{Kind: Order, What: "Order of the run", Where: by.Subject, Before: "as it came", After: "moved", Without: func(b store.Batch) (store.Batch, error) {
			b.Injections = slices.Clone(b.Injections)
			slices.SortStableFunc(b.Injections, func(a, c store.Injection) int { return slices.Index(was, a.ID) - slices.Index(was, c.ID) })
			return b, nil
		}}, by)
	}
	l.signals()
}

// signals are of injections of which a person chose another signal, or joined or parted files; those of one step are one item.
func (l *looked) signals() {
	ids := map[int64][]string{}
	for _, in := range l.Now.Injections {
		by := l.newest(func(c changeOf) bool {
			_, trace := c.after.Traces[in.ID]
			_, files := c.after.Files[in.ID]
			return (trace || files) && c.Action != "import" // files that belong together by name are joined as they come
		})
		if by != nil {
			ids[by.Seq] = append(ids[by.Seq], in.ID)
		}
	}
	for _, seq := range slices.Sorted(maps.Keys(ids)) {
		by := l.newest(func(c changeOf) bool { return c.Seq == seq })
		i := Item{Kind: Signal, What: by.Action + ": " + by.Subject, Where: many(len(ids[seq])), exactly: seq}
		if len(ids[seq]) == 1 {
			i.InjectionID, i.Where = ids[seq][0], l.injected(ids[seq][0])
		}
		l.add(i, by)
	}
}
