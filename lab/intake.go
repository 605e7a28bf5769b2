package lab

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"runtime"
	"slices"
	"sync"

	"golang.org/x/sync/errgroup"

	"yugen/jobs"
	"yugen/store"
)

// Arrived is a file that was sent to a batch, and what has become of it.
type Arrived struct {
	ID string `json:"id"`
	Outcome
}

const (
	// togetherFiles and togetherBytes bound how much is read before it is kept in one transaction, and so what lies in memory at once. One file larger than
	// that comes alone.
	togetherFiles = 8
	togetherBytes = 32 << 20
	// arrivedTold is of how many files per batch the outcome can still be asked.
	arrivedTold = 5000
)

// intake knows the files that have arrived since the program started, by batch.
type intake struct {
	mu      sync.Mutex
	batches map[string]*arrivals
}

// arrivals are the files of one batch, in the order in which they came.
type arrivals struct {
	all     []*arriving
	ended   int // of those since nothing waited
	waiting []*arriving
}

type arriving struct {
	store.Arrival
	out  Outcome
	over chan struct{} // closed when the outcome is known
}

func (n *intake) arrive(a store.Arrival) *arriving {
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.batches == nil {
		n.batches = map[string]*arrivals{}
	}
	b := n.batches[a.BatchID]
	if b == nil {
		b = &arrivals{}
		n.batches[a.BatchID] = b
	}
	one := &arriving{a, Outcome{File: a.Name, Status: Coming}, make(chan struct{})}
	b.all, b.waiting = append(b.all, one), append(b.waiting, one)
	if len(b.all) > arrivedTold {
		b.all = slices.Delete(b.all, 0, len(b.all)-arrivedTold)
	}
	return one
}

// next gives the files that come in together: of one person and place, bounded.
func (n *intake) next(batchID string) []*arriving {
	n.mu.Lock()
	defer n.mu.Unlock()
	b := n.batches[batchID]
	if b == nil {
		return nil
	}
	size := int64(0)
	group := []*arriving{}
	for _, a := range b.waiting {
		size += a.Size
		if len(group) == togetherFiles || len(group) > 0 && (size > togetherBytes || a.Who != group[0].Who || a.Place != group[0].Place) {
			break
		}
		group = append(group, a)
	}
	return group
}

// end says what became of files, which wait no longer.
func (n *intake) end(batchID string, files []*arriving, outcomes []Outcome) {
	n.mu.Lock()
	defer n.mu.Unlock()
	b := n.batches[batchID]
	for i, a := range files {
		a.out = outcomes[i]
		close(a.over)
	}
	b.waiting, b.ended = b.waiting[len(files):], b.ended+len(files)
}

// counts gives how many files have ended, of how many, since nothing waited.
func (n *intake) counts(batchID string) (ended, all int) {
	n.mu.Lock()
	defer n.mu.Unlock()
	b := n.batches[batchID]
	if b == nil { // nothing has come since the program started
		return 0, 0
	}
	ended, all = b.ended, b.ended+len(b.waiting)
	if len(b.waiting) == 0 {
		b.ended = 0
	}
	return ended, all
}

// Arrive puts a file down that was sent to a batch; a job takes it in with all others that wait. It is safe from here on, even when the program is stopped.
func (l *Lab) Arrive(ctx context.Context, batchID, name string, body io.Reader, who string) (Arrived, error) {
	a, err := l.arrive(ctx, batchID, name, body, who)
	if err != nil {
		return Arrived{}, err
	}
	l.takeIn(ctx, batchID, who)
	return Arrived{a.ID, Outcome{File: a.Name, Status: Coming}}, nil
}

func (l *Lab) arrive(ctx context.Context, batchID, name string, body io.Reader, who string) (*arriving, error) {
	if err := l.store.Read(ctx, func(t *store.Tx) error { return t.HasBatch(batchID) }); err != nil {
		return nil, err
	}
	a, err := l.store.Arrive(store.Arrival{BatchID: batchID, Name: fileName(name), Who: who, Place: store.PlaceOf(ctx)}, body)
	if err != nil {
		return nil, err
	}
	return l.intake.arrive(a), nil
}

