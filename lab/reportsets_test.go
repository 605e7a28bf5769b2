package lab

import (
	"archive/zip"
	"bytes"
	"fmt"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/lab/record"
	"yugen/lab/review"
	"yugen/receiver"
	"yugen/report"
	"yugen/store"
)

// ended waits until a set is no longer being made.
func ended(t *testing.T, l *Lab, batchID, id string) ReportSet {
	t.Helper()
	for range 2000 {
		s := must[ReportSet](t)(l.set(t.Context(), batchID, id))
		if s.State != Making {
			return s
		}
		time.Sleep(10 * time.Millisecond)
	}
	t.Fatal("the set is never made")
	return ReportSet{}
}

func states(s ReportSet) map[string]int {
	n := map[string]int{}
	for _, f := range s.Files {
		n[f.State]++
	}
	return n
}

// One certificate for each sample, held back where something is open, into a folder and to a receiver: each whole, with a true list of checksums last; sent
// again changes nothing; made again it is the same until the batch is changed.
func TestManyReports(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	taken := must[*receiver.Receiver](t)(receiver.Open(t.TempDir()))
	service := httptest.NewServer(taken)
	defer service.Close()
	l.Folder, l.Receiver = t.TempDir(), service.URL
	asked := SetAsked{Layout: "certificate", Formats: []report.FileKind{report.AsPDF, report.AsCSV}, Names: "{batch} {subject}", Hold: []string{HeldByNotices}, To: []string{ToFolder, ToReceiver}}
	plan := must[ReportSet](t)(l.PlanSet(ctx, id, asked))
	if n := states(plan); n[Waits] == 0 || n[Held] == 0 || len(plan.Files)%3 != 0 || plan.Files[2].Format != report.AsJSON {
		t.Fatalf("the plan is %v", n)
	}
	s := ended(t, l, id, must[ReportSet](t)(l.MakeSet(ctx, id, asked, who)).ID)
	n := states(s)
	if n[Made] != states(plan)[Waits] || n[Held] != states(plan)[Held] || s.State != Made {
		t.Fatalf("made %v of %v", n, states(plan))
	}
	l.Deliver(ctx)
	s = must[ReportSet](t)(l.set(ctx, id, s.ID))
	dirs, _ := os.ReadDir(l.Folder)
	sums := must[[]byte](t)(os.ReadFile(filepath.Join(l.Folder, dirs[0].Name(), "checksums.txt")))
	if len(dirs) != 1 || strings.Count(string(sums), "\n") != n[Made] || len(taken.Documents()) != n[Made]+1 {
		t.Errorf("%d folders, %d checksums, %d taken up", len(dirs), strings.Count(string(sums), "\n"), len(taken.Documents()))
	}
	for _, f := range s.Files {
		if f.State != Made {
			continue
		}
		data := must[[]byte](t)(os.ReadFile(filepath.Join(l.Folder, dirs[0].Name(), f.Name+"."+string(f.Format))))
		if store.Hash(data) != f.Hash || !strings.Contains(string(sums), f.Hash+"  "+f.Name+"."+string(f.Format)+"\n") || len(f.Sent) != 2 || f.Sent[0].State != Sent || f.Sent[1].State != Sent {
			t.Errorf("%s.%s: %+v", f.Name, f.Format, f.Sent)
		}
	}
	l.Deliver(ctx)
	if len(taken.Documents()) != n[Made]+1 {
		t.Error("sent again, something was taken up again")
	}
	first := slices.IndexFunc(s.Files, func(f ReportFile) bool { return f.State == Made })
	if again := must[Again](t)(l.MakeAgain(ctx, id, s.ID, first)); !again.Same {
		t.Errorf("made again: %s", again.Says)
	}
	zipped := must[[]byte](t)(l.SetZip(ctx, id, s.ID))
	z := must[*zip.Reader](t)(zip.NewReader(bytes.NewReader(zipped), int64(len(zipped))))
	if len(z.File) != n[Made]+1 || z.File[len(z.File)-1].Name != "checksums.txt" || !bytes.Equal(zipped, must[[]byte](t)(l.SetZip(ctx, id, s.ID))) {
		t.Errorf("the archive holds %d files", len(z.File))
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	must[store.Batch](t)(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{b.Injections[20].ID, batch.FieldDilution, "3"}}, "", who))
	if again := must[Again](t)(l.MakeAgain(ctx, id, s.ID, first)); again.Same || !strings.Contains(again.Says, "changed since") {
		t.Errorf("made again of a changed batch: %+v", again)
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(v.Wrong) > 0 {
		t.Errorf("the check says %v", v.Wrong)
	}
}

