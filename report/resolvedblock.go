package report

import (
	"fmt"
	"strconv"

	"yugen/core/batch"
	"yugen/report/layouts"
)

// resolvedBlock is the table of a batch that was resolved: compounds against samples, relative to the internal standard where there is one, else to the total.
func (w *writer) resolvedBlock(b layouts.Block, s subject) {
	w.section(w.titleOf(b, "Resolved", s), "compounds against samples", 16)
	r := w.in.Resolved
	switch {
	case r == nil || len(r.Samples) == 0:
		w.sentence("The batch has no samples with spectra.")
		return
	case r.Left > 0:
		w.sentence(fmt.Sprintf("The batch is not resolved to its end: stretches left: %d. What is not complete is not reported.", r.Left))
		return
	case len(r.Rows) == 0:
		w.sentence("Nothing stands out of the noise.")
		return
	}
	n := w.besideNames(resolvedLeft)
	for from := 0; from < len(r.Samples); from += n {
		w.resolvedTable(*r, from, min(len(r.Samples), from+n), n)
	}
	says := "Areas, % of the total of each sample"
	if r.Standard >= 0 {
		says = "Areas ÷ that of " + r.Rows[r.Standard].Name
	}
	w.sentence(says + ". A dash: it does not stand out of noise. With a question mark: proposed by a library, and confirmed by nobody.")
	for _, row := range r.Rows {
		if row.Doubts != "" {
			w.sentence(fmt.Sprintf("%s: %s", row.called(), row.Doubts))
		}
	}
}

// resolvedLeft is what time, index, name and match of a compound take, mm.
const resolvedLeft = 16 + 14 + 44 + 12.0

func (w *writer) besideNames(left float64) int {
	return max(1, int((w.right-w.left-left)/compoundWidth))
}

// called is how paper names a compound.
func (r ResolvedRow) called() string {
	switch {
	case r.Name == "":
		return fmt.Sprintf("unknown at %.2f min", r.ApexMin)
	case !r.Confirmed:
		return r.Name + "?"
	}
	return r.Name
}

func (w *writer) resolvedTable(r Resolved, from, to, beside int) {
	heads := []column{{head: "RT, min", width: 16, number: true}, {head: "Index", width: 14, number: true}, {head: "Compound", width: 44}, {head: "Match", width: 12, number: true}}
	for _, name := range r.Samples[from:to] {
		heads = append(heads, column{head: name, width: (w.right - w.left - resolvedLeft) / float64(beside), number: true})
	}
	var rows [][]cell
	for _, row := range r.Rows {
		line := []cell{plain(strconv.FormatFloat(row.ApexMin, 'f', 2, 64)), rounded(row.Index), {text: row.called(), strong: row.Confirmed}, rounded(row.Match)}
		for k := from; k < to; k++ {
			line = append(line, r.relative(row, k))
		}
		rows = append(rows, line)
	}
	w.table(heads, rows, 5)
}

func rounded(v *float64) cell {
	if v == nil {
		return cell{text: "–", colour: ink3}
	}
	return plain(strconv.FormatFloat(*v, 'f', 0, 64))
}

// relative is the area of a compound in a sample, by the standard's or of the total.
func (r Resolved) relative(row ResolvedRow, sample int) cell {
	by := 0.0
	if r.Standard >= 0 {
		if v := r.Rows[r.Standard].Areas[sample]; v != nil {
			by = *v
		}
	} else {
		for _, other := range r.Rows {
			if v := other.Areas[sample]; v != nil {
				by += *v / 100
			}
		}
	}
	if row.Areas[sample] == nil || by == 0 {
		return cell{text: "–", colour: ink3}
	}
	return plain(batch.Significant(*row.Areas[sample]/by, 3))
}
