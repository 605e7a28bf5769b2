package report

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"strconv"

	"yugen/core/batch"
	"yugen/core/signal"
)

// ViewLayout begins the names of layouts that draw a view of the study: its id follows.
const ViewLayout = "view:"

// The ways in which a view shows its traces.
const (
	OffsetView  = "offset"
	OverlayView = "overlay"
	MirrorView  = "mirror"
	AboveView   = "above"
)

// View is a way of looking at several traces.
type View struct {
	Name    string
	Way     string
	Done    string // to the traces, in words; empty for nothing
	Unit    string
	FromMin float64 // the stretch that is shown; all of it where ToMin is not greater
	ToMin   float64
	Traces  []ViewTrace
}

// ViewTrace is one of them, with its line in run order, from 0.
type ViewTrace struct {
	Line  int
	Trace signal.Trace
}

// viewHeight is that of the picture of a view, mm.
const viewHeight = 130.0

// The lines of an overlay are told apart by colour and dash.
var (
	overlayColours = []Colour{ink, ai, moss, "#8A6414", ink3, kaki}
	overlayDashes  = [][]float64{nil, {1.6, 1}, {0.7, 0.7}, {2.6, 1, 0.7, 1}, {0.5, 1}}
)

// view draws a view and lists what it shows.
func (w *writer) view() {
	v := w.in.View
	sub := count(len(v.Traces), "injection")
	if v.Done != "" {
		sub += ", " + v.Done
	}
	w.heading(v.Name, sub)
	note := v.Unit + " against min"
	if v.Way == AboveView {
		note = "injections in run order against min, the darker the higher the signal"
	}
	w.section("Traces", note, viewHeight)
	f := w.viewFrame()
	switch v.Way {
	case AboveView:
		w.above(f)
	case OverlayView, MirrorView:
		w.overlaid(f)
	default:
		w.lifted(f)
	}
	w.y += viewHeight + 4
	w.listed(f)
}

func (w *writer) viewFrame() frame {
	v := w.in.View
	f := frame{x0: w.left + 10, x1: w.right, y0: w.y + viewHeight - 8, y1: w.y + 4, from: math.Inf(1), to: math.Inf(-1)}
	for _, t := range v.Traces {
		f.from, f.to = math.Min(f.from, t.Trace.StartS/60), math.Max(f.to, t.Trace.EndS()/60)
	}
	if v.ToMin > v.FromMin {
		f.from, f.to = math.Max(f.from, v.FromMin), math.Min(f.to, v.ToMin)
	}
	if !(f.to > f.from) {
		f.from, f.to = 0, 1
	}
	return f
}

// shownOf are the points of a trace within a frame's stretch, and their least and greatest value.
func shownOf(f frame, tr signal.Trace) (points [][2]float64, low, high float64) {
	times, values := tr.Envelope(f.from*60, f.to*60, 1200)
	low, high = math.Inf(1), math.Inf(-1)
	for i, v := range values {
		if t := times[i] / 60; t >= f.from && t <= f.to {
			points = append(points, [2]float64{t, v})
			low, high = math.Min(low, v), math.Max(high, v)
		}
	}
	if len(points) == 0 {
		return nil, 0, 0
	}
	return points, low, high
}

func (w *writer) curve(f frame, points [][2]float64, sign, lift float64, stroke Colour, width float64, dash []float64) {
	on := make([][2]float64, len(points))
	for i, p := range points {
		on[i] = [2]float64{f.x(p[0]), f.y(sign*p[1] + lift)}
	}
	if len(on) > 1 {
		w.page().path(Path{Points: on, Stroke: stroke, Width: width, Dash: dash})
	}
}

// overlaid draws all traces on one baseline; in the mirror the first stands upright and the others hang below it.
func (w *writer) overlaid(f frame) {
	mirror := w.in.View.Way == MirrorView
	sign := func(k int) float64 {
		if mirror && k > 0 {
			return -1
		}
		return 1
	}
	f.low, f.high = math.Inf(1), math.Inf(-1)
	all := make([][][2]float64, len(w.in.View.Traces))
	for k, t := range w.in.View.Traces {
		points, low, high := shownOf(f, t.Trace)
		all[k] = points
		if sign(k) < 0 {
			low, high = -high, -low
		}
		f.low, f.high = math.Min(f.low, low), math.Max(f.high, high)
	}
	span := math.Max(f.high-f.low, 1e-9)
	f.low, f.high = f.low-0.03*span, f.high+0.03*span
	w.axes(f, w.in.View.Unit)
	for k, points := range all {
		w.curve(f, points, sign(k), 0, overlayColours[k%len(overlayColours)], 0.25, overlayDashes[k%len(overlayDashes)])
	}
}

