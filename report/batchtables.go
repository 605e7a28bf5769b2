package report

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/report/layouts"
)

// kinds counts the injections of each role there is.
func kinds(all int, counts map[batch.Role]int) string {
	var parts []string
	for _, role := range []batch.Role{batch.Sample, batch.Standard, batch.Check, batch.Blank, batch.Suitability} {
		if n := counts[role]; n > 0 {
			what := string(role)
			if role == batch.Suitability {
				what = "injection for suitability"
			}
			parts = append(parts, count(n, what))
		}
	}
	if len(parts) == 0 {
		return strconv.Itoa(all)
	}
	return fmt.Sprintf("%d: %s", all, strings.Join(parts, ", "))
}

// Compounds that fit on one table beside the names of nameWidth, on a page; how narrow a column of theirs may be, mm.
const (
	perTable      = 8
	nameWidth     = 42.0
	compoundWidth = 15.5
)

// beside is how many compounds fit beside the names in the width there is.
func (w *writer) beside() int {
	return max(1, min(perTable, int((w.right-w.left-nameWidth)/compoundWidth)))
}

// sampled is what a table of samples has a column of: a compound or a group.
type sampled struct {
	name string
	id   string // of a compound
	of   func(batch.SampleRow) batch.SampleValue
}

func compoundColumns(targets []compounds.Compound) (list []sampled) {
	for _, c := range targets {
		list = append(list, sampled{c.Name, c.ID, func(r batch.SampleRow) batch.SampleValue { return r.Values[c.ID] }})
	}
	return list
}

func groupColumns(groups []string) (list []sampled) {
	for _, g := range groups {
		list = append(list, sampled{g, "", func(r batch.SampleRow) batch.SampleValue { return r.Groups[g] }})
	}
	return list
}

// samples is the table of all samples.
func (w *writer) samples(title string, all []sampled) {
	if len(w.in.Result.Samples) == 0 || len(all) == 0 {
		w.section(title, "", 10)
		w.sentence("There is no sample with a compound in this batch.")
		return
	}
	n := w.beside()
	for from := 0; from < len(all); from += n {
		part := all[from:min(len(all), from+n)]
		w.section(title, fmt.Sprintf("%s, mean of replicates, relative SD below", w.in.Method.ReportedUnit()), 30)
		columns := []column{{head: "Sample", width: 42}}
		for _, c := range part {
			columns = append(columns, column{head: c.name, width: (w.right - w.left - nameWidth) / float64(w.beside()), number: true})
		}
		var rows [][]cell
		for _, s := range w.in.Result.Samples {
			row := []cell{{text: s.Name + "\n" + count(len(s.InjectionIDs), "injection")}}
			for _, c := range part {
				if said, held := w.undecided(s.Name, c.id); held {
					row = append(row, said)
					continue
				}
				row = append(row, sampleCell(c.of(s), w.in.Method.Curves.Unit))
			}
			rows = append(rows, row)
		}
		w.table(columns, rows, 8.4)
	}
	w.paragraph("above, below: outside the range of the curve. drift: a check next to the sample is outside its limits.", 7.5, ink3, 0)
}

func sampleCell(v batch.SampleValue, concentrationUnit string) cell {
	has := func(f batch.Flag) bool { return slices.Contains(v.Flags, f) }
	below := ""
	switch {
	case has(batch.AboveRange):
		below = "above"
	case has(batch.BelowRange):
		below = "below"
	case has(batch.CheckDrift):
		below = "drift"
	case v.RSD != nil:
		below = strconv.FormatFloat(*v.RSD, 'f', 1, 64) + " %"
	case v.N == 1 && v.Of == 1:
		below = "n = 1"
	}
	if v.N > 0 && v.N < v.Of {
		below = strings.TrimSpace(below + fmt.Sprintf(" %d of %d", v.N, v.Of))
	}
	if len(v.Absent) > 0 {
		below += " without " + strings.Join(v.Absent, ", ")
	}
	switch {
	case has(batch.NotDetected):
		return cell{text: "n. d.\nnot detected", colour: ink3}
	case has(batch.NotFound):
		return cell{text: "–\nnot found", colour: ink3}
	case v.Mean != nil:
		return cell{text: batch.Significant(*v.Mean, 3) + "\n" + below, strong: true}
	case v.Concentration.Mean != nil:
		return cell{text: batch.Significant(*v.Concentration.Mean, 3) + "\n" + concentrationUnit}
	}
	return cell{text: "–", colour: ink3}
}

