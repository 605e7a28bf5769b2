package lab

import (
	"context"
	"encoding/csv"
	"fmt"
	"strconv"
	"strings"
	"time"

	"yugen/core/quantities"
	"yugen/report"
	"yugen/store"
)

// register are the quantities of a batch, with what their values are taken from.
func register(p Processed) (quantities.Register, *quantities.Batch, []quantities.Row) {
	unit := ""
	for i := range p.Result.Injections {
		if unit == "" {
			unit = p.Result.Injections[i].Unit
		}
	}
	b := &quantities.Batch{Name: p.Batch.Name, Method: p.Batch.Version.Method, Result: p.Result}
	rows := make([]quantities.Row, len(p.Batch.Injections))
	for i, in := range p.Batch.Injections {
		rows[i] = quantities.Row{Batch: b, Number: i + 1, Entry: in.Entry, File: in.FileName, AcquiredAt: in.Header.AcquiredAt, Replicate: p.Batch.Replicates[i], Injected: &p.Result.Injections[i]}
		for k := range p.Result.Samples {
			if p.Result.Samples[k].Name == in.Name && len(p.Result.Samples[k].InjectionIDs) > 0 {
				rows[i].Sample = &p.Result.Samples[k]
			}
		}
	}
	return quantities.For(b.Method, p.Batch.OwnColumns, unit), b, rows
}

// Quantities are those that a batch can show.
func (l *Lab) Quantities(ctx context.Context, batchID string) ([]quantities.Quantity, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list, _, _ := register(p)
	return list, nil
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
	list, b, rows := register(p)
	q, ok := list.Find(id)
	if !ok {
		return Matrix{}, fmt.Errorf("quantity %q: %w", id, store.ErrNotFound)
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

// Table is any quantities of a batch as delimited text with full precision, one row for each injection, or where one of them lives with compounds for each
// compound in each injection.
func (l *Lab) Table(ctx context.Context, batchID string, ids []string) ([]byte, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list, b, rows := register(p)
	if len(ids) == 0 || len(ids) > maxTableColumns {
		return nil, refuse("a table has between 1 and %d columns, not %d", maxTableColumns, len(ids))
	}
	var columns quantities.Register
	for _, id := range ids {
		q, ok := list.Find(id)
		if !ok {
			return nil, fmt.Errorf("quantity %q: %w", id, store.ErrNotFound)
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
