package compare

import (
	"math"
	"testing"

	"yugen/core/signal"
)

func trace(t *testing.T, hz, seconds float64, at func(s float64) float64) signal.Trace {
	t.Helper()
	y := make([]float64, int(seconds*hz)+1)
	for i := range y {
		y[i] = at(float64(i) / hz)
	}
	tr, err := signal.NewUniform(0, 1/hz, y)
	if err != nil {
		t.Fatal(err)
	}
	return tr
}

func gauss(at, sigma, height float64) func(float64) float64 {
	return func(s float64) float64 { return height * math.Exp(-(s-at)*(s-at)/2/sigma/sigma) }
}

func TestLagFindsAShiftBetweenThePoints(t *testing.T) {
	for _, by := range []float64{0, 0.37, -2.81, 11.2, -29} {
		for _, hz := range []float64{1, 7, 50} {
			two := func(move float64) func(float64) float64 {
				return func(s float64) float64 { return 3 + gauss(200+move, 4, 80)(s) + gauss(420+move, 6, 30)(s) }
			}
			reference, moved := trace(t, 10, 600, two(0)), trace(t, hz, 600, two(by))
			if got := Lag(moved, reference, 30); math.Abs(got+by) > 0.03 {
				t.Errorf("moved by %g at %g Hz: %g", by, hz, got)
			}
		}
	}
	flat := trace(t, 10, 600, func(float64) float64 { return 5 })
	if got := Lag(flat, trace(t, 10, 600, gauss(100, 4, 10)), 30); got != 0 {
		t.Errorf("a flat trace is moved by %g", got)
	}
	later := Shifted(flat, 10000)
	if got := Lag(flat, later, 30); got != 0 {
		t.Errorf("traces without a time in common are moved by %g", got)
	}
}

func TestABlankIsTakenOffAtItsTime(t *testing.T) {
	got := Less(trace(t, 10, 100, func(s float64) float64 { return 2*s + 7 }), trace(t, 3, 60, func(s float64) float64 { return 2 * s }))
	if math.Abs(got.Values[555]-7) > 1e-9 || got.Values[700] != 147 {
		t.Errorf("%g where there is a blank, %g where there is none", got.Values[555], got.Values[700])
	}
}

func TestColumnsKeepTheGreatest(t *testing.T) {
	tr := trace(t, 100, 100, gauss(50.3, 0.05, 80)) // far narrower than a column
	got := Columns(tr, 0, 100, 20)
	if math.Abs(got[10]-80) > 0.1 || got[9] > 1e-5 {
		t.Errorf("%v", got)
	}
	got = Columns(tr, -50, 150, 20)
	if !math.IsNaN(got[0]) || !math.IsNaN(got[19]) || math.IsNaN(got[14]) {
		t.Errorf("outside of the run: %v", got)
	}
	sparse := Columns(trace(t, 0.1, 100, func(s float64) float64 { return s }), 0, 100, 200)
	if math.Abs(sparse[101]-50.75) > 1e-9 {
		t.Errorf("between points: %g", sparse[101])
	}
}

func TestUnlikeSeesShapeAndSize(t *testing.T) {
	row := func(values ...float64) []float64 { return values }
	for _, c := range []struct {
		name string
		a, b []float64
		want float64
	}{
		{"the same", row(0, 1, 5, 1), row(0, 1, 5, 1), 0},
		{"half the height", row(0, 1, 4, 1), row(0, 0.5, 2, 0.5), 50},
		{"another place", row(0, 5, 0, 0), row(0, 0, 0, 5), 100},
		{"nothing against something", row(0, 0), row(0, 3), 100},
		{"nothing against nothing", row(0, -1), row(0, 0), 0},
		{"not measured", row(math.NaN(), 1, 2), row(9, 1, 2), 0},
	} {
		if got := Unlike(c.a, c.b); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%s: %g %%, want %g", c.name, got, c.want)
		}
	}
}
