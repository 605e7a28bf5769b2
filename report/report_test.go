package report

import (
	"bytes"
	"encoding/csv"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/signal"
)

func ptr[T any](v T) *T { return &v }

// input is a batch of one blank with a hostile name and one sample.
func input(t *testing.T) Input {
	t.Helper()
	m := batch.NewMethod()
	m.Compounds = []compounds.Compound{{ID: "caf", Name: "Caffeine", ExpectedMin: 2, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target}}
	y := make([]float64, 3000)
	for i := range y {
		d := (float64(i)/600 - 2) / 0.05
		y[i] = 100 * math.Exp(-d*d/2)
	}
	tr, err := signal.NewUniform(0, 0.1, y)
	if err != nil {
		t.Fatal(err)
	}
	p := batch.NamedPeak{Peak: peaks.Peak{Number: 1, StartMin: 1.8, ApexMin: 2, EndMin: 2.2, AreaS: 752.0, AreaPercent: 100, Height: 100}, CompoundID: "caf"}
	reading := batch.Reading{PeakNumber: ptr(1), Response: ptr(752.0), Concentration: ptr(37.126), Amount: ptr(9.28125), Flags: []batch.Flag{}}
	return Input{
		Laboratory: "Kettle & Leaf", Study: "Study", Batch: "Batch", MethodName: "Method", Version: 3, InputsHash: "0123456789abcdef", MadeBy: "T. Ester",
		MadeAt: time.Date(2026, 4, 5, 6, 7, 8, 0, time.UTC), Method: m,
		Lines: []Line{
			{Entry: batch.Entry{ID: "1", Name: `=HYPERLINK("x")`, Role: batch.Blank, Dilution: 1, Factor: 1}, File: "@a.cdf", Trace: tr},
			{Entry: batch.Entry{ID: "2", Name: "Leaf <b>&</b> µ", Role: batch.Sample, Dilution: 2, Volume: ptr(50.0), Sample: ptr(0.4), Factor: 1}, File: "b.cdf", Trace: tr},
		},
		Result: batch.Result{
			Injections: []batch.Injected{{ID: "1", Readings: map[string]batch.Reading{}}, {ID: "2", Integrated: batch.Integrated{Peaks: []batch.NamedPeak{p}}, Readings: map[string]batch.Reading{"caf": reading}}},
			Samples:    []batch.SampleRow{{Name: "Leaf <b>&</b> µ", InjectionIDs: []string{"2"}, Values: map[string]batch.SampleValue{"caf": {}}}},
			Notices:    []checks.Notice{{Key: "a", Subject: "Leaf", Text: "look"}, {Key: "b", Subject: "Done", Text: "settled"}},
		},
		Settled: []string{"b"},
	}
}

// texts are all texts of a report, as both renderers get them.
func texts(r *Report) string {
	var b strings.Builder
	for _, p := range r.Pages {
		for _, it := range p.Items {
			if it.Text != nil {
				b.WriteString(it.Text.Text + "\n")
			}
		}
	}
	return b.String()
}

func TestOneInjectionShowsItsNumbers(t *testing.T) {
	r, err := New(OneInjection, input(t), "2")
	if err != nil {
		t.Fatal(err)
	}
	all := texts(r)
	for _, want := range []string{"Leaf <b>&</b> µ", "9.28", "37.13", "752.00", "2.000", "0.4 g", "50 mL", "×2", "Method, version 3", "Caffeine  2.00", "5 Apr 2026, 06:07 UTC"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is missing", want)
		}
	}
	if _, err := New(OneInjection, input(t), "none"); err == nil {
		t.Error("reported an injection that is not there")
	}
}

func TestTextFromFilesIsNeverMarkup(t *testing.T) {
	r, err := New(OneInjection, input(t), "2")
	if err != nil {
		t.Fatal(err)
	}
	svg := strings.Join(r.SVG(), "")
	if strings.Contains(svg, "<b>") || !strings.Contains(svg, "&lt;b&gt;&amp;&lt;/b&gt;") {
		t.Error("a name became markup")
	}
}

func TestOnlyOpenNoticesAreRemarks(t *testing.T) {
	r, err := New(WholeBatch, input(t), "")
	if err != nil {
		t.Fatal(err)
	}
	if all := texts(r); !strings.Contains(all, "Leaf: look.") || strings.Contains(all, "settled") {
		t.Errorf("remarks in %s", all)
	}
}

func TestPDFIsTheSameEachTime(t *testing.T) {
	var first []byte
	for i := range 3 {
		r, err := New(WholeBatch, input(t), "")
		if err != nil {
			t.Fatal(err)
		}
		pdf, err := r.PDF()
		if err != nil || !bytes.HasPrefix(pdf, []byte("%PDF-")) {
			t.Fatal(err)
		}
		if i == 0 {
			first = pdf
		} else if !bytes.Equal(first, pdf) {
			t.Fatal("other bytes")
		}
	}
}

func TestEverythingStaysOnThePage(t *testing.T) {
	in := input(t)
	for range 120 { // far more samples than fit on a page
		in.Result.Samples = append(in.Result.Samples, in.Result.Samples[0])
	}
	r, err := New(WholeBatch, in, "")
	if err != nil {
		t.Fatal(err)
	}
	if len(r.Pages) < 4 {
		t.Errorf("%d pages", len(r.Pages))
	}
	for n, p := range r.Pages {
		for _, it := range p.Items {
			if it.Text != nil && (it.Text.Y > 290 || it.Text.Y < 10 || it.Text.X < 15 || it.Text.X > 195) {
				t.Errorf("page %d: %q at %g, %g", n+1, it.Text.Text, it.Text.X, it.Text.Y)
			}
		}
	}
}

func TestExportedCellsAreNeverFormulas(t *testing.T) {
	data, err := CSV(input(t))
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil || len(rows) != 3 {
		t.Fatal(err, rows)
	}
	if rows[1][1] != `'=HYPERLINK("x")` || rows[1][4] != "'@a.cdf" || rows[2][12] != "9.28125" || rows[2][7] != "752" {
		t.Errorf("%v", rows)
	}
	book, err := XLSX(input(t))
	if err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(bytes.NewReader(book))
	if err != nil {
		t.Fatal(err)
	}
	name, _ := f.GetCellValue("Readings", "B2")
	formula, _ := f.GetCellFormula("Readings", "B2")
	amount, _ := f.GetCellValue("Readings", "M3")
	if name != `=HYPERLINK("x")` || formula != "" || amount != "9.28125" {
		t.Errorf("name %q, formula %q, amount %q", name, formula, amount)
	}
}

func TestTicksAreRound(t *testing.T) {
	for _, c := range []struct {
		low, high float64
		n         int
		want      []float64
	}{{0, 1, 5, []float64{0, 0.2, 0.4, 0.6, 0.8, 1}}, {-3, 47, 5, []float64{0, 10, 20, 30, 40}}, {2.2, 15.3, 10, []float64{4, 6, 8, 10, 12, 14}}} {
		got := ticks(c.low, c.high, c.n)
		if len(got) != len(c.want) {
			t.Errorf("%g to %g: %v", c.low, c.high, got)
			continue
		}
		for i := range got {
			if math.Abs(got[i]-c.want[i]) > 1e-9 || math.Signbit(got[i]) {
				t.Errorf("%g to %g: %v", c.low, c.high, got)
			}
		}
	}
}
