package lab

import (
	"context"
	"errors"
	"log/slog"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"yugen/bench"
	"yugen/core/checks"
	"yugen/lab/change"
	"yugen/store"
)

// ShelfChange is what is said of a batch's place on the shelf: another name, put away or taken out; nil leaves what is.
type ShelfChange struct {
	Name   *string `json:"name"`
	Away   *bool   `json:"away"`
	Reason string  `json:"reason,omitempty"`
}

// ChangeShelf renames a batch, puts it away or takes it out again. Nothing in it changes, and undo brings back what was.
func (l *Lab) ChangeShelf(ctx context.Context, batchID string, revision int, s ShelfChange, who string) (store.Batch, error) {
	reason, err := bounded(s.Reason)
	if err != nil {
		return store.Batch{}, err
	}
	name := ""
	if s.Name != nil {
		if name = strings.TrimSpace(*s.Name); name == "" || len(name) > maxName {
			return store.Batch{}, refuseAt("/name", "a batch needs a name of at most %d characters", maxName)
		}
	}
	b, err := l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		c := change.Change{Action: "shelf", Why: reason}
		var said []string
		if name != "" && name != b.Name {
			c.Before.Name, c.After.Name = b.Name, name
			said = append(said, b.Name+" is called "+name)
		}
		if s.Away != nil && *s.Away != b.Away {
			away := b.Away
			c.Before.Away, c.After.Away = &away, s.Away
			said = append(said, map[bool]string{true: "put away", false: "taken out again"}[*s.Away])
		}
		if len(said) == 0 {
			return c, refuse("%s is so already", b.Name)
		}
		if c.After.Name == "" {
			c.Action = store.AwayAction
		}
		c.Subject = strings.Join(said, ", ")
		return c, nil
	})
	if errors.Is(err, store.ErrTaken) {
		return b, refuseAt("/name", "the study has another batch called %s", name)
	}
	return b, err
}

// BatchNotices are how many notices of a batch nobody has settled. Batches whose results are not kept as they stand are left out: nothing is computed for a
// look at the shelf.
type BatchNotices struct {
	BatchID string `json:"batch_id"`
	Open    int    `json:"open"`
	First   string `json:"first"` // the weightiest of them
}

// shelfCounts remembers counts by batch and revision.
type shelfCounts struct {
	mu   sync.Mutex
	held map[string]shelfCount
}

type shelfCount struct {
	revision, open int
	first          string
}

// Notices counts the open notices of all batches that are not put away.
func (l *Lab) Notices(ctx context.Context) ([]BatchNotices, error) {
	studies, err := l.Studies(ctx)
	if err != nil {
		return nil, err
	}
	out := []BatchNotices{}
	for _, s := range studies {
		for _, listed := range s.Batches {
			if listed.Away {
				continue
			}
			n, first, known, err := l.openNotices(ctx, listed)
			if err != nil {
				return nil, err
			}
			if known {
				out = append(out, BatchNotices{listed.ID, n, first})
			}
		}
	}
	return out, nil
}

func (l *Lab) openNotices(ctx context.Context, listed store.Listing) (n int, first string, known bool, err error) {
	l.counts.mu.Lock()
	held, ok := l.counts.held[listed.ID]
	l.counts.mu.Unlock()
	if ok && held.revision == listed.Revision {
		return held.open, held.first, true, nil
	}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		b, err := t.Batch(listed.ID)
		if err != nil {
			return err
		}
		r, err := t.Result(b.ID, inputsHash(b))
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		weighty := false
		for _, notice := range r.Notices {
			if slices.Contains(b.Settled, notice.Key) {
				continue
			}
			if n++; first == "" || notice.Weight == checks.Decide && !weighty {
				first, weighty = notice.Subject+": "+notice.Text, notice.Weight == checks.Decide
			}
		}
		known = err == nil
		return err
	})
	if known {
		l.counts.mu.Lock()
		if l.counts.held == nil {
			l.counts.held = map[string]shelfCount{}
		}
		l.counts.held[listed.ID] = shelfCount{listed.Revision, n, first}
		l.counts.mu.Unlock()
	}
	return n, first, known, err
}

// OpenDemo brings the demo's studies in where they are not there, and gives the batch to open first. Their results are made meanwhile, one batch after the other, so
// that the shelf says what wants eyes before somebody has opened each.
func (l *Lab) OpenDemo(ctx context.Context) (string, error) {
	id, err := l.LoadDemo(ctx, filepath.Join(l.store.Folder(), "demo"))
	if err == nil {
		go l.processDemo(context.WithoutCancel(ctx))
	}
	return id, err
}

func (l *Lab) processDemo(ctx context.Context) {
	for _, demo := range bench.Demos() {
		id, there, err := l.demoThere(ctx, demo)
		if err == nil && there {
			_, err = l.Process(ctx, id)
		}
		if l.Jobs.Closing() {
			return
		}
		if err != nil {
			slog.Warn("a batch of the demo has no results yet; they are made when it is opened", "batch", demo.Batch, "error", err)
		}
	}
}
