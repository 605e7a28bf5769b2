package report

import (
	"math"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/signal"
)

// frame maps time (min) and signal to the page.
type frame struct {
	x0, x1, y0, y1      float64 // mm; y0 is the axis
	from, to, low, high float64
}

func (f frame) x(min float64) float64 { return f.x0 + (min-f.from)/(f.to-f.from)*(f.x1-f.x0) }
func (f frame) y(v float64) float64 {
	return f.y0 - (math.Max(f.low, math.Min(f.high, v))-f.low)/(f.high-f.low)*(f.y0-f.y1)
}

const chromatogramHeight = 66.0

// chromatogram draws the trace over the stretch that holds peaks, with baselines, fills and labels.
func (w *writer) chromatogram(line Line, injected batch.Injected) {
	tr := line.Trace
	f := frame{x0: left + 10, x1: right, y0: w.y + chromatogramHeight - 6, y1: w.y + 20, from: tr.StartS / 60, to: tr.EndS() / 60}
	if n := len(injected.Peaks); n > 0 {
		f.from = math.Max(f.from, injected.Peaks[0].StartMin-0.5)
		f.to = math.Min(f.to, injected.Peaks[n-1].EndMin+0.5)
	}
	times, values := tr.Envelope(f.from*60, f.to*60, 1500)
	f.low, f.high = values[0], values[0]
	for i, v := range values {
		if t := times[i] / 60; t >= f.from && t <= f.to {
			f.low, f.high = math.Min(f.low, v), math.Max(f.high, v)
		}
	}
	span := math.Max(f.high-f.low, 1e-9)
	f.low, f.high = f.low-0.04*span, f.high+0.02*span
	w.axes(f, tr.Unit)
	for _, p := range injected.Peaks {
		w.fill(f, tr, p)
	}
	points := make([][2]float64, 0, len(times))
	for i := range times {
		if t := times[i] / 60; t >= f.from && t <= f.to {
			points = append(points, [2]float64{f.x(t), f.y(values[i])})
		}
	}
	w.page().path(Path{Points: points, Stroke: ink, Width: 0.25})
	w.labels(f, tr, injected)
	w.y += chromatogramHeight + 4
	for _, c := range line.Conditions {
		w.lane(f, c)
	}
}

// laneHeight is that of a condition under a chromatogram, mm.
const laneHeight = 11.0

// leastSpan is the least part of where a condition stands that its lane spans, so that dust makes no mountains.
const leastSpan = 0.02

// lane draws a condition of the run over the stretch of the chromatogram above it, on a scale of its own.
func (w *writer) lane(above frame, tr signal.Trace) {
	w.room(laneHeight)
	times, values := tr.Envelope(above.from*60, above.to*60, 800)
	f := frame{x0: above.x0, x1: above.x1, y0: w.y + laneHeight - 2, y1: w.y + 2.5, from: above.from, to: above.to, low: math.Inf(1), high: math.Inf(-1)}
	points := make([][2]float64, 0, len(times))
	for i, v := range values {
		if t := times[i] / 60; t >= f.from && t <= f.to {
			f.low, f.high = math.Min(f.low, v), math.Max(f.high, v)
		}
	}
	if f.low > f.high {
		return
	}
	middle := (f.low + f.high) / 2
	half := math.Max((f.high-f.low)/2, math.Max(leastSpan/2*math.Abs(middle), 1e-9))
	f.low, f.high = middle-half, middle+half
	for i, v := range values {
		if t := times[i] / 60; t >= f.from && t <= f.to {
			points = append(points, [2]float64{f.x(t), f.y(v)})
		}
	}
	p := w.page()
	p.line(f.x0, f.y0, f.x1, f.y0, 0.1, ink3)
	p.path(Path{Points: points, Stroke: ink2, Width: 0.2})
	name := tr.Name
	if tr.Unit != "" {
		name += ", " + tr.Unit
	}
	p.text(Text{X: f.x0 + 1, Y: f.y1 + 0.6, Size: 6.5, Font: Sans, Colour: ink2, Text: name})
	for _, limit := range [][2]float64{{f.low, f.y0}, {f.high, f.y1 + 1.5}} {
		p.text(Text{X: f.x0 - 2, Y: limit[1], Size: 6.5, Font: Sans, Colour: ink3, Align: end, Text: batch.Significant(limit[0], 3)})
	}
	w.y += laneHeight
}

