package report

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/core/screening"
	"yugen/report/layouts"
)

// screeningBlock says which compounds are in which samples: present is what a person confirmed, and what nobody has decided is not reported as present.
func (w *writer) screeningBlock(b layouts.Block, s subject) {
	w.section(w.titleOf(b, "Screening", s), "present or not, by the evidence", 16)
	all := w.in.Screened
	if all == nil {
		w.sentence("The method has no rules of a screening.")
		return
	}
	var columns []int // of the compounds that are asked for
	for k, c := range all.Compounds {
		if len(b.Compounds) == 0 || slices.Contains(b.Compounds, c.Name) {
			columns = append(columns, k)
		}
	}
	var samples []batch.ScreenedSample
	for _, one := range all.Samples {
		if slices.ContainsFunc(one.InjectionIDs, func(id string) bool { return w.speaksOf(id, s) }) {
			samples = append(samples, one)
		}
	}
	if len(columns) == 0 || len(samples) == 0 {
		w.sentence("There is nothing here that is screened.")
		return
	}
	n := w.beside()
	for from := 0; from < len(columns); from += n {
		w.screenedWords(columns[from:min(len(columns), from+n)], samples)
	}
	w.screenedSays(columns, samples)
	w.screenedEvidence(columns, samples)
}

// speaksOf tells whether a page is of an injection.
func (w *writer) speaksOf(id string, s subject) bool {
	return slices.ContainsFunc(s.lines, func(k int) bool { return w.in.Lines[k].ID == id })
}

// reportedWord is what paper says of a cell: a proposal is nobody's word yet.
func reportedWord(c batch.ScreenedCell) cell {
	switch c.Word {
	case screening.Present:
		return cell{text: "present", strong: true}
	case screening.NotPresent:
		return plain("not present")
	case screening.BelowLimit:
		return cell{text: "below limit", colour: ink2}
	case screening.Again:
		return cell{text: "to inject again", colour: kaki}
	case screening.Proposed, screening.LookHere:
		return cell{text: "not decided", colour: kaki}
	}
	return cell{text: "–", colour: ink3}
}

// undecided is what stands for an amount of a compound that is screened for and that no person has confirmed; false where the amount may be told.
func (w *writer) undecided(sample, compoundID string) (cell, bool) {
	if w.in.Screened == nil {
		return cell{}, false
	}
	k := slices.IndexFunc(w.in.Screened.Compounds, func(c batch.ScreenedCompound) bool { return c.ID == compoundID })
	s := slices.IndexFunc(w.in.Screened.Samples, func(s batch.ScreenedSample) bool { return s.Name == sample })
	if k < 0 || s < 0 {
		return cell{}, false
	}
	one := w.in.Screened.Samples[s].Cells[k]
	if one.Word == screening.Present || one.Word == screening.Nothing {
		return cell{}, false
	}
	return reportedWord(one), true
}

// undecidedQuantity is the same for a quantity that tells how much there is.
func (w *writer) undecidedQuantity(q quantities.Quantity, r quantities.Row) (cell, bool) {
	if r.Compound == nil || !slices.Contains([]string{"amount", "amount_standard_error", "concentration", "concentration_standard_error", "sample_mean"}, q.ID) {
		return cell{}, false
	}
	return w.undecided(r.Entry.Name, r.Compound.ID)
}

func (w *writer) screenedWords(columns []int, samples []batch.ScreenedSample) {
	heads := []column{{head: "Sample", width: nameWidth}}
	for _, k := range columns {
		heads = append(heads, column{head: w.in.Screened.Compounds[k].Name, width: (w.right - w.left - nameWidth) / float64(w.beside())})
	}
	var rows [][]cell
	for _, s := range samples {
		row := []cell{plain(s.Name)}
		for _, k := range columns {
			row = append(row, reportedWord(s.Cells[k]))
		}
		rows = append(rows, row)
	}
	w.table(heads, rows, 5)
}

// screenedSays counts what is not decided, and who decided the rest.
func (w *writer) screenedSays(columns []int, samples []batch.ScreenedSample) {
	waiting, by := 0, []string{}
	for _, s := range samples {
		for _, k := range columns {
			c := s.Cells[k]
			if c.Word.Waits() || c.Word == screening.Again {
				waiting++
			}
			if c.Decision != nil && !c.Stale && !slices.Contains(by, c.Decision.By) {
				by = append(by, c.Decision.By)
			}
		}
	}
	say := "A dash: looked for, and nothing at its time."
	if waiting == 1 {
		say += " One compound is not decided; it is not reported as present."
	} else if waiting > 1 {
		say += fmt.Sprintf(" %d are not decided; they are not reported as present.", waiting)
	}
	if len(by) > 0 {
		say += " Decided by " + strings.Join(by, ", ") + "."
	}
	w.sentence(say)
}

// screenedEvidence lists what speaks for and against what was found.
func (w *writer) screenedEvidence(columns []int, samples []batch.ScreenedSample) {
	heads := []column{{head: "Sample", width: 30}, {head: "Compound", width: 28}, {head: "Inj.", width: 8, number: true}, {head: "RT, min", width: 26, number: true}, {head: "Spectrum", width: 22, number: true}, {head: "Ratios, %", width: 34, number: true}, {head: "S/N", width: 12, number: true}, {head: "Said", width: 30}}
	var rows [][]cell
	for _, s := range samples {
		for _, k := range columns {
			c := s.Cells[k]
			for _, e := range c.Evidence {
				if !e.Found {
					continue
				}
				said := reportedWord(c)
				if d := c.Decision; d != nil && !c.Stale && d.Why != "" {
					said.text += ": " + d.Why
				}
				rows = append(rows, []cell{plain(s.Name), plain(w.in.Screened.Compounds[k].Name), plain(w.place(e.InjectionID)), marked(e, screening.Retention, 3), marked(e, screening.Spectrum, 1), marked(e, screening.Ratio, 0), marked(e, screening.SignalToNoise, 0), said})
			}
		}
	}
	if len(rows) == 0 {
		return
	}
	w.y += 2
	w.table(heads, rows, 5)
	w.sentence("Found and, in brackets, permitted. Bold: outside.")
}

func (w *writer) place(id string) string {
	return strconv.Itoa(1 + slices.IndexFunc(w.in.Lines, func(l Line) bool { return l.ID == id }))
}

// marked says the marks of a kind: what was found, and what is permitted.
func marked(e screening.Evidence, kind screening.Kind, decimals int) cell {
	out := cell{}
	var parts []string
	for _, m := range e.Marks {
		if m.Kind != kind {
			continue
		}
		if !m.Inside {
			out.strong, out.colour = true, kaki
		}
		parts = append(parts, markText(m, decimals))
	}
	if out.text = strings.Join(parts, "; "); out.text == "" {
		out.text = "–"
	}
	return out
}

func markText(m screening.Mark, decimals int) string {
	text := func(v float64) string {
		if m.Kind == screening.Ratio {
			return batch.Significant(100*v, 3)
		}
		return strconv.FormatFloat(v, 'f', decimals, 64)
	}
	found := "no peak"
	if m.Value != nil && !math.IsNaN(*m.Value) {
		found = text(*m.Value)
	}
	switch {
	case m.Low != nil && m.High != nil:
		return fmt.Sprintf("%s (%s–%s)", found, text(*m.Low), text(*m.High))
	case m.Low != nil:
		return fmt.Sprintf("%s (≥ %s)", found, text(*m.Low))
	}
	return found
}
