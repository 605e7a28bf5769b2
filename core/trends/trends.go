// Package trends judges values in the order in which they were measured: limits from moving ranges, the rules of control charts, and a line through points.
package trends

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Limits are those that values of one kind keep to by themselves.
type Limits struct {
	Centre float64 `json:"centre"`
	Low    float64 `json:"low"`
	High   float64 `json:"high"`
	Sigma  float64 `json:"sigma"`
	N      int     `json:"n"` // of how many values they are
}

// LeastForLimits is how many values limits are computed of at least.
const LeastForLimits = 8

// d2 is the mean range of two values from a normal distribution, in standard deviations. Source: Tippett, Biometrika 17 (1925) 364.
const d2 = 1.1283791670955126

// FromMovingRanges computes limits for single values: their mean ± 3 standard deviations, which are the mean range from value to value over 1.128, so that a
// slow drift does not widen them. Source: ISO 7870-2, chart of individuals. It is false for fewer than LeastForLimits values, and where none differ.
func FromMovingRanges(values []float64) (Limits, bool) {
	if len(values) < LeastForLimits {
		return Limits{}, false
	}
	ranges := 0.0
	for k := 1; k < len(values); k++ {
		ranges += math.Abs(values[k] - values[k-1])
	}
	sigma := ranges / float64(len(values)-1) / d2
	if sigma == 0 {
		return Limits{}, false
	}
	mean := stat.Mean(values, nil)
	return Limits{mean, mean - 3*sigma, mean + 3*sigma, sigma, len(values)}, true
}

// Rule is one by which values in order are judged.
type Rule string

// The rules.
const (
	Beyond Rule = "beyond" // one value beyond a limit
	Side   Rule = "side"   // eight in a row on one side of the centre
	Steady Rule = "steady" // six in a row that rise, or fall, all the way
)

// Rules are all of them.
var Rules = []Rule{Beyond, Side, Steady}

// How many in a row the rules ask for.
const (
	sideRun   = 8
	steadyRun = 6
)

// Breaches are the rules that values break, by their places: a value belongs to a run from where the run is complete. Limits that are not there break nothing.
func Breaches(values []float64, centre, low, high *float64, rules []Rule) [][]Rule {
	out := make([][]Rule, len(values))
	side, steady := 0, 0 // length of the run that ends here, with its sign
	for k, v := range values {
		if low != nil && v < *low || high != nil && v > *high {
			out[k] = append(out[k], Beyond)
		}
		if centre != nil {
			side = grow(side, v-*centre)
			if abs(side) >= sideRun {
				out[k] = append(out[k], Side)
			}
		}
		if k > 0 {
			steady = grow(steady, v-values[k-1])
			if abs(steady) >= steadyRun-1 {
				out[k] = append(out[k], Steady)
			}
		}
		out[k] = slices.DeleteFunc(out[k], func(r Rule) bool { return !slices.Contains(rules, r) })
	}
	return out
}

// grow goes on with a run of one sign, or begins one.
func grow(run int, by float64) int {
	switch {
	case by > 0:
		return max(run, 0) + 1
	case by < 0:
		return min(run, 0) - 1
	}
	return 0
}

func abs(n int) int { return max(n, -n) }

// Line is a straight line through points, with the 95 % interval of its slope.
type Line struct {
	Slope     float64 `json:"slope"`
	SlopeHalf float64 `json:"slope_95_half"`
	Intercept float64 `json:"intercept"`
	R2        float64 `json:"r2"`
	N         int     `json:"n"`
}

// LeastForLine is how many points a line is drawn through at least.
const LeastForLine = 6

// Fit puts a line through points by least squares. It is false for fewer than LeastForLine points, and where all stand at one place. The interval of the slope is
// t(0.975, n − 2) times its standard error (any textbook of regression, as Draper and Smith, Applied Regression Analysis).
func Fit(x, y []float64) (Line, bool) {
	if len(x) != len(y) || len(x) < LeastForLine {
		return Line{}, false
	}
	meanX, meanY := stat.Mean(x, nil), stat.Mean(y, nil)
	sxx, sxy, syy := 0.0, 0.0, 0.0
	for k := range x {
		dx, dy := x[k]-meanX, y[k]-meanY
		sxx, sxy, syy = sxx+dx*dx, sxy+dx*dy, syy+dy*dy
	}
	if sxx == 0 {
		return Line{}, false
	}
	l := Line{Slope: sxy / sxx, N: len(x)}
	l.Intercept = meanY - l.Slope*meanX
	rest := math.Max(0, syy-l.Slope*sxy)
	if syy > 0 {
		l.R2 = 1 - rest/syy
	}
	freedom := float64(len(x) - 2)
	l.SlopeHalf = distuv.StudentsT{Mu: 0, Sigma: 1, Nu: freedom}.Quantile(0.975) * math.Sqrt(rest/freedom/sxx)
	return l, true
}
