package lab

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compare"
	"yugen/store"
)

// A view is kept once under its name, with the study: every batch of it sees it, no other does, and nobody of another study takes it away.
func TestViewsBelongToTheirStudy(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	made := func(study, name string) string {
		return must[string](t)(l.NewBatch(ctx, study, name, "M", batch.NewMethod(), who))
	}
	one, two, other := made("Teas", "One"), made("Teas", "Two"), made("Oils", "Three")
	shown := []NamedInjection{{"Sencha", "sample"}, {"Blank", "blank"}}
	keep := func(id, name string, v LookingView) []KeptView {
		return must[[]KeptView](t)(l.KeepView(ctx, id, name, v))
	}
	keep(one, "  Overlaid  ", LookingView{Looked: map[string]string{"way": "overlaid"}, Shown: shown, Less: &shown[1]})
	keep(two, "Stacked", LookingView{})
	again := keep(two, "Overlaid", LookingView{Looked: map[string]string{"way": "offset"}})
	if len(again) != 2 || again[0].Name != "Overlaid" || again[0].View.Looked["way"] != "offset" || len(again[0].View.Shown) != 0 || again[0].View.Less != nil {
		t.Errorf("%+v", again)
	}
	if seen := must[[]KeptView](t)(l.Views(ctx, one)); len(seen) != 2 {
		t.Errorf("the other batch of the study sees %d", len(seen))
	}
	if seen := must[[]KeptView](t)(l.Views(ctx, other)); len(seen) != 0 {
		t.Errorf("a batch of another study sees %+v", seen)
	}
	must[[]KeptView](t)(l.DropView(ctx, other, again[0].ID))
	if seen := must[[]KeptView](t)(l.Views(ctx, one)); len(seen) != 2 {
		t.Error("from another study a view was taken away")
	}
	if left := must[[]KeptView](t)(l.DropView(ctx, one, again[0].ID)); len(left) != 1 || left[0].Name != "Stacked" {
		t.Errorf("%+v", left)
	}
	many := LookingView{Shown: make([]NamedInjection, maxViewShown+1)}
	words := LookingView{Looked: map[string]string{}}
	for k := range maxViewWords + 1 {
		words.Looked[fmt.Sprint(k)] = "x"
	}
	for what, bad := range map[string]struct {
		name, at string
		v        LookingView
	}{
		"no name":             {"  ", "/name", LookingView{}},
		"a name without end":  {strings.Repeat("x", 100_000), "/name", LookingView{}},
		"too many injections": {"A", "/view", many},
		"too many words":      {"A", "/view", words},
		"a long word":         {"A", "/view", LookingView{Looked: map[string]string{"a": strings.Repeat("x", 201)}}},
		"a long blank":        {"A", "/view", LookingView{Less: &NamedInjection{Name: strings.Repeat("x", 100_000)}}},
	} {
		if _, err := l.KeepView(ctx, one, bad.name, bad.v); Pointer(err) != bad.at || !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := l.KeepView(ctx, "none", "A", LookingView{}); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("no batch: %v", err)
	}
}

// Heights are made alike in three ways: the tallest point is 100 over the ground, the areas of all peaks together are 100 (percent times minutes), or the peak of a
// compound is 100 high; what has no such peak stays as it was measured.
func TestHeightsAreMadeAlike(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	p := must[Processed](t)(l.Process(ctx, id))
	channel := p.Batch.Version.Method.Channels[0].ID
	compound := p.Result.Curves[0].CompoundID
	blanks := 0
	for k, in := range p.Result.Injections {
		measured, plain, err := l.TreatedTrace(ctx, id, in.ID, channel, Treatment{})
		if err != nil || plain.Factor != 1 || plain.ShiftMin != 0 {
			t.Fatal(plain, err)
		}
		area := 0.0
		for _, peak := range in.Peaks {
			area += math.Max(0, peak.AreaS)
		}
		_, byArea, err := l.TreatedTrace(ctx, id, in.ID, channel, Treatment{Heights: ToArea})
		if err != nil || area > 0 && math.Abs(byArea.Factor*area/60-100) > 1e-9 {
			t.Errorf("%d: areas of %.3f mAU·min become %.6f, %v", k+1, area/60, byArea.Factor*area/60, err)
		}
		tallest, scaled, err := l.TreatedTrace(ctx, id, in.ID, channel, Treatment{Heights: ToTallest})
		if err != nil || tallest.Len() != measured.Len() || scaled.Factor <= 0 {
			t.Fatal(err)
		}
		if over := slices.Max(tallest.Values) - compare.Ground(tallest); math.Abs(over-100) > 1e-6 || tallest.Unit != "%" {
			t.Errorf("%d: the tallest point stands %.6f %s over the ground", k+1, over, tallest.Unit)
		}
		_, byPeak, err := l.TreatedTrace(ctx, id, in.ID, channel, Treatment{Heights: compound})
		if err != nil {
			t.Fatal(err)
		}
		peak := in.PeakOf(compound)
		switch {
		case peak == nil:
			blanks++
			if byPeak.Factor != 1 {
				t.Errorf("%d has no such peak, and is scaled by %g", k+1, byPeak.Factor)
			}
		case math.Abs(byPeak.Factor*peak.Height-100) > 1e-9:
			t.Errorf("%d: a peak %.3f high becomes %.6f", k+1, peak.Height, byPeak.Factor*peak.Height)
		}
	}
	if blanks == 0 {
		t.Error("every injection has the peak")
	}
}
