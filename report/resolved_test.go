package report

import (
	"bytes"
	"encoding/csv"
	"math"
	"strconv"
	"testing"

	"github.com/xuri/excelize/v2"
)

// A resolved batch goes out as it is: numbers as numbers, nothing as nothing, names as text; shares are formulas that recalculate.
func TestAResolvedBatchGoesOut(t *testing.T) {
	r := Resolved{Samples: []string{"Hill", "=1+1"}, Rows: []ResolvedRow{
		{ApexMin: 5.5454, Index: ptr(801.2), Name: "Hexanal", Confirmed: true, Match: ptr(99.8), Areas: []*float64{ptr(300.0), ptr(50.0)}},
		{ApexMin: 6.8, Name: "=HYPERLINK(\"x\")", Doubts: "The match is only 71.", Areas: []*float64{ptr(100.0), nil}},
	}}
	data, err := r.CSV()
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil || len(rows) != 3 || rows[1][0] != "5.5454" || rows[1][6] != "300" || rows[2][7] != "" || rows[2][1] != "" || rows[2][2][0] != '\'' || rows[0][7][0] != '\'' {
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
	if formula, _ := f.GetCellFormula("Areas", "C3"); formula != "" {
		t.Errorf("a name is the formula %q", formula)
	}
}
