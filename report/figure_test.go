package report

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// A figure has its true size on paper and as a picture, in every style; nothing of it leaves the page, no point its frame; each value stands where its
// scale has it; made again it is the same.
func TestFiguresAreOfTheirTrueSize(t *testing.T) {
	low, high := 8.70, 8.92
	for _, s := range FigureStyles {
		for _, charts := range []int{1, 3} {
			f := Figure{Title: "T", Axis: "batches", Marks: []FigureMark{{12.5, "new column, of a lot with a rather long name <b>"}, {13.5, "lamp"}}, Seams: []FigureMark{{0.5, "Batch 1"}, {12.5, "Batch 2"}}}
			for k := range charts {
				c := FigureChart{Words: "Retention", Unit: "min", Low: &low, High: &high, Joined: true}
				for n := range 25 {
					c.Points = append(c.Points, FigurePoint{X: float64(n + 1), Value: 8.8 + 0.1*math.Sin(float64(n)), Series: fmt.Sprint(n / 12), Filled: n > 11})
				}
				if k == 1 { // far away, and of other size
					c.Low, c.High = nil, nil
					for n := range c.Points {
						c.Points[n].Value *= -1e7
					}
				}
				if k == 2 { // all alike
					for n := range c.Points {
						c.Points[n].Value = 0
					}
					c.Low, c.High = nil, nil
				}
				f.Charts = append(f.Charts, c)
			}
			r, err := f.Draw(s)
			if err != nil {
				t.Fatal(err)
			}
			p := r.Pages[0]
			if p.Width != s.WidthMM || len(r.Pages) != 1 {
				t.Errorf("%s is %g mm wide", s.ID, p.Width)
			}
			dots := 0
			for _, it := range p.Items {
				if it.Text != nil {
					if w := width(it.Text.Text, it.Text.Font, it.Text.Size); it.Text.Angle == 0 && (it.Text.Align == start && it.Text.X+w > p.Width || it.Text.Align == end && it.Text.X-w < 0 || it.Text.Align == middle && (it.Text.X-w/2 < 0 || it.Text.X+w/2 > p.Width)) || it.Text.Y > p.Height || it.Text.Y < 0 {
						t.Errorf("%s: %q leaves the page", s.ID, it.Text.Text)
					}
					continue
				}
				if len(it.Path.Points) == 12 {
					dots++
				}
				for _, q := range it.Path.Points {
					if q[0] < 0 || q[0] > p.Width || q[1] < 0 || q[1] > p.Height {
						t.Errorf("%s: a line leaves the page at %v", s.ID, q)
					}
				}
			}
			if dots != 25*charts {
				t.Errorf("%s: %d points of %d", s.ID, dots, 25*charts)
			}
			svg := r.WholeSVG()
			if !strings.Contains(string(svg[:200]), fmt.Sprintf(`width="%gmm" height="%gmm"`, p.Width, p.Height)) || !strings.Contains(string(svg), "@font-face") || !strings.Contains(string(svg), ">Retention ") {
				t.Errorf("%s: the picture begins with %s", s.ID, svg[:200])
			}
			for d := xml.NewDecoder(bytes.NewReader(svg)); ; {
				if _, err := d.Token(); errors.Is(err, io.EOF) {
					break
				} else if err != nil {
					t.Fatal(err)
				}
			}
			pdf, err := r.PDF()
			again, errAgain := r.PDF()
			if err != nil || errAgain != nil || !bytes.Equal(pdf, again) {
				t.Errorf("%s: %v", s.ID, err)
			}
			file := filepath.Join(t.TempDir(), "f.pdf")
			if err := os.WriteFile(file, pdf, 0o644); err != nil {
				t.Fatal(err)
			}
			info, err := exec.Command("pdfinfo", file).Output()
			if want := fmt.Sprintf("%.5g x", p.Width/25.4*72); err != nil || !strings.Contains(string(info), want) {
				t.Errorf("%s: not %s: %s %v", s.ID, want, info, err)
			}
		}
	}
	if _, err := (Figure{}).Draw(FigureStyles[0]); err == nil {
		t.Error("a figure of nothing was drawn")
	}
	if _, err := Style("poster"); err == nil {
		t.Error("a style that is not there was found")
	}
	if r, err := (Figure{Charts: []FigureChart{{Words: "Nothing"}}}).Draw(FigureStyles[1]); err != nil || len(r.Pages) != 1 {
		t.Errorf("a chart without points: %v", err)
	}
}
