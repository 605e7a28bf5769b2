package peaks

import "math"

// beforePeak and afterPeak are how far a peak is taken to reach before its feet are known, in distances from the apex to the inflection.
const (
	beforePeak = 3.3
	afterPeak  = 3.6
)

// mask is a stretch that tells nothing of the ground, with what its peak leaves beyond it.
type mask struct {
	from, to   int
	height     float64 // of the peak
	distance   float64 // from apex to inflection
	unknowable bool    // cut off or very long: the ground under it is anybody's guess
}

// geometry is a candidate's distances from the apex to where its own response is zero, and about its height.
func (c candidate) geometry() (dl, dr, height float64) {
	sc := c.on.scales[c.scale]
	dl, dr = zeroOf(sc, c.at, -1), zeroOf(sc, c.at, 1)
	half := (dl + dr) / 2
	return dl, dr, max(0, sc.at(c.at)) * half * half
}

// broad tells whether only the coarsest filter sees it, or a coarse one and no maximum: a hump or a knee of the ground, which the opening
// tells from peaks.
func (c candidate) broad() bool { return c.scale >= 3 || c.shoulder && c.scale >= 1 }

// firstMasks are made from the peaks' curvature alone. What is very broad is ground.
func (v *view) firstMasks(found []candidate) []mask {
	var masks []mask
	for _, c := range found {
		dl, dr, height := c.geometry()
		switch {
		case c.saturated:
			masks = append(masks, v.cutOff(c))
		case dl+dr <= 3*c.on.width && !c.broad():
			masks = append(masks, mask{int(float64(c.at) - beforePeak*dl), int(float64(c.at) + afterPeak*dr), height, (dl + dr) / 2, false})
		}
	}
	return masks
}

// laterMasks are a little longer than the peaks found on less ground.
func (v *view) laterMasks(found []candidate) []mask {
	const longer, most = 1.1, 4
	var masks []mask
	for _, c := range found {
		if c.saturated {
			masks = append(masks, v.cutOff(c))
			continue
		}
		dl, dr, height := c.geometry()
		if dl+dr > 3*c.on.width || c.broad() {
			continue
		}
		left, right := min(longer*(c.apex-c.start), most*dl), min(longer*(c.end-c.apex), most*dr)
		masks = append(masks, mask{int(c.apex - left), int(c.apex + right), height, (dl + dr) / 2, false})
	}
	return masks
}

// cutOff reaches from a cut-off top out to where its flanks have all but stopped bending.
func (v *view) cutOff(c candidate) mask {
	const faded = 0.02
	sc := c.on.scales[min(1, len(c.on.scales)-1)]
	reach := func(dir int) int {
		deepest, at := 0.0, c.at
		for i := c.at; inside(i, v.clean) && math.Abs(float64(i-c.at)) < farOut*c.on.width; i += dir {
			if r := sc.at(i); r < deepest {
				deepest, at = r, i
			}
		}
		for sc.at(at) < faded*deepest {
			at += dir
		}
		return at
	}
	return mask{reach(-1), reach(1), 0, c.on.width, true}
}
