package peaks

import (
	"math"
	"slices"

	"yugen/core/signal"
)

// A corner: over as far again as it rises, the signal comes to its level, to levelShare of the rise, and keeps it over as far once
// more, to flatShare. It never falls by more than flatNoise times the noise of the smoothed signal. Of two peaks that have nearly become
// one, the other falls within that reach.
const (
	levelShare = 0.5
	flatShare  = 0.1
	flatNoise  = 6
)

// corner tells whether the signal only comes to a level: beside a dip, a step or a knee of the drift it is bent like a peak, but rises
// from one side alone and goes on as it is. Beyond a peak on the slope of another or of the drift, the slope goes on.
func (v *view) corner(c candidate) bool {
	value := c.on.smooth.Value
	top := int(math.Round(c.apex))
	before, after := lowest(value, int(c.start), top), lowest(value, top, int(math.Ceil(c.end)))
	rise, reach := value[top]-value[before], top-before // reach is towards the side that is level
	if fall := value[top] - value[after]; fall > rise {
		rise, reach = fall, top-after
	}
	if !inside(top+2*reach, value) {
		return false
	}
	noise := flatNoise * v.noise * signal.ValueGain(c.on.smooth.Half)
	low1, coming := span(value, top, top+reach)
	low2, staying := span(value, top+reach, top+2*reach)
	return (noise == 0 || value[top]-min(low1, low2) <= max(noise, flatShare*rise)) &&
		coming <= max(noise, levelShare*rise) && staying <= max(noise, flatShare*rise)
}

// lessCorners leaves out the corners; their neighbours' boundaries come back from the baseline.
func (v *view) lessCorners(found []candidate) []candidate {
	kept := make([]candidate, 0, len(found))
	for _, c := range found {
		if !v.corner(c) {
			kept = append(kept, c)
		}
	}
	if len(kept) != len(found) {
		v.bound(kept)
	}
	return kept
}

// lowest is where the least value between two samples stands.
func lowest(value []float64, from, to int) int {
	at := from
	for i := from; i <= to; i++ {
		if value[i] < value[at] {
			at = i
		}
	}
	return at
}

// span is the least value between two samples, and how much more the greatest is.
func span(value []float64, a, b int) (low, change float64) {
	part := value[min(a, b) : max(a, b)+1]
	low = slices.Min(part)
	return low, slices.Max(part) - low
}
