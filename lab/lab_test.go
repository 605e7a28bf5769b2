package lab

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
	"yugen/store/storetest"
)

const who = "T. Ester"

func openLab(t *testing.T) *Lab {
	t.Helper()
	s, err := store.Open(context.Background(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return New(s)
}

// demo is a lab with the demo batch.
func demo(t *testing.T) (*Lab, string) {
	t.Helper()
	s, err := store.Open(t.Context(), loaded(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return New(s), firstBatch
}

var firstBatch string // of the demo

var loaded = storetest.Copies(func(dir string) error {
	ctx := context.Background()
	s, err := store.Open(ctx, dir)
	if err != nil {
		return err
	}
	l := New(s)
	files, err := os.MkdirTemp("", "yugen-demo") // beside the data, so that they are not copied for every test
	if err != nil {
		return err
	}
	defer os.RemoveAll(files)
	firstBatch, err = l.LoadDemo(ctx, files)
	l.Close()
	return errors.Join(err, s.Close())
})

func must[T any](t *testing.T) func(T, error) T {
	return func(v T, err error) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

// anyNotice is the key of a notice of a batch.
func anyNotice(t *testing.T, l *Lab, id string) string {
	t.Helper()
	notices := must[Processed](t)(l.Process(t.Context(), id)).Result.Notices
	if len(notices) == 0 {
		t.Fatal("there is no notice")
	}
	return notices[0].Key
}

func resultBytes(t *testing.T, l *Lab, id string) string {
	t.Helper()
	return change.JSON(must[Processed](t)(l.Process(t.Context(), id)).Result)
}

func TestLoadingTheDemoTwiceChangesNothing(t *testing.T) {
	l, id := demo(t)
	before := must[store.Batch](t)(l.Batch(t.Context(), id))
	again := must[string](t)(l.LoadDemo(t.Context(), t.TempDir()))
	after := must[store.Batch](t)(l.Batch(t.Context(), id))
	if again != id || after.Revision != before.Revision || len(after.Injections) != len(before.Injections) {
		t.Errorf("%s %d, %s %d", id, before.Revision, again, after.Revision)
	}
}

// A demo that was stopped before its run list was applied is loaded to its end the next time.
func TestAHalfLoadedDemoIsCompleted(t *testing.T) {
	l, ctx, dir := openLab(t), t.Context(), filepath.Join(t.TempDir(), "demo")
	d := bench.Demos()[0]
	study := must[bench.Study](t)(d.Make(DemoSeed))
	id := must[string](t)(l.NewBatch(ctx, study.Name, study.Batch, d.Method, study.Method, DemoAuthor))
	for _, f := range study.Files {
		must[taking.Outcome](t)(l.Import(ctx, id, f.Name, f.Data, DemoAuthor))
	}
	if first := must[string](t)(l.LoadDemo(ctx, dir)); first != id {
		t.Fatalf("%s is not the batch that was begun", first)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	if len(b.Injections) != len(study.Files) || b.Injections[20].Name != study.RunList[20].Name {
		t.Errorf("%d injections, the 21st is %q", len(b.Injections), b.Injections[20].Name)
	}
	rows := len(must[[]record.Row](t)(l.Record(ctx, id)))
	must[string](t)(l.LoadDemo(ctx, dir))
	if again := len(must[[]record.Row](t)(l.Record(ctx, id))); again != rows {
		t.Errorf("%d rows after loading once more, %d before", again, rows)
	}
}

func TestImport(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	id := must[string](t)(l.NewBatch(ctx, "Study", "Batch", "Method", batch.NewMethod(), who))
	study, err := bench.TeaAssay(3)
	if err != nil {
		t.Fatal(err)
	}
	good := study.Files[4]
	outcome := func(name string, data []byte) taking.Outcome {
		return must[taking.Outcome](t)(l.Import(ctx, id, name, data, who))
	}
	if out := outcome("../../etc/"+good.Name, good.Data); out.Status != taking.Added || out.File != good.Name {
		t.Errorf("first: %+v", out)
	}
	if out := outcome(good.Name, good.Data); out.Status != taking.Already {
		t.Errorf("the same again: %+v", out)
	}
	if out := outcome("notes.txt", []byte("Dear colleague")); out.Status != taking.Refused || !strings.Contains(out.Message, "no table of numbers") {
		t.Errorf("no chromatogram: %+v", out)
	}
	if out := outcome("cut.cdf", good.Data[:200]); out.Status != taking.Refused || !strings.Contains(out.Message, "cut off") {
		t.Errorf("cut off: %+v", out)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	if len(b.Injections) != 1 {
		t.Fatalf("%d injections", len(b.Injections))
	}
	in := b.Injections[0]
	if in.Name != "Standard 5 mg/L" || in.Role != batch.Standard || in.Level == nil || *in.Level != 5 || in.Vial != "A3" {
		t.Errorf("proposed from the file: %+v", in.Entry)
	}
	name, raw, err := rawOf(l, id, in.ID)
	if err != nil || name != good.Name || !bytes.Equal(raw, good.Data) {
		t.Errorf("the raw file changed: %s %v", name, err)
	}
}

func TestUndoAndRedoWalkThroughEverything(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	states := []string{resultBytes(t, l, id)}
	step := func(b store.Batch, err error) store.Batch {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		states = append(states, resultBytes(t, l, id))
		return b
	}
	sample := b.Injections[20]
	b = step(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{sample.ID, batch.FieldDilution, "10"}, {sample.ID, batch.FieldSample, "0.3"}}, "", who))
	m := b.Version.Method
	m.Curves.Weight = curves.PerX2
	b = step(l.SaveMethod(ctx, id, b.Revision, m, "heavier low end", who))
	standard := slices.IndexFunc(b.Injections, func(in store.Injection) bool { return in.Role == batch.Standard })
	b = step(l.SaveChoices(ctx, id, b.Revision, batch.Choices{LeftOut: map[string][]batch.LeftOut{"caf": {{InjectionID: b.Injections[standard].ID, Reason: "cap"}}}}, "a cap leaked", who))
	peak := must[Processed](t)(l.Process(ctx, id)).Result.Injections[20].Peaks[4]
	b = step(l.AddEdit(ctx, id, b.Revision, sample.ID, peaks.Edit{Kind: peaks.Remove, ApexMin: peak.ApexMin}, "not a peak", who))
	b = step(l.Reorder(ctx, id, b.Revision, sample.ID, 1, "", who))
	b = step(l.Remove(ctx, id, b.Revision, b.Injections[7].ID, "", who))
	if out := must[taking.Outcome](t)(l.Import(ctx, id, "late.csv", lateFile(), who)); out.Status != taking.Added {
		t.Fatal(out)
	}
	states = append(states, resultBytes(t, l, id))
	for i := 1; i < len(states); i++ {
		if states[i] == states[i-1] {
			t.Errorf("change %d changed nothing", i)
		}
	}
	for i := len(states) - 2; i >= 0; i-- {
		must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
		if resultBytes(t, l, id) != states[i] {
			t.Errorf("undo did not bring back state %d", i)
		}
	}
	for i := 1; i < len(states); i++ {
		must[store.Batch](t)(l.Redo(ctx, id, 0, "", who))
		if resultBytes(t, l, id) != states[i] {
			t.Errorf("redo did not bring back state %d", i)
		}
	}
	if _, err := l.Redo(ctx, id, 0, "", who); !errors.Is(err, ErrRefused) {
		t.Errorf("nothing is left to redo: %v", err)
	}
	must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	b = must[store.Batch](t)(l.Batch(ctx, id))
	must[store.Batch](t)(l.Settle(ctx, id, b.Revision, []string{anyNotice(t, l, id)}, "seen", who))
	if h := must[History](t)(l.History(ctx, id)); h.Redo != "" || !strings.HasPrefix(h.Undo, "notice") {
		t.Errorf("a new change ends redo: %+v", h)
	}
	v := must[record.Verification](t)(l.VerifyQuickly(ctx))
	if len(v.Wrong) != 0 || v.Changes < 15 {
		t.Errorf("%+v", v)
	}
}

// lateFile is a chromatogram that comes in after the others.
func lateFile() []byte {
	var b bytes.Buffer
	b.WriteString("time_min,signal\n")
	for i := range 2000 {
		d := (float64(i)/200 - 5) / 0.06
		fmt.Fprintf(&b, "%g,%g\n", float64(i)/200, 40*math.Exp(-d*d/2))
	}
	return b.Bytes()
}

func TestAChangeOfOneInjectionLeavesTheOthersAlone(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	before := must[Processed](t)(l.Process(ctx, id))
	in := before.Batch.Injections[20]
	p := before.Result.Injections[20].Peaks[4]
	edit := peaks.Edit{Kind: peaks.MoveEnd, ApexMin: p.ApexMin, ToMin: p.EndMin - 0.1}
	preview := must[Preview](t)(l.TryPeaks(ctx, id, Trial{InjectionID: in.ID, BesideID: before.Batch.Injections[5].ID, Settings: before.Batch.Version.Method.Channels[0].Peaks, Edits: &[]peaks.Edit{edit}, Whole: true}))
	if preview.Injection.Peaks[4].AreaS == p.AreaS || preview.Injection.Peaks[4].EndKind != peaks.ByHand || preview.Batch.Gone != 0 {
		t.Errorf("the preview: area %g, before %g, %+v", preview.Injection.Peaks[4].AreaS, p.AreaS, preview.Batch)
	}
	if preview.Beside == nil || change.JSON(preview.Beside.Peaks) != change.JSON(before.Result.Injections[5].Peaks) {
		t.Error("beside it is not what it was")
	}
	if resultBytes(t, l, id) != change.JSON(before.Result) {
		t.Error("a preview wrote something")
	}
	b := must[store.Batch](t)(l.AddEdit(ctx, id, before.Batch.Revision, in.ID, edit, "valley", who))
	after := must[Processed](t)(l.Process(ctx, id))
	for i := range after.Result.Injections {
		same := change.JSON(after.Result.Injections[i].Peaks) == change.JSON(before.Result.Injections[i].Peaks)
		if same == (i == 20) {
			t.Errorf("injection %d: same peaks %v", i+1, same)
		}
	}
	if after.Result.Injections[20].Peaks[4].AreaS != preview.Injection.Peaks[4].AreaS {
		t.Error("what was kept is not what was previewed")
	}
	must[store.Batch](t)(l.TakeBack(ctx, id, b.Revision, in.ID, -1, "", who))
	if resultBytes(t, l, id) != change.JSON(before.Result) {
		t.Error("lifting all edits did not bring back what was found")
	}
}

func TestRefusalsChangeNothing(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	one, two := b.Injections[3].ID, b.Injections[4].ID
	bad := b.Version.Method
	bad.Amounts.Unit = "furlong"
	owning := func(id string, own batch.Own) batch.Method {
		m := b.Version.Method
		m.Curves.Own = maps.Clone(m.Curves.Own)
		if m.Curves.Own == nil {
			m.Curves.Own = map[string]batch.Own{}
		}
		m.Curves.Own[id] = own
		return m
	}
	stray := owning("nobody", batch.Own{})
	leaving := func(compound, injection string) batch.Choices {
		return batch.Choices{LeftOut: map[string][]batch.LeftOut{compound: {{InjectionID: injection, Reason: "why"}}}}
	}
	choose := func(c batch.Choices, why string) func() error {
		return func() error { _, err := l.SaveChoices(ctx, id, b.Revision, c, why, who); return err }
	}
	for what, do := range map[string]func() error{
		"half a change of the run list": func() error {
			_, err := l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{one, batch.FieldName, "New"}, {two, batch.FieldSample, "many"}}, "", who)
			return err
		},
		"a method that cannot be used": func() error { _, err := l.SaveMethod(ctx, id, b.Revision, bad, "why not", who); return err },
		"a curve of no compound":       func() error { _, err := l.SaveMethod(ctx, id, b.Revision, stray, "why not", who); return err },
		"a point of no injection":      choose(leaving(b.Version.Method.Compounds[0].ID, "nowhere"), "why not"),
		"a point of no compound":       choose(leaving("nobody", one), "why not"),
		"a point without a reason":     choose(leaving(b.Version.Method.Compounds[0].ID, one), " "),
		"a level of no compound":       choose(batch.Choices{Levels: map[string][]batch.LevelState{"nobody": {{Level: 1, State: batch.LevelLeftOut}}}}, "why not"),
		"its own curves as earlier":    func() error { _, err := l.UseEarlier(ctx, id, b.Revision, id, "why not", who); return err },
		"an endless reason": func() error {
			_, err := l.AddEdit(ctx, id, b.Revision, one, peaks.Edit{Kind: peaks.Remove, ApexMin: 3}, strings.Repeat("x", 501), who)
			return err
		},
		"a notice that is not there": func() error {
			_, err := l.Settle(ctx, id, b.Revision, []string{strings.Repeat("k", 5000)}, "seen", who)
			return err
		},
		"a version without a reason": func() error { _, err := l.SaveMethod(ctx, id, b.Revision, b.Version.Method, " ", who); return err },
		"a place that is not there":  func() error { _, err := l.Reorder(ctx, id, b.Revision, one, 99, "", who); return err },
		"an unknown edit": func() error {
			_, err := l.AddEdit(ctx, id, b.Revision, one, peaks.Edit{Kind: "bend"}, "", who)
			return err
		},
	} {
		if err := do(); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := l.ChangeEntries(ctx, id, b.Revision-1, []EntryChange{{one, batch.FieldName, "New"}}, "", who); !errors.Is(err, store.ErrStale) {
		t.Errorf("a stale revision: %v", err)
	}
	after := must[store.Batch](t)(l.Batch(ctx, id))
	if change.JSON(after) != change.JSON(b) {
		t.Error("a refusal changed the batch")
	}
}

func TestResultsAreServedFromTheStoreAndTheSame(t *testing.T) {
	l, id := demo(t)
	want := resultBytes(t, l, id)
	second := New(l.store) // as after a restart: nothing in memory
	if got := resultBytes(t, second, id); got != want {
		t.Error("the stored result differs from the computed one")
	}
	w := must[batch.Working](t)(second.Working(t.Context(), id, must[Processed](t)(l.Process(t.Context(), id)).Batch.Injections[20].ID, "caf"))
	if len(w.Steps) < 4 || w.Value == nil {
		t.Errorf("working from a stored result: %+v", w)
	}
}

func TestWatchersHearOfChanges(t *testing.T) {
	l, id := demo(t)
	events, stop := l.Watch()
	defer stop()
	b := must[store.Batch](t)(l.Batch(t.Context(), id))
	b = must[store.Batch](t)(l.Settle(t.Context(), id, b.Revision, []string{anyNotice(t, l, id)}, "because", who))
	for e := range events {
		if e.Job != nil { // on a slow machine computing is told of, too
			continue
		}
		if e.BatchID != id || e.Revision != b.Revision {
			t.Errorf("%+v", e)
		}
		break
	}
}

func TestSilhouettesAreFlatWhereTheMethodLeavesOut(t *testing.T) {
	l, id := demo(t)
	list := must[[]Silhouette](t)(l.Silhouettes(t.Context(), id, 90))
	for _, s := range list {
		if slices.Max(s.Heights[:10]) != 0 || slices.Max(s.Heights[78:]) != 0 {
			t.Fatalf("the solvent front shows: %v", s.Heights[:10])
		}
	}
	if slices.Max(list[12].Heights) < 100 {
		t.Error("the top standard has no ridge")
	}
}

// A report names who changed what in its batch, the newest of its inputs with its place in the record, and the laboratory that the installation names.
// who2 is who made the oldest change.
// While others change a batch without a pause, every kept report names the inputs that it was drawn from.
// Requests for one result that is not kept yet share its computation.
func TestRequestsForOneResultShareIt(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	must[store.Batch](t)(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{b.Injections[20].ID, batch.FieldDilution, "3"}}, "", who))
	var group sync.WaitGroup
	results := make([]Processed, 6)
	for k := range results {
		group.Go(func() { results[k] = must[Processed](t)(l.Process(ctx, id)) })
	}
	group.Wait()
	for _, r := range results[1:] {
		if &r.Result.Injections[0] != &results[0].Result.Injections[0] {
			t.Error("a result was computed more than once")
		}
	}
}

// pdfText is what a PDF says, read by another program.
// Undo reaches back however long the record is, and looking at what it would do reads only what is new.
func TestUndoReachesBackOverALongRecord(t *testing.T) {
	dir, id := workedFolder(t)
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	defer s.Close()
	l, ctx := New(s), t.Context()
	first := must[History](t)(l.History(ctx, id))
	if err := s.Write(ctx, func(tx *store.Tx) error {
		for k := range 5200 { // rows that cannot be undone
			if _, err := tx.Record(store.Change{Who: who, BatchID: id, Action: "seen", Subject: fmt.Sprint(k)}); err != nil {
				return err
			}
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	for _, other := range []*Lab{l, New(s)} {
		if h := must[History](t)(other.History(ctx, id)); h != first {
			t.Errorf("undo would be %q, was %q", h.Undo, first.Undo)
		}
	}
	must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	for _, other := range []*Lab{l, New(s)} {
		if h := must[History](t)(other.History(ctx, id)); h.Redo != first.Undo || h.Undo == first.Undo {
			t.Errorf("after undo %+v", h)
		}
	}
}

// Before a batch is reported a change may go without a reason; from its first kept report on each needs one, and it stands in the record.

// Taking an edit back says in the record which one it was.
func TestTakingBackSaysWhich(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	in := b.Injections[15]
	b = must[store.Batch](t)(l.AddEdit(ctx, id, b.Revision, in.ID, peaks.Edit{Kind: peaks.Remove, ApexMin: 8.79}, "an artefact", who))
	b = must[store.Batch](t)(l.AddEdit(ctx, id, b.Revision, in.ID, peaks.Edit{Kind: peaks.MoveEnd, ApexMin: 10.9, ToMin: 11.2}, "a tail", who))
	b = must[store.Batch](t)(l.TakeBack(ctx, id, b.Revision, in.ID, 0, "", who))
	must[store.Batch](t)(l.TakeBack(ctx, id, b.Revision, in.ID, -1, "", who))
	rows := must[[]record.Row](t)(l.Record(ctx, id))
	for i, want := range []string{"take back 1 edit in " + in.Name, "take back remove at 8.79 min in " + in.Name, "move end at 10.90 min in " + in.Name} {
		if rows[i].Subject != want {
			t.Errorf("row %d says %q, want %q", i, rows[i].Subject, want)
		}
	}
}

// rawOf reads the raw file of an injection whole.
func rawOf(l *Lab, batchID, injectionID string) (name string, data []byte, err error) {
	name, came, err := l.RawOf(context.Background(), batchID, injectionID)
	if err != nil {
		return name, nil, err
	}
	data, err = io.ReadAll(came)
	return name, data, err
}
