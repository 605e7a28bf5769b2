package lab

import (
	"context"
	"errors"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/jobs"
	"yugen/lab/change"
	"yugen/store"
)

// jobEnded waits until a job has ended.
func jobEnded(t *testing.T, l *Lab, id string) jobs.Job {
	t.Helper()
	for range 600 {
		for _, j := range l.Jobs.List() {
			if j.ID == id && j.Ended != nil {
				return j
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatalf("%s has not ended: %+v", id, l.Jobs.List())
	return jobs.Job{}
}

// again processes a batch once more and gives what was found.
func again(t *testing.T, l *Lab, id string, asked AskedAgain) ProcessedAgain {
	t.Helper()
	j := must[jobs.Job](t)(l.ProcessAgain(t.Context(), id, asked, who))
	if j = jobEnded(t, l, j.ID); j.State != jobs.Done {
		t.Fatalf("%+v", j)
	}
	found := must[ProcessedAgain](t)(l.ProcessedAgainBy(t.Context(), j.ID))
	if j.Outcome != found.Tell() {
		t.Errorf("the job tells %q, what it found %q", j.Outcome, found.Tell())
	}
	return found
}

// A batch with version 2 that goes back to version 1 by undo, so that there is a newer version than it uses.
func behind(t *testing.T) (*Lab, string, store.Batch) {
	t.Helper()
	l, id := demo(t)
	ctx := t.Context()
	t.Cleanup(l.Close)
	b := must[store.Batch](t)(l.Batch(ctx, id))
	m := b.Version.Method
	m.Curves.Model, m.Curves.Weight = curves.Quadratic, curves.PerX
	b = must[store.Batch](t)(l.SaveMethod(ctx, id, b.Revision, m, "a bent curve", who))
	return l, id, must[store.Batch](t)(l.Undo(ctx, id, b.Revision, "looked at", who))
}

// With the version that made the present results the very same numbers come out of the raw data; with the newest one, what is told beforehand is what comes.
func TestProcessingOnceMoreTellsWhatItWouldChange(t *testing.T) {
	l, id, b := behind(t)
	ctx := t.Context()
	before := must[Processed](t)(l.Process(ctx, id))
	kept := again(t, l, id, AskedAgain{Version: KeptVersion})
	if kept.MovedInAll != 0 || kept.Same < 20 || len(kept.NewNotices)+len(kept.EndedNotices) != 0 || kept.From != kept.To {
		t.Fatalf("%+v", kept)
	}
	newest := again(t, l, id, AskedAgain{})
	if newest.To.Number != b.Version.Number+1 || newest.MovedInAll == 0 || newest.MovedInAll != len(newest.Moved) || newest.Same+newest.MovedInAll != kept.Same {
		t.Fatalf("%+v", newest)
	}
	if !slices.IsSortedFunc(newest.Moved, func(a, b MovedResult) int { return int(math.Copysign(1, math.Abs(*b.Percent)-math.Abs(*a.Percent))) }) {
		t.Error("the largest is not the first")
	}
	if resultBytes(t, l, id) != change.JSON(before.Result) {
		t.Error("looking has changed the results")
	}
	after := must[store.Batch](t)(l.TakeProcessed(ctx, newest.JobID, b.Revision, "", who))
	if after.Version.ID != newest.To.VersionID || inputsHash(after) != newest.To.InputsHash {
		t.Fatalf("took %+v", after.Version)
	}
	now := must[Processed](t)(l.Process(ctx, id))
	for _, m := range newest.Moved {
		i := slices.IndexFunc(now.Result.Samples, func(r batch.SampleRow) bool { return r.Name == m.Sample })
		if v := mean(now.Result.Samples[i].Values[m.CompoundID]); (v == nil) != (m.After == nil) || v != nil && *v != *m.After {
			t.Errorf("%s of %s: told %v, is %v", m.Compound, m.Sample, m.After, v)
		}
	}
	undone := must[store.Batch](t)(l.Undo(ctx, id, after.Revision, "", who))
	if undone.Version.ID != b.Version.ID {
		t.Error("it cannot be undone")
	}
	if again := must[store.Batch](t)(l.TakeProcessed(ctx, newest.JobID, undone.Revision, "after all", who)); again.Version.ID != newest.To.VersionID {
		t.Error("what was found of the very same batch cannot be taken after the undo")
	}
}

// Of chosen injections only theirs is compared, and it cannot be taken; nor can what was found before the batch changed, nor the version that is in use.
func TestWhatWasNotSeenIsNotTaken(t *testing.T) {
	l, id, b := behind(t)
	ctx := t.Context()
	whole := again(t, l, id, AskedAgain{})
	sample := must[Processed](t)(l.Process(ctx, id)).Result.Samples[1]
	few := again(t, l, id, AskedAgain{Version: NewestVersion, InjectionIDs: sample.InjectionIDs[:1]})
	for _, m := range few.Moved {
		if m.Sample != sample.Name {
			t.Errorf("%s was not asked for", m.Sample)
		}
	}
	if few.MovedInAll == 0 || few.MovedInAll >= whole.MovedInAll {
		t.Errorf("%d of few, %d of all", few.MovedInAll, whole.MovedInAll)
	}
	refused := func(jobID, says string) {
		t.Helper()
		if _, err := l.TakeProcessed(ctx, jobID, 0, "", who); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), says) {
			t.Errorf("%v", err)
		}
	}
	refused(few.JobID, "only 1 injection")
	refused(again(t, l, id, AskedAgain{Version: KeptVersion}).JobID, "nothing to take")
	must[store.Batch](t)(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{sample.InjectionIDs[0], batch.FieldDilution, "7"}}, "diluted", who))
	refused(whole.JobID, "has changed since")
	for _, asked := range []AskedAgain{{Version: "no such"}, {InjectionIDs: []string{"no such"}}, {InjectionIDs: make([]string, maxAskedInjections+1)}} {
		if _, err := l.ProcessAgain(ctx, id, asked, who); !errors.Is(err, ErrRefused) {
			t.Errorf("%v", err)
		}
	}
}

