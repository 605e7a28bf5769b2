package peaks

import (
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/signal"
)

// edited are edits of several kinds on a chromatogram of four peaks, two of which touch.
func edited(apexes []float64) []Edit {
	return []Edit{
		{Kind: MoveEnd, ApexMin: apexes[0], ToMin: apexes[0] + 0.07},
		{Kind: Split, ApexMin: apexes[3], ToMin: apexes[3] - 0.03},
		{Kind: MoveStart, ApexMin: apexes[1], ToMin: apexes[1] - 0.11},
		{Kind: Remove, ApexMin: apexes[2]},
	}
}

var four = [][3]float64{{2, 100, 0.04}, {5, 40, 0.05}, {5.22, 25, 0.05}, {8, 60, 0.06}}

func apexesOf(r Result) (list []float64) {
	for _, p := range r.Peaks {
		list = append(list, p.ApexMin)
	}
	return list
}

// near tells whether two numbers are the same to so many parts in a thousand million.
func near(a, b float64) bool {
	return math.Abs(a-b) <= 1e-9*math.Max(1, math.Max(math.Abs(a), math.Abs(b)))
}

// What was done by hand is done alike whatever the detector's unit: every boundary stays, every area is as many times larger as the signal.
func TestEditsDoNotDependOnTheUnit(t *testing.T) {
	tr := gaussians(t, 0.05, 11, four...)
	apexes := apexesOf(find(t, tr, Settings{WidthMin: 0.1}))
	if len(apexes) != 4 {
		t.Fatalf("%v", apexes)
	}
	want := find(t, tr, Settings{WidthMin: 0.1}, edited(apexes)...)
	for _, times := range []float64{1e-9, 1e-3, 1e6, 1e12} {
		y := slices.Clone(tr.Values)
		for k := range y {
			y[k] *= times
		}
		got := find(t, uniform(t, y), Settings{WidthMin: 0.1}, edited(apexes)...)
		if len(got.Peaks) != len(want.Peaks) || len(got.Unmatched) != len(want.Unmatched) {
			t.Fatalf("×%g: %d peaks, %d edits without a peak; %d and %d", times, len(got.Peaks), len(got.Unmatched), len(want.Peaks), len(want.Unmatched))
		}
		for k, p := range got.Peaks {
			if w := want.Peaks[k]; !near(p.StartMin, w.StartMin) || !near(p.EndMin, w.EndMin) || math.Abs(p.AreaS/times/w.AreaS-1) > 1e-9 {
				t.Errorf("×%g, peak %d: %g to %g, area %g; %g to %g, %g", times, k+1, p.StartMin, p.EndMin, p.AreaS/times, w.StartMin, w.EndMin, w.AreaS)
			}
		}
	}
}

// Nor does it depend on when the clock was started.
func TestEditsMoveWithTheClock(t *testing.T) {
	tr := gaussians(t, 0.05, 12, four...)
	apexes := apexesOf(find(t, tr, Settings{WidthMin: 0.1}))
	want := find(t, tr, Settings{WidthMin: 0.1}, edited(apexes)...)
	for _, laterMin := range []float64{-1.5, 10, 600} {
		later, err := signal.NewUniform(60*laterMin, 0.1, tr.Values)
		if err != nil {
			t.Fatal(err)
		}
		edits := edited(apexes)
		for k := range edits {
			edits[k].ApexMin += laterMin
			if edits[k].ToMin != 0 {
				edits[k].ToMin += laterMin
			}
		}
		got := find(t, later, Settings{WidthMin: 0.1}, edits...)
		if len(got.Peaks) != len(want.Peaks) || len(got.Unmatched) != 0 {
			t.Fatalf("%g min later: %d peaks, not %d; without a peak %v", laterMin, len(got.Peaks), len(want.Peaks), got.Unmatched)
		}
		for k, p := range got.Peaks {
			if w := want.Peaks[k]; math.Abs(p.StartMin-laterMin-w.StartMin) > 1e-6 || math.Abs(p.EndMin-laterMin-w.EndMin) > 1e-6 || math.Abs(p.AreaS/w.AreaS-1) > 1e-6 {
				t.Errorf("%g min later, peak %d: %g to %g, area %g; %g to %g, %g", laterMin, k+1, p.StartMin-laterMin, p.EndMin-laterMin, p.AreaS, w.StartMin, w.EndMin, w.AreaS)
			}
		}
	}
}

