package report

import (
	"fmt"
	"math"

	"yugen/core/batch"
)

// How high small curves are, and how narrow they may be, mm.
const (
	smallHeight = 13.0
	leastCurve  = 20.0
)

// smallCurves draws every curve small: the line, its points, and the range it holds for.
func (w *writer) smallCurves() {
	n := max(1, min(perTable, int((w.right-w.left)/leastCurve)))
	smallWidth := (w.right - w.left) / float64(n)
	for from := 0; from < len(w.in.Result.Curves); from += n {
		w.room(smallHeight + 12)
		for k, c := range w.in.Result.Curves[from:min(len(w.in.Result.Curves), from+n)] {
			w.smallCurve(w.left+float64(k)*smallWidth, smallWidth, c)
		}
		w.y += smallHeight + 11
	}
}

func (w *writer) smallCurve(x, smallWidth float64, c batch.Curve) {
	highX, highY := 0.0, 0.0
	for _, p := range c.Points {
		highX, highY = math.Max(highX, p.Level), math.Max(highY, p.Response)
	}
	page := w.page()
	name := c.CompoundID
	if compound := compoundOf(w.in, c.CompoundID); compound != nil {
		name = compound.Name
	}
	page.line(x, w.y+smallHeight, x+smallWidth-3, w.y+smallHeight, 0.15, mist)
	page.text(Text{X: x, Y: w.y + smallHeight + 3.4, Size: 6.8, Font: Sans, Text: fit(name, Sans, 6.8, smallWidth-2)})
	if c.Fit == nil || highX == 0 || highY <= 0 {
		return
	}
	f := frame{x0: x, x1: x + smallWidth - 4, y0: w.y + smallHeight, y1: w.y, from: 0, to: highX, low: 0, high: highY}
	var points [][2]float64
	for _, l := range c.Line {
		if l.X <= highX {
			points = append(points, [2]float64{f.x(l.X), f.y(l.Y)})
		}
	}
	page.path(Path{Points: points, Stroke: ai, Width: 0.2})
	for _, p := range c.Points {
		fill := ai
		if p.LeftOut || !p.InRange {
			fill = "#FFFEFB"
		}
		page.dot(f.x(p.Level), f.y(p.Response), 0.45, fill, ai)
	}
	page.text(Text{X: x, Y: w.y + smallHeight + 6.4, Size: 6.3, Font: Sans, Colour: ink3, Text: fmt.Sprintf("%g – %g %s", c.Fit.LowX, c.Fit.HighX, w.in.Method.Curves.Unit)})
}
