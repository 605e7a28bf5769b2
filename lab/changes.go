package lab

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/store"
)

// errUnreasoned is of a change to a reported batch for which no reason was given.
var errUnreasoned = errors.New("no reason was given")

// errNothing is of a change after which everything is as it was: it is no step, and stands in no row of the record.
var errNothing = errors.New("nothing changes")

// make reads a batch, lets plan say what changes, writes it with its row of the record, and tells the watchers. revision is
// what the caller read; 0 takes any. Once a batch has been reported, a change that moves what is displayed needs a reason.
func (l *Lab) make(ctx context.Context, batchID string, revision int, who string, plan func(*store.Tx, store.Batch) (change.Change, error)) (store.Batch, error) {
	after, err := l.write(ctx, batchID, revision, who, plan, false)
	if errors.Is(err, errUnreasoned) {
		if err := l.movesNothing(ctx, batchID, plan); err != nil {
			return store.Batch{}, err
		}
		after, err = l.write(ctx, batchID, revision, who, plan, true)
	}
	if err == nil {
		l.watch.tell(Event{BatchID: batchID, Revision: after.Revision})
	}
	return after, err
}

func (l *Lab) write(ctx context.Context, batchID string, revision int, who string, plan func(*store.Tx, store.Batch) (change.Change, error), unreasoned bool) (after store.Batch, err error) {
	err = l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		c, err := plan(t, b)
		if errors.Is(err, errNothing) {
			after = b
			return nil
		}
		if err != nil {
			return err
		}
		if b.Reported && c.Why == "" && !unreasoned {
			return errUnreasoned
		}
		if _, err := t.Touch(batchID, revision); err != nil {
			return err
		}
		if err := c.After.Apply(t, batchID); err != nil {
			return err
		}
		if _, err := t.Record(store.Change{Who: who, BatchID: batchID, Action: c.Action, Subject: c.Subject, Why: c.Why, Before: change.JSON(c.Before), After: change.JSON(c.After)}); err != nil {
			return err
		}
		after, err = t.Batch(batchID)
		return err
	})
	return after, err
}

// movesNothing refuses a change that moves an amount, a flag or a check of a batch as it is displayed. Nothing is kept of the trial, and nothing is computed
// while the store waits.
func (l *Lab) movesNothing(ctx context.Context, batchID string, plan func(*store.Tx, store.Batch) (change.Change, error)) error {
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return err
	}
	var after store.Batch
	if err := l.store.Try(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		c, err := plan(t, b)
		if err != nil {
			return err
		}
		if err := c.After.Apply(t, batchID); err != nil {
			return err
		}
		after, err = t.Batch(batchID)
		return err
	}); err != nil {
		return err
	}
	r, err := l.with(ctx, after, after.Version.Method)
	if err != nil {
		return err
	}
	if what := moved(now.Batch, now.Result, after, r); what != "" {
		return refuseAt("/reason", "%s has been reported, and this changes %s: say why", now.Batch.Name, what)
	}
	return nil
}

// EntryChange sets one field of one line of the run list, as text.
type EntryChange struct {
	InjectionID string      `json:"injection_id"`
	Field       batch.Field `json:"field"`
	Value       string      `json:"value"`
}

// maxEntryChanges bounds what one request may set: 5 000 injections with all their fields.
const maxEntryChanges = 40_000

// ChangeEntries sets fields of the run list, all or none.
func (l *Lab) ChangeEntries(ctx context.Context, batchID string, revision int, changes []EntryChange, reason, who string) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	if len(changes) == 0 || len(changes) > maxEntryChanges {
		return store.Batch{}, refuse("a change sets between 1 and %d fields, not %d", maxEntryChanges, len(changes))
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		c := change.Change{Action: change.RunListAction, Why: reason, Before: change.State{Entries: map[string]batch.Entry{}}, After: change.State{Entries: map[string]batch.Entry{}}}
		for i, ch := range changes {
			in, err := injection(b, ch.InjectionID)
			if err != nil {
				return c, err
			}
			entry, begun := c.After.Entries[in.ID]
			if !begun {
				entry = in.Entry
				c.Before.Entries[in.ID] = in.Entry
			}
			if err := setField(&entry, b.OwnColumns, ch.Field, ch.Value); err != nil {
				return c, refuseAt(fmt.Sprintf("/changes/%d/value", i), "%s: %s", in.Name, err)
			}
			c.After.Entries[in.ID] = entry
		}
		c.Subject = fmt.Sprintf("%d fields", len(changes))
		if len(changes) == 1 {
			in, _ := injection(b, changes[0].InjectionID)
			c.Subject = fmt.Sprintf("%s of %s", changes[0].Field, in.Name)
		}
		return c, nil
	})
}

// Reorder puts an injection elsewhere in run order (position counts from 1).
func (l *Lab) Reorder(ctx context.Context, batchID string, revision int, injectionID string, position int, reason, who string) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		in, err := injection(b, injectionID)
		if err != nil {
			return change.Change{}, err
		}
		if position < 1 || position > len(b.Injections) {
			return change.Change{}, refuseAt("/position", "the run order has places 1 to %d, not %d", len(b.Injections), position)
		}
		before := change.Order(b)
		after := slices.DeleteFunc(slices.Clone(before), func(id string) bool { return id == injectionID })
		after = slices.Insert(after, position-1, injectionID)
		if slices.Equal(before, after) {
			return change.Change{}, errNothing
		}
		return change.Change{Action: "run order", Subject: in.Name, Why: reason, Before: change.State{Order: before}, After: change.State{Order: after}}, nil
	})
}

