package peaks

import (
	"cmp"
	"math"
	"slices"

	"yugen/core/signal"
)

// estimateWidth finds the width at half height (samples) that most of the clear peaks of a trace have. Where that is no
// wider than spikes of one or two samples, the trace is asked again without them. A trace without clear peaks gives a
// hundredth of its length.
func estimateWidth(y []float64, noise float64) float64 {
	const spike = 4
	width, ok := commonWidth(y, noise)
	if !ok {
		return float64(len(y)) / 100
	}
	if width < spike {
		if wider, ok := commonWidth(signal.WithoutSpikes(y, 2), noise); ok && wider > 2*spike {
			return wider
		}
	}
	return width
}

// A parabola of half window h through the top of a Gaussian of width w at half height has a curvature that, times
// h^sharpness, is greatest at h = halfPerWidth · w.
const (
	sharpness    = 1.25
	halfPerWidth = 0.817
)

// commonWidth is the median width of the clearest peaks: for each, the scale at which the scaled curvature is greatest.
func commonWidth(y []float64, noise float64) (width float64, ok bool) {
	type hit struct{ at, width, score float64 }
	var hits []hit
	step := 1.0
	for half := 2.0; half < float64(len(y))/12; half *= math.Sqrt2 {
		if half >= 16 { // a coarse scale needs no fine samples
			y, step, half = halved(y), step*2, half/2
		}
		h := int(math.Round(half))
		bend := signal.Curvature(y, h)
		// White noise of the original samples, averaged in pairs, shrinks with the root of the step.
		least := 10 * noise / math.Sqrt(step) * signal.CurvatureGain(h)
		scaled := math.Pow(float64(h)*step, sharpness) / (step * step)
		for i := h; i < len(y)-h; i++ {
			r := -bend[i]
			if r > least && r >= -bend[i-1] && r > -bend[i+1] {
				hits = append(hits, hit{(float64(i) + 0.5) * step, float64(h) * step / halfPerWidth, r * scaled})
			}
		}
	}
	slices.SortFunc(hits, func(a, b hit) int {
		return cmp.Or(cmp.Compare(b.score, a.score), cmp.Compare(a.at, b.at))
	})
	var chosen []hit
	for _, h := range hits {
		if h.score < hits[0].score/300 || len(chosen) == 60 {
			break
		}
		if !slices.ContainsFunc(chosen, func(c hit) bool { return math.Abs(c.at-h.at) < 1.2*max(c.width, h.width) }) {
			chosen = append(chosen, h)
		}
	}
	if len(chosen) == 0 {
		return 0, false
	}
	slices.SortFunc(chosen, func(a, b hit) int { return cmp.Compare(a.width, b.width) })
	return chosen[len(chosen)/2].width, true
}

func halved(y []float64) []float64 {
	out := make([]float64, len(y)/2)
	for i := range out {
		out[i] = (y[2*i] + y[2*i+1]) / 2
	}
	return out
}
