package peaks

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"yugen/core/signal"
)

// gaussians sums peaks {time min, height, sigma min} on noise.
func gaussians(t *testing.T, noise float64, seed uint64, peaks ...[3]float64) signal.Trace {
	t.Helper()
	rng := rand.New(rand.NewPCG(seed, 1))
	y := make([]float64, 6000)
	for i := range y {
		at := float64(i) / 600
		for _, p := range peaks {
			d := (at - p[0]) / p[2]
			y[i] += p[1] * math.Exp(-d*d/2)
		}
		y[i] += noise * rng.NormFloat64()
	}
	return uniform(t, y)
}

func uniform(t *testing.T, y []float64) signal.Trace {
	t.Helper()
	tr, err := signal.NewUniform(0, 0.1, y)
	if err != nil {
		t.Fatal(err)
	}
	return tr
}

func find(t *testing.T, tr signal.Trace, s Settings, edits ...Edit) Result {
	t.Helper()
	r, err := Find(tr, s, edits)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

var three = [][3]float64{{2, 100, 0.04}, {5, 40, 0.05}, {5.22, 25, 0.05}}

func TestAStraightLineUnderTheTraceChangesNoArea(t *testing.T) {
	tr := gaussians(t, 0.2, 3, three...)
	s := Settings{WidthMin: 0.1}
	want := find(t, tr, s)
	tilted := slices.Clone(tr.Values)
	for i := range tilted {
		tilted[i] += 500 - 0.01*float64(i)
	}
	got := find(t, uniform(t, tilted), s)
	if len(got.Peaks) != len(want.Peaks) {
		t.Fatalf("%d peaks, before %d", len(got.Peaks), len(want.Peaks))
	}
	for i := range got.Peaks {
		if d := math.Abs(got.Peaks[i].AreaS/want.Peaks[i].AreaS - 1); d > 1e-3 {
			t.Errorf("peak %d: area %g, before %g", i+1, got.Peaks[i].AreaS, want.Peaks[i].AreaS)
		}
	}
}

func TestScalingAndShifting(t *testing.T) {
	tr := gaussians(t, 0.2, 4, three...)
	s := Settings{WidthMin: 0.1}
	want := find(t, tr, s)
	scaled := slices.Clone(tr.Values)
	for i := range scaled {
		scaled[i] *= 1024 // a power of two, so that rounding is the same
	}
	later := uniform(t, scaled)
	later.StartS = 60
	got := find(t, later, s)
	for i, p := range want.Peaks {
		q := got.Peaks[i]
		if math.Abs(q.AreaS/1024/p.AreaS-1) > 1e-9 || math.Abs(q.ApexMin-1-p.ApexMin) > 1e-9 {
			t.Errorf("peak %d: %g at %g, before %g at %g", i+1, q.AreaS, q.ApexMin, p.AreaS, p.ApexMin)
		}
	}
}

func TestNoiseAloneGivesNoPeaks(t *testing.T) {
	invented := 0
	for seed := range uint64(40) {
		tr := gaussians(t, 1, 100+seed)
		if len(find(t, tr, Settings{}).Peaks) > 0 {
			invented++
		}
	}
	if invented > 2 {
		t.Errorf("%d of 40 traces of noise had peaks", invented)
	}
}

func TestLeaveOutAndLeastArea(t *testing.T) {
	tr := gaussians(t, 0.05, 5, three...)
	all := find(t, tr, Settings{WidthMin: 0.1})
	if len(all.Peaks) != 3 {
		t.Fatalf("%d peaks", len(all.Peaks))
	}
	rule := Settings{WidthMin: 0.1, TimeRules: []TimeRule{{Kind: LeaveOut, FromMin: 0, ToMin: 3}}}
	if got := find(t, tr, rule); len(got.Peaks) != 2 || got.Peaks[0].ApexMin < 3 {
		t.Errorf("left out 0 to 3 min: %d peaks", len(got.Peaks))
	}
	least := Settings{WidthMin: 0.1, LeastArea: all.Peaks[2].AreaS + 1}
	if got := find(t, tr, least); len(got.Peaks) != 2 {
		t.Errorf("least area: %d peaks", len(got.Peaks))
	}
}

func TestSplitPeaksSayHow(t *testing.T) {
	got := find(t, gaussians(t, 0, 6, three...), Settings{WidthMin: 0.1}).Peaks
	if got[1].EndKind != Drop || got[2].StartKind != Drop || got[1].EndMin != got[2].StartMin {
		t.Errorf("the pair is not parted by a drop: %+v %+v", got[1], got[2])
	}
	if got[0].StartKind != Base || got[0].EndKind != Base {
		t.Error("a lone peak stands on the baseline")
	}
}

func TestASaturatedTopIsFlagged(t *testing.T) {
	tr := gaussians(t, 0, 7, three...)
	for i, v := range tr.Values {
		tr.Values[i] = min(v, 60)
	}
	got := find(t, tr, Settings{WidthMin: 0.1})
	if len(got.Peaks) != 3 || !slices.Contains(got.Peaks[0].Flags, Saturated) || slices.Contains(got.Peaks[1].Flags, Saturated) {
		t.Errorf("%+v", got.Peaks)
	}
	if got.Peaks[0].Plates != nil {
		t.Error("a cut-off peak has no plates")
	}
}

func TestAMovedBoundaryMovesAreaBetweenNeighbours(t *testing.T) {
	tr := gaussians(t, 0.05, 8, three...)
	s := Settings{WidthMin: 0.1}
	before := find(t, tr, s)
	to := before.Peaks[1].EndMin - 0.03
	after := find(t, tr, s, Edit{Kind: MoveEnd, ApexMin: before.Peaks[1].ApexMin, ToMin: to})
	if math.Abs(after.Peaks[1].EndMin-to) > 1e-9 || after.Peaks[1].EndKind != ByHand || after.Peaks[2].StartKind != ByHand {
		t.Fatalf("%+v", after.Peaks[1])
	}
	if after.Peaks[1].AreaS >= before.Peaks[1].AreaS || after.Peaks[2].AreaS <= before.Peaks[2].AreaS {
		t.Error("the area did not move to the neighbour")
	}
	sum := func(r Result) float64 { return r.Peaks[1].AreaS + r.Peaks[2].AreaS }
	if math.Abs(sum(after)/sum(before)-1) > 1e-9 {
		t.Errorf("the pair had %g, now %g", sum(before), sum(after))
	}
}

func TestSplitMergeAndAdd(t *testing.T) {
	tr := gaussians(t, 0.05, 12, three...)
	s := Settings{WidthMin: 0.1}
	before := find(t, tr, s)
	first := before.Peaks[0]
	parts := find(t, tr, s, Edit{Kind: Split, ApexMin: first.ApexMin, ToMin: first.ApexMin + 0.04})
	if len(parts.Peaks) != 4 || math.Abs((parts.Peaks[0].AreaS+parts.Peaks[1].AreaS)/first.AreaS-1) > 1e-9 || parts.Peaks[0].EndKind != ByHand {
		t.Errorf("split: %+v", parts.Peaks)
	}
	// A Gaussian cut one standard deviation to the right of its apex has 84.1 % of its area before the cut.
	if share := parts.Peaks[0].AreaS / first.AreaS; math.Abs(share-0.8413) > 0.01 {
		t.Errorf("the left part has %g of the area", share)
	}
	whole := find(t, tr, s, Edit{Kind: MergeLeft, ApexMin: before.Peaks[2].ApexMin})
	if len(whole.Peaks) != 2 || math.Abs(whole.Peaks[1].AreaS/(before.Peaks[1].AreaS+before.Peaks[2].AreaS)-1) > 1e-9 || whole.Peaks[1].ApexMin != before.Peaks[1].ApexMin {
		t.Errorf("merged: %+v", whole.Peaks)
	}
	again := find(t, tr, s, Edit{Kind: MergeLeft, ApexMin: before.Peaks[2].ApexMin}, Edit{Kind: Split, ApexMin: before.Peaks[1].ApexMin, ToMin: before.Peaks[1].EndMin})
	if len(again.Peaks) != 3 || math.Abs(again.Peaks[1].AreaS/before.Peaks[1].AreaS-1) > 1e-3 {
		t.Errorf("merged and split again: %+v", again.Peaks)
	}
	hidden := Settings{WidthMin: 0.1, Threshold: 1e6}
	added := find(t, tr, hidden, Edit{Kind: Add, ApexMin: first.StartMin, ToMin: first.EndMin})
	if len(added.Peaks) != 1 || math.Abs(added.Peaks[0].AreaS/first.AreaS-1) > 5e-3 || math.Abs(added.Peaks[0].ApexMin-first.ApexMin) > 1e-3 {
		t.Errorf("added: %+v", added.Peaks)
	}
	for what, e := range map[string]Edit{
		"a split outside its peak":   {Kind: Split, ApexMin: first.ApexMin, ToMin: first.EndMin + 0.2},
		"a merge without neighbour":  {Kind: MergeLeft, ApexMin: before.Peaks[1].ApexMin},
		"a peak over another":        {Kind: Add, ApexMin: first.StartMin + 0.05, ToMin: first.EndMin},
		"a peak that ends before it": {Kind: Add, ApexMin: 9, ToMin: 8.5},
	} {
		got := find(t, tr, s, e)
		if len(got.Unmatched) != 1 || len(got.Peaks) != 3 {
			t.Errorf("%s: %+v", what, got.Unmatched)
		}
	}
}

// What a person draws is there however small it is; where nothing rises above a baseline, that is told and no edit stands without a peak.
func TestADrawnPeakIsThereOrSaysWhyNot(t *testing.T) {
	tr := gaussians(t, 0.05, 9, three...)
	strict := Settings{WidthMin: 0.1, LeastArea: 1e9, LeastHeight: 1e9}
	first := find(t, tr, Settings{WidthMin: 0.1}).Peaks[0]
	if got := find(t, tr, strict, Edit{Kind: Add, ApexMin: first.StartMin, ToMin: first.EndMin}); len(got.Peaks) != 1 || len(got.Unmatched) != 0 {
		t.Errorf("drawn below the least area: %+v %+v", got.Peaks, got.Unmatched)
	}
	y := make([]float64, 900) // a valley and nothing else
	for i := range y {
		y[i] = -math.Floor(1e3 * math.Exp(-math.Pow(float64(i-450)/40, 2)))
	}
	flat, err := signal.NewUniform(0, 0.5, y)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range []Edit{{Kind: Add, ApexMin: 3, ToMin: 4.5}, {Kind: Add, ApexMin: 0.2, ToMin: 0.6}} {
		got := find(t, flat, Settings{WidthMin: 0.1, Threshold: 1e6}, e)
		if len(got.Peaks) != 0 || len(got.Unmatched) != 1 || !got.Unmatched[0].equals(e) {
			t.Errorf("%g to %g min: %+v, unmatched %+v", e.ApexMin, e.ToMin, got.Peaks, got.Unmatched)
		}
	}
}

func TestAnEditWithoutItsPeakIsReportedAndNotApplied(t *testing.T) {
	tr := gaussians(t, 0.05, 9, three...)
	s := Settings{WidthMin: 0.1}
	before := find(t, tr, s)
	lost := []Edit{{Kind: MoveEnd, ApexMin: 8, ToMin: 8.1}, {Kind: Remove, ApexMin: 3.4}, {Kind: MoveStart, ApexMin: 2, ToMin: 2.5}}
	after := find(t, tr, s, lost...)
	if len(after.Unmatched) != 3 || len(after.Peaks) != len(before.Peaks) || after.Peaks[0].AreaS != before.Peaks[0].AreaS {
		t.Errorf("unmatched %v", after.Unmatched)
	}
	removed := find(t, tr, s, Edit{Kind: Remove, ApexMin: before.Peaks[0].ApexMin})
	if len(removed.Peaks) != 2 || removed.Peaks[0].Number != 1 || removed.Peaks[0].AreaS != before.Peaks[1].AreaS {
		t.Errorf("after removing: %+v", removed.Peaks)
	}
}

func TestSettingsAreRefusedInASentence(t *testing.T) {
	tr := gaussians(t, 0.05, 9, three...)
	for want, s := range map[string]Settings{
		"the peak width is -1":       {WidthMin: -1},
		"the noise threshold is NaN": {Threshold: math.NaN()},
		"its end must come after":    {TimeRules: []TimeRule{{Kind: LeaveOut, FromMin: 3, ToMin: 2}}},
		"unknown kind \"dance\"":     {TimeRules: []TimeRule{{Kind: "dance", FromMin: 1, ToMin: 2}}},
	} {
		if _, err := Find(tr, s, nil); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %s", err, want)
		}
	}
}

