package report

import (
	"cmp"
	"slices"
	"strconv"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/quantities"
)

// amounts is the table of what was found in one injection.
func (w *writer) amounts(line Line, injected batch.Injected, targets []compounds.Compound) {
	last := column{head: "Amount, " + w.in.Method.ReportedUnit(), width: 30, number: true}
	if line.Role == batch.Check {
		last.head = "Recovery, %"
	}
	columns := []column{{head: "Compound", width: 44}, {head: "RT, min", width: 20, number: true}, {head: "Response", width: 24, number: true}, {head: w.in.Method.Curves.Unit, width: 24, number: true}, last, {head: "", width: 28}}
	var rows [][]cell
	for _, c := range targets {
		r := injected.Readings[c.ID]
		row := []cell{plain(c.Name), plain("–"), plain("–"), plain("–"), plain("–"), {text: flagWords(r), colour: ink3}}
		if p := peakOf(injected, c.ID); p != nil {
			row[1] = plain(strconv.FormatFloat(p.ApexMin, 'f', 3, 64))
		}
		set := func(k int, v *float64, digits int, strong bool) {
			if v != nil {
				row[k] = cell{text: batch.Significant(*v, digits), strong: strong}
			}
		}
		set(2, r.Response, 4, false)
		set(3, r.Concentration, 4, false)
		set(4, r.Amount, 3, true)
		if line.Role == batch.Check {
			set(4, r.Recovery, 4, true)
		}
		if said, held := w.undecided(line.Name, c.ID); held && line.Role == batch.Sample {
			row[3], row[4] = plain("–"), said
		}
		rows = append(rows, row)
	}
	w.table(columns, rows, 5)
}

func flagWords(r batch.Reading) string { return quantities.FlagWords(r.Flags) }

func peakOf(injected batch.Injected, compoundID string) *batch.NamedPeak {
	return injected.PeakOf(compoundID)
}

// peakTable is the table of the peaks of one channel.
func (w *writer) peakTable(line Line, injected batch.Injected, named, sum bool) {
	columns := []column{{head: "#", width: 8}, {head: "Name", width: 38}, {head: "RT, min", width: 18, number: true}, {head: "Area, " + cmp.Or(line.Trace.Unit, "signal") + "·s", width: 24, number: true}, {head: "Area %", width: 16, number: true}, {head: "Height", width: 18, number: true}, {head: "Width ½", width: 16, number: true}, {head: "Tailing", width: 16, number: true}, {head: "Resolution", width: 16, number: true}}
	opt := func(v *float64, decimals int) cell {
		if v == nil {
			return cell{text: "–", colour: ink3}
		}
		return plain(strconv.FormatFloat(*v, 'f', decimals, 64))
	}
	var rows [][]cell
	total, percent := 0.0, 0.0
	for _, p := range injected.Peaks {
		name := cell{text: "unnamed", colour: ink3}
		if c := compoundOf(w.in, p.CompoundID); c != nil {
			name = plain(c.Name)
		} else if named {
			continue
		}
		total, percent = total+p.AreaS, percent+p.AreaPercent
		rows = append(rows, []cell{plain(strconv.Itoa(p.Number)), name, plain(strconv.FormatFloat(p.ApexMin, 'f', 3, 64)), plain(strconv.FormatFloat(p.AreaS, 'f', 2, 64)), plain(strconv.FormatFloat(p.AreaPercent, 'f', 2, 64)), plain(strconv.FormatFloat(p.Height, 'f', 2, 64)), opt(p.WidthHalfMin, 3), opt(p.Tailing, 2), opt(p.Resolution, 2)})
	}
	if sum {
		row := make([]cell, len(columns))
		row[1] = cell{text: "Sum", strong: true}
		row[3], row[4] = cell{text: strconv.FormatFloat(total, 'f', 2, 64), strong: true}, cell{text: strconv.FormatFloat(percent, 'f', 2, 64), strong: true}
		rows = append(rows, row)
	}
	w.table(columns, rows, 5)
}

func compoundOf(in Input, id string) *compounds.Compound {
	i := slices.IndexFunc(in.Method.Compounds, func(c compounds.Compound) bool { return c.ID == id })
	if i < 0 {
		return nil
	}
	return &in.Method.Compounds[i]
}
