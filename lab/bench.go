package lab

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"yugen/core/batch"
	"yugen/instrument"
	"yugen/lab/running"
	"yugen/store"
)

// atHand is the instruments that are at hand.
type atHand struct {
	mu    sync.Mutex
	posts []*post
	stop  context.CancelFunc
	gone  sync.WaitGroup
}

// post is an instrument with what was heard of it.
type post struct {
	id      string
	client  instrument.Client
	mu      sync.Mutex
	about   instrument.Description
	state   *instrument.State
	seen    time.Time // when it answered last
	faults  []string
	journal *running.Journal
	liveRow string // the row that is or was measured last
	live    running.Recording
	trouble *running.Row // the row that came into trouble last
	giving  sync.Mutex   // a list, or a row of one: by one person after another
	dealing sync.Mutex   // with what was heard
}

const (
	lookEvery  = 300 * time.Millisecond
	retryAfter = time.Second
)

// Attach listens to instruments at addresses, as http://127.0.0.1:8791, until the lab is closed. What they measure goes on without anybody who looks.
func (l *Lab) Attach(ctx context.Context, addresses []string) error {
	ctx, l.bench.stop = context.WithCancel(ctx)
	for _, address := range addresses {
		id := strings.Trim(strings.Map(func(r rune) rune {
			if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
				return r
			}
			return '-'
		}, strings.ToLower(strings.TrimPrefix(strings.TrimPrefix(address, "http://"), "https://"))), "-")
		if id == "" || slices.ContainsFunc(l.bench.posts, func(p *post) bool { return p.id == id }) {
			return refuse("%q is no address of an instrument, or is said twice; it is as http://127.0.0.1:8791", address)
		}
		j, err := running.Open(filepath.Join(l.store.Folder(), "bench", id))
		if err != nil {
			return err
		}
		p := &post{id: id, client: instrument.Client{Address: address}, journal: j}
		l.bench.mu.Lock()
		l.bench.posts = append(l.bench.posts, p)
		l.bench.mu.Unlock()
		l.bench.gone.Go(func() { l.attend(ctx, p) })
	}
	return nil
}

func (b *atHand) close() {
	if b.stop != nil {
		b.stop()
	}
	b.gone.Wait()
}

// attend keeps to an instrument for as long as the lab is open.
func (l *Lab) attend(ctx context.Context, p *post) {
	if err := l.takeUp(ctx, p); err != nil && ctx.Err() == nil {
		slog.Error("what an instrument had measured is not taken in", "instrument", p.id, "error", err)
	}
	for ctx.Err() == nil {
		err := l.listen(ctx, p)
		if ctx.Err() != nil {
			return
		}
		slog.Debug("an instrument does not answer", "instrument", p.id, "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(retryAfter):
		}
	}
}

// takeUp takes in what was on disk when the program was stopped.
func (l *Lab) takeUp(ctx context.Context, p *post) error {
	if p.journal.List == nil {
		return nil
	}
	ended, err := p.journal.Ended()
	if err != nil {
		return err
	}
	for _, e := range ended {
		l.finish(ctx, p, e)
	}
	return nil
}

