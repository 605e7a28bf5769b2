package curves

import (
	"errors"
	"math"
	"testing"
)

// Every model reads back what it was made from, with every weight that its points allow.
func TestEveryModelReadsBackWhatItWasMadeFrom(t *testing.T) {
	shapes := map[Model]func(x float64) float64{
		Linear:          func(x float64) float64 { return 4 + 2.5*x },
		LinearOrigin:    func(x float64) float64 { return 2.5 * x },
		Quadratic:       func(x float64) float64 { return 4 + 2.5*x - 0.004*x*x },
		QuadraticOrigin: func(x float64) float64 { return 2.5*x - 0.004*x*x },
		LogLog:          func(x float64) float64 { return 3 * math.Pow(x, 0.93) },
		Average:         func(x float64) float64 { return 2.5 * x },
	}
	for m := range shapes {
		for _, w := range []Weight{Unweighted, PerX, PerX2, PerY, PerY2} {
			var points []Point
			for _, x := range []float64{1, 2, 5, 20, 60, 120} {
				points = append(points, Point{X: x, Y: shapes[m](x)})
			}
			f, err := New(points, m, w)
			if err != nil {
				t.Fatalf("%s %s: %v", m, w, err)
			}
			for _, x := range []float64{1.5, 17, 90} {
				got, err := f.Read([]float64{shapes[m](x), shapes[m](x)})
				if err != nil || math.Abs(got.X/x-1) > 1e-8 || math.Abs(f.At(x)/shapes[m](x)-1) > 1e-8 {
					t.Errorf("%s %s at %g: read %g, curve %g, %v", m, w, x, got.X, f.At(x), err)
				}
			}
			for i, p := range f.Points {
				if p.BackCalculated == nil || math.Abs(*p.BackCalculated/p.X-1) > 1e-7 || p.Weight <= 0 {
					t.Errorf("%s %s, point %d: %+v", m, w, i+1, p)
				}
			}
		}
	}
}

