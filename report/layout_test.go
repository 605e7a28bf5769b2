package report

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
)

func newTestWriter(t *testing.T) *writer {
	t.Helper()
	w := newWriter(input(t), a4)
	return w
}

func TestTextIsMeasuredAndShortened(t *testing.T) {
	if a, b := width("iii", Sans, 8), width("MMM", Sans, 8); !(a > 0) || a >= b {
		t.Errorf("iii is %g mm, MMM %g mm", a, b)
	}
	if a, b := width("Caffeine", Sans, 8), width("Caffeine", Sans, 16); math.Abs(b/a-2) > 1e-6 {
		t.Errorf("twice the size is %g times as wide", b/a)
	}
	long := strings.Repeat("tea ", 50)
	if got := fit(long, Sans, 8, 40); width(got, Sans, 8) > 40 || !strings.HasSuffix(got, "…") || !strings.HasPrefix(long, strings.TrimSuffix(got, "…")) {
		t.Errorf("%q", got)
	}
	if got := fit("tea", Sans, 8, 40); got != "tea" {
		t.Errorf("%q", got)
	}
}

func TestAHeadingShrinksToItsColumn(t *testing.T) {
	wide, narrow := headSize(column{head: "EC", width: 20}), headSize(column{head: "Theobromine", width: 15})
	if wide != 7.5 || narrow >= wide || narrow < 5.5 || width("Theobromine", Sans, narrow) > 14 {
		t.Errorf("%g and %g", wide, narrow)
	}
}

func TestParagraphsBreakBetweenWords(t *testing.T) {
	w := newTestWriter(t)
	words := strings.Fields(strings.Repeat("quiet depth of a ridge in mist ", 20))
	before := len(w.page().Items)
	w.paragraph(strings.Join(words, " "), 9, ink, 0)
	var got []string
	for _, it := range w.page().Items[before:] {
		if width(it.Text.Text, Serif, 9) > right-left {
			t.Errorf("%q is too wide", it.Text.Text)
		}
		got = append(got, strings.Fields(it.Text.Text)...)
	}
	if strings.Join(got, " ") != strings.Join(words, " ") || len(w.page().Items)-before < 4 {
		t.Errorf("%d lines hold %d of %d words", len(w.page().Items)-before, len(got), len(words))
	}
}

func TestTablesGoOnWithTheirHeading(t *testing.T) {
	w := newTestWriter(t)
	var rows [][]cell
	for i := range 200 {
		rows = append(rows, []cell{plain(fmt.Sprintf("row %d", i))})
	}
	w.table([]column{{head: "Heading", width: 40}}, rows, 5)
	seen := 0
	for n, p := range w.pages {
		heads := 0
		for _, it := range p.Items {
			if it.Text == nil {
				continue
			}
			if it.Text.Text == "Heading" {
				heads++
			}
			if strings.HasPrefix(it.Text.Text, "row ") {
				if it.Text.Text != fmt.Sprintf("row %d", seen) || it.Text.Y > bottom {
					t.Fatalf("page %d: %q at %g, expected row %d", n+1, it.Text.Text, it.Text.Y, seen)
				}
				seen++
			}
		}
		if heads != 1 {
			t.Errorf("page %d has %d headings", n+1, heads)
		}
	}
	if seen != 200 || len(w.pages) < 4 {
		t.Errorf("%d rows on %d pages", seen, len(w.pages))
	}
}

// The chromatogram fills exactly what is counted, on its own side of the axes, and labels every peak once.
func TestTheChromatogramStaysInItsFrame(t *testing.T) {
	in := input(t)
	in.Result.Injections[1].Peaks = append(in.Result.Injections[1].Peaks, batch.NamedPeak{Peak: peaks.Peak{Number: 2, StartMin: 3, ApexMin: 3.1, EndMin: 3.2}})
	w := newWriter(in, a4)
	before := len(w.page().Items)
	w.chromatogram(in.Lines[1], in.Result.Injections[1], usualDrawing)
	labels, fills := 0, 0
	for _, it := range w.page().Items[before:] {
		if it.Text != nil && it.Text.Angle == 70 {
			labels++
		}
		if it.Path == nil {
			continue
		}
		if it.Path.Fill == aiPal || it.Path.Fill == greyP {
			fills++
		}
		for _, p := range it.Path.Points {
			if p[0] < left || p[0] > right+0.01 || p[1] < top || p[1] > bottom {
				t.Fatalf("a point at %g, %g", p[0], p[1])
			}
		}
	}
	if labels != 2 || fills != 2 {
		t.Errorf("%d labels, %d fills", labels, fills)
	}
}

