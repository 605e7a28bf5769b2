package report

import (
	"math"
	"strconv"
	"testing"

	"github.com/thedatashed/xlsxreader"

	"yugen/core/curves"
)

// A workbook is read by a reader that is not the library that wrote it: the numbers that stand in it are those of the result.
func TestTheWorkbookInASecondReader(t *testing.T) {
	in := calibrated(t, curves.Linear, curves.PerX)
	in.Lines[len(in.Lines)-2].Name = "Blatt, チャ & <été>"
	data, err := XLSX(in)
	if err != nil {
		t.Fatal(err)
	}
	book, err := xlsxreader.NewReader(data)
	if err != nil {
		t.Fatal(err)
	}
	cells := map[string]map[string]string{}
	for _, sheet := range book.Sheets {
		cells[sheet] = map[string]string{}
		for row := range book.ReadRows(sheet) {
			if row.Error != nil {
				t.Fatal(row.Error)
			}
			for _, c := range row.Cells {
				cells[sheet][c.Column+strconv.Itoa(c.Row)] = c.Value
			}
		}
	}
	number := func(sheet, cell string, want float64) {
		t.Helper()
		v, err := strconv.ParseFloat(cells[sheet][cell], 64)
		if err != nil || math.Abs(v-want) > 1e-12*math.Abs(want) {
			t.Errorf("%s!%s is %q, the result says %.17g", sheet, cell, cells[sheet][cell], want)
		}
	}
	number(sampleSheet, "C2", *in.Result.Samples[0].Values["Caffeine"].Mean)
	found := 0
	for row := 2; row < 60; row++ {
		name := cells[amountSheet]["A"+strconv.Itoa(row)]
		for column := 'A'; column <= 'C' && name != "Blatt, チャ & <été>"; column++ {
			name = cells[amountSheet][string(column)+strconv.Itoa(row)]
		}
		if name != "Blatt, チャ & <été>" {
			continue
		}
		reading := in.Result.Injections[len(in.Lines)-2].Readings["Caffeine"]
		number(amountSheet, "G"+strconv.Itoa(row), *reading.Concentration)
		number(amountSheet, "M"+strconv.Itoa(row), *reading.Amount)
		found++
	}
	if found == 0 {
		t.Errorf("the sample does not stand in %v", cells[amountSheet])
	}
}
