package report

import "math"

// Page is a sheet with what is drawn on it, in mm from its upper left corner.
type Page struct {
	Width, Height float64
	Items         []Item
}

// The sheet of A4 and its margins, mm.
const (
	pageWidth  = 210.0
	pageHeight = 297.0
	left       = 20.0
	right      = 190.0
	top        = 18.0
	bottom     = 277.0
)

// Item is one thing on a page: a path, a text or a picture.
type Item struct {
	Path    *Path
	Text    *Text
	Picture *Picture
}

// Picture is a PNG on a page.
type Picture struct {
	X, Y, Width, Height float64 // mm, from the upper left corner
	PNG                 []byte
}

// Path is a line through points, closed and filled where Fill is set.
type Path struct {
	Points [][2]float64
	Stroke Colour
	Width  float64
	Dash   []float64
	Fill   Colour
}

// Text is a line of text; (X, Y) is on its baseline.
type Text struct {
	X, Y   float64
	Size   float64 // pt
	Font   Font
	Colour Colour
	Align  Align
	Angle  float64 // degrees, counter-clockwise
	Text   string  // in reading order
	Right  bool    // read from right to left
}

// Colour is #rrggbb, or "" for none.
type Colour string

// The colours of paper.
const (
	none  Colour = ""
	ink   Colour = "#1B1E25"
	ink2  Colour = "#444954"
	ink3  Colour = "#5D626C"
	mist  Colour = "#BDBAB1"
	hair  Colour = "#DBD6CA"
	ai    Colour = "#24476B"
	aiPal Colour = "#C9D3DD"
	moss  Colour = "#4A6A39"
	mossP Colour = "#D3DCCD"
	greyP Colour = "#E2E2E2"
	kaki  Colour = "#A83D1A"
)

// Align is where (X, Y) is on a text.
type Align string

// The alignments.
const (
	start  Align = "start"
	middle Align = "middle"
	end    Align = "end"
)

func (p *Page) line(x0, y0, x1, y1, width float64, c Colour) {
	p.path(Path{Points: [][2]float64{{x0, y0}, {x1, y1}}, Stroke: c, Width: width})
}

// dot is a small circle, as a polygon that both renderers draw alike.
func (p *Page) dot(x, y, r float64, fill, stroke Colour) {
	points := make([][2]float64, 12)
	for i := range points {
		sin, cos := math.Sincos(float64(i) / 12 * 2 * math.Pi)
		points[i] = [2]float64{x + r*cos, y + r*sin}
	}
	p.path(Path{Points: points, Fill: fill, Stroke: stroke, Width: 0.15})
}

func (p *Page) path(path Path) { p.Items = append(p.Items, Item{Path: &path}) }

func (p *Page) text(t Text) {
	if t.Colour == none {
		t.Colour = ink
	}
	if t.Align == "" {
		t.Align = start
	}
	runs := runsOf(t.Text, t.Font)
	if len(runs) == 1 {
		t.Text, t.Font, t.Right = runs[0].text, runs[0].font, runs[0].right
		p.Items = append(p.Items, Item{Text: &t})
		return
	}
	// Several faces, one after the other along the line.
	along := 0.0
	switch whole := width(t.Text, t.Font, t.Size); t.Align {
	case middle:
		along = -whole / 2
	case end:
		along = -whole
	}
	sin, cos := math.Sincos(t.Angle * math.Pi / 180)
	x, y := t.X, t.Y
	t.Align = start
	for _, r := range runs {
		part := t
		part.X, part.Y = x+along*cos, y-along*sin
		part.Text, part.Font, part.Right = r.text, r.font, r.right
		p.Items = append(p.Items, Item{Text: &part})
		along += r.width(t.Size)
	}
}
