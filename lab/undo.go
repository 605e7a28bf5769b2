package lab

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"

	"yugen/lab/change"
	"yugen/store"
)

// History is what undo and redo would do next; empty when nothing.
type History struct {
	Undo string `json:"undo"`
	Redo string `json:"redo"`
}

// trail is what can be undone and redone in a batch, as its record says up to some row.
type trail struct {
	last       int64
	undo, redo []store.Step
}

// follow takes the next row.
func (t *trail) follow(s store.Step) {
	t.last = s.Seq
	switch {
	case s.Action == change.UndoAction && len(t.undo) > 0:
		t.undo, t.redo = t.undo[:len(t.undo)-1], append(t.redo, t.undo[len(t.undo)-1])
	case s.Action == change.RedoAction && len(t.redo) > 0:
		t.redo, t.undo = t.redo[:len(t.redo)-1], append(t.undo, t.redo[len(t.redo)-1])
	case s.Undoable:
		t.undo, t.redo = append(t.undo, s), nil
	}
}

// trails holds those of the batches that were looked at last, so that only new rows are read.
type trails struct {
	mu   sync.Mutex
	held map[string]*trail
}

// maxTrails bounds them.
const maxTrails = 64

// of brings the trail of a batch up to date and gives what can be undone and redone next. Rows of a transaction that is not through yet must not be in it.
func (l *trails) of(t *store.Tx, batchID string) (undo, redo *store.Step, err error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	now := l.held[batchID]
	if now == nil {
		if l.held == nil || len(l.held) >= maxTrails {
			l.held = map[string]*trail{}
		}
		now = &trail{}
		l.held[batchID] = now
	}
	steps, err := t.Steps(batchID, now.last)
	if err != nil {
		return nil, nil, err
	}
	for _, s := range steps {
		now.follow(s)
	}
	top := func(list []store.Step) *store.Step {
		if len(list) == 0 {
			return nil
		}
		s := list[len(list)-1]
		return &s
	}
	return top(now.undo), top(now.redo), nil
}

// History tells what can be undone and redone in a batch.
func (l *Lab) History(ctx context.Context, batchID string) (h History, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		undo, redo, err := l.trails.of(t, batchID)
		if undo != nil {
			h.Undo = title(*undo)
		}
		if redo != nil {
			h.Redo = title(*redo)
		}
		return err
	})
	return h, err
}

func title(s store.Step) string { return s.Action + ": " + s.Subject }

// Undo takes back the newest change that is not taken back yet.
func (l *Lab) Undo(ctx context.Context, batchID string, revision int, reason, who string) (store.Batch, error) {
	return l.step(ctx, batchID, revision, reason, who, change.UndoAction)
}

// Redo brings back what was undone last.
func (l *Lab) Redo(ctx context.Context, batchID string, revision int, reason, who string) (store.Batch, error) {
	return l.step(ctx, batchID, revision, reason, who, change.RedoAction)
}

func (l *Lab) step(ctx context.Context, batchID string, revision int, reason, who, action string) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, _ store.Batch) (change.Change, error) {
		undo, redo, err := l.trails.of(t, batchID)
		if err != nil {
			return change.Change{}, err
		}
		next := undo
		if action == change.RedoAction {
			next = redo
		}
		if next == nil {
			return change.Change{}, refuse("there is nothing to %s", action)
		}
		row, err := t.Change(next.Seq)
		if err != nil {
			return change.Change{}, err
		}
		var before, after change.State
		if err := json.Unmarshal([]byte(row.Before), &before); err != nil {
			return change.Change{}, err
		}
		if err := json.Unmarshal([]byte(row.After), &after); err != nil {
			return change.Change{}, err
		}
		if action == change.UndoAction {
			before, after = after, before
		}
		return change.Change{Action: action, Subject: fmt.Sprintf("%s (row %d)", title(*next), row.Seq), Why: reason, Before: before, After: after}, nil
	})
}
