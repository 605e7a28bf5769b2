package peaks

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"yugen/core/signal"
)

// foundAt pairs true shapes with found peaks; what is found beyond them is invented.
func foundAt(shapes []emg, found []Peak) (areas []float64, invented int) {
	invented = len(found)
	for _, s := range shapes {
		area := math.NaN()
		for _, p := range found {
			if math.Abs(p.ApexMin*60-s.mode()) < s.sigma {
				area = p.AreaS
				invented--
			}
		}
		areas = append(areas, area)
	}
	return areas, invented
}

func holds(t *testing.T, what string, shapes []emg, found []Peak, within float64) {
	t.Helper()
	areas, invented := foundAt(shapes, found)
	for i, a := range areas {
		if !(math.Abs(a/shapes[i].area-1) <= within) {
			t.Errorf("%s: peak %d at %.3f min has the area %.4g, true %.4g", what, i+1, shapes[i].mode()/60, a, shapes[i].area)
		}
	}
	if invented != 0 {
		t.Errorf("%s: %d of %d peaks are invented", what, invented, len(found))
	}
}

// Where the rate falls to a quarter, the interpolated grid hides most of the noise; the samples do not.
func TestARateThatChangesInventsNoPeaks(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 1))
	shapes := []emg{shaped(100, 20, 5, 0.3), shaped(250, 60, 5, 0.3), shaped(420, 15, 5, 0.3), shaped(550, 90, 5, 0.3)}
	full := world{hz: 10, endS: 660, shapes: shapes, noise: whiteNoise(0.1)}.trace(t, rng)
	var times, values []float64
	for i, y := range full.Values {
		if at := full.TimeS(i); at < 330 || i%4 == 0 {
			times, values = append(times, at), append(values, y)
		}
	}
	tr, err := signal.New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	holds(t, "10 then 2.5 Hz", shapes, find(t, tr, Settings{}).Peaks, 0.03)
}

// The tops of counted peaks are rough; that must not cut them in pieces.
func TestNoiseThatGrowsCutsNoPeakInTwo(t *testing.T) {
	shapes := []emg{shaped(60, 3e4, 7, 0.4), shaped(160, 3e5, 7, 0.4), shaped(260, 3e4, 7, 0.4), shaped(360, 9e5, 7, 0.4)}
	w := world{hz: 2.5, endS: 420, shapes: shapes, noise: counted(60, 100)}
	for seed := range uint64(5) {
		r := find(t, w.trace(t, rand.New(rand.NewPCG(seed, 2))), Settings{})
		holds(t, "counted", shapes, r.Peaks, 0.05)
		if r.Noise.PerRoot < 5 || r.Noise.PerRoot > 20 {
			t.Errorf("the noise grows by %g per root of the signal, true 10", r.Noise.PerRoot)
		}
	}
}

func TestPeaksThatWidenAlongTheRunKeepTheirAreas(t *testing.T) {
	var shapes []emg
	for at := 80.0; at < 1200; at *= 1.35 {
		shapes = append(shapes, shaped(at, 40, at/30, 0.3))
	}
	tr := world{hz: 5, endS: 1300, shapes: shapes, noise: whiteNoise(0.05)}.trace(t, rand.New(rand.NewPCG(5, 5)))
	r := find(t, tr, Settings{})
	holds(t, "isothermal", shapes, r.Peaks, 0.01)
	if ratio := r.EndWidthMin / r.WidthMin; ratio < 5 {
		t.Errorf("the widths run from %g to %g min", r.WidthMin, r.EndWidthMin)
	}
}

// At S/N 10 the mean of many areas is right: feet that reach into the peak would make them all too small.
func TestSmallPeaksAreNotMeasuredTooSmall(t *testing.T) {
	rng, sum, n := rand.New(rand.NewPCG(6, 6)), 0.0, 0.0
	for range 40 {
		shapes := []emg{shaped(60, 26, 6, 0), shaped(130, 26, 6, 0), shaped(200, 26, 6, 0), shaped(270, 26, 6, 0)}
		areas, _ := foundAt(shapes, find(t, world{hz: 10, endS: 330, shapes: shapes, noise: whiteNoise(1)}.trace(t, rng), Settings{}).Peaks)
		for i, a := range areas {
			sum, n = sum+a/shapes[i].area, n+1
		}
	}
	if mean := sum / n; math.Abs(mean-1) > 0.006 {
		t.Errorf("the mean area is %.2f %% off", 100*(mean-1))
	}
}

