package peaks

import "math"

// rider is a small peak that stands on the tail or front of a larger one: where it starts and ends, and the baseline under
// it, which parts it from its parent.
type rider struct {
	start, end float64 // even grid
	base       ground
}

// skim gives small peaks beside large ones a tangent of their own. It happens where the small one is at most SkimPercent of the large
// one in height and the valley between them at least SkimValleyPercent of the small one, both above the common baseline; and
// wherever a rule or a hand says so. The large one keeps what lies under the tangent. Several small ones may ride on one.
func (v *view) skim(found []candidate) {
	parent := make([]int, len(found)) // whom each rides on; itself if nobody
	for i := range found {
		parent[i] = i
	}
	for i := 1; i < len(found); i++ {
		if !touch(found[i-1], found[i]) && parent[i-1] == i-1 {
			continue
		}
		left := parent[i-1]
		if found[left].end != found[i].start {
			continue
		}
		valley := found[i].start
		if how, ok := v.rides(found[i], found[left], valley); ok && v.skimTail(&found[left], &found[i], how) {
			parent[i] = left
		} else if _, ok := v.rides(found[left], found[i], valley); ok && left == i-1 && v.skimFront(&found[i], &found[left]) {
			parent[left] = i
		}
	}
}

// rides tells whether a small peak is to be skimmed off a large one, and on what it then stands.
func (v *view) rides(small, large candidate, valley float64) (on SplitKind, ok bool) {
	height := func(c candidate, at float64) float64 { return v.level(at) - c.base.at(v.timeS(at)) }
	h, under := height(small, small.apex), height(large, large.apex)
	if h <= 0 || h > under {
		return "", false
	}
	s := v.settings.at(v.timeS(valley) / 60)
	switch how := v.how(small, large); how {
	case ByTangent, ByExponential:
		return how, true
	case ByDrop:
		if small.by == ByDrop || large.by == ByDrop || v.settings.ruled(Part, v.timeS(valley)/60) || small.drawn || large.drawn {
			return "", false
		}
		return s.SkimLine, s.SkimPercent > 0 && h <= s.SkimPercent/100*under && height(small, valley) >= s.SkimValleyPercent/100*h
	}
	return "", false
}

// skimTail puts a peak on the tail of another.
func (v *view) skimTail(parent, small *candidate, how SplitKind) bool {
	r, kind, ok := v.tailLine(parent, small, how)
	if !ok {
		return false
	}
	parent.end, parent.endKind = small.end, small.endKind
	v.ride(parent, small, r, kind)
	small.straight = kind != OnExponential && how == ByExponential
	return true
}

func (v *view) tailLine(parent, small *candidate, how SplitKind) (rider, BaselineKind, bool) {
	if how == ByExponential {
		if r, ok := v.follow(parent, small); ok {
			return r, OnExponential, true
		}
	}
	touch := v.tangent(small.start, small.apex, small.end)
	if touch <= small.apex {
		return rider{}, "", false
	}
	return v.straight(small.start, touch), OnTangent, true
}

// skimFront puts a peak on the front of another. A front rises faster than any straight line, which would take much of the small peak away, so
// it is followed as a Gaussian's also where tangents are asked for; where it cannot be followed the two stay parted by a drop.
func (v *view) skimFront(parent, small *candidate) bool {
	r, ok := v.followFront(parent, small)
	if !ok {
		return false
	}
	parent.start, parent.startKind = small.start, small.startKind
	v.ride(parent, small, r, OnExponential)
	return true
}

func (v *view) straight(from, to float64) rider {
	return rider{from, to, line{v.timeS(from), v.level(from), v.timeS(to), v.level(to)}}
}

func (v *view) ride(parent, small *candidate, r rider, kind BaselineKind) {
	parent.riders = append(parent.riders, r)
	small.start, small.end, small.base, small.baseKind = r.start, r.end, r.base, kind
	small.startKind, small.endKind = Skim, Skim
}

// tangent is where a straight line from a valley touches the signal beyond the apex from below.
func (v *view) tangent(valley, apex, far float64) float64 {
	from := v.level(valley)
	dir := 1.0
	if far < valley {
		dir = -1
	}
	best, at := 0.0, valley
	for x := apex + dir; (x-far)*dir <= 0; x += dir {
		slope := (v.level(x) - from) / (dir * (x - valley))
		if at == valley || slope < best {
			best, at = slope, x
		}
	}
	return at
}

// follow is the parent's tail under a peak: y = h · e^(−bt) above the parent's baseline. Its logarithm is the straight line that touches
// the signal's logarithm from below on both sides of the peak: within a width before the valley, where the peak's front has
// hardly begun, and beyond its apex. Where the tail lies in its noise it is not asked. It fails where that leaves nothing, or
// the tail does not fall.
func (v *view) follow(parent, small *candidate) (rider, bool) {
	above := func(x float64) float64 { return v.level(x) - parent.base.at(v.timeS(x)) }
	quiet := max(0.02*above(small.start), 3*v.smoothNoise(small.on, small.start))
	farthest := max(small.start-small.on.width, (parent.apex+small.start)/2)
	from, to := small.start, small.start
	for range 8 { // each side in turn, until neither moves
		slope, touched := math.Inf(1), from
		for x := math.Ceil(small.apex + 1); x <= small.end; x++ {
			y := above(x)
			if y < quiet {
				break
			}
			if s := math.Log(y/above(from)) / (x - from); s < slope {
				slope, touched = s, x
			}
		}
		before := from
		to, slope = touched, math.Inf(-1)
		for x := small.start; x >= farthest; x-- {
			if s := math.Log(above(to)/above(x)) / (to - x); s > slope {
				slope, from = s, x
			}
		}
		if from == before {
			break
		}
	}
	rate := math.Log(above(from)/above(to)) / (to - from)
	if to <= small.apex || above(from) <= quiet || !(rate > 0) {
		return rider{}, false
	}
	return rider{from, to, decay{parent.base, v.timeS(from), above(from), rate / v.tr.StepS}}, true
}

// clearOfFront is how far from the valley, in the small peak's widths, the large one's front is its own.
const clearOfFront = 0.8

// followFront is the parent's front under a peak: a Gaussian's side above the parent's baseline, whose logarithm is the parabola through the parent's
// apex, a place where nothing of the small peak is left, and the middle between them. It fails where the two are too near for that, or what is
// followed does not fall.
func (v *view) followFront(parent, small *candidate) (rider, bool) {
	above := func(x float64) float64 { return v.level(x) - parent.base.at(v.timeS(x)) }
	clear := small.end + clearOfFront*small.on.width
	if clear > parent.apex-0.4*parent.on.width {
		return rider{}, false
	}
	d := (parent.apex - clear) / 2
	y0, y1, y2 := above(parent.apex), above(clear+d), above(clear)
	if !(y2 > 0) || !(y1 > y2) || !(y0 > y1) {
		return rider{}, false
	}
	l0, l1, l2 := math.Log(y0), math.Log(y1), math.Log(y2)
	bend := (l0 - 2*l1 + l2) / (d * d) // ln y = l2 + slope x + bend x²/2 from the clear place on, towards the apex
	slope := (l1-l2)/d - bend*d/2
	if bend >= 0 || slope <= 0 {
		return rider{}, false
	}
	step := v.tr.StepS
	return rider{small.start, clear, gaussSide{parent.base, v.timeS(clear), y2, slope / step, bend / (step * step)}}, true
}
