package lab

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yugen/bench"
	"yugen/jobs"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

func teaFiles(t *testing.T) []bench.File {
	t.Helper()
	study, err := bench.TeaAssay(6)
	if err != nil {
		t.Fatal(err)
	}
	return study.Files
}

// Files that are sent in an order come in in that order, the bad ones among them refused by themselves, and each outcome can be asked for.
func TestArrivedFilesComeInInTheirOrder(t *testing.T) {
	l := openLab(t)
	id := emptyBatch(t, l)
	files := teaFiles(t)[:20]
	want := []string{}
	for i, f := range files {
		if i == 7 {
			must[taking.Arrived](t)(l.Arrive(t.Context(), id, "bad.csv", strings.NewReader("no chromatogram"), who))
		}
		must[taking.Arrived](t)(l.Arrive(t.Context(), id, f.Name, strings.NewReader(string(f.Data)), who))
		want = append(want, f.Name)
	}
	last := must[taking.Outcome](t)(l.Receive(t.Context(), id, files[0].Name, strings.NewReader(string(files[0].Data)), who))
	if last.Status != taking.Already {
		t.Errorf("%+v", last)
	}
	got := []string{}
	for _, in := range must[store.Batch](t)(l.Batch(t.Context(), id)).Injections {
		got = append(got, in.FileName)
	}
	if fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("run order %v, want %v", got, want)
	}
	told := l.Arrivals(id)
	if len(told) != 22 || told[7].Status != taking.Refused || told[7].Message == "" || told[8].Status != taking.Added || told[21].Status != taking.Already {
		t.Errorf("%+v", told)
	}
	if _, err := l.Arrive(t.Context(), "no such batch", "a", strings.NewReader("x"), who); err == nil {
		t.Error("a file for no batch was taken")
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(t.Context())); len(v.Wrong) != 0 {
		t.Errorf("%v", v.Wrong)
	}
}

// Files that had arrived when the program was stopped are taken in at the next start, once.
func TestArrivedFilesAreTakenInAtTheNextStart(t *testing.T) {
	dir := t.TempDir()
	files := teaFiles(t)[:12]
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	l := New(s)
	id := emptyBatch(t, l)
	l.Close() // from here on what arrives waits, as when the power fails just then
	for _, f := range files {
		must[taking.Arrived](t)(l.Arrive(t.Context(), id, f.Name, strings.NewReader(string(f.Data)), who))
	}
	s.Close()
	for round := range 2 {
		s = must[*store.Store](t)(store.Open(t.Context(), dir))
		l = New(s)
		if err := l.Resume(t.Context()); err != nil {
			t.Fatal(err)
		}
		over := l.takeIn(t.Context(), id, who)
		<-over
		if n := len(must[store.Batch](t)(l.Batch(t.Context(), id)).Injections); n != len(files) {
			t.Errorf("start %d: %d of %d files are in", round+1, n, len(files))
		}
		if waiting := must[[]store.Arrival](t)(s.Arrivals()); len(waiting) != 0 {
			t.Errorf("start %d: %d still wait", round+1, len(waiting))
		}
		l.Close()
		s.Close()
	}
}

// Stopping the job refuses what still waits, and keeps what is in.
func TestTakingInIsStopped(t *testing.T) {
	l := openLab(t)
	id := emptyBatch(t, l)
	files := teaFiles(t)
	for round := range 3 { // enough of them to be seen as a job
		for i, f := range files {
			f.Data = append(f.Data, byte(round)) // none the same
			l.intake.Arrive(must[store.Arrival](t)(l.store.Arrive(store.Arrival{BatchID: id, Name: fmt.Sprintf("%d-%s", i, f.Name), Who: who}, strings.NewReader(string(f.Data)))))
		}
	}
	over := l.takeIn(t.Context(), id, who)
	for stopped := false; !stopped; {
		select {
		case <-over:
			t.Skip("all files came in before the job was shown")
		case <-time.After(20 * time.Millisecond):
			for _, j := range l.Jobs.List() {
				stopped = l.Jobs.Stop(j.ID) == nil || stopped
			}
		}
	}
	<-over
	in := must[store.Batch](t)(l.Batch(t.Context(), id)).Injections
	stopped := 0
	for _, a := range l.Arrivals(id) {
		if a.Status == taking.Stopped {
			stopped++
		} else if a.Status == taking.Coming {
			t.Errorf("%s has no outcome", a.File)
		}
	}
	if stopped == 0 || len(in)+stopped != 3*len(files) {
		t.Errorf("%d in, %d stopped", len(in), stopped)
	}
	if waiting := must[[]store.Arrival](t)(l.store.Arrivals()); len(waiting) != 0 {
		t.Errorf("%d still lie on disk", len(waiting))
	}
}

// A job that was under way is done after the next start, a kept report once and not twice.
func TestJobsAreTakenUpAgain(t *testing.T) {
	dir := t.TempDir()
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	l := New(s)
	id := emptyBatch(t, l)
	for _, f := range teaFiles(t)[:3] {
		must[taking.Outcome](t)(l.Import(t.Context(), id, f.Name, f.Data, who))
	}
	since := time.Now().UTC()
	for i, j := range []jobs.Job{{Kind: jobs.Report, BatchID: id, Who: who}, {Kind: jobs.Result, BatchID: id}, {Kind: jobs.Check, Who: who}, {Kind: jobs.Kind("no such"), Subject: "odd"}} {
		j.ID, j.Since = fmt.Sprint("j", i), since
		args := "{}"
		if j.Kind == jobs.Report {
			args = `{"layout":"batch","injection_id":""}`
		}
		if err := s.KeepJob(j, args); err != nil {
			t.Fatal(err)
		}
	}
	for range 2 {
		if err := l.Resume(t.Context()); err != nil {
			t.Fatal(err)
		}
		for tries := 0; ; tries++ {
			var left []store.KeptJob
			if err := s.Read(t.Context(), func(tx *store.Tx) (err error) {
				left, err = tx.Jobs()
				return err
			}); err != nil {
				t.Fatal(err)
			}
			if len(left) == 0 {
				break
			}
			if tries == 1000 {
				t.Fatalf("still remembered: %+v", left)
			}
			time.Sleep(10 * time.Millisecond)
		}
		if kept := must[[]store.Report](t)(l.Reports(t.Context(), id)); len(kept) != 1 {
			t.Errorf("%d reports are kept", len(kept))
		}
		if err := s.KeepJob(jobs.Job{ID: "again", Kind: jobs.Report, BatchID: id, Who: who, Since: since}, `{"layout":"batch","injection_id":""}`); err != nil {
			t.Fatal(err)
		}
	}
	l.Close()
	s.Close()
}