// A receiver that cannot be reached holds nothing up: what is made waits here, says so, and is sent when it comes back.
func TestWhatCannotBeSentWaits(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	gone := httptest.NewServer(nil)
	gone.Close()
	l.Receiver = gone.URL
	s := ended(t, l, id, must[ReportSet](t)(l.MakeSet(ctx, id, SetAsked{Layout: "run-sheet", Formats: []report.FileKind{report.AsPDF}, To: []string{ToReceiver}}, who)).ID)
	for range 100 {
		if s.Files[0].Sent[0].Tries > 0 {
			break
		}
		time.Sleep(10 * time.Millisecond)
		s = must[ReportSet](t)(l.set(ctx, id, s.ID))
	}
	if d := s.Files[0].Sent[0]; d.State != Waits || !strings.Contains(d.Says, "cannot be reached; kept here") || s.Files[0].State != Made {
		t.Errorf("%+v", d)
	}
	taken := must[*receiver.Receiver](t)(receiver.Open(t.TempDir()))
	back := httptest.NewServer(taken)
	defer back.Close()
	l.Receiver = back.URL
	l.Deliver(ctx)
	s = must[ReportSet](t)(l.set(ctx, id, s.ID))
	if s.Files[0].Sent[0].State != Sent || len(taken.Documents()) != 3 {
		t.Errorf("it came back, and %+v, %d taken up", s.Files[0].Sent, len(taken.Documents()))
	}
}

// A set can be halted and gone on with; what is made stays; when results change meanwhile, what is left is held back; and a folder that is not named, a
// format that is none and a layout that is away are refused before anything is made.
func TestASetIsHaltedAndGoesOn(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	for what, asked := range map[string]SetAsked{
		"a folder": {Layout: "certificate", Formats: []report.FileKind{report.AsPDF}, To: []string{ToFolder}},
		"a format": {Layout: "certificate", Formats: []report.FileKind{"docx"}},
		"none":     {Layout: "certificate"},
		"a reason": {Layout: "certificate", Formats: []report.FileKind{report.AsPDF}, Hold: []string{"mood"}},
		"a layout": {Layout: "poem", Formats: []report.FileKind{report.AsPDF}},
		"a name":   {Layout: "certificate", Formats: []report.FileKind{report.AsPDF}, Names: "{subject"},
	} {
		if _, err := l.MakeSet(ctx, id, asked, who); err == nil {
			t.Errorf("%s that is not there was taken", what)
		}
	}
	asked := SetAsked{Layout: "one-page", All: true, Formats: []report.FileKind{report.AsPDF}}
	begun := must[ReportSet](t)(l.MakeSet(ctx, id, asked, who))
	halted := must[ReportSet](t)(l.HaltSet(ctx, id, begun.ID, true, who))
	if n := states(halted); halted.State != Stopped || n[Stopped] == 0 {
		t.Fatalf("halted: %s, %v", halted.State, n)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	must[ReportSet](t)(l.GoOn(ctx, id, begun.ID, who))
	whole := ended(t, l, id, begun.ID)
	if n := states(whole); whole.State != Made || n[Made] != len(b.Injections) {
		t.Errorf("gone on with: %s, %v of %d", whole.State, n, len(b.Injections))
	}
	begun = must[ReportSet](t)(l.MakeSet(ctx, id, asked, who))
	must[ReportSet](t)(l.HaltSet(ctx, id, begun.ID, false, who))
	must[store.Batch](t)(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{b.Injections[20].ID, batch.FieldDilution, "3"}}, "", who))
	must[ReportSet](t)(l.GoOn(ctx, id, begun.ID, who))
	changed := ended(t, l, id, begun.ID)
	held := 0
	for _, f := range changed.Files {
		if f.State == Held && f.Says == "results changed" {
			held++
		}
	}
	if n := states(changed); held == 0 || held+n[Made] != len(changed.Files) {
		t.Errorf("after a change: %v", fmt.Sprint(n))
	}
}