// Edits of different peaks give the same in any order.
func TestEditsOfDifferentPeaksGiveTheSameInAnyOrder(t *testing.T) {
	tr := gaussians(t, 0.05, 13, four...)
	apexes := apexesOf(find(t, tr, Settings{WidthMin: 0.1}))
	edits := edited(apexes)
	want := find(t, tr, Settings{WidthMin: 0.1}, edits...)
	var permuted func(list, rest []Edit)
	permuted = func(list, rest []Edit) {
		if len(rest) == 0 {
			got := find(t, tr, Settings{WidthMin: 0.1}, list...)
			if len(got.Peaks) != len(want.Peaks) {
				t.Errorf("%v: %d peaks, not %d", list, len(got.Peaks), len(want.Peaks))
				return
			}
			for k, p := range got.Peaks {
				if w := want.Peaks[k]; !near(p.StartMin, w.StartMin) || !near(p.EndMin, w.EndMin) || !near(p.AreaS, w.AreaS) {
					t.Errorf("%v: peak %d is %g to %g, area %g; %g to %g, %g", list, k+1, p.StartMin, p.EndMin, p.AreaS, w.StartMin, w.EndMin, w.AreaS)
				}
			}
			return
		}
		for k := range rest {
			permuted(append(slices.Clone(list), rest[k]), slices.Delete(slices.Clone(rest), k, k+1))
		}
	}
	permuted(nil, edits)
}

// A peak that is split by a drop has its area in two parts, wherever the drop stands; merged again it is what it was.
func TestASplitPeakIsWholeInItsParts(t *testing.T) {
	tr := gaussians(t, 0.05, 14, four...)
	whole := find(t, tr, Settings{WidthMin: 0.1})
	last := whole.Peaks[3]
	for _, at := range []float64{-0.12, -0.05, -0.01, 0.012, 0.06, 0.13} {
		split := Edit{Kind: Split, ApexMin: last.ApexMin, ToMin: last.ApexMin + at}
		parts := find(t, tr, Settings{WidthMin: 0.1}, split)
		if len(parts.Peaks) != 5 {
			t.Fatalf("split at %+.3f: %d peaks, %v", at, len(parts.Peaks), parts.Unmatched)
		}
		a, b := parts.Peaks[3], parts.Peaks[4]
		if math.Abs((a.AreaS+b.AreaS)/last.AreaS-1) > 1e-3 || math.Abs(a.EndMin-split.ToMin) > 0.0009 || !near(a.EndMin, b.StartMin) || !near(a.StartMin, last.StartMin) || !near(b.EndMin, last.EndMin) {
			t.Errorf("split at %+.3f: %g and %g of %g, from %g over %g to %g", at, a.AreaS, b.AreaS, last.AreaS, a.StartMin, a.EndMin, b.EndMin)
		}
		merged := find(t, tr, Settings{WidthMin: 0.1}, split, Edit{Kind: MergeLeft, ApexMin: b.ApexMin})
		if len(merged.Peaks) != 4 || !near(merged.Peaks[3].AreaS, last.AreaS) || !near(merged.Peaks[3].ApexMin, last.ApexMin) {
			t.Errorf("split at %+.3f and merged: %d peaks, the last with %g of %g; %v", at, len(merged.Peaks), merged.Peaks[len(merged.Peaks)-1].AreaS, last.AreaS, merged.Unmatched)
		}
	}
}

// A peak that is taken out and drawn again from where it began to where it ended has the same area; one drawn over where it still stands is refused.
func TestAPeakIsDrawnAgain(t *testing.T) {
	tr := gaussians(t, 0.05, 15, four...)
	whole := find(t, tr, Settings{WidthMin: 0.1})
	first := whole.Peaks[0]
	drawn := Edit{Kind: Add, ApexMin: first.StartMin, ToMin: first.EndMin}
	again := find(t, tr, Settings{WidthMin: 0.1}, Edit{Kind: Remove, ApexMin: first.ApexMin}, drawn)
	if len(again.Peaks) != 4 || math.Abs(again.Peaks[0].AreaS/first.AreaS-1) > 1e-3 {
		t.Errorf("%d peaks, the first %+v; %v", len(again.Peaks), again.Peaks[0].AreaS, again.Unmatched)
	}
	if over := find(t, tr, Settings{WidthMin: 0.1}, drawn); len(over.Unmatched) != 1 || len(over.Peaks) != 4 {
		t.Errorf("drawn over a peak that stands: %d peaks, %v", len(over.Peaks), over.Unmatched)
	}
	// Where nothing was found there is room.
	free := find(t, tr, Settings{WidthMin: 0.1}, Edit{Kind: Add, ApexMin: 3, ToMin: 3.2})
	if len(free.Peaks) != 5 || len(free.Unmatched) != 0 || math.Abs(free.Peaks[1].AreaS) > 0.5 {
		t.Errorf("drawn where nothing is: %d peaks, %+v", len(free.Peaks), free.Peaks[1].AreaS)
	}
	for what, e := range map[string]Edit{
		"backwards":       {Kind: Add, ApexMin: 3.2, ToMin: 3},
		"of no width":     {Kind: Add, ApexMin: 3, ToMin: 3},
		"before the run":  {Kind: Add, ApexMin: -2, ToMin: -1},
		"behind the run":  {Kind: Add, ApexMin: 20, ToMin: 21},
		"beyond its apex": {Kind: MoveEnd, ApexMin: first.ApexMin, ToMin: first.ApexMin - 0.01},
		"of no peak":      {Kind: MoveEnd, ApexMin: 3.5, ToMin: 3.6},
		"split outside":   {Kind: Split, ApexMin: first.ApexMin, ToMin: first.EndMin + 1},
		"merged alone":    {Kind: MergeLeft, ApexMin: first.ApexMin},
	} {
		if got := find(t, tr, Settings{WidthMin: 0.1}, e); len(got.Unmatched) != 1 || len(got.Peaks) != 4 {
			t.Errorf("%s: %d peaks, %v", what, len(got.Peaks), got.Unmatched)
		}
	}
}

