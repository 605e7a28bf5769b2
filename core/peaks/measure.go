package peaks

import (
	"math"

	"yugen/core/signal"
)

// measure turns candidates into peaks, all on the raw signal and its true times. Peaks below the least area are left out.
func (v *view) measure(found []candidate, leastArea float64) []Peak {
	peaks := make([]Peak, 0, len(found))
	for _, c := range found {
		p := v.one(c)
		if p.AreaS > 0 && p.Height > 0 && p.AreaS >= leastArea {
			peaks = append(peaks, p)
		}
	}
	return peaks
}

// line is a baseline: the signal at two times (s).
type line struct{ t0, y0, t1, y1 float64 }

func (l line) at(t float64) float64 {
	if l.t1 == l.t0 {
		return l.y0
	}
	return l.y0 + (l.y1-l.y0)*(t-l.t0)/(l.t1-l.t0)
}

func (v *view) one(c candidate) Peak {
	start, apex, end := v.timeS(c.start), v.timeS(c.apex), v.timeS(c.end)
	base := line{start, c.baseStart, end, c.baseEnd}
	p := Peak{
		StartMin: start / 60, ApexMin: apex / 60, EndMin: end / 60,
		AreaS:     area(v.tr, base, start, end),
		AreaSE:    v.areaSE(c),
		Height:    v.apexLevel(c) - base.at(apex),
		StartKind: c.startKind, EndKind: c.endKind,
		BaselineStart: c.baseStart, BaselineEnd: c.baseEnd,
		Flags: []Flag{},
	}
	for _, r := range c.riders {
		from, to := v.timeS(r.start), v.timeS(r.end)
		p.AreaS -= area(v.tr, line{from, r.baseStart, to, r.baseEnd}, from, to)
	}
	if c.shoulder {
		p.Flags = append(p.Flags, Shoulder)
	}
	if c.saturated {
		p.Flags = append(p.Flags, Saturated)
		return p
	}
	shape := crossings{v.tr, base, apex, start, end, p.Height}
	if l, r, ok := shape.at(0.5); ok {
		w := (r - l) / 60
		p.WidthHalfMin = &w
		n := 5.54 * (p.ApexMin / w) * (p.ApexMin / w)
		p.Plates = &n
	}
	if l, r, ok := shape.at(0.05); ok && apex > l {
		t := (r - l) / (2 * (apex - l))
		p.Tailing = &t
	}
	if l, r, ok := shape.at(0.1); ok && apex > l {
		a := (r - apex) / (apex - l)
		p.Asymmetry = &a
	}
	return p
}

// areaSE is the standard uncertainty of an area from noise. Of n samples at distance Δ with noise σ the sum has σ² Δ² n; each end of
// the baseline is a mean of m samples and enters the area with half the length L = nΔ, so both together have L² σ²/(2m), by the
// law of propagation of uncertainty (JCGM 100:2008, 5.1.2). A side that is no end of the baseline, at a drop or a tangent, takes the
// same share, since the baseline there is known no better. Noise with memory counts as that much more noise. What noise does to the
// place of a boundary is not in it.
func (v *view) areaSE(c candidate) float64 {
	n := c.end - c.start
	ends := 2*max(1, math.Round(v.width/2)) + 1
	sigma := v.noise * v.memory
	return sigma * v.tr.StepS * math.Sqrt(n+n*n/(2*ends))
}

// apexLevel is the signal at the apex: the top of the parabola through the samples there, or, at a shoulder, the signal.
func (v *view) apexLevel(c candidate) float64 {
	at := v.timeS(c.apex)
	if c.shoulder || c.saturated {
		return v.tr.ValueAt(at)
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
func area(tr signal.Trace, base line, startS, endS float64) float64 {
	sum := 0.0
	t0, y0 := startS, tr.ValueAt(startS)-base.at(startS)
	for i := firstAfter(tr, startS); i < tr.Len() && tr.TimeS(i) < endS; i++ {
		t := tr.TimeS(i)
		y := tr.Values[i] - base.at(t)
		sum += (t - t0) * (y + y0) / 2
		t0, y0 = t, y
	}
	return sum + (endS-t0)*(tr.ValueAt(endS)-base.at(endS)+y0)/2
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
	base             line
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

// summarise fills in what depends on the other peaks of the trace: numbers, percentages, resolution, signal-to-noise.
func summarise(tr signal.Trace, peaks []Peak) {
	total := 0.0
	for _, p := range peaks {
		total += math.Abs(p.AreaS)
	}
	for i := range peaks {
		p := &peaks[i]
		p.Number = i + 1
		p.AreaPercent = 100 * math.Abs(p.AreaS) / total
		if i > 0 {
			p.Resolution = resolution(peaks[i-1], *p)
		}
		if h, ok := quietNear(tr, peaks, i); ok && h > 0 {
			sn := 2 * math.Abs(p.Height) / h
			p.SignalToNoise = &sn
		}
	}
}

// resolution is 1.18 (t2 - t1) / (W1 + W2) with widths at half height; absent where a width is.
func resolution(a, b Peak) *float64 {
	if a.WidthHalfMin == nil || b.WidthHalfMin == nil {
		return nil
	}
	r := 1.18 * (b.ApexMin - a.ApexMin) / (*a.WidthHalfMin + *b.WidthHalfMin)
	return &r
}

// noiseWidths is how many widths at half height a stretch must have for its peak-to-peak noise to count.
const noiseWidths = 5

// quietNear is the peak-to-peak noise in a stretch of at least five widths that holds no peak, as near to the peak as
// there is one.
func quietNear(tr signal.Trace, peaks []Peak, i int) (h float64, ok bool) {
	p := peaks[i]
	if p.WidthHalfMin == nil {
		return 0, false
	}
	need := noiseWidths * *p.WidthHalfMin
	best, at := math.Inf(1), 0.0
	consider := func(from, to float64) {
		if to-from < need {
			return
		}
		if from < p.ApexMin {
			from = to - need
		}
		if d := math.Abs(from + need/2 - p.ApexMin); d < best {
			best, at = d, from
		}
	}
	left := tr.StartS / 60
	for _, q := range peaks {
		consider(left, q.StartMin)
		left = max(left, q.EndMin)
	}
	consider(left, tr.EndS()/60)
	if math.IsInf(best, 1) {
		return 0, false
	}
	return signal.PeakToPeak(tr, at*60, (at+need)*60)
}
