package lab

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/quantities"
	"yugen/core/summary"
	"yugen/report"
	"yugen/store"
)

// SummaryAsked says what is set against what.
type SummaryAsked struct {
	Measures  []string // ids of quantities with numbers
	Compounds []string // ids; none are all
	Of        string   // "measured" leaves blanks out, "all", or ids of injections between commas
	By        string   // how injections are grouped: "replicates", "level", "role", "none", or an own column's field
}

// Summary is measures × compounds × injections of a batch with statistics over groups.
type Summary struct {
	Measures   []quantities.Quantity `json:"measures"`
	Compounds  []SummaryCompound     `json:"compounds"`
	Injections []SummaryInjection    `json:"injections"`
	Groups     []summary.Group       `json:"groups"`
	Limits     [][]summary.Limit     `json:"limits"` // measures × compounds
	summary.Cube
}

// SummaryCompound is a compound of a summary; the one without an id stands for quantities of the whole injection.
type SummaryCompound struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// SummaryInjection is an injection of a summary.
type SummaryInjection struct {
	ID        string     `json:"id"`
	Number    int        `json:"number"`
	Name      string     `json:"name"`
	Replicate string     `json:"replicate"`
	Role      batch.Role `json:"role"`
}

// maxMeasures bounds those of one summary.
const maxMeasures = 24

// SummaryOf sets measures of a batch against its compounds and injections.
func (l *Lab) SummaryOf(ctx context.Context, batchID string, asked SummaryAsked) (Summary, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return Summary{}, err
	}
	list, of, err := l.register(ctx, p)
	if err != nil {
		return Summary{}, err
	}
	return summaryOf(p, list, of, asked)
}

func summaryOf(p Processed, list quantities.Register, b *quantities.Batch, asked SummaryAsked) (Summary, error) {
	rows := b.Injections
	out := Summary{Measures: []quantities.Quantity{}, Compounds: []SummaryCompound{}, Injections: []SummaryInjection{}, Groups: []summary.Group{}, Limits: [][]summary.Limit{}}
	if len(asked.Measures) == 0 || len(asked.Measures) > maxMeasures {
		return out, refuse("a summary has between 1 and %d measures, not %d", maxMeasures, len(asked.Measures))
	}
	for _, id := range asked.Measures {
		q, ok := list.Find(id)
		if !ok {
			return out, fmt.Errorf("quantity %q: %w", id, store.ErrNotFound)
		}
		if q.Kind == quantities.Text || q.Kind == quantities.Moment || q.Lives == quantities.OfBatch {
			return out, refuse("%s is no number of each injection, so there are no statistics of it", q.Words)
		}
		out.Measures = append(out.Measures, q)
	}
	chosen := chosenRows(p.Batch, rows, asked.Of)
	for _, r := range chosen {
		in := p.Batch.Injections[r.Number-1]
		out.Injections = append(out.Injections, SummaryInjection{in.ID, r.Number, in.Name, r.Replicate, in.Role})
	}
	cells := [][]quantities.Row{}
	for _, c := range compoundsOf(b.Method, asked.Compounds) {
		out.Compounds = append(out.Compounds, SummaryCompound{c.ID, c.Name})
		own := make([]quantities.Row, len(chosen))
		for i, r := range chosen {
			own[i] = r.Of(c)
		}
		cells = append(cells, own)
	}
	out.Groups = summary.Groups(len(chosen), func(i int) string { return summary.Key(b.Method, chosen[i].Entry, asked.By) })
	for _, q := range out.Measures {
		limits := make([]summary.Limit, len(out.Compounds))
		for k, c := range out.Compounds {
			limits[k] = summary.LimitOf(b.Method.Checks, q.ID, c.ID)
		}
		out.Limits = append(out.Limits, limits)
	}
	out.Cube = summary.Build(out.Measures, cells, out.Groups)
	return out, nil
}

// chosenRows are the injections that a summary is over.
func chosenRows(b store.Batch, rows []quantities.Row, of string) []quantities.Row {
	ids := strings.Split(of, ",")
	var list []quantities.Row
	for _, r := range rows {
		switch {
		case of == "all",
			(of == "" || of == "measured") && r.Entry.Role != batch.Blank && r.Entry.Role != batch.NoRole,
			slices.Contains(ids, b.Injections[r.Number-1].ID):
			list = append(list, r)
		}
	}
	return list
}

// compoundsOf are those of a method that are asked for, in its order; none asked are all.
func compoundsOf(m batch.Method, ids []string) []*compounds.Compound {
	var list []*compounds.Compound
	for k := range m.Compounds {
		if c := &m.Compounds[k]; len(ids) == 0 || slices.Contains(ids, c.ID) {
			list = append(list, c)
		}
	}
	return list
}

// SummaryFile is a summary as delimited text or as a workbook whose statistics are live formulas, one table for each measure or for each compound.
func (l *Lab) SummaryFile(ctx context.Context, batchID string, asked SummaryAsked, each string, statistics []string, as string) ([]byte, error) {
	s, err := l.SummaryOf(ctx, batchID, asked)
	if err != nil {
		return nil, err
	}
	tables, err := report.SummaryTables(reportedSummary(s), each, statistics)
	if err != nil {
		return nil, refuse("%s", err)
	}
	if as == "xlsx" {
		return report.SummaryXLSX(tables)
	}
	return report.SummaryCSV(tables)
}

// reportedSummary is a summary as files are written from it.
func reportedSummary(s Summary) report.Summary {
	out := report.Summary{Groups: s.Groups, Cube: s.Cube}
	for _, q := range s.Measures {
		words := q.Words
		if q.Unit != "" {
			words += ", " + q.Unit
		}
		out.Measures = append(out.Measures, words)
	}
	for _, c := range s.Compounds {
		out.Compounds = append(out.Compounds, c.Name)
	}
	for _, in := range s.Injections {
		out.Injections = append(out.Injections, strings.TrimSpace(fmt.Sprintf("%d %s %s", in.Number, in.Name, in.Replicate)))
	}
	return out
}
