package peaks

// rider is a small peak that stands on the tail or front of a larger one: where it starts and ends, and the straight line under
// it, which parts it from its parent.
type rider struct {
	start, end         float64 // even grid
	baseStart, baseEnd float64
}

// defaultSkimValley is how high, in percent of the small peak, the valley beside it must be for it to stand on a tail rather than
// beside a peak.
const defaultSkimValley = 10

// skim gives small peaks beside large ones a tangent of their own. It happens where the small one is at most percent of the large
// one in height, and the valley between them is at least valleyPercent of the small one, both above the common baseline. The
// large one keeps what lies under the tangent.
func (v *view) skim(found []candidate, percent, valleyPercent float64) {
	if percent <= 0 {
		return
	}
	if valleyPercent <= 0 {
		valleyPercent = defaultSkimValley
	}
	height := func(c candidate, at float64) float64 {
		base := line{c.start, c.baseStart, c.end, c.baseEnd}
		return v.level(at) - base.at(at)
	}
	rides := func(small, large candidate, valley float64) bool {
		h := height(small, small.apex)
		return !small.drawn && !large.drawn && h > 0 && h <= percent/100*height(large, large.apex) && height(small, valley) >= valleyPercent/100*h
	}
	for i := 1; i < len(found); i++ {
		if found[i-1].endKind != Drop || found[i].startKind != Drop || found[i-1].end != found[i].start {
			continue
		}
		valley := found[i].start
		switch {
		case rides(found[i], found[i-1], valley):
			v.skimTail(&found[i-1], &found[i])
		case rides(found[i-1], found[i], valley):
			v.skimFront(&found[i], &found[i-1])
		}
	}
}

// skimTail draws the tangent from the valley to where it touches the far side of a peak on a tail.
func (v *view) skimTail(parent, small *candidate) {
	touch := v.touch(small.start, small.apex, small.end)
	if touch <= small.apex {
		return
	}
	r := rider{small.start, touch, v.level(small.start), v.level(touch)}
	parent.end, parent.endKind, parent.baseEnd = small.end, small.endKind, small.baseEnd
	v.ride(parent, small, r)
}

// skimFront does the same for a peak on the front of a large one.
func (v *view) skimFront(parent, small *candidate) {
	touch := v.touch(small.end, small.apex, small.start)
	if touch >= small.apex {
		return
	}
	r := rider{touch, small.end, v.level(touch), v.level(small.end)}
	parent.start, parent.startKind, parent.baseStart = small.start, small.startKind, small.baseStart
	v.ride(parent, small, r)
}

func (v *view) ride(parent, small *candidate, r rider) {
	parent.riders = append(parent.riders, r)
	small.start, small.end, small.baseStart, small.baseEnd = r.start, r.end, r.baseStart, r.baseEnd
	small.startKind, small.endKind = Skim, Skim
}

// touch is where a straight line from a valley touches the signal beyond the apex from below.
func (v *view) touch(valley, apex, far float64) float64 {
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