// Receive is Arrive, and waits until the file is in or refused.
func (l *Lab) Receive(ctx context.Context, batchID, name string, body io.Reader, who string) (Outcome, error) {
	a, err := l.arrive(ctx, batchID, name, body, who)
	if err != nil {
		return Outcome{}, err
	}
	for {
		over := l.takeIn(ctx, batchID, who)
		select {
		case <-a.over:
			return a.out, nil
		case <-ctx.Done():
			return Outcome{}, ctx.Err()
		case <-over: // the job looked for more just before this file came, or was stopped
		}
		select {
		case <-a.over:
			return a.out, nil
		default:
			if l.Jobs.Closing() {
				return Outcome{}, refuse("Yugen is being stopped; the file has arrived and is taken in at the next start")
			}
		}
	}
}

// Arrivals lists the files that were sent to a batch since the program started, in the order in which they came.
func (l *Lab) Arrivals(batchID string) []Arrived {
	l.intake.mu.Lock()
	defer l.intake.mu.Unlock()
	list := []Arrived{}
	if b := l.intake.batches[batchID]; b != nil {
		for _, a := range b.all {
			list = append(list, Arrived{a.ID, a.out})
		}
	}
	return list
}

// takeIn starts the job that takes in what waits for a batch, where it is not under way.
func (l *Lab) takeIn(ctx context.Context, batchID, who string) <-chan struct{} {
	return l.Jobs.Start(ctx, jobs.Asked{Kind: jobs.TakeIn, Key: "files " + batchID, BatchID: batchID, Subject: "files", Who: who}, func(ctx context.Context, p *jobs.Progress) (any, error) {
		for {
			p.Set(l.intake.counts(batchID))
			group := l.intake.next(batchID)
			if len(group) == 0 {
				return nil, nil
			}
			if ctx.Err() == nil {
				l.intake.end(batchID, group, l.takeInTogether(ctx, batchID, group))
				continue
			}
			if l.Jobs.Closing() { // the files stay where they are until the next start
				return nil, ctx.Err()
			}
			outcomes := make([]Outcome, len(group))
			for i, a := range group {
				outcomes[i] = Outcome{File: a.Name, Status: Stopped}
				l.leave(a)
			}
			l.intake.end(batchID, group, outcomes)
		}
	})
}

// takeInTogether reads files on all processors and keeps them in one transaction; where that fails, one by one.
func (l *Lab) takeInTogether(ctx context.Context, batchID string, group []*arriving) []Outcome {
	ctx = store.From(context.WithoutCancel(ctx), group[0].Place) // what has begun is ended
	files := make([]decoded, len(group))
	var readers errgroup.Group
	readers.SetLimit(runtime.GOMAXPROCS(0))
	for i, a := range group {
		readers.Go(func() error {
			files[i] = l.decodeArrived(a)
			return nil
		})
	}
	_ = readers.Wait() // none fails
	outcomes, err := l.add(ctx, batchID, files)
	if err != nil {
		for i := range files {
			one, err := l.add(ctx, batchID, files[i:i+1])
			if err != nil {
				slog.Error("a file is not taken in", "file", files[i].out.File, "error", err)
				one = []Outcome{{File: files[i].out.File, Status: Refused, Message: notKept(err)}}
			}
			outcomes[i] = one[0]
		}
	}
	for _, a := range group {
		l.leave(a)
	}
	return outcomes
}

func notKept(err error) string {
	if errors.Is(err, store.ErrDisk) {
		return Reason(err)
	}
	return "It could not be kept; the log says why. Send it again."
}

func (l *Lab) decodeArrived(a *arriving) (d decoded) {
	d.out = Outcome{File: a.Name, Status: Refused}
	defer func() {
		if r := recover(); r != nil {
			slog.Error("a file fails its reader", "file", a.Name, "panic", r)
			d.out.Status, d.out.Message = Refused, fmt.Sprintf("It cannot be read; it fails Yugen's reader (%v).", r)
		}
	}()
	ctx := context.Background()
	f, err := l.store.Arrived(a.ID)
	if err == nil {
		defer f.Close()
		var from source
		if from, err = l.reading(ctx, a.BatchID, a.Profile, source{f, f.Arrival.Size}); err == nil {
			d, err = l.keeping(ctx, a.Name, from, a.Who)
			d.apart = a.Apart
		}
	}
	if err != nil {
		d.out.Status, d.out.Message = Refused, Reason(err)
	}
	return d
}

// leave takes the file of an arrival away. Where that fails it comes again at the next start, which changes nothing.
func (l *Lab) leave(a *arriving) {
	if err := l.store.Leave(a.ID); err != nil {
		slog.Error("an arrived file stays where it is", "file", a.Name, "error", err)
	}
}
