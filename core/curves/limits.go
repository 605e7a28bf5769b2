package curves

import "math"

// LimitWay names what a detection and a quantitation limit are derived from (ICH Q2).
type LimitWay string

// The ways.
const (
	ByResidualSD   LimitWay = "residual_sd"     // of the curve
	ByIntercept    LimitWay = "intercept_se"    // standard error of the intercept
	ByReplicates   LimitWay = "replicates"      // standard deviation of the responses at the lowest level
	ByBlanks       LimitWay = "blanks"          // standard deviation of the responses of blanks
	BySignalNoise  LimitWay = "signal_to_noise" // 3 and 10 times the noise, from the lowest level
	ByLowestLevel  LimitWay = "lowest_level"    // the lowest level in use as the quantitation limit
	leastToSpread           = 3                 // values needed for a standard deviation that means something
	detectFactor            = 3.3
	quantifyFactor          = 10
	detectSignal            = 3
)

// LimitWays lists them in the order in which they are offered.
var LimitWays = []LimitWay{ByResidualSD, ByIntercept, ByReplicates, ByBlanks, BySignalNoise, ByLowestLevel}

// Limit is a detection and a quantitation limit by one way, in the unit of x. What cannot be had is nil, and Problem says why.
type Limit struct {
	Way     LimitWay `json:"way"`
	Sigma   *float64 `json:"sigma"` // the standard deviation it stands on, in the unit of y
	LOD     *float64 `json:"lod"`
	LOQ     *float64 `json:"loq"`
	N       int      `json:"n"` // values behind the standard deviation
	Problem string   `json:"problem,omitempty"`
}

// LowEvidence is what a batch knows about the lower end of a curve.
type LowEvidence struct {
	Replicates    []float64 // responses at the lowest level
	Blanks        []float64 // responses of blanks; 0 where nothing was found
	SignalToNoise []float64 // 2H/h of the peaks at the lowest level
}

// Limits are the limits by every way: LOD = 3.3 σ/S, LOQ = 10 σ/S with S the slope of the curve at its lower end; by signal-to-noise
// the amounts at which 2H/h is 3 and 10, in proportion from the lowest level.
func (f Fit) Limits(low LowEvidence) []Limit {
	slope := f.slopeAt(f.LowX)
	list := make([]Limit, 0, len(LimitWays))
	sigma := func(way LimitWay, s *float64, n int, problem string) {
		l := Limit{Way: way, N: n, Problem: problem}
		if s != nil && slope != 0 {
			lod, loq := detectFactor**s/math.Abs(slope), quantifyFactor**s/math.Abs(slope)
			l.Sigma, l.LOD, l.LOQ = s, &lod, &loq
		}
		list = append(list, l)
	}
	problem := ""
	residual := f.ResidualSD
	if f.singleSD != nil { // through means: a limit is of single responses
		residual = f.singleSD
	}
	if f.Model == LogLog {
		residual, problem = nil, "residuals of logarithms are no signal"
	} else if residual == nil {
		problem = "the curve has no degrees of freedom"
	}
	// A weighted curve's residual deviation holds at weight 1; at the lower end it is that much smaller.
	if residual != nil && f.Weight != Unweighted {
		if w := f.weighting.at(f.LowX, math.Abs(f.At(f.LowX))) / f.meanWeight; w > 0 && !math.IsInf(w, 0) {
			s := *residual / math.Sqrt(w)
			residual = &s
		}
	}
	sigma(ByResidualSD, residual, len(f.inUse()), problem)
	var intercept *float64
	problem = "the curve has no intercept"
	if (f.Model == Linear || f.Model == Quadratic) && f.StandardErrors != nil {
		intercept, problem = &f.StandardErrors[0], ""
	}
	sigma(ByIntercept, intercept, len(f.inUse()), problem)
	spread := func(way LimitWay, values []float64, of string) {
		if len(values) < leastToSpread {
			sigma(way, nil, len(values), "it needs at least three "+of)
			return
		}
		_, sd := meanSD(values)
		sigma(way, &sd, len(values), "")
	}
	spread(ByReplicates, low.Replicates, "replicates at the lowest level")
	spread(ByBlanks, low.Blanks, "blanks")
	list = append(list, f.bySignal(low.SignalToNoise))
	lowest := f.LowX
	return append(list, Limit{Way: ByLowestLevel, LOQ: &lowest, N: len(low.Replicates)})
}

func (f Fit) bySignal(ratios []float64) Limit {
	l := Limit{Way: BySignalNoise, N: len(ratios)}
	mean := 0.0
	for _, v := range ratios {
		mean += v / float64(len(ratios))
	}
	if !(mean > 0) || !(f.LowX > 0) {
		l.Problem = "no signal-to-noise is known at the lowest level"
		return l
	}
	lod, loq := f.LowX*detectSignal/mean, f.LowX*quantifyFactor/mean
	l.LOD, l.LOQ = &lod, &loq
	return l
}

// slopeAt is the slope of the curve at x, in plain coordinates.
func (f Fit) slopeAt(x float64) float64 {
	if f.Model == LogLog {
		if x <= 0 {
			return math.NaN()
		}
		return f.At(x) / x * dot(f.basis.slopeAt(math.Log10(x)), f.scaled)
	}
	return dot(f.basis.slopeAt(x), f.scaled)
}

func (f Fit) inUse() (list []Fitted) {
	for _, p := range f.Points {
		if !p.Out {
			list = append(list, p)
		}
	}
	return list
}
