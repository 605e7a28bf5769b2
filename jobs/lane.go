package jobs

import (
	"errors"
	"slices"
	"time"
)

// lane is where jobs of a kind run and wait. The queue's lock guards it.
type lane struct {
	running int
	line    []*work // those that wait, the next one first
}

// join lets work run, or puts it behind those that wait: behind those that go first, too, where it is not one of them.
func (l *lane) join(w *work) {
	w.job.State = Waiting
	at := len(l.line)
	if w.job.First {
		for at > 0 && !l.line[at-1].job.First {
			at--
		}
	}
	l.line = slices.Insert(l.line, at, w)
	l.next()
}

// next lets those run that there is room for.
func (l *lane) next() {
	for l.running < atOnce && len(l.line) > 0 {
		w := l.line[0]
		l.line = slices.Delete(l.line, 0, 1)
		l.running++
		w.job.State = Running
		now := time.Now()
		if w.began.IsZero() {
			w.began = now
		} else { // it was held meanwhile
			w.began = w.began.Add(now.Sub(w.held))
		}
		close(w.turn)
	}
}

// leave takes work out, whether it runs or waits.
func (l *lane) leave(w *work) {
	switch w.job.State {
	case Running:
		l.running--
	case Waiting:
		l.line = slices.DeleteFunc(l.line, func(other *work) bool { return other == w })
	}
	l.next()
}

// ErrImpatient is of a job that cannot be held, or is not held.
var ErrImpatient = errors.New("this job cannot be held: somebody waits for it, or it is nearly nothing")

// Pause holds a job at its next step, and gives its place to another; what it did stays.
func (q *Queue) Pause(id string) error {
	return q.at(id, func(w *work) error {
		switch {
		case !w.job.Pausable:
			return ErrImpatient
		case w.job.State == Paused:
			return nil
		}
		ran := w.job.State == Running
		w.lane.leave(w)
		w.job.State, w.job.LeftS, w.held = Paused, nil, time.Now()
		if ran {
			w.turn = make(chan struct{})
		}
		return nil
	})
}

// Continue lets a job go on that was held, when there is room for it.
func (q *Queue) Continue(id string) error {
	return q.at(id, func(w *work) error {
		if w.job.State == Paused {
			w.lane.join(w)
		}
		return nil
	})
}

// PutFirst lets a job that waits go before the others of its kind.
func (q *Queue) PutFirst(id string) error {
	return q.at(id, func(w *work) error {
		w.job.First = true
		if w.job.State == Waiting {
			w.lane.leave(w)
			w.lane.join(w)
		}
		return nil
	})
}

// at does something to a job that is under way, and tells of it.
func (q *Queue) at(id string, do func(*work) error) error {
	q.mu.Lock()
	defer q.mu.Unlock()
	for _, w := range q.under {
		if w.job.ID != id {
			continue
		}
		if err := do(w); err != nil {
			return err
		}
		if w.shown {
			q.tell(w.job)
		}
		return nil
	}
	return ErrUnknown
}
