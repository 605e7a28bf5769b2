package lab

import (
	"context"
	"encoding/csv"
	"slices"
	"strconv"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/formula"
	"yugen/report"
	"yugen/store"
)

// base are the quantities of a batch without its fields, with what their values are taken from.
func base(b store.Batch, result batch.Result) (quantities.Register, *quantities.Batch) {
	unit := ""
	for i := range result.Injections {
		if unit == "" {
			unit = result.Injections[i].Unit
		}
	}
	of := &quantities.Batch{Name: b.Name, Method: b.Version.Method, Result: result, Injections: make([]quantities.Row, len(b.Injections))}
	for i, in := range b.Injections {
		r := quantities.Row{Batch: of, Number: i + 1, Entry: in.Entry, File: in.FileName, AcquiredAt: in.Header.AcquiredAt, Replicate: b.Replicates[i], Injected: &result.Injections[i]}
		for k := range result.Samples {
			if result.Samples[k].Name == in.Name && len(result.Samples[k].InjectionIDs) > 0 {
				r.Sample = &result.Samples[k]
			}
		}
		of.Injections[i] = r
	}
	return quantities.For(of.Method, b.OwnColumns, unit), of
}

// register are the quantities of a batch, its fields among them, with what their values are taken from.
func (l *Lab) register(ctx context.Context, p Processed) (quantities.Register, *quantities.Batch, error) {
	set, of, err := l.compiled(ctx, p.Batch, p.Result, p.Batch.Version.Method.Fields)
	return set.Register, of, err
}

// compiled are fields over a batch. What was recorded of the runs is read only where a formula asks for it.
func (l *Lab) compiled(ctx context.Context, b store.Batch, result batch.Result, fields []batch.LabField) (formula.Set, *quantities.Batch, error) {
	list, of := base(b, result)
	var names []string
	for _, c := range of.Method.Compounds {
		names = append(names, c.Name)
	}
	set := formula.Compile(fields, list, names)
	asked := slices.ContainsFunc(set.Compiled, func(c *formula.Compiled) bool { return c != nil && c.Traces })
	for i, in := range b.Injections {
		if !asked || in.Typed != nil {
			continue
		}
		var err error
		if of.Injections[i].Recorded, err = l.recordedOf(ctx, in); err != nil {
			return set, of, err
		}
	}
	return set, of, nil
}

// maxRecorded is of how many injections it is held what was recorded of them.
const maxRecorded = 5000

// recordedOf is what was recorded of the run of an injection, as far as formulas ask for it.
func (l *Lab) recordedOf(ctx context.Context, in store.Injection) ([]quantities.Recorded, error) {
	key := strings.Join(in.Hashes(), " ")
	l.runs.mu.Lock()
	held, have := l.runs.held[key]
	l.runs.mu.Unlock()
	if have {
		return held, nil
	}
	traces, err := l.conditionsOf(ctx, in)
	if err != nil {
		return nil, err
	}
	list := report.Recorded(traces)
	l.runs.mu.Lock()
	if l.runs.held == nil || len(l.runs.held) >= maxRecorded {
		l.runs.held = map[string][]quantities.Recorded{}
	}
	l.runs.held[key] = list
	l.runs.mu.Unlock()
	return list, nil
}

// Quantities are those that a batch can show.
func (l *Lab) Quantities(ctx context.Context, batchID string) ([]quantities.Quantity, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list, _, err := l.register(ctx, p)
	return list, err
}

// Matrix is one quantity over the compounds and injections of a batch.
type Matrix struct {
	Quantity quantities.Quantity `json:"quantity"`
	// Compounds are the ids of the columns; a quantity of injections has one column without an id.
	Compounds []string    `json:"compounds"`
	Rows      []MatrixRow `json:"rows"`
}

// MatrixRow is one injection of a matrix.
type MatrixRow struct {
	InjectionID string       `json:"injection_id"`
	Cells       []MatrixCell `json:"cells"`
}

// MatrixCell is a value with how it is shown.
type MatrixCell struct {
	quantities.Value
	Shown string `json:"shown"`
}

// MatrixOf gives one quantity over a batch.
func (l *Lab) MatrixOf(ctx context.Context, batchID, id string) (Matrix, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return Matrix{}, err
	}
	list, b, err := l.register(ctx, p)
	if err != nil {
		return Matrix{}, err
	}
	rows := b.Injections
	q, ok := list.Find(id)
	if !ok {
		return Matrix{}, unknownQuantity(id)
	}
	out := Matrix{Quantity: q, Compounds: []string{}, Rows: []MatrixRow{}}
	byCompound := q.Lives == quantities.OfCompound || q.Lives == quantities.OfPeak || q.Lives == quantities.OfSample
	if byCompound {
		for _, c := range b.Method.Compounds {
			out.Compounds = append(out.Compounds, c.ID)
		}
	} else {
		out.Compounds = append(out.Compounds, "")
	}
	for _, r := range rows {
		row := MatrixRow{InjectionID: p.Batch.Injections[r.Number-1].ID, Cells: []MatrixCell{}}
		cells := []quantities.Row{r}
		if byCompound {
			cells = b.Rows(cells)
		}
		for _, c := range cells {
			v := q.Of(c)
			row.Cells = append(row.Cells, MatrixCell{v, q.Shown(v)})
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// maxTableColumns bounds the columns of a table that is asked for.
const maxTableColumns = 200

func unknownQuantity(id string) error {
	return refuse("there is no quantity %q; GET /api/batches/…/quantities lists those of a batch", id)
}

// Table is any quantities of a batch as delimited text with full precision, one row for each injection, or where one of them lives with compounds for each
// compound in each injection.
func (l *Lab) Table(ctx context.Context, batchID string, ids []string) ([]byte, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list, b, err := l.register(ctx, p)
	if err != nil {
		return nil, err
	}
	rows := b.Injections
	if len(ids) == 0 || len(ids) > maxTableColumns {
		return nil, refuse("a table has between 1 and %d columns, not %d", maxTableColumns, len(ids))
	}
	var columns quantities.Register
	for _, id := range ids {
		q, ok := list.Find(id)
		if !ok {
			return nil, unknownQuantity(id)
		}
		columns = append(columns, q)
	}
	if len(columns.Living(quantities.OfCompound, quantities.OfPeak, quantities.OfSample)) > 0 {
		rows = b.Rows(rows)
	}
	var out strings.Builder
	w := csv.NewWriter(&out)
	heading := make([]string, len(columns))
	for k, q := range columns {
		heading[k] = q.Heading()
	}
	lines := [][]string{heading}
	for _, r := range rows {
		line := make([]string, len(columns))
		for k, q := range columns {
			switch v := q.Of(r); {
			case v.Number != nil:
				line[k] = strconv.FormatFloat(*v.Number, 'g', -1, 64)
			case v.At != nil:
				line[k] = v.At.Format(time.RFC3339)
			default:
				line[k] = report.Harmless(v.Text)
			}
		}
		lines = append(lines, line)
	}
	if err := w.WriteAll(lines); err != nil {
		return nil, err
	}
	return []byte(out.String()), nil
}
