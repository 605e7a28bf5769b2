package peaks

import "math"

// bound sets where each candidate starts and ends. A side runs outward from the apex until the curvature of its flank
// has died in its noise, or to the valley before the next peak.
func (v *view) bound(found []candidate) {
	last := float64(len(v.clean) - 1)
	near := make([][2]int, len(found)) // feet as the finest scale of each sees them
	for i := range found {
		near[i] = [2]int{v.nearFoot(&found[i], -1), v.nearFoot(&found[i], 1)}
	}
	for i := range found {
		c := &found[i]
		before, after := -1<<40, 1<<40
		if i > 0 {
			before = near[i-1][1]
		}
		if i+1 < len(found) {
			after = near[i+1][0]
		}
		for _, u := range v.unwanted {
			switch {
			case float64(u.from) > c.apex:
				after = min(after, u.from)
			case float64(u.to) < c.apex:
				before = max(before, u.to)
			}
		}
		c.start, c.startKind = v.foot(c, -1, near[i][0], before), Base
		c.end, c.endKind = v.foot(c, 1, near[i][1], after), Base
		if c.start <= 0 {
			c.start, c.startKind = 0, Limit
		}
		if c.end >= last {
			c.end, c.endKind = last, Limit
		}
	}
	for i := 1; i < len(found); i++ {
		a, b := &found[i-1], &found[i]
		// A gap that is narrower than the peaks is noise in where their flanks end.
		if a.end < b.start-a.on.width/2 {
			continue
		}
		at := v.valley(*a, *b)
		a.end, a.endKind = at, Drop
		b.start, b.startKind = at, Drop
	}
}

// stillFalling is how far below zero, in units of its noise, the response of a flank must be to count as still coming
// down; faint is the same in units of the peak's own response, for traces without noise.
// leastReach is how far out, in units of the distance from apex to inflection, a foot must be: noise can end a weak flank early,
// and a Gaussian has 99.5 % of its area within 2.8 of these.
// windowReach and neighbourReach are how much of half a window reaches beyond its middle: of a peak's own bend, and of a neighbour's.
const (
	stillFalling   = 1.2
	faint          = 2e-5
	leastReach     = 2.8
	windowReach    = 0.8
	neighbourReach = 0.5
)

// nearFoot walks from the apex to one side. It crosses the inflection, where the response turns negative, and goes on while
// the flank is bent upwards by more than noise, and at least as far as a Gaussian reaches.
func (v *view) nearFoot(c *candidate, dir int) int {
	sc := c.on.scales[c.scale]
	apex := int(math.Round(c.apex))
	quiet := -max(stillFalling*sc.noise, faint*sc.response[c.at])
	i := apex
	for inside(i, sc.response) && sc.response[i] > quiet {
		i += dir
	}
	least := apex + int(leastReach*float64(i-apex))
	for inside(i, sc.response) && sc.response[i] <= quiet {
		i += dir
	}
	if (least-i)*dir > 0 {
		i = least
	}
	return max(0, min(len(sc.response)-1, i))
}

// foot goes on from there at coarser scales, which see slower tails, as long as their windows do not reach the neighbour's foot: its
// flank would be taken for a tail.
func (v *view) foot(c *candidate, dir, at, neighbour int) float64 {
	own := c.on.scales[c.scale]
	for _, sc := range c.on.scales[c.scale+1:] {
		quiet := -max(stillFalling*sc.noise, faint*sc.response[c.at])
		free := neighbour - dir*int(neighbourReach*float64(sc.half))
		i := at
		for inside(i, sc.response) && sc.response[i] <= quiet && (free-i)*dir > 0 {
			i += dir
		}
		// A wider window still touches the bend when its middle has left it: what it adds is taken back.
		i -= dir * int(windowReach*float64(sc.half-own.half))
		if (i-at)*dir > 0 {
			at = max(0, min(len(sc.response)-1, i))
		}
	}
	return float64(at)
}

func inside(i int, r []float64) bool { return i >= 0 && i < len(r) }

// valley is the place of the drop between two peaks: the least smoothed signal between their apexes, or, beside a
// shoulder, the least response.
func (v *view) valley(a, b candidate) float64 {
	from, to := int(math.Ceil(a.apex)), int(math.Floor(b.apex))
	level := a.on.smooth.Value
	if a.shoulder || b.shoulder {
		level = a.on.scales[min(a.scale, b.scale, len(a.on.scales)-1)].response
	}
	least := from
	for i := from; i <= to; i++ {
		if level[i] < level[least] {
			least = i
		}
	}
	return float64(least)
}

// credible drops what is no peak: a step, which falls on one side only, and what does not stand above the line between
// its own boundaries by three times the noise of the smoothed signal. Neighbours of what is dropped get their boundary
// back from the baseline.
func (v *view) credible(found []candidate) []candidate {
	kept := make([]candidate, 0, len(found))
	for i, c := range found {
		if v.bends(found, i) && v.standsOut(c) {
			kept = append(kept, c)
		}
	}
	if len(kept) != len(found) {
		v.bound(kept)
	}
	return kept
}

// bends tells whether the flanks on both sides are bent as a peak's are; a side that ends at a valley is.
func (v *view) bends(found []candidate, i int) bool {
	c := found[i]
	sc := c.on.scales[c.scale]
	need := -0.04 * sc.response[c.at]
	lowest := func(from, to float64) float64 {
		low := 0.0
		for k := max(0, int(from)); k <= min(len(sc.response)-1, int(to)); k++ {
			low = min(low, sc.response[k])
		}
		return low
	}
	left := c.startKind == Drop || lowest(c.start, c.apex) < need
	right := c.endKind == Drop || lowest(c.apex, c.end) < need
	return left && right
}

func (v *view) standsOut(c candidate) bool {
	top := int(math.Round(c.apex))
	start, end := int(c.start), int(math.Ceil(c.end))
	if end-start < 3 {
		return false
	}
	value := c.on.smooth.Value
	chord := value[start] + (value[end]-value[start])*float64(top-start)/float64(end-start)
	height := value[top] - chord
	if c.shoulder && (c.startKind == Drop || c.endKind == Drop) {
		return true
	}
	gain := v.noise * 1.5 / math.Sqrt(float64(c.on.smooth.Half))
	return height > 3*gain && height > 0
}