func TestSmallPeaksOnTheTailOfACutOffSolvent(t *testing.T) {
	shapes := []emg{shaped(120, 3000, 4, 0.3), shaped(180, 900, 4, 0.3), shaped(300, 5000, 5, 0.3), shaped(420, 600, 5, 0.3)}
	solvent := emg{area: 3e4 * 60, centre: 42, sigma: 5, tau: 60}
	w := world{hz: 10, endS: 500, shapes: append(slices.Clone(shapes), solvent), noise: whiteNoise(8)}
	tr := w.trace(t, rand.New(rand.NewPCG(7, 7)))
	for i, y := range tr.Values {
		tr.Values[i] = min(y, 2e4)
	}
	found := find(t, tr, Settings{}).Peaks
	found = slices.DeleteFunc(found, func(p Peak) bool { return p.ApexMin < 1.5 })
	holds(t, "solvent", shapes, found, 0.05)
	followed := func(p Peak) bool { return p.BaselineKind == OnFollowed && p.Under != nil }
	if !slices.ContainsFunc(found, followed) {
		t.Errorf("no baseline is told as followed: %+v", found)
	}
	// Straight lines under the same peaks are far off, as they are asked for.
	straight := find(t, tr, Settings{Baseline: ChordBaseline}).Peaks
	if slices.ContainsFunc(straight, followed) {
		t.Error("the ground was followed against the setting")
	}
}

func TestDriftWithoutNoiseHasNoPeaks(t *testing.T) {
	for _, period := range []float64{40, 75, 120} {
		w := world{hz: 5, endS: 600, ground: func(t float64) float64 { return 5 + 3*math.Sin(t/period) }}
		if got := find(t, w.trace(t, nil), Settings{}).Peaks; len(got) != 0 {
			t.Errorf("a wave of %g s: %+v", period, got)
		}
		w.shapes = []emg{shaped(100, 30, 6, 0.3), shaped(300, 80, 6, 0.3), shaped(480, 20, 6, 0.3)}
		holds(t, "on a wave", w.shapes, find(t, w.trace(t, nil), Settings{}).Peaks, 0.01)
	}
}

// What is found and not told as a peak is told as dropped; a setting, or a hand, overrules that.
func TestWhatIsDroppedIsTold(t *testing.T) {
	w := world{hz: 5, endS: 1500, shapes: []emg{shaped(150, 30, 6, 0.3)}, noise: whiteNoise(0.1),
		ground: func(t float64) float64 { return 40 * math.Exp(-math.Pow((t-800)/90, 2)) }}
	tr := w.trace(t, rand.New(rand.NewPCG(8, 8)))
	r := find(t, tr, Settings{})
	if len(r.Peaks) != 1 || len(r.Dropped) != 1 || math.Abs(r.Dropped[0].ApexMin*60-800) > 30 || !strings.Contains(r.Dropped[0].Reason, "no width was set") {
		t.Errorf("peaks %+v\ndropped %+v", r.Peaks, r.Dropped)
	}
	wide := find(t, tr, Settings{WidthMin: 2})
	if !slices.ContainsFunc(wide.Peaks, func(p Peak) bool { return math.Abs(p.ApexMin*60-800) < 30 }) {
		t.Errorf("a set width does not overrule: %+v", wide)
	}
	certain := find(t, tr, Settings{Certainty: 1000})
	if len(certain.Peaks) != 0 || !slices.ContainsFunc(certain.Dropped, func(d Dropped) bool { return strings.Contains(d.Reason, "1000 times its standard uncertainty") }) {
		t.Errorf("an area that is less than 1000 times its uncertainty is kept: %+v", certain)
	}
}

func TestMechanismsCanBeOverruled(t *testing.T) {
	shapes := []emg{shaped(100, 200, 6, 1.5)}
	tr := world{hz: 10, endS: 250, shapes: shapes, noise: whiteNoise(0.2)}.trace(t, rand.New(rand.NewPCG(9, 9)))
	far, near := find(t, tr, Settings{}).Peaks[0], find(t, tr, Settings{Feet: FlankFeet}).Peaks[0]
	if far.EndMin <= near.EndMin {
		t.Errorf("feet go out to %g min, on the flank they stand at %g", far.EndMin, near.EndMin)
	}
	if r := find(t, tr, Settings{Noise: &NoiseModel{SD: 0.5}}); r.NoiseSD != 0.5 || r.Noise != (NoiseModel{SD: 0.5}) {
		t.Errorf("the noise was set to 0.5 and is %+v", r.Noise)
	}
	bent := world{hz: 10, endS: 400, noise: whiteNoise(0.1), shapes: []emg{shaped(120, 6, 5, 0.3), shaped(200, 50, 5, 0.3), shaped(260, 8, 5, 0.3)},
		ground: func(t float64) float64 { return 150 * math.Exp(-math.Pow((t-190)/60, 2)) }}
	on := bent.trace(t, rand.New(rand.NewPCG(10, 10)))
	holds(t, "hump", bent.shapes, find(t, on, Settings{}).Peaks, 0.05)
	ruled := find(t, on, Settings{TimeRules: []TimeRule{{Kind: StraightGround, FromMin: 0, ToMin: 7}}}).Peaks
	if slices.ContainsFunc(ruled, func(p Peak) bool { return p.BaselineKind == OnFollowed }) {
		t.Errorf("the ground was followed against the rule")
	}
	for want, s := range map[string]Settings{"it is outward or flank": {Feet: "sea"}, "none may be below 0": {Noise: &NoiseModel{SD: -1}}, "the certainty is -1": {Certainty: -1}} {
		if err := s.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %s", err, want)
		}
	}
}

