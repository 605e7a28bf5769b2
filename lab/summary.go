package lab

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/core/summary"
	"yugen/report"
	"yugen/store"
)

// SummaryAsked says what is set against what.
type SummaryAsked struct {
	Measures []string // ids of quantities with numbers
	Columns  []string // as summary.Columns takes them: ids of compounds, "all", "largest", "group:name", "sum:id+id"; none are all compounds
	Of       string   // "measured" leaves blanks out, "all", or ids of injections between commas
	By       string   // how injections are grouped: "replicates", "level", "role", "batch", "none", or an own column's field
	Batches  []string // ids of batches of the same study that are looked at with this one
}

// Summary is measures × compounds × injections of a batch with statistics over groups.
type Summary struct {
	Measures   []quantities.Quantity `json:"measures"`
	Columns    []summary.Column      `json:"columns"`
	Injections []SummaryInjection    `json:"injections"`
	Groups     []summary.Group       `json:"groups"`
	Limits     [][]summary.Limit     `json:"limits"` // measures × columns
	summary.Cube
}

// SummaryInjection is an injection of a summary.
type SummaryInjection struct {
	ID         string            `json:"id"`
	BatchID    string            `json:"batch_id"`
	Batch      string            `json:"batch"`
	AcquiredAt *time.Time        `json:"acquired_at"`
	Own        map[string]string `json:"own,omitempty"` // values of own columns, by their ids
	Number     int               `json:"number"`
	Name       string            `json:"name"`
	Replicate  string            `json:"replicate"`
	Role       batch.Role        `json:"role"`
}

// Bounds of one summary.
const (
	maxMeasures = 24
	maxBatches  = 60
)

// summed is a batch that a summary is over, with its injections that are looked at.
type summed struct {
	of       Processed
	register quantities.Register
	batch    *quantities.Batch
	rows     []quantities.Row
}

// SummaryOf sets measures of a batch, and of others of its study where they are asked for, against compounds and injections.
func (l *Lab) SummaryOf(ctx context.Context, batchID string, asked SummaryAsked) (Summary, error) {
	if len(asked.Measures) == 0 || len(asked.Measures) > maxMeasures {
		return Summary{}, refuse("a summary has between 1 and %d measures, not %d", maxMeasures, len(asked.Measures))
	}
	if len(asked.Batches) > maxBatches {
		return Summary{}, refuse("a summary is over %d batches at most, not %d", maxBatches, len(asked.Batches))
	}
	var all []summed
	for _, id := range append([]string{batchID}, asked.Batches...) {
		if slices.ContainsFunc(all, func(s summed) bool { return s.of.Batch.ID == id }) {
			continue // however often it is asked for, its injections count once
		}
		p, err := l.Process(ctx, id)
		if err != nil {
			return Summary{}, err
		}
		if len(all) > 0 && p.Batch.StudyID != all[0].of.Batch.StudyID {
			return Summary{}, refuse("batch %s is of another study", p.Batch.Name)
		}
		list, b, err := l.register(ctx, p)
		if err != nil {
			return Summary{}, err
		}
		all = append(all, summed{p, list, b, chosenRows(p.Batch, b.Injections, asked.Of)})
	}
	return summaryOf(all, asked)
}

// summaryOf sets measures against columns and injections; measures, columns and limits are those of the first batch.
func summaryOf(all []summed, asked SummaryAsked) (Summary, error) {
	out := Summary{Measures: []quantities.Quantity{}, Injections: []SummaryInjection{}, Limits: [][]summary.Limit{}}
	first := all[0]
	if own := strings.HasPrefix(asked.By, batch.OwnPrefix); !own && !slices.Contains(summary.Groupings, asked.By) {
		return out, refuse("injections are grouped by one of %s, or by a column of the laboratory, not by %q", strings.Join(summary.Groupings[1:], ", "), asked.By)
	}
	for _, id := range asked.Measures {
		q, ok := first.register.Find(id)
		if !ok {
			return out, unknownQuantity(id)
		}
		if q.Kind == quantities.Text || q.Kind == quantities.Moment || q.Lives == quantities.OfBatch {
			return out, refuse("%s is no number of each injection, so there are no statistics of it", q.Words)
		}
		out.Measures = append(out.Measures, q)
	}
	var err error
	if out.Columns, err = summary.Columns(first.batch.Method, asked.Columns); err != nil {
		return out, refuse("%s", err)
	}
	values := make([][][]*float64, len(out.Measures))
	for m := range values {
		values[m] = make([][]*float64, len(out.Columns))
	}
	var keys []string
	for _, s := range all {
		measures, err := s.measures(out.Measures)
		if err != nil {
			return out, err
		}
		for m, columns := range summary.Values(measures, out.Columns, s.rows) {
			for c := range columns {
				values[m][c] = append(values[m][c], columns[c]...)
			}
		}
		for _, r := range s.rows {
			in := s.of.Batch.Injections[r.Number-1]
			out.Injections = append(out.Injections, SummaryInjection{ID: in.ID, BatchID: s.of.Batch.ID, Batch: s.of.Batch.Name, AcquiredAt: r.AcquiredAt, Own: in.Own, Number: r.Number, Name: in.Name, Replicate: r.Replicate, Role: in.Role})
			keys = append(keys, s.key(r, asked.By))
		}
	}
	out.Groups = summary.Groups(len(keys), func(i int) string { return keys[i] })
	for _, q := range out.Measures {
		limits := make([]summary.Limit, len(out.Columns))
		for k, c := range out.Columns {
			if c.Single() {
				limits[k] = summary.LimitOf(first.batch.Method.Checks, q.ID, c.ID)
			}
		}
		out.Limits = append(out.Limits, limits)
	}
	out.Cube = summary.Build(out.Measures, values, out.Groups)
	return out, nil
}

// measures are those of the first batch as this one has them. One that it has not has no values; one with another unit cannot stand in one column.
func (s summed) measures(asked []quantities.Quantity) ([]quantities.Quantity, error) {
	list := make([]quantities.Quantity, len(asked))
	for k, q := range asked {
		own, ok := s.register.Find(q.ID)
		switch {
		case !ok:
			list[k] = quantities.New(q, func(quantities.Row) quantities.Value { return quantities.Value{} })
		case own.Unit != q.Unit:
			return nil, refuse("%s is in %s in batch %s and in %s here: they do not stand in one table", q.Words, cmp.Or(own.Unit, "no unit"), s.of.Batch.Name, cmp.Or(q.Unit, "no unit"))
		default:
			list[k] = own
		}
	}
	return list, nil
}

// key names the group of a row.
func (s summed) key(r quantities.Row, by string) string {
	if by == "batch" {
		return s.of.Batch.Name
	}
	return summary.Key(s.batch.Method, r.Entry, by)
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
	for _, c := range s.Columns {
		out.Compounds = append(out.Compounds, c.Name)
	}
	for _, in := range s.Injections {
		name := strings.TrimSpace(fmt.Sprintf("%d %s %s", in.Number, in.Name, in.Replicate))
		if in.BatchID != s.Injections[0].BatchID {
			name = in.Batch + ", " + name
		}
		out.Injections = append(out.Injections, name)
	}
	return out
}
