package jobs

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"testing"
	"testing/synctest"
	"time"
)

// steps is work of so many steps of a second each, that can be held.
func steps(n int) func(context.Context, *Progress) (any, error) {
	return func(ctx context.Context, p *Progress) (any, error) {
		for i := range n {
			p.Set(i, n)
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			time.Sleep(time.Second)
		}
		p.Set(n, n)
		return told("all of it"), nil
	}
}

// told is an outcome.
type told string

func (t told) Tell() string { return string(t) }

func stateOf(t *testing.T, q *Queue, id string) Job {
	t.Helper()
	for _, j := range q.List() {
		if j.ID == id {
			return j
		}
	}
	t.Fatalf("no job %s in %+v", id, q.List())
	return Job{}
}

// A job that is held stands still, lets another have its place, and goes on where it was; the time that it stood is not counted.
func TestAJobIsHeldAndGoesOn(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		for i := range 3 {
			q.Start(t.Context(), Asked{Kind: Process, Key: fmt.Sprint(i), Patient: true, Args: "{}"}, steps(10))
		}
		time.Sleep(3500 * time.Millisecond)
		if a, c := stateOf(t, q, "j1"), stateOf(t, q, "j3"); a.State != Running || c.State != Waiting || !a.Pausable {
			t.Fatalf("%+v %+v", a, c)
		}
		if err := q.Pause("j1"); err != nil {
			t.Fatal(err)
		}
		synctest.Wait()
		if a, c := stateOf(t, q, "j1"), stateOf(t, q, "j3"); a.State != Paused || a.LeftS != nil || c.State != Running {
			t.Fatalf("%+v %+v", a, c)
		}
		time.Sleep(time.Hour)
		if a := stateOf(t, q, "j1"); a.State != Paused || a.Done > 4 {
			t.Fatalf("it went on by itself: %+v", a)
		}
		if err := q.Continue("j1"); err != nil {
			t.Fatal(err)
		}
		time.Sleep(2500 * time.Millisecond)
		synctest.Wait()
		if a := stateOf(t, q, "j1"); a.State != Running || a.LeftS == nil || *a.LeftS > 6 || *a.LeftS < 2 {
			t.Fatalf("after the pause %+v, left %v", a, a.LeftS)
		}
		time.Sleep(10 * time.Second)
		synctest.Wait()
		a := stateOf(t, q, "j1")
		if a.State != Done || a.Outcome != "all of it" || a.Ended == nil || len(s.ended) != 3 || s.many() != 0 {
			t.Errorf("%+v; kept %d, remembered %v", a, len(s.ended), s.held)
		}
	})
}

// Held before it began it takes no place; stopped while it is held it ends at once; what nobody may hold is refused.
func TestHoldingWhatWaitsAndStoppingWhatIsHeld(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		for i := range 4 {
			q.Start(t.Context(), Asked{Kind: Process, Key: fmt.Sprint(i), Patient: true, Args: "{}"}, steps(10))
		}
		q.Start(t.Context(), Asked{Kind: Check, Key: "check"}, steps(10))
		time.Sleep(1500 * time.Millisecond)
		for _, id := range []string{"j3", "j1"} {
			if err := q.Pause(id); err != nil {
				t.Fatal(err)
			}
		}
		if err := q.Pause("j5"); !errors.Is(err, ErrImpatient) {
			t.Errorf("a check was held: %v", err)
		}
		if err := q.Pause("none"); !errors.Is(err, ErrUnknown) {
			t.Errorf("%v", err)
		}
		synctest.Wait()
		if c, d := stateOf(t, q, "j3"), stateOf(t, q, "j4"); c.State != Paused || d.State != Running {
			t.Fatalf("%+v %+v", c, d)
		}
		time.Sleep(time.Second)
		for _, id := range []string{"j3", "j1"} {
			if err := q.Stop(id); err != nil {
				t.Fatal(err)
			}
		}
		synctest.Wait()
		for _, id := range []string{"j3", "j1"} {
			if j := stateOf(t, q, id); j.State != Stopped {
				t.Errorf("%+v", j)
			}
		}
		time.Sleep(20 * time.Second)
		synctest.Wait()
		if s.many() != 0 || len(q.under) != 0 || q.lanes[Process].running != 0 || len(q.lanes[Process].line) != 0 {
			t.Errorf("left over: %v %v %+v", s.held, q.under, q.lanes[Process])
		}
	})
}

// What is put first goes before others that wait, behind those that were put first before it.
func TestWhatIsPutFirstGoesFirst(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, _ := newQueue()
		var mu sync.Mutex
		var order []string
		for i := range 6 {
			q.Start(t.Context(), Asked{Kind: Process, Key: fmt.Sprint(i), Patient: true}, func(ctx context.Context, p *Progress) (any, error) {
				mu.Lock()
				order = append(order, p.work.job.ID)
				mu.Unlock()
				return steps(2)(ctx, p)
			})
			synctest.Wait()
		}
		for _, id := range []string{"j5", "j6"} {
			if err := q.PutFirst(id); err != nil {
				t.Fatal(err)
			}
		}
		time.Sleep(20 * time.Second)
		synctest.Wait()
		slices.Sort(order[2:4]) // two begin at the same moment
		slices.Sort(order[4:])
		if got := fmt.Sprint(order[2:]); got != "[j5 j6 j3 j4]" {
			t.Errorf("%s", got)
		}
	})
}

// A queue that is closed ends what is held, too, and remembers it.
func TestAClosedQueueRemembersWhatIsHeld(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		q.Start(t.Context(), Asked{Kind: Process, Key: "a", Patient: true, Args: "{}"}, steps(10))
		time.Sleep(1500 * time.Millisecond)
		if err := q.Pause("j1"); err != nil {
			t.Fatal(err)
		}
		time.Sleep(2 * time.Second)
		q.Close()
		if s.many() != 1 || len(s.ended) != 0 {
			t.Errorf("remembered %v, ended %v", s.held, s.ended)
		}
	})
}

// What ended before the program was started is listed behind what ended since.
func TestEarlierEndsAreRecalled(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, _ := newQueue()
		q.Recall([]Job{{ID: "older"}, {ID: "old"}})
		q.Start(t.Context(), Asked{Kind: Process, Key: "a", Patient: true}, steps(1))
		time.Sleep(3 * time.Second)
		list := q.List()
		if len(list) != 3 || list[0].ID != "j1" || list[1].ID != "old" || list[2].ID != "older" {
			t.Errorf("%+v", list)
		}
	})
}

// Who begins work that can be held, and asks for the list at once, finds it there, before anything of it has run.
func TestPatientWorkIsListedFromTheMomentItIsBegun(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, _ := newQueue()
		j := q.Begin(t.Context(), Asked{Kind: Kinds[0], Key: "a", Subject: "A", Patient: true}, steps(2))
		if now := stateOf(t, q, j.ID); now.Subject != "A" || now.Ended != nil {
			t.Errorf("%+v", now)
		}
		q.Begin(t.Context(), Asked{Kind: Kinds[0], Key: "b", Subject: "B"}, steps(2))
		if list := q.List(); len(list) != 1 {
			t.Errorf("work that may be done at once is shown: %+v", list)
		}
		time.Sleep(5 * time.Second)
		if now := stateOf(t, q, j.ID); now.State != Done || now.Outcome != "all of it" {
			t.Errorf("%+v", now)
		}
	})
}
