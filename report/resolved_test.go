package report

import (
	"bytes"
	"encoding/csv"
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"yugen/report/layouts"
)

// A resolved batch goes out as it is: numbers as numbers, nothing as nothing, names as text; shares are formulas that recalculate.
func TestAResolvedBatchGoesOut(t *testing.T) {
	r := Resolved{Samples: []string{"Hill", "=1+1"}, Rows: []ResolvedRow{
		{ApexMin: 5.5454, Index: ptr(801.2), Name: "Hexanal", Confirmed: true, Match: ptr(99.8), Areas: []*float64{ptr(300.0), ptr(50.0)}, Uncertain: []*float64{ptr(0.02), ptr(0.05)}},
		{ApexMin: 6.8, Name: "=HYPERLINK(\"x\")", Doubts: "The match is only 71.", Areas: []*float64{ptr(100.0), nil}},
	}}
	data, err := r.CSV()
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil || len(rows) != 3 || rows[1][0] != "5.5454" || rows[1][6] != "300" || rows[2][7] != "" || rows[2][1] != "" || rows[2][2][0] != '\'' || rows[0][7][0] != '\'' || rows[1][9] != "0.05" {
		t.Errorf("%v, %v", rows, err)
	}
	if data, err = r.XLSX(); err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	for cell, want := range map[string]float64{"B2": 75, "B3": 25, "C2": 100} {
		text, err := f.CalcCellValue("Of the total", cell, excelize.Options{RawCellValue: true})
		v, bad := strconv.ParseFloat(text, 64)
		if err != nil || bad != nil || math.Abs(v-want) > 1e-9 {
			t.Errorf("%s is %q, want %g, %v", cell, text, want, err)
		}
	}
	if v, _ := f.GetCellValue("Of the total", "C3"); v != "" {
		t.Errorf("what does not stand out of noise has the share %q", v)
	}
	if v, _ := f.GetCellValue("Relative uncertainty", "B2"); v != "0.02" {
		t.Errorf("the uncertainty is %q", v)
	}
	if formula, _ := f.GetCellFormula("Areas", "C3"); formula != "" {
		t.Errorf("a name is the formula %q", formula)
	}
}

// On paper amounts are relative to the internal standard, or to the total; a name that nobody confirmed bears a question mark; a batch that is not resolved to its end is
// not reported.
func TestAResolvedBatchOnPaper(t *testing.T) {
	in := input(t)
	text := func() string {
		return drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{ID: "a", Kind: layouts.Resolved})
	}
	in.Resolved = &Resolved{Samples: []string{"Hill", "Valley"}, Standard: 1, Rows: []ResolvedRow{
		{ApexMin: 5.5454, Index: ptr(801.2), Name: "Hexanal", Confirmed: true, Match: ptr(99.8), Areas: []*float64{ptr(300.0), nil}},
		{ApexMin: 9.1, Name: "Ethyl nonanoate", Areas: []*float64{ptr(150.0), ptr(160.0)}, Doubts: "The match is only 71."},
	}}
	got := text()
	for _, want := range []string{"Hexanal", "2.00", "Ethyl nonanoate?", "÷ that of Ethyl nonanoate", "The match is only 71."} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is not in %q", want, got)
		}
	}
	in.Resolved.Standard = -1
	if got := text(); !strings.Contains(got, "66.7") || !strings.Contains(got, "% of the total") {
		t.Errorf("of the total: %q", got)
	}
	in.Resolved.Left = 3
	if got := text(); strings.Contains(got, "Hexanal") || !strings.Contains(got, "stretches left: 3") {
		t.Errorf("not to its end: %q", got)
	}
	in.Resolved = nil
	if got := text(); !strings.Contains(got, "no samples with spectra") {
		t.Errorf("without spectra: %q", got)
	}
}
