package store

import (
	"errors"
	"testing"
)

// Documents stand by kind and name in one study; saved again they replace, and say what was before; empty they go.
func TestDocumentsOfAStudy(t *testing.T) {
	s := open(t, t.TempDir())
	batchID := newBatch(t, s)
	ctx := t.Context()
	put := func(kind, name, text string) (before string, err error) {
		err = s.Write(ctx, func(x *Tx) error {
			before, err = x.PutDocument(batchID, Document{Kind: kind, Name: name, Author: "T. Ester", Text: text})
			return err
		})
		return before, err
	}
	for _, step := range []struct{ kind, name, text, before string }{{FieldSet, "Teas", "1", ""}, {Ladder, "Teas", "2", ""}, {FieldSet, "Teas", "3", "1"}, {FieldSet, "Äpfel", "4", ""}} {
		if before, err := put(step.kind, step.name, step.text); err != nil || before != step.before {
			t.Errorf("%+v: before it was %q, %v", step, before, err)
		}
	}
	var list []Document
	read := func() {
		if err := s.Read(ctx, func(x *Tx) (err error) { list, err = x.Documents(batchID, FieldSet); return err }); err != nil {
			t.Fatal(err)
		}
	}
	if read(); len(list) != 2 || list[0].Text != "3" || list[0].Author != "T. Ester" || list[1].Name != "Äpfel" || list[0].SavedAt.IsZero() {
		t.Errorf("%+v", list)
	}
	if _, err := put(FieldSet, "nobody", ""); !errors.Is(err, ErrNotFound) {
		t.Errorf("what is not there was taken away: %v", err)
	}
	if before, err := put(FieldSet, "Teas", ""); err != nil || before != "3" {
		t.Errorf("taken away: %q, %v", before, err)
	}
	if read(); len(list) != 1 {
		t.Errorf("%+v", list)
	}
}
