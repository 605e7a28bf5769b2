package lab

import (
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/lab/review"
	"yugen/store"
)

// largest is the reported number that moves most between two results, in percent, as the review counts them.
func largest(before, after Processed) (percent float64, moved int) {
	was := map[string]*float64{}
	for _, n := range review.Listed(before.Batch, before.Result) {
		was[n.Key] = n.Value
	}
	for _, n := range review.Listed(after.Batch, after.Result) {
		if v := was[n.Key]; v != nil && n.Value != nil && *v != *n.Value {
			moved++
			if p := 100 * (*n.Value - *v) / *v; math.Abs(p) > math.Abs(percent) {
				percent = p
			}
		}
	}
	return percent, moved
}

// Each kind of change that a person makes is one item, whose effect is the difference between the results before it was made and after it; taken back, it is none.
func TestEachKindOfChangeIsReviewedByItsEffect(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	start := must[Processed](t)(l.Process(ctx, id))
	compound := start.Result.Curves[0].CompoundID
	replicate := start.Result.Samples[3].InjectionIDs[0]
	typed := func(dilution string) error {
		_, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{replicate, batch.FieldDilution, dilution}}, "by mistake", who)
		return err
	}
	// What is typed is compared with what holds where nothing is typed, not with what a run list said of it before.
	if err := typed("1"); err != nil {
		t.Fatal(err)
	}
	untyped := must[Processed](t)(l.Process(ctx, id))
	if _, err := l.Undo(ctx, id, 0, "", who); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		kind   review.Kind
		change func() error
		says   string
		moves  bool
	}{
		{review.Taken, func() error { _, err := l.Remove(ctx, id, 0, replicate, "spilt", who); return err }, " taken out", true},
		{review.Order, func() error { _, err := l.Reorder(ctx, id, 0, replicate, 3, "noted wrongly", who); return err }, "Order of the run", false},
		{review.Level, func() error {
			choices := start.Batch.Choices
			choices.Levels = map[string][]batch.LevelState{compound: {{Level: *start.Batch.Injections[slices.IndexFunc(start.Batch.Injections, func(in store.Injection) bool { return in.Role == batch.Standard })].Level, State: batch.LevelLeftOut, Reason: "too low"}}}
			_, err := l.SaveChoices(ctx, id, 0, choices, "too low", who)
			return err
		}, ": level ", true},
		{review.Typed, func() error { return typed("7") }, "Dilution", true},
	} {
		t.Run(string(c.kind), func(t *testing.T) {
			reviewed := reviewOf(t, l, id, alone)
			known := keysOf(reviewed)
			if err := c.change(); err != nil {
				t.Fatal(err)
			}
			now := must[Processed](t)(l.Process(ctx, id))
			var fresh []ReviewItem
			for _, i := range reviewOf(t, l, id, alone).Items {
				if i.Kind == c.kind && i.Why != "from a file" && !slices.Contains(known, i.Key) {
					fresh = append(fresh, i)
				}
			}
			if len(fresh) != 1 || !strings.Contains(fresh[0].What, c.says) || fresh[0].Who != who || fresh[0].Why == "" && c.kind != review.Order {
				t.Fatalf("%+v", fresh)
			}
			before := start
			if c.kind == review.Typed {
				before = untyped
			}
			percent, moved := largest(before, now)
			e := fresh[0].Effect
			switch {
			case !c.moves && (moved > 0 || e != nil && len(e.Moved) > 0):
				t.Errorf("it moves %d numbers: %+v", moved, e)
			case c.moves && (e == nil || e.Percent == nil || len(e.Moved) != moved || math.Abs(*e.Percent-percent) > 1e-9):
				t.Errorf("%d numbers move, the most by %.6f %%: %+v", moved, percent, e)
			}
			if _, err := l.Undo(ctx, id, 0, "", who); err != nil {
				t.Fatal(err)
			}
			if after := keysOf(reviewOf(t, l, id, alone)); !slices.Equal(after, known) {
				t.Errorf("taken back, the list has %d items, before it had %d", len(after), len(known))
			}
		})
	}
}
