package lab

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"runtime"

	"golang.org/x/sync/errgroup"

	"yugen/jobs"
	"yugen/lab/taking"
	"yugen/store"
)

// Arrive puts a file down that was sent to a batch; a job takes it in with all others that wait. It is safe from here on, even when the program is stopped.
func (l *Lab) Arrive(ctx context.Context, batchID, name string, body io.Reader, who string) (taking.Arrived, error) {
	a, err := l.arrive(ctx, batchID, name, body, who)
	if err != nil {
		return taking.Arrived{}, err
	}
	l.takeIn(ctx, batchID, who)
	return taking.Arrived{ID: a.ID, Outcome: taking.Outcome{File: a.Name, Status: taking.Coming}}, nil
}

func (l *Lab) arrive(ctx context.Context, batchID, name string, body io.Reader, who string) (*taking.Waiting, error) {
	if err := l.store.Read(ctx, func(t *store.Tx) error { return errors.Join(t.HasBatch(batchID), t.MayChange(batchID)) }); err != nil {
		return nil, err
	}
	a, err := l.store.Arrive(store.Arrival{BatchID: batchID, Name: taking.FileName(name), Who: who, Place: store.PlaceOf(ctx)}, body)
	if err != nil {
		return nil, err
	}
	return l.intake.Arrive(a), nil
}

// Receive is Arrive, and waits until the file is in or refused.
func (l *Lab) Receive(ctx context.Context, batchID, name string, body io.Reader, who string) (taking.Outcome, error) {
	a, err := l.arrive(ctx, batchID, name, body, who)
	if err != nil {
		return taking.Outcome{}, err
	}
	for {
		over := l.takeIn(ctx, batchID, who)
		select {
		case <-a.Over:
			return a.Out, nil
		case <-ctx.Done():
			return taking.Outcome{}, ctx.Err()
		case <-over: // the job looked for more just before this file came, or was stopped
		}
		select {
		case <-a.Over:
			return a.Out, nil
		default:
			if l.Jobs.Closing() {
				return taking.Outcome{}, refuse("Yugen is being stopped; the file has arrived and is taken in at the next start")
			}
		}
	}
}

// Arrivals lists the files that were sent to a batch since the program started, in the order in which they came.
func (l *Lab) Arrivals(batchID string) []taking.Arrived {
	return l.intake.List(batchID)
}

// takeIn starts the job that takes in what waits for a batch, where it is not under way.
func (l *Lab) takeIn(ctx context.Context, batchID, who string) <-chan struct{} {
	return l.Jobs.Start(ctx, jobs.Asked{Kind: jobs.TakeIn, Key: "files " + batchID, BatchID: batchID, Subject: "files", Who: who}, func(ctx context.Context, p *jobs.Progress) (any, error) {
		for {
			p.Set(l.intake.Counts(batchID))
			group := l.intake.Next(batchID)
			if len(group) == 0 {
				return nil, nil
			}
			if ctx.Err() == nil {
				l.intake.End(batchID, group, l.takeInTogether(ctx, batchID, group))
				continue
			}
			if l.Jobs.Closing() { // the files stay where they are until the next start
				return nil, ctx.Err()
			}
			outcomes := make([]taking.Outcome, len(group))
			for i, a := range group {
				outcomes[i] = taking.Outcome{File: a.Name, Status: taking.Stopped}
				l.leave(a)
			}
			l.intake.End(batchID, group, outcomes)
		}
	})
}

// takeInTogether reads files on all processors and keeps them in one transaction; where that fails, one by one.
func (l *Lab) takeInTogether(ctx context.Context, batchID string, group []*taking.Waiting) []taking.Outcome {
	ctx = store.From(context.WithoutCancel(ctx), group[0].Place) // what has begun is ended
	files := make([]taking.File, len(group))
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
				slog.Error("a file is not taken in", "file", files[i].Out.File, "error", err)
				one = []taking.Outcome{{File: files[i].Out.File, Status: taking.Refused, Message: notKept(err)}}
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
	switch {
	case errors.Is(err, store.ErrDisk):
		return Reason(err)
	case errors.Is(err, store.ErrSigned): // while it waited
		return "The batch was signed before this file was taken in. Unlock it, and send the file again."
	}
	return "It could not be kept; the log says why. Send it again."
}

func (l *Lab) decodeArrived(a *taking.Waiting) (d taking.File) {
	d.Out = taking.Outcome{File: a.Name, Status: taking.Refused}
	defer func() {
		if r := recover(); r != nil {
			slog.Error("a file fails its reader", "file", a.Name, "panic", r)
			d.Out.Status, d.Out.Message = taking.Refused, fmt.Sprintf("It cannot be read; it fails Yugen's reader (%v).", r)
		}
	}()
	ctx := context.Background()
	f, err := l.store.Arrived(a.ID)
	if err == nil {
		defer f.Close()
		var from taking.Source
		if from, err = l.reading(ctx, a.BatchID, a.Profile, taking.Source{ReaderAt: f, Size: f.Arrival.Size}); err == nil {
			d, err = taking.Keep(ctx, l.store, a.Name, from, a.Who, l.looks.release(a.ID))
			d.Apart = a.Apart
		}
	}
	if err != nil {
		d.Out.Status, d.Out.Message = taking.Refused, Reason(err)
	}
	return d
}

// leave takes the file of an arrival away. Where that fails it comes again at the next start, which changes nothing.
func (l *Lab) leave(a *taking.Waiting) {
	l.looks.release(a.ID)
	if err := l.store.Leave(a.ID); err != nil {
		slog.Error("an arrived file stays where it is", "file", a.Name, "error", err)
	}
}