// listen hears an instrument until it is silent.
func (l *Lab) listen(ctx context.Context, p *post) error {
	about, err := p.client.Description(ctx)
	if err != nil {
		return err
	}
	faults, err := p.client.Faults(ctx)
	if err != nil {
		faults.Names = nil // one that is no stand-in has none
	}
	p.mu.Lock()
	p.about, p.faults = about, faults.Names
	other := p.journal.Boot != about.Boot
	p.mu.Unlock()
	if other {
		if err := l.startedAnew(ctx, p, about.Boot); err != nil {
			return err
		}
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	var looking sync.WaitGroup
	looking.Go(func() { l.look(ctx, p) })
	defer looking.Wait()
	defer cancel()
	return p.client.Listen(ctx, p.journal.Heard, func(events []instrument.Event) error { return l.hear(ctx, p, events) })
}

// look asks how it stands, again and again.
func (l *Lab) look(ctx context.Context, p *post) {
	t := time.NewTicker(lookEvery)
	defer t.Stop()
	for {
		if s, err := p.client.State(ctx); err == nil {
			p.mu.Lock()
			before, name := needs(p.state), p.about.Name
			p.mu.Unlock()
			if before == 0 && needs(&s) > 0 {
				l.wanted(name, s)
			}
			p.set(s)
			l.settle(ctx, p, s)
		}
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
	}
}

// settle ends a list that is not at the instrument: it never came there, because the program or the way to it was cut, or it ended and that was heard and not dealt
// with.
func (l *Lab) settle(ctx context.Context, p *post, s instrument.State) {
	missing := func(s instrument.State) (listID string, is bool) {
		p.mu.Lock()
		defer p.mu.Unlock()
		list := p.journal.List
		if list == nil {
			return "", false
		}
		return list.ID, !list.Ended && s.ListID != list.ID && s.Last <= p.journal.Heard
	}
	if _, is := missing(s); !is || !p.giving.TryLock() {
		return
	}
	defer p.giving.Unlock()
	if !p.dealing.TryLock() {
		return
	}
	defer p.dealing.Unlock()
	about, err := p.client.Description(ctx) // as it stands now that no list is given
	if err != nil || about.Boot != p.journal.Boot {
		return
	}
	if s, err = p.client.State(ctx); err != nil {
		return
	}
	if listID, is := missing(s); is {
		l.happened(ctx, p, instrument.Event{Kind: instrument.ListEnds, RowID: listID, Says: "the list is not at the instrument; it has ended"})
	}
}

// wanted tells somebody that an instrument wants them.
func (l *Lab) wanted(name string, s instrument.State) {
	if t := s.Trouble; t != nil {
		l.message(fmt.Sprintf("%s: %s", name, t.Says), "At %s, in the list for %s. The list has stopped; nothing more is injected until somebody has looked.", t.At.Format("15:04:05"), s.For)
		return
	}
	l.message(fmt.Sprintf("%s wants you", name), "It is %s, with the list for %s.", s.Says, s.For)
}

func (p *post) set(s instrument.State) {
	p.mu.Lock()
	p.state, p.seen = &s, time.Now()
	p.mu.Unlock()
}

// hear puts events on disk, says that they are heard, and does what they ask for.
func (l *Lab) hear(ctx context.Context, p *post, events []instrument.Event) error {
	p.dealing.Lock()
	defer p.dealing.Unlock()
	p.mu.Lock()
	err := p.journal.Keep(events)
	p.mu.Unlock()
	if err != nil {
		slog.Error("what an instrument tells cannot be kept; it waits", "instrument", p.id, "error", err)
		return err
	}
	// What is on disk is not told again, so it is dealt with even where the instrument has not heard that.
	heard := p.client.Heard(ctx, events[len(events)-1].N)
	for _, e := range events {
		switch e.Kind {
		case instrument.Injected:
			p.begins(e)
			l.known(ctx, p, *e.Row)
		case instrument.Measured:
			p.mu.Lock()
			if p.liveRow == e.RowID {
				p.live.Add(e)
			}
			p.mu.Unlock()
		case instrument.Finished:
			l.finish(ctx, p, e)
		case instrument.Happened, instrument.ListEnds:
			l.happened(ctx, p, e)
		}
	}
	return heard
}

func (p *post) begins(e instrument.Event) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.liveRow, p.live = e.RowID, running.Recording{}
	p.live.Add(e)
}

