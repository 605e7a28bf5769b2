package store

import (
	"context"
	"errors"
	"fmt"
	"reflect"
	"sync"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/core/signal"
)

// addInjections puts n injections with files of their own into a batch and gives their ids.
func addInjections(t *testing.T, s *Store, batchID string, n int) (ids []string) {
	t.Helper()
	tr, err := signal.NewUniform(0, 1, make([]float64, 10))
	if err != nil {
		t.Fatal(err)
	}
	tr.Name, tr.Unit = "UV", "mAU"
	files := make([]Kept, n)
	for i := range files {
		files[i] = keep(t, s, fmt.Appendf(nil, "file %d", i), tr)
	}
	write(t, s, func(tx *Tx) error {
		for i, kept := range files {
			if err := tx.PutKept(kept); err != nil {
				return err
			}
			id, added, err := tx.AddInjection(batchID, Injection{Entry: batch.Entry{Name: fmt.Sprintf("Leaf %d", i), Dilution: 1, Factor: 1}, RawHash: kept.Hash, FileName: "a.cdf"})
			if err != nil || !added {
				return fmt.Errorf("added %v: %w", added, err)
			}
			ids = append(ids, id)
		}
		return nil
	})
	return ids
}

func readBatch(t *testing.T, s *Store, id string) (b Batch) {
	t.Helper()
	if err := s.Read(t.Context(), func(tx *Tx) (err error) {
		b, err = tx.Batch(id)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	return b
}

func names(b Batch) (list []string) {
	for _, in := range b.Injections {
		list = append(list, in.Name)
	}
	return list
}

func TestInjectionsKeepTheirOrderAndWhatIsSet(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	ids := addInjections(t, s, id, 4)
	level := 60.0
	entry := batch.Entry{Name: "Standard", Role: batch.Standard, Level: &level, Vial: "A1", Dilution: 2, Factor: 1.5}
	edits := []peaks.Edit{{Kind: peaks.MoveEnd, ApexMin: 3, ToMin: 3.2}}
	write(t, s, func(tx *Tx) error {
		if err := tx.SetOrder([]string{ids[2], ids[0], ids[3], ids[1]}); err != nil {
			return err
		}
		if err := tx.SetEntry(ids[2], entry); err != nil {
			return err
		}
		return tx.SetEdits(ids[0], edits)
	})
	b := readBatch(t, s, id)
	if got := names(b); !reflect.DeepEqual(got, []string{"Standard", "Leaf 0", "Leaf 3", "Leaf 1"}) {
		t.Errorf("order %v", got)
	}
	first := b.Injections[0]
	entry.ID = ids[2]
	if !reflect.DeepEqual(first.Entry, entry) || first.Signal != "UV" || first.Unit != "mAU" || len(first.Edits) != 0 {
		t.Errorf("%+v", first)
	}
	if !reflect.DeepEqual(b.Injections[1].Edits, edits) {
		t.Errorf("%+v", b.Injections[1].Edits)
	}
}

func TestTheSameFileIsOneInjection(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	ids := addInjections(t, s, id, 1)
	write(t, s, func(tx *Tx) error {
		again, added, err := tx.AddInjection(id, Injection{RawHash: Hash([]byte("file 0"))})
		if added || again != ids[0] {
			t.Errorf("added %v as %s", added, again)
		}
		return err
	})
}

func TestARemovedInjectionComesBackAsItWas(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	addInjections(t, s, id, 3)
	before := readBatch(t, s, id)
	gone := before.Injections[1]
	write(t, s, func(tx *Tx) error { return tx.RemoveInjection(gone.ID) })
	if got := names(readBatch(t, s, id)); len(got) != 2 {
		t.Errorf("%v", got)
	}
	write(t, s, func(tx *Tx) error {
		if err := tx.RestoreInjection(id, gone); err != nil {
			return err
		}
		return tx.SetOrder([]string{before.Injections[0].ID, gone.ID, before.Injections[2].ID})
	})
	if after := readBatch(t, s, id); !reflect.DeepEqual(after.Injections, before.Injections) {
		t.Errorf("%+v, was %+v", after.Injections, before.Injections)
	}
}

func TestVersionsCountUpAndKeepTheirMethod(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	first := readBatch(t, s, id).Version
	m := first.Method
	m.Checks.Blank = 12.5
	var second Version
	write(t, s, func(tx *Tx) (err error) {
		if second, err = tx.SaveVersion(first.MethodID, "B", "lower blank", m); err != nil {
			return err
		}
		return tx.UseVersion(id, second.ID)
	})
	now := readBatch(t, s, id).Version
	if now.Number != 2 || now.Author != "B" || now.Reason != "lower blank" || now.Method.Checks.Blank != 12.5 || now.Hash == first.Hash {
		t.Errorf("%+v", now)
	}
	write(t, s, func(tx *Tx) error {
		old, err := tx.Version(first.ID)
		if !reflect.DeepEqual(old, first) {
			t.Errorf("the first version is %+v, was %+v", old, first)
		}
		return err
	})
}

func TestResultsAndReportsAreKept(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	area := 12.5
	r := batch.Result{Injections: []batch.Injected{{ID: "x", Integrated: batch.Integrated{Peaks: []batch.NamedPeak{}}, Readings: map[string]batch.Reading{"c": {Response: &area, Flags: []batch.Flag{batch.NotFound}}}}}}
	write(t, s, func(tx *Tx) error {
		if err := putResult(t, tx, id, "hash", r); err != nil {
			return err
		}
		got, err := tx.Result(id, "hash")
		if err != nil || *got.Injections[0].Readings["c"].Response != 12.5 || got.Injections[0].Readings["c"].Flags[0] != batch.NotFound {
			t.Errorf("%+v %v", got, err)
		}
		if _, err := tx.Result(id, "other"); !errors.Is(err, ErrNotFound) {
			t.Errorf("another result: %v", err)
		}
		hash, err := tx.PutBlob([]byte("%PDF"))
		if err != nil {
			return err
		}
		for range 2 {
			if _, err := tx.PutReport(id, Report{Layout: "batch", InputsHash: "hash", PDFHash: hash, MadeBy: "A"}); err != nil {
				return err
			}
		}
		reports, err := tx.Reports(id)
		if len(reports) != 2 || reports[0].ID <= reports[1].ID || reports[0].MadeBy != "A" || reports[0].MadeAt.IsZero() {
			t.Errorf("%+v", reports)
		}
		return err
	})
}

// A write that fails leaves nothing behind, and many writers at once lose nothing.
func TestWritesAreWholeAndOneAtATime(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	wanted := errors.New("changed my mind")
	if err := s.Write(context.Background(), func(tx *Tx) error {
		if err := tx.SetSettled(id, "half", true); err != nil {
			return err
		}
		return wanted
	}); !errors.Is(err, wanted) {
		t.Errorf("got %v", err)
	}
	const writers, each = 8, 5
	var group sync.WaitGroup
	for w := range writers {
		group.Go(func() {
			for k := range each {
				if err := s.Write(context.Background(), func(tx *Tx) error {
					if _, err := tx.Touch(id, 0); err != nil {
						return err
					}
					if err := tx.SetSettled(id, fmt.Sprintf("%d/%d", w, k), true); err != nil {
						return err
					}
					_, err := tx.Record(Change{Who: "A", BatchID: id, Action: "x"})
					return err
				}); err != nil {
					t.Error(err)
				}
			}
		})
	}
	group.Wait()
	b := readBatch(t, s, id)
	if b.Revision != 1+writers*each || len(b.Settled) != writers*each {
		t.Errorf("revision %d, %d settled", b.Revision, len(b.Settled))
	}
	write(t, s, func(tx *Tx) error {
		v, err := s.Verify(t.Context(), nil)
		rows, wrong := v.Rows, v.Wrong
		if rows != writers*each+1 || len(wrong) != 0 { // and one that tells of the key
			t.Errorf("%d rows, wrong %v", rows, wrong)
		}
		return err
	})
}

func TestWhatIsNotThereIsNotFound(t *testing.T) {
	s := open(t, t.TempDir())
	for what, f := range map[string]func(*Tx) error{
		"batch":   func(tx *Tx) error { _, err := tx.Batch("none"); return err },
		"version": func(tx *Tx) error { _, err := tx.Version("none"); return err },
		"blob":    func(tx *Tx) error { _, err := tx.Blob("none"); return err },
		"trace":   func(tx *Tx) error { _, err := tx.Trace("none", 0); return err },
		"touch":   func(tx *Tx) error { _, err := tx.Touch("none", 1); return err },
		"find":    func(tx *Tx) error { _, err := tx.FindBatch("a", "b"); return err },
		"method":  func(tx *Tx) error { _, err := tx.SaveVersion("none", "A", "r", batch.NewMethod()); return err },
	} {
		if err := s.Write(context.Background(), f); !errors.Is(err, ErrNotFound) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

func putResult(t *testing.T, tx *Tx, batchID, hash string, r batch.Result) error {
	t.Helper()
	packed, err := PackResult(r)
	if err != nil {
		return err
	}
	return tx.PutResult(batchID, hash, packed)
}

// The list of studies tells of each batch whether it was reported, and who changed it last and when.
func TestTheListTellsTheStateOfBatches(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	look := func() (b Listing) {
		write(t, s, func(tx *Tx) error {
			studies, err := tx.Studies()
			if err != nil || len(studies) != 1 || len(studies[0].Batches) != 1 {
				t.Fatalf("%+v %v", studies, err)
			}
			b = studies[0].Batches[0]
			return nil
		})
		return b
	}
	if b := look(); b.Reported || b.ChangedAt.IsZero() || b.Injections != 0 {
		t.Errorf("a new batch: %+v", b)
	}
	before := time.Now().UTC()
	write(t, s, func(tx *Tx) error {
		if _, err := tx.Record(Change{Who: "First", BatchID: id, Action: "x"}); err != nil {
			return err
		}
		if _, err := tx.Record(Change{Who: "Last", BatchID: id, Action: "x"}); err != nil {
			return err
		}
		hash, err := tx.PutBlob([]byte("a report"))
		if err != nil {
			return err
		}
		_, err = tx.PutReport(id, Report{Layout: "batch", PDFHash: hash, MadeBy: "Last"})
		return err
	})
	if b := look(); !b.Reported || b.ChangedBy != "Last" || b.ChangedAt.Before(before.Truncate(time.Second)) {
		t.Errorf("after a report: %+v", b)
	}
}
