package lab

import (
	"bytes"
	"encoding/csv"
	"errors"
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"yugen/store"
)

// A summary of the demo, as JSON, CSV and workbook, against the areas of its peaks; its formulas give the very numbers that it shows.
func TestASummaryIsTheSameEverywhere(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	asked := SummaryAsked{Measures: []string{"retention_min", "area_s"}, By: "role"}
	s := must[Summary](t)(l.SummaryOf(ctx, id, asked))
	if len(s.Injections) != 44 || len(s.Columns) != 9 || len(s.Groups) != 4 || s.Groups[1].Name != "Checks" || len(s.Groups[1].Injections) != 4 {
		t.Fatalf("%d injections, %d compounds, %+v", len(s.Injections), len(s.Columns), s.Groups)
	}
	p := must[Processed](t)(l.Process(ctx, id))
	caffeine := 0
	for k, c := range s.Columns {
		if c.Name == "Caffeine" {
			caffeine = k
		}
	}
	sum, n := 0.0, 0
	for _, in := range p.Result.Injections {
		for k, b := range p.Batch.Injections {
			if b.ID == in.ID && b.Role == "check" {
				sum, n = sum+in.PeakOf(s.Columns[caffeine].ID).AreaS, n+1
				_ = k
			}
		}
	}
	if got := s.Statistics[1][caffeine][1]; got.N != n || math.Abs(*got.Mean-sum/float64(n)) > 1e-9*sum {
		t.Errorf("the mean of the checks is %v of %d, want %g of %d", *got.Mean, got.N, sum/float64(n), n)
	}

	statistics := []string{"n", "mean", "sd", "rsd", "interval", "least", "most", "median"}
	for _, each := range []string{"measure", "compound"} {
		tables := map[string]int{"measure": 2, "compound": 9}[each]
		data := must[[]byte](t)(l.SummaryFile(ctx, id, asked, each, statistics, "csv"))
		r := csv.NewReader(bytes.NewReader(data))
		r.FieldsPerRecord = -1
		lines := must[[][]string](t)(r.ReadAll())
		if want := tables * (1 + 44 + 4*len(statistics)); len(lines) != want {
			t.Errorf("%s: %d lines, want %d", each, len(lines), want)
		}
		book := must[*excelize.File](t)(excelize.OpenReader(bytes.NewReader(must[[]byte](t)(l.SummaryFile(ctx, id, asked, each, statistics, "xlsx")))))
		sheets := book.GetSheetList()
		if len(sheets) != tables {
			t.Errorf("%s: sheets %v", each, sheets)
		}
		checked := 0
		for _, sheet := range sheets {
			rows := must[[][]string](t)(book.GetRows(sheet, excelize.Options{RawCellValue: true}))
			for y := range rows {
				for x := 2; x < len(rows[y]); x++ {
					cell, _ := excelize.CoordinatesToCellName(x+1, y+1)
					formula, _ := book.GetCellFormula(sheet, cell)
					if formula == "" {
						continue
					}
					shown, err := strconv.ParseFloat(rows[y][x], 64)
					if err != nil {
						t.Fatalf("%s %s: %v", sheet, cell, err)
					}
					text, err := book.CalcCellValue(sheet, cell, excelize.Options{RawCellValue: true})
					again, errNumber := strconv.ParseFloat(text, 64)
					if err != nil || errNumber != nil || math.Abs(again-shown) > 1e-6*math.Max(1e-6, math.Abs(shown)) {
						t.Fatalf("%s %s: %s gives %s, it shows %s (%v)", sheet, cell, formula, text, rows[y][x], err)
					}
					checked++
				}
			}
		}
		if checked < 500 {
			t.Errorf("%s: only %d formulas", each, checked)
		}
	}
	for by, want := range map[string]int{"none": 1, "replicates": 0, "level": 0, "own:nothing": 1} {
		asked.By = by
		if got := must[Summary](t)(l.SummaryOf(ctx, id, asked)); want > 0 && len(got.Groups) != want || want == 0 && len(got.Groups) < 8 {
			t.Errorf("by %s: %d groups", by, len(got.Groups))
		}
	}
	if got := must[Summary](t)(l.SummaryOf(ctx, id, SummaryAsked{Measures: []string{"area_s"}, Of: "all"})); len(got.Injections) != 47 {
		t.Errorf("all are %d", len(got.Injections))
	}
	two := p.Batch.Injections[3].ID + "," + p.Batch.Injections[5].ID
	if got := must[Summary](t)(l.SummaryOf(ctx, id, SummaryAsked{Measures: []string{"area_s"}, Of: two, Columns: []string{"caf"}})); len(got.Injections) != 2 || len(got.Columns) != 1 {
		t.Errorf("chosen are %d of %d", len(got.Injections), len(got.Columns))
	}
	for what, bad := range map[string]SummaryAsked{"nothing": {}, "an unknown measure": {Measures: []string{"beauty"}}, "an unknown grouping": {Measures: []string{"area_s"}, By: "moon"}, "a text": {Measures: []string{"name"}}, "too many": {Measures: strings.Split(strings.Repeat("area_s,", 30), ",")}} {
		if _, err := l.SummaryOf(ctx, id, bad); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := l.SummaryFile(ctx, id, SummaryAsked{Measures: []string{"area_s"}}, "measure", []string{"mode"}, "csv"); !errors.Is(err, ErrRefused) {
		t.Errorf("an unknown statistic: %v", err)
	}
}

// A summary over several batches has the injections of each, by the names of their compounds, and the sums and largest peaks of each; batches of other
// studies are refused.
func TestASummaryOverBatches(t *testing.T) {
	l, elsewhere := demo(t)
	ctx := t.Context()
	var id, other string
	for _, s := range must[[]store.Study](t)(l.Studies(ctx)) {
		if s.Name == "Five days" {
			other, id = s.Batches[0].ID, s.Batches[len(s.Batches)-1].ID
		}
	}
	here := must[Processed](t)(l.Process(ctx, id))
	ids := here.Batch.Version.Method.Compounds
	asked := SummaryAsked{Measures: []string{"area_s"}, Columns: []string{ids[0].ID, "largest", "sum:" + ids[0].ID + "+" + ids[1].ID}, By: "batch", Batches: []string{other, id, other}}
	s := must[Summary](t)(l.SummaryOf(ctx, id, asked))
	two := must[Processed](t)(l.Process(ctx, other))
	if len(s.Groups) != 3 || s.Groups[0].Name != here.Batch.Name || s.Groups[1].Name != two.Batch.Name || len(s.Injections) != len(s.Groups[0].Injections)+len(s.Groups[1].Injections) {
		t.Fatalf("%d injections in %+v", len(s.Injections), s.Groups)
	}
	at := s.Groups[1].Injections[0]
	row := s.Injections[at]
	for _, in := range two.Result.Injections {
		if in.ID != row.ID {
			continue
		}
		largest, caffeine, both := 0.0, 0.0, 0.0
		for _, p := range in.Peaks {
			largest = max(largest, p.AreaS)
			name := ""
			for _, c := range two.Batch.Version.Method.Compounds {
				if c.ID == p.CompoundID {
					name = c.Name
				}
			}
			switch name {
			case s.Columns[0].Name:
				caffeine, both = p.AreaS, both+p.AreaS
			case strings.TrimPrefix(s.Columns[2].Name, s.Columns[0].Name+" + "):
				both += p.AreaS
			}
		}
		for c, want := range []float64{caffeine, largest, both} {
			if got := s.Values[0][c][at]; got == nil || math.Abs(*got-want) > 1e-9*want {
				t.Errorf("%s of %s is %v, its peaks say %g", s.Columns[c].Name, row.Name, got, want)
			}
		}
	}
	asked.Batches = []string{elsewhere}
	if _, err := l.SummaryOf(ctx, id, asked); !errors.Is(err, ErrRefused) {
		t.Errorf("a batch of another study: %v", err)
	}
	asked.Batches, asked.Columns = nil, []string{"sum:nobody"}
	if _, err := l.SummaryOf(ctx, id, asked); !errors.Is(err, ErrRefused) {
		t.Errorf("a sum over nobody: %v", err)
	}
}
