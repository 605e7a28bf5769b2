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
	Process Kind = "process" // once more, to see what would change
)

// Kinds lists them.
var Kinds = []Kind{TakeIn, Result, Report, Set, Backup, Check, Resolve, Effects, Process}

// State is where a job stands.
type State string

// The states of a job.
const (
	Waiting State = "waiting"
	Running State = "running"
	Paused  State = "paused"
	Done    State = "done"
	Stopped State = "stopped"
	Failed  State = "failed"
)

// States lists them.
var States = []State{Waiting, Running, Paused, Done, Stopped, Failed}

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
	LeftS   *float64 `json:"left_s"`
	Message string   `json:"message,omitempty"` // of one that failed
	// Outcome is what came of it, in a sentence; empty while it is under way, and where there is nothing to say.
	Outcome string    `json:"outcome,omitempty"`
	Since   time.Time `json:"since"`
	// Ended is when it ended; null while it is under way.
	Ended *time.Time `json:"ended"`
	// Pausable tells that it can be held and let go on.
	Pausable bool `json:"pausable"`
	// First tells that it goes before others of its kind that wait.
	First bool `json:"first"`
}

// Asked says what is to be done. Who asks for the same while it is under way shares the job.
type Asked struct {
	Kind    Kind
	Key     string // the same for the same work
	BatchID string
	Subject string
	Who     string
	// Patient work can be held, and is shown from its beginning.
	Patient bool
	// Args are what the work is taken up again with after the program was stopped in it; empty for work that is not.
	Args string
	// ID is that of a job which is taken up again, and is remembered already; empty for a new one.
	ID string
}

// Keeper remembers jobs that are under way, so that they can be taken up again.
type Keeper interface {
	KeepJob(j Job, args string) error
	DropJob(id string) error
	// EndJob keeps one that was shown and has ended.
	EndJob(j Job) error
}

// Telling is what work gives that says in a sentence what came of it.
type Telling interface {
	Tell() string
}

// ErrStopped is what those get who waited for a job that somebody stopped.
var ErrStopped = errors.New("it was stopped before it was done")

// ErrUnknown is returned for a job that is not under way.
var ErrUnknown = errors.New("no such job is under way")

// Patience is how long work may take before it is shown as a job.
const Patience = 500 * time.Millisecond

// EndedKept is how many jobs that have ended are still listed.
const EndedKept = 40

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
	lanes   map[Kind]*lane
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
	ctx     context.Context
	cancel  context.CancelFunc
	turn    chan struct{} // closed when it may run
	lane    *lane
	over    chan struct{}
	value   any
	err     error
	began   time.Time
	held    time.Time // since when it is paused
	told    time.Time
}

// Progress is how a job says how far it is.
type Progress struct {
	queue *Queue
	work  *work
}

// Set says how much of how much is done, and waits while the job is paused. A nil Progress takes it and tells nobody.
func (p *Progress) Set(done, total int) {
	if p == nil {
		return
	}
	p.set(done, total)
	p.queue.mu.Lock()
	turn := p.work.turn
	p.queue.mu.Unlock()
	select {
	case <-turn:
	case <-p.work.ctx.Done():
	}
}

// JobID is the id of the job that progresses.
func (p *Progress) JobID() string { return p.work.job.ID }

func (p *Progress) set(done, total int) {
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

// Begin is Start, and gives the job as it stands, which may be one that was under way already.
func (q *Queue) Begin(ctx context.Context, a Asked, do func(context.Context, *Progress) (any, error)) Job {
	w := q.start(ctx, a, do)
	q.mu.Lock()
	defer q.mu.Unlock()
	return w.job
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
	w := &work{asked: a, shown: a.Patient, kept: a.ID != "", ctx: own, cancel: cancel, over: make(chan struct{}), turn: make(chan struct{}),
		job: Job{ID: cmp.Or(a.ID, q.NewID()), Kind: a.Kind, BatchID: a.BatchID, Subject: a.Subject, Who: a.Who, State: Waiting, Since: time.Now().UTC(), Pausable: a.Patient}}
	if q.closing {
		cancel()
		w.err = ErrStopped
		close(w.over)
		return w
	}
	if q.under == nil {
		q.under, q.lanes = map[string]*work{}, map[Kind]*lane{}
	}
	if q.lanes[a.Kind] == nil {
		q.lanes[a.Kind] = &lane{}
	}
	q.under[a.Key] = w
	w.lane = q.lanes[a.Kind]
	w.lane.join(w)
	q.running.Go(func() { q.run(w, do) })
	return w
}

func (q *Queue) run(w *work, do func(context.Context, *Progress) (any, error)) {
	defer w.cancel()
	patience := Patience
	if w.asked.Patient {
		patience = 0
	}
	shown := time.AfterFunc(patience, func() { q.show(w) })
	defer shown.Stop()
	q.mu.Lock()
	turn := w.turn
	q.mu.Unlock()
	select {
	case <-turn:
		w.value, w.err = safely(w.ctx, &Progress{q, w}, do)
	case <-w.ctx.Done():
		w.err = w.ctx.Err()
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
	w.lane.leave(w)
	now := time.Now().UTC()
	w.job.Ended = &now
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
		if t, tells := w.value.(Telling); tells {
			w.job.Outcome = t.Tell()
		}
	}
	w.job.LeftS = nil
	delete(q.under, w.asked.Key)
	goesOn := q.closing && w.job.State == Stopped // it is taken up again
	shown := w.shown || w.asked.Patient
	if shown {
		q.ended = append(q.ended, w.job)
		if len(q.ended) > EndedKept {
			q.ended = slices.Delete(q.ended, 0, 1)
		}
		q.tell(w.job)
	}
	forget := w.joined
	if w.kept {
		forget = append(forget, w.job.ID)
	}
	if goesOn {
		forget = nil
	}
	job := w.job
	close(w.over)
	q.mu.Unlock()
	if shown && !goesOn && q.Keeper != nil {
		if err := q.Keeper.EndJob(job); err != nil {
			slog.Error("a job that has ended is not kept", "job", job.Subject, "error", err)
		}
	}
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

// Recall lists jobs that ended before the program was started, the oldest first.
func (q *Queue) Recall(ended []Job) {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.ended = append(slices.Clone(ended), q.ended...)
	q.ended = q.ended[max(0, len(q.ended)-EndedKept):]
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
