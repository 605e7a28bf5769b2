package signal

import (
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

func TestFitEqualsAParabolaAnywhere(t *testing.T) {
	y := make([]float64, 3000)
	for i := range y {
		x := float64(i)
		y[i] = 1e6 + 3*x + 0.002*x*x
	}
	for _, half := range []int{1, 4, 37} {
		f := Fit(y, half)
		for i := range y {
			x := float64(i)
			if math.Abs(f.Value[i]-y[i]) > 1e-6 || math.Abs(f.Slope[i]-(3+0.004*x)) > 1e-7 || math.Abs(f.Curvature[i]-0.004) > 1e-8 {
				t.Fatalf("half %d, sample %d: %g %g %g", half, i, f.Value[i]-y[i], f.Slope[i], f.Curvature[i])
			}
		}
	}
}

func TestGainsMatchMeasuredNoise(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	y := make([]float64, 200000)
	for i := range y {
		y[i] = rng.NormFloat64()
	}
	f := Fit(y, 6)
	for _, c := range []struct {
		name string
		got  []float64
		want float64
	}{{"curvature", f.Curvature, CurvatureGain(6)}, {"slope", f.Slope, SlopeGain(6)}, {"value", f.Value, ValueGain(6)}} {
		sum := 0.0
		for _, v := range c.got {
			sum += v * v
		}
		if sd := math.Sqrt(sum / float64(len(y))); math.Abs(sd/c.want-1) > 0.02 {
			t.Errorf("%s: noise %g, gain says %g", c.name, sd, c.want)
		}
	}
}

func TestWhiteNoiseSurvivesDriftPeaksAndRounding(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	make1 := func(round bool, sd float64) []float64 {
		y := make([]float64, 20000)
		for i := range y {
			x := float64(i)
			y[i] = 0.05*x + sd*rng.NormFloat64()
			for c := 100.0; c < 20000; c += 200 { // peaks fill more than half of the trace
				if d := (x - c) / 25; math.Abs(d) < 5 {
					y[i] += 500 * math.Exp(-d*d/2)
				}
			}
			if round {
				y[i] = math.Round(y[i])
			}
		}
		return y
	}
	if sd := WhiteNoise(make1(false, 2)); math.Abs(sd/2-1) > 0.15 {
		t.Errorf("smooth signal: %g, want 2", sd)
	}
	// Rounding to whole numbers adds 1/12 to the variance.
	if sd, want := WhiteNoise(make1(true, 0.4)), math.Sqrt(0.16+1.0/12); math.Abs(sd/want-1) > 0.4 {
		t.Errorf("rounded signal: %g, want about %g", sd, want)
	}
}

func TestRefusesBadSamples(t *testing.T) {
	good := []float64{0, 1, 2, 3, 4, 5, 6, 7, 8, 9}
	with := func(i int, v float64) []float64 {
		c := append([]float64(nil), good...)
		c[i] = v
		return c
	}
	for _, c := range []struct {
		name   string
		t, y   []float64
		offend int
	}{
		{"not a number", good, with(4, math.NaN()), 4},
		{"infinite", good, with(7, math.Inf(-1)), 7},
		{"time goes back", with(5, 3.5), good, 5},
		{"time repeats", with(5, 4), good, 5},
		{"one point", []float64{1}, []float64{2}, 1},
	} {
		_, err := New(c.t, c.y)
		var at *PointError
		if !errors.As(err, &at) || at.Index != c.offend {
			t.Errorf("%s: got %v, want a refusal at index %d", c.name, err, c.offend)
		}
	}
}

func TestEnvelopeKeepsExtremes(t *testing.T) {
	y := make([]float64, 10000)
	y[1234], y[8765] = 50, -70
	tr, err := NewUniform(0, 0.1, y)
	if err != nil {
		t.Fatal(err)
	}
	times, values := tr.Envelope(0, 1000, 100)
	low, high := math.Inf(1), math.Inf(-1)
	for i, v := range values {
		low, high = min(low, v), max(high, v)
		if i > 0 && times[i] < times[i-1] {
			t.Fatal("times run backwards")
		}
	}
	if low != -70 || high != 50 || len(values) > 200 {
		t.Errorf("got %d points from %g to %g", len(values), low, high)
	}
}

func TestUnevenTimesAreKept(t *testing.T) {
	times := []float64{0, 1, 2, 3.5, 4, 5, 6, 7, 8}
	values := []float64{0, 2, 4, 7, 8, 10, 12, 14, 16}
	tr, err := New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	if tr.TimesS == nil || tr.TimeS(3) != 3.5 || math.Abs(tr.ValueAt(3.2)-6.4) > 1e-12 || tr.Index(3.7) != 3 {
		t.Errorf("uneven trace: %+v", tr)
	}
	for i, v := range tr.Even() {
		if math.Abs(v-2*float64(i)) > 1e-12 {
			t.Errorf("even[%d] = %g", i, v)
		}
	}
}

// The curvature alone is the curvature of the whole fit.
func TestCurvatureIsThatOfTheFit(t *testing.T) {
	y := make([]float64, 3000)
	for i := range y {
		y[i] = 1e6 + 100*math.Sin(float64(i)/17) + float64(i*i%13)
	}
	for _, half := range []int{1, 2, 7, 60, 1499} {
		want, got := Fit(y, half).Curvature, Curvature(y, half)
		for i := range want {
			if math.Abs(got[i]-want[i]) > 1e-9*(1+math.Abs(want[i])) {
				t.Fatalf("half %d, sample %d: %g, want %g", half, i, got[i], want[i])
			}
		}
	}
}

// Under narrow peaks the modelled background is the line they stand on.
func TestBackgroundGoesUnderThePeaks(t *testing.T) {
	y, ground := make([]float64, 6000), make([]float64, 6000)
	for i := range y {
		x := float64(i)
		ground[i] = 50 + 20*math.Sin(x/1500)
		y[i] = ground[i]
		for _, centre := range []float64{800, 1700, 1760, 3300, 4100, 5200} {
			y[i] += 200 * math.Exp(-(x-centre)*(x-centre)/(2*15*15))
		}
		y[i] += 0.2 * math.Sin(1e4*x*x)
	}
	got := Background(y, 700)
	for i := 100; i < len(y)-100; i++ {
		if math.Abs(got[i]-ground[i]) > 1 {
			t.Fatalf("at %d it is %.2f, the line %.2f", i, got[i], ground[i])
		}
	}
	if short := Background([]float64{1, 2, 3}, 5); len(short) != 3 {
		t.Error(short)
	}
}

func TestSelectionIsWhatSortingGives(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	for range 300 {
		v := make([]float64, 1+rng.IntN(90))
		for i := range v {
			v[i] = float64(rng.IntN(20)) // with many that are alike
		}
		sorted := slices.Clone(v)
		slices.Sort(sorted)
		k := rng.IntN(len(v))
		if got := nth(slices.Clone(v), k); got != sorted[k] {
			t.Fatalf("%v at %d: %g, want %g", v, k, got, sorted[k])
		}
	}
}