// An edit is taken with everything at its limit, and refused in a sentence beyond it.
func TestEditsAreRefusedInASentence(t *testing.T) {
	for _, kind := range EditKinds {
		e := Edit{Kind: kind, ApexMin: 1, ToMin: 2, How: SplitKinds[0], Channel: strings.Repeat("x", 200)}
		if err := e.Validate(); err != nil {
			t.Errorf("%s: %v", kind, err)
		}
		if e.String() == "" || strings.Contains(e.String(), "_") {
			t.Errorf("%s is told as %q", kind, e)
		}
	}
	level := math.Inf(-1)
	for says, e := range map[string]Edit{
		"kind \"bend\" is unknown":        {Kind: "bend", ApexMin: 1},
		"kind \"\" is unknown":            {ApexMin: 1},
		"times and level must be numbers": {Kind: MoveEnd, ApexMin: math.NaN(), ToMin: 2},
		"level must be numbers":           {Kind: Anchor, ApexMin: 1, Level: &level},
		"must be numbers":                 {Kind: Split, ApexMin: 1, ToMin: math.Inf(1)},
		"at most 200 are kept":            {Kind: Remove, ApexMin: 1, Channel: strings.Repeat("x", 201)},
		"in the way \"magic\"":            {Kind: PartAs, ApexMin: 1, How: "magic"},
		"in the way \"\"":                 {Kind: PartAs, ApexMin: 1},
	} {
		if err := e.Validate(); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v, not %q", e, err, says)
		}
	}
}

// However often and in whatever order peaks are taken out and drawn again, nothing stands twice, and what was not touched stays.
func TestDrawnAndTakenOutManyTimes(t *testing.T) {
	tr := gaussians(t, 0.05, 16, four...)
	whole := find(t, tr, Settings{WidthMin: 0.1})
	first, last := whole.Peaks[0], whole.Peaks[3]
	out := func(p Peak) Edit { return Edit{Kind: Remove, ApexMin: p.ApexMin} }
	in := func(p Peak, by float64) Edit {
		return Edit{Kind: Add, ApexMin: p.StartMin - by, ToMin: p.EndMin + by}
	}
	for what, c := range map[string]struct {
		edits []Edit
		peaks int
		lost  int
	}{
		"out, in":                     {[]Edit{out(first), in(first, 0.02)}, 4, 0},
		"out, in, out":                {[]Edit{out(first), in(first, 0.02), out(first)}, 3, 0},
		"out, in, out, in":            {[]Edit{out(first), in(first, 0.02), out(first), in(first, 0.01)}, 4, 0},
		"both out, both in":           {[]Edit{out(first), out(last), in(last, 0), in(first, 0)}, 4, 0},
		"one out, the other drawn":    {[]Edit{out(first), in(last, 0)}, 3, 1},
		"in before it is out":         {[]Edit{in(first, 0.02), out(first)}, 3, 1},
		"out, drawn where nothing is": {[]Edit{out(first), {Kind: Add, ApexMin: 3, ToMin: 3.2}}, 4, 0},
	} {
		got := find(t, tr, Settings{WidthMin: 0.1}, c.edits...)
		if len(got.Peaks) != c.peaks || len(got.Unmatched) != c.lost {
			t.Errorf("%s: %d peaks, not %d; %d edits without effect, not %d: %v", what, len(got.Peaks), c.peaks, len(got.Unmatched), c.lost, got.Unmatched)
		}
		for k := 1; k < len(got.Peaks); k++ {
			if got.Peaks[k].StartMin < got.Peaks[k-1].EndMin-1e-9 {
				t.Errorf("%s: peaks %d and %d stand over one another", what, k, k+1)
			}
		}
		touching := 0
		for _, p := range got.Peaks {
			for _, w := range whole.Peaks[1:3] {
				if near(p.AreaS, w.AreaS) && near(p.ApexMin, w.ApexMin) {
					touching++
				}
			}
		}
		if touching != 2 {
			t.Errorf("%s: what was not touched is not as it was", what)
		}
	}
}
