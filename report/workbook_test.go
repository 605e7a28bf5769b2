package report

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/xml"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/signal"
)

// calibrated is a processed batch of five standards and a sample, with an internal standard.
func calibrated(t *testing.T, m curves.Model, w curves.Weight, also ...func(*batch.Method)) Input {
	t.Helper()
	method := batch.NewMethod()
	method.Channels[0].Peaks.WidthMin = 0.1
	method.Curves.Model, method.Curves.Weight = m, w
	for i, name := range []string{"Caffeine", "Standard"} {
		c := compounds.Compound{ID: name, Name: name, ExpectedMin: 1 + float64(i), Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target}
		if i == 1 {
			c.Role, c.Amount = compounds.InternalStandard, 25
		}
		method.Compounds = append(method.Compounds, c)
	}
	in := Input{Study: "S", Batch: "B", Method: method}
	var list []batch.Injection
	add := func(role batch.Role, level *float64, content float64) *batch.Injection {
		y := make([]float64, 1800)
		for i := range y {
			x := float64(i) / 600
			y[i] = (4+10*content-0.01*content*content)*math.Exp(-math.Pow((x-1)/0.05, 2)/2) + 300*math.Exp(-math.Pow((x-2)/0.05, 2)/2)
		}
		tr, err := signal.NewUniform(0, 0.1, y)
		if err != nil {
			t.Fatal(err)
		}
		list = append(list, batch.Injection{Entry: batch.Entry{ID: strconv.Itoa(len(list)), Name: fmt.Sprintf("I%d", len(list)), Role: role, Level: level, Dilution: 2, Factor: 1.1}, Trace: tr})
		return &list[len(list)-1]
	}
	levels := []float64{1, 5, 20, 60, 120}
	if m == curves.OnePoint {
		levels = []float64{20, 20}
	}
	if w == curves.PerVariance || w == curves.PerMeasuredVariance { // which are of replicates
		levels = slices.Repeat(levels, 6)
	}
	for k, level := range levels {
		add(batch.Standard, ptr(level), level*(1+0.01*math.Sin(level+float64(k/5))))
	}
	for k := range 2 {
		s := add(batch.Sample, nil, 33+0.2*float64(k))
		s.Name, s.Volume, s.Sample, s.Internal = "Leaf", ptr(50.0), ptr(0.213), ptr(20.0)
	}
	b := add(batch.Blank, nil, 0.2)
	b.Dilution = 1
	for _, change := range also {
		change(&method)
	}
	r, err := batch.Process(context.Background(), batch.Input{Injections: list, Method: method}, nil)
	if err != nil {
		t.Fatal(err)
	}
	in.Result, in.Method = r, method
	for _, i := range list {
		in.Lines = append(in.Lines, Line{Entry: i.Entry})
	}
	return in
}

