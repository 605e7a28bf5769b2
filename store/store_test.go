package store

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"math"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"yugen/core/batch"
	"yugen/core/signal"
)

func open(t *testing.T, dir string) *Store {
	t.Helper()
	s, err := Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func write(t *testing.T, s *Store, f func(*Tx) error) {
	t.Helper()
	if err := s.Write(context.Background(), f); err != nil {
		t.Fatal(err)
	}
}

func TestRawFilesComeBackByteForByteAndOnce(t *testing.T) {
	s := open(t, t.TempDir())
	data := bytes.Repeat([]byte("CDF\x01 signal "), 5000)
	write(t, s, func(tx *Tx) error {
		first, err := tx.PutBlob(data)
		if err != nil {
			return err
		}
		second, err := tx.PutBlob(data)
		if err != nil || first != second {
			t.Errorf("%s %s %v", first, second, err)
		}
		got, err := tx.Blob(first)
		if !bytes.Equal(got, data) {
			t.Error("the bytes changed")
		}
		var n int
		if err := tx.row("SELECT count(*) FROM blobs", nil, &n); err != nil || n != 1 {
			t.Errorf("%d copies, %v", n, err)
		}
		return err
	})
}

func TestTracesKeepEveryBit(t *testing.T) {
	s := open(t, t.TempDir())
	even, err1 := signal.NewUniform(1.5, 0.1, []float64{1, 2.5, 1e-300, -7, 3.141592653589793, 0, 1e9, 2})
	uneven, err2 := signal.New([]float64{0, 1, 2, 3.7, 4, 5, 6, 7.2}, []float64{1, 2, 3, 4, 5, 6, 7, 8})
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	long := make([]float64, 150_000) // more than one piece of it
	for i := range long {
		long[i] = math.Sin(float64(i))
	}
	many, err := signal.NewUniform(0, 0.01, long)
	if err != nil {
		t.Fatal(err)
	}
	traces := []signal.Trace{even, uneven, many}
	kept := keep(t, s, []byte("x"), traces...)
	write(t, s, func(tx *Tx) error {
		if err := tx.PutKept(kept); err != nil {
			return err
		}
		for i, want := range traces {
			got, err := tx.Trace(kept.Hash, i)
			if err != nil {
				return err
			}
			for k := range want.Values {
				if got.Values[k] != want.Values[k] || got.TimeS(k) != want.TimeS(k) {
					t.Errorf("trace %d, point %d: %g at %g", i, k, got.Values[k], got.TimeS(k))
				}
			}
		}
		return nil
	})
}

// keep keeps the content of a raw file.
func keep(t *testing.T, s *Store, data []byte, traces ...signal.Trace) Kept {
	t.Helper()
	k, err := s.Keep(t.Context(), s.Receive(t.Context(), Hash(data)), bytes.NewReader(data), int64(len(data)), traces)
	if err != nil {
		t.Fatal(err)
	}
	return k
}

// newBatch makes a study with a batch and its first method version.
func newBatch(t *testing.T, s *Store) (id string) {
	t.Helper()
	write(t, s, func(tx *Tx) error {
		study, err := tx.PutStudy("Study")
		if err != nil {
			return err
		}
		m, err := tx.NewMethod(study, "Method")
		if err != nil {
			return err
		}
		v, err := tx.SaveVersion(m, "A", "first", batch.NewMethod())
		if err != nil {
			return err
		}
		id, err = tx.NewBatch(study, "Batch", v.ID)
		return err
	})
	return id
}

func TestAStaleRevisionIsRefusedAndWritesNothing(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	write(t, s, func(tx *Tx) error { _, err := tx.Touch(id, 1); return err })
	err := s.Write(context.Background(), func(tx *Tx) error {
		if err := tx.SetSettled(id, "x", true); err != nil {
			return err
		}
		_, err := tx.Touch(id, 1)
		return err
	})
	if !errors.Is(err, ErrStale) {
		t.Errorf("got %v", err)
	}
	write(t, s, func(tx *Tx) error {
		b, err := tx.Batch(id)
		if len(b.Settled) != 0 || b.Revision != 2 {
			t.Errorf("revision %d, settled %v", b.Revision, b.Settled)
		}
		return err
	})
}

func TestHistoryCannotBeChanged(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	write(t, s, func(tx *Tx) error {
		_, err := tx.Record(Change{Who: "A", BatchID: id, Action: "x"})
		if err != nil {
			return err
		}
		_, err = tx.PutBlob([]byte("raw"))
		return err
	})
	for _, statement := range []string{"UPDATE record SET who = 'B'", "DELETE FROM record", "UPDATE method_versions SET document = '{}'", "UPDATE blobs SET data = x'00'"} {
		if _, err := s.db.Exec(statement); err == nil {
			t.Errorf("%s was done", statement)
		}
	}
}

func TestVerifyFindsWhatWasAltered(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	id := newBatch(t, s)
	write(t, s, func(tx *Tx) error {
		for _, who := range []string{"A", "B", "C"} {
			if _, err := tx.Record(Change{Who: who, BatchID: id, Action: "x", Why: "y"}); err != nil {
				return err
			}
		}
		_, err := tx.PutBlob([]byte("some raw data"))
		return err
	})
	verify := func() []string {
		var wrong []string
		write(t, s, func(tx *Tx) (err error) {
			v, err := s.Verify(t.Context(), nil)
			wrong = v.Wrong
			return err
		})
		return wrong
	}
	if wrong := verify(); len(wrong) != 0 {
		t.Fatalf("an untouched store: %v", wrong)
	}
	// Someone with the file in hand can drop the guards; the hashes still tell.
	for _, statement := range []string{"DROP TRIGGER record_no_update", "DROP TRIGGER blob_no_update", "UPDATE record SET why = 'z' WHERE seq = 2", "UPDATE blobs SET data = x'28b52ffd0400090000614a'"} {
		if _, err := s.db.Exec(statement); err != nil {
			t.Fatal(err)
		}
	}
	wrong := strings.Join(verify(), "\n")
	if !strings.Contains(wrong, "Row 2 of the record") || !strings.Contains(wrong, "Raw data") {
		t.Errorf("found: %s", wrong)
	}
}

// A database of every earlier form opens and keeps what it holds. Each schema in testdata is the form at that version.
func TestEveryEarlierFormOpens(t *testing.T) {
	files, _ := filepath.Glob("testdata/form-*.sql")
	if len(files) == 0 {
		t.Fatal("no earlier forms")
	}
	for _, file := range files {
		script, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		dir := t.TempDir()
		db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, "yugen.db"))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec(string(script)); err != nil {
			t.Fatal(file, err)
		}
		db.Close()
		rowsWanted := int64(1)
		if err := copyFile(strings.TrimSuffix(file, ".sql")+".heads", filepath.Join(dir, headsFile)); err == nil {
			rowsWanted = 2 // since there are ends, there is a row that tells of the key
		}
		s := open(t, dir)
		write(t, s, func(tx *Tx) error {
			studies, err := tx.Studies()
			if err != nil || len(studies) != 1 || len(studies[0].Batches) != 1 {
				t.Fatalf("%s: %+v %v", file, studies, err)
			}
			b, err := tx.Batch(studies[0].Batches[0].ID)
			if err != nil || len(b.Injections) != 1 || b.Version.Method.Curves.Unit != "mg/L" || b.Injections[0].Name != "Leaf" {
				t.Errorf("%s: %+v %v", file, b, err)
			}
			v, err := s.Verify(t.Context(), nil)
			rows, wrong := v.Rows, v.Wrong
			if rows != rowsWanted || len(wrong) != 0 {
				t.Errorf("%s: %d rows, wrong %v", file, rows, wrong)
			}
			return err
		})
	}
}

