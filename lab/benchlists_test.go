package lab

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/instrument"
	"yugen/store"
)

// reopened is a lab on a folder, and how it is shut.
func reopened(t *testing.T, dir string) (*Lab, func()) {
	t.Helper()
	s, err := store.Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	l := New(s)
	return l, func() { l.Close(); s.Close() }
}

// oneRow asks for a list of one row for a batch of its own.
func oneRow(t *testing.T, l *Lab, name string) (batchID string, asked ListAsked) {
	t.Helper()
	batchID = must[string](t)(l.NewBatch(t.Context(), "S", name, "M", batch.NewMethod(), who))
	return batchID, ListAsked{BatchID: batchID, Rows: []map[batch.Field]string{{"name": name, "vial": "A5"}}, Start: instrument.WhenReady, Ending: instrument.StayReady}
}

// rests lets the time of an instrument pass until its list has ended and all of it is heard.
func (s *served) rests(t *testing.T, l *Lab) {
	t.Helper()
	until(t, "the list has ended", func() bool {
		s.Pass(60)
		p := l.bench.posts[0]
		p.mu.Lock()
		defer p.mu.Unlock()
		return s.State().Phase == instrument.Resting && p.journal.List.Ended
	})
}

func pointsOf(t *testing.T, l *Lab, in store.Injection) int {
	t.Helper()
	return must[batch.Signal](t)(l.signalOf(t.Context(), in, batch.NewMethod().Channels[0].Signal)).Trace.Len()
}

// What one list left on disk is never taken for what the next measures, whose rows are numbered alike: neither the end of a row, when the program is stopped in the
// middle, nor what was measured of a row that its batch did not take.
func TestListsDoNotMix(t *testing.T) {
	dir := t.TempDir()
	l, shut := reopened(t, dir)
	s := standing(t, instrument.LC, 800, "")
	id := attached(t, l, s.address)
	first, asked := oneRow(t, l, "First")
	must[BenchPost](t)(l.StartList(t.Context(), id, asked, who))
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	s.measures(t, 0, 2)
	if err := l.store.Write(t.Context(), func(tx *store.Tx) error {
		_, err := tx.Record(store.Change{BatchID: first, Who: "S. Nakamura", Action: store.SignatureAction, Subject: "approved", After: `{"locks": true}`})
		return err
	}); err != nil {
		t.Fatal(err)
	}
	s.rests(t, l)
	until(t, "it is not taken", func() bool { return rowsOf(l)[0].Outcome != "" })
	if len(takenOf(t, l, first)) != 0 {
		t.Fatal("a locked batch took an injection")
	}
	second, asked := oneRow(t, l, "Second")
	until(t, "it can be given a list", func() bool {
		_, err := l.StartList(t.Context(), id, asked, who)
		return err == nil
	})
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	s.measures(t, 0, 5)
	until(t, "five minutes are heard", func() bool {
		now := standingOf(t, l, id)
		return now.AtMin != nil && *now.AtMin > 5
	})
	shut()
	l, shut = reopened(t, dir)
	defer shut()
	attached(t, l, s.address)
	time.Sleep(200 * time.Millisecond) // in which what is on disk is looked at
	if len(takenOf(t, l, second)) != 0 {
		t.Error("a row is taken in before it has ended")
	}
	s.rests(t, l)
	until(t, "it is taken in", func() bool { return len(takenOf(t, l, second)) == 1 })
	in := takenOf(t, l, second)[0]
	if n := pointsOf(t, l, in); n != 10801 || len(in.Doubts) != 0 {
		t.Errorf("%s has %d points, 10801 were measured; %+v", in.Name, n, in.Doubts)
	}
}

// Of two who give a list at the same moment one does, and what is measured comes into their batch.
func TestTwoWhoGiveAListAtOnce(t *testing.T) {
	for range 2 {
		l := openLab(t)
		s := standing(t, instrument.LC, 800, "")
		id := attached(t, l, s.address)
		batches, errs := [2]string{}, [2]error{}
		asked := [2]ListAsked{}
		for k, name := range []string{"One", "Other"} {
			batches[k], asked[k] = oneRow(t, l, name)
		}
		var both sync.WaitGroup
		for k := range 2 {
			both.Go(func() { _, errs[k] = l.StartList(t.Context(), id, asked[k], who) })
		}
		both.Wait()
		taken, other := 0, 1
		if errs[0] != nil {
			taken, other = 1, 0
		}
		if errs[taken] != nil || !errors.Is(errs[other], ErrRefused) {
			t.Fatalf("%v, %v", errs[0], errs[1])
		}
		if len(waiting(t, l, batches[taken])) != 1 || len(waiting(t, l, batches[other])) != 0 {
			t.Error("lines wait for an instrument that will not measure them")
		}
		act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
		s.rests(t, l)
		until(t, "it is in", func() bool { return len(takenOf(t, l, batches[taken])) == 1 })
		if len(takenOf(t, l, batches[other])) != 0 {
			t.Error("the other batch took it")
		}
		l.bench.close()
	}
}

// Where the answer to a list is lost, the instrument measures it if it has it, and the runs come into their batch; if it never came there, nothing waits for it, and
// another list can be given.
func TestAListWhoseAnswerIsLost(t *testing.T) {
	nobody := http.HandlerFunc(func(http.ResponseWriter, *http.Request) {})
	for what, arrives := range map[string]bool{"it came there": true, "it did not come there": false} {
		t.Run(what, func(t *testing.T) {
			l := openLab(t)
			s := standing(t, instrument.LC, 800, "")
			var loses atomic.Bool
			then := s.Handler()
			if !arrives {
				then = nobody
			}
			web := httptest.NewServer(losing(s.Handler(), then, &loses))
			t.Cleanup(web.Close)
			id := attached(t, l, web.URL)
			batchID, asked := oneRow(t, l, "Sencha")
			loses.Store(true)
			if _, err := l.StartList(t.Context(), id, asked, who); !errors.Is(err, ErrSilent) {
				t.Fatal(err)
			}
			loses.Store(false)
			if arrives {
				act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
				s.rests(t, l)
				until(t, "it is in", func() bool { return len(takenOf(t, l, batchID)) == 1 })
				return
			}
			until(t, "nothing waits for it", func() bool { return len(waiting(t, l, batchID)) == 0 })
			if _, err := l.StartList(t.Context(), id, asked, who); err != nil {
				t.Errorf("another list: %v", err)
			}
		})
	}
}