func opened(t *testing.T, in Input) *excelize.File {
	t.Helper()
	book, err := XLSX(in)
	if err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(bytes.NewReader(book))
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// recalculated is what a spreadsheet makes of a cell's formula.
func recalculated(t *testing.T, f *excelize.File, sheet, cell string) float64 {
	t.Helper()
	if formula, _ := f.GetCellFormula(sheet, cell); formula == "" {
		t.Errorf("%s!%s has no formula", sheet, cell)
	}
	text, err := f.CalcCellValue(sheet, cell, excelize.Options{RawCellValue: true})
	if err != nil {
		t.Fatalf("%s!%s: %v", sheet, cell, err)
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		t.Fatalf("%s!%s is %q", sheet, cell, text)
	}
	return v
}

// A spreadsheet that recalculates the exported formulas comes to the same coefficients, residuals and amounts, for every model.
func TestTheWorkbookRecalculatesToTheSameNumbers(t *testing.T) {
	for _, m := range curves.Models {
		for _, w := range curves.Weights {
			if m == curves.LogLog && (w == curves.PerVariance || w == curves.PerMeasuredVariance) {
				continue // those weights are of responses, not of their logarithms
			}
			in := calibrated(t, m, w)
			c := in.Result.Curves[0]
			if c.Fit == nil {
				t.Fatalf("%s %s: %s", m, w, c.Problem)
			}
			f := opened(t, in)
			same := func(what string, got, want float64) {
				t.Helper()
				if math.Abs(got-want) > 1e-8*math.Max(math.Abs(want), 1e-3) {
					t.Errorf("%s %s, %s: recalculated %.12g, exported %.12g", m, w, what, got, want)
				}
			}
			for k, of := range coefficientOrder(m) {
				cell, _ := excelize.CoordinatesToCellName(4+2*of, 1)
				same(fmt.Sprintf("b%d", of), recalculated(t, f, curveSheet, cell), c.Fit.Coefficients[k])
			}
			for i := range c.Points {
				row := 4 + i
				p := c.Fit.Points[i]
				wanted := map[int]float64{colFitted: p.Fitted, colResidual: p.Residual}
				if p.BackCalculated != nil {
					wanted[colBack] = *p.BackCalculated
				}
				for column, want := range wanted {
					cell, _ := excelize.CoordinatesToCellName(column, row)
					same(cell, recalculated(t, f, curveSheet, cell), want)
				}
			}
			rows, err := f.GetRows(amountSheet)
			if err != nil {
				t.Fatal(err)
			}
			row := len(rows) - 1 // the second replicate stands before the blank
			if m == curves.LogLog && in.Result.Injections[len(in.Lines)-1].Readings["Caffeine"].Concentration == nil {
				row++
			}
			reading := in.Result.Injections[len(in.Lines)-2].Readings["Caffeine"]
			if c.Fit.ResidualSD != nil {
				same("residual SD", recalculated(t, f, curveSheet, "J1"), *c.Fit.ResidualSD)
				same("R²", recalculated(t, f, curveSheet, "L1"), *c.Fit.R2)
			}
			same("mean", recalculated(t, f, sampleSheet, "C2"), *in.Result.Samples[0].Values["Caffeine"].Mean)
			same("its RSD", recalculated(t, f, sampleSheet, "D2"), *in.Result.Samples[0].Values["Caffeine"].RSD)
			same("concentration", recalculated(t, f, amountSheet, fmt.Sprintf("G%d", row)), *reading.Concentration)
			same("amount", recalculated(t, f, amountSheet, fmt.Sprintf("M%d", row)), *reading.Amount)
			// The value stands in the file as well, for readers that do not calculate.
			if text, _ := f.GetCellValue(amountSheet, fmt.Sprintf("M%d", row), excelize.Options{RawCellValue: true}); text == "" {
				t.Error("the amount has no value of its own")
			}
		}
	}
}

// Groups, percent of total and blanks taken off are formulas too, and come to what is exported.
func TestMeansOfEveryKindRecalculate(t *testing.T) {
	second := func(m *batch.Method) {
		// The internal standard's peak once more, as a target of its own: two targets make a group.
		m.Compounds[1].Role, m.Compounds[1].Amount, m.Compounds[0].Group, m.Compounds[1].Group = compounds.Target, 0, "All", "All"
	}
	for what, change := range map[string]func(*batch.Method){
		"group":            second,
		"percent of total": func(m *batch.Method) { second(m); m.Amounts.PercentOfTotal = true },
		"as measured":      func(m *batch.Method) { m.Amounts.AsMeasured = true; m.Amounts.TakeOffBlank = true },
		"blank taken off":  func(m *batch.Method) { m.Amounts.TakeOffBlank = true },
	} {
		in := calibrated(t, curves.Average, curves.PerX2, change)
		f := opened(t, in)
		v := in.Result.Samples[0].Values["Caffeine"]
		cells := map[string]*float64{"C2": v.Mean, "D2": v.RSD}
		if what == "group" {
			cells["I2"], cells["J2"] = in.Result.Samples[0].Groups["All"].Mean, in.Result.Samples[0].Groups["All"].RSD
		}
		for cell, want := range cells {
			if got := recalculated(t, f, sampleSheet, cell); math.Abs(got/(*want)-1) > 1e-9 {
				t.Errorf("%s, %s: recalculated %.12g, exported %.12g", what, cell, got, *want)
			}
			text, _ := f.GetCellValue(sampleSheet, cell, excelize.Options{RawCellValue: true})
			if kept, err := strconv.ParseFloat(text, 64); err != nil || math.Abs(kept/(*want)-1) > 1e-12 {
				t.Errorf("%s, %s keeps %q for readers that do not calculate, want %.12g", what, cell, text, *want)
			}
		}
	}
}

// A reviewer who leaves a point out in the spreadsheet gets the curve that leaving it out gives here.
func TestLeavingAPointOutInTheWorkbook(t *testing.T) {
	in := calibrated(t, curves.Linear, curves.PerX)
	f := opened(t, in)
	if err := f.SetCellValue(curveSheet, "D6", 0); err != nil { // the third standard
		t.Fatal(err)
	}
	var points []curves.Point
	for i, q := range in.Result.Curves[0].Points {
		points = append(points, curves.Point{X: q.X, Y: q.Response, Out: i == 2})
	}
	want, err := curves.New(points, curves.Linear, curves.PerX)
	if err != nil {
		t.Fatal(err)
	}
	if got := recalculated(t, f, curveSheet, "F1"); math.Abs(got/want.Coefficients[1]-1) > 1e-9 || got == in.Result.Curves[0].Fit.Coefficients[1] {
		t.Errorf("slope %.12g, want %.12g", got, want.Coefficients[1])
	}
}

// Formulas keep their results as numbers, so that a reader that does not calculate sees numbers too.
func TestKeptResultsOfFormulasAreNumbers(t *testing.T) {
	data, err := XLSX(calibrated(t, curves.Quadratic, curves.PerX))
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	formulas := 0
	for _, part := range z.File {
		if !strings.HasPrefix(part.Name, "xl/worksheets/") {
			continue
		}
		r, err := part.Open()
		if err != nil {
			t.Fatal(err)
		}
		var sheet struct {
			Rows []struct {
				Cells []struct {
					At      string `xml:"r,attr"`
					Type    string `xml:"t,attr"`
					Formula string `xml:"f"`
					Value   string `xml:"v"`
				} `xml:"c"`
			} `xml:"sheetData>row"`
		}
		if err := xml.NewDecoder(r).Decode(&sheet); err != nil {
			t.Fatal(err)
		}
		for _, row := range sheet.Rows {
			for _, c := range row.Cells {
				if c.Formula == "" {
					continue
				}
				formulas++
				if _, err := strconv.ParseFloat(c.Value, 64); err != nil || c.Type != "" {
					t.Errorf("%s %s: %q of type %q", part.Name, c.At, c.Value, c.Type)
				}
			}
		}
	}
	if formulas < 50 {
		t.Errorf("only %d formulas", formulas)
	}
}
