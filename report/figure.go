package report

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
)

// Figure is one or several charts above each other on one axis, for print.
type Figure struct {
	Title  string
	Axis   string // in words, with its unit
	Days   bool   // the axis counts days since 1970
	Whole  bool   // it counts injections
	Charts []FigureChart
	Marks  []FigureMark // what was changed, through all charts
	Seams  []FigureMark // where batches begin, with their names
	Made   time.Time    // of its newest input, so that the same inputs give the same file
}

// FigureChart is one quantity.
type FigureChart struct {
	Words, Unit       string
	Points            []FigurePoint
	Low, High, Centre *float64
	Joined            bool        // points of one series are joined
	Line              *[2]float64 // slope and intercept of a line through them
}

// FigurePoint is one value; points of the same series may be joined.
type FigurePoint struct {
	X, Value float64
	Series   string
	Filled   bool
}

// FigureMark is words at a place of the axis.
type FigureMark struct {
	X    float64
	Says string
}

// FigureStyle is how a figure is drawn, by name.
type FigureStyle struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	WidthMM float64 `json:"width_mm"`
	ChartMM float64 `json:"chart_mm"` // the height of one chart
	SizePT  float64 `json:"size_pt"`  // of the type
	AxisPT  float64 `json:"axis_pt"`
	LinePT  float64 `json:"line_pt"`
	PointMM float64 `json:"point_mm"`
	Framed  bool    `json:"framed"`  // all round, else at the left and below
	Letters bool    `json:"letters"` // a, b, c in the charts
	Slash   bool    `json:"slash"`   // Area / unit, else Area (unit)
	Colour  bool    `json:"colour"`
	font    Font
}

// FigureStyles are those that ship.
var FigureStyles = []FigureStyle{
	{ID: "column", Name: "One column, 85 mm", WidthMM: 85, ChartMM: 32, SizePT: 7, AxisPT: 0.6, LinePT: 0.45, PointMM: 0.8, Framed: true, Letters: true, Slash: true, font: Sans},
	{ID: "page", Name: "Page width, 178 mm", WidthMM: 178, ChartMM: 40, SizePT: 8, AxisPT: 0.7, LinePT: 0.5, PointMM: 1, Framed: true, Letters: true, Slash: true, font: Sans},
	{ID: "book", Name: "Book, 120 mm, serif", WidthMM: 120, ChartMM: 36, SizePT: 8.5, AxisPT: 0.5, LinePT: 0.5, PointMM: 0.9, font: Serif},
	{ID: "slide", Name: "Slide, 254 mm, colour", WidthMM: 254, ChartMM: 60, SizePT: 14, AxisPT: 1, LinePT: 1.2, PointMM: 1.8, Slash: true, Colour: true, font: Sans},
}

// Style is the figure style of an id; an empty id is the first.
func Style(id string) (FigureStyle, error) {
	for k, s := range FigureStyles {
		if s.ID == id || id == "" && k == 0 {
			return s, nil
		}
	}
	return FigureStyle{}, fmt.Errorf("%q is no style of figures", id)
}

// maxFigureCharts bounds the charts of a figure.
const maxFigureCharts = 12

// Draw draws a figure on a page of its own size.
func (f Figure) Draw(s FigureStyle) (*Report, error) {
	if len(f.Charts) == 0 || len(f.Charts) > maxFigureCharts {
		return nil, fmt.Errorf("a figure has 1 to %d charts, not %d", maxFigureCharts, len(f.Charts))
	}
	if f.Made.IsZero() { // the library would take the clock
		f.Made = time.Unix(0, 0).UTC()
	}
	line := s.SizePT * mmPerPoint * 1.25
	head := 0.0
	if len(f.Marks) > 0 {
		head = line
	}
	high := 2 + head + float64(len(f.Charts))*(s.ChartMM+2) + 2.6*line + 1
	d := &figureDrawing{f: f, s: s, page: &Page{Width: s.WidthMM, Height: high}, line: line}
	d.spans()
	for k, c := range f.Charts {
		top := 2 + head + float64(k)*(s.ChartMM+2)
		d.chart(k, c, top, top+s.ChartMM)
	}
	d.axis(high - 2.6*line - 1 - 2)
	return &Report{Title: f.Title, Pages: []*Page{d.page}, made: f.Made}, nil
}