// A sample of which one replicate has no amount is held back, also where the first has one; it is made all the same when somebody says so, in the plan or
// later, which the record tells; and one PDF holds all that are made, page by page, and is the same when it is made again.
func TestHeldBackAndMadeAllTheSame(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	lacking := ""
	for _, in := range b.Injections {
		if in.Role == batch.Sample && in.Sample == nil {
			lacking = in.Name
		}
	}
	asked := SetAsked{Layout: "certificate", Formats: []report.FileKind{report.AsPDF}, Hold: []string{HeldByMissing}, Joined: true}
	plan := must[ReportSet](t)(l.PlanSet(ctx, id, asked))
	held := slices.IndexFunc(plan.Files, func(f ReportFile) bool { return f.State == Held })
	if held < 0 || plan.Files[held].Sample != lacking || states(plan)[Held] != 1 || !strings.Contains(plan.Files[held].Says, "no amount in injection") {
		t.Fatalf("%s lacks a weight; held back are %v: %+v", lacking, states(plan), plan.Files[max(0, held)])
	}
	if all := plan.Files[len(plan.Files)-1]; !all.Joined || all.State != Waits || all.Sample != "" {
		t.Errorf("the one of all is %+v", all)
	}
	s := ended(t, l, id, must[ReportSet](t)(l.MakeSet(ctx, id, asked, who)).ID)
	pages := func(f ReportFile) int {
		_, data, err := l.SetFile(ctx, id, s.ID, f.Position)
		if err != nil {
			t.Fatal(err)
		}
		return bytes.Count(data, []byte("/Type /Page\n"))
	}
	sum := func() (n int) {
		for _, f := range s.Files[:len(s.Files)-1] {
			if f.State == Made {
				n += pages(f)
			}
		}
		return n
	}
	all := s.Files[len(s.Files)-1]
	if got, want := pages(all), sum(); got != want || got < 10 {
		t.Errorf("the one of all has %d pages, they have %d", got, want)
	}
	if again := must[Again](t)(l.MakeAgain(ctx, id, s.ID, all.Position)); !again.Same {
		t.Errorf("made again: %s", again.Says)
	}
	before := pages(all)
	must[ReportSet](t)(l.Release(ctx, id, s.ID, held, who))
	s = ended(t, l, id, s.ID)
	if s.Files[held].State != Made || states(s)[Held] != 0 || pages(s.Files[len(s.Files)-1]) != before+pages(s.Files[held]) {
		t.Errorf("made all the same: %v", states(s))
	}
	if i := item(t, must[Review](t)(l.Review(ctx, id, alone)), review.Released); !strings.Contains(i.What, lacking) || i.After != "made" {
		t.Errorf("the review of it: %+v", i)
	}
	if rows := must[[]record.Row](t)(l.Record(ctx, id)); !slices.ContainsFunc(rows, func(r record.Row) bool { return strings.Contains(r.Subject, lacking+" made although ") }) {
		t.Error("the record does not tell that it was made all the same")
	}
	if _, err := l.Release(ctx, id, s.ID, held, who); err == nil {
		t.Error("what is not held back was released")
	}
	asked.Despite = []string{lacking}
	if n := states(must[ReportSet](t)(l.PlanSet(ctx, id, asked))); n[Held] != 0 {
		t.Errorf("with leave: %v", n)
	}
}
