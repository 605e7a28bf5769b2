package peaks

import (
	"fmt"
	"math"

	"yugen/core/signal"
)

// measure turns candidates into peaks, all on the measured signal and its true times. Peaks below the least area or height that
// hold at their apexes are left out. What has no area that can be told from none is dropped, with the reason.
func (v *view) measure(found []candidate) []Peak {
	peaks := make([]Peak, 0, len(found))
	kinds := v.learnNoise(found)
	for i := range found {
		p, ok := v.measureOne(found, i, kinds)
		if !ok {
			continue
		}
		s := v.settings.at(p.ApexMin)
		if byHand := found[i].drawn; !byHand && (p.AreaS < s.LeastArea || p.Height < s.LeastHeight) {
			continue // what a person has drawn is wanted, however small
		}
		if i > 0 && touch(found[i-1], found[i]) {
			p.PeakToValley = peakToValley(v, found[i-1], found[i])
		}
		if p.PeakToValley == nil {
			p.absent("peak_to_valley", "no valley parts it from a peak before it")
		}
		peaks = append(peaks, p)
	}
	return peaks
}

func (v *view) measureOne(found []candidate, i int, kinds noiseKinds) (Peak, bool) {
	c := &found[i]
	if c.shape != nil {
		p := v.measureShape(*c)
		p.Flags = flags(*c)
		return p, p.AreaS > 0 && p.Height > 0
	}
	p := v.measureSignal(*c)
	if !(p.AreaS > 0 && p.Height > 0) && v.closer(found, i) {
		p = v.measureSignal(*c)
	}
	p.Flags = flags(*c)
	if !(p.AreaS > 0 && p.Height > 0) {
		v.drop(c.apex, "no baseline that was tried leaves it an area above zero; anchors or a time rule can give it one")
		return p, false
	}
	var before, after *candidate
	if i > 0 && touch(found[i-1], *c) {
		before = &found[i-1]
	}
	if i+1 < len(found) && touch(*c, found[i+1]) {
		after = &found[i+1]
	}
	terms := v.areaTerms(*c, before, after, kinds)
	p.AreaTerms, p.AreaSE = &terms, terms.total()
	doubt := terms.NoiseS
	if c.scale > 0 { // broad ones may be the ground's
		doubt = math.Hypot(terms.NoiseS, terms.BaselineS)
	}
	if least := v.settings.Certainty; p.AreaS < least*doubt && !c.drawn && !c.summed {
		v.drop(c.apex, fmt.Sprintf("its area, %.3g, is less than %g times its standard uncertainty, %.2g", p.AreaS, least, doubt))
		return p, false
	}
	return p, true
}

// closer gives a peak whose baseline lies above it feet as near as a Gaussian's, and a line of its own between them.
func (v *view) closer(found []candidate, i int) bool {
	c := &found[i]
	if c.drawn || c.baseKind != OnChord || len(c.riders) > 0 {
		return false
	}
	dl, dr, _ := c.geometry()
	start, end := max(c.start, c.apex-leastReach*dl), min(c.end, c.apex+leastReach*dr)
	if !(end > start+2) {
		return false
	}
	c.start, c.end = start, end
	left, right := v.stand(start, ByHand, c.before, -1), v.stand(end, ByHand, c.after, 1)
	c.base, c.ends = line{left.at, left.level, right.at, right.level}, [2]standing{left, right}
	return true
}

func flags(c candidate) []Flag {
	list := []Flag{}
	for _, f := range []struct {
		has  bool
		flag Flag
	}{{c.shoulder, Shoulder}, {c.saturated, Saturated}, {c.summed, Summed}, {c.noFit, FitFailed}, {c.straight, StraightSkim}} {
		if f.has {
			list = append(list, f.flag)
		}
	}
	return list
}

// measureSignal measures what lies between the signal and the baseline.
func (v *view) measureSignal(c candidate) Peak {
	start, apex, end := v.timeS(c.start), v.timeS(c.apex), v.timeS(c.end)
	p := Peak{
		StartMin: start / 60, ApexMin: apex / 60, EndMin: end / 60,
		AreaS:        area(v.measured, c.base, start, end),
		Height:       v.apexLevel(c) - c.base.at(apex),
		MoreMeasures: &MoreMeasures{},
		StartKind:    c.startKind, EndKind: c.endKind, BaselineKind: c.baseKind,
	}
	p.draw(v, c.base, start, end)
	for _, r := range c.riders {
		p.AreaS -= area(v.measured, r.base, v.timeS(r.start), v.timeS(r.end))
	}
	if c.saturated {
		p.absentAll("the detector cut off the top")
		return p
	}
	shape := crossings{v.measured, c.base, apex, start, end, p.Height}
	p.shapeMeasures(shape.at)
	p.tangentMeasures(v, c)
	p.moments(v.measured, c, start, end)
	return p
}

// draw notes a baseline as it lies in the recorded signal.
func (p *Peak) draw(v *view, base ground, start, end float64) {
	p.BaselineStart, p.BaselineEnd = base.at(start)+v.bent(start), base.at(end)+v.bent(end)
	p.Under = outlineOf(base, start, end)
	if v.bentBetween(start, end) {
		p.Under = outline(func(t float64) float64 { return base.at(t) + v.bent(t) }, start, end)
		if p.BaselineKind == OnChord {
			p.BaselineKind = OnFollowed
		}
	}
}

