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

// drawing says how a chromatogram is drawn.
type drawing struct {
	height     float64 // mm
	from, to   *float64
	whole      bool // the whole run, not only where peaks are
	plain      bool // without baselines and areas
	labels     []string
	angle      float64
	named      bool // labels only at peaks with a name
	conditions []signal.Trace
	behind     []signal.Trace
}

// usualDrawing is that of a report which says nothing of it.
var usualDrawing = drawing{height: 66, labels: []string{"name", "time"}, angle: 70}

// The least heights of a chromatogram, and of the room over it for labels, mm.
const (
	levelRoom = 8.0
	steepRoom = 20.0
	underAxis = 6.0
)

// chromatogram draws the trace over the stretch that holds peaks, with baselines, fills and labels.
func (w *writer) chromatogram(line Line, injected batch.Injected, d drawing) {
	tr := line.Trace
	over := 1.0
	if len(d.labels) > 0 {
		over = math.Min(levelRoom+(steepRoom-levelRoom)*math.Min(1, d.angle/60), 0.4*d.height)
	}
	f := frame{x0: w.left + 10, x1: w.right, y0: w.y + d.height - underAxis, y1: w.y + over, from: tr.StartS / 60, to: tr.EndS() / 60}
	if n := len(injected.Peaks); n > 0 && !d.whole {
		f.from = math.Max(f.from, injected.Peaks[0].StartMin-0.5)
		f.to = math.Min(f.to, injected.Peaks[n-1].EndMin+0.5)
	}
	if d.from != nil {
		f.from = *d.from
	}
	if d.to != nil {
		f.to = *d.to
	}
	if !(f.to > f.from) || f.to < tr.StartS/60 || f.from > tr.EndS()/60 {
		w.sentence("The run has nothing between the times that are asked for.")
		return
	}
	points, low, high := shownOf(f, tr)
	for _, b := range d.behind {
		if _, l, h := shownOf(f, b); h > l {
			low, high = math.Min(low, l), math.Max(high, h)
		}
	}
	span := math.Max(high-low, 1e-9)
	f.low, f.high = low-0.04*span, high+0.02*span
	w.axes(f, tr.Unit)
	if !d.plain {
		for _, p := range injected.Peaks {
			if p.EndMin > f.from && p.StartMin < f.to {
				w.fill(f, tr, p)
			}
		}
	}
	for _, b := range d.behind {
		behind, _, _ := shownOf(f, b)
		w.curve(f, behind, 1, 0, mist, 0.2, nil)
	}
	w.curve(f, points, 1, 0, ink, 0.25, nil)
	for k := range points {
		points[k] = [2]float64{f.x(points[k][0]), f.y(points[k][1])}
	}
	page := w.page()
	dropped := w.labels(f, tr, injected, d, points)
	w.y += d.height
	if len(dropped) > 0 {
		page.text(Text{X: f.x0, Y: w.y + 2, Size: 6.5, Font: Sans, Colour: ink3, Text: fit("Without room for a label: "+strings.Join(dropped, ", "), Sans, 6.5, f.x1-f.x0)})
		w.y += 2
	}
	w.y += 4
	for _, c := range d.conditions {
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

// labels write what a drawing says at the apexes, and give what found no room.
func (w *writer) labels(f frame, tr signal.Trace, injected batch.Injected, d drawing, line [][2]float64) (dropped []string) {
	var list []label
	for _, p := range injected.Peaks {
		c := compoundOf(w.in, p.CompoundID)
		if p.ApexMin < f.from || p.ApexMin > f.to || d.named && c == nil {
			continue
		}
		l := label{x: f.x(p.ApexMin), y: f.y(tr.ValueAt(p.ApexMin * 60)), text: w.labelText(p, c, injected, d.labels), font: Sans, colour: ink3, size: 6.5, first: c != nil, rise: p.Height}
		if c != nil {
			l.font, l.colour = SansMedium, ink
			if c.Role == compounds.InternalStandard {
				l.colour = moss
			}
		}
		if l.text != "" {
			list = append(list, l)
		}
	}
	standing, without := place(list, d.angle, [4]float64{f.x0, w.y - 4, f.x1 + 2, f.y0}, line)
	for _, p := range standing {
		if p.at[1] < p.y-4 || math.Abs(p.quad[0][0]-p.x) > 4 && d.angle > 30 {
			w.page().line(p.x, p.y-0.8, p.at[0], p.at[1]+0.6, 0.1, mist)
		}
		w.page().text(Text{X: p.at[0], Y: p.at[1], Size: p.size, Font: p.font, Colour: p.colour, Angle: d.angle, Text: p.text})
	}
	for _, l := range without {
		dropped = append(dropped, l.text)
	}
	return dropped
}

// labelText is what stands at an apex.
func (w *writer) labelText(p batch.NamedPeak, c *compounds.Compound, injected batch.Injected, parts []string) string {
	var list []string
	for _, part := range parts {
		switch part {
		case "name":
			if c != nil {
				list = append(list, c.Name)
			}
		case "time":
			list = append(list, strconv.FormatFloat(p.ApexMin, 'f', 2, 64))
		case "area":
			list = append(list, batch.Significant(p.AreaS, 4))
		case "amount":
			if c == nil {
				continue
			}
			if a := injected.Readings[c.ID].Amount; a != nil {
				list = append(list, batch.Significant(*a, 3)+" "+w.in.Method.ReportedUnit())
			}
		}
	}
	return strings.Join(list, "  ")
}
