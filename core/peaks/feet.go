package peaks

import "math"

// window is a stretch of samples over which the level of a baseline's end is averaged: from and to, both in it.
type window struct{ from, to int }

func (w window) count() float64  { return float64(w.to - w.from + 1) }
func (w window) centre() float64 { return float64(w.from+w.to) / 2 }

// side is what is known of one side of a peak beside where it ends.
type side struct {
	reach float64 // from the apex to the foot that was found
	limit float64 // the foot of the next peak on that side; farAway where there is none
	wall  float64 // where the neighbour ends: no foot goes beyond
	// onRest: the foot lies in a dip of followed ground, and the baseline stands on the ground instead.
	onRest bool
}

const (
	// mostLevel and levelReach bound the window of a foot's level: in widths, and as a part of the reach.
	mostLevel  = 1.5
	levelReach = 1.2
	// inwardShare of the window lies towards the peak; leastOutward of it lies outward, however near the neighbour is.
	inwardShare  = 0.25
	leastOutward = 0.125
)

// levelWindow is where the level of the baseline's end at a foot is averaged. Noise there goes into the area times the whole width of the
// peak, so the window is long, but it lies outward, where nothing of the peak is left, and ends at the neighbour's foot.
func (v *view) levelWindow(at float64, s side, dir int) window {
	length := min(mostLevel*v.widthAt(at), s.reach/levelReach)
	inward, outward := inwardShare*length, (1-inwardShare)*length
	if free := (s.limit - at) * float64(dir); outward > free {
		outward = max(free, leastOutward*length)
	}
	from, to := at-float64(dir)*inward, at+float64(dir)*outward
	if dir < 0 {
		from, to = to, from
	}
	last := len(v.clean) - 1
	w := window{max(0, min(last, int(math.Round(from)))), max(0, min(last, int(math.Round(to))))}
	return w
}

// mean is the level of a window.
func (v *view) mean(w window) float64 {
	sum := 0.0
	for _, y := range v.clean[w.from : w.to+1] {
		sum += y
	}
	return sum / w.count()
}

// standing is the end of a baseline: a time (s), a level, and the samples it comes from.
type standing struct {
	at, level float64
	over      window
}

// stand is where a baseline ends at a foot of the kind.
func (v *view) stand(position float64, kind SideKind, s side, dir int) standing {
	if kind == Base && s.onRest && v.bend != nil {
		i := max(0, min(len(v.clean)-1, int(math.Round(position))))
		return standing{v.timeS(position), v.bend.rest[i], v.levelWindow(position, s, dir)}
	}
	if kind == Base && s.reach > 0 {
		w := v.levelWindow(position, s, dir)
		return standing{v.timeS(w.centre()), v.mean(w), w}
	}
	i := int(math.Round(position))
	half := v.ladder(position).smooth.Half
	return standing{v.timeS(position), v.footLevel(position, kind), window{max(0, i-half), min(len(v.clean)-1, i+half)}}
}

const (
	// longestTail is the length of a tail's decay in widths at most: more is noise, or the ground.
	longestTail   = 0.8
	outwardRounds = 6
	// mostOutward is how far out a foot may go, in units of its first distance from the apex; neighbourGap how near to the neighbour's
	// foot, in widths.
	mostOutward  = 2.5
	mostOnBent   = 1.2
	leastOnBent  = 1.5 // widths that a foot may go in any case: the side of a triangle does not bend
	neighbourGap = 0.75
	// tailOfNoise and tailOfArea are how much of the area's own noise, and of the area, what is left of a tail may be.
	tailOfNoise = 0.2
	tailOfArea  = 1e-4
)

// tail is how a flank dies away: low at a place, falling from there with a length of its own (samples).
type tail struct {
	at, low, length float64
	dir             float64
}

// left is what is left of it at a position.
func (t tail) left(position float64) float64 {
	return t.low * math.Exp(-(position-t.at)*t.dir/t.length)
}

