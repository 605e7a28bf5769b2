package lab

import (
	"bytes"
	"crypto/ed25519"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

// workedFolder is a data folder in which some work was done: files, a run list, an edit, a method version, a choice, a settled notice, a kept report.
func workedFolder(t *testing.T) (dir, id string) {
	t.Helper()
	dir = t.TempDir()
	s, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	l, ctx := New(s), t.Context()
	m := batch.NewMethod()
	m.Amounts.AsMeasured = true
	m.Compounds = []compounds.Compound{{ID: "x", Name: "Caffeine", ExpectedMin: 5, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.3}, Rule: compounds.Nearest, Role: compounds.Target}}
	id = must[string](t)(l.NewBatch(ctx, "S", "Leaves", "Method", m, who))
	var changes []EntryChange
	var sample string
	for k, level := range []float64{1, 2, 5, 10, 0} {
		var b bytes.Buffer
		b.WriteString("time_min,signal\n")
		height := level * 10
		if level == 0 {
			height = 400 // above the range: a notice
		}
		for i := range 2000 {
			d := (float64(i)/200 - 5) / 0.06
			fmt.Fprintf(&b, "%g,%g\n", float64(i)/200, height*math.Exp(-d*d/2))
		}
		out := must[taking.Outcome](t)(l.Import(ctx, id, fmt.Sprintf("f%d.csv", k), b.Bytes(), who))
		if level == 0 {
			sample = out.InjectionID
			changes = append(changes, EntryChange{out.InjectionID, batch.FieldRole, "sample"})
			continue
		}
		changes = append(changes, EntryChange{out.InjectionID, batch.FieldRole, "standard"}, EntryChange{out.InjectionID, batch.FieldLevel, fmt.Sprint(level)})
	}
	b := must[store.Batch](t)(l.ChangeEntries(ctx, id, 0, changes, "", who))
	m.Channels[0].Peaks.Threshold = 6
	b = must[store.Batch](t)(l.SaveMethod(ctx, id, b.Revision, m, "less noise", who))
	b = must[store.Batch](t)(l.AddEdit(ctx, id, b.Revision, sample, peaks.Edit{Kind: peaks.Remove, ApexMin: 5}, "to see", who))
	b = must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	b = must[store.Batch](t)(l.Reorder(ctx, id, b.Revision, sample, 2, "", who))
	b = must[store.Batch](t)(l.SaveChoices(ctx, id, b.Revision, batch.Choices{LeftOut: map[string][]batch.LeftOut{"x": {{InjectionID: b.Injections[0].ID, Reason: "cap"}}}}, "a cap leaked", who))
	must[store.Batch](t)(l.Settle(ctx, id, b.Revision, []string{anyNotice(t, l, id)}, "seen", who))
	must[store.Report](t)(l.KeepReport(ctx, id, "batch", "", who))
	for k, name := range []string{"Caffeine", "Theobromine", "Theophylline"} {
		at := float64(100 + k)
		must[LibraryTaken](t)(l.AddSpectrum(ctx, LibraryEntry{Library: "Own: leaves", Name: name, Peaks: [][2]float64{{at, 100}, {at + 94, 999}}}, who))
	}
	if err := l.PutSpectrumAway(ctx, must[[]LibraryEntry](t)(l.spectraOfLibraries(ctx, ""))[2].ID, who); err != nil {
		t.Fatal(err)
	}
	return dir, id
}

func found(t *testing.T, dir string) []string {
	t.Helper()
	s, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	return must[record.Verification](t)(New(s).Verify(t.Context(), nil)).Wrong
}

// Checking quickly finds what the record says otherwise, and leaves out only what the files decode to.
func TestCheckingQuicklyLeavesOutTheFilesAlone(t *testing.T) {
	dir, _ := workedFolder(t)
	for sql, want := range map[string]bool{
		"UPDATE traces SET step_s = step_s * 2":                         false,
		"UPDATE injections SET position = 9 - position":                 true,
		"UPDATE results SET seal = ''":                                  true,
		"DELETE FROM blobs WHERE hash = (SELECT pdf_hash FROM reports)": true,
	} {
		copied := altered(t, dir, sql)
		s, err := store.Open(t.Context(), copied)
		if err != nil {
			t.Fatal(err)
		}
		if wrong := must[record.Verification](t)(New(s).VerifyQuickly(t.Context())).Wrong; (len(wrong) > 0) != want {
			t.Errorf("%s: %v", sql, wrong)
		}
		s.Close()
	}
}

