package lab

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/store"
)

// A backup of a store that is written to without a pause is whole, checks, and restores to the same files, results and reports.
func TestABackupRestoresToTheSame(t *testing.T) {
	dir, id := workedFolder(t)
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	l := New(s)
	b := must[store.Batch](t)(l.Batch(t.Context(), id))
	stop, stopped := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(stopped)
		for k := 0; ; k++ {
			select {
			case <-stop:
				return
			default:
				_, _ = l.ChangeEntries(t.Context(), id, 0, []EntryChange{{b.Injections[1].ID, batch.FieldVial, fmt.Sprint(k)}}, "", who)
			}
		}
	}()
	into := t.TempDir()
	var backup string
	for range 3 {
		backup = must[string](t)(s.Backup(t.Context(), into, nil))
	}
	close(stop)
	<-stopped
	copied, done, err := store.OpenCopy(t.Context(), backup)
	if err != nil {
		t.Fatal(err)
	}
	then := must[store.Batch](t)(New(copied).Batch(t.Context(), id))
	want := must[Processed](t)(New(copied).Process(t.Context(), id))
	done()
	s.Close()

	to := filepath.Join(t.TempDir(), "restored")
	if err := store.Restore(t.Context(), backup, to); err != nil {
		t.Fatal(err)
	}
	if err := store.Restore(t.Context(), backup, to); err == nil || !strings.Contains(err.Error(), "nothing is written over") {
		t.Errorf("over a database: %v", err)
	}
	r := must[*store.Store](t)(store.Open(t.Context(), to))
	defer r.Close()
	again := New(r)
	got := must[Processed](t)(again.Process(t.Context(), id))
	if change.JSON(got.Batch) != change.JSON(then) || got.InputsHash != want.InputsHash || change.JSON(got.Result) != change.JSON(want.Result) {
		t.Error("the restored batch is another one")
	}
	for _, in := range then.Injections {
		if _, data, err := rawOf(again, id, in.ID); err != nil || store.Hash(data) != in.RawHash {
			t.Errorf("%s: %v", in.FileName, err)
		}
	}
	if v := must[record.Verification](t)(again.Verify(t.Context(), nil)); len(v.Wrong) != 0 {
		t.Errorf("%v", v.Wrong)
	}
}

// A backup that was altered is not restored, and a folder that can only be read is checked all the same.
func TestBackupsAreChecked(t *testing.T) {
	dir, _ := workedFolder(t)
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	backup := must[string](t)(s.Backup(t.Context(), t.TempDir(), nil))
	s.Close()
	altered := copyFolder(t, backup)
	file := filepath.Join(altered, "record.heads")
	heads := must[[]byte](t)(os.ReadFile(file))
	if err := os.WriteFile(file, append(heads, "99 abc -\n"...), 0o644); err != nil {
		t.Fatal(err)
	}
	to := filepath.Join(t.TempDir(), "to")
	if err := store.Restore(t.Context(), altered, to); err == nil || !strings.Contains(err.Error(), "its end was cut off") {
		t.Errorf("%v", err)
	}
	if _, err := os.Stat(filepath.Join(to, "yugen.db")); !errors.Is(err, os.ErrNotExist) {
		t.Error("an altered backup was restored")
	}
	for _, name := range []string{backup, filepath.Join(backup, "yugen.db"), filepath.Join(backup, "record.heads")} {
		if err := os.Chmod(name, 0o555); err != nil {
			t.Fatal(err)
		}
	}
	defer os.Chmod(backup, 0o755)
	if err := store.CheckFolder(t.Context(), backup); err != nil {
		t.Errorf("a folder that can only be read: %v", err)
	}
	if err := store.CheckFolder(t.Context(), t.TempDir()); err == nil || !strings.Contains(err.Error(), "no Yugen database") {
		t.Errorf("an empty folder: %v", err)
	}
}