// tailOf follows the flank of a peak on one side between two fractions of its height above a baseline. Above noise the lower one is where it can
// still be seen.
func (v *view) tailOf(c *candidate, base line, dir int) (tail, bool) {
	height := c.level - base.at(v.timeS(c.apex))
	if !(height > 0) {
		return tail{}, false
	}
	l := c.on
	noise := v.noiseAt(c.end) * v.memory * 1.5 / math.Sqrt(float64(2*l.smooth.Half+1))
	low := max(0.003, min(0.25, 6*noise/height))
	high := min(0.7, 3*low)
	crossing := func(level float64) float64 {
		i := int(math.Round(c.apex))
		last := l.smooth.Value[i] - base.at(v.timeS(float64(i)))
		for i += dir; inside(i, l.smooth.Value); i += dir {
			y := l.smooth.Value[i] - base.at(v.timeS(float64(i)))
			if y <= level {
				return float64(i) - float64(dir)*(level-y)/max(last-y, 1e-300)
			}
			last = y
		}
		return math.NaN()
	}
	a, b := crossing(high*height), crossing(low*height)
	length := min(math.Abs(b-a)/math.Log(high/low), longestTail*l.width)
	if !(length > 0) {
		return tail{}, false
	}
	return tail{b, low * height, length, float64(dir)}, true
}

// outward moves the two outer feet of a cluster out until what the tails leave at them is small against the noise of the area, and gives the
// baseline's ends there. A level that falls further than the tail can explain is the ground's bend: the foot stays, or goes half as far.
func (v *view) outward(cluster []candidate) (left, right standing) {
	first, last := &cluster[0], &cluster[len(cluster)-1]
	left, right = v.stand(first.start, first.startKind, first.before, -1), v.stand(last.end, last.endKind, last.after, 1)
	for range outwardRounds {
		a, movedLeft := v.further(first, left, right, -1)
		b, movedRight := v.further(last, right, left, 1)
		left, right = a, b
		if !movedLeft && !movedRight {
			break
		}
	}
	return left, right
}

// further moves one outer foot outward; near is its end of the baseline, far the other.
func (v *view) further(c *candidate, near, far standing, dir int) (standing, bool) {
	foot, kind, s := &c.start, c.startKind, c.before
	if dir > 0 {
		foot, kind, s = &c.end, c.endKind, c.after
	}
	if v.settings.Feet == FlankFeet || kind != Base || s.onRest || !(s.reach > 0) || near.at == far.at {
		return near, false
	}
	base := line{near.at, near.level, far.at, far.level}
	t, ok := v.tailOf(c, base, dir)
	if !ok {
		return near, false
	}
	sigma := v.noise * v.memory
	n := c.end - c.start
	area := 0.0
	for i := int(c.start); i <= int(c.end); i++ {
		area += max(0, v.clean[i]-base.at(v.timeS(float64(i))))
	}
	target := max(tailOfNoise*sigma*math.Sqrt(n+n*n/(2*near.over.count())), tailOfArea*area) / (t.length + n/2)
	if !(target > 0) {
		return near, false
	}
	to := t.at + t.dir*t.length*math.Log(t.low/target)
	most := mostOutward * s.reach
	if v.bend != nil { // what is left of the ground's bend looks like a tail
		most = max(mostOnBent*s.reach, leastOnBent*c.on.width)
	}
	farthest := c.apex + t.dir*min(most, (s.limit-c.apex)*t.dir-neighbourGap*c.on.width)
	if (to-farthest)*t.dir > 0 {
		to = farthest
	}
	if (to-s.wall)*t.dir > 0 {
		to = s.wall
	}
	for range 2 {
		if (to-*foot)*t.dir < 0.5 || !inside(int(math.Round(to)), v.clean) {
			return near, false
		}
		s := s
		moved := v.stand(to, Base, s, dir)
		ratio := (moved.at - far.at) / (near.at - far.at)
		noise := sigma * math.Sqrt(1/moved.over.count()+ratio*ratio/near.over.count())
		expected := max(0, t.left(*foot)*ratio-t.left(to))
		if fall := base.at(moved.at) - moved.level; fall > -3*noise && fall < 3*expected+3*noise {
			*foot = to
			return moved, true
		}
		to = (*foot + to) / 2
	}
	return near, false
}
