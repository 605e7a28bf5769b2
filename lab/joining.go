package lab

import (
	"context"
	"fmt"
	"slices"

	"yugen/core/channels"
	"yugen/formats"
	"yugen/lab/change"
	"yugen/lab/taking"
	"yugen/store"
)

// joining finds the injection of a batch that a new file belongs to: nil where there is none. Where there are several, nothing is joined and doubt says so.
func joining(t *store.Tx, batchID string, d taking.File) (into *store.Injection, doubt string, err error) {
	near, err := t.InjectionsNear(batchID, d.Out.File, d.Header)
	if err != nil {
		return nil, "", err
	}
	var found []store.Injection
	for _, in := range near {
		if in.Typed == nil && formats.OneInjection(in.FileName, in.Header, d.Out.File, d.Header) {
			found = append(found, in)
		}
	}
	switch len(found) {
	case 0:
		return nil, "", nil
	case 1:
	default:
		return nil, fmt.Sprintf("It could belong to %s or to %s; it stands alone until it is joined by hand.", found[0].FileName, found[1].FileName), nil
	}
	same, err := twins(t, found[0], d.Signals)
	if err != nil || same {
		return nil, "", err
	}
	return &found[0], "", nil
}

// twins tells whether an injection has one of these signals already: the same measurement in another format is no further detector.
func twins(t *store.Tx, in store.Injection, signals []store.Signal) (bool, error) {
	have, err := t.InjectionSignals(in.ID)
	return slices.ContainsFunc(have, func(h store.Signal) bool {
		return slices.ContainsFunc(signals, func(s store.Signal) bool { return channels.Key(h.Name, h.Unit) == channels.Key(s.Name, s.Unit) })
	}), err
}

// withFile is the change that gives an injection a further file. A detector is processed before a condition, whichever came first.
func withFile(t *store.Tx, in store.Injection, f store.FurtherFile, detector int) (change.Change, error) {
	more := append(slices.Clone(in.More), f)
	c := change.Change{Action: "join", Subject: fmt.Sprintf("%s to %s", f.FileName, in.Name),
		Before: change.State{Files: map[string][]store.FurtherFile{in.ID: in.More}}, After: change.State{Files: map[string][]store.FurtherFile{in.ID: more}}}
	have, err := t.InjectionSignals(in.ID)
	if err != nil {
		return c, err
	}
	k := slices.IndexFunc(have, func(s store.Signal) bool { return s.Place == in.Trace })
	if detector >= 0 && k >= 0 && formats.KindOfChannel(have[k].Name, have[k].Unit) == formats.Condition {
		c.Before.Traces, c.After.Traces = map[string]int{in.ID: in.Trace}, map[string]int{in.ID: store.PlaceIn(len(more), detector)}
	}
	return c, nil
}

// Join makes the files of one injection further files of another: they were one injection, measured by several detectors.
func (l *Lab) Join(ctx context.Context, batchID string, revision int, injectionID, otherID, who string) (store.Batch, error) {
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		in, err := injection(b, injectionID)
		if err != nil {
			return change.Change{}, err
		}
		other, err := injection(b, otherID)
		if err != nil {
			return change.Change{}, err
		}
		signals, err := t.InjectionSignals(otherID)
		if err != nil {
			return change.Change{}, err
		}
		same, err := twins(t, in, signals)
		switch {
		case err != nil:
			return change.Change{}, err
		case in.ID == other.ID:
			return change.Change{}, refuse("an injection cannot be joined to itself")
		case in.Typed != nil || other.Typed != nil:
			return change.Change{}, refuse("readings that were typed have no file that could be joined")
		case len(other.Edits) > 0:
			return change.Change{}, refuse("%s has edits by hand, which would be lost; lift them first", other.Name)
		case same:
			return change.Change{}, refuse("%s and %s have a signal of the same name; they are two injections", in.Name, other.Name)
		}
		c, err := withFile(t, in, store.FurtherFile{RawHash: other.RawHash, FileName: other.FileName, Header: other.Header}, -1)
		c.Subject = fmt.Sprintf("%s to %s", other.FileName, in.Name)
		c.After.Files[in.ID] = append(c.After.Files[in.ID], other.More...)
		c.Before.Back, c.Before.Order, c.After.Gone = []store.Injection{other}, change.Order(b), []string{other.ID}
		return c, err
	})
}

// Part makes a further file of an injection an injection of its own again, right behind it.
func (l *Lab) Part(ctx context.Context, batchID string, revision int, injectionID, rawHash, who string) (store.Batch, error) {
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		in, err := injection(b, injectionID)
		if err != nil {
			return change.Change{}, err
		}
		k := slices.IndexFunc(in.More, func(f store.FurtherFile) bool { return f.RawHash == rawHash })
		if k < 0 {
			return change.Change{}, fmt.Errorf("file %.12s of %s: %w", rawHash, in.Name, store.ErrNotFound)
		}
		if _, position, ok := in.SignalAt(in.Trace); ok && in.Trace != position {
			return change.Change{}, refuse("%s is processed by a signal of %s; process another one first", in.Name, in.More[k].FileName)
		}
		f := in.More[k]
		own := store.Injection{Entry: taking.ProposedEntry(f.FileName, f.Header, b.Version.Method.Curves.Unit), RawHash: f.RawHash, FileName: f.FileName, Header: f.Header}
		own.ID = store.NewID()
		run := change.Order(b)
		run = slices.Insert(run, slices.Index(run, in.ID)+1, own.ID)
		return change.Change{Action: "part", Subject: fmt.Sprintf("%s from %s", f.FileName, in.Name),
			Before: change.State{Gone: []string{own.ID}, Files: map[string][]store.FurtherFile{in.ID: in.More}},
			After:  change.State{Files: map[string][]store.FurtherFile{in.ID: slices.Delete(slices.Clone(in.More), k, k+1)}, Back: []store.Injection{own}, Order: run}}, nil
	})
}
