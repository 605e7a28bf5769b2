package store

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// copyOf copies a folder's database and ends of the record while nobody works in it.
func copyOf(t *testing.T, dir string) string {
	t.Helper()
	to := t.TempDir()
	for _, name := range []string{databaseFile, headsFile} {
		if err := copyFile(filepath.Join(dir, name), filepath.Join(to, name)); err != nil && !os.IsNotExist(err) {
			t.Fatal(err)
		}
	}
	return to
}

// put makes a file what another is.
func put(t *testing.T, to, from string) {
	t.Helper()
	data, err := os.ReadFile(from)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(to, data, 0o600); err != nil {
		t.Fatal(err)
	}
}

func record(t *testing.T, s *Store, subjects ...string) {
	t.Helper()
	for _, subject := range subjects {
		write(t, s, func(tx *Tx) error {
			_, err := tx.Record(Change{Who: "M. Okada", Action: "try", Subject: subject})
			return err
		})
	}
}

// closed is a folder in which so much was recorded.
func closed(t *testing.T, subjects ...string) string {
	t.Helper()
	dir := t.TempDir()
	s := open(t, dir)
	record(t, s, subjects...)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	return dir
}

func recovered(t *testing.T, dir string) Recovered {
	t.Helper()
	r, err := Recover(t.Context(), dir, "L. Ferreira")
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// A copy that ends before its ends of the record says how many rows it lacks, lays their ends aside, and can be worked in from there; what an earlier copy lacked
// is not forgotten by the next.
func TestASecondMachineKnowsWhatItLacks(t *testing.T) {
	dir := closed(t, "one", "two")
	early := copyOf(t, dir)
	s := open(t, dir)
	record(t, s, "three", "four", "five")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	put(t, filepath.Join(early, headsFile), filepath.Join(dir, headsFile)) // which is copied more often
	all, err := os.ReadFile(filepath.Join(dir, headsFile))
	if err != nil {
		t.Fatal(err)
	}
	r := recovered(t, early)
	if r.Lost != 3 || r.LostFrom != r.EndsAt+1 || r.At.IsZero() {
		t.Errorf("%+v", r)
	}
	lost, err := os.ReadFile(filepath.Join(early, headsFile+".lost"))
	if err != nil || strings.Count(string(lost), "\n") != 3 || !strings.HasSuffix(string(all), string(lost)) {
		t.Errorf("laid aside: %v\n%s", err, lost)
	}
	s = open(t, early)
	if v, err := s.Verify(context.Background(), func(int, int) {}); err != nil || len(v.Wrong) > 0 {
		t.Errorf("what goes on is not whole: %v %v", v.Wrong, err)
	}
	var last string
	if err := s.Read(t.Context(), func(tx *Tx) error {
		return tx.row("SELECT subject FROM record ORDER BY seq DESC LIMIT 1", nil, &last)
	}); err != nil || !strings.Contains(last, "3 rows after it are not in it") {
		t.Errorf("the record says %q, %v", last, err)
	}
	record(t, s, "another three", "another four")
	later := copyOf(t, early)
	record(t, s, "another five")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{headsFile, headsFile + ".lost"} {
		put(t, filepath.Join(later, name), filepath.Join(early, name))
	}
	recovered(t, later)
	both, err := os.ReadFile(filepath.Join(later, headsFile+".lost"))
	if err != nil || !strings.HasPrefix(string(both), string(lost)) {
		t.Errorf("what the first copy lacked is forgotten: %v\n%s", err, both)
	}
}

// A copy of everything lacks nothing, be it of much, of one row or of a folder in which nothing has been done.
func TestACopyOfEverythingLacksNothing(t *testing.T) {
	for _, subjects := range [][]string{{}, {"one"}, {"one", "two", "three"}} {
		dir := copyOf(t, closed(t, subjects...))
		if r := recovered(t, dir); r.Lost != 0 || r.LostFrom != 0 {
			t.Errorf("%d rows: %+v", len(subjects), r)
		}
		if _, err := os.Stat(filepath.Join(dir, headsFile+".lost")); !os.IsNotExist(err) {
			t.Errorf("%d rows: something is laid aside: %v", len(subjects), err)
		}
		s := open(t, dir)
		if v, err := s.Verify(context.Background(), func(int, int) {}); err != nil || len(v.Wrong) > 0 {
			t.Errorf("%d rows: %v %v", len(subjects), v.Wrong, err)
		}
	}
}

// What the program that copies left in the database is taken out, and nothing else.
func TestWhatCopyingLeftIsTakenOut(t *testing.T) {
	dir := closed(t, "one")
	s := open(t, dir)
	before := tables(t, s)
	for _, name := range []string{strayTables + "seq", strayTables + `odd "name"`, "litestream_of_our_own"} {
		if _, err := s.db.ExecContext(t.Context(), `CREATE TABLE "`+strings.ReplaceAll(name, `"`, `""`)+`" (x)`); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	recovered(t, dir)
	if after := tables(t, open(t, dir)); after != before+" litestream_of_our_own" {
		t.Errorf("the tables are\n%s\nand were\n%s", after, before)
	}
}

func tables(t *testing.T, s *Store) string {
	t.Helper()
	rows, err := s.db.QueryContext(t.Context(), "SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name = 'litestream_of_our_own', name")
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	var names []string
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			t.Fatal(err)
		}
		names = append(names, name)
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
	return strings.Join(names, " ")
}

// A folder without a database, and one that somebody works in, are refused and not touched.
func TestOnlyACopyIsRecovered(t *testing.T) {
	empty := t.TempDir()
	if _, err := Recover(t.Context(), empty, "x"); err == nil || !strings.Contains(err.Error(), "no Yugen database") {
		t.Errorf("an empty folder: %v", err)
	}
	if entries, _ := os.ReadDir(empty); len(entries) != 0 {
		t.Errorf("the empty folder holds %v", entries)
	}
	dir := closed(t, "one")
	release, err := Lock(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer release()
	if _, err := Recover(t.Context(), dir, "x"); err == nil {
		t.Error("a folder that is worked in was taken")
	}
}