// figureDrawing is a figure while it is drawn.
type figureDrawing struct {
	f        Figure
	s        FigureStyle
	page     *Page
	line     float64 // of text, mm
	left     float64
	from, to float64
	scales   [][2]float64 // of the charts
}

func (d *figureDrawing) right() float64 { return d.s.WidthMM - 2 }

func (d *figureDrawing) x(v float64) float64 {
	return d.left + (v-d.from)/(d.to-d.from)*(d.right()-d.left)
}

// spans finds what the axes span, and how much room the numbers at the left take.
func (d *figureDrawing) spans() {
	d.from, d.to = math.Inf(1), math.Inf(-1)
	widest := 0.0
	for _, c := range d.f.Charts {
		low, high := math.Inf(1), math.Inf(-1)
		for _, p := range c.Points {
			d.from, d.to = math.Min(d.from, p.X), math.Max(d.to, p.X)
			low, high = math.Min(low, p.Value), math.Max(high, p.Value)
		}
		for _, v := range []*float64{c.Low, c.High} {
			if v != nil {
				low, high = math.Min(low, *v), math.Max(high, *v)
			}
		}
		if low > high {
			low, high = 0, 1
		}
		room := 0.1 * (high - low)
		if room == 0 {
			room = math.Max(math.Abs(high)*0.05, 1e-9)
		}
		low, high = low-room, high+room
		d.scales = append(d.scales, [2]float64{low, high})
		for _, v := range ticks(low, high, 4) {
			widest = math.Max(widest, width(plainNumber(v), d.s.font, d.s.SizePT))
		}
	}
	if d.from > d.to {
		d.from, d.to = 0, 1
	}
	room := math.Max(0.03*(d.to-d.from), 0.5)
	if !d.f.Whole && len(d.f.Seams) == 0 {
		room = math.Max(0.03*(d.to-d.from), 1e-9)
	}
	d.from, d.to = d.from-room, d.to+room
	d.left = 1.5 + d.line + widest + 2.2
}

func plainNumber(v float64) string {
	return strings.Replace(strconv.FormatFloat(v, 'g', 6, 64), "-", "−", 1)
}

func (d *figureDrawing) text(t Text) {
	t.Font, t.Size = d.s.font, d.s.SizePT
	t.Colour = "#000000"
	d.page.text(t)
}

func (d *figureDrawing) chart(k int, c FigureChart, top, bottom float64) {
	s, p := d.s, d.page
	low, high := d.scales[k][0], d.scales[k][1]
	y := func(v float64) float64 { return bottom - (v-low)/(high-low)*(bottom-top) }
	thin, axis := s.LinePT*mmPerPoint, s.AxisPT*mmPerPoint
	if s.Framed {
		p.path(Path{Points: [][2]float64{{d.left, top}, {d.right(), top}, {d.right(), bottom}, {d.left, bottom}, {d.left, top}}, Stroke: "#000000", Width: axis})
	} else {
		p.path(Path{Points: [][2]float64{{d.left, top}, {d.left, bottom}, {d.right(), bottom}}, Stroke: "#000000", Width: axis})
	}
	for _, v := range ticks(low, high, 4) {
		p.line(d.left, y(v), d.left+1, y(v), axis, "#000000")
		d.text(Text{X: d.left - 1, Y: y(v) + 0.26*d.line, Align: end, Text: plainNumber(v)})
	}
	name := c.Words
	switch {
	case c.Unit != "" && s.Slash:
		name += " / " + c.Unit
	case c.Unit != "":
		name += " (" + c.Unit + ")"
	}
	d.text(Text{X: 0.8 + d.line*0.8, Y: (top + bottom) / 2, Align: middle, Angle: 90, Text: fit(name, s.font, s.SizePT, bottom-top)})
	for _, v := range []*float64{c.Low, c.High} {
		if v != nil {
			p.path(Path{Points: [][2]float64{{d.left, y(*v)}, {d.right(), y(*v)}}, Stroke: "#000000", Width: thin, Dash: []float64{1.4, 0.9}})
		}
	}
	for _, m := range d.f.Marks {
		p.path(Path{Points: [][2]float64{{d.x(m.X), top}, {d.x(m.X), bottom}}, Stroke: "#000000", Width: thin, Dash: []float64{0.4, 0.6}})
	}
	d.points(c, y, thin)
	if k == 0 {
		d.marks(top)
	}
	if s.Letters {
		d.page.text(Text{X: d.left + 1.2, Y: top + d.line, Font: SansMedium, Size: s.SizePT, Colour: "#000000", Text: string(rune('a' + k))})
	}
}

