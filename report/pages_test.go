package report

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/signal"
	"yugen/report/layouts"
)

// every is a layout with every block, alone and beside others.
func every(t *testing.T, each layouts.Each) layouts.Layout {
	picture := picture(t, 40, 20)
	l := layouts.Layout{Form: layouts.Form, Name: "Every block", Each: each, Paper: layouts.Letter, Landscape: true, MarginMM: layouts.Margin{Left: 15, Right: 15, Top: 25, Bottom: 18}}
	for k, kind := range layouts.Kinds {
		b := layouts.Block{ID: "b" + fmt.Sprint(k), Kind: kind}
		switch kind {
		case layouts.Text:
			b.Text = "Caffeine was {amount of Caffeine; 2}, vial {vial}."
		case layouts.Picture:
			b.Picture = picture
		}
		l.Rows = append(l.Rows, []layouts.Block{b})
	}
	beside := []layouts.Block{{ID: "one", Kind: layouts.Chromatogram, Columns: 5, HeightMM: 40}, {ID: "two", Kind: layouts.Results, Columns: 4}, {ID: "three", Kind: layouts.Text, Text: "Beside."}}
	l.Rows = append(l.Rows, beside)
	return l
}

// Every block is drawn for every subject, stays on the sheet, and has a box that says where it stands.
func TestEveryBlockIsDrawn(t *testing.T) {
	in := input(t)
	for each, of := range map[layouts.Each]Subject{layouts.EachBatch: {}, layouts.EachSample: {Sample: in.Lines[1].Name}, layouts.EachInjection: {InjectionID: "2"}} {
		l := every(t, each)
		if err := l.Validate(); err != nil {
			t.Fatal(err)
		}
		r, err := Make(l, in, of)
		if err != nil {
			t.Fatal(err)
		}
		wide, high := l.SheetMM()
		for n, p := range r.Pages {
			if p.Width != wide || p.Height != high {
				t.Errorf("page %d is %g by %g mm", n+1, p.Width, p.Height)
			}
			for _, it := range p.Items {
				if it.Text != nil && (it.Text.Y > high-8 || it.Text.Y < 8 || it.Text.X < 10 || it.Text.X > wide-10) {
					t.Errorf("%s, page %d: %q stands at %g, %g", each, n+1, it.Text.Text, it.Text.X, it.Text.Y)
				}
			}
		}
		for _, row := range l.Rows {
			for _, b := range row {
				if !slices.ContainsFunc(r.Boxes, func(x Box) bool {
					return x.Block == b.ID && x.Part == "" && x.Width > 10 && x.Height > 0 && x.Page < len(r.Pages)
				}) {
					t.Errorf("%s: the %s has no box", each, b.Kind)
				}
			}
		}
		if !strings.Contains(texts(r), fmt.Sprintf("page 1 of %d", len(r.Pages))) {
			t.Errorf("%s: the pages are not counted", each)
		}
		if each != layouts.EachBatch && !strings.Contains(texts(r), "Caffeine was 9.3 mg/g, vial –.") {
			t.Errorf("%s: the values are not filled in: %s", each, texts(r))
		}
		if each == layouts.EachInjection && !slices.ContainsFunc(r.Missing, func(m Missing) bool { return m.Quantity == "vial" && m.InjectionID == "2" }) {
			t.Errorf("the vial that is missing is not told: %+v", r.Missing)
		}
	}
}

// Blocks beside each other take their columns and never stand on each other.
func TestBlocksBesideEachOther(t *testing.T) {
	r, err := Make(every(t, layouts.EachInjection), input(t), Subject{InjectionID: "2"})
	if err != nil {
		t.Fatal(err)
	}
	box := map[string]Box{}
	for _, b := range r.Boxes {
		if b.Part == "" {
			box[b.Block] = b
		}
	}
	one, two, three := box["one"], box["two"], box["three"]
	if one.Page != three.Page || one.X+one.Width > two.X || two.X+two.Width > three.X || math.Abs(one.Width/two.Width-5.0/4) > 0.1 {
		t.Errorf("%+v, %+v, %+v", one, two, three)
	}
	total := 279.4 - 30
	if math.Abs(one.Width-(5.0/12*total-between/2)) > 1e-9 || math.Abs(three.X+three.Width-(15+total)) > 1e-9 {
		t.Errorf("the widths are %g and %g mm", one.Width, three.Width)
	}
}

