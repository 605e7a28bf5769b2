package curves

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/mathext"
)

// Test is the outcome of a test of significance. A small p speaks against what was assumed.
type Test struct {
	Statistic float64 `json:"statistic"`
	DF1       float64 `json:"df1"`
	DF2       float64 `json:"df2"`
	P         float64 `json:"p"`
}

// Diagnostics judge a curve beyond R². What the points do not allow is nil.
type Diagnostics struct {
	// LackOfFit compares the scatter of the level means about the curve with the scatter of replicates within levels. It needs
	// replicates, and more levels than the curve has coefficients.
	LackOfFit *Test `json:"lack_of_fit"`
	// Mandel compares a line with a quadratic through the same points.
	Mandel *Test `json:"mandel"`
	// EqualVariance is Levene's test, about the means, of the spread of replicates over the levels; nil where a level has fewer than three.
	EqualVariance *Test `json:"equal_variance"`
	// Cochran tests whether one level scatters more than the others, where all have the same number of replicates.
	Cochran *Test `json:"cochran"`
	// Outliers are Grubbs' tests of the replicates of each level with three or more.
	Outliers []LevelOutlier `json:"outliers"`
}

// LevelOutlier is Grubbs' test within one level.
type LevelOutlier struct {
	X float64 `json:"x"`
	Outlier
}

// fTest is the test whose statistic has an F distribution.
func fTest(statistic, df1, df2 float64) *Test {
	if df1 < 1 || df2 < 1 || math.IsNaN(statistic) || math.IsInf(statistic, 0) {
		return nil
	}
	statistic = math.Max(0, statistic) // rounding may leave less than nothing
	// The upper tail as an incomplete beta function of its own, which keeps its digits where 1 less the lower tail loses them.
	p := mathext.RegIncBeta(df2/2, df1/2, df2/(df2+df1*statistic))
	return &Test{statistic, df1, df2, p}
}

// Diagnose judges a curve by the points it was fitted to.
//
// Sources: lack of fit, Draper & Smith, Applied Regression Analysis, 3rd ed. (1998), 2.1; J. Mandel, The Statistical Analysis of
// Experimental Data (1964), ch. 12; H. Levene, Contributions to Probability and Statistics (1960), 278.
func (f Fit) Diagnose() Diagnostics {
	levels := f.replicates()
	d := Diagnostics{f.lackOfFit(levels), f.mandel(), equalVariance(levels), cochran(levels), []LevelOutlier{}}
	for _, level := range levels {
		values := make([]float64, len(level))
		for i, p := range level {
			values[i] = p.Y
		}
		if o, ok := Grubbs(values); ok {
			d.Outliers = append(d.Outliers, LevelOutlier{level[0].X, o})
		}
	}
	return d
}

// replicates are the points in use, by level in ascending order.
func (f Fit) replicates() [][]Fitted {
	var levels [][]Fitted
	points := slices.DeleteFunc(slices.Clone(f.Points), func(p Fitted) bool { return p.Out })
	slices.SortStableFunc(points, func(a, b Fitted) int {
		return cmp.Compare(a.level, b.level)
	})
	for _, p := range points {
		if n := len(levels); n > 0 && levels[n-1][0].level == p.level {
			levels[n-1] = append(levels[n-1], p)
		} else {
			levels = append(levels, []Fitted{p})
		}
	}
	return levels
}

// weighted is the weighted mean of the residuals of a level, on the axis on which the curve was fitted. Residuals rather than responses, since
// replicates of a level may stand at slightly different x.
func (f Fit) weighted(level []Fitted) (mean, weight float64) {
	for _, p := range level {
		mean, weight = mean+p.Weight*p.Residual, weight+p.Weight
	}
	return mean / weight, weight
}

func (f Fit) lackOfFit(levels [][]Fitted) *Test {
	n, pure, lack := 0, 0.0, 0.0
	for _, level := range levels {
		mean, weight := f.weighted(level)
		for _, p := range level {
			pure += p.Weight * (p.Residual - mean) * (p.Residual - mean)
		}
		lack += weight * mean * mean
		n += len(level)
	}
	df1, df2 := float64(len(levels)-len(f.Coefficients)), float64(n-len(levels))
	if pure == 0 {
		return nil
	}
	return fTest(lack/df1/(pure/df2), df1, df2)
}

// mandel is for a line only: of other models it says nothing.
func (f Fit) mandel() *Test {
	if f.Model != Linear {
		return nil
	}
	points := make([]Point, len(f.Points))
	for i, p := range f.Points {
		points[i] = Point{X: p.X, Y: p.Y, Out: p.Out, Level: &f.Points[i].level}
	}
	again := New
	if f.averaged {
		again = NewAveraged
	}
	curved, err := again(points, Quadratic, f.Weight)
	if err != nil || curved.ResidualSD == nil || f.ResidualSD == nil || *curved.ResidualSD == 0 {
		return nil
	}
	rest := *curved.ResidualSD * *curved.ResidualSD
	line, quadratic := *f.ResidualSD**f.ResidualSD*float64(f.DegreesOfFreedom), rest*float64(curved.DegreesOfFreedom)
	return fTest((line-quadratic)/rest, 1, float64(curved.DegreesOfFreedom))
}

func equalVariance(levels [][]Fitted) *Test {
	n, k := 0.0, float64(len(levels))
	var means []float64
	var spreads [][]float64
	grand := 0.0
	for _, level := range levels {
		// Of two replicates both are equally far from their mean: a level of two has no spread within, and one level of three among such
		// would judge them all.
		if len(level) < 3 {
			return nil
		}
		mean := 0.0
		for _, p := range level {
			mean += p.Y / float64(len(level))
		}
		spread, sum := make([]float64, len(level)), 0.0
		for i, p := range level {
			spread[i] = math.Abs(p.Y - mean)
			sum += spread[i]
		}
		spreads, means = append(spreads, spread), append(means, sum/float64(len(level)))
		grand, n = grand+sum, n+float64(len(level))
	}
	grand /= n
	between, within := 0.0, 0.0
	for i, spread := range spreads {
		between += float64(len(spread)) * (means[i] - grand) * (means[i] - grand)
		for _, z := range spread {
			within += (z - means[i]) * (z - means[i])
		}
	}
	if within <= 1e-20*between {
		return nil
	}
	return fTest((n-k)/(k-1)*between/within, k-1, n-k)
}
