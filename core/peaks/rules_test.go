package peaks

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"yugen/core/signal"
)

// areaOf a Gaussian of three, in signal · s.
func areaOf(p [3]float64) float64 { return p[1] * p[2] * 60 * math.Sqrt(2*math.Pi) }

var pair = [][3]float64{{4, 50, 0.05}, {4.2, 30, 0.05}}

func ruled(kind RuleKind, from, to float64) Settings {
	return Settings{WidthMin: 0.118, TimeRules: []TimeRule{{Kind: kind, FromMin: from, ToMin: to}}}
}

func TestASumIsOnePeakOfAll(t *testing.T) {
	tr := gaussians(t, 0, 1, append(slices.Clone(pair), [3]float64{7, 20, 0.05})...)
	got := find(t, tr, ruled(Sum, 3.5, 4.5)).Peaks
	if len(got) != 2 || !slices.Contains(got[0].Flags, Summed) || math.Abs(got[0].AreaS/(areaOf(pair[0])+areaOf(pair[1]))-1) > 0.002 || math.Abs(got[0].ApexMin-4) > 0.01 {
		t.Errorf("%+v", got)
	}
	// Two apart are summed too; the baseline goes on between them.
	apart := gaussians(t, 0, 1, [3]float64{3, 50, 0.05}, [3]float64{6, 30, 0.05})
	if got := find(t, apart, ruled(Sum, 2, 7)).Peaks; len(got) != 1 || math.Abs(got[0].AreaS/(areaOf([3]float64{3, 50, 0.05})+areaOf([3]float64{6, 30, 0.05}))-1) > 0.002 {
		t.Errorf("%+v", got)
	}
}

func TestASplitByRule(t *testing.T) {
	whole := [3]float64{5, 50, 0.05}
	got := find(t, gaussians(t, 0, 1, whole), ruled(SplitHere, 5.02, 0)).Peaks
	if len(got) != 2 || got[0].EndKind != ByRule || got[0].EndMin != got[1].StartMin || math.Abs(got[0].EndMin-5.02) > 1e-9 || math.Abs((got[0].AreaS+got[1].AreaS)/areaOf(whole)-1) > 0.002 {
		t.Errorf("%+v", got)
	}
}

// On a ramp that begins under the peak the chord would cut it; a held baseline stays where it was.
func TestAHeldBaselineStaysLevel(t *testing.T) {
	tr := gaussians(t, 0, 1, [3]float64{5, 50, 0.05})
	for i := range tr.Values {
		tr.Values[i] += max(0, float64(i)/600-5) * 20
	}
	plain, held := find(t, tr, Settings{WidthMin: 0.118}).Peaks[0], find(t, tr, ruled(Hold, 4.5, 6)).Peaks[0]
	if held.BaselineKind != OnHeld || held.BaselineStart != held.BaselineEnd || math.Abs(held.BaselineStart) > 0.01 || held.AreaS <= plain.AreaS {
		t.Errorf("plain %+v\nheld %+v", plain, held)
	}
}

func TestAForcedBaselineGoesStraightThroughItsStretch(t *testing.T) {
	tr := gaussians(t, 0, 1, [3]float64{4, 50, 0.05}, [3]float64{5, 50, 0.05})
	for i := range tr.Values { // a hump under both
		tr.Values[i] += 10 * math.Exp(-math.Pow((float64(i)/600-4.5)/1.2, 2))
	}
	got := find(t, tr, ruled(OneBaseline, 1, 8)).Peaks
	for _, p := range got {
		if math.Abs(p.ApexMin-4) < 0.1 || math.Abs(p.ApexMin-5) < 0.1 {
			if p.BaselineKind != OnForced || math.Abs(p.BaselineStart) > 0.2 || math.Abs(p.BaselineEnd) > 0.2 || p.AreaS < 1.1*areaOf([3]float64{4, 50, 0.05}) {
				t.Errorf("%+v", p)
			}
		}
	}
	// Boundaries do not leave the stretch.
	for _, p := range find(t, tr, ruled(OneBaseline, 3.95, 4.05)).Peaks {
		if p.BaselineKind == OnForced && (p.StartMin < 3.949 || p.EndMin > 4.051 || p.StartKind != ByRule) {
			t.Errorf("%+v", p)
		}
	}
}

