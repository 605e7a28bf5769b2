package curves

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"testing"
)

// A worked case in high precision: ten levels of four, slightly curved, with a spread that grows.
func TestDiagnosticsOfTheReference(t *testing.T) {
	raw, err := os.ReadFile("testdata/b04_tests_full.json")
	if err != nil {
		t.Fatal(err)
	}
	var ref struct {
		Input    struct{ X, Y []float64 }
		Expected struct {
			LackOfFit, Mandel struct{ F, DF1, DF2, P float64 }
			Lack              struct{ F, DF1, DF2, P float64 } `json:"lack_of_fit"`
			Levene            struct{ W, P float64 }           `json:"levene_mean"`
		}
	}
	if err := json.Unmarshal(raw, &ref); err != nil {
		t.Fatal(err)
	}
	points := make([]Point, len(ref.Input.X))
	for i := range points {
		points[i] = Point{X: ref.Input.X[i], Y: ref.Input.Y[i]}
	}
	f, err := New(points, Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	got := f.Diagnose()
	same := func(what string, got *Test, f, df1, df2, p float64) {
		t.Helper()
		if got == nil || math.Abs(got.Statistic/f-1) > 1e-8 || math.Abs(got.P/p-1) > 1e-6 || got.DF1 != df1 || got.DF2 != df2 {
			t.Errorf("%s: %+v, want F %g, df %g and %g, p %g", what, got, f, df1, df2, p)
		}
	}
	want := ref.Expected
	same("lack of fit", got.LackOfFit, want.Lack.F, want.Lack.DF1, want.Lack.DF2, want.Lack.P)
	same("Mandel", got.Mandel, want.Mandel.F, want.Mandel.DF1, want.Mandel.DF2, want.Mandel.P)
	same("equal variance", got.EqualVariance, want.Levene.W, 9, 30, want.Levene.P)
}

// Two replicates are equally far from their mean whatever their spread, so levels of two say nothing to Levene's test, also beside one of three.
func TestEqualVarianceNeedsThreeReplicatesAtEachLevel(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 8))
	cried, judged := 0, 0
	const runs = 400
	for range runs {
		var two, three []Point
		for k, x := range []float64{1, 2, 5, 10, 20} {
			for r := range 3 {
				p := Point{X: x, Y: 3*x + rng.NormFloat64()}
				three = append(three, p)
				if r < 2 || k == 2 {
					two = append(two, p)
				}
			}
		}
		for _, points := range [][]Point{two, three} {
			f, err := New(points, Linear, Unweighted)
			if err != nil {
				t.Fatal(err)
			}
			test := f.Diagnose().EqualVariance
			switch {
			case len(points) == len(two) && test != nil:
				t.Fatalf("duplicates and one triplicate are judged: %+v", test)
			case len(points) == len(three) && test == nil:
				t.Fatal("triplicates are not judged")
			case test != nil:
				judged++
				if test.P < 0.05 {
					cried++
				}
			}
		}
	}
	// About the means, the test is known to be liberal with few replicates; it must not cry wolf in most sets.
	if judged != runs || cried > runs/4 {
		t.Errorf("of %d sets of equal variance %d are called unequal", judged, cried)
	}
}

// Of true straight lines about one in twenty is called curved at 5 %, weighted or not.
func TestDiagnosticsAreRightAsOftenAsTheySay(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	for _, w := range []Weight{Unweighted, PerX2} {
		lack, mandel := 0, 0
		const runs = 600
		for range runs {
			var points []Point
			for _, x := range []float64{1, 2, 5, 10, 20, 50} {
				for range 3 {
					sd := 0.5
					if w == PerX2 {
						sd = 0.03 * x
					}
					points = append(points, Point{X: x, Y: 2 + 3*x + sd*rng.NormFloat64()})
				}
			}
			f, err := New(points, Linear, w)
			if err != nil {
				t.Fatal(err)
			}
			d := f.Diagnose()
			if d.LackOfFit.P < 0.05 {
				lack++
			}
			if d.Mandel.P < 0.05 {
				mandel++
			}
		}
		for what, n := range map[string]int{"lack of fit": lack, "Mandel": mandel} {
			if share := float64(n) / runs; share < 0.025 || share > 0.08 {
				t.Errorf("weight %s: %s calls %.1f %% of straight lines curved", w, what, 100*share)
			}
		}
	}
}

func TestDiagnosticsThatThePointsDoNotAllow(t *testing.T) {
	single, err := New([]Point{{X: 1, Y: 1.1}, {X: 2, Y: 2}, {X: 3, Y: 3.1}, {X: 4, Y: 3.9}}, Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	if d := single.Diagnose(); d.LackOfFit != nil || d.EqualVariance != nil || d.Mandel == nil {
		t.Errorf("without replicates: %+v", d)
	}
	pairs, err := New([]Point{{X: 1, Y: 1.1}, {X: 1, Y: 1}, {X: 2, Y: 2}, {X: 2, Y: 2.2}, {X: 3, Y: 3.1}, {X: 3, Y: 3}}, LinearOrigin, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	if d := pairs.Diagnose(); d.LackOfFit == nil || d.Mandel != nil || d.EqualVariance != nil {
		t.Errorf("duplicates through zero: %+v", d)
	}
}
