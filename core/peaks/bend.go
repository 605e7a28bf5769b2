package peaks

import (
	"math"
	"slices"
)

// bend is the curved part of the ground under a trace, on the even grid: what is left when it is taken away stands on ground that
// straight lines can follow.
type bend struct {
	values    []float64 // the ground's bend: zero curvature where the ground is straight
	curvature []float64 // per step squared
	rest      []float64 // the whole ground less its bend
	dips      []stretch // where the ground falls and comes back like a peak upside down
	change    []float64 // what the last fit changed; nil where there was one
}

const (
	// A baseline contradicts the signal where it lies above it by gateNoise times the noise of the smoothed signal and by gateShare of
	// the height of the lowest peak.
	gateNoise = 5
	gateShare = 3e-4
	// skirtWidths from the apex, and skirtBeyond before its foot, a peak has come down to skirtShare of its height, whatever its tail.
	skirtWidths = 4
	skirtBeyond = 2
	skirtShare  = 0.05
	// cutOffContradicts is what the boundary of a cut-off peak counts.
	cutOffContradicts = 1000
	// worthMore is by how much more the first fit may contradict for a second to be tried.
	worthMore = 1
	// groundFits is how often the ground is fitted: from the peaks' own widths first, then from the feet found on it.
	groundFits = 3
)

// contradiction is by how many times more than it may the baseline lies above the signal, over all peaks. A boundary shared with a cut-off peak, whose
// tail bends most, contradicts by itself while the ground is not followed.
func (v *view) contradiction(found []candidate) (sum float64) {
	for i := 1; i < len(found) && v.bend == nil; i++ {
		if touch(found[i-1], found[i]) && (found[i-1].saturated || found[i].saturated) {
			sum += cutOffContradicts
		}
	}
	tried := slices.Clone(found)
	v.chords(tried, false)
	for from := 0; from < len(tried); {
		to, least := from+1, math.Inf(1)
		for to < len(tried) && tried[to].ends == tried[from].ends {
			to++
		}
		for _, c := range tried[from:to] {
			least = min(least, c.level-c.base.at(v.timeS(c.apex)))
		}
		for _, c := range tried[from:to] {
			if c.saturated { // what is under it nobody knows
				continue
			}
			limit := max(gateNoise*v.memory*v.smoothNoise(c.on, c.start), gateShare*least)
			most := 0.0
			for i := int(math.Ceil(c.start)); i <= int(c.end); i++ {
				t := v.timeS(float64(i))
				if above := c.base.at(t) - c.on.smooth.Value[i]; above > most && above > limit && !v.inDip(float64(i)) && !v.settings.ruled(StraightGround, t/60) {
					most = above
				}
			}
			if most > 0 {
				sum += most / limit
			}
			sum += v.skirts(c)
		}
		from = to
	}
	return sum
}

// skirts tells whether a peak's sides go on far beyond what a peak's tail does, and stand high there: they count a hump of the ground. It is by how many
// times more than it may.
func (v *view) skirts(c candidate) (sum float64) {
	height := c.level - c.base.at(v.timeS(c.apex))
	limit := max(gateNoise*v.memory*v.smoothNoise(c.on, c.apex), skirtShare*height)
	for _, dir := range []float64{-1, 1} {
		edge := c.start
		if dir > 0 {
			edge = c.end
		}
		at := c.apex + dir*skirtWidths*c.on.width
		if (edge-at)*dir < skirtBeyond*c.on.width || v.inDip(at) || v.settings.ruled(StraightGround, v.timeS(at)/60) {
			continue
		}
		if above := v.level(at) - c.base.at(v.timeS(at)); above > limit {
			sum += above / limit
		}
	}
	return sum
}

// followGround estimates the ground's bend where the straight baselines of the first search contradict the signal; nil where none does, and
// where following it leaves no fewer contradictions: steps are no bends.
func (v *view) followGround(found []candidate, search func(*view) []candidate) *bend {
	if v.settings.Baseline != FollowedBaseline {
		return nil
	}
	least := v.contradiction(found)
	if least == 0 {
		return nil
	}
	dips := v.dips()
	masks := v.firstMasks(lessRims(found, dips))
	var best, before *bend
	for range groundFits {
		b := v.fitGround(masks, dips)
		if b == nil {
			return nil
		}
		if before != nil {
			b.change = minus(b.values, before.values)
		}
		before = b
		less := v.less(b)
		on := search(less)
		// A few peaks may come to light on flanks; many are the ripples of a curve that does not fit.
		rippled := len(on) > len(found)+2+len(found)/4
		if left := less.contradiction(on); !rippled && (left < least || best != nil && left == least) {
			best, least = b, left
		} else if best == nil && left > worthMore*least {
			return nil // what does not help at once is no bend
		}
		masks = less.laterMasks(on)
	}
	return best
}