// dropGuards is what somebody does first who wants to alter things.
const dropGuards = "DROP TRIGGER record_no_update; DROP TRIGGER record_no_delete; DROP TRIGGER version_no_update; DROP TRIGGER blob_no_update; DROP TRIGGER layout_version_no_update; DROP TRIGGER layout_version_no_delete; DROP TRIGGER library_spectrum_kept; DROP TRIGGER library_spectrum_no_delete;"

// guards puts the guards back, so that their absence is not what shows.
func guards(t *testing.T, db *sql.DB) (restore func()) {
	t.Helper()
	rows, err := db.Query("SELECT sql FROM sqlite_master WHERE type = 'trigger'")
	if err != nil {
		t.Fatal(err)
	}
	var list []string
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			t.Fatal(err)
		}
		list = append(list, text)
	}
	rows.Close()
	if _, err := db.Exec(dropGuards); err != nil {
		t.Fatal(err)
	}
	return func() {
		for _, text := range list {
			if _, err := db.Exec(text); err != nil && !strings.Contains(err.Error(), "already exists") { // of those that were left
				t.Fatal(err)
			}
		}
	}
}

// altered is a copy of a data folder that somebody has been at.
func altered(t *testing.T, dir, how string) string {
	t.Helper()
	copied := copyFolder(t, dir)
	db := must[*sql.DB](t)(sql.Open("sqlite", "file:"+filepath.Join(copied, "yugen.db")))
	defer db.Close()
	defer guards(t, db)()
	if _, err := db.Exec(how); err != nil {
		t.Fatalf("%s: %v", how, err)
	}
	return copied
}