func TestAFolderThatCannotBeWrittenIsASentence(t *testing.T) {
	file := filepath.Join(t.TempDir(), "taken")
	if err := os.WriteFile(file, nil, 0o644); err != nil {
		t.Fatal(err)
	}
	_, err := Open(context.Background(), filepath.Join(file, "data"))
	if err == nil || !strings.Contains(err.Error(), "choose another with DATA=") {
		t.Errorf("got %v", err)
	}
}

// In form 1 points left out stood in the method's document. They are read as choices of the batch, the document stays as it was, and a batch that says
// something of its own is not asked for its method's.
func TestChoicesOfEarlyMethodsBelongToTheirBatch(t *testing.T) {
	script, err := os.ReadFile("testdata/form-1.sql")
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, "yugen.db"))
	if err != nil {
		t.Fatal(err)
	}
	early := strings.Replace(string(script), `"curves":{`, `"curves":{"own":{"caf":{"left_out":[{"injection_id":"i1","reason":"cap"}],"levels":[{"level":5,"state":"off","reason":"low"}]}},`, 1)
	if early == string(script) {
		t.Fatal("the document was not changed")
	}
	if _, err := db.Exec(early); err != nil {
		t.Fatal(err)
	}
	db.Close()
	s := open(t, dir)
	var id string
	write(t, s, func(tx *Tx) error {
		studies, err := tx.Studies()
		id = studies[0].Batches[0].ID
		return err
	})
	b := readBatch(t, s, id)
	if b.OwnChoices || b.Choices.LeftOut["caf"][0].Reason != "cap" || b.Choices.Levels["caf"][0].State != batch.LevelLeftOut {
		t.Errorf("%+v", b.Choices)
	}
	write(t, s, func(tx *Tx) error { return tx.SetChoices(id, &batch.Choices{}) })
	if b := readBatch(t, s, id); !b.OwnChoices || len(b.Choices.LeftOut) != 0 {
		t.Errorf("%+v", b.Choices)
	}
	write(t, s, func(tx *Tx) error { return tx.SetChoices(id, nil) })
	if b := readBatch(t, s, id); len(b.Choices.LeftOut) != 1 {
		t.Errorf("back at what the version says: %+v", b.Choices)
	}
}