// anyhow chooses settings, rules and edits at random around two times.
func anyhow(rng *rand.Rand, from, to float64) (Settings, []Edit) {
	one := func(list ...float64) float64 { return list[rng.IntN(len(list))] }
	split := SplitKinds[rng.IntN(len(SplitKinds))]
	s := Settings{
		EndWidthMin: one(0, 0, 0.01, 3), LeastHeight: one(0, 0, 5), SmoothMin: one(0, 0.1, 50), BackgroundWidths: one(0, 3, 999),
		SkimPercent: one(0, 30, 100), SkimValleyPercent: one(0, 1), HoldUpMin: one(0, 0.5), NoiseWidths: one(0, 20),
		Split: []SplitKind{"", ByValley, ByFit}[rng.IntN(3)], SkimLine: []SplitKind{"", ByExponential}[rng.IntN(2)], Baseline: []BaselineChoice{"", BackgroundBaseline}[rng.IntN(2)],
	}
	for range rng.IntN(4) {
		r := TimeRule{Kind: RuleKinds[rng.IntN(len(RuleKinds))], FromMin: from, ToMin: to, Setting: changeable[rng.IntN(len(changeable))], Value: one(0, 0.1, 50), How: split}
		s.TimeRules = append(s.TimeRules, r)
	}
	var edits []Edit
	level := one(-10, 0, 1e6)
	for range rng.IntN(6) {
		at := from + rng.Float64()*(to-from)
		e := Edit{Kind: EditKinds[rng.IntN(len(EditKinds))], ApexMin: at, ToMin: from + rng.Float64()*(to-from), How: split}
		if rng.IntN(2) == 0 {
			e.Level = &level
		}
		edits = append(edits, e)
	}
	return s, edits
}

