package report

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/quantities"
)

// oneInjection is the report of one injection: its chromatogram, its peaks, and what was found.
func (w *writer) oneInjection(i int) {
	in, line := w.in, w.in.Lines[i]
	injected := in.Result.Injections[i]
	sub := fmt.Sprintf("injection %d of %d", i+1, len(in.Lines))
	if r := in.replicate(i); r != "" {
		sub = r + ", " + sub
	}
	w.heading(line.Name, sub)
	at := "–"
	if line.AcquiredAt != nil {
		at = line.AcquiredAt.Format("2 January 2006, 15:04")
	}
	facts := [][2]string{{"Acquired", at}, {"File", line.File}, {"Vial", orDash(line.Vial)}, {"Signal", line.Trace.Name}, {"Method", fmt.Sprintf("%s, version %d", in.MethodName, in.Version)}, {"Dilution", "×" + strconv.FormatFloat(line.Dilution, 'g', -1, 64)}}
	if line.Role == batch.Sample {
		facts = append(facts, [2]string{"Sample", quantity(line.Sample, in.Method.Amounts.SampleUnit)}, [2]string{"Extract", quantity(line.Volume, in.Method.Amounts.VolumeUnit)})
	}
	if line.Level != nil {
		facts = append(facts, [2]string{"Level", quantity(line.Level, in.Method.Curves.Unit)})
	}
	for _, c := range in.OwnColumns {
		if v := line.Own[c.ID]; v != "" && !c.Hidden {
			facts = append(facts, [2]string{c.Name, strings.TrimSpace(v + " " + c.Unit)})
		}
	}
	w.facts(facts)
	w.section("Chromatogram", line.Trace.Unit+" against min", 80)
	w.chromatogram(line, injected)
	w.amounts(line, injected)
	w.peakTable(line, injected)
	w.signatures()
}

func orDash(s string) string {
	if s == "" {
		return "–"
	}
	return s
}

func quantity(v *float64, unit string) string {
	if v == nil {
		return "not given"
	}
	return strconv.FormatFloat(*v, 'g', -1, 64) + " " + unit
}

func (w *writer) amounts(line Line, injected batch.Injected) {
	targets := w.in.targets()
	if len(targets) == 0 || line.Role == batch.Blank {
		return
	}
	w.section("Results", "", 24)
	last := column{"Amount, " + w.in.Method.ReportedUnit(), 30, true}
	if line.Role == batch.Check {
		last.head = "Recovery, %"
	}
	columns := []column{{"Compound", 44, false}, {"RT, min", 20, true}, {"Response", 24, true}, {w.in.Method.Curves.Unit, 24, true}, last, {"", 28, false}}
	var rows [][]cell
	for _, c := range targets {
		r := injected.Readings[c.ID]
		row := []cell{plain(c.Name), plain("–"), plain("–"), plain("–"), plain("–"), {text: "  " + flagWords(r), colour: ink3}}
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
		rows = append(rows, row)
	}
	w.table(columns, rows, 5)
}

func flagWords(r batch.Reading) string { return quantities.FlagWords(r.Flags) }

func peakOf(injected batch.Injected, compoundID string) *batch.NamedPeak {
	return injected.PeakOf(compoundID)
}

func (w *writer) peakTable(line Line, injected batch.Injected) {
	w.section("Peaks", fmt.Sprintf("%d, noise %s %s", len(injected.Peaks), batch.Significant(injected.NoiseSD, 2), line.Trace.Unit), 24)
	columns := []column{{"#", 8, false}, {"Name", 38, false}, {"RT, min", 18, true}, {"Area, " + line.Trace.Unit + "·s", 24, true}, {"Area %", 16, true}, {"Height", 18, true}, {"Width ½", 16, true}, {"Tailing", 16, true}, {"Resolution", 16, true}}
	opt := func(v *float64, decimals int) cell {
		if v == nil {
			return cell{text: "–", colour: ink3}
		}
		return plain(strconv.FormatFloat(*v, 'f', decimals, 64))
	}
	var rows [][]cell
	for _, p := range injected.Peaks {
		name := cell{text: "unnamed", colour: ink3}
		if c := compoundOf(w.in, p.CompoundID); c != nil {
			name = plain(c.Name)
		}
		rows = append(rows, []cell{plain(strconv.Itoa(p.Number)), name, plain(strconv.FormatFloat(p.ApexMin, 'f', 3, 64)), plain(strconv.FormatFloat(p.AreaS, 'f', 2, 64)), plain(strconv.FormatFloat(p.AreaPercent, 'f', 2, 64)), plain(strconv.FormatFloat(p.Height, 'f', 2, 64)), opt(p.WidthHalfMin, 3), opt(p.Tailing, 2), opt(p.Resolution, 2)})
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
