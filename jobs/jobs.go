// Package jobs is the queue of work that takes its time: what is under way, how far it is, how long it still takes, and how it is stopped.
package jobs

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"time"
)

// Kind says what is worked on.
type Kind string

// The kinds of jobs.
const (
	TakeIn  Kind = "files"
	Result  Kind = "results"
	Report  Kind = "report"
	Set     Kind = "reports" // many of them
	Backup  Kind = "backup"
	Check   Kind = "check"
	Resolve Kind = "resolve" // a whole batch
	Effects Kind = "effects" // of what was changed by hand
)

// Kinds lists them.
var Kinds = []Kind{TakeIn, Result, Report, Set, Backup, Check, Resolve, Effects}

// State is where a job stands.
type State string

// The states of a job.
const (
	Waiting State = "waiting"
	Running State = "running"
	Done    State = "done"
	Stopped State = "stopped"
	Failed  State = "failed"
)

// States lists them.
var States = []State{Waiting, Running, Done, Stopped, Failed}

// Job is a piece of work as it is shown.
type Job struct {
	ID      string `json:"id"`
	Kind    Kind   `json:"kind"`
	BatchID string `json:"batch_id,omitempty"`
	Subject string `json:"subject"` // what it is about, for a person
	Who     string `json:"who"`
	State   State  `json:"state"`
	Done    int    `json:"done"`
	Total   int    `json:"total"` // 0 while nobody can say
	// LeftS is how long it still takes, judged from how it went so far; null while that cannot be said.
	LeftS   *float64  `json:"left_s"`
	Message string    `json:"message,omitempty"` // of one that failed
	Since   time.Time `json:"since"`
}

// Asked says what is to be done. Who asks for the same while it is under way shares the job.
type Asked struct {
	Kind    Kind
	Key     string // the same for the same work
	BatchID string
	Subject string
	Who     string
	// Args are what the work is taken up again with after the program was stopped in it; empty for work that is not.
	Args string
	// ID is that of a job which is taken up again, and is remembered already; empty for a new one.
	ID string
}

// Keeper remembers jobs that are under way, so that they can be taken up again.
type Keeper interface {
	KeepJob(j Job, args string) error
	DropJob(id string) error
}

// ErrStopped is what those get who waited for a job that somebody stopped.
var ErrStopped = errors.New("it was stopped before it was done")

// ErrUnknown is returned for a job that is not under way.
var ErrUnknown = errors.New("no such job is under way")

// Patience is how long work may take before it is shown as a job.
const Patience = 500 * time.Millisecond

// endedKept is how many jobs that have ended are still listed.
const endedKept = 20

// atOnce is how many jobs of a kind run at the same time; the others wait.
const atOnce = 2

// Queue runs jobs. The zero value is ready for use; a queue that was closed takes nothing more.
type Queue struct {
	// Keeper may be nil: then nothing is taken up again.
	Keeper Keeper
	// NewID names jobs.
	NewID func() string
	// Changed is told of every job that is shown, when it changes. It must not wait.
	Changed func(Job)

	mu      sync.Mutex
	under   map[string]*work // by key
	ended   []Job
	lanes   map[Kind]chan struct{}
	closing bool
	running sync.WaitGroup
}

// work is a job under way.
type work struct {
	job     Job
	asked   Asked
	shown   bool
	kept    bool
	joined  []string // ids of remembered jobs that this one does as well
	stopped bool
	cancel  context.CancelFunc
	over    chan struct{}
	value   any
	err     error
	began   time.Time
	told    time.Time
}

// Progress is how a job says how far it is.
type Progress struct {
	queue *Queue
	work  *work
}

// Set says how much of how much is done. A nil Progress takes it and tells nobody.
func (p *Progress) Set(done, total int) {
	if p == nil {
		return
	}
	p.queue.mu.Lock()
	defer p.queue.mu.Unlock()
	w := p.work
	w.job.Done, w.job.Total = done, total
	now := time.Now()
	w.job.LeftS = nil
	if passed := now.Sub(w.began); done > 0 && total >= done && passed > Patience {
		left := passed.Seconds() / float64(done) * float64(total-done)
		w.job.LeftS = &left
	}
	if w.shown && (now.Sub(w.told) > Patience/2 || done == total) {
		w.told = now
		p.queue.tell(w.job)
	}
}

// Start sees to it that the work is done, now or after others of its kind. What it gives is closed when the job is over.
func (q *Queue) Start(ctx context.Context, a Asked, do func(context.Context, *Progress) (any, error)) <-chan struct{} {
	return q.start(ctx, a, do).over
}

