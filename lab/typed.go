package lab

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"yugen/core/amounts"
	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/formats"
	"yugen/formats/readings"
	"yugen/lab/change"
	"yugen/store"
)

// TypedBatch asks for a batch of typed readings: levels, responses and unknowns without any chromatogram.
type TypedBatch struct {
	Study    string `json:"study"`
	Name     string `json:"name"`
	Compound string `json:"compound"`
	Unit     string `json:"unit"` // of the levels, where the table does not say it
	Text     string `json:"text"` // the table, as it was pasted
}

// ReadTable says what a pasted table is taken for. Nothing is written.
func (l *Lab) ReadTable(text string) (readings.Table, error) {
	t, err := readings.Read(text)
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		return t, refuse("%s", unreadable)
	}
	return t, err
}

// typedCompound is the id of the one compound of a batch of typed readings.
const typedCompound = "typed"

// NewTyped makes a batch of a pasted table, or one for each day, and gives the ids in the order of the days.
func (l *Lab) NewTyped(ctx context.Context, asked TypedBatch, who string) ([]string, error) {
	table, err := l.ReadTable(asked.Text)
	if err != nil {
		return nil, err
	}
	if table.Unit != "" {
		asked.Unit = table.Unit
	}
	m, err := typedMethod(asked, table)
	if err != nil {
		return nil, err
	}
	names := []string{asked.Name}
	if len(table.Days) > 1 {
		names = nil
		for _, day := range table.Days {
			names = append(names, asked.Name+", "+day)
		}
	}
	for _, name := range names { // a batch that is there is not added to
		if taken, err := l.taken(ctx, asked.Study, name); err != nil || taken {
			if taken {
				err = refuse("there is a batch %s in %s already; give another name", name, asked.Study)
			}
			return nil, err
		}
	}
	var ids []string
	version := ""
	for day, name := range names {
		var id string
		if version == "" {
			id, err = l.NewBatch(ctx, asked.Study, name, asked.Compound, m, who)
		} else {
			id, err = l.NewBatchBy(ctx, asked.Study, name, version, false, "", who)
		}
		if err != nil {
			return ids, err
		}
		b, err := l.addTyped(ctx, id, table, day, asked.Text, who)
		if err != nil {
			return ids, err
		}
		ids, version = append(ids, id), b.Version.ID
	}
	return ids, nil
}

func (l *Lab) taken(ctx context.Context, study, name string) (taken bool, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		_, err := t.FindBatch(strings.TrimSpace(study), strings.TrimSpace(name))
		taken = err == nil
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		return err
	})
	return taken, err
}

// typedMethod is the method of typed readings: one compound, amounts as they are read.
func typedMethod(asked TypedBatch, table readings.Table) (batch.Method, error) {
	m := batch.NewMethod()
	if strings.TrimSpace(asked.Compound) == "" {
		return m, refuse("what was measured needs a name")
	}
	if asked.Unit == "" {
		return m, refuse("the table does not say in which unit its levels are; give it, for example mg/L")
	}
	u, err := amounts.ParseUnit(asked.Unit)
	if err != nil {
		return m, refuse("%s", err)
	}
	m.Curves.Unit = u.Symbol
	m.Amounts.AsMeasured = true
	for _, r := range table.Rows {
		if r.Level != nil && *r.Level == 0 { // which has no weight by x
			m.Curves.Weight = curves.Unweighted
		}
	}
	m.Compounds = []compounds.Compound{{ID: typedCompound, Name: strings.TrimSpace(asked.Compound), ExpectedMin: 1, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.1}, Rule: compounds.Nearest, Role: compounds.Target}}
	return m, nil
}

// addTyped adds the readings of one day. Each stands on a line of text of its own, as others stand on a file; the whole table is kept beside.
func (l *Lab) addTyped(ctx context.Context, batchID string, table readings.Table, day int, text, who string) (store.Batch, error) {
	return l.make(ctx, batchID, 0, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		tableHash, err := t.PutBlob([]byte(text))
		if err != nil {
			return change.Change{}, err
		}
		c := change.Change{Action: "import", Subject: "a pasted table", Why: "the table is kept as " + tableHash[:12]}
		for _, r := range table.Rows {
			for k, v := range r.Responses {
				if v.Day != day {
					continue
				}
				in := store.Injection{FileName: fmt.Sprintf("typed, line %d", r.Line), Edits: []peaks.Edit{}}
				in.Entry = batch.Entry{Name: r.Name, Role: batch.Sample, Dilution: 1, Factor: 1, Typed: map[string]float64{typedCompound: v.Value}}
				if r.Level != nil {
					in.Role, in.Level = batch.Standard, r.Level
				}
				in.ID = store.NewID()
				line := fmt.Sprintf("line %d, response %d of table %s: %s, %g\n", r.Line, k+1, tableHash, r.Name, v.Value)
				if in.RawHash, err = t.PutBlob([]byte(line)); err != nil {
					return c, err
				}
				c.Before.Gone, c.After.Back = append(c.Before.Gone, in.ID), append(c.After.Back, in)
			}
		}
		if len(c.After.Back) == 0 {
			return c, refuse("%s has no reading in the table", b.Name)
		}
		return c, nil
	})
}
