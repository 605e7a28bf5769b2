package report

import (
	"encoding/xml"
	"fmt"
	"strings"
)

const mmPerPoint = 25.4 / 72

// SVG draws each page for the screen.
func (r *Report) SVG() []string {
	pages := make([]string, len(r.Pages))
	for i, p := range r.Pages {
		pages[i] = p.svg()
	}
	return pages
}

func (p *Page) svg() string {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %g %g">`, p.Width, p.Height)
	for _, it := range p.Items {
		switch {
		case it.Path != nil:
			it.Path.svg(&b)
		case it.Text != nil:
			it.Text.svg(&b)
		case it.Picture != nil:
			it.Picture.svg(&b)
		}
	}
	b.WriteString("</svg>")
	return b.String()
}

func (p *Path) svg(b *strings.Builder) {
	b.WriteString(`<path d="`)
	for i, q := range p.Points {
		c := 'L'
		if i == 0 {
			c = 'M'
		}
		fmt.Fprintf(b, "%c%.3f %.3f", c, q[0], q[1])
	}
	fill := p.Fill
	if fill == none {
		fill = "none"
	} else {
		b.WriteString("Z")
	}
	fmt.Fprintf(b, `" fill="%s"`, fill)
	if p.Stroke != none {
		fmt.Fprintf(b, ` stroke="%s" stroke-width="%g" stroke-linejoin="round"`, p.Stroke, p.Width)
	}
	if len(p.Dash) > 0 {
		fmt.Fprintf(b, ` stroke-dasharray="%s"`, strings.Trim(fmt.Sprint(p.Dash), "[]"))
	}
	b.WriteString("/>")
}

func (t *Text) svg(b *strings.Builder) {
	css := ""
	for _, f := range faces {
		if f.font == t.Font {
			css = f.css
		}
	}
	// The length is that of the paper's font, so that both agree even where the screen's font differs by a hair.
	fmt.Fprintf(b, `<text x="%.3f" y="%.3f" fill="%s" text-anchor="%s" style="%s;font-size:%.3fpx;font-variant-numeric:normal" textLength="%.3f"`,
		t.X, t.Y, t.Colour, t.Align, css, t.Size*mmPerPoint, run{text: t.Text, font: t.Font}.width(t.Size))
	text := t.Text
	if t.Right { // in the order of the paper, which the screen leaves alone
		text = backwards(text)
		b.WriteString(` direction="ltr" unicode-bidi="bidi-override"`)
	}
	if t.Angle != 0 {
		fmt.Fprintf(b, ` transform="rotate(%g %.3f %.3f)"`, -t.Angle, t.X, t.Y)
	}
	b.WriteString(">")
	_ = xml.EscapeText(b, []byte(text)) // a strings.Builder does not fail
	b.WriteString("</text>")
}