// Remove takes an injection out of a batch, as when a wrong file came in. Its raw file stays, and undo brings it back.
func (l *Lab) Remove(ctx context.Context, batchID string, revision int, injectionID, reason, who string) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		in, err := injection(b, injectionID)
		if err != nil {
			return change.Change{}, err
		}
		return change.Change{Action: "remove", Subject: in.Name, Why: reason, Before: change.State{Back: []store.Injection{in}, Order: change.Order(b)}, After: change.State{Gone: []string{in.ID}}}, nil
	})
}

// SaveMethod saves a new version of a batch's method and processes the batch with it from now on.
func (l *Lab) SaveMethod(ctx context.Context, batchID string, revision int, m batch.Method, reason, who string) (store.Batch, error) {
	m = m.Today()
	if err := valid(m); err != nil {
		return store.Batch{}, err
	}
	if reason = strings.TrimSpace(reason); reason == "" || len(reason) > maxReason {
		return store.Batch{}, refuseAt("/reason", "a new method version needs a reason of at most %d characters", maxReason)
	}
	if err := l.validFields(ctx, batchID, m); err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		if err := knownCompounds(b, m); err != nil {
			return change.Change{}, err
		}
		return newVersion(t, b, m, reason, who)
	})
}

// newVersion is the change of a batch to a new version of its method.
func newVersion(t *store.Tx, b store.Batch, m batch.Method, reason, who string) (change.Change, error) {
	if err := valid(m); err != nil {
		return change.Change{}, err
	}
	v, err := t.SaveVersion(b.Version.MethodID, who, reason, m)
	return toVersion(b, v, reason), err
}

// toVersion is the change of a batch to a version of its method that is saved.
func toVersion(b store.Batch, v store.Version, reason string) change.Change {
	c := change.Change{Action: "method", Subject: fmt.Sprintf("%s, version %d", v.Name, v.Number), Why: reason, Before: change.State{Version: b.Version.ID}, After: change.State{Version: v.ID, VersionHash: v.Hash}}
	if !b.OwnChoices && (len(b.Choices.LeftOut) > 0 || len(b.Choices.Levels) > 0) { // what the early version said of injections stays with the batch
		c.Before.ByVersion, c.After.Choices = true, &b.Choices
	}
	return c
}

// valid refuses a method that cannot be, and tells which part of it.
func valid(m batch.Method) error {
	if err := compounds.Bounded(m.Compounds); err != nil {
		return refuseAt("/method/compounds", "%s", err)
	}
	err := m.Validate()
	if err == nil {
		return nil
	}
	pointer := "/method"
	var part batch.PartError
	if errors.As(err, &part) {
		pointer += "/" + part.Part
	}
	return refuseAt(pointer, "%s", err)
}

// knownCompounds refuses a method that newly names a compound which is not there: it would silently do nothing. What the version before named already may
// have been removed since, and comes back with undo.
func knownCompounds(b store.Batch, m batch.Method) error {
	for _, id := range slices.Sorted(maps.Keys(m.Curves.Own)) {
		_, named := b.Version.Method.Curves.Own[id]
		if !named && !hasCompound(m, id) {
			return refuseAt("/method/curves/own", "own: there is no compound %q in this method", id)
		}
	}
	return nil
}

func hasCompound(m batch.Method, id string) bool {
	return slices.ContainsFunc(m.Compounds, func(c compounds.Compound) bool { return c.ID == id })
}

// maxReason bounds the reason of a change, in bytes.
const maxReason = 500

// bounded is a reason without blanks around it, within its bound.
func bounded(reason string) (string, error) {
	if reason = strings.TrimSpace(reason); len(reason) > maxReason {
		return "", refuseAt("/reason", "a reason has at most %d characters, this one has %d", maxReason, len(reason))
	}
	return reason, nil
}

// maxEdits bounds the edits of one injection.
const maxEdits = 1000

// AddEdit adds a change made by hand to one injection's integration.
func (l *Lab) AddEdit(ctx context.Context, batchID string, revision int, injectionID string, e peaks.Edit, reason, who string) (store.Batch, error) {
	if err := e.Validate(); err != nil {
		return store.Batch{}, refuseAt("/edit", "%s", err)
	}
	return l.setEdits(ctx, batchID, revision, injectionID, reason, who, func(edits []peaks.Edit) (string, []peaks.Edit, error) {
		if len(edits) >= maxEdits {
			return "", nil, refuse("an injection has at most %d edits", maxEdits)
		}
		return e.String(), append(slices.Clone(edits), e), nil
	})
}

// TakeBack takes back one edit, or all of them with index -1 ("Lift all edits").
func (l *Lab) TakeBack(ctx context.Context, batchID string, revision int, injectionID string, index int, reason, who string) (store.Batch, error) {
	return l.setEdits(ctx, batchID, revision, injectionID, reason, who, func(edits []peaks.Edit) (string, []peaks.Edit, error) {
		switch {
		case index == -1:
			return fmt.Sprintf("take back %s", plural(len(edits), "edit")), []peaks.Edit{}, nil
		case index < 0 || index >= len(edits):
			return "", nil, refuseAt("/index", "there is no edit %d to take back", index+1)
		}
		return "take back " + edits[index].String(), slices.Delete(slices.Clone(edits), index, index+1), nil
	})
}

func (l *Lab) setEdits(ctx context.Context, batchID string, revision int, injectionID, reason, who string, next func([]peaks.Edit) (what string, edits []peaks.Edit, err error)) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		in, err := injection(b, injectionID)
		if err != nil {
			return change.Change{}, err
		}
		what, edits, err := next(in.Edits)
		if err != nil {
			return change.Change{}, err
		}
		return change.Change{
			Action: "edit", Subject: what + " in " + in.Name, Why: reason,
			Before: change.State{Edits: map[string][]peaks.Edit{in.ID: in.Edits}}, After: change.State{Edits: map[string][]peaks.Edit{in.ID: edits}},
		}, nil
	})
}
