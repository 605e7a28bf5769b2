package lab

import (
	"errors"
	"slices"
	"strings"
	"sync"
	"testing"

	"yugen/core/batch"
	"yugen/core/trends"
	"yugen/store"
)

// daysOf are the batches of the study of five days, in order.
func daysOf(t *testing.T, l *Lab) []string {
	t.Helper()
	var ids []string
	for _, s := range must[[]store.Study](t)(l.Studies(t.Context())) {
		if s.Name == "Five days" {
			for _, b := range s.Batches {
				ids = append(ids, b.ID)
			}
		}
	}
	if len(ids) < 3 {
		t.Fatalf("%d batches", len(ids))
	}
	return ids
}

// A mark stands on every axis between the points before and after what it says; another method and another setting of the files are marked by themselves;
// what a person sets as a limit stands instead of a computed one, for that quantity, compound and role alone.
func TestMarksAndLimitsOfTrends(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	days := daysOf(t, l)
	third := must[Processed](t)(l.Process(ctx, days[2]))
	here := days[len(days)-1]
	p := must[Processed](t)(l.Process(ctx, here))
	compound := p.Batch.Version.Method.Compounds[0]
	asked := TrendsAsked{Quantities: []string{"retention_min", "area_s"}, CompoundID: compound.ID, Of: string(batch.Standard), Along: AlongBatches, Rules: trends.Rules}

	must[TrendNotes](t)(l.MarkTrends(ctx, here, third.Batch.Injections[0].ID, "new column, lot B", who))
	got := must[Trends](t)(l.TrendsOf(ctx, here, asked))
	mark := slices.IndexFunc(got.Marks, func(m TrendAt) bool { return m.Says == "new column, lot B" })
	if mark < 0 || got.Marks[mark].By != who {
		t.Fatalf("the marks are %+v", got.Marks)
	}
	last, first := 0.0, 0.0
	for _, point := range got.Charts[0].Points {
		switch {
		case point.BatchID == days[1]:
			last = max(last, point.X)
		case point.BatchID == days[2] && first == 0:
			first = point.X
		}
	}
	if len(got.Marks) != 1 {
		t.Errorf("every day has the same method, and the marks are %+v", got.Marks)
	}
	if x := got.Marks[mark].X; !(x > last) || !(x < first) {
		t.Errorf("the mark stands at %g, the points around it at %g and %g", x, last, first)
	}
	asked.Along = "area_s"
	if got := must[Trends](t)(l.TrendsOf(ctx, here, asked)); len(got.Marks) != 0 {
		t.Errorf("against a quantity there are marks: %+v", got.Marks)
	}
	asked.Along = AlongBatches

	low, high := 1.0, 2.0
	must[TrendNotes](t)(l.LimitTrends(ctx, here, TrendLimit{Quantity: "area_s", Compound: compound.Name, Of: string(batch.Standard), Low: &low, High: &high}, who))
	got = must[Trends](t)(l.TrendsOf(ctx, here, asked))
	if c := got.Charts[1]; c.Low == nil || *c.Low != 1 || *c.High != 2 || !strings.Contains(c.Source, who) || !slices.Contains(c.Points[len(c.Points)-1].Breaks, trends.Beyond) {
		t.Errorf("limits set by hand: %v to %v, %s", c.Low, c.High, c.Source)
	}
	if strings.Contains(got.Charts[0].Source, who) {
		t.Error("they hold for another quantity")
	}
	asked.Of = "all"
	if c := must[Trends](t)(l.TrendsOf(ctx, here, asked)).Charts[1]; strings.Contains(c.Source, who) {
		t.Error("they hold for other roles")
	}
	asked.Of = string(batch.Standard)
	must[TrendNotes](t)(l.LimitTrends(ctx, here, TrendLimit{Quantity: "area_s", Compound: compound.Name, Of: string(batch.Standard)}, who))
	if c := must[Trends](t)(l.TrendsOf(ctx, here, asked)).Charts[1]; strings.Contains(c.Source, who) {
		t.Error("limits that were taken away hold")
	}
	n := must[TrendNotes](t)(l.TrendNotesOf(ctx, days[0]))
	if len(n.Marks) != 1 {
		t.Fatalf("another batch of the study has %d marks", len(n.Marks))
	}
	must[TrendNotes](t)(l.UnmarkTrends(ctx, here, n.Marks[0].ID, who))
	if _, err := l.UnmarkTrends(ctx, here, n.Marks[0].ID, who); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("taken away twice: %v", err)
	}
	for what, err := range map[string]error{
		"no words":   func() error { _, err := l.MarkTrends(ctx, here, "x", " ", who); return err }(),
		"long words": func() error { _, err := l.MarkTrends(ctx, here, "x", strings.Repeat("é", 121), who); return err }(),
		"crossed":    func() error { _, err := l.LimitTrends(ctx, here, TrendLimit{Low: &high, High: &low}, who); return err }(),
	} {
		if !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// Two people who mark at once both keep their marks.
func TestMarksOfTwoAtOnce(t *testing.T) {
	l, id := demo(t)
	in := must[store.Batch](t)(l.Batch(t.Context(), id)).Injections[0].ID
	var both sync.WaitGroup
	for range 8 {
		both.Go(func() {
			if _, err := l.MarkTrends(t.Context(), id, in, "lamp", who); err != nil {
				t.Error(err)
			}
		})
	}
	both.Wait()
	if n := must[TrendNotes](t)(l.TrendNotesOf(t.Context(), id)); len(n.Marks) != 8 {
		t.Errorf("%d of 8 marks are there", len(n.Marks))
	}
}

// A set of fields is kept by name in the study, seen from its other batches, not lost to one of the same name unless somebody says so, and gone when it is
// taken away; the record tells of all three, and results of the batch stand as they were.
func TestFieldsAreKeptByName(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	days := daysOf(t, l)
	before := must[Processed](t)(l.Process(ctx, days[0])).InputsHash
	set := must[[]batch.LabField](t)(l.ExampleFields(ctx, days[0]))
	must[[]KeptFields](t)(l.KeepFieldSet(ctx, days[0], " Teas ", set, false, who))
	got := must[[]KeptFields](t)(l.FieldSets(ctx, days[1]))
	if len(got) != 1 || got[0].Name != "Teas" || len(got[0].Fields) != len(set) || got[0].Fields[3].Formula != set[3].Formula || got[0].SavedBy != who {
		t.Fatalf("%+v", got)
	}
	if _, err := l.KeepFieldSet(ctx, days[1], "Teas", set[:1], false, who); !errors.Is(err, ErrRefused) {
		t.Errorf("one of the same name: %v", err)
	}
	if got := must[[]KeptFields](t)(l.KeepFieldSet(ctx, days[1], "Teas", set[:1], true, who)); len(got[0].Fields) != 1 {
		t.Errorf("instead: %d fields", len(got[0].Fields))
	}
	for what, bad := range map[string][]batch.LabField{"nothing": nil, "no formula": {{Name: "A", Short: "a", Lives: "batch"}}, "twice": {set[0], set[0]}} {
		if _, err := l.KeepFieldSet(ctx, days[0], "Bad", bad, false, who); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := l.KeepFieldSet(ctx, days[0], strings.Repeat("é", 81), set, false, who); !errors.Is(err, ErrRefused) {
		t.Errorf("a name too long: %v", err)
	}
	if got := must[[]KeptFields](t)(l.PutFieldSetAway(ctx, days[0], "Teas", who)); len(got) != 0 {
		t.Errorf("%+v", got)
	}
	if _, err := l.PutFieldSetAway(ctx, days[0], "Teas", who); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("away twice: %v", err)
	}
	if after := must[Processed](t)(l.Process(ctx, days[0])).InputsHash; after != before {
		t.Error("keeping fields by name changed what the results stand on")
	}
}
