package lab

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/store"
)

// setField sets a field of a line of the run list, ours or one of the laboratory's own.
func setField(e *batch.Entry, own []batch.OwnColumn, field batch.Field, value string) error {
	if !strings.HasPrefix(string(field), batch.OwnPrefix) {
		return e.Set(field, value)
	}
	k := slices.IndexFunc(own, func(c batch.OwnColumn) bool { return c.Field() == field })
	if k < 0 {
		return fmt.Errorf("%s is no column of this study", strings.TrimPrefix(string(field), batch.OwnPrefix))
	}
	return e.SetOwn(own[k], value)
}

// SetOwnColumns says which columns the study of a batch adds to its run lists. A column without an id is new, and gets one of its name. What lines hold of a
// column that goes stays with them, and is there again when it comes back.
func (l *Lab) SetOwnColumns(ctx context.Context, batchID string, list []batch.OwnColumn, who string) (store.Batch, error) {
	list = slices.Clone(list)
	for i := range list {
		if list[i].Name = strings.TrimSpace(list[i].Name); list[i].ID == "" {
			list[i].ID = compounds.IDOf(list[i].Name, func(id string) bool {
				return slices.ContainsFunc(list, func(c batch.OwnColumn) bool { return c.ID == id })
			})
		}
	}
	if err := batch.ValidateOwnColumns(list); err != nil {
		return store.Batch{}, refuseAt("/columns", "%s", err)
	}
	var after store.Batch
	err := l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		if err := t.SetOwnColumns(b.StudyID, list); err != nil {
			return err
		}
		names := make([]string, len(list))
		for i, c := range list {
			names[i] = c.Name
		}
		if _, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: "columns", Subject: strings.Join(names, ", "), Why: "of all run lists of " + b.StudyName, Before: "{}", After: "{}"}); err != nil {
			return err
		}
		if _, err := t.Touch(batchID, 0); err != nil {
			return err
		}
		after, err = t.Batch(batchID)
		return err
	})
	if err == nil {
		l.watch.tell(Event{BatchID: batchID, Revision: after.Revision})
	}
	return after, err
}

// PatternAsked asks what a pattern takes from the names of a batch.
type PatternAsked struct {
	Pattern string `json:"pattern"`
	Field   string `json:"field"`
	Of      string `json:"of"` // file or sample
}

// PatternFound is what a pattern takes from one name.
type PatternFound struct {
	InjectionID string `json:"injection_id"`
	Name        string `json:"name"` // that was read
	Value       string `json:"value"`
	Problem     string `json:"problem,omitempty"` // why the value cannot stand in the column
}

// ByPattern tells what a pattern takes from the names of files or samples. Nothing is written.
func (l *Lab) ByPattern(ctx context.Context, batchID string, asked PatternAsked) ([]PatternFound, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	p, err := batch.ParsePattern(asked.Pattern)
	if err != nil {
		return nil, refuseAt("/pattern", "%s", err)
	}
	list := []PatternFound{}
	for _, in := range b.Injections {
		name := strings.TrimSuffix(in.FileName, path.Ext(in.FileName))
		if asked.Of == "sample" {
			name = in.Name
		}
		found := PatternFound{InjectionID: in.ID, Name: name}
		if value, ok := p.In(name); ok {
			found.Value = value
			entry := in.Entry
			if err := setField(&entry, b.OwnColumns, batch.Field(asked.Field), value); err != nil {
				found.Problem = err.Error()
			}
		}
		list = append(list, found)
	}
	return list, nil
}