// What would be torn by the end of a page, and need not be, begins on the next one.
func TestPicturesAreNotTorn(t *testing.T) {
	l := layouts.Layout{Form: 1, Name: "A", Each: layouts.EachInjection, Paper: layouts.A4, MarginMM: layouts.Margin{Left: 20, Right: 20, Top: 32, Bottom: 20}}
	for k := range 5 {
		l.Rows = append(l.Rows, []layouts.Block{{ID: fmt.Sprint(k), Kind: layouts.Chromatogram, HeightMM: 90}})
	}
	r, err := Make(l, input(t), Subject{InjectionID: "2"})
	if err != nil {
		t.Fatal(err)
	}
	pages := map[string][]int{}
	for _, b := range r.Boxes {
		if b.Part == "" {
			pages[b.Block] = append(pages[b.Block], b.Page)
		}
	}
	if len(r.Pages) != 3 || fmt.Sprint(pages) != "map[0:[0] 1:[0] 2:[1] 3:[1] 4:[2]]" {
		t.Errorf("%d pages, %v", len(r.Pages), pages)
	}
}

// Of a table that goes on, no row is alone on its last page.
func TestNoRowStandsAlone(t *testing.T) {
	for n := range 60 {
		w := newTestWriter(t)
		var rows [][]cell
		for range 20 + n {
			rows = append(rows, []cell{plain("row")})
		}
		w.table([]column{{head: "Heading", width: 40}}, rows, 5)
		if len(w.pages) < 2 {
			continue
		}
		last := 0
		for _, it := range w.page().Items {
			if it.Text != nil && it.Text.Text == "row" {
				last++
			}
		}
		if last < 2 {
			t.Errorf("of %d rows %d is alone on the last page", len(rows), last)
		}
	}
}

// Labels touch neither each other nor the trace, whatever their angle; what finds no room is told. Held against the pixels that they cover.
func TestLabelsNeverTouch(t *testing.T) {
	for _, angle := range []float64{0, 20, 45, 70, 90} {
		var line [][2]float64
		for x := 0.0; x <= 160; x += 0.25 {
			y := 90.0
			for k := range 30 {
				d := (x - 6 - 5*float64(k)) / 0.8
				y -= (10 + float64(k*37%50)) * math.Exp(-d*d/2)
			}
			line = append(line, [2]float64{x, y})
		}
		var list []label
		for k := range 30 {
			list = append(list, label{x: 6 + 5*float64(k), y: 80 - float64(k*37%50), text: fmt.Sprintf("Compound %d  %d.00", k, k), font: Sans, size: 6.5, first: k%3 > 0, rise: float64(k * 37 % 50)})
		}
		standing, dropped := place(list, angle, [4]float64{0, 0, 170, 90}, line)
		if len(standing)+len(dropped) != len(list) || len(standing) < 4 {
			t.Errorf("at %g: %d stand, %d have no room", angle, len(standing), len(dropped))
		}
		sin, cos := math.Sincos(angle * math.Pi / 180)
		// owner is the label that covers a point of the page, in tenths of a millimetre.
		owner := map[[2]int]string{}
		for _, p := range standing {
			size, long := p.size*mmPerPoint, width(p.text, p.font, p.size)
			for along := 0.0; along < long; along += 0.07 {
				for over := -0.24 * size; over < 0.74*size; over += 0.07 {
					at := [2]int{int(10 * (p.at[0] + along*cos - over*sin)), int(10 * (p.at[1] - along*sin - over*cos))}
					if o := owner[at]; o != "" && o != p.text {
						t.Fatalf("at %g: %s stands on %s", angle, p.text, o)
					}
					owner[at] = p.text
				}
			}
		}
		for _, q := range line {
			if o := owner[[2]int{int(10 * q[0]), int(10 * q[1])}]; o != "" {
				t.Fatalf("at %g: %s stands on the trace", angle, o)
			}
		}
	}
}

// Made again a report is the same, byte for byte, in every format; a PDF is whole, has its language and title, and its text can be read.
func TestMadeAgainItIsTheSame(t *testing.T) {
	in := input(t)
	l, err := layouts.ShippedLayout("certificate")
	if err != nil {
		t.Fatal(err)
	}
	of := Subject{Sample: in.Lines[1].Name}
	for _, as := range FileKinds {
		first, err := Write(l, in, of, as)
		if err != nil {
			t.Fatal(as, err)
		}
		time.Sleep(1100 * time.Millisecond / time.Duration(len(FileKinds))) // so that a clock within would show
		again, err := Write(l, in, of, as)
		if err != nil || !bytes.Equal(first, again) {
			t.Errorf("%s is not the same when it is made again: %v", as, err)
		}
		if as != AsPDF {
			continue
		}
		file := filepath.Join(t.TempDir(), "report.pdf")
		if err := os.WriteFile(file, first, 0o644); err != nil {
			t.Fatal(err)
		}
		if !bytes.Contains(first, []byte("/Lang (en)")) || !bytes.Contains(first, []byte("/Title ")) {
			t.Error("the PDF has no language or no title")
		}
		text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
		if err != nil || !strings.Contains(string(text), "certificate of analysis") || !strings.Contains(string(text), "repeatability, the curve,") {
			t.Errorf("the text cannot be read: %s, %v", text, err)
		}
	}
}

