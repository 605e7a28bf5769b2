package lab

import (
	"fmt"
	"testing"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/formats"
	"yugen/store"
)

// Marks come by themselves where the method or a setting of the files changed, between the points before and after; a setting that changes with every
// injection is no event, nor is a method that was only saved again; what was changed after the last point has no place.
func TestMarksThatComeByThemselves(t *testing.T) {
	var all []Processed
	var rows []placed
	method := batch.NewMethod()
	for b := range 3 {
		m := method
		if b == 2 {
			m.Curves.Unit = "µg/L"
		}
		p := Processed{Batch: store.Batch{ID: fmt.Sprint(b), Name: fmt.Sprint("Batch ", b+1), Version: store.Version{ID: fmt.Sprint("v", b), Name: "Teas", Number: b + 1, Method: m}}}
		for k := range 4 {
			column := "lot A"
			if b > 0 || k > 1 { // a new column before the third injection of the first batch
				column = "lot B"
			}
			in := store.Injection{}
			in.ID = fmt.Sprint(b, "-", k)
			in.Header = formats.Header{Settings: []formats.Setting{{Name: "Column", Value: column}, {Name: "Room", Value: fmt.Sprint(b, k), Unit: "°C"}}}
			p.Batch.Injections = append(p.Batch.Injections, in)
		}
		all = append(all, p)
		for k := range 4 {
			if k%2 == 0 { // only every second one is of the role that is looked at
				rows = append(rows, placed{row: quantities.Row{Number: k + 1}, of: p})
			}
		}
	}
	at := func(k int) *float64 { x := float64(k + 1); return &x }
	notes := TrendNotes{Marks: []TrendMark{{ID: "1", InjectionID: "1-1", Says: "new lamp", By: "T. Ester"}, {ID: "2", InjectionID: "2-3", Says: "too late"}, {ID: "3", InjectionID: "gone", Says: "nowhere"}}}
	got := marksOf(all, rows, at, notes)
	want := []TrendAt{{X: 1.5, Says: "Column: lot B"}, {ID: "1", X: 3.5, Says: "new lamp", By: "T. Ester"}, {X: 4.5, Says: "method: Teas, version 3"}}
	if fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("%+v, want %+v", got, want)
	}
	// Where the axis has no place for a point, as along this run for another batch, the mark stands before the first that has one.
	late := marksOf(all, rows, func(k int) *float64 {
		if k < 4 {
			return nil
		}
		return at(k)
	}, notes)
	for _, m := range late {
		if m.X != 5 {
			t.Errorf("%s stands at %g", m.Says, m.X)
		}
	}
}

// A rejection needs a name, a moment and, unless it takes one back, a reason; it holds near its time alone.
func TestRejectionsAreBounded(t *testing.T) {
	l, id := demo(t)
	for what, r := range map[string]Rejection{"no name": {AtMin: 3, Why: "no"}, "a long reason": {Name: "A", Why: string(make([]byte, 600))}} {
		if _, err := l.RejectName(t.Context(), id, r, who); err == nil {
			t.Errorf("%s was taken", what)
		}
	}
	list := must[[]Rejection](t)(l.RejectName(t.Context(), id, Rejection{Name: " A ", AtMin: 3, Why: "tailing"}, who))
	if len(list) != 1 || list[0].Name != "A" || list[0].By != who || !list[0].holds("A", 3.08) || list[0].holds("A", 3.09) || list[0].holds("B", 3) {
		t.Errorf("%+v", list)
	}
	if twice := must[[]Rejection](t)(l.RejectName(t.Context(), id, Rejection{Name: "A", AtMin: 3.02, Why: "other"}, who)); len(twice) != 1 || twice[0].Why != "other" {
		t.Errorf("another reason for the same: %+v", twice)
	}
}