func TestEstimatesOfSeveralTraces(t *testing.T) {
	many := []Estimate{
		{0.1, 0.2, NoiseModel{1, 0, 0.01}}, {0.104, 0.22, NoiseModel{1.1, 0, 0.012}}, {0, 0, NoiseModel{0.9, 0, 0}}, {0.11, 0.21, NoiseModel{30, 2, 0.011}}, {0.12, 0.5, NoiseModel{1.049, 0, 0.02}},
	}
	if got, want := Together(many), (Estimate{0.11, 0.22, NoiseModel{1, 0, 0.011}}); got != want {
		t.Errorf("%+v, want %+v", got, want)
	}
	// An expected width and noise are used; a trace much noisier than the others keeps its own noise.
	w := world{hz: 10, endS: 250, shapes: []emg{shaped(100, 200, 6, 0.5)}, noise: whiteNoise(0.2)}
	tr := w.trace(t, rand.New(rand.NewPCG(11, 11)))
	for _, c := range []struct{ expected, used float64 }{{0.19, 0.19}, {0.05, 0.2}} {
		r, err := FindExpecting(tr, Settings{}, nil, &Estimate{0.12, 0.12, NoiseModel{SD: c.expected}})
		if err != nil || math.Abs(r.WidthMin/0.12-1) > 1e-9 || math.Abs(r.NoiseSD/c.used-1) > 0.06 {
			t.Errorf("expected noise %g: used %g, width %g, %v", c.expected, r.NoiseSD, r.WidthMin, err)
		}
	}
}

// A drop between a large peak and a small one on its flank is replaced as proposed, and the areas come right.
func TestWhatIsProposedMendsTheAreas(t *testing.T) {
	for name, c := range map[string]struct {
		at, height, tail, within float64
	}{
		"1:10 on the tail":   {117, 100, 0.4, 0.05},
		"1:100 on the tail":  {122, 10, 0.4, 0.1},
		"1:10 on the front":  {88.5, 100, 0.2, 0.05},
		"1:100 on the front": {87, 10, 0.2, 0.1},
		"a shoulder":         {107.2, 330, 0.9, 0.05},
	} {
		shapes := []emg{shaped(100, 1000, 6, 0.9), shaped(c.at, c.height, 5.7, c.tail)}
		slices.SortFunc(shapes, func(a, b emg) int { return int(math.Copysign(1, a.centre-b.centre)) })
		tr := world{hz: 10, endS: 220, shapes: shapes, noise: whiteNoise(0.1)}.trace(t, rand.New(rand.NewPCG(12, 12)))
		proposed, err := Propose(tr, Settings{}, nil, nil)
		if err != nil || len(proposed) != 1 || proposed[0].Reason == "" {
			t.Errorf("%s: proposed %+v, %v", name, proposed, err)
			continue
		}
		p := proposed[0]
		before := find(t, tr, Settings{}).Peaks
		after := find(t, tr, Settings{TimeRules: []TimeRule{{Kind: Part, FromMin: p.FromMin, ToMin: p.ToMin, How: p.PartBy}}}).Peaks
		holds(t, name, shapes, after, c.within)
		was, is := nearestPeak(before, p.ApexMin), nearestPeak(after, p.ApexMin)
		if told := 100 * (is.AreaS/was.AreaS - 1); math.Abs(told-p.AreaChangePercent) > 1e-6 {
			t.Errorf("%s: a change of %g %% was promised, %g came", name, p.AreaChangePercent, told)
		}
	}
	// Well parted peaks have nothing to propose, nor has what a rule has parted already.
	apart := world{hz: 10, endS: 220, shapes: []emg{shaped(80, 100, 6, 0.3), shaped(95, 80, 6, 0.3)}, noise: whiteNoise(0.1)}
	if p, err := Propose(apart.trace(t, rand.New(rand.NewPCG(13, 13))), Settings{}, nil, nil); err != nil || len(p) != 0 {
		t.Errorf("%+v, %v", p, err)
	}
}

// A small peak on a front is skimmed along the front's own curve: a straight line took a quarter of it away.
func TestASkimOnAFrontKeepsTheSmallPeak(t *testing.T) {
	for _, at := range []float64{87.2, 88, 89} {
		shapes := []emg{shaped(at, 80, 5.5, 0.2), shaped(100, 1000, 6, 0.6)}
		tr := world{hz: 10, endS: 200, shapes: shapes, noise: whiteNoise(0.1)}.trace(t, rand.New(rand.NewPCG(14, 14)))
		got := find(t, tr, Settings{SkimPercent: 10}).Peaks
		if len(got) != 2 || got[0].StartKind != Skim {
			t.Fatalf("%g s: %+v", at, got)
		}
		if off := got[0].AreaS/shapes[0].area - 1; math.Abs(off) > 0.08 {
			t.Errorf("%g s: the small peak is %.1f %% off", at, 100*off)
		}
	}
}
