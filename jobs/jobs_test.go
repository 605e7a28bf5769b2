package jobs

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"
)

// shelf remembers jobs as a store does.
type shelf struct {
	mu    sync.Mutex
	held  map[string]string
	ended []Job
	ever  int
}

func (s *shelf) KeepJob(j Job, args string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.held[j.ID], s.ever = args, s.ever+1
	return nil
}

func (s *shelf) DropJob(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.held, id)
	return nil
}

// many is how many are remembered.
func (s *shelf) many() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.held)
}

func (s *shelf) EndJob(j Job) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.ended = append(s.ended, j)
	return nil
}

func newQueue() (*Queue, *shelf) {
	var n atomic.Int64
	s := &shelf{held: map[string]string{}}
	return &Queue{Keeper: s, NewID: func() string { return fmt.Sprint("j", n.Add(1)) }}, s
}

// What is done at once is no job for anybody to see; what takes longer is shown, remembered, and forgotten when it has ended.
func TestOnlyWhatTakesItsTimeIsShownAndRemembered(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		v, err := q.Do(t.Context(), Asked{Kind: Check, Key: "quick", Args: "{}"}, func(context.Context, *Progress) (any, error) { return 7, nil })
		if v != 7 || err != nil || len(q.List()) != 0 || s.ever != 0 {
			t.Errorf("%v %v %v", v, err, q.List())
		}
		over := q.Start(t.Context(), Asked{Kind: Check, Key: "slow", Args: "{}", Subject: "everything"}, func(_ context.Context, p *Progress) (any, error) {
			for i := range 10 {
				p.Set(i, 10)
				time.Sleep(time.Second)
			}
			return nil, nil
		})
		time.Sleep(4500 * time.Millisecond)
		synctest.Wait()
		list := q.List()
		if len(list) != 1 || list[0].State != Running || list[0].Done != 4 || list[0].Total != 10 || list[0].LeftS == nil || *list[0].LeftS < 5.9 || *list[0].LeftS > 6.1 {
			t.Fatalf("%+v", list)
		}
		if s.many() != 1 {
			t.Errorf("remembered %v", s.held)
		}
		<-over
		synctest.Wait()
		if list := q.List(); len(list) != 1 || list[0].State != Done || list[0].LeftS != nil || s.many() != 0 {
			t.Errorf("%+v, remembered %v", list, s.held)
		}
	})
}

func TestTheSameWorkIsDoneOnceForAllWhoAsk(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, _ := newQueue()
		var done atomic.Int64
		work := func(context.Context, *Progress) (any, error) {
			time.Sleep(time.Second)
			return done.Add(1), nil
		}
		var asking sync.WaitGroup
		impatient, leave := context.WithTimeout(t.Context(), time.Millisecond)
		defer leave()
		for i := range 8 {
			asking.Go(func() {
				ctx := t.Context()
				if i == 0 {
					ctx = impatient
				}
				v, err := q.Do(ctx, Asked{Kind: Result, Key: "same"}, work)
				if i > 0 && (v != int64(1) || err != nil) || i == 0 && err == nil {
					t.Errorf("%d: %v %v", i, v, err)
				}
			})
		}
		asking.Wait()
		if v, err := q.Do(t.Context(), Asked{Kind: Result, Key: "same"}, work); v != int64(2) || err != nil {
			t.Errorf("later %v %v", v, err)
		}
	})
}

// Of one kind only so many run; one that waits can be stopped as well as one that runs, and both say so to those who wait.
func TestJobsWaitForEachOtherAndAreStopped(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		errs := make(chan error, 3)
		for i := range 3 {
			go func() {
				_, err := q.Do(t.Context(), Asked{Kind: Backup, Key: fmt.Sprint(i), Args: "{}"}, func(ctx context.Context, _ *Progress) (any, error) {
					<-ctx.Done()
					return nil, ctx.Err()
				})
				errs <- err
			}()
			synctest.Wait()
		}
		time.Sleep(time.Second)
		synctest.Wait()
		states := map[State]int{}
		for _, j := range q.List() {
			states[j.State]++
		}
		if states[Running] != atOnce || states[Waiting] != 1 {
			t.Fatalf("%v", states)
		}
		for _, j := range q.List() {
			if err := q.Stop(j.ID); err != nil {
				t.Error(err)
			}
		}
		for range 3 {
			if err := <-errs; !errors.Is(err, ErrStopped) {
				t.Errorf("%v", err)
			}
		}
		synctest.Wait()
		for _, j := range q.List() {
			if j.State != Stopped {
				t.Errorf("%+v", j)
			}
			if err := q.Stop(j.ID); !errors.Is(err, ErrUnknown) {
				t.Errorf("stopped twice: %v", err)
			}
		}
		if s.many() != 0 {
			t.Errorf("remembered %v", s.held)
		}
	})
}

// A program that is stopped remembers what was under way; taken up again under its id it is forgotten when it is done.
func TestAClosedQueueRemembersWhatWasUnderWay(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		q.Start(t.Context(), Asked{Kind: Check, Key: "c", Args: "{}"}, func(ctx context.Context, _ *Progress) (any, error) {
			<-ctx.Done()
			return nil, ctx.Err()
		})
		time.Sleep(time.Second)
		q.Close()
		if s.held["j1"] != "{}" {
			t.Fatalf("remembered %v", s.held)
		}
		if _, err := q.Do(t.Context(), Asked{Kind: Check, Key: "more"}, nil); !errors.Is(err, ErrStopped) {
			t.Errorf("a closed queue took more: %v", err)
		}
		again := &Queue{Keeper: s, NewID: func() string { return "other" }}
		if _, err := again.Do(t.Context(), Asked{ID: "j1", Kind: Check, Key: "c", Args: "{}"}, func(context.Context, *Progress) (any, error) { return nil, nil }); err != nil {
			t.Error(err)
		}
		synctest.Wait()
		if s.many() != 0 {
			t.Errorf("remembered %v", s.held)
		}
	})
}

// A remembered job whose work somebody else has already asked for anew is done with that, and forgotten with it.
func TestARememberedJobThatIsUnderWayAnyhowIsForgottenToo(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, s := newQueue()
		s.held["old"] = "{}"
		work := func(context.Context, *Progress) (any, error) {
			time.Sleep(time.Second)
			return 1, nil
		}
		over := q.Start(t.Context(), Asked{Kind: Result, Key: "same", Args: "{}"}, work)
		if _, err := q.Do(t.Context(), Asked{ID: "old", Kind: Result, Key: "same", Args: "{}"}, work); err != nil {
			t.Error(err)
		}
		<-over
		synctest.Wait()
		if s.many() != 0 {
			t.Errorf("remembered %v", s.held)
		}
	})
}

func TestAJobThatPanicsFails(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q, _ := newQueue()
		_, err := q.Do(t.Context(), Asked{Kind: Report, Key: "bad"}, func(context.Context, *Progress) (any, error) {
			time.Sleep(time.Second)
			panic("odd")
		})
		if list := q.List(); err == nil || len(list) != 1 || list[0].State != Failed || list[0].Message == "" {
			t.Errorf("%v %+v", err, list)
		}
	})
}