func TestCurvesAreDrawnSmallWithTheirRange(t *testing.T) {
	in := input(t)
	fit, err := curves.New([]curves.Point{{X: 1, Y: 2}, {X: 10, Y: 21}, {X: 100, Y: 199}}, curves.Linear, curves.PerX)
	if err != nil {
		t.Fatal(err)
	}
	in.Result.Curves = []batch.Curve{
		{CompoundID: "caf", Fit: &fit, Points: []batch.CurvePoint{{Level: 1, Response: 2, InRange: true}, {Level: 10, Response: 21, InRange: true}, {Level: 100, Response: 199, InRange: true}}, Line: []batch.LinePoint{{X: 0, Y: fit.At(0)}, {X: 100, Y: fit.At(100)}}},
		{CompoundID: "none", Problem: "No standard holds it yet."},
	}
	r, err := New(WholeBatch, in, "")
	if err != nil {
		t.Fatal(err)
	}
	all := texts(r)
	for _, want := range []string{"1 – 100 mg/L", "linear, weight 1/x", "3 of 3", "No standard holds it yet."} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is missing in\n%s", want, all)
		}
	}
}

func TestRSquaredShowsItsNines(t *testing.T) {
	for v, want := range map[float64]string{0.98765: "0.9877", 0.99996: "0.9999600", 1: "1.0000", -0.5: "-0.5000"} {
		if got := rSquared(v); !strings.HasPrefix(want, got[:4]) || len(got) > len(want) {
			t.Errorf("%g: %s, want about %s", v, got, want)
		}
	}
}

// A number or a heading is never cut while another column has room to spare; where there is none, text gives way first.
func TestColumnsLendEachOtherRoom(t *testing.T) {
	w := newTestWriter(t)
	columns := []column{{head: "Compound", width: 60}, {head: "Found in the sample, mg/L", width: 14, number: true}, {head: "R²", width: 12, number: true}}
	w.table(columns, [][]cell{{plain("caffeine"), plain("1234567.89"), plain("0.99999012")}}, 5)
	all := ""
	for _, it := range w.page().Items {
		if it.Text != nil {
			all += it.Text.Text + "|"
			if x := it.Text.X; it.Text.Align == end && x-width(it.Text.Text, it.Text.Font, it.Text.Size) < left {
				t.Errorf("%q stands out of the page", it.Text.Text)
			}
		}
	}
	for _, want := range []string{"Found in the sample, mg/L", "1234567.89", "0.99999012", "caffeine"} {
		if !strings.Contains(all, want+"|") {
			t.Errorf("%q is not whole in %s", want, all)
		}
	}
	wide := 0.0
	for _, c := range shared(columns, [][]cell{{plain(strings.Repeat("long ", 30)), plain("1"), plain("0.99999012")}}) {
		wide += c.width
	}
	if wide > 86.01 {
		t.Errorf("the table is %.2f mm wide, wider than its columns of 86 mm", wide)
	}
}

// Checks of more compounds than stand side by side go on in another table.
func TestChecksOfAllCompoundsAreOnPaper(t *testing.T) {
	in := input(t)
	in.Lines[0].Role = batch.Check
	for k := range perTable + 3 {
		id := fmt.Sprintf("c%d", k)
		in.Method.Compounds = append(in.Method.Compounds, compounds.Compound{ID: id, Name: "Compound " + id, Role: compounds.Target})
		in.Result.Checks = append(in.Result.Checks, batch.CheckRow{InjectionID: in.Lines[0].ID, CompoundID: id, Recovery: 100 + float64(k)/10})
	}
	r, err := New(WholeBatch, in, "")
	if err != nil {
		t.Fatal(err)
	}
	last := strconv.FormatFloat(100+float64(perTable+2)/10, 'f', 1, 64)
	if !strings.Contains(texts(r), last) {
		t.Errorf("the last check, %s, is missing", last)
	}
}