func (w *writer) checksBlock(b layouts.Block, s subject) {
	targets := w.compoundsNamed(b.Compounds)
	title := w.titleOf(b, "Checks", s)
	if len(w.in.Result.Checks) == 0 {
		w.section(title, "", 12)
		w.sentence("The batch has no check.")
		return
	}
	n := w.beside()
	for from := 0; from < len(targets); from += n {
		w.section(title, fmt.Sprintf("recovery in %%, limits %g to %g", w.in.Method.Checks.RecoveryLow, w.in.Method.Checks.RecoveryHigh), 20)
		w.checksOf(targets[from:min(len(targets), from+n)])
	}
}

func (w *writer) checksOf(targets []compounds.Compound) {
	columns := []column{{head: "Check", width: 42}}
	for _, c := range targets {
		columns = append(columns, column{head: c.Name, width: (w.right - w.left - nameWidth) / float64(w.beside()), number: true})
	}
	var rows [][]cell
	for _, l := range w.in.Lines {
		if l.Role != batch.Check {
			continue
		}
		row := []cell{plain(l.Name)}
		for _, c := range targets {
			row = append(row, w.checkCell(l.ID, c.ID))
		}
		rows = append(rows, row)
	}
	w.table(columns, rows, 5)
}

func (w *writer) checkCell(injection, compound string) cell {
	v := cell{text: "–", colour: ink3}
	for _, check := range w.in.Result.Checks {
		if check.InjectionID == injection && check.CompoundID == compound {
			v = plain(strconv.FormatFloat(check.Recovery, 'f', 1, 64))
			if check.Outside {
				v.strong, v.colour = true, kaki
			}
		}
	}
	return v
}

// curves are all curves in little, with a table of what they are.
func (w *writer) curves(title string) {
	w.section(title, "response against "+w.in.Method.Curves.Unit, 70)
	w.smallCurves()
	var rows [][]cell
	for _, c := range w.in.Result.Curves {
		name := c.CompoundID
		for _, compound := range w.in.Method.Compounds {
			if compound.ID == c.CompoundID {
				name = compound.Name
			}
		}
		if c.Fit == nil {
			rows = append(rows, []cell{plain(name), plain(c.Problem), plain(""), plain(""), plain(""), plain(""), plain("")})
			continue
		}
		coefficient := func(i int) cell {
			if i >= len(c.Fit.Coefficients) {
				return plain("")
			}
			return plain(batch.Significant(c.Fit.Coefficients[i], 5))
		}
		used := 0
		for _, p := range c.Points {
			if p.InRange && !p.LeftOut {
				used++
			}
		}
		r2 := cell{text: "–"}
		if c.Fit.R2 != nil {
			r2.text = rSquared(*c.Fit.R2)
		}
		rows = append(rows, []cell{plain(name), plain(fmt.Sprintf("%s, weight %s", shape(string(c.Fit.Model)), shape(string(c.Fit.Weight)))), plain(fmt.Sprintf("%g – %g", c.Fit.LowX, c.Fit.HighX)), plain(fmt.Sprintf("%d of %d", used, len(c.Points))), coefficient(0), coefficient(1), r2})
	}
	w.table([]column{{head: "Compound", width: 38}, {head: "Model", width: 36}, {head: "Range", width: 22, number: true}, {head: "Points", width: 18, number: true}, {head: "b0", width: 20, number: true}, {head: "b1", width: 20, number: true}, {head: "R²", width: 16, number: true}}, rows, 5)
}

// rSquared shows as many nines as there are, and two digits more.
func rSquared(v float64) string {
	if v >= 1 || v <= 0 {
		return strconv.FormatFloat(v, 'f', 4, 64)
	}
	return strconv.FormatFloat(v, 'f', min(12, 2+max(2, int(-math.Floor(math.Log10(1-v))))), 64)
}