// Many writers at once wait for one another: none is refused, however long the line is.
func TestManyWritersWaitInTurn(t *testing.T) {
	s := open(t, t.TempDir())
	id := newBatch(t, s)
	var group sync.WaitGroup
	errs := make(chan error, 25*20)
	for range 25 {
		group.Go(func() {
			for range 20 {
				errs <- s.Write(t.Context(), func(tx *Tx) error {
					if _, err := tx.Touch(id, 0); err != nil {
						return err
					}
					_, err := tx.Record(Change{Who: "A", BatchID: id, Action: "test"})
					return err
				})
			}
		})
	}
	group.Wait()
	close(errs)
	for err := range errs {
		if err != nil {
			t.Fatal(err)
		}
	}
	if b := readBatch(t, s, id); b.Revision != 501 {
		t.Errorf("revision %d after 500 changes", b.Revision)
	}
	waiting, cancel := context.WithCancel(t.Context())
	s.turn <- struct{}{} // somebody writes
	cancel()
	if err := s.Write(waiting, func(*Tx) error { return nil }); err != context.Canceled {
		t.Errorf("a writer that gave up: %v", err)
	}
	<-s.turn
}

func TestOneServerHoldsAFolder(t *testing.T) {
	dir := t.TempDir()
	release, err := Lock(dir)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Lock(dir); err == nil || !strings.Contains(err.Error(), "another Yugen serves") {
		t.Errorf("a second server: %v", err)
	}
	release()
	again, err := Lock(dir)
	if err != nil {
		t.Fatal(err)
	}
	again()
}

// Of a batch's results the newest stays, and those that a kept report was drawn from.
func TestOldResultsAreLetGo(t *testing.T) {
	s := open(t, t.TempDir())
	id, other := newBatch(t, s), ""
	write(t, s, func(tx *Tx) error {
		studies, err := tx.Studies()
		if err != nil {
			return err
		}
		b, err := tx.Batch(id)
		if err != nil {
			return err
		}
		if other, err = tx.NewBatch(studies[0].ID, "Other", b.Version.ID); err != nil {
			return err
		}
		hash, err := tx.PutBlob([]byte("a report"))
		if err != nil {
			return err
		}
		if err := putResult(t, tx, other, "theirs", batch.Result{}); err != nil {
			return err
		}
		_, err = tx.PutReport(id, Report{Layout: "batch", InputsHash: "two", PDFHash: hash})
		return err
	})
	for _, hash := range []string{"one", "two", "three", "four"} {
		write(t, s, func(tx *Tx) error { return putResult(t, tx, id, hash, batch.Result{}) })
	}
	write(t, s, func(tx *Tx) error {
		for hash, kept := range map[string]bool{"one": false, "two": true, "three": false, "four": true} {
			if _, err := tx.Result(id, hash); (err == nil) != kept {
				t.Errorf("%s: %v", hash, err)
			}
		}
		_, err := tx.Result(other, "theirs")
		return err
	})
}