// measureShape measures a fitted shape as if it stood alone.
func (v *view) measureShape(c candidate) Peak {
	s := *c.shape
	mode := s.mode()
	height := s.at(mode)
	start, end := max(v.tr.TimeS(0), s.crossing(mode, height/1000, -1)), min(v.tr.EndS(), s.crossing(mode, height/1000, 1))
	p := Peak{
		StartMin: start / 60, ApexMin: mode / 60, EndMin: end / 60,
		AreaS: s.area, AreaSE: s.areaSE, Height: height,
		MoreMeasures: &MoreMeasures{},
		StartKind:    Fitted, EndKind: Fitted, BaselineKind: OnFit,
		Shape: &EMGShape{s.area, s.centre / 60, s.sigma / 60, s.tau / 60, s.rSquared},
	}
	p.draw(v, s.base, start, end)
	p.Over = outline(func(t float64) float64 { return s.base.at(t) + s.emg.at(t) + v.bent(t) }, start, end)
	p.shapeMeasures(func(fraction float64) (left, right float64, ok bool) {
		return s.crossing(mode, fraction*height, -1), s.crossing(mode, fraction*height, 1), true
	})
	centroid, variance := s.mean()/60, (s.sigma*s.sigma+s.tau*s.tau)/3600
	skew := 2 * s.tau * s.tau * s.tau / math.Pow(s.sigma*s.sigma+s.tau*s.tau, 1.5)
	p.CentroidMin, p.VarianceMin2, p.Skew = &centroid, &variance, &skew
	p.absent("tangent_width_min", "fitted shapes are measured at half height")
	p.absent("plates_tangent", "fitted shapes are measured at half height")
	return p
}

// apexLevel is the signal at the apex: the top of the parabola through the samples there, or, at a shoulder, the signal.
func (v *view) apexLevel(c candidate) float64 {
	at := v.timeS(c.apex)
	if c.shoulder || c.saturated || v.settings.SmoothMin > 0 {
		return v.measured.ValueAt(at)
	}
	top := int(math.Round(c.apex))
	half := v.topHalf(top)
	if half < 1 {
		return v.tr.ValueAt(at)
	}
	f := signal.Fit(v.raw[top-half:top+half+1], half)
	d := c.apex - float64(top)
	return f.Value[half] + f.Slope[half]*d + f.Curvature[half]*d*d/2
}

// area is the integral of signal less baseline between two times (s) by trapezoids on true times, interpolated at
// boundaries that fall between samples.
func area(tr signal.Trace, base ground, startS, endS float64) float64 {
	sum := 0.0
	steps(tr, base, startS, endS, func(t0, y0, t1, y1 float64) { sum += (t1 - t0) * (y1 + y0) / 2 })
	return sum
}

// steps calls f for every step of signal less baseline between two times (s).
func steps(tr signal.Trace, base ground, startS, endS float64, f func(t0, y0, t1, y1 float64)) {
	t0, y0 := startS, tr.ValueAt(startS)-base.at(startS)
	if l, straight := base.(line); straight && tr.TimesS == nil { // by far the most common, and the innermost loop
		level, slope := l.at(0), l.at(1)-l.at(0)
		for i := firstAfter(tr, startS); i < len(tr.Values); i++ {
			t := tr.StartS + float64(i)*tr.StepS
			if t >= endS {
				break
			}
			y := tr.Values[i] - level - slope*t
			f(t0, y0, t, y)
			t0, y0 = t, y
		}
		f(t0, y0, endS, tr.ValueAt(endS)-base.at(endS))
		return
	}
	for i := firstAfter(tr, startS); i < tr.Len() && tr.TimeS(i) < endS; i++ {
		t := tr.TimeS(i)
		y := tr.Values[i] - base.at(t)
		f(t0, y0, t, y)
		t0, y0 = t, y
	}
	f(t0, y0, endS, tr.ValueAt(endS)-base.at(endS))
}

func firstAfter(tr signal.Trace, timeS float64) int {
	i := tr.Index(timeS)
	for i > 0 && tr.TimeS(i-1) > timeS {
		i--
	}
	for i < tr.Len() && tr.TimeS(i) <= timeS {
		i++
	}
	return i
}

// crossings finds where a peak passes a fraction of its height, going outward from the apex, by linear interpolation.
type crossings struct {
	tr               signal.Trace
	base             ground
	apex, start, end float64
	height           float64
}

func (c crossings) at(fraction float64) (leftS, rightS float64, ok bool) {
	level := fraction * c.height
	first := firstAfter(c.tr, c.apex)
	left, okLeft := c.outward(first-1, -1, level)
	right, okRight := c.outward(first, 1, level)
	return left, right, okLeft && okRight
}

func (c crossings) outward(i, dir int, level float64) (float64, bool) {
	t0, y0 := c.apex, c.height
	for ; i >= 0 && i < c.tr.Len(); i += dir {
		t := c.tr.TimeS(i)
		if t < c.start || t > c.end {
			return 0, false
		}
		y := c.tr.Values[i] - c.base.at(t)
		if y <= level {
			return t0 + (t-t0)*(y0-level)/(y0-y), true
		}
		t0, y0 = t, y
	}
	return 0, false
}