// Do is Start, and waits for what comes of it, or for the end of ctx; the job itself goes on.
func (q *Queue) Do(ctx context.Context, a Asked, do func(context.Context, *Progress) (any, error)) (any, error) {
	w := q.start(ctx, a, do)
	select {
	case <-w.over:
		return w.value, w.err
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

func (q *Queue) start(ctx context.Context, a Asked, do func(context.Context, *Progress) (any, error)) *work {
	q.mu.Lock()
	defer q.mu.Unlock()
	if w, same := q.under[a.Key]; same {
		if a.ID != "" && a.ID != w.job.ID {
			w.joined = append(w.joined, a.ID)
		}
		return w
	}
	// Not the context of the one who asked first, whose end would fail the others.
	own, cancel := context.WithCancel(context.WithoutCancel(ctx))
	w := &work{asked: a, kept: a.ID != "", cancel: cancel, over: make(chan struct{}),
		job: Job{ID: cmp.Or(a.ID, q.NewID()), Kind: a.Kind, BatchID: a.BatchID, Subject: a.Subject, Who: a.Who, State: Waiting, Since: time.Now().UTC()}}
	if q.closing {
		cancel()
		w.err = ErrStopped
		close(w.over)
		return w
	}
	if q.under == nil {
		q.under, q.lanes = map[string]*work{}, map[Kind]chan struct{}{}
	}
	if q.lanes[a.Kind] == nil {
		q.lanes[a.Kind] = make(chan struct{}, atOnce)
	}
	q.under[a.Key] = w
	lane := q.lanes[a.Kind]
	q.running.Go(func() { q.run(own, w, lane, do) })
	return w
}

func (q *Queue) run(ctx context.Context, w *work, lane chan struct{}, do func(context.Context, *Progress) (any, error)) {
	defer w.cancel()
	patience := time.AfterFunc(Patience, func() { q.show(w) })
	defer patience.Stop()
	select {
	case lane <- struct{}{}:
		q.mu.Lock()
		w.job.State, w.began = Running, time.Now()
		q.mu.Unlock()
		w.value, w.err = safely(ctx, &Progress{q, w}, do)
		<-lane
	case <-ctx.Done():
		w.err = ctx.Err()
	}
	q.end(w)
}

func safely(ctx context.Context, p *Progress, do func(context.Context, *Progress) (any, error)) (v any, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("a job failed", "panic", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("it failed inside Yugen: %v", r)
		}
	}()
	return do(ctx, p)
}

// show makes a job visible that has taken longer than work that is done at once, and remembers it.
func (q *Queue) show(w *work) {
	q.mu.Lock()
	select {
	case <-w.over:
		q.mu.Unlock()
		return
	default:
	}
	w.shown, w.told = true, time.Now()
	job := w.job
	q.tell(job)
	keep := q.Keeper != nil && w.asked.Args != "" && !w.kept
	q.mu.Unlock()
	if !keep {
		return
	}
	if err := q.Keeper.KeepJob(job, w.asked.Args); err != nil { // it is worked on all the same
		slog.Error("a job is not remembered", "job", job.Subject, "error", err)
		return
	}
	q.mu.Lock()
	w.kept = true
	late := false
	select {
	case <-w.over:
		late = !q.closing
	default:
	}
	q.mu.Unlock()
	if late {
		q.drop(job.ID)
	}
}

func (q *Queue) end(w *work) {
	q.mu.Lock()
	switch {
	case w.stopped || q.closing && errors.Is(w.err, context.Canceled):
		w.job.State = Stopped
		if w.err != nil {
			w.err = ErrStopped
		}
	case w.err != nil:
		w.job.State, w.job.Message = Failed, w.err.Error()
	default:
		w.job.State = Done
	}
	w.job.LeftS = nil
	delete(q.under, w.asked.Key)
	if w.shown {
		q.ended = append(q.ended, w.job)
		if len(q.ended) > endedKept {
			q.ended = slices.Delete(q.ended, 0, 1)
		}
		q.tell(w.job)
	}
	forget := w.joined
	if w.kept {
		forget = append(forget, w.job.ID)
	}
	if q.closing && w.job.State == Stopped { // to be taken up again
		forget = nil
	}
	close(w.over)
	q.mu.Unlock()
	for _, id := range forget {
		q.drop(id)
	}
}

func (q *Queue) drop(id string) {
	if err := q.Keeper.DropJob(id); err != nil {
		slog.Error("a job that has ended is still remembered", "error", err)
	}
}

func (q *Queue) tell(j Job) {
	if q.Changed != nil {
		q.Changed(j)
	}
}

// List gives the jobs that are shown: those under way, the oldest first, then those that ended, the newest first.
func (q *Queue) List() []Job {
	q.mu.Lock()
	defer q.mu.Unlock()
	list := []Job{}
	for _, w := range q.under {
		if w.shown {
			list = append(list, w.job)
		}
	}
	slices.SortFunc(list, func(a, b Job) int { return a.Since.Compare(b.Since) })
	for _, j := range slices.Backward(q.ended) {
		list = append(list, j)
	}
	return list
}

// Stop ends a job that is under way. What it has done so far stays done where that makes sense by itself, as with files that are in.
func (q *Queue) Stop(id string) error {
	q.mu.Lock()
	defer q.mu.Unlock()
	for _, w := range q.under {
		if w.job.ID == id {
			w.stopped = true
			w.cancel()
			return nil
		}
	}
	return ErrUnknown
}

// Closing tells whether the queue takes nothing more, because the program is being stopped.
func (q *Queue) Closing() bool {
	q.mu.Lock()
	defer q.mu.Unlock()
	return q.closing
}

// Close stops everything and waits until it has stopped. Jobs that are remembered stay so, to be taken up again.
func (q *Queue) Close() {
	q.mu.Lock()
	q.closing = true
	for _, w := range q.under {
		w.cancel()
	}
	q.mu.Unlock()
	q.running.Wait()
}
