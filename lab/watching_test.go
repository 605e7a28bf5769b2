package lab

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yugen/bench"
	"yugen/store"
)

// What appears in a watched folder is taken into its batch once, and only when it stands still; a restart takes nothing again, a file that is written further is no file yet.
func TestAWatchedFolder(t *testing.T) {
	l, _ := demo(t)
	folder := t.TempDir()
	study := must[bench.Study](t)(bench.TeaAssay(3))
	put := func(name string, data []byte) {
		t.Helper()
		if err := os.WriteFile(filepath.Join(folder, name), data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	rules := []WatchRule{{Folder: folder, Pattern: "*.cdf", Study: "Green tea assay", Batch: "Of {day}", Method: "Tea catechins 278"}}
	start := func() *watcher {
		w := l.watcher(rules)
		if err := w.remember(); err != nil {
			t.Fatal(err)
		}
		return w
	}
	now := time.Date(2026, time.May, 4, 9, 0, 0, 0, time.UTC)
	taken := func() (names []string) {
		for _, s := range must[[]store.Study](t)(l.Studies(t.Context())) {
			for _, b := range s.Batches {
				if b.Name == "Of 2026-05-04" {
					for _, in := range must[store.Batch](t)(l.Batch(t.Context(), b.ID)).Injections {
						names = append(names, in.FileName)
					}
				}
			}
		}
		return names
	}
	w := start()
	look := func(afterS int) {
		now = now.Add(time.Duration(afterS) * time.Second)
		w.look(t.Context(), now)
	}
	one := study.Files[3]
	put("note.txt", []byte("not meant"))
	put(one.Name, one.Data[:len(one.Data)/2])
	look(0)
	look(2)
	put(one.Name, one.Data)
	later := now.Add(time.Second)
	if err := os.Chtimes(filepath.Join(folder, one.Name), later, later); err != nil {
		t.Fatal(err)
	}
	look(2)
	if got := taken(); len(got) != 0 {
		t.Fatalf("%v was taken while it was written", got)
	}
	look(2)
	look(2)
	if got := taken(); len(got) != 1 || got[0] != one.Name {
		t.Fatalf("%v", got)
	}
	put(study.Files[4].Name, study.Files[4].Data)
	put("broken.cdf", []byte("CDF\x01 and nothing"))
	l.Messages = must[*Messages](t)(NewMessages("smtp://127.0.0.1:1", "a@b", "c@d"))
	w = start()
	for range 5 {
		look(2)
	}
	if got := taken(); len(got) != 2 {
		t.Errorf("%v after a restart", got)
	}
	lines := strings.Count(string(must[[]byte](t)(os.ReadFile(w.kept))), "\n")
	for range 5 {
		look(2)
	}
	if again := strings.Count(string(must[[]byte](t)(os.ReadFile(w.kept))), "\n"); again != lines || lines != 3 {
		t.Errorf("%d lines, then %d: each file is looked at once", lines, again)
	}
	if len(l.Messages.queue) != 1 {
		t.Fatalf("%d messages", len(l.Messages.queue))
	}
	if m := <-l.Messages.queue; m.subject != "Refused: broken.cdf" || !strings.Contains(m.text, "Byte ") || !strings.Contains(m.text, folder) {
		t.Errorf("%+v", m)
	}
	// A folder that is not there for a while is told once, and what has appeared in it meanwhile is taken in when it is there again.
	if err := os.Rename(folder, folder+"-away"); err != nil {
		t.Fatal(err)
	}
	for range 5 {
		look(2)
	}
	if m := <-l.Messages.queue; len(l.Messages.queue) != 0 || !strings.Contains(m.text, folder) {
		t.Errorf("%+v and %d more", m, len(l.Messages.queue))
	}
	if err := os.Rename(folder+"-away", folder); err != nil {
		t.Fatal(err)
	}
	put(study.Files[5].Name, study.Files[5].Data)
	for range 4 {
		look(2)
	}
	if got := taken(); len(got) != 3 || len(l.Messages.queue) != 0 {
		t.Errorf("%v, %d messages", got, len(l.Messages.queue))
	}
}

// Rules that cannot hold are refused with their number.
func TestRulesOfWatchedFolders(t *testing.T) {
	folder := t.TempDir()
	for text, want := range map[string]string{
		`[]`: "1 to 50", `{`: "cannot be read", `[{"folder": "` + folder + `", "study": "S", "batch": "B"}] x`: "more behind", `[{"folder": "/nowhere/at/all", "study": "S", "batch": "B"}]`: "no folder",
		`[{"folder": "` + folder + `", "study": "S"}]`: "rule 1", `[{"folder": "` + folder + `", "study": "S", "batch": "B", "pattern": "["}]`: "pattern", `[{"dir": "x"}]`: "unknown field",
	} {
		if _, err := ReadWatchRules([]byte(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", text, err)
		}
	}
	if rules, err := ReadWatchRules([]byte(`[{"folder": "` + folder + `", "study": "S", "batch": "B"}]`)); err != nil || len(rules) != 1 {
		t.Errorf("%v %v", rules, err)
	}
}
