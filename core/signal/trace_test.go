package signal

import (
	"math"
	"math/rand/v2"
	"testing"
)

// Times within a hundredth of the median step are one step; beyond that every time is kept.
func TestWhatCountsAsUniform(t *testing.T) {
	for name, c := range map[string]struct {
		jitter  float64
		uniform bool
	}{"half a percent": {0.005, true}, "five percent": {0.05, false}} {
		times, values := make([]float64, 50), make([]float64, 50)
		for i := range times {
			times[i] = float64(i)
		}
		times[20] += c.jitter
		tr, err := New(times, values)
		if err != nil || (tr.TimesS == nil) != c.uniform || math.Abs(tr.EndS()-49) > 1e-9 {
			t.Errorf("%s: %v, %v", name, tr.TimesS == nil, err)
		}
	}
	if _, err := New(make([]float64, 9), make([]float64, 10)); err == nil {
		t.Error("nine times for ten values were taken")
	}
	for name, f := range map[string]func() error{
		"no step":       func() error { _, err := NewUniform(0, 0, make([]float64, 10)); return err },
		"infinite step": func() error { _, err := NewUniform(0, math.Inf(1), make([]float64, 10)); return err },
		"no start":      func() error { _, err := NewUniform(math.NaN(), 1, make([]float64, 10)); return err },
	} {
		if f() == nil {
			t.Errorf("%s was taken", name)
		}
	}
}

// Index and ValueAt agree with a plain search on even and uneven traces.
func TestFindingPlaces(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 9))
	times, values := make([]float64, 200), make([]float64, 200)
	at := 0.0
	for i := range times {
		at += 0.2 + rng.Float64()
		times[i], values[i] = at, rng.NormFloat64()
	}
	uneven, err := New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	even, err := NewUniform(3, 0.25, values)
	if err != nil {
		t.Fatal(err)
	}
	for _, tr := range []Trace{uneven, even} {
		for range 500 {
			x := tr.TimeS(0) - 1 + (tr.EndS()-tr.TimeS(0)+2)*rng.Float64()
			nearest := 0
			for i := range values {
				if math.Abs(tr.TimeS(i)-x) < math.Abs(tr.TimeS(nearest)-x) {
					nearest = i
				}
			}
			if got := tr.Index(x); math.Abs(math.Abs(tr.TimeS(got)-x)-math.Abs(tr.TimeS(nearest)-x)) > 1e-9 {
				t.Fatalf("nearest to %g is %d, not %d", x, nearest, got)
			}
			v := tr.ValueAt(x)
			low, high := math.Inf(1), math.Inf(-1)
			for _, i := range []int{max(0, nearest-1), nearest, min(len(values)-1, nearest+1)} {
				low, high = math.Min(low, values[i]), math.Max(high, values[i])
			}
			if v < low-1e-12 || v > high+1e-12 {
				t.Fatalf("the value at %g is %g, outside %g to %g", x, v, low, high)
			}
		}
	}
}

// Reduced for drawing, a random stretch keeps its least and greatest values, its order, and its size.
func TestEnvelopesOfRandomStretches(t *testing.T) {
	rng := rand.New(rand.NewPCG(2, 4))
	values := make([]float64, 5000)
	for i := range values {
		values[i] = rng.NormFloat64()
	}
	tr, err := NewUniform(0, 0.1, values)
	if err != nil {
		t.Fatal(err)
	}
	for range 200 {
		a, b := 500*rng.Float64(), 500*rng.Float64()
		from, to, columns := math.Min(a, b), math.Max(a, b), 1+rng.IntN(300)
		times, got := tr.Envelope(from, to, columns)
		first, last := max(0, tr.Index(from)-1), min(len(values)-1, tr.Index(to)+1)
		low, high := math.Inf(1), math.Inf(-1)
		for i := first; i <= last; i++ {
			low, high = math.Min(low, values[i]), math.Max(high, values[i])
		}
		seenLow, seenHigh := math.Inf(1), math.Inf(-1)
		for i, v := range got {
			seenLow, seenHigh = math.Min(seenLow, v), math.Max(seenHigh, v)
			if i > 0 && times[i] < times[i-1] {
				t.Fatal("times run backwards")
			}
		}
		if seenLow != low || seenHigh != high || len(got) > max(2*columns, last-first+1) {
			t.Fatalf("%d columns from %g to %g: %d points from %g to %g, want %g to %g", columns, from, to, len(got), seenLow, seenHigh, low, high)
		}
	}
}

// Peak-to-peak noise is that of the noise, whatever straight drift lies under it.
func TestPeakToPeakTakesDriftOut(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 1))
	flat, tilted := make([]float64, 1000), make([]float64, 1000)
	for i := range flat {
		flat[i] = rng.NormFloat64()
		tilted[i] = flat[i] + 0.5*float64(i)
	}
	a, err1 := NewUniform(0, 0.1, flat)
	b, err2 := NewUniform(0, 0.1, tilted)
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	h1, ok1 := PeakToPeak(a, 10, 80)
	h2, ok2 := PeakToPeak(b, 10, 80)
	if !ok1 || !ok2 || math.Abs(h1/h2-1) > 1e-6 || h1 < 4 || h1 > 9 {
		t.Errorf("%g and %g", h1, h2)
	}
	if _, ok := PeakToPeak(a, 10, 10.3); ok {
		t.Error("four samples are no stretch of noise")
	}
}

// Spikes of one and two samples go, slopes and wider things stay.
func TestSpikesAreTakenOut(t *testing.T) {
	y := make([]float64, 100)
	for i := range y {
		y[i] = float64(i)
	}
	clean := append([]float64(nil), y...)
	y[30], y[60], y[61] = 900, -900, -900
	for i, v := range WithoutSpikes(y, 2, 0) {
		if math.Abs(v-clean[i]) > 3 {
			t.Errorf("sample %d is %g", i, v)
		}
	}
	if got := WithoutSpikes(clean, 2, 0); got[50] != 50 || got[0] != 0 || got[99] != 99 {
		t.Error("a slope was changed")
	}
}

// The quiet level holds while peaks fill half of the trace, and for noise of long memory.
func TestQuietLevel(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	y := make([]float64, 20000)
	for i := range y {
		y[i] = rng.NormFloat64()
		if i/1000%2 == 1 {
			y[i] += 50 * math.Sin(float64(i)/20)
		}
	}
	if got := QuietLevel(y, 500); math.Abs(got-1) > 0.25 {
		t.Errorf("%g, want about 1", got)
	}
	if got := QuietLevel(y[:30], 500); got <= 0 {
		t.Errorf("a short signal: %g", got)
	}
}
