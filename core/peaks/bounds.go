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
		before, after := -farAway, farAway
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
		c.before = side{reach: c.apex - c.start, limit: float64(before)}
		c.after = side{reach: c.end - c.apex, limit: float64(after), wall: farAway}
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

// farAway stands for where there is no neighbour.
const farAway = 1 << 40

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
	falling := v.falling(sc, sc.at(c.at))
	i := apex
	for inside(i, v.clean) && !falling(i) && sc.covers(i) {
		i += dir
	}
	least := apex + int(leastReach*float64(i-apex))
	for falling(i) {
		i += dir
	}
	if (least-i)*dir > 0 {
		i = least
	}
	return max(0, min(len(v.clean)-1, i))
}

// foot goes on from there at coarser scales, which see slower tails, as long as their windows do not reach the neighbour's foot: its
// flank would be taken for a tail.
func (v *view) foot(c *candidate, dir, at, neighbour int) float64 {
	own := c.on.scales[c.scale]
	for _, sc := range c.on.scales[c.scale+1:] {
		falling := v.falling(sc, sc.at(c.at))
		free := neighbour - dir*int(neighbourReach*float64(sc.half))
		i := at
		for falling(i) && (free-i)*dir > 0 {
			i += dir
		}
		// A wider window still touches the bend when its middle has left it: what it adds is taken back.
		i -= dir * int(windowReach*float64(sc.half-own.half))
		if (i-at)*dir > 0 {
			at = max(0, min(len(v.clean)-1, i))
		}
	}
	return float64(at)
}

// falling tells whether a flank still comes down at a place: it is bent upwards by more than the noise there, and than a faint part of
// the peak's own bend.
func (v *view) falling(sc scale, bend float64) func(i int) bool {
	quiet := -max(stillFalling*sc.noise, faint*bend)
	if v.growth == nil {
		return func(i int) bool { return sc.covers(i) && sc.at(i) <= quiet }
	}
	return func(i int) bool {
		return sc.covers(i) && sc.at(i) <= quiet && sc.at(i) <= -stillFalling*v.noiseOf(sc, i)
	}
}

func inside(i int, r []float64) bool { return i >= 0 && i < len(r) }

// valley is the place of the drop between two peaks: the least smoothed signal between their apexes where that is a minimum; beside a
// shoulder that has none, the end of the shoulder's own bend, which may lie far from the neighbour's flank.
func (v *view) valley(a, b candidate) float64 {
	from, to := int(math.Ceil(a.apex)), int(math.Floor(b.apex))
	value := a.on.smooth.Value
	least := from
	for i := from; i <= to; i++ {
		if value[i]-v.lean(i) < value[least]-v.lean(least) {
			least = i
		}
	}
	if !a.shoulder && !b.shoulder {
		return float64(least)
	}
	if depth := min(value[from]-v.lean(from), value[to]-v.lean(to)) - value[least] + v.lean(least); least > from && least < to && depth > 3*v.smoothNoise(a.on, float64(least)) {
		return float64(least)
	}
	if a.shoulder {
		return float64(v.bendEnd(a, 1, to))
	}
	return float64(v.bendEnd(b, -1, from))
}

// bendEnd is where, going from a shoulder, the response is least before it rises again, or as far as the limit.
func (v *view) bendEnd(c candidate, dir, limit int) int {
	sc := c.on.scales[c.scale]
	least := c.at
	for i := c.at; (limit-i)*dir >= 0; i += dir {
		r, low := sc.at(i), sc.at(least)
		if r < low {
			least = i
		} else if low < 0 && r > low+max(2*v.noiseOf(sc, i), 0.1*(sc.at(c.at)-low)) {
			break
		}
	}
	return least
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
	need := -0.04 * sc.at(c.at)
	lowest := func(from, to float64) float64 {
		low := 0.0
		for k := int(from); k <= int(to); k++ {
			if r := sc.at(k); r < low {
				low = r
			}
		}
		return low
	}
	left := c.startKind == Drop || lowest(c.start, c.apex) < need
	right := c.endKind == Drop || lowest(c.apex, c.end) < need
	return left && right
}

// standsOut tells whether a candidate's top lies clearly above the line between its own boundaries, or, where steep ground hides it below that, above
// the line between the places where a Gaussian would end.
func (v *view) standsOut(c candidate) bool {
	if c.shoulder {
		if c.startKind == Drop || c.endKind == Drop {
			return true
		}
		if v.bend != nil { // on followed ground, a shoulder on nothing is a remnant of the ground
			return false
		}
	}
	top := int(math.Round(c.apex))
	value := c.on.smooth.Value
	above := func(start, end int) bool {
		if end-start < 3 {
			return false
		}
		chord := value[start] + (value[end]-value[start])*float64(top-start)/float64(end-start)
		height := value[top] - chord
		return height > 3*v.smoothNoise(c.on, c.apex) && height > 0
	}
	if above(int(c.start), int(math.Ceil(c.end))) {
		return true
	}
	dl, dr, _ := c.geometry()
	return !c.shoulder && c.scale < 2 && above(max(int(c.start), int(c.apex-leastReach*dl)), min(int(math.Ceil(c.end)), int(c.apex+leastReach*dr)))
}