// Whatever is altered in the database by hand, the guards dropped for it and put back afterwards, checking finds it.
func TestEveryAlterationIsFound(t *testing.T) {
	dir, _ := workedFolder(t)
	if wrong := found(t, dir); len(wrong) != 0 {
		t.Fatalf("an untouched folder: %v", wrong)
	}
	for what, c := range map[string]struct{ sql, want string }{
		"the sampling of a trace":          {"UPDATE traces SET step_s = step_s * 2 WHERE raw_hash = (SELECT min(raw_hash) FROM traces)", "is not what the file holds"},
		"a trace that is gone":             {"DELETE FROM traces WHERE raw_hash = (SELECT min(raw_hash) FROM traces)", "is missing"},
		"a dilution":                       {`UPDATE injections SET entry = replace(entry, '"dilution":1', '"dilution":2') WHERE entry LIKE '%"sample"%'`, "changed past the record"},
		"a role":                           {`UPDATE injections SET entry = replace(entry, '"role":"sample"', '"role":"check"')`, "changed past the record"},
		"an edit":                          {`UPDATE injections SET edits = '[{"kind":"remove","apex_min":5}]' WHERE entry LIKE '%"sample"%'`, "The edits of"},
		"the file of an injection":         {"UPDATE injections SET raw_hash = 'x' || raw_hash WHERE position = 1; UPDATE injections SET file_name = 'other.csv' WHERE position = 3", "another file|damaged"},
		"an injection that is gone":        {"DELETE FROM injections WHERE position = 3", "or their order"},
		"the order":                        {"UPDATE injections SET position = 9 - position", "or their order"},
		"a kept result":                    {"UPDATE results SET document = (SELECT data FROM blobs LIMIT 1)", "is not what was computed"},
		"a result without its seal":        {"UPDATE results SET seal = ''", "bears no seal"},
		"a kept report":                    {"UPDATE reports SET pdf_hash = (SELECT min(hash) FROM blobs WHERE hash NOT IN (SELECT pdf_hash FROM reports))", "is not the one that was made"},
		"who made a report":                {"UPDATE reports SET made_by = 'somebody'", "is not the one that was made"},
		"a report that is gone":            {"DELETE FROM reports", "has 0 kept reports"},
		"a method document":                {`UPDATE method_versions SET document = replace(document, '"threshold":6', '"threshold":7') WHERE number = 2`, "is not what its hash says"},
		"the method that is used":          {"UPDATE batches SET method_version_id = (SELECT id FROM method_versions WHERE number = 1)", "another method version"},
		"a choice":                         {"UPDATE batches SET choices = '{}'", "decided about its curves"},
		"a settled notice":                 {"DELETE FROM settled", "settled are not"},
		"a row of the record":              {"UPDATE record SET why = 'z' WHERE seq = 4", "Row 4 of the record"},
		"a row in the middle that is gone": {"DELETE FROM record WHERE seq = 4", "a row before it is missing"},
		"the end of the record":            {"DELETE FROM record WHERE seq > (SELECT max(seq) - 2 FROM record)", "its end was cut off"},
		"the name of a batch":              {"UPDATE batches SET name = 'Other'", "was called Leaves"},
		"a batch and all of it":            {"DELETE FROM settled; DELETE FROM results; DELETE FROM reports; DELETE FROM injections; DELETE FROM batches", "of which the record tells, is missing"},
		"a batch from nowhere":             {"INSERT INTO batches SELECT id || 'x', study_id, 'Ghost', method_version_id, 1, created_at, NULL, 0 FROM batches", "does not tell of the batch Ghost"},
		"the lines of a spectrum":          {"UPDATE library_spectra SET document = replace(document, '999', '998') WHERE name = 'Caffeine'", "The spectrum Caffeine of the library Own: leaves"},
		"the name of a spectrum":           {"UPDATE library_spectra SET name = 'Another' WHERE name = 'Caffeine'", "The spectrum Another of the library Own: leaves"},
		"a spectrum that is gone":          {"DELETE FROM library_spectra WHERE name = 'Caffeine'", "The library Own: leaves has -1 spectra"},
		"a spectrum from nowhere":          {"INSERT INTO library_spectra SELECT id || 'x', library, name, kind, hash, document, added_by, added_at, '' FROM library_spectra WHERE name = 'Caffeine'", "The library Own: leaves has +1 spectra"},
		"a spectrum of another library":    {"UPDATE library_spectra SET library = 'Other' WHERE name = 'Caffeine'", "The library Other has +1 spectra"},
		"a spectrum taken out again":       {"UPDATE library_spectra SET away = ''", "-1 spectra of libraries are put away"},
		"a foreign key that signs":         {"INSERT INTO keys VALUES ('00', '2026-01-01')", "does not tell of the key"},
	} {
		wrong := strings.Join(found(t, altered(t, dir, c.sql)), "\n")
		hit := false
		for want := range strings.SplitSeq(c.want, "|") {
			hit = hit || strings.Contains(wrong, want)
		}
		if !hit {
			t.Errorf("%s: found %q, want %q", what, wrong, c.want)
		}
	}
	for what, c := range map[string]struct{ sql, want string }{
		"a guard that is gone":    {"DROP TRIGGER record_no_delete", "trigger record_no_delete is missing"},
		"a guard without teeth":   {"DROP TRIGGER record_no_update; CREATE TRIGGER record_no_update BEFORE UPDATE ON record BEGIN SELECT 1; END", "trigger record_no_update of the database is another"},
		"a trigger of one's own":  {"CREATE TRIGGER sly AFTER INSERT ON record BEGIN DELETE FROM settled; END", "trigger sly of the database is none of Yugen's"},
		"a column that was added": {"ALTER TABLE results ADD COLUMN sly TEXT", "table results of the database is another"},
	} {
		copied := copyFolder(t, dir)
		db := must[*sql.DB](t)(sql.Open("sqlite", "file:"+filepath.Join(copied, "yugen.db")))
		if _, err := db.Exec(c.sql); err != nil {
			t.Fatalf("%s: %v", what, err)
		}
		db.Close()
		if wrong := strings.Join(found(t, copied), "\n"); !strings.Contains(wrong, c.want) {
			t.Errorf("%s: found %q", what, wrong)
		}
	}
}