// happened writes to the record what an instrument or somebody at it did.
func (l *Lab) happened(ctx context.Context, p *post, e instrument.Event) {
	p.mu.Lock()
	list, name := p.journal.List, p.about.Name
	if e.Kind == instrument.ListEnds && list != nil && list.ID == e.RowID {
		list.Ended = true
		if err := p.journal.Save(); err != nil {
			slog.Error("the end of a list is not kept", "instrument", p.id, "error", err)
		}
	}
	p.mu.Unlock()
	subject := name + ": " + e.Says
	if e.Kind == instrument.Happened && e.Trouble != nil {
		subject = name + troubleMark + e.Says
	}
	who, batchID := e.By, ""
	if who == "" || who == "bench" {
		who = name
	}
	if list != nil {
		batchID = list.BatchID
	}
	err := l.store.Write(ctx, func(t *store.Tx) error {
		if batchID != "" && t.HasBatch(batchID) != nil {
			batchID = ""
		}
		if e.Kind == instrument.ListEnds && batchID != "" {
			if err := forgetLines(t, *list); err != nil {
				return err
			}
		}
		_, err := t.Record(store.Change{Who: who, BatchID: batchID, Action: store.BenchAction, Subject: subject})
		return err
	})
	if e.Kind == instrument.ListEnds && list != nil {
		taken := len(slices.DeleteFunc(slices.Clone(list.Rows), func(r running.Row) bool { return r.InjectionID == "" }))
		l.message(name+": the list has ended", "%d of %d injections are in their batch.", taken, len(list.Rows))
	}
	if err != nil {
		slog.Error("what happened at an instrument is not in the record", "instrument", p.id, "what", e.Says, "error", err)
	}
}

// forgetLines lets those lines of a list wait no longer whose files will not come.
func forgetLines(t *store.Tx, list running.List) error {
	lines, err := t.WaitingLines(list.BatchID)
	if err != nil {
		return err
	}
	left := slices.DeleteFunc(slices.Clone(lines), func(w store.WaitingLine) bool {
		return slices.ContainsFunc(list.Rows, func(r running.Row) bool { return r.File == w.File })
	})
	if len(left) == len(lines) {
		return nil
	}
	return t.SetWaitingLines(list.BatchID, left)
}

// known makes a row of the list for one that the instrument runs again.
func (l *Lab) known(ctx context.Context, p *post, r instrument.Row) {
	p.mu.Lock()
	list := p.journal.List
	if list == nil || slices.ContainsFunc(list.Rows, func(k running.Row) bool { return k.ID == r.ID }) {
		p.mu.Unlock()
		return
	}
	row := running.Row{ID: r.ID, Name: r.Name, Vial: r.Vial, Fields: map[batch.Field]string{batch.FieldName: r.Name, batch.FieldVial: r.Vial}}
	if k := slices.IndexFunc(list.Rows, func(k running.Row) bool { return strings.HasPrefix(r.ID, k.ID+"-") }); k >= 0 {
		row.Of, row.Fields = list.Rows[k].ID, list.Rows[k].Fields
	}
	row.File = fileOf(list.Next(), r.Name)
	list.Rows = append(list.Rows, row)
	err := p.journal.Save()
	p.mu.Unlock()
	if err != nil {
		slog.Error("a row that is run again is not kept", "instrument", p.id, "error", err)
	}
}

