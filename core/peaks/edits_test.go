package peaks

import (
	"math"
	"slices"
	"testing"
)

func TestAnAnchorBendsTheBaseline(t *testing.T) {
	tr := gaussians(t, 0, 1, pair...)
	s := Settings{WidthMin: 0.118}
	before := find(t, tr, s).Peaks
	level := 5.0
	got := find(t, tr, s, Edit{Kind: Anchor, ApexMin: 4.1, Level: &level}).Peaks
	if got[0].BaselineKind != OnAnchors || got[0].Under == nil || math.Abs(got[0].BaselineEnd-level) > 0.2 || got[0].AreaS >= before[0].AreaS || got[1].AreaS >= before[1].AreaS {
		t.Errorf("%+v", got)
	}
	// The triangle between the two baselines is what the pair has lost.
	lost := before[0].AreaS + before[1].AreaS - got[0].AreaS - got[1].AreaS
	if want := level * (got[1].EndMin - got[0].StartMin) * 60 / 2; math.Abs(lost/want-1) > 0.02 {
		t.Errorf("lost %g, the triangle has %g", lost, want)
	}
}

func TestAnAnchorAtAnEndTakesItsPlace(t *testing.T) {
	tr := gaussians(t, 0, 1, [3]float64{5, 50, 0.05})
	s := Settings{WidthMin: 0.118}
	start := find(t, tr, s).Peaks[0].StartMin
	level := 2.0
	p := find(t, tr, s, Edit{Kind: Anchor, ApexMin: start + 0.01, Level: &level}).Peaks[0]
	if math.Abs(p.BaselineStart-level) > 1e-9 || math.Abs(p.BaselineEnd) > 0.1 {
		t.Errorf("%+v", p)
	}
}

func TestAnAnchorUnderNoPeakIsANotice(t *testing.T) {
	r := find(t, gaussians(t, 0, 1, pair...), Settings{WidthMin: 0.118}, Edit{Kind: Anchor, ApexMin: 8})
	if len(r.Unmatched) != 1 || r.Unmatched[0].Kind != Anchor {
		t.Errorf("%+v", r.Unmatched)
	}
}

// A hand parts one pair in another way; other pairs stay.
func TestPartingByHand(t *testing.T) {
	tr := gaussians(t, 0, 1, append(slices.Clone(pair), [3]float64{7, 50, 0.05}, [3]float64{7.2, 30, 0.05})...)
	s := Settings{WidthMin: 0.118}
	before := find(t, tr, s).Peaks
	kinds := map[SplitKind]BaselineKind{ByValley: OnValleys, ByTangent: OnTangent, ByFit: OnFit, ByExponential: OnExponential}
	for how, kind := range kinds {
		r := find(t, tr, s, Edit{Kind: PartAs, ApexMin: 4.2, How: how})
		if len(r.Peaks) != 4 || len(r.Unmatched) > 0 || r.Peaks[1].BaselineKind != kind {
			t.Errorf("%s: %+v %v", how, r.Peaks[1], r.Unmatched)
			continue
		}
		if r.Peaks[2].AreaS != before[2].AreaS || r.Peaks[3].AreaS != before[3].AreaS {
			t.Errorf("%s changed the other pair", how)
		}
	}
	// A skim of the settings is turned off for one pair by hand.
	s.SkimPercent = 90
	if skimmed := find(t, tr, s).Peaks; skimmed[1].StartKind != Skim {
		t.Fatalf("%+v", skimmed[1])
	}
	if r := find(t, tr, s, Edit{Kind: PartAs, ApexMin: 4.2, How: ByDrop}).Peaks; r[1].StartKind != Drop || r[3].StartKind != Skim {
		t.Errorf("%+v %+v", r[1], r[3])
	}
	if r := find(t, gaussians(t, 0, 1, [3]float64{5, 50, 0.05}), Settings{WidthMin: 0.118}, Edit{Kind: PartAs, ApexMin: 5, How: ByTangent}); len(r.Unmatched) != 1 {
		t.Error("a peak that touches none cannot be parted")
	}
}