// No settings and no trace make the core panic, loop, or return a peak outside its trace.
func FuzzFind(f *testing.F) {
	f.Add(uint64(1), 0.1, 5.0, 0.0, 3.0, 2.5)
	f.Add(uint64(9), 0.0, 0.0, 10.0, -1.0, 0.01)
	f.Add(uint64(4), 900.0, 1e8, 0.0, 5.0, 9.9)
	for seed := range uint64(15) {
		f.Add(seed, 0.02, 3.0, 0.0, 0.5, 4.0)
	}
	f.Fuzz(func(t *testing.T, seed uint64, width, threshold, least, from, to float64) {
		rng := rand.New(rand.NewPCG(seed, 2))
		y := make([]float64, 8+rng.IntN(3000))
		for i := range y {
			y[i] = rng.NormFloat64() * math.Pow(10, float64(rng.IntN(4)))
			if rng.IntN(3) == 0 && i > 0 {
				y[i] = y[i-1]
			}
		}
		tr, err := signal.NewUniform(0, 0.1, y)
		if err != nil {
			return
		}
		s, edits := anyhow(rng, from, to)
		s.WidthMin, s.Threshold, s.LeastArea = width, threshold, least
		r, err := Find(tr, s, edits)
		if err != nil {
			return
		}
		if _, err := json.Marshal(r); err != nil {
			t.Fatal(err)
		}
		for _, p := range r.Peaks {
			if !(p.StartMin >= 0 && p.StartMin < p.EndMin && p.ApexMin >= p.StartMin && p.ApexMin <= p.EndMin && p.EndMin*60 <= tr.EndS()+1e-6) {
				t.Fatalf("peak from %g over %g to %g min in a trace to %g s", p.StartMin, p.ApexMin, p.EndMin, tr.EndS())
			}
			if math.IsNaN(p.AreaS) || math.IsInf(p.AreaS, 0) {
				t.Fatalf("area %g", p.AreaS)
			}
		}
	})
}
