package report

import (
	"bytes"
	"strconv"

	"codeberg.org/go-pdf/fpdf"
)

// PDF draws the pages for paper. The same report gives the same bytes.
func (r *Report) PDF() ([]byte, error) {
	pdf := newPDF()
	pdf.SetCreationDate(r.made)
	pdf.SetModificationDate(r.made)
	pdf.SetTitle(r.Title, true)
	pdf.SetCreator("Yugen", true)
	pdf.SetLang("en")
	pdf.SetAutoPageBreak(false, 0)
	for _, p := range r.Pages {
		pdf.AddPageFormat("P", fpdf.SizeType{Wd: p.Width, Ht: p.Height})
		for _, it := range p.Items {
			switch {
			case it.Path != nil:
				it.Path.pdf(pdf.Fpdf)
			case it.Text != nil:
				it.Text.pdf(pdf)
			case it.Picture != nil:
				it.Picture.pdf(pdf.Fpdf)
			}
		}
	}
	var b bytes.Buffer
	err := pdf.Output(&b)
	return b.Bytes(), err
}

// Join puts reports one after the other into one, under a title of its own. Each counts its own pages. The time is that of the newest.
func Join(title string, list []*Report) *Report {
	out := &Report{Title: title}
	for _, r := range list {
		out.Pages = append(out.Pages, r.Pages...)
		if r.made.After(out.made) {
			out.made = r.made
		}
	}
	return out
}

func rgb(c Colour) (r, g, b int) {
	v, err := strconv.ParseUint(string(c[1:]), 16, 32)
	if err != nil {
		return 0, 0, 0
	}
	return int(v >> 16), int(v >> 8 & 255), int(v & 255)
}

func (p *Path) pdf(pdf *fpdf.Fpdf) {
	if len(p.Points) == 0 {
		return
	}
	style := ""
	if p.Fill != none {
		pdf.SetFillColor(rgb(p.Fill))
		style = "F"
	}
	if p.Stroke != none {
		pdf.SetDrawColor(rgb(p.Stroke))
		pdf.SetLineWidth(p.Width)
		style += "D"
	}
	pdf.SetLineJoinStyle("round")
	pdf.SetDashPattern(p.Dash, 0)
	pdf.MoveTo(p.Points[0][0], p.Points[0][1])
	for _, q := range p.Points[1:] {
		pdf.LineTo(q[0], q[1])
	}
	if p.Fill != none {
		pdf.ClosePath()
	}
	pdf.DrawPath(style)
}

func (t *Text) pdf(pdf paper) {
	pdf.use(t.Font, t.Size)
	pdf.SetTextColor(rgb(t.Colour))
	x, text := t.X, t.Text
	switch t.Align {
	case middle:
		x -= pdf.GetStringWidth(text) / 2
	case end:
		x -= pdf.GetStringWidth(text)
	}
	if t.Right {
		text = backwards(text)
	}
	if t.Angle == 0 {
		pdf.Text(x, t.Y, text)
		return
	}
	pdf.TransformBegin()
	pdf.TransformRotate(t.Angle, t.X, t.Y)
	pdf.Text(x, t.Y, text)
	pdf.TransformEnd()
}
