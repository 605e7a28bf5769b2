package lab

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"

	"yugen/jobs"
	"yugen/lab/record"
	"yugen/store"
)

// Backup is a backup that was written and checked.
type Backup struct {
	Folder string `json:"folder"`
}

// Backup writes a copy of everything into a new folder below the installation's, checked.
func (l *Lab) Backup(ctx context.Context, who string) (Backup, error) {
	return l.backup(ctx, who, "")
}

func (l *Lab) backup(ctx context.Context, who, jobID string) (Backup, error) {
	if l.Backups == "" {
		return Backup{}, refuse("no folder for backups is named; start with --backups, or use yugen backup")
	}
	asked := jobs.Asked{ID: jobID, Kind: jobs.Backup, Key: "backup", Subject: "everything", Who: who, Args: "{}"}
	dir, err := l.Jobs.Do(ctx, asked, func(ctx context.Context, p *jobs.Progress) (any, error) {
		folder, err := l.store.Backup(ctx, l.Backups, p.Set)
		return backedUp(folder), err
	})
	switch {
	case errors.Is(err, jobs.ErrStopped), ctx.Err() != nil:
		return Backup{}, err
	case err != nil:
		return Backup{}, refuse("%s", err)
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		_, err := t.Record(store.Change{Who: who, Action: store.BackupAction, Subject: "everything, to " + string(dir.(backedUp))})
		return err
	})
	return Backup{string(dir.(backedUp))}, err
}

// backedUp is the folder that a backup stands in.
type backedUp string

// Tell says where it is.
func (b backedUp) Tell() string { return "opened again and checked, in " + string(b) }

// Check is Verify as a job.
func (l *Lab) Check(ctx context.Context, who string) (record.Verification, error) {
	return l.check(ctx, who, "")
}

func (l *Lab) check(ctx context.Context, who, jobID string) (record.Verification, error) {
	asked := jobs.Asked{ID: jobID, Kind: jobs.Check, Key: "check", Subject: "everything", Who: who, Args: "{}"}
	v, err := l.Jobs.Do(ctx, asked, func(ctx context.Context, p *jobs.Progress) (any, error) { return l.Verify(ctx, p.Set) })
	if err != nil {
		return record.Verification{}, err
	}
	return v.(record.Verification), nil
}

// Resume takes up what was under way when the program was stopped: files that had arrived, and jobs.
func (l *Lab) Resume(ctx context.Context) error {
	if err := l.store.DropHalves(); err != nil {
		return err
	}
	arrived, err := l.store.Arrivals()
	if err != nil {
		return err
	}
	for _, a := range arrived {
		if _, err := l.Batch(ctx, a.BatchID); errors.Is(err, store.ErrNotFound) { // of a folder that was restored to an earlier state
			slog.Warn("an arrived file belongs to no batch and is left where it is", "file", a.Name)
			continue
		} else if err != nil {
			return err
		}
		l.intake.Arrive(a)
		l.takeIn(ctx, a.BatchID, a.Who)
	}
	var kept []store.KeptJob
	if err := l.store.Read(ctx, func(t *store.Tx) error {
		if kept, err = t.Jobs(); err != nil {
			return err
		}
		ended, err := t.EndedJobs(jobs.EndedKept)
		l.Jobs.Recall(ended)
		return err
	}); err != nil {
		return err
	}
	for _, j := range kept {
		go l.again(ctx, j)
	}
	go func() {
		if err := l.FillShelf(ctx); err != nil && ctx.Err() == nil {
			slog.Error("not everything that is reported is found on the shelf", "error", err)
		}
	}()
	return nil
}

// again does the work of a job that was stopped with the program.
func (l *Lab) again(ctx context.Context, j store.KeptJob) {
	err := func() error {
		switch j.Kind {
		case jobs.Result:
			b, err := l.Batch(ctx, j.BatchID)
			if err == nil {
				_, err = l.processedAgain(ctx, b, j.ID)
			}
			return err
		case jobs.Report:
			var asked reportAsked
			if err := json.Unmarshal([]byte(j.Args), &asked); err != nil {
				return err
			}
			_, err := l.keepReportOnce(ctx, j, asked)
			return err
		case jobs.Set:
			return l.runSet(ctx, j.BatchID, j.Args, j.Who, j.ID)
		case jobs.Backup:
			_, err := l.backup(ctx, j.Who, j.ID)
			return err
		case jobs.Resolve:
			return l.resolvedAgain(ctx, j)
		case jobs.Process:
			return l.processAgainResumed(ctx, j)
		case jobs.Check:
			_, err := l.check(ctx, j.Who, j.ID)
			return err
		}
		return fmt.Errorf("nobody knows jobs of the kind %s", j.Kind)
	}()
	if err == nil || l.Jobs.Closing() || errors.Is(err, jobs.ErrStopped) {
		return
	}
	slog.Error("a job is not taken up again", "job", j.Subject, "kind", j.Kind, "error", err)
	if err := l.store.DropJob(j.ID); err != nil {
		slog.Error("a job that cannot be done is still remembered", "error", err)
	}
}