func TestARuleChangesASettingForItsStretch(t *testing.T) {
	tr := gaussians(t, 0.2, 1, [3]float64{3, 20, 0.05}, [3]float64{7, 20, 0.05})
	s := Settings{WidthMin: 0.118}
	if n := len(find(t, tr, s).Peaks); n != 2 {
		t.Fatal(n)
	}
	for _, r := range []TimeRule{
		{Kind: Change, FromMin: 6, ToMin: 8, Setting: "threshold", Value: 1e4},
		{Kind: Change, FromMin: 6, ToMin: 8, Setting: "least_area", Value: 1e4},
		{Kind: Change, FromMin: 6, ToMin: 8, Setting: "least_height", Value: 1e3},
	} {
		s.TimeRules = []TimeRule{r}
		if got := find(t, tr, s).Peaks; len(got) != 1 || math.Abs(got[0].ApexMin-3) > 0.05 {
			t.Errorf("%s: %+v", r.Setting, got)
		}
	}
}

// A wide peak behind narrow ones is found whole when the width is told to grow, by the end's width or by a rule.
func TestWidthThatGrowsAlongTheRun(t *testing.T) {
	list := [][3]float64{{1, 30, 0.01}, {2, 30, 0.015}, {8, 30, 0.3}}
	tr := gaussians(t, 1, 1, list...)
	for _, s := range []Settings{
		{WidthMin: 0.025, EndWidthMin: 0.8},
		{WidthMin: 0.03, TimeRules: []TimeRule{{Kind: Change, FromMin: 5, ToMin: 10, Setting: "width_min", Value: 0.7}}},
	} {
		got := find(t, tr, s).Peaks
		if len(got) != 3 {
			t.Errorf("%+v: %d peaks", s, len(got))
			continue
		}
		for i, p := range got {
			if math.Abs(p.AreaS/areaOf(list[i])-1) > 0.1 {
				t.Errorf("peak %d: %g, true %g", i+1, p.AreaS, areaOf(list[i]))
			}
		}
	}
}

func TestValleyToValley(t *testing.T) {
	tr := gaussians(t, 0, 1, pair...)
	got := find(t, tr, Settings{WidthMin: 0.118, Split: ByValley}).Peaks
	if len(got) != 2 || got[0].EndKind != Valley || got[1].StartKind != Valley || got[0].BaselineKind != OnValleys {
		t.Fatalf("%+v", got)
	}
	if valley := tr.ValueAt(got[0].EndMin * 60); math.Abs(got[0].BaselineEnd-valley) > 0.2 || got[0].AreaS >= areaOf(pair[0]) {
		t.Errorf("the baseline stands at %g, the valley at %g", got[0].BaselineEnd, valley)
	}
	part := Settings{WidthMin: 0.118, TimeRules: []TimeRule{{Kind: Part, FromMin: 3, ToMin: 5, How: ByValley}}}
	if same := find(t, tr, part).Peaks; same[0].AreaS != got[0].AreaS {
		t.Errorf("by rule %g, by setting %g", same[0].AreaS, got[0].AreaS)
	}
}

func TestAModelledBackgroundUnderEverything(t *testing.T) {
	list := [][3]float64{{2, 50, 0.05}, {5, 80, 0.05}, {5.2, 50, 0.05}, {8, 20, 0.05}}
	tr := gaussians(t, 0.05, 1, list...)
	for i := range tr.Values {
		tr.Values[i] += 30 * math.Sin(float64(i)/3000)
	}
	got := find(t, tr, Settings{WidthMin: 0.118, Baseline: BackgroundBaseline}).Peaks
	if len(got) != 4 {
		t.Fatalf("%d peaks", len(got))
	}
	for i, p := range got {
		if p.BaselineKind != OnBackground || p.Under == nil || math.Abs(p.AreaS/areaOf(list[i])-1) > 0.03 {
			t.Errorf("peak %d: %g, true %g, %s", i+1, p.AreaS, areaOf(list[i]), p.BaselineKind)
		}
	}
}

