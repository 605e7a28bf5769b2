package curves

import (
	"fmt"
	"math"
	"slices"
)

// weighting is how much a point counts: by a rule of x or y, or by the spread of replicates.
type weighting struct {
	weight Weight
	// The modelled variance of a response is constant + proportional · x².
	constant, proportional float64
	levels                 []levelSpread // in ascending order of x
}

// levelSpread is the variance of the replicates of a level.
type levelSpread struct{ x, variance, freedom float64 }

// What spread needs to be a weight.
const (
	leastSpreadFreedom  = 4 // of all replicates together, to be modelled
	leastSpreadLevels   = 2
	leastMeasuredSpread = 6 // replicates of each level, to count as it was measured
)

// newWeighting finds the spread of replicates where the weight asks for it.
func newWeighting(points []Point, m Model, w Weight) (weighting, error) {
	g := weighting{weight: w}
	if w != PerVariance && w != PerMeasuredVariance {
		return g, nil
	}
	if m == LogLog {
		return g, fmt.Errorf("weight %s is of responses, not of their logarithms; choose another weight", w)
	}
	freedom := 0.0
	for _, level := range levelsOf(points) {
		var xs, ys []float64
		for _, p := range points {
			if !p.Out && p.level() == level {
				xs, ys = append(xs, p.X), append(ys, p.Y)
			}
		}
		if w == PerMeasuredVariance && len(ys) < leastMeasuredSpread {
			return g, fmt.Errorf("the level %g has %d replicates; a spread counts as measured only with %d or more at every level, so have it modelled", level, len(ys), leastMeasuredSpread)
		}
		if len(ys) < 2 {
			continue
		}
		x, _ := meanSD(xs)
		_, sd := meanSD(ys)
		g.levels = append(g.levels, levelSpread{x, sd * sd, float64(len(ys) - 1)})
		freedom += float64(len(ys) - 1)
	}
	if w == PerMeasuredVariance {
		for _, l := range g.levels {
			if l.variance == 0 {
				return g, fmt.Errorf("the replicates at %g do not differ at all, which would count without end; have their spread modelled", l.x)
			}
		}
		return g, nil
	}
	if len(g.levels) < leastSpreadLevels || freedom < leastSpreadFreedom {
		return g, fmt.Errorf("the spread of replicates cannot be modelled from %d levels with replicates and %g degrees of freedom; it needs %d and %d", len(g.levels), freedom, leastSpreadLevels, leastSpreadFreedom)
	}
	return g, g.model()
}

// model finds the variance function s² = a + b x² (both at or above 0) of greatest likelihood for normal errors: a sum of ν (ln s² + v/s²) over levels
// with ν degrees of freedom and variance v is least. The function is that of Rocke and Lorenzato, Technometrics 37 (1995) 176, with a constant and a
// proportional error. It is found by golden section over the share of the two, since the scale then follows in closed form.
func (g *weighting) model() error {
	highest, total, freedom := 0.0, 0.0, 0.0
	for _, l := range g.levels {
		highest, total, freedom = max(highest, math.Abs(l.x)), total+l.variance, freedom+l.freedom
	}
	if total == 0 {
		return fmt.Errorf("replicates do not differ at any level, so their spread says nothing of weights; choose another weight")
	}
	// The angle t gives the shape cos² t + sin² t (x/highest)²; 0 is constant, π/2 proportional.
	shape := func(t, x float64) float64 {
		u, c, s := x/max(highest, math.SmallestNonzeroFloat64), math.Cos(t), math.Sin(t)
		return c*c + s*s*u*u
	}
	scale := func(t float64) float64 {
		sum := 0.0
		for _, l := range g.levels {
			sum += l.freedom * l.variance / shape(t, l.x)
		}
		return sum / freedom
	}
	loss := func(t float64) float64 {
		sum := freedom * math.Log(scale(t))
		for _, l := range g.levels {
			sum += l.freedom * math.Log(shape(t, l.x))
		}
		return sum
	}
	// The share of the constant reaches over many decades, so the search is in steps of the logarithm of the tangent; a constant alone is tried beside.
	const steps = 200
	best, least := 0.0, loss(0)
	for k := range steps + 1 {
		t := math.Atan(math.Pow(10, 4-8*float64(k)/steps))
		if l := loss(t); l < least {
			best, least = t, l
		}
	}
	if best > 0 {
		best = golden(loss, best)
	}
	s2 := scale(best)
	c, s := math.Cos(best), math.Sin(best)
	g.constant = s2 * c * c
	if highest > 0 {
		g.proportional = s2 * s * s / (highest * highest)
	}
	return nil
}

