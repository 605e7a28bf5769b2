package peaks

import (
	"math"

	"yugen/core/signal"
)

// measure turns candidates into peaks, all on the measured signal and its true times. Peaks below the least area or height that
// hold at their apexes are left out.
func (v *view) measure(found []candidate) []Peak {
	peaks := make([]Peak, 0, len(found))
	for i, c := range found {
		var p Peak
		if c.shape != nil {
			p = v.measureShape(c)
		} else {
			p = v.measureSignal(c)
		}
		p.Flags = flags(c)
		if s := v.settings.at(p.ApexMin); p.AreaS > 0 && p.Height > 0 && p.AreaS >= s.LeastArea && p.Height >= s.LeastHeight {
			if i > 0 && touch(found[i-1], c) {
				p.PeakToValley = peakToValley(v, found[i-1], c)
			}
			if p.PeakToValley == nil {
				p.absent("peak_to_valley", "no valley parts it from a peak before it")
			}
			peaks = append(peaks, p)
		}
	}
	return peaks
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
		AreaSE:       v.areaSE(c),
		Height:       v.apexLevel(c) - c.base.at(apex),
		MoreMeasures: &MoreMeasures{},
		StartKind:    c.startKind, EndKind: c.endKind, BaselineKind: c.baseKind,
		BaselineStart: c.base.at(start), BaselineEnd: c.base.at(end),
		Under: outlineOf(c.base, start, end),
	}
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
		BaselineStart: s.base.at(start), BaselineEnd: s.base.at(end),
		Under: outlineOf(s.base, start, end),
		Over:  outline(sumOf{s.base, s.emg}.at, start, end),
		Shape: &EMGShape{s.area, s.centre / 60, s.sigma / 60, s.tau / 60, s.rSquared},
	}
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

// areaSE is the standard uncertainty of an area from noise. Of n samples at distance Δ with noise σ the sum has σ² Δ² n; each end of
// the baseline is a mean of m samples and enters the area with half the length L = nΔ, so both together have L² σ²/(2m), by the
// law of propagation of uncertainty (JCGM 100:2008, 5.1.2). A side that is no end of the baseline, at a drop or a tangent, takes the
// same share, since the baseline there is known no better. Noise with memory counts as that much more noise. What noise does to the
// place of a boundary is not in it. A fitted shape has the standard error of its fit instead.
func (v *view) areaSE(c candidate) float64 {
	n := c.end - c.start
	ends := 2*max(1, math.Round(c.on.width/2)) + 1
	sigma := v.noise * v.memory
	return sigma * v.tr.StepS * math.Sqrt(n+n*n/(2*ends))
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
