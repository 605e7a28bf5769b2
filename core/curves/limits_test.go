package curves

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
)

func readInto(t *testing.T, name string, into any) {
	t.Helper()
	raw, err := os.ReadFile("testdata/" + name + ".json")
	if err == nil {
		err = json.Unmarshal(raw, into)
	}
	if err != nil {
		t.Fatal(err)
	}
}

func fitted(t *testing.T, xs, ys []float64, m Model, w Weight) Fit {
	t.Helper()
	f, err := New(pointsOf(xs, ys), m, w)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func pointsOf(xs, ys []float64) []Point {
	points := make([]Point, len(xs))
	for i := range xs {
		points[i] = Point{X: xs[i], Y: ys[i]}
	}
	return points
}

func closeTo(t *testing.T, what string, got *float64, want, relative float64) {
	t.Helper()
	if got == nil || math.Abs(*got-want) > relative*math.Abs(want) {
		t.Errorf("%s: %v, want %.12g", what, got, want)
	}
}

func TestLimitsOfTheReference(t *testing.T) {
	var ref struct {
		Input struct {
			X, Y       []float64
			Replicates []float64 `json:"replicates_at_0p5"`
			Blanks     []float64
		}
		Expected struct {
			Variants map[string]struct{ S, LOD, LOQ float64 }
		}
	}
	readInto(t, "b05_lod_variants", &ref)
	f := fitted(t, ref.Input.X, ref.Input.Y, Linear, Unweighted)
	got := map[LimitWay]Limit{}
	for _, l := range f.Limits(LowEvidence{Replicates: ref.Input.Replicates, Blanks: ref.Input.Blanks, SignalToNoise: []float64{20, 20}}) {
		got[l.Way] = l
	}
	for way, name := range map[LimitWay]string{ByResidualSD: "residual_sd", ByIntercept: "sd_of_intercept", ByReplicates: "sd_of_replicates_low_level", ByBlanks: "sd_of_blanks"} {
		want := ref.Expected.Variants[name]
		closeTo(t, name+" σ", got[way].Sigma, want.S, 1e-8)
		closeTo(t, name+" LOD", got[way].LOD, want.LOD, 1e-8)
		closeTo(t, name+" LOQ", got[way].LOQ, want.LOQ, 1e-8)
	}
	closeTo(t, "LOD by signal-to-noise", got[BySignalNoise].LOD, 0.5*3/20, 1e-12)
	closeTo(t, "LOQ by signal-to-noise", got[BySignalNoise].LOQ, 0.5*10/20, 1e-12)
	closeTo(t, "lowest level", got[ByLowestLevel].LOQ, 0.5, 0)
}

func TestLimitsThatCannotBeHadSayWhy(t *testing.T) {
	f := fitted(t, []float64{1, 2}, []float64{1, 2}, Linear, Unweighted)
	for _, l := range f.Limits(LowEvidence{Blanks: []float64{1, 2}}) {
		if l.Way != ByLowestLevel && (l.LOD != nil || l.Problem == "") {
			t.Errorf("%+v", l)
		}
	}
	through := fitted(t, []float64{1, 2, 3}, []float64{1, 2.1, 3}, LinearOrigin, Unweighted)
	if l := through.Limits(LowEvidence{})[1]; l.Way != ByIntercept || l.LOQ != nil || !strings.Contains(l.Problem, "no intercept") {
		t.Errorf("%+v", l)
	}
}

func TestStandardAdditionOfTheTextbook(t *testing.T) {
	var ref struct {
		Input struct {
			X []float64 `json:"x_added"`
			Y []float64
		}
		Expected struct {
			X  float64   `json:"x_extrapolated"`
			S  float64   `json:"s_xE"`
			CI []float64 `json:"ci95"`
		}
	}
	readInto(t, "b07_standard_addition_textbook", &ref)
	got, err := StandardAddition(pointsOf(ref.Input.X, ref.Input.Y), Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	closeTo(t, "amount", &got.X, ref.Expected.X, 1e-8)
	closeTo(t, "standard error", got.StandardError, ref.Expected.S, 1e-8)
	closeTo(t, "lower end", &got.CI95[0], ref.Expected.CI[0], 1e-7)
	closeTo(t, "upper end", &got.CI95[1], ref.Expected.CI[1], 1e-7)
	if _, err := StandardAddition(pointsOf([]float64{0, 1, 2}, []float64{3, 2, 1}), Unweighted); err == nil {
		t.Error("a falling response gives an amount")
	}
	if _, err := StandardAddition(pointsOf([]float64{0, 0, 0}, []float64{3, 2, 1}), Unweighted); err == nil {
		t.Error("nothing was added, and still an amount")
	}
}

func TestGrubbsOfTheReference(t *testing.T) {
	var ref struct {
		Input    struct{ Values []float64 }
		Expected struct {
			Index    int
			G        float64
			P        float64 `json:"p_two_sided_bonferroni"`
			Critical float64 `json:"critical_two_sided"`
		}
	}
	readInto(t, "b04_grubbs_outlier", &ref)
	got, ok := Grubbs(ref.Input.Values)
	if !ok || got.Index != ref.Expected.Index {
		t.Fatalf("%+v", got)
	}
	closeTo(t, "G", &got.Statistic, ref.Expected.G, 1e-10)
	closeTo(t, "critical", &got.Critical, ref.Expected.Critical, 1e-8)
	closeTo(t, "p", &got.P, ref.Expected.P, 1e-6)
	for _, values := range [][]float64{{}, {1, 2}, {3, 3, 3}} {
		if _, ok := Grubbs(values); ok {
			t.Errorf("%v is tested", values)
		}
	}
}

func TestCochranOfTheReference(t *testing.T) {
	var ref struct {
		Input    struct{ X, Y []float64 }
		Expected struct{ Cochran struct{ C, P float64 } }
	}
	readInto(t, "b04_tests_full", &ref)
	got := fitted(t, ref.Input.X, ref.Input.Y, Linear, Unweighted).Diagnose().Cochran
	closeTo(t, "C", &got.Statistic, ref.Expected.Cochran.C, 1e-8)
	closeTo(t, "p", &got.P, ref.Expected.Cochran.P, 1e-6)
}

// One point moved off a line is the one that stands out, and of lines alone few points do.
func TestStudentisedResidualsFindTheOutlier(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	false5, runs := 0, 300
	for range runs {
		var xs, ys []float64
		for x := 1.0; x <= 12; x++ {
			xs, ys = append(xs, x), append(ys, 5+2*x+0.1*rng.NormFloat64())
		}
		for _, p := range fitted(t, xs, ys, Linear, Unweighted).Points {
			if *p.OutlierP < 0.05 {
				false5++
				break
			}
		}
		ys[7] += 1.5
		f := fitted(t, xs, ys, Linear, Unweighted)
		if p := f.Points[7]; *p.OutlierP > 1e-3 || *p.Studentised < 5 {
			t.Fatalf("%+v", p)
		}
	}
	if share := float64(false5) / float64(runs); share < 0.01 || share > 0.09 {
		t.Errorf("%.1f %% of true lines have an outlier at 5 %%", 100*share)
	}
}

// Against leaving each point out by hand: the studentised residual is the prediction error over its own standard error.
func TestStudentisedResidualsAreThoseOfTheFitWithoutThePoint(t *testing.T) {
	xs, ys := []float64{1, 2, 4, 8, 16, 32}, []float64{1.2, 1.9, 4.3, 7.6, 16.5, 31.7}
	for _, w := range []Weight{Unweighted, PerX} {
		f := fitted(t, xs, ys, Linear, w)
		for i := range xs {
			points := pointsOf(xs, ys)
			points[i].Out = true
			rest, err := New(points, Linear, w)
			if err != nil {
				t.Fatal(err)
			}
			variance := *rest.ResidualSD * *rest.ResidualSD * (rest.meanWeight / w.at(xs[i], ys[i]))
			band := quadratic(rest.basis.at(xs[i]), rest.scaledCov)
			want := (ys[i] - rest.At(xs[i])) / math.Sqrt(variance+band)
			closeTo(t, "studentised", f.Points[i].Studentised, want, 1e-9)
		}
	}
}

func TestTheWidestRangeThatHolds(t *testing.T) {
	// A detector that saturates above 100 and a level at 0.5 that reads a third too high.
	xs := []float64{0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500}
	var points []Point
	for _, x := range xs {
		y := 10 * x / (1 + math.Pow(x/900, 2))
		if x == 0.5 {
			y *= 1.35
		}
		points = append(points, Point{X: x, Y: y * 1.004}, Point{X: x, Y: y * 0.996})
	}
	r, ok := WidestRange(points, Linear, PerX2, LeastLevels, 5)
	if !ok || r.LowX != 1 || r.HighX != 100 || r.Levels != 7 {
		t.Fatalf("%+v %v", r, ok)
	}
	broken := map[float64]bool{}
	for _, b := range r.Breaks {
		broken[b.X] = true
		if b.DeviationPercent == nil || math.Abs(*b.DeviationPercent) < 3 {
			t.Errorf("%+v", b)
		}
	}
	if len(broken) != 3 || !broken[0.5] || !broken[200] || !broken[500] {
		t.Errorf("%v", broken)
	}
	if _, ok := WidestRange(points, Linear, PerX2, 11, 5); ok {
		t.Error("there are only ten levels")
	}
}

func TestOnePointAndMeans(t *testing.T) {
	f := fitted(t, []float64{50, 50, 50}, []float64{100, 102, 104}, OnePoint, Unweighted)
	closeTo(t, "response factor", &f.Coefficients[0], 2.04, 1e-12)
	r, err := f.Read([]float64{51})
	if err != nil || math.Abs(r.X-25) > 1e-9 || r.StandardError == nil {
		t.Errorf("%+v %v", r, err)
	}
	if _, err := New(pointsOf([]float64{10, 50}, []float64{20, 100}), OnePoint, Unweighted); err == nil || !strings.Contains(err.Error(), "one level") {
		t.Errorf("two levels for one point: %v", err)
	}
	xs, ys := []float64{1, 1, 2, 2, 4, 4}, []float64{1, 1.2, 2.1, 1.9, 4.2, 3.8}
	averaged, err := NewAveraged(pointsOf(xs, ys), Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	means := fitted(t, []float64{1, 2, 4}, []float64{1.1, 2, 4}, Linear, Unweighted)
	if averaged.DegreesOfFreedom != 1 || len(averaged.Points) != 6 {
		t.Errorf("%+v", averaged)
	}
	closeTo(t, "slope", &averaged.Coefficients[1], means.Coefficients[1], 1e-12)
}

// A curve through means is judged by the quadratic through the same means, and by the replicates themselves.
func TestACurveThroughMeansIsJudgedByMeans(t *testing.T) {
	var points, means []Point
	for i, x := range []float64{1, 2, 4, 8, 16} {
		y := 10*x + float64(i%2)
		points = append(points, Point{X: x, Y: y * 1.2}, Point{X: x, Y: y * 0.8})
		means = append(means, Point{X: x, Y: y})
	}
	f, err := NewAveraged(points, Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	plain, err := New(means, Linear, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	got, want := f.Diagnose(), plain.Diagnose()
	closeTo(t, "Mandel", &got.Mandel.Statistic, want.Mandel.Statistic, 1e-9)
	if got.LackOfFit == nil || got.LackOfFit.DF2 != 5 {
		t.Errorf("%+v", got.LackOfFit)
	}
}

func TestLimitsOverDays(t *testing.T) {
	limit := func(way LimitWay, lod, loq float64) Limit { return Limit{Way: way, LOD: &lod, LOQ: &loq} }
	ways, proposed := OverDays([][]Limit{
		{limit(ByResidualSD, 1, 3), limit(ByBlanks, 0.5, 1.5), {Way: ByLowestLevel, LOQ: greatest([]float64{9})}},
		{limit(ByResidualSD, 2, 6), limit(ByBlanks, 0.7, 2.1)},
		{limit(ByResidualSD, 1.5, 4.5), {Way: ByBlanks, Problem: "it needs at least three blanks"}},
	})
	if proposed == nil || proposed.Way != ByResidualSD || *proposed.LOQ != 6 || *proposed.LOD != 2 {
		t.Fatalf("%+v", proposed)
	}
	for _, s := range ways {
		switch s.Way {
		case ByResidualSD:
			closeTo(t, "mean", s.MeanLOQ, 4.5, 1e-12)
			closeTo(t, "SD", s.SDLOQ, 1.5, 1e-12)
		case ByBlanks:
			if s.Days != 2 || *s.LOQ != 2.1 {
				t.Errorf("%+v", s)
			}
		}
	}
	if _, none := OverDays(nil); none != nil {
		t.Error("no days, and still a proposal")
	}
}

// With hundreds of levels the widest range is found at once, and it is the one that a plain search finds.
func TestTheWidestRangeOfManyLevels(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	many := func(n int) (points []Point) {
		for i := range n {
			x := 1 + float64(i)
			y := 10 * x * (1 + 0.01*rng.NormFloat64())
			if i > 3*n/4 {
				y *= 1 - 0.9*(x/float64(n)-0.75) // saturation
			}
			points = append(points, Point{X: x, Y: y})
		}
		return points
	}
	for _, m := range []Model{Linear, LinearOrigin, Quadratic, Average} {
		points := many(30)
		got, ok := WidestRange(points, m, PerX, 5, 3)
		want, found := Range{}, false
		levels := levelsOf(points)
	search:
		for count := len(levels); count >= 5; count-- {
			for from := 0; from+count <= len(levels); from++ {
				fit, err := New(restricted(points, levels[from], levels[from+count-1]), m, PerX)
				if err == nil && fit.holds(levels[from], levels[from+count-1], 3) {
					want, found = Range{LowX: levels[from], HighX: levels[from+count-1], Levels: count}, true
					break search
				}
			}
		}
		if ok != found || got.LowX != want.LowX || got.HighX != want.HighX {
			t.Errorf("%s: %+v, a plain search finds %+v", m, got, want)
		}
	}
	if r, ok := WidestRange(many(400), Linear, PerX, 5, 3); !ok || r.Levels < 5 {
		t.Errorf("%+v %v", r, ok)
	}
}

func TestWeightsOfSquaresRefuseNegativeValues(t *testing.T) {
	for _, w := range []Weight{PerX2, PerY2} {
		if _, err := New([]Point{{X: -1, Y: -2}, {X: 1, Y: 2}, {X: 2, Y: 4}}, Linear, w); err == nil {
			t.Errorf("%s took a negative value", w)
		}
	}
}