// lifted draws the traces one above the other, the first of them highest, each named at its end.
func (w *writer) lifted(f frame) {
	const room = 36.0 // mm for the names
	f.x1 -= room
	n := len(w.in.View.Traces)
	all, lows, tallest := make([][][2]float64, n), make([]float64, n), 1e-9
	for k, t := range w.in.View.Traces {
		points, low, high := shownOf(f, t.Trace)
		all[k], lows[k] = points, low
		tallest = math.Max(tallest, high-low)
	}
	step := tallest / math.Max(2, float64(n)/3) / 2
	f.low, f.high = -0.03*tallest, float64(max(0, n-1))*step+tallest*1.03
	w.timeAxis(f)
	w.scaleBar(f, w.in.View.Unit)
	for k, points := range all {
		lift := float64(n-1-k)*step - lows[k]
		w.curve(f, points, 1, lift, ink, 0.22, nil)
		if len(points) > 0 {
			name := w.nameOf(w.in.View.Traces[k].Line)
			w.page().text(Text{X: f.x1 + 2, Y: f.y(points[len(points)-1][1]+lift) + 0.8, Size: 6.5, Font: Sans, Colour: ink2, Text: fit(name, Sans, 6.5, room-3)})
		}
	}
}

// scaleBar says how much signal a height is, where traces stand above one another and no axis can.
func (w *writer) scaleBar(f frame, unit string) {
	steps := ticks(f.low, f.high, 5)
	if len(steps) < 2 {
		return
	}
	v := steps[1] - steps[0]
	high := f.y(f.low) - f.y(f.low+v)
	p := w.page()
	p.line(f.x0-3, f.y1, f.x0-3, f.y1+high, 0.4, ink2)
	p.text(Text{X: f.x0 - 4, Y: f.y1 + high/2 + 0.9, Size: 7, Font: Sans, Colour: ink2, Align: end, Text: strconv.FormatFloat(v, 'g', 6, 64)})
	p.text(Text{X: f.x0 - 2, Y: f.y1 - 1.5, Size: 7, Font: Sans, Colour: ink2, Align: end, Text: unit})
}

func (w *writer) nameOf(line int) string {
	name := w.in.Lines[line].Name
	if r := w.in.replicate(line); r != "" {
		name += " " + r
	}
	return name
}

// above draws a row for each injection in run order, the darker the higher its signal stands above its least.
func (w *writer) above(f frame) {
	const columns, thick = 900, 8 // points of the picture: across, and down for each row
	n := len(w.in.View.Traces)
	if n == 0 {
		return
	}
	picture := image.NewGray(image.Rect(0, 0, columns, thick*n))
	rows, highest := make([][]float64, n), 1e-9
	for k, t := range w.in.View.Traces {
		rows[k] = make([]float64, columns)
		points, low, _ := shownOf(f, t.Trace)
		for _, p := range points {
			c := min(columns-1, int((p[0]-f.from)/(f.to-f.from)*columns))
			rows[k][c] = math.Max(rows[k][c], p[1]-low)
			highest = math.Max(highest, p[1]-low)
		}
	}
	for k, row := range rows {
		last := 0.0
		for c, v := range row {
			if v == 0 { // between two points of a coarse trace
				v = last
			}
			last = v
			for down := range thick {
				picture.SetGray(c, thick*k+down, color.Gray{Y: uint8(255 - 235*math.Sqrt(v/highest))})
			}
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, picture); err != nil { // into memory, which it cannot fail
		return
	}
	w.page().Items = append(w.page().Items, Item{Picture: &Picture{f.x0, f.y1, f.x1 - f.x0, f.y0 - f.y1, b.Bytes()}})
	w.timeAxis(f)
	p := w.page()
	for k := 0; k < n; k += max(1, n/12) {
		p.text(Text{X: f.x0 - 2, Y: f.y1 + (float64(k)+0.5)/float64(n)*(f.y0-f.y1) + 0.8, Size: 6.5, Font: Sans, Colour: ink3, Align: end, Text: strconv.Itoa(w.in.View.Traces[k].Line + 1)})
	}
}

// listed says what is shown: how each line is told, where it stands in the run, and its highest signal.
func (w *writer) listed(f frame) {
	v := w.in.View
	columns := []column{{head: "#", width: 10, number: true}, {head: "", width: 3}, {head: "Injection", width: 66}, {head: "Role", width: 24}, {head: "File", width: 43}, {head: "Highest, " + v.Unit, width: 24, number: true}}
	var rows [][]cell
	for k, t := range v.Traces {
		line := w.in.Lines[t.Line]
		_, _, high := shownOf(f, t.Trace)
		name := cell{text: w.nameOf(t.Line)}
		if v.Way == OverlayView || v.Way == MirrorView {
			name.colour = overlayColours[k%len(overlayColours)]
			name.text += overlayWords[k%len(overlayDashes)]
		}
		rows = append(rows, []cell{plain(strconv.Itoa(t.Line + 1)), plain(""), name, plain(string(line.Role)), plain(line.File), plain(batch.Significant(high, 4))})
	}
	w.section("Shown", fmt.Sprintf("%s to %s min", strconv.FormatFloat(f.from, 'f', 2, 64), strconv.FormatFloat(f.to, 'f', 2, 64)), 20)
	w.table(columns, rows, 5)
}

// overlayWords say a dash in words, for those who print without colours.
var overlayWords = []string{"", ", dashed", ", dotted", ", dash and dot", ", widely dotted"}
