package report

import (
	"fmt"
	"slices"
	"strings"

	"yugen/core/batch"
)

const (
	sampleSheet = "Samples"
	factorSheet = "Response factors"
)

// samples writes the means of each sample, as formulas of the sheet of amounts.
func (w *workbook) samples() error {
	m := w.in.Method
	targets, groups := w.in.targets(), m.Groups()
	heading := []string{"Sample", "Injections"}
	for _, c := range targets {
		heading = append(heading, c.Name+", "+m.ReportedUnit(), c.Name+", RSD %", c.Name+", remarks")
	}
	for _, g := range groups {
		heading = append(heading, g+", "+m.ReportedUnit(), g+", RSD %", g+", remarks")
	}
	for k, text := range heading {
		w.set(sampleSheet, k+1, 1, text, "")
	}
	for k, s := range w.in.Result.Samples {
		row := k + 2
		w.set(sampleSheet, 1, row, s.Name, "")
		w.set(sampleSheet, 2, row, len(s.InjectionIDs), "")
		column := 3
		for _, c := range targets {
			w.mean(row, column, s.Values[c.ID], w.replicates(s, []string{c.ID}))
			column += 3
		}
		for _, g := range groups {
			var members []string
			for _, c := range targets {
				if c.Group == g {
					members = append(members, c.ID)
				}
			}
			w.mean(row, column, s.Groups[g], w.replicates(s, members))
			column += 3
		}
	}
	return freeze(w.f, sampleSheet)
}

// replicates are the amounts of some compounds in each injection of a sample, as a cell or a sum of cells.
func (w *workbook) replicates(s batch.SampleRow, compoundIDs []string) (list []string) {
	for i, line := range w.in.Lines {
		if !slices.Contains(s.InjectionIDs, line.ID) {
			continue
		}
		var cells []string
		for _, id := range compoundIDs {
			cells = append(cells, w.amountCells("M", id, []int{i}, func(r batch.Reading) bool { return r.Amount != nil })...)
		}
		if len(cells) > 0 {
			list = append(list, strings.Join(cells, "+"))
		}
	}
	return list
}

// mean writes a mean, its relative standard deviation and the remarks on it. By standard addition all injections together made the one amount.
func (w *workbook) mean(row, column int, v batch.SampleValue, replicates []string) {
	if v.Mean != nil {
		formula := ""
		if len(replicates) == v.N {
			formula = "AVERAGE(" + strings.Join(replicates, ",") + ")"
		}
		mean := w.set(sampleSheet, column, row, *v.Mean, formula)
		if v.RSD != nil {
			if formula != "" {
				formula = fmt.Sprintf("100*STDEV(%s)/ABS(%s)", strings.Join(replicates, ","), mean)
			}
			w.set(sampleSheet, column+1, row, *v.RSD, formula)
		}
	}
	if text := remarks(v); text != "" {
		w.set(sampleSheet, column+2, row, text, "")
	}
}

// factors writes the table of response factors: response over content of each standard in use, their mean and spread.
func (w *workbook) factors() {
	for k, title := range []string{"compound", "points", "mean response factor", "RSD, %", "relative to the first"} {
		w.set(factorSheet, k+1, 1, title, "")
	}
	row, first := 2, ""
	for _, c := range w.in.Result.Curves {
		if c.Factors.Mean == nil || c.RelativeTo != "" {
			continue
		}
		name := c.CompoundID
		if compound := compoundOf(w.in, c.CompoundID); compound != nil {
			name = compound.Name
		}
		w.set(factorSheet, 1, row, name, "")
		w.set(factorSheet, 2, row, c.Factors.N, "")
		mean := w.set(factorSheet, 3, row, *c.Factors.Mean, "")
		if c.Factors.RSD != nil {
			w.set(factorSheet, 4, row, *c.Factors.RSD, "")
		}
		if first == "" {
			first = mean
		}
		w.set(factorSheet, 5, row, nil, mean+"/"+absolute(first))
		row++
	}
	if err := freeze(w.f, factorSheet); err != nil && w.fail == nil {
		w.fail = err
	}
}
