package curves

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

// replicates are n responses at each level with a constant and a proportional error, both as standard deviations.
func replicates(rng *rand.Rand, levels []float64, n int, constant, proportional float64) (list []Point) {
	for _, x := range levels {
		for range n {
			sd := math.Hypot(constant, proportional*x)
			list = append(list, Point{X: x, Y: 3 + 2*x + sd*rng.NormFloat64(), Level: &x})
		}
	}
	return list
}

// The modelled variance is the one that responses were made with: many replicates show both of its parts, whichever of them leads.
func TestTheSpreadOfReplicatesIsModelled(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 1))
	levels := []float64{0.5, 2, 10, 50, 200}
	for _, c := range [][2]float64{{1, 0}, {0.3, 0.02}, {0, 0.05}} {
		f, err := New(replicates(rng, levels, 400, c[0], c[1]), Linear, PerVariance)
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range levels {
			want := math.Hypot(c[0], c[1]*x)
			got := math.Sqrt(f.Variance.Constant + f.Variance.Proportional*x*x)
			if math.Abs(got/want-1) > 0.1 {
				t.Errorf("constant %g, proportional %g: s(%g) = %.4g, want %.4g", c[0], c[1], x, got, want)
			}
		}
	}
}

// The variance function is the one of greatest likelihood: none beside it fits better.
func TestTheModelledSpreadIsTheLikeliest(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 8))
	for range 40 {
		points := replicates(rng, []float64{0, 1, 5, 20, 100}, 3, 0.2, 0.03)
		g, err := newWeighting(points, Linear, PerVariance)
		if err != nil {
			t.Fatal(err)
		}
		loss := func(a, b float64) (sum float64) {
			for _, l := range g.levels {
				s2 := a + b*l.x*l.x
				sum += l.freedom * (math.Log(s2) + l.variance/s2)
			}
			return sum
		}
		least := loss(g.constant, g.proportional)
		for _, f := range []float64{0.9, 0.99, 1.01, 1.1} {
			if l := loss(g.constant*f, g.proportional); l < least-1e-9 {
				t.Errorf("a constant of %g fits better: %.12g, %.12g", g.constant*f, l, least)
			}
			if l := loss(g.constant, g.proportional*f); g.proportional > 0 && l < least-1e-9 {
				t.Errorf("a proportional part of %g fits better: %.12g, %.12g", g.proportional*f, l, least)
			}
		}
	}
}

// Weighted by their own spread, readings at the low end of a heteroscedastic curve hold the truth as often as their interval says.
func TestReadingsWeightedBySpreadCover(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 14))
	const runs = 1500
	for _, x := range []float64{2, 60} {
		inside := 0
		for range runs {
			f, err := New(replicates(rng, []float64{1, 5, 20, 50, 100}, 6, 0.1, 0.02), Linear, PerVariance)
			if err != nil {
				t.Fatal(err)
			}
			r, err := f.Read([]float64{3 + 2*x + math.Hypot(0.1, 0.02*x)*rng.NormFloat64()})
			if err != nil {
				t.Fatal(err)
			}
			if r.CI95[0] <= x && x <= r.CI95[1] {
				inside++
			}
		}
		if share := float64(inside) / runs; share < 0.925 || share > 0.975 {
			t.Errorf("at %g: %.3f of the intervals hold the truth", x, share)
		}
	}
}

func TestMeasuredSpreadNeedsSixReplicates(t *testing.T) {
	rng := rand.New(rand.NewPCG(2, 2))
	levels := []float64{1, 10, 100}
	if _, err := New(replicates(rng, levels, 5, 0.1, 0.02), Linear, PerMeasuredVariance); err == nil || !strings.Contains(err.Error(), "the level 1 has 5 replicates") {
		t.Errorf("%v", err)
	}
	points := replicates(rng, levels, 6, 0.1, 0.02)
	f, err := New(points, Linear, PerMeasuredVariance)
	if err != nil {
		t.Fatal(err)
	}
	// At a level the weight is one over its variance; the first two compare as their variances do.
	var ys [2][]float64
	for _, p := range points {
		if p.X < 100 {
			ys[int(math.Log10(p.X))] = append(ys[int(math.Log10(p.X))], p.Y)
		}
	}
	_, a := meanSD(ys[0])
	_, b := meanSD(ys[1])
	if got, want := f.Points[0].Weight/f.Points[6].Weight, b*b/(a*a); math.Abs(got/want-1) > 1e-12 {
		t.Errorf("weights compare as %g, variances as %g", got, want)
	}
}

func TestSpreadThatCannotBeAWeight(t *testing.T) {
	x, y := []float64{1, 2, 3, 4}, []float64{1.1, 2, 2.9, 4}
	for what, c := range map[string]struct {
		points []Point
		m      Model
		want   string
	}{
		"single standards": {pointsOf(x, y), Linear, "needs 2 and 4"},
		"no spread":        {pointsOf([]float64{1, 1, 1, 2, 2, 2, 3}, []float64{1, 1, 1, 2, 2, 2, 3.1}), Linear, "do not differ"},
		"logarithms":       {replicates(rand.New(rand.NewPCG(1, 1)), x, 3, 0, 0.01), LogLog, "logarithms"},
	} {
		if _, err := New(c.points, c.m, PerVariance); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// Weighted standard addition is the general least-squares estimate of b0/b1 with its error by propagation over the whole covariance.
func TestWeightedStandardAddition(t *testing.T) {
	points := pointsOf([]float64{0, 0, 10, 10, 20, 20, 40, 40}, []float64{20.4, 19.8, 40.9, 39.6, 61.2, 59.1, 101.9, 98.2})
	a, err := StandardAddition(points, PerY2)
	if err != nil {
		t.Fatal(err)
	}
	// By the normal equations, written out: weights 1/y², scaled to a mean of 1.
	var s, sx, sy, sxx, sxy, n float64
	for _, p := range points {
		w := 1 / (p.Y * p.Y)
		s, sx, sy, sxx, sxy, n = s+w, sx+w*p.X, sy+w*p.Y, sxx+w*p.X*p.X, sxy+w*p.X*p.Y, n+1
	}
	d := s*sxx - sx*sx
	b1, b0 := (s*sxy-sx*sy)/d, (sxx*sy-sx*sxy)/d
	rss := 0.0
	for _, p := range points {
		r := p.Y - b0 - b1*p.X
		rss += r * r / (p.Y * p.Y)
	}
	s2 := rss / (n - 2)
	v00, v11, v01 := s2*sxx/d, s2*s/d, -s2*sx/d
	x := b0 / b1
	se := math.Sqrt(v00-2*x*v01+x*x*v11) / b1
	if math.Abs(a.X/x-1) > 1e-12 || math.Abs(*a.StandardError/se-1) > 1e-10 {
		t.Errorf("%.15g ± %.15g, want %.15g ± %.15g", a.X, *a.StandardError, x, se)
	}
	if plain, _ := StandardAddition(points, PerX); plain.Fit.Weight != Unweighted {
		t.Errorf("weights of x, which are without value where nothing was added: %s", plain.Fit.Weight)
	}
}