// The JSON of a subject has its numbers in full precision, and of others nothing.
func TestTheDocumentOfASample(t *testing.T) {
	in := input(t)
	data, err := JSON(in, layouts.EachSample, Subject{Sample: in.Lines[1].Name}, "Certificate")
	if err != nil {
		t.Fatal(err)
	}
	var d Document
	if err := json.Unmarshal(data, &d); err != nil {
		t.Fatal(err)
	}
	if len(d.Injections) != 1 || d.Injections[0].Number != 2 || *d.Injections[0].Compounds[0].Amount != 9.28125 || *d.Injections[0].Compounds[0].AreaS != 752 || len(d.Samples) != 1 || d.Version != 3 || d.Inputs != "0123456789abcdef" {
		t.Errorf("%s", data)
	}
	if _, err := JSON(in, layouts.EachSample, Subject{Sample: "nobody"}, ""); err == nil {
		t.Error("a sample that is not there has a document")
	}
}

func TestNamesOfFiles(t *testing.T) {
	in := input(t)
	in.Lines[0].Name, in.Lines[0].Trace = "a/b: "+strings.Repeat("x", 200), signal.Trace{}
	in.Lines[1].Name = "A/B: " + strings.Repeat("x", 200)
	l := layouts.Layout{Each: layouts.EachInjection}
	list := []Subject{{InjectionID: "1"}, {InjectionID: "2"}}
	got, err := FileNames(l, in, list, "{name}")
	if err != nil || len([]rune(got[0])) != maxName || !strings.HasPrefix(got[0], "a-b- x") || got[1] != "A-B- "+strings.Repeat("x", maxName-5)+" (2)" {
		t.Errorf("%q, %v", got, err)
	}
	if got, err = FileNames(l, in, list, "{batch} {injection}"); err != nil || !slices.Equal(got, []string{"Batch 1", "Batch 2"}) {
		t.Errorf("%q, %v", got, err)
	}
	if got, err = FileNames(l, in, list, "{vial}"); err != nil || !slices.Equal(got, []string{"–", "– (2)"}) {
		t.Errorf("%q, %v", got, err)
	}
	if _, err = FileNames(l, in, list, "{name"); err == nil {
		t.Error("a pattern that is not closed was taken")
	}
}

// In a narrow place numbers are never cut: columns that find no room are left out and named.
func TestNumbersAreNeverCut(t *testing.T) {
	for wide := 20.0; wide < 170; wide += 7 {
		w := newTestWriter(t)
		w.right = w.left + wide
		w.table([]column{{head: "Compound", width: 60}, {head: "Amount", width: 20, number: true}, {head: "Interval", width: 40, number: true}, {head: "RSD", width: 20, number: true}}, [][]cell{{plain("Chlorotheophylline"), plain("123.456"), plain("120.001 – 127.003"), plain("1.25")}}, 5)
		said := ""
		for _, it := range w.page().Items {
			if it.Text != nil {
				said += it.Text.Text + "|"
				if end := it.Text.X; it.Text.Align == "end" && end > w.right+0.01 {
					t.Errorf("%g mm: %q ends at %g", wide, it.Text.Text, end)
				}
			}
		}
		for head, value := range map[string]string{"Amount": "123.456", "Interval": "120.001 – 127.003", "RSD": "1.25"} {
			if shown, named := strings.Contains(said, value), strings.Contains(said, "No room here for") && strings.Contains(said[strings.Index(said, "No room"):], head[:3]); !shown && !named && wide > 60 {
				t.Errorf("%g mm: %s is neither shown nor named: %s", wide, head, said)
			}
		}
	}
}

// A picture that is cut off, too large to be drawn, or none says so where it would stand; the page is made all the same.
func TestPicturesThatCannotBeDrawn(t *testing.T) {
	whole := picture(t, 30, 20)
	for says, data := range map[string][]byte{"no picture here yet": nil, "not a whole PNG": whole[:len(whole)-20], "not a PNG": []byte("GIF89a"), "4001 by 2 pixels": picture(t, 4001, 2), "": picture(t, 4000, 2)} {
		l := layouts.Layout{Form: 1, Name: "A", Each: layouts.EachBatch, Paper: layouts.A4, MarginMM: layouts.Margin{Left: 20, Right: 20, Top: 32, Bottom: 20}, Rows: [][]layouts.Block{{{ID: "p", Kind: layouts.Picture, Picture: data}}}}
		r, err := Make(l, input(t), Subject{})
		if err != nil {
			t.Fatal(err)
		}
		if !strings.Contains(texts(r), says) || says == "" && !strings.Contains(r.SVG()[0], "<image") {
			t.Errorf("%q is not said: %s", says, texts(r))
		}
		if _, err := r.PDF(); err != nil {
			t.Errorf("%q: %v", says, err)
		}
	}
}