func (w *writer) timeAxis(f frame) {
	p := w.page()
	p.line(f.x0, f.y0, f.x1, f.y0, 0.2, ink3)
	for _, t := range ticks(f.from, f.to, 10) {
		p.line(f.x(t), f.y0, f.x(t), f.y0+1.2, 0.2, ink3)
		p.text(Text{X: f.x(t), Y: f.y0 + 4.2, Size: 7, Font: Sans, Colour: ink3, Align: middle, Text: strconv.FormatFloat(t, 'g', 6, 64)})
	}
}

func (w *writer) axes(f frame, unit string) {
	w.timeAxis(f)
	p := w.page()
	for _, v := range ticks(f.low, f.high, 5) {
		p.line(f.x0-1.2, f.y(v), f.x0, f.y(v), 0.2, ink3)
		p.text(Text{X: f.x0 - 2, Y: f.y(v) + 0.9, Size: 7, Font: Sans, Colour: ink3, Align: end, Text: strings.Replace(strconv.FormatFloat(v, 'g', 6, 64), "-", "−", 1)})
	}
	p.text(Text{X: f.x0 - 2, Y: f.y1 - 2, Size: 7, Font: Sans, Colour: ink2, Align: end, Text: unit})
}

// ticks are round numbers between two values, about n of them, in steps of 1, 2 or 5.
func ticks(low, high float64, n int) []float64 {
	raw := (high - low) / float64(n)
	if !(raw > 0) {
		return nil
	}
	power := math.Pow(10, math.Floor(math.Log10(raw)))
	step := power
	for _, m := range []float64{1, 2, 5, 10} {
		if step = m * power; step >= raw*0.999 {
			break
		}
	}
	var list []float64
	for k := math.Ceil(low / step); k*step <= high; k++ {
		list = append(list, math.Round(k*step*1e9)/1e9+0) // + 0 makes −0 plain 0
	}
	return list
}

func (w *writer) fill(f frame, tr signal.Trace, p batch.NamedPeak) {
	colour := greyP
	if c := compoundOf(w.in, p.CompoundID); c != nil {
		colour = aiPal
		if c.Role == compounds.InternalStandard {
			colour = mossP
		}
	}
	times, values := tr.Envelope(p.StartMin*60, p.EndMin*60, 200)
	points := [][2]float64{{f.x(p.StartMin), f.y(p.BaselineStart)}}
	for i, t := range times {
		if t /= 60; t >= p.StartMin && t <= p.EndMin {
			points = append(points, [2]float64{f.x(t), f.y(values[i])})
		}
	}
	points = append(points, [2]float64{f.x(p.EndMin), f.y(p.BaselineEnd)})
	page := w.page()
	page.path(Path{Points: points, Fill: colour})
	page.line(f.x(p.StartMin), f.y(p.BaselineStart), f.x(p.EndMin), f.y(p.BaselineEnd), 0.18, ink2)
}

// labels write names and times upwards along the peaks; one that would stand on its neighbour moves right.
func (w *writer) labels(f frame, tr signal.Trace, injected batch.Injected) {
	last := math.Inf(-1)
	for _, p := range injected.Peaks {
		text, colour, font := strconv.FormatFloat(p.ApexMin, 'f', 2, 64), ink3, Sans
		if c := compoundOf(w.in, p.CompoundID); c != nil {
			text, colour, font = c.Name+"  "+text, ink, SansMedium
			if c.Role == compounds.InternalStandard {
				colour = moss
			}
		}
		x := math.Max(f.x(p.ApexMin), last+3)
		last = x
		w.page().text(Text{X: x + 0.8, Y: f.y(tr.ValueAt(p.ApexMin*60)) - 1.6, Size: 6.5, Font: font, Colour: colour, Angle: 70, Text: text})
	}
}
