package lab

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"yugen/core/batch"
	"yugen/instrument"
	"yugen/lab/change"
	"yugen/lab/running"
	"yugen/store"
)

// ListAsked is a list that somebody wants measured into a batch.
type ListAsked struct {
	BatchID string `json:"batch_id"`
	// Rows set fields of the run list as text, by field; each has a name and a vial.
	Rows     []map[batch.Field]string `json:"rows"`
	Start    instrument.Start         `json:"start"`
	Ending   instrument.Ending        `json:"ending"`
	RunMin   float64                  `json:"run_min,omitempty"`
	Settings map[string]float64       `json:"settings,omitempty"`
}

// ErrSilent marks an instrument that does not answer.
var ErrSilent = errors.New("silent")

func (l *Lab) postOf(id string) (*post, error) {
	l.bench.mu.Lock()
	defer l.bench.mu.Unlock()
	for _, p := range l.bench.posts {
		if p.id == id {
			return p, nil
		}
	}
	return nil, fmt.Errorf("the instrument %q: %w", id, store.ErrNotFound)
}

// fileOf is the name of the file that a row is written to.
func fileOf(n int, name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
		if b.Len() > 60 {
			break
		}
	}
	return fmt.Sprintf("run-%03d-%s.mzML", n, strings.Trim(b.String(), "-"))
}

// rowOf reads a row, as a line of a run list is read.
func rowOf(listID string, n int, fields map[batch.Field]string, own []batch.OwnColumn, pointer string) (running.Row, error) {
	entry := batch.Entry{Dilution: 1, Factor: 1}
	kept := map[batch.Field]string{}
	for field, text := range fields {
		if text = strings.TrimSpace(text); text == "" {
			continue
		}
		if err := setField(&entry, own, field, text); err != nil {
			return running.Row{}, refuseAt(pointer+"/"+string(field), "row %d: %s", n, err)
		}
		kept[field] = text
	}
	if entry.Name == "" || entry.Vial == "" {
		return running.Row{}, refuseAt(pointer, "row %d needs a name and a vial", n)
	}
	return running.Row{ID: fmt.Sprintf("%s-%d", listID, n), Name: entry.Name, Vial: entry.Vial, Fields: kept, File: fileOf(n, entry.Name)}, nil
}