// Raw data lie in a database file of their own, with guards of its own; what is altered there past them is found as well.
func TestEveryAlterationOfRawDataIsFound(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	l, ctx := New(s), t.Context()
	id := must[string](t)(l.NewBatch(ctx, "S", "Leaves", "Method", batch.NewMethod(), who))
	masses := must[[]byte](t)(os.ReadFile("../formats/andi/testdata/andims_1_float_netcdf4py.cdf"))
	for name, data := range map[string][]byte{"a.cdf": masses, "b.csv": delimited("Sencha", "time_min;UV [mAU]")} {
		if out := must[taking.Outcome](t)(l.Import(ctx, id, name, data, who)); out.Status != taking.Added {
			t.Fatalf("%+v", out)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if wrong := found(t, dir); len(wrong) != 0 {
		t.Fatalf("an untouched folder: %v", wrong)
	}
	for what, c := range map[string]struct{ sql, want string }{
		"the samples of a trace":  {"UPDATE traces SET data = (SELECT data FROM traces ORDER BY hash DESC LIMIT 1)", "is not what the file holds|has lost points"},
		"samples that are gone":   {"DELETE FROM traces", "is not what the file holds"},
		"a piece of a file":       {"UPDATE pieces SET data = (SELECT data FROM scans LIMIT 1) WHERE position = 0", "Raw data"},
		"a piece that is gone":    {"DELETE FROM pieces WHERE hash = (SELECT max(hash) FROM pieces)", "is missing"},
		"a file that is gone":     {"DELETE FROM files WHERE hash = (SELECT max(hash) FROM files)", "are not here"},
		"the size of a file":      {"UPDATE files SET size = size - 1", "Raw data"},
		"spectra":                 {"UPDATE scans SET data = (SELECT data FROM slices LIMIT 1)", "Spectra of the raw file"},
		"what ions are read from": {"DELETE FROM slices WHERE low = (SELECT min(low) FROM slices)", "what ions are read from"},
		"the total of a run":      {"UPDATE runs SET outline = (SELECT data FROM slices LIMIT 1)", "cannot be unpacked"},
	} {
		copied := copyFolder(t, dir)
		db := must[*sql.DB](t)(sql.Open("sqlite", "file:"+filepath.Join(copied, "raw-0001.db")))
		if _, err := db.Exec(c.sql); err == nil {
			t.Errorf("%s: it is not guarded", what)
		}
		for _, table := range []string{"traces", "pieces", "files", "scans", "slices", "runs"} {
			if _, err := db.Exec("DROP TRIGGER " + table + "_no_update; DROP TRIGGER " + table + "_no_delete"); err != nil {
				t.Fatal(err)
			}
		}
		if _, err := db.Exec(c.sql); err != nil {
			t.Fatalf("%s: %v", what, err)
		}
		db.Close()
		wrong, hit := strings.Join(found(t, copied), "\n"), false
		for want := range strings.SplitSeq(c.want, "|") {
			hit = hit || strings.Contains(wrong, want)
		}
		if !hit {
			t.Errorf("%s: found %q, want %q", what, wrong, c.want)
		}
	}
	gone := copyFolder(t, dir)
	for _, name := range []string{"raw-0001.db", "raw-0001.db-wal", "raw-0001.db-shm"} {
		if err := os.Remove(filepath.Join(gone, name)); err != nil && !os.IsNotExist(err) {
			t.Fatal(err)
		}
	}
	if wrong := strings.Join(found(t, gone), "\n"); !strings.Contains(wrong, "are not here") {
		t.Errorf("without the file of raw data: found %q", wrong)
	}
}

// A whole record that was written anew, with hashes that fit, contradicts its signed ends; and new ends can be signed only with the key.
func TestARecordWrittenAnewContradictsItsEnds(t *testing.T) {
	dir, _ := workedFolder(t)
	other, _ := workedFolder(t) // the same steps at other times: a whole chain that fits in itself
	heads := filepath.Join(dir, "record.heads")
	forged := copyFolder(t, dir)
	for _, name := range []string{"yugen.db", "yugen.db-wal", "yugen.db-shm"} {
		data, err := os.ReadFile(filepath.Join(other, name))
		if err != nil {
			_ = os.Remove(filepath.Join(forged, name))
			continue
		}
		if err := os.WriteFile(filepath.Join(forged, name), data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if wrong := strings.Join(found(t, forged), "\n"); !strings.Contains(wrong, "is another one than was written") {
		t.Errorf("found %q", wrong)
	}
	lines := strings.Split(strings.TrimSpace(string(must[[]byte](t)(os.ReadFile(heads)))), "\n")
	public, private, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	last := strings.Fields(lines[len(lines)-1])
	text := last[0] + " " + last[1]
	for what, c := range map[string]struct{ file, want string }{
		"another key":         {strings.Join(append(lines[:len(lines)-1:len(lines)-1], text+" "+hex.EncodeToString(public)+":"+hex.EncodeToString(ed25519.Sign(private, []byte(text)))), "\n") + "\n", "not signed by a key of this record"},
		"a hash that differs": {strings.Replace(strings.Join(lines, "\n")+"\n", last[1][:8], "00000000", 1), "not signed"},
		"no file":             {"", "is missing"},
		"lines cut off":       {strings.Join(lines[:len(lines)-3], "\n") + "\n", "were never written down"},
	} {
		copied := copyFolder(t, dir)
		file := filepath.Join(copied, "record.heads")
		if err := os.WriteFile(file, []byte(c.file), 0o644); err != nil {
			t.Fatal(err)
		}
		if c.file == "" {
			_ = os.Remove(file)
		}
		if wrong := strings.Join(found(t, copied), "\n"); !strings.Contains(wrong, c.want) {
			t.Errorf("%s: found %q", what, wrong)
		}
	}
	// A line that was being written when the power went, and one that was not written any more, are no fault.
	for _, file := range []string{strings.Join(lines, "\n") + "\n12 ab", strings.Join(lines[:len(lines)-1], "\n") + "\n"} {
		copied := copyFolder(t, dir)
		if err := os.WriteFile(filepath.Join(copied, "record.heads"), []byte(file), 0o644); err != nil {
			t.Fatal(err)
		}
		if wrong := found(t, copied); len(wrong) != 0 {
			t.Errorf("after a power cut: %v", wrong)
		}
	}
}

// An altered result is not served: it is computed again.
func TestAnAlteredResultIsNotServed(t *testing.T) {
	dir, id := workedFolder(t)
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	want := change.JSON(must[Processed](t)(New(s).Process(t.Context(), id)).Result)
	s.Close()
	db := must[*sql.DB](t)(sql.Open("sqlite", "file:"+filepath.Join(dir, "yugen.db")))
	if _, err := db.Exec("UPDATE results SET document = (SELECT data FROM blobs LIMIT 1)"); err != nil {
		t.Fatal(err)
	}
	db.Close()
	s = must[*store.Store](t)(store.Open(t.Context(), dir))
	defer s.Close()
	if got := change.JSON(must[Processed](t)(New(s).Process(t.Context(), id)).Result); got != want {
		t.Error("another result")
	}
	if wrong := must[record.Verification](t)(New(s).Verify(t.Context(), nil)).Wrong; len(wrong) != 0 {
		t.Errorf("after it was computed again: %v", wrong)
	}
}

// A folder that was restored where there is another key goes on with that one, and says so.
func TestARestoredFolderGoesOnWithAnotherKey(t *testing.T) {
	dir, id := workedFolder(t)
	t.Setenv("YUGEN_KEY", filepath.Join(t.TempDir(), "other.key"))
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	defer s.Close()
	l := New(s)
	in := must[store.Batch](t)(l.Batch(t.Context(), id)).Injections[0]
	must[store.Batch](t)(l.ChangeEntries(t.Context(), id, 0, []EntryChange{{in.ID, batch.FieldVial, "Z9"}}, "", who))
	keys := 0
	if err := s.Read(t.Context(), func(tx *store.Tx) error {
		return tx.EachChange(func(c store.Change) error {
			if c.Action == "key" {
				keys++
			}
			return nil
		})
	}); err != nil || keys != 2 {
		t.Errorf("%d rows tell of keys, %v", keys, err)
	}
	if wrong := must[record.Verification](t)(l.Verify(t.Context(), nil)).Wrong; len(wrong) != 0 {
		t.Errorf("%v", wrong)
	}
}

// copyFolder copies a data folder that nobody has open.
func copyFolder(t *testing.T, dir string) string {
	t.Helper()
	to := t.TempDir()
	if err := os.CopyFS(to, os.DirFS(dir)); err != nil {
		t.Fatal(err)
	}
	return to
}