// Two small peaks on one tail both stand on tangents, and what they have is not their parent's.
func TestTwoRidersOnOneTail(t *testing.T) {
	tr := gaussians(t, 0, 1, [3]float64{6, 80, 0.04}, [3]float64{6.3, 60, 0.04})
	for i := range tr.Values {
		tr.Values[i] += emg{60000, 5.2 * 60, 3, 25}.at(float64(i) * 0.1)
	}
	s := Settings{WidthMin: 0.1, SkimPercent: 30, SkimLine: ByExponential}
	plain, got := find(t, tr, Settings{WidthMin: 0.1}).Peaks, find(t, tr, s).Peaks
	if len(got) != 3 || got[1].StartKind != Skim || got[2].StartKind != Skim {
		t.Fatalf("%+v", got)
	}
	sum := func(list []Peak) (a float64) {
		for _, p := range list {
			a += p.AreaS
		}
		return a
	}
	if math.Abs(sum(got)/sum(plain)-1) > 1e-9 {
		t.Errorf("%g in all, before %g", sum(got), sum(plain))
	}
	for i, want := range [][3]float64{{6, 80, 0.04}, {6.3, 60, 0.04}} {
		if off := got[i+1].AreaS/areaOf(want) - 1; math.Abs(off) > 0.1 {
			t.Errorf("rider %d is off by %.1f %%", i+1, 100*off)
		}
	}
}

func TestSmoothingChangesWhatIsMeasuredAndNotWhatIsFound(t *testing.T) {
	tr := gaussians(t, 2, 1, three...)
	plain, smooth := find(t, tr, Settings{WidthMin: 0.1}).Peaks, find(t, tr, Settings{WidthMin: 0.1, SmoothMin: 0.02}).Peaks
	if len(plain) != len(smooth) {
		t.Fatal(len(plain), len(smooth))
	}
	for i, p := range plain {
		if smooth[i].ApexMin != p.ApexMin || smooth[i].AreaS == p.AreaS || math.Abs(smooth[i].AreaS/p.AreaS-1) > 0.02 {
			t.Errorf("%g and %g", smooth[i].AreaS, p.AreaS)
		}
	}
}

// A peak with a tail: its measures against those of the exponentially modified Gaussian it is.
func TestMeasuresAgainstTheirFormulas(t *testing.T) {
	shape := emg{3000, 300, 4, 6}
	tr := gaussians(t, 0, 1)
	for i := range tr.Values {
		tr.Values[i] = shape.at(float64(i)*0.1) + emg{1000, 150, 4, 0}.at(float64(i)*0.1)
	}
	got := find(t, tr, Settings{WidthMin: 0.15, HoldUpMin: 1}).Peaks
	if len(got) != 2 {
		t.Fatal(len(got))
	}
	p, mode := got[1], shape.mode()
	near := func(what string, got *float64, want, percent float64) {
		if got == nil || math.Abs(*got/want-1)*100 > percent {
			t.Errorf("%s: %v, want %g", what, got, want)
		}
	}
	width := func(f float64) float64 {
		return (shape.crossing(mode, f*shape.at(mode), 1) - shape.crossing(mode, f*shape.at(mode), -1)) / 60
	}
	near("width at 10 %", p.Width10Min, width(0.1), 0.3)
	near("width at 5 %", p.Width5Min, width(0.05), 0.3)
	near("centroid", p.CentroidMin, shape.mean()/60, 0.1)
	near("variance", p.VarianceMin2, (16.0+36)/3600, 3)
	near("skew", p.Skew, 2*216/math.Pow(52, 1.5), 12) // the tail's end is cut
	near("retention factor", p.RetentionFactor, mode/60-1, 0.1)
	near("selectivity", p.Selectivity, (mode/60-1)/(2.5-1), 0.1)
	near("tangent width of a Gaussian", got[0].TangentWidthMin, 4*4/60.0, 1)
	near("plates by tangents", got[0].PlatesTangent, 16*math.Pow(2.5/(16/60.0), 2), 2)
	if p.PeakToValley != nil || p.Absent["peak_to_valley"] == "" {
		t.Error("nothing touches it")
	}
	touching := find(t, gaussians(t, 0, 1, pair...), Settings{WidthMin: 0.118}).Peaks[1]
	valley := math.Inf(1)
	for at := 4.0; at < 4.2; at += 0.001 {
		valley = min(valley, 50*math.Exp(-math.Pow((at-4)/0.05, 2)/2)+30*math.Exp(-math.Pow((at-4.2)/0.05, 2)/2))
	}
	near("peak to valley", touching.PeakToValley, touching.Height/valley, 1)
	if touching.WidthHalfMin != nil && touching.Tailing != nil || touching.Absent["tailing"] == "" {
		t.Errorf("a split hides the crossing at 5 %%: %+v", touching.Absent)
	}
}