func TestReadingWhereThereIsNothingToRead(t *testing.T) {
	bent, err := New([]Point{{X: 0, Y: 0}, {X: 2, Y: 16}, {X: 5, Y: 25}, {X: 8, Y: 16.1}, {X: 10, Y: 0.1}}, Quadratic, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	var beyond *BeyondTurn
	if _, err := bent.Read([]float64{40}); !errors.As(err, &beyond) || math.Abs(beyond.X-5) > 0.1 {
		t.Errorf("never reached: %v", err)
	}
	line, err := New([]Point{{X: 1, Y: 1}, {X: 2, Y: 2}, {X: 3, Y: 3.1}}, Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := line.Read(nil); err == nil {
		t.Error("read without a response")
	}
	if _, err := line.Read([]float64{math.Inf(1)}); err == nil {
		t.Error("read an infinite response")
	}
	logs, err := New([]Point{{X: 1, Y: 1}, {X: 10, Y: 11}, {X: 100, Y: 99}}, LogLog, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := logs.Read([]float64{-1}); !errors.Is(err, ErrNoRoot) {
		t.Errorf("the logarithm of a negative response: %v", err)
	}
}

// More replicates of the unknown narrow its interval, down to what the curve itself leaves open.
func TestReplicatesNarrowTheInterval(t *testing.T) {
	f, err := New([]Point{{X: 0, Y: 2.1}, {X: 2, Y: 5}, {X: 4, Y: 9}, {X: 6, Y: 12.6}, {X: 8, Y: 17.3}, {X: 10, Y: 21}, {X: 12, Y: 24.7}}, Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	last := math.Inf(1)
	for _, m := range []int{1, 2, 5, 50} {
		r, err := f.Read(repeat(13.5, m))
		if err != nil || *r.StandardError >= last {
			t.Errorf("%d replicates: %g, before %g, %v", m, *r.StandardError, last, err)
		}
		if width := r.CI95[1] - r.CI95[0]; width <= 2*1.9**r.StandardError {
			t.Errorf("interval %g for a standard error of %g", width, *r.StandardError)
		}
		last = *r.StandardError
	}
	if band := f.Band(6.2); band == nil || *band <= 0 || *f.Band(0) <= *band {
		t.Error("the band is narrowest in the middle of the points")
	}
}

func TestUnknownShapesAndPointsAreRefused(t *testing.T) {
	good := []Point{{X: 1, Y: 1}, {X: 2, Y: 2}, {X: 3, Y: 3}}
	for what, f := range map[string]func() error{
		"an unknown model":      func() error { _, err := New(good, "cubic", Unweighted); return err },
		"an unknown weight":     func() error { _, err := New(good, Linear, "x"); return err },
		"no points":             func() error { _, err := New(nil, Linear, Unweighted); return err },
		"all points out":        func() error { _, err := New([]Point{{X: 1, Y: 1, Out: true}}, LinearOrigin, Unweighted); return err },
		"the logarithm of zero": func() error { _, err := New([]Point{{X: 0, Y: 1}, {X: 2, Y: 2}}, LogLog, Unweighted); return err },
		"only a level at zero":  func() error { _, err := New([]Point{{X: 0, Y: 1}, {X: 0, Y: 2}}, LinearOrigin, Unweighted); return err },
		"a negative weight": func() error {
			_, err := New([]Point{{X: 1, Y: -1}, {X: 2, Y: 2}, {X: 3, Y: 3}}, Linear, PerY)
			return err
		},
		"three levels of which 2 are": func() error {
			_, err := New([]Point{{X: 1, Y: 1}, {X: 1, Y: 2}, {X: 2, Y: 3}}, Quadratic, Unweighted)
			return err
		},
	} {
		if f() == nil {
			t.Errorf("%s was taken", what)
		}
	}
}

// A curve that is nearly flat in logarithms reads beyond all numbers: it is called flat.
func TestNearlyFlatInLogarithms(t *testing.T) {
	f, err := New([]Point{{X: 1, Y: 1}, {X: 10, Y: 1.001}, {X: 100, Y: 1.0021}}, LogLog, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	if r, err := f.Read([]float64{5}); !errors.Is(err, ErrFlat) {
		t.Errorf("%+v %v", r, err)
	}
}

// Levels over eighteen decades leave the covariance of the plain coefficients badly conditioned; its variances stay numbers.
func TestVariancesStayAboveZeroOverManyDecades(t *testing.T) {
	for _, m := range []Model{Linear, Quadratic} {
		f, err := New([]Point{{X: 0.025, Y: 0.02}, {X: 0.125, Y: 0.1}, {X: 0.5, Y: 0.4}, {X: 2.5, Y: 2}, {X: 1e9, Y: 1}}, m, PerX2)
		if err != nil {
			t.Fatal(err)
		}
		for i, se := range f.StandardErrors {
			if math.IsNaN(se) || f.Covariance[i][i] < 0 {
				t.Errorf("%s: b%d has the standard error %g", m, i, se)
			}
		}
	}
	if f, err := New([]Point{{X: 0, Y: 2, Out: true}, {X: 1, Y: 2}, {X: 10, Y: 21}, {X: 100, Y: 195}}, LogLog, Unweighted); err != nil || math.IsInf(f.Points[0].Fitted, 0) {
		t.Errorf("a level at zero that is not in use: %v", err)
	}
}

// Quadratics are read on the branch that holds their range, beyond both ends as far as the branch goes: rising and falling, bent up and down.
func TestAQuadraticIsReadBeyondItsEnds(t *testing.T) {
	for name, c := range map[string]struct{ b0, b1, b2 float64 }{
		"rising, bent down":  {5, 100, -0.004},
		"rising, bent up":    {5, 100, 0.01},
		"falling, bent up":   {1e6, -100, 0.004},
		"falling, bent down": {1e6, -20, -0.004},
		"turning below":      {2e4, -1, 0.01}, // at 50, below the lowest level
	} {
		at := func(x float64) float64 { return c.b0 + c.b1*x + c.b2*x*x }
		var points []Point
		for _, x := range []float64{100, 500, 1000, 2500, 5000, 10000} {
			points = append(points, Point{X: x, Y: at(x)})
		}
		f, err := New(points, Quadratic, Unweighted)
		if err != nil {
			t.Fatal(err)
		}
		turn := -c.b1 / (2 * c.b2)
		for _, x := range []float64{60, 99, 100, 3333, 10000, 10372, 12000} {
			r, err := f.Read([]float64{at(x)})
			if err != nil || math.Abs(r.X/x-1) > 1e-6 || r.StandardError == nil {
				t.Errorf("%s: %g is read as %g, %v", name, x, r.X, err)
			}
		}
		past := at(turn) + 10*(at(turn)-at(5000))/math.Abs(turn-5000)
		var beyond *BeyondTurn
		if _, err := f.Read([]float64{past}); !errors.As(err, &beyond) || math.Abs(beyond.X/turn-1) > 1e-6 || beyond.Above != (turn > 5000) {
			t.Errorf("%s: beyond the turn at %g: %v", name, turn, err)
		}
	}
	// Standards that scatter beyond an end have a deviation like all others.
	f, err := New([]Point{{X: 100, Y: 900}, {X: 100, Y: 1100}, {X: 1000, Y: 1e4}, {X: 5000, Y: 4.8e4}, {X: 10000, Y: 9e4}, {X: 10000, Y: 9.3e4}}, Quadratic, PerX)
	if err != nil {
		t.Fatal(err)
	}
	for i, p := range f.Points {
		if p.DeviationPercent == nil {
			t.Errorf("standard %d at %g has no deviation", i+1, p.X)
		}
	}
}
