package lab

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/lab/change"
	"yugen/store"
)

// Bounds of what a study keeps by name.
const (
	maxDocumentName = 80
	maxDocuments    = 500 // of a kind
)

// KeptFields is a set of fields that a study keeps by name, for any method.
type KeptFields struct {
	Name    string           `json:"name"`
	SavedBy string           `json:"saved_by"`
	SavedAt time.Time        `json:"saved_at"`
	Fields  []batch.LabField `json:"fields"`
}

// documents reads those of a kind, each into what it holds.
func documents[T any](ctx context.Context, l *Lab, batchID, kind string) (list []store.Document, hold []T, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		if _, err := t.Batch(batchID); err != nil {
			return err
		}
		list, err = t.Documents(batchID, kind)
		return err
	})
	if err != nil {
		return nil, nil, err
	}
	hold = make([]T, len(list))
	for k, d := range list {
		if err := json.Unmarshal([]byte(d.Text), &hold[k]); err != nil {
			return nil, nil, fmt.Errorf("%s %q cannot be read: %w", kind, d.Name, err)
		}
	}
	return list, hold, nil
}

// putDocument saves a document, which the record tells with what it was before. Unless it is to stand instead, a name that is there already is refused.
func (l *Lab) putDocument(ctx context.Context, batchID string, d store.Document, instead bool, what string) error {
	d.Name = strings.TrimSpace(d.Name)
	if d.Name == "" || len([]rune(d.Name)) > maxDocumentName {
		return refuseAt("/name", "a name has between 1 and %d letters", maxDocumentName)
	}
	return l.store.Write(ctx, func(t *store.Tx) error {
		list, err := t.Documents(batchID, d.Kind)
		if err != nil {
			return err
		}
		for _, other := range list {
			if other.Name == d.Name && !instead {
				return refuseAt("/name", "the study has %s called %s already", what, d.Name)
			}
		}
		if len(list) >= maxDocuments {
			return refuse("a study keeps at most %d of these; take one away first", maxDocuments)
		}
		before, err := t.PutDocument(batchID, d)
		if err != nil {
			return err
		}
		c := store.Change{Who: d.Author, BatchID: batchID, Action: store.DocumentAction, Subject: what + " " + d.Name, Before: held(before), After: held(d.Text)}
		_, err = t.Record(c)
		return err
	})
}

// changeDocument changes a document of a study as it stands at that moment, so that two people at once lose nothing; the record tells what it was before.
func changeDocument[T any](ctx context.Context, l *Lab, batchID string, d store.Document, what string, now *T, f func(*T) error) error {
	return l.store.Write(ctx, func(t *store.Tx) error {
		list, err := t.Documents(batchID, d.Kind)
		if err != nil {
			return err
		}
		for _, other := range list {
			if other.Name != d.Name {
				continue
			}
			if err := json.Unmarshal([]byte(other.Text), now); err != nil {
				return err
			}
		}
		if err := f(now); err != nil {
			return err
		}
		d.Text = change.JSON(*now)
		before, err := t.PutDocument(batchID, d)
		if err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: d.Author, BatchID: batchID, Action: store.DocumentAction, Subject: what, Before: held(before), After: held(d.Text)})
		return err
	})
}

// held is a document in the record; one that is not there is none.
func held(text string) string {
	if text == "" {
		return "{}"
	}
	return change.JSON(map[string]json.RawMessage{"document": json.RawMessage(text)})
}

// FieldSets are those that the study of a batch keeps.
func (l *Lab) FieldSets(ctx context.Context, batchID string) ([]KeptFields, error) {
	list, fields, err := documents[[]batch.LabField](ctx, l, batchID, store.FieldSet)
	out := []KeptFields{}
	for k, d := range list {
		out = append(out, KeptFields{d.Name, d.Author, d.SavedAt, fields[k]})
	}
	return out, err
}

// KeepFieldSet keeps fields by name in the study of a batch. They need not be understood here: another method may know what they name.
func (l *Lab) KeepFieldSet(ctx context.Context, batchID, name string, fields []batch.LabField, instead bool, who string) ([]KeptFields, error) {
	if err := batch.ValidFields(fields); err != nil {
		return nil, refuseAt("/fields", "%s", err)
	}
	if len(fields) == 0 {
		return nil, refuseAt("/fields", "there is no field to keep")
	}
	if err := l.putDocument(ctx, batchID, store.Document{Kind: store.FieldSet, Name: name, Author: who, Text: change.JSON(fields)}, instead, "a set of fields"); err != nil {
		return nil, err
	}
	return l.FieldSets(ctx, batchID)
}

// PutFieldSetAway takes a set of fields out of the study of a batch; methods that took it up keep their fields.
func (l *Lab) PutFieldSetAway(ctx context.Context, batchID, name, who string) ([]KeptFields, error) {
	if err := l.putDocument(ctx, batchID, store.Document{Kind: store.FieldSet, Name: name, Author: who}, true, "a set of fields"); err != nil {
		return nil, err
	}
	return l.FieldSets(ctx, batchID)
}