// zeroOf is the distance from a place to where the response of a scale falls through zero.
func zeroOf(sc scale, at, dir int) float64 {
	i := at
	for sc.at(i) > 0 {
		i += dir
	}
	return math.Abs(float64(i - at))
}

// dips are peaks upside down: a bend upwards with a rim on both sides.
func (v *view) dips() []stretch {
	const clear, lowRim, highRim, wide = 12, 0.1, 0.9, 2
	var dips []stretch
	for _, l := range v.ladders {
		sc := l.scales[0]
		greatest := 0.0
		for _, r := range sc.response {
			if r > greatest {
				greatest = r
			}
		}
		up := sc.mirrored()
		rim := func(at int, d float64, dir int) float64 {
			most := 0.0
			for k := int(d); k <= int(2*d)+1; k++ {
				most = max(most, sc.at(at+dir*k))
			}
			return most
		}
		for at := max(1, l.from); at < min(len(v.clean)-1, l.to); at++ {
			bend := up.at(at)
			if bend <= 0 || bend <= clear*sc.noise || bend < up.at(at-1) || bend <= up.at(at+1) || bend <= clear*v.noiseOf(sc, at) || bend <= 1e-6*greatest {
				continue
			}
			dl, dr := zeroOf(up, at, -1), zeroOf(up, at, 1)
			if dl > wide*l.width || dr > wide*l.width {
				continue
			}
			left, right := rim(at, dl, -1)/bend, rim(at, dr, 1)/bend
			if left > lowRim && left < highRim && right > lowRim && right < highRim {
				dips = append(dips, stretch{at - int(beforePeak*dl), at + int(afterPeak*dr)})
			}
		}
	}
	return dips
}

// lessRims leaves out the rims of dips, which bend like peaks.
func lessRims(found []candidate, dips []stretch) []candidate {
	const rimReach = 2.2
	return slices.DeleteFunc(slices.Clone(found), func(c candidate) bool {
		return slices.ContainsFunc(dips, func(d stretch) bool {
			middle := float64(d.from) + float64(d.to-d.from)*beforePeak/(beforePeak+afterPeak)
			distance, reach := middle-float64(c.at), (middle-float64(d.from))/beforePeak
			if distance < 0 {
				distance, reach = -distance, (float64(d.to)-middle)/afterPeak
			}
			return distance < rimReach*reach
		})
	})
}

// less is the view of the trace without the bend of its ground. Noise and widths stay; the responses change by the bend's own curvature.
func (v *view) less(b *bend) *view {
	w := *v
	w.bend, w.unwanted, w.anchors, w.summed = b, nil, nil, nil
	w.raw, w.clean = minus(v.raw, b.values), minus(v.clean, b.values)
	w.tr.Values = make([]float64, v.tr.Len())
	ground := sampled{v.tr.StartS, v.tr.StepS, b.values}
	for i, y := range v.tr.Values {
		w.tr.Values[i] = y - ground.at(v.tr.TimeS(i))
	}
	w.measured.Values = w.tr.Values
	if v.settings.SmoothMin > 0 {
		w.measured.Values = make([]float64, v.tr.Len())
		for i, y := range v.measured.Values {
			w.measured.Values[i] = y - ground.at(v.tr.TimeS(i))
		}
	}
	w.ladders = make([]*ladder, len(v.ladders))
	made := map[*ladder]*ladder{}
	for i, l := range v.ladders {
		m := made[l]
		if m == nil {
			m = &ladder{width: l.width, smooth: smoothed{l.smooth.Half, minus(l.smooth.Value, b.values)}}
			for _, sc := range l.scales {
				response := make([]float64, len(sc.response))
				for k, r := range sc.response {
					response[k] = r + b.curvature[sc.first+k]
				}
				m.scales = append(m.scales, scale{sc.half, sc.first, response, sc.noise})
			}
			made[l] = m
		}
		copied := *m
		copied.from, copied.to = l.from, l.to
		w.ladders[i] = &copied
	}
	return &w
}