func TestRulesAreRefusedInASentence(t *testing.T) {
	for want, r := range map[string]TimeRule{
		"must come after its start":   {Kind: Hold, FromMin: 3, ToMin: 3},
		"unknown way \"axe\"":         {Kind: Part, FromMin: 1, ToMin: 2, How: "axe"},
		"changes the setting \"hue\"": {Kind: Change, FromMin: 1, ToMin: 2, Setting: "hue"},
		"must not be below 0":         {Kind: Change, FromMin: 1, ToMin: 2, Setting: "threshold", Value: -1},
		"both must be numbers":        {Kind: LeaveOut, FromMin: math.NaN(), ToMin: 2},
	} {
		if err := (Settings{TimeRules: []TimeRule{r}}).Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %s", err, want)
		}
	}
	for want, s := range map[string]Settings{
		"a width that grows needs both": {EndWidthMin: 1}, "it is drop, valley or fit": {Split: "axe"},
		"it is tangent or exponential": {SkimLine: ByDrop}, "it is followed, chord or background": {Baseline: "sea"},
	} {
		if err := s.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %s", err, want)
		}
	}
}

// What is left out still bounds its neighbours: a small peak beside two large ones that are not wanted stays as it was.
func TestWhatIsLeftOutStillBoundsItsNeighbours(t *testing.T) {
	list := [][3]float64{{4, 120, 0.05}, {4.3, 60, 0.05}, {5, 3, 0.05}}
	tr := gaussians(t, 0.05, 2, list...)
	plain := find(t, tr, Settings{WidthMin: 0.118}).Peaks
	got := find(t, tr, ruled(LeaveOut, 3.5, 4.6)).Peaks
	if len(plain) != 3 || len(got) != 1 || math.Abs(got[0].AreaS/areaOf(list[2])-1) > 0.05 {
		t.Errorf("%+v", got)
	}
}

// A peak that was removed, or left out by a rule, is no noise: the signal-to-noise of its neighbours stays as it was.
func TestWhatIsRemovedIsNoNoise(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	y := make([]float64, 9000)
	for i := range y {
		at := float64(i) / 600
		for _, p := range [][3]float64{{0.4, 0.05, 100}, {1, 0.05, 80}, {1.5, 0.05, 90}, {9, 0.05, 300}} {
			d := (at - p[0]) / p[1]
			y[i] += p[2] * math.Exp(-d*d/2)
		}
		y[i] += 0.1 * rng.NormFloat64()
	}
	tr, err := signal.NewUniform(0, 0.1, y)
	if err != nil {
		t.Fatal(err)
	}
	ratio := func(s Settings, edits []Edit) float64 {
		r, err := Find(tr, s, edits)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range r.Peaks {
			if math.Abs(p.ApexMin-0.4) < 0.05 {
				return *p.SignalToNoise
			}
		}
		t.Fatal("the peak is not there")
		return 0
	}
	s := Settings{WidthMin: 0.1}
	want := ratio(s, nil)
	if got := ratio(s, []Edit{{Kind: Remove, ApexMin: 1}}); math.Abs(got/want-1) > 0.3 {
		t.Errorf("S/N %g with the neighbour removed, %g before", got, want)
	}
	s.TimeRules = []TimeRule{{Kind: LeaveOut, FromMin: 0.8, ToMin: 1.8}}
	if got := ratio(s, nil); math.Abs(got/want-1) > 0.3 {
		t.Errorf("S/N %g with the neighbours left out, %g before", got, want)
	}
}