// golden refines the place of a least value near t, in steps of the logarithm of its tangent.
func golden(f func(float64) float64, t float64) float64 {
	const ratio = 0.6180339887498949
	u := math.Log(math.Tan(t))
	of := func(u float64) float64 { return f(math.Atan(math.Exp(u))) }
	a, b := u-0.2, u+0.2
	c, d := b-ratio*(b-a), a+ratio*(b-a)
	for range 60 {
		if of(c) < of(d) {
			b = d
		} else {
			a = c
		}
		c, d = b-ratio*(b-a), a+ratio*(b-a)
	}
	return math.Atan(math.Exp((a + b) / 2))
}

// at is the weight of a point, or of an unknown read at x.
func (g weighting) at(x, y float64) float64 {
	switch g.weight {
	case PerVariance:
		return 1 / (g.constant + g.proportional*x*x)
	case PerMeasuredVariance:
		return 1 / g.between(x)
	}
	return g.weight.at(x, y)
}

// freedomAt is how many degrees of freedom stand behind the variance at x, where it is that of replicates: those of a variance whose own standard error is
// as large (by the Fisher information of the two parts), or those of the level. ok is false for other weights.
func (g weighting) freedomAt(x float64) (freedom float64, ok bool) {
	switch g.weight {
	case PerMeasuredVariance:
		for _, l := range g.levels {
			if freedom == 0 || l.freedom < freedom {
				freedom = l.freedom
			}
		}
		return freedom, true
	case PerVariance:
	default:
		return 0, false
	}
	// A part of nothing is no estimate: then the other alone is one.
	if g.constant == 0 || g.proportional == 0 {
		for _, l := range g.levels {
			freedom += l.freedom
		}
		return freedom, true
	}
	var i00, i01, i11 float64
	for _, l := range g.levels {
		v := g.constant + g.proportional*l.x*l.x
		w := l.freedom / (2 * v * v)
		i00, i01, i11 = i00+w, i01+w*l.x*l.x, i11+w*l.x*l.x*l.x*l.x
	}
	determinant := i00*i11 - i01*i01
	s2, xx := g.constant+g.proportional*x*x, x*x
	variance := (i11 - 2*xx*i01 + xx*xx*i00) / determinant
	if !(variance > 0) {
		return 0, false
	}
	return 2 * s2 * s2 / variance, true
}

// between is the variance at x: that of its level, or on the straight line between the standard deviations of its neighbours.
func (g weighting) between(x float64) float64 {
	i, found := slices.BinarySearchFunc(g.levels, x, func(l levelSpread, x float64) int {
		switch {
		case l.x < x:
			return -1
		case l.x > x:
			return 1
		}
		return 0
	})
	switch {
	case len(g.levels) == 0:
		return math.NaN()
	case found:
		return g.levels[i].variance
	case i == 0:
		return g.levels[0].variance
	case i == len(g.levels):
		return g.levels[i-1].variance
	}
	a, b := g.levels[i-1], g.levels[i]
	sd := math.Sqrt(a.variance) + (math.Sqrt(b.variance)-math.Sqrt(a.variance))*(x-a.x)/(b.x-a.x)
	return sd * sd
}

// VarianceModel is the modelled variance of a response, constant + proportional · x², where a fit is weighted by it.
type VarianceModel struct {
	Constant     float64 `json:"constant"`
	Proportional float64 `json:"proportional"`
}

func (g weighting) told() *VarianceModel {
	if g.weight != PerVariance {
		return nil
	}
	return &VarianceModel{g.constant, g.proportional}
}