func minus(a, b []float64) []float64 {
	out := make([]float64, len(a))
	for i := range a {
		out[i] = a[i] - b[i]
	}
	return out
}

// bent is the ground's bend at a time (s): what the recorded signal has beyond the view's.
func (v *view) bent(t float64) float64 {
	if v.bend == nil {
		return 0
	}
	return sampled{v.tr.StartS, v.tr.StepS, v.bend.values}.at(t)
}

// bentBetween tells whether the bend between two times (s) is more than a straight line by what can be seen.
func (v *view) bentBetween(start, end float64) bool {
	if v.bend == nil || end <= start {
		return false
	}
	const tenth = 0.1
	straight := line{start, v.bent(start), end, v.bent(end)}
	for k := range 9 {
		t := start + (end-start)*float64(k+1)/10
		if math.Abs(v.bent(t)-straight.at(t)) > tenth*v.noise {
			return true
		}
	}
	return false
}

// asRecorded is a baseline that is straight in the recorded signal, in the view's.
func (v *view) asRecorded(l line) ground {
	if v.bend == nil {
		return l
	}
	return lessBend{l, v}
}

type lessBend struct {
	line
	v *view
}

func (l lessBend) at(t float64) float64 { return l.line.at(t) - l.v.bent(t) }

// inDip tells whether a place lies in a dip of followed ground.
func (v *view) inDip(at float64) bool {
	return v.bend != nil && slices.ContainsFunc(v.bend.dips, func(d stretch) bool { return at >= float64(d.from) && at <= float64(d.to) })
}

// outOfDips moves a foot that lies in a dip of the ground inward until the signal has come up to the ground; the baseline stands on the ground there.
func (v *view) outOfDips(found []candidate) {
	for i := range found {
		c := &found[i]
		if c.startKind == Base && v.inDip(c.start) {
			for c.start < c.apex-1 && v.clean[int(c.start)] < v.bend.rest[int(c.start)] {
				c.start++
			}
			c.before.onRest = true
		}
		if c.endKind == Base && v.inDip(c.end) {
			for c.end > c.apex+1 && v.clean[int(c.end)] < v.bend.rest[int(c.end)] {
				c.end--
			}
			c.after.onRest = true
		}
	}
}

// apartFromCutOff gives the neighbours of a cut-off peak baselines of their own.
func (v *view) apartFromCutOff(found []candidate) {
	for i := 1; i < len(found); i++ {
		a, b := &found[i-1], &found[i]
		if touch(*a, *b) && a.endKind == Drop && (a.saturated || b.saturated) {
			a.endKind, b.startKind = Base, Base
			a.after, b.before = side{reach: a.end - a.apex, limit: a.end, wall: a.end}, side{reach: b.apex - b.start, limit: b.start, wall: b.start}
		}
	}
}

// hull moves an outer foot inward to where the chord stands highest above the signal on its flank, as long as it does so by more than noise.
func (v *view) hull(cluster []candidate, left, right standing) (standing, standing) {
	const rounds = 12
	first, last := &cluster[0], &cluster[len(cluster)-1]
	worst := func(c *candidate, from, to float64, base line) (at float64, most float64) {
		limit := gateNoise * v.memory * v.smoothNoise(c.on, from)
		for i := int(math.Ceil(from)); i <= int(to); i++ {
			if above := base.at(v.timeS(float64(i))) - c.on.smooth.Value[i]; above > max(most, limit) && !v.inDip(float64(i)) {
				at, most = float64(i), above
			}
		}
		return at, most
	}
	for range rounds {
		base := line{left.at, left.level, right.at, right.level}
		a, above := worst(first, first.start+1, first.apex, base)
		b, aboveRight := worst(last, last.apex, last.end-1, base)
		if first.startKind != Base {
			above = 0
		}
		if last.endKind != Base {
			aboveRight = 0
		}
		switch {
		case above == 0 && aboveRight == 0:
			return left, right
		case above >= aboveRight:
			first.start, first.before = a, side{reach: first.apex - a, limit: a, wall: a}
			left = v.stand(a, Base, first.before, -1)
		default:
			last.end, last.after = b, side{reach: b - last.apex, limit: b, wall: b}
			right = v.stand(b, Base, last.after, 1)
		}
	}
	return left, right
}
