package store

import (
	"fmt"
	"strings"
	"testing"
)

// What was resolved comes back under its inputs alone; what was altered is passed over, and the check says so.
func TestWhatWasResolvedComesBack(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	put := func(inputs, stretch, document string) {
		write(t, s, func(tx *Tx) error { return tx.PutResolved(id, inputs, stretch, Pack([]byte(document))) })
	}
	got := func(inputs string) string {
		var list []string
		if err := s.Read(t.Context(), func(tx *Tx) error {
			return tx.Resolved(id, inputs, func(stretch string, document []byte) error {
				list = append(list, stretch+" "+string(document))
				return nil
			})
		}); err != nil {
			t.Fatal(err)
		}
		return strings.Join(list, ", ")
	}
	put("one", "1-2", "first")
	put("one", "2-3", "second")
	put("one", "1-2", "again")
	if text := got("one"); text != "1-2 again, 2-3 second" || got("two") != "" {
		t.Errorf("%q", text)
	}
	if v, err := s.Verify(t.Context(), nil); err != nil || len(v.Wrong) > 0 {
		t.Errorf("%v, %v", v.Wrong, err)
	}
	if _, err := s.db.Exec("UPDATE resolved SET document = ? WHERE stretch = '2-3'", Pack([]byte("better"))); err != nil {
		t.Fatal(err)
	}
	if text := got("one"); text != "1-2 again" {
		t.Errorf("what was altered is taken: %q", text)
	}
	if v, err := s.Verify(t.Context(), nil); err != nil || len(v.Wrong) != 1 || !strings.Contains(v.Wrong[0], "from 2-3 min is not what was computed") {
		t.Errorf("%v, %v", v.Wrong, err)
	}
	put("two", "1-2", "other inputs")
	if text := got("one"); text != "" {
		t.Errorf("of other inputs there is still %q", text)
	}
}

// Cuts and numbers that are tried out do not fill the disk: the oldest go.
func TestResolvedStretchesAreBounded(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	write(t, s, func(tx *Tx) error {
		for k := range MostResolved + 3 {
			if err := tx.PutResolved(id, "one", fmt.Sprint(k), Pack(nil)); err != nil {
				return err
			}
		}
		return tx.PutResolved(id, "one", "5", Pack(nil)) // anew, so that it is the newest
	})
	kept := map[string]bool{}
	if err := s.Read(t.Context(), func(tx *Tx) error {
		return tx.Resolved(id, "one", func(stretch string, _ []byte) error { kept[stretch] = true; return nil })
	}); err != nil {
		t.Fatal(err)
	}
	if len(kept) != MostResolved || kept["0"] || kept["2"] || !kept["5"] || !kept[fmt.Sprint(MostResolved+2)] {
		t.Errorf("%d are kept", len(kept))
	}
}
