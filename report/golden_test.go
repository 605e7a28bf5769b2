package report

import (
	"bytes"
	"flag"
	"fmt"
	"image"
	"image/draw"
	_ "image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"yugen/report/layouts"
)

var writeGolden = flag.Bool("write-golden", false, "write the pages of the test layout anew, to be looked at before they are committed")

// pageDots is how many points to the inch the pages are compared at: enough that a line of text that moved by half its height shows.
const pageDots = 50

// grey is a picture of a page, black to white.
func grey(t *testing.T, file string) *image.Gray {
	t.Helper()
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	m, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	g := image.NewGray(m.Bounds())
	draw.Draw(g, g.Bounds(), m, m.Bounds().Min, draw.Src)
	return g
}

// apart is the share of squares of 4 by 4 points whose darkness differs by more than 12 of 255. Squares, since the smoothing of edges is not the same in every
// renderer and what matters is where ink stands.
func apart(a, b *image.Gray) float64 {
	if a.Bounds() != b.Bounds() {
		return 1
	}
	wide, high := a.Bounds().Dx()/4, a.Bounds().Dy()/4
	differ := 0
	for by := range high {
		for bx := range wide {
			sum := 0
			for y := range 4 {
				for x := range 4 {
					sum += int(a.GrayAt(4*bx+x, 4*by+y).Y) - int(b.GrayAt(4*bx+x, 4*by+y).Y)
				}
			}
			if sum > 12*16 || sum < -12*16 {
				differ++
			}
		}
	}
	return float64(differ) / float64(wide*high)
}

// drawn writes the PDF of a report into a folder and returns the pictures of its pages, made by a renderer that is not ours.
func drawn(t *testing.T, r *Report, folder string) (pdf string, pages []string) {
	t.Helper()
	data, err := r.PDF()
	if err != nil {
		t.Fatal(err)
	}
	pdf = filepath.Join(folder, "report.pdf")
	if err := os.WriteFile(pdf, data, 0o644); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("pdftoppm", "-r", fmt.Sprint(pageDots), "-png", "-gray", pdf, filepath.Join(folder, "page")).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	pages, err = filepath.Glob(filepath.Join(folder, "page-*.png"))
	if err != nil {
		t.Fatal(err)
	}
	return pdf, pages
}

// The pages of a layout with every block are those that were looked at when they were kept: as pictures within a tolerance, and as text exactly; and
// the file that holds them is a whole PDF to a reader that is not ours.
func TestPagesAreAsTheyWereLookedAt(t *testing.T) {
	r, err := Make(every(t, layouts.EachInjection), input(t), Subject{InjectionID: "2"})
	if err != nil {
		t.Fatal(err)
	}
	pdf, pages := drawn(t, r, t.TempDir())
	if len(pages) != len(r.Pages) {
		t.Fatalf("the PDF has %d pages, the report %d", len(pages), len(r.Pages))
	}
	if out, err := exec.Command("qpdf", "--check", pdf).CombinedOutput(); err != nil {
		t.Errorf("%v: %s", err, out)
	}
	if *writeGolden {
		if err := os.WriteFile("testdata/pages.txt", []byte(texts(r)), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for n, page := range pages {
		golden := fmt.Sprintf("testdata/page-%d.png", n+1)
		if *writeGolden {
			data, err := os.ReadFile(page)
			if err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(golden, data, 0o644); err != nil {
				t.Fatal(err)
			}
		}
		if a := apart(grey(t, page), grey(t, golden)); a > 0.004 {
			t.Errorf("page %d differs from the one that was looked at in %.2f %% of its area", n+1, 100*a)
		}
	}
	want, err := os.ReadFile("testdata/pages.txt")
	if err != nil {
		t.Fatal(err)
	}
	if got := texts(r); got != string(want) {
		a, b := strings.Split(got, "\n"), strings.Split(string(want), "\n")
		for i := range min(len(a), len(b)) {
			if a[i] != b[i] {
				t.Fatalf("text %d is %q, it was %q", i+1, a[i], b[i])
			}
		}
		t.Errorf("%d texts, there were %d", len(a), len(b))
	}
}

// What the comparison of pictures is for: a label that moved by two millimetres, a line that is missing, and a column that is one row lower are seen.
func TestAMovedBlockIsSeen(t *testing.T) {
	in := input(t)
	l := every(t, layouts.EachInjection)
	first, err := Make(l, in, Subject{InjectionID: "2"})
	if err != nil {
		t.Fatal(err)
	}
	_, before := drawn(t, first, t.TempDir())
	for k, it := range first.Pages[0].Items {
		if it.Text != nil && k > 12 {
			moved := *it.Text
			moved.Y += 2
			first.Pages[0].Items[k].Text = &moved
		}
	}
	_, after := drawn(t, first, t.TempDir())
	if a := apart(grey(t, before[0]), grey(t, after[0])); a < 0.01 {
		t.Errorf("texts that moved by 2 mm differ in %.2f %% of the area: not seen", 100*a)
	}
	if a := apart(grey(t, before[0]), grey(t, before[0])); a != 0 {
		t.Errorf("a page differs from itself in %g", a)
	}
}