// startedAnew ends what another boot of the instrument had begun: what was recorded is taken in, and its stretch that is missing is in doubt.
func (l *Lab) startedAnew(ctx context.Context, p *post, boot string) error {
	p.mu.Lock()
	list := p.journal.List
	p.mu.Unlock()
	if list != nil && !list.Ended {
		for _, row := range slices.Clone(list.Rows) {
			if row.InjectionID != "" || row.Outcome != "" {
				continue
			}
			r, there, err := p.journal.Measured(row.ID)
			if err != nil {
				return err
			}
			if !there {
				continue
			}
			l.finish(ctx, p, instrument.Event{Kind: instrument.Finished, RowID: row.ID, Row: &instrument.Row{ID: row.ID, State: instrument.RowCut}, Says: "the instrument was started anew", Trouble: &instrument.Trouble{
				Says: "The instrument was started anew", RowID: row.ID, AtMin: r.LastMin, FromMin: r.LastMin, RecordedMin: r.LastMin,
			}})
		}
		l.happened(ctx, p, instrument.Event{Kind: instrument.ListEnds, RowID: list.ID, Says: "the instrument was started anew; the list has ended"})
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.journal.Restart(boot)
}

// doubtsOf are the stretches of a run that are in doubt after trouble, or after it was ended before its time.
func doubtsOf(e instrument.Event, recordedMin float64) (list []batch.Doubt) {
	const open = 10_000 // min: to the end of the run, however long
	t := e.Trouble
	switch {
	case t != nil && t.RowID == e.RowID && (e.Row.State == instrument.RowCut || e.Row.State == instrument.RowDoubted):
		if t.FromMin < t.AtMin {
			list = append(list, batch.Doubt{FromMin: t.FromMin, ToMin: t.AtMin, Says: t.Says + ", and may read low before"})
		}
		list = append(list, batch.Doubt{FromMin: t.AtMin, ToMin: open, Says: t.Says})
	case e.Row.State == instrument.RowCut:
		list = append(list, batch.Doubt{FromMin: recordedMin, ToMin: open, Says: "Stopped by hand"})
	}
	return list
}

// finish makes the file of a row that has ended, takes it into the batch, and processes that. What the batch does not take is kept beside.
func (l *Lab) finish(ctx context.Context, p *post, e instrument.Event) {
	p.mu.Lock()
	list := p.journal.List
	if list == nil {
		p.mu.Unlock()
		return
	}
	k := slices.IndexFunc(list.Rows, func(r running.Row) bool { return r.ID == e.RowID })
	if k < 0 || list.Rows[k].InjectionID != "" || list.Rows[k].Outcome != "" {
		p.mu.Unlock()
		return
	}
	row, name := list.Rows[k], p.about.Name
	recording, there, err := p.journal.Measured(e.RowID)
	p.mu.Unlock()
	if err == nil && !there {
		err = errors.New("nothing was recorded")
	}
	if err == nil {
		row.Doubts, row.Trouble = doubtsOf(e, recording.LastMin), e.Trouble
		var data []byte
		if data, err = recording.File(row, *list, name); err == nil {
			row.InjectionID, err = l.takeRun(ctx, p, *list, row, data)
		}
	}
	if ctx.Err() != nil {
		return // it is done at the next start
	}
	if err != nil {
		row.Outcome = Reason(err)
		slog.Error("a run is not taken into its batch", "instrument", p.id, "row", row.Name, "error", err)
	}
	p.mu.Lock()
	if k = slices.IndexFunc(list.Rows, func(r running.Row) bool { return r.ID == row.ID }); k >= 0 { // others may have gone meanwhile
		list.Rows[k] = row
	}
	if row.Trouble != nil && len(row.Doubts) > 0 {
		p.trouble = &row
	}
	err = p.journal.Save()
	if err == nil && row.InjectionID != "" {
		err = p.journal.Drop(row.ID)
	}
	p.mu.Unlock()
	if err != nil {
		slog.Error("what became of a run is not kept", "instrument", p.id, "row", row.Name, "error", err)
	}
	if row.InjectionID != "" {
		if _, err := l.Process(ctx, list.BatchID); err != nil && ctx.Err() == nil {
			slog.Error("a run is taken in and not processed", "row", row.Name, "error", err)
		}
	}
}

// takeRun takes the file of a run into its batch with its line of the run list.
func (l *Lab) takeRun(ctx context.Context, p *post, list running.List, row running.Row, data []byte) (string, error) {
	ctx = store.From(ctx, list.Place)
	err := l.store.Write(ctx, func(t *store.Tx) error {
		lines, err := t.WaitingLines(list.BatchID)
		if err != nil {
			return err
		}
		line := store.WaitingLine{File: row.File, Vial: row.Vial, Sample: row.Name, Fields: row.Fields, Doubts: row.Doubts}
		if at := slices.IndexFunc(lines, func(w store.WaitingLine) bool { return w.File == row.File }); at >= 0 {
			lines[at] = line
		} else {
			lines = append(lines, line)
		}
		return t.SetWaitingLines(list.BatchID, lines)
	})
	var id string
	if err == nil {
		out, failed := l.Receive(ctx, list.BatchID, row.File, bytes.NewReader(data), list.Who)
		if id, err = out.InjectionID, failed; err == nil && id == "" {
			err = errors.New(out.Message)
		}
	}
	if err == nil || ctx.Err() != nil {
		return id, err
	}
	where, failed := p.journal.Beside(row.File, data)
	if failed != nil {
		return "", errors.Join(err, failed)
	}
	return "", fmt.Errorf("%w; the file is kept as %s", err, where)
}