// StartList gives a list to an instrument. Its lines wait in the batch from then on, and each run is taken in as it ends.
func (l *Lab) StartList(ctx context.Context, id string, asked ListAsked, who string) (BenchPost, error) {
	p, err := l.postOf(id)
	if err != nil {
		return BenchPost{}, err
	}
	p.giving.Lock()
	defer p.giving.Unlock()
	b, err := l.Batch(ctx, asked.BatchID)
	if err != nil {
		return BenchPost{}, err
	}
	if len(asked.Rows) == 0 || len(asked.Rows) > instrument.MaxRows {
		return BenchPost{}, refuseAt("/rows", "a list has 1 to %d rows, not %d", instrument.MaxRows, len(asked.Rows))
	}
	p.mu.Lock()
	old, about := p.journal.List, p.about
	busy := p.state != nil && p.state.ListID != ""
	p.mu.Unlock()
	if about.Name == "" {
		return BenchPost{}, fmt.Errorf("%w: the instrument at %s does not answer", ErrSilent, p.client.Address)
	}
	if busy || old != nil && !old.Ended {
		return BenchPost{}, refuse("%s is at work; end its list first", about.Name)
	}
	list := running.List{ID: store.NewID(), BatchID: b.ID, Who: who, Place: store.PlaceOf(ctx), Method: fmt.Sprintf("%s, version %d", b.Version.Name, b.Version.Number)}
	sent := instrument.List{ID: list.ID, For: b.Name, Start: asked.Start, Ending: asked.Ending, RunMin: asked.RunMin, Settings: asked.Settings}
	first := len(b.Injections) // file names go on where the batch is
	list.Numbered = first + len(asked.Rows)
	for k, fields := range asked.Rows {
		row, err := rowOf(list.ID, first+k+1, fields, b.OwnColumns, fmt.Sprintf("/rows/%d", k))
		if err != nil {
			return BenchPost{}, err
		}
		list.Rows = append(list.Rows, row)
		sent.Rows = append(sent.Rows, instrument.Row{ID: row.ID, Name: row.Name, Vial: row.Vial, State: instrument.RowWaits})
	}
	if err := l.store.Write(ctx, func(t *store.Tx) error {
		if err := t.MayChange(b.ID); err != nil {
			return err
		}
		list.Begun = t.Now()
		if err := waitForRows(t, b.ID, list.Rows); err != nil {
			return err
		}
		_, err := t.Record(store.Change{Who: who, BatchID: b.ID, Action: store.BenchAction, Subject: fmt.Sprintf("%s was given a list of %s", about.Name, plural(len(list.Rows), "injection"))})
		return err
	}); err != nil {
		return BenchPost{}, err
	}
	// The list is on disk before the instrument has it, so that nothing it measures comes to nobody.
	p.mu.Lock()
	p.journal.List, p.trouble, p.liveRow, p.live = &list, nil, "", running.Recording{}
	err = p.journal.Save()
	p.mu.Unlock()
	var state instrument.State
	if err == nil {
		state, err = p.client.Take(ctx, sent, who)
	}
	if err != nil && !errors.Is(err, instrument.ErrRefused) {
		return BenchPost{}, asks(err) // it may have the list; when it answers again it is seen
	}
	if err != nil {
		p.mu.Lock()
		list.Ended = true
		saved := p.journal.Save()
		p.mu.Unlock()
		forgot := l.store.Write(ctx, func(t *store.Tx) error { return forgetLines(t, list) })
		return BenchPost{}, errors.Join(asks(err), saved, forgot)
	}
	p.set(state)
	l.watch.tell(Event{BatchID: b.ID})
	return l.shown(ctx, p)
}

func waitForRows(t *store.Tx, batchID string, rows []running.Row) error {
	lines, err := t.WaitingLines(batchID)
	if err != nil {
		return err
	}
	for _, r := range rows {
		lines = append(lines, store.WaitingLine{File: r.File, Vial: r.Vial, Sample: r.Name, Fields: r.Fields})
	}
	if len(lines) > maxWaiting {
		return refuse("at most %d lines wait in a batch", maxWaiting)
	}
	return t.SetWaitingLines(batchID, lines)
}

// asks turns what an instrument says into what a person hears.
func asks(err error) error {
	if errors.Is(err, instrument.ErrRefused) {
		return refuse("%s", instrument.Sentence(err, instrument.ErrRefused))
	}
	return fmt.Errorf("%w: the instrument does not answer; what it does goes on by itself", ErrSilent)
}

// ActAt asks an instrument for something while it works.
func (l *Lab) ActAt(ctx context.Context, id string, a instrument.Act, fields map[batch.Field]string, who string) (BenchPost, error) {
	p, err := l.postOf(id)
	if err != nil {
		return BenchPost{}, err
	}
	a.Who = who
	if a.Kind == instrument.Adds || a.Kind == instrument.Removes {
		p.giving.Lock()
		defer p.giving.Unlock()
	}
	if a.Kind == instrument.Adds {
		if a.Row, err = l.addRow(ctx, p, fields); err != nil {
			return BenchPost{}, err
		}
	}
	state, err := p.client.Do(ctx, a)
	if err != nil {
		if a.Kind == instrument.Adds && errors.Is(err, instrument.ErrRefused) { // where it only does not answer, it may have the row
			err = errors.Join(err, l.takeRowBack(ctx, p, a.Row.ID))
		}
		return BenchPost{}, asks(err)
	}
	if a.Kind == instrument.Removes {
		if err := l.takeRowBack(ctx, p, a.What); err != nil {
			return BenchPost{}, err
		}
	}
	p.set(state)
	return l.shown(ctx, p)
}