// A batch that has been reported takes another version only with a reason.
func TestAReportedBatchTakesAVersionWithAReason(t *testing.T) {
	l, id, b := behind(t)
	ctx := t.Context()
	must[store.Report](t)(l.KeepReport(ctx, id, "batch", "", who))
	found := again(t, l, id, AskedAgain{})
	if _, err := l.TakeProcessed(ctx, found.JobID, 0, " ", who); Pointer(err) != "/reason" {
		t.Errorf("%v", err)
	}
	if after := must[store.Batch](t)(l.TakeProcessed(ctx, found.JobID, 0, "the bent curve fits", who)); after.Version.ID == b.Version.ID {
		t.Error("nothing was taken")
	}
}

// What a program was stopped in is found after its start; what ended before it is still listed, with what it found.
func TestProcessingOnceMoreOutlivesTheProgram(t *testing.T) {
	dir := loaded(t)
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	l := New(s)
	done := again(t, l, firstBatch, AskedAgain{Version: KeptVersion})
	b := must[store.Batch](t)(l.Batch(t.Context(), firstBatch))
	if err := s.KeepJob(jobs.Job{ID: store.NewID(), Kind: jobs.Process, BatchID: b.ID, Subject: b.Name, Who: who, Since: time.Now()}, `{"version":"`+b.Version.ID+`","injection_ids":null}`); err != nil {
		t.Fatal(err)
	}
	l.Close()
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = must[*store.Store](t)(store.Open(context.Background(), dir))
	defer s.Close()
	l = New(s)
	defer l.Close()
	if err := l.Resume(t.Context()); err != nil {
		t.Fatal(err)
	}
	for range 600 {
		list := slices.DeleteFunc(l.Jobs.List(), func(j jobs.Job) bool { return j.Kind != jobs.Process }) // computing is a job of its own where it is slow
		if len(list) == 2 && list[0].State == jobs.Done {
			if list[1].ID != done.JobID || list[1].Outcome != done.Tell() {
				t.Errorf("%+v", list[1])
			}
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Errorf("%+v", l.Jobs.List())
}
