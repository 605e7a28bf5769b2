package store

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A backup takes every database file of the folder; one that was not written to since the backup before is the same file there, not another copy.
func TestABackupTakesEveryDatabaseAndLinksWhatIsTheSame(t *testing.T) {
	dir, into := t.TempDir(), t.TempDir()
	s := open(t, dir)
	newBatch(t, s)
	fill := func(name, value string) {
		t.Helper()
		db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, name))
		if err != nil {
			t.Fatal(err)
		}
		defer db.Close()
		if _, err := db.Exec("CREATE TABLE IF NOT EXISTS chunks (data TEXT); INSERT INTO chunks VALUES (?)", value); err != nil {
			t.Fatal(err)
		}
	}
	backup := func() string {
		t.Helper()
		made, err := s.Backup(t.Context(), into, nil)
		if err != nil {
			t.Fatal(err)
		}
		return made
	}
	info := func(dir, name string) os.FileInfo {
		t.Helper()
		i, err := os.Stat(filepath.Join(dir, name))
		if err != nil {
			t.Fatal(err)
		}
		return i
	}
	fill("raw-1.db", "spring")
	fill("raw-2.db", "summer")
	first := backup()
	fill("raw-2.db", "autumn")
	if err := os.MkdirAll(filepath.Join(into, "yugen-2020-01-01T000000.000Z"+unfinished), 0o755); err != nil {
		t.Fatal(err)
	}
	second := backup()
	if !os.SameFile(info(first, "raw-1.db"), info(second, "raw-1.db")) {
		t.Error("what did not change was copied again")
	}
	if os.SameFile(info(first, "raw-2.db"), info(second, "raw-2.db")) {
		t.Error("what changed is the old file")
	}
	if left, err := filepath.Glob(filepath.Join(into, "*"+unfinished)); err != nil || len(left) != 0 {
		t.Errorf("left unfinished: %v %v", left, err)
	}
	back := filepath.Join(t.TempDir(), "back")
	if err := Restore(t.Context(), second, back); err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", "file:"+filepath.Join(back, "raw-2.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var n int
	if err := db.QueryRow("SELECT count(*) FROM chunks").Scan(&n); err != nil || n != 2 {
		t.Errorf("%d chunks restored, %v", n, err)
	}
	if err := os.WriteFile(filepath.Join(second, "raw-1.db"), []byte("no database, but long enough to be looked at"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := CheckFolder(t.Context(), second); err == nil || !strings.Contains(err.Error(), "raw-1.db") {
		t.Errorf("a damaged file is not told: %v", err)
	}
}

// A full file of raw data is copied once: later backups have the very file of the one before, and restore it.
func TestABackupLinksClosedFilesOfRawData(t *testing.T) {
	dir, into := t.TempDir(), t.TempDir()
	s := open(t, dir)
	take := func(text string) {
		t.Helper()
		kept := keep(t, s, []byte(text))
		write(t, s, func(tx *Tx) error { return tx.PutKept(kept) })
	}
	take("spring")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, "raw-0001.db"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("INSERT INTO closed VALUES ('now')"); err != nil {
		t.Fatal(err)
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	s = open(t, dir)
	var made [2]string
	for i, text := range []string{"summer", "autumn"} {
		take(text)
		if made[i], err = s.Backup(t.Context(), into, nil); err != nil {
			t.Fatal(err)
		}
	}
	for name, same := range map[string]bool{"raw-0001.db": true, "raw-0002.db": false} {
		a, errA := os.Stat(filepath.Join(made[0], name))
		b, errB := os.Stat(filepath.Join(made[1], name))
		if errA != nil || errB != nil || os.SameFile(a, b) != same {
			t.Errorf("%s is the same file in both backups: %v, want %v (%v, %v)", name, !same, same, errA, errB)
		}
	}
	copied, done, err := OpenCopy(t.Context(), made[1])
	if err != nil {
		t.Fatal(err)
	}
	if names, err := filepath.Glob(filepath.Join(copied.Folder(), "raw-*.db")); err != nil || len(names) != 1 {
		t.Errorf("a check copies %v, %v", names, err)
	}
	if f, err := copied.OpenRaw(t.Context(), Hash([]byte("spring"))); err != nil || f.Size != 6 {
		t.Errorf("what lies in the closed file is not read in place: %v", err)
	}
	done()
	if left, err := filepath.Glob(filepath.Join(made[1], "raw-0001.db-*")); err != nil || len(left) != 0 {
		t.Errorf("reading leaves %v beside the backup", left)
	}
	back := filepath.Join(t.TempDir(), "back")
	if err := Restore(t.Context(), made[1], back); err != nil {
		t.Fatal(err)
	}
	restored := open(t, back)
	for _, text := range []string{"spring", "summer", "autumn"} {
		f, err := restored.OpenRaw(t.Context(), Hash([]byte(text)))
		if err != nil {
			t.Fatal(err)
		}
		got := make([]byte, f.Size)
		if _, err := f.ReadAt(got, 0); err != nil || string(got) != text {
			t.Errorf("%q comes back as %q, %v", text, got, err)
		}
	}
	damaged := filepath.Join(t.TempDir(), "damaged")
	if err := os.CopyFS(damaged, os.DirFS(made[1])); err != nil {
		t.Fatal(err)
	}
	volume, err := os.OpenFile(filepath.Join(damaged, "raw-0001.db"), os.O_WRONLY, 0)
	if err != nil {
		t.Fatal(err)
	}
	info, err := volume.Stat()
	if err != nil {
		t.Fatal(err)
	}
	for at := int64(4096 * 2); at < info.Size(); at += 512 {
		if _, err := volume.WriteAt([]byte("rot"), at); err != nil {
			t.Fatal(err)
		}
	}
	if err := volume.Close(); err != nil {
		t.Fatal(err)
	}
	if err := CheckFolder(t.Context(), damaged); err == nil {
		t.Error("rot in a closed file is not found")
	}
	if err := os.Remove(filepath.Join(made[1], "raw-0001.db")); err != nil {
		t.Fatal(err)
	}
	if err := CheckFolder(t.Context(), made[1]); err == nil || !strings.Contains(err.Error(), "not here") {
		t.Errorf("a backup that lacks a file of raw data: %v", err)
	}
}