// addRow puts a row at the end of the list, and its line into the batch.
func (l *Lab) addRow(ctx context.Context, p *post, fields map[batch.Field]string) (*instrument.Row, error) {
	p.mu.Lock()
	list := p.journal.List
	p.mu.Unlock()
	if list == nil || list.Ended {
		return nil, refuse("there is no list to add to; start one")
	}
	b, err := l.Batch(ctx, list.BatchID)
	if err != nil {
		return nil, err
	}
	p.mu.Lock()
	n := list.Next()
	p.mu.Unlock()
	row, err := rowOf(list.ID, n, fields, b.OwnColumns, "")
	if err != nil {
		return nil, err
	}
	if err := l.store.Write(ctx, func(t *store.Tx) error {
		return errors.Join(t.MayChange(b.ID), waitForRows(t, b.ID, []running.Row{row}))
	}); err != nil {
		return nil, err
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	list.Rows = append(list.Rows, row)
	return &instrument.Row{ID: row.ID, Name: row.Name, Vial: row.Vial, State: instrument.RowWaits}, p.journal.Save()
}

// takeRowBack lets a row wait no longer that will not be measured.
func (l *Lab) takeRowBack(ctx context.Context, p *post, rowID string) error {
	p.mu.Lock()
	list := p.journal.List
	if list == nil {
		p.mu.Unlock()
		return nil
	}
	k := slices.IndexFunc(list.Rows, func(r running.Row) bool { return r.ID == rowID })
	if k < 0 {
		p.mu.Unlock()
		return nil
	}
	row := list.Rows[k]
	list.Rows = slices.Delete(list.Rows, k, k+1)
	batchID, err := list.BatchID, p.journal.Save()
	p.mu.Unlock()
	return errors.Join(err, l.store.Write(ctx, func(t *store.Tx) error {
		return forgetLines(t, running.List{BatchID: batchID, Rows: []running.Row{row}})
	}))
}

// FaultAt makes something go wrong with a stand-in, for learning.
func (l *Lab) FaultAt(ctx context.Context, id, name, who string) (BenchPost, error) {
	p, err := l.postOf(id)
	if err != nil {
		return BenchPost{}, err
	}
	state, err := p.client.Fault(ctx, name)
	if err != nil {
		return BenchPost{}, asks(err)
	}
	p.set(state)
	p.mu.Lock()
	instrumentName := p.about.Name
	p.mu.Unlock()
	if err := l.store.Write(ctx, func(t *store.Tx) error {
		_, err := t.Record(store.Change{Who: who, Action: store.BenchAction, Subject: fmt.Sprintf("%s: the fault %q was asked for, of the stand-in", instrumentName, name)})
		return err
	}); err != nil {
		return BenchPost{}, err
	}
	return l.shown(ctx, p)
}

// TakeAsItIs takes what is in doubt of an injection as it is, for a reason: it counts again.
func (l *Lab) TakeAsItIs(ctx context.Context, batchID string, revision int, injectionID, reason, who string) (store.Batch, error) {
	if reason = strings.TrimSpace(reason); reason == "" || len(reason) > maxReason {
		return store.Batch{}, refuseAt("/reason", "say in at most %d letters why it is taken as it is", maxReason)
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		in, err := injection(b, injectionID)
		if err != nil {
			return change.Change{}, err
		}
		after := in.Entry
		after.Doubts = slices.Clone(in.Doubts)
		open := 0
		for k := range after.Doubts {
			if after.Doubts[k].Taken == "" {
				after.Doubts[k].Taken = reason
				open++
			}
		}
		if open == 0 {
			return change.Change{}, refuse("nothing of %s is in doubt", in.Name)
		}
		return change.Change{
			Action: change.RunListAction, Subject: in.Name + " taken as it is", Why: reason,
			Before: change.State{Entries: map[string]batch.Entry{in.ID: in.Entry}}, After: change.State{Entries: map[string]batch.Entry{in.ID: after}},
		}, nil
	})
}