// points draws values, joined where they are of one series.
func (d *figureDrawing) points(c FigureChart, y func(float64) float64, thin float64) {
	colour, p := Colour("#000000"), d.page
	if d.s.Colour {
		colour = ai
	}
	for k := 1; k < len(c.Points) && c.Joined; k++ {
		if a, b := c.Points[k-1], c.Points[k]; a.Series == b.Series {
			p.line(d.x(a.X), y(a.Value), d.x(b.X), y(b.Value), thin, colour)
		}
	}
	if l := c.Line; l != nil {
		p.line(d.x(d.from), y(l[0]*d.from+l[1]), d.x(d.to), y(l[0]*d.to+l[1]), thin, colour)
	}
	for _, q := range c.Points {
		fill := Colour("#FFFFFF")
		if q.Filled {
			fill = colour
		}
		p.dot(d.x(q.X), y(q.Value), d.s.PointMM/2, fill, colour)
	}
}

// marks writes what was changed over the upper edge, as far as there is room.
func (d *figureDrawing) marks(top float64) {
	y, free := top-0.3*d.line, d.left
	for _, m := range d.f.Marks {
		x := math.Max(d.x(m.X)+0.8, free)
		room := d.right() - x
		if room < 6 || x > d.x(m.X)+8 {
			continue
		}
		words := fit(m.Says, d.s.font, d.s.SizePT, room)
		d.text(Text{X: x, Y: y, Text: words})
		free = x + width(words, d.s.font, d.s.SizePT) + 2
	}
}

// axis writes what is common to all charts, under the last one.
func (d *figureDrawing) axis(bottom float64) {
	axis := d.s.AxisPT * mmPerPoint
	at := func(x float64, words string) {
		d.page.line(x, bottom, x, bottom-1, axis, "#000000")
		d.text(Text{X: x, Y: bottom + d.line, Align: middle, Text: words})
	}
	switch {
	case len(d.f.Seams) > 0:
		for k, s := range d.f.Seams {
			from, to := math.Max(d.x(s.X), d.left), d.right()
			if k+1 < len(d.f.Seams) {
				to = d.x(d.f.Seams[k+1].X)
			}
			d.page.line(from, bottom, from, bottom-1, axis, "#000000")
			if to-from > 5 {
				d.text(Text{X: (from + to) / 2, Y: bottom + d.line, Align: middle, Text: fit(s.Says, d.s.font, d.s.SizePT, to-from-1)})
			}
		}
	case d.f.Days:
		list := ticks(d.from, d.to, 4)
		for _, v := range list {
			form := "2 Jan 2006"
			if len(list) > 1 && list[1]-list[0] < 1 {
				form = "2 Jan 15:04"
			}
			at(d.x(v), time.Unix(int64(v*86400), 0).UTC().Format(form))
		}
	default:
		for _, v := range ticks(d.from, d.to, 6) {
			if !d.f.Whole || v == math.Trunc(v) {
				at(d.x(v), plainNumber(v))
			}
		}
	}
	d.text(Text{X: (d.left + d.right()) / 2, Y: bottom + 2.2*d.line, Align: middle, Text: d.f.Axis})
}

// WholeSVG is the first page as one picture of its true size, with its faces inside.
func (r *Report) WholeSVG() []byte {
	p := r.Pages[0]
	picture := p.svg()
	open := fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%gmm" height="%gmm" viewBox="0 0 %g %g">`, p.Width, p.Height, p.Width, p.Height)
	return []byte(open + "<style>" + r.faceRules() + "</style>" + picture[strings.Index(picture, ">")+1:])
}
