package lab

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"sync"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/core/signal"
	"yugen/jobs"
	"yugen/lab/change"
	"yugen/store"
)

// Processed is a batch with its result.
type Processed struct {
	Batch      store.Batch
	Result     batch.Result
	InputsHash string
}

// pipeline numbers the way results are computed; it goes into their hash, so that kept results are computed anew when the way changes.
// A test holds it against what the core gives, and tells when it must be raised.
const pipeline = "19"

// inputsHash is the hash of all that a result is made from: method version, raw files, run list, edits, choices.
func inputsHash(b store.Batch) string {
	type input struct {
		Raw   string
		More  []string `json:",omitempty"`
		Trace int
		Entry batch.Entry
		Edits []peaks.Edit
	}
	b.Choices.Screened = nil // no number depends on it
	list := make([]input, len(b.Injections))
	for i, in := range b.Injections {
		list[i] = input{in.RawHash, in.Hashes()[1:], in.Trace, in.Entry, in.Edits}
	}
	return store.Hash([]byte(change.JSON(struct {
		Pipeline, Method string
		Injections       []input
		Choices          batch.Choices
	}{pipeline, b.Version.Hash, list, b.Choices})))
}

// resultCache holds the newest result of each batch, so that the screen does not unpack it anew for every request.
type resultCache struct {
	mu   sync.Mutex
	held map[string]Processed
}

func (l *Lab) load(ctx context.Context, b store.Batch) ([]batch.Injection, error) {
	injections := make([]batch.Injection, len(b.Injections))
	for i, in := range b.Injections {
		if in.Typed != nil { // there is no trace behind it
			injections[i] = batch.Injection{Entry: in.Entry}
			continue
		}
		one, err := l.loadOne(ctx, in, b.Version.Method)
		if err != nil {
			return nil, fmt.Errorf("injection %d, %s: %w", i+1, in.Name, err)
		}
		injections[i] = one
	}
	return injections, nil
}

// loadOne reads the signals of an injection that its method processes.
func (l *Lab) loadOne(ctx context.Context, in store.Injection, m batch.Method) (batch.Injection, error) {
	out := batch.Injection{Entry: in.Entry, Edits: in.Edits}
	for k, c := range m.Channels {
		s, err := l.signalOf(ctx, in, c.Signal)
		switch {
		case errors.Is(err, errNoSignal) && k > 0:
			continue
		case err != nil:
			return out, err
		case k == 0:
			out.Trace, out.TraceHash = s.Trace, s.Hash
			continue
		}
		out.Put(c.ID, s)
	}
	for _, asked := range m.ConditionsAsked() {
		s, err := l.signalOf(ctx, in, asked)
		if errors.Is(err, errNoSignal) {
			continue
		}
		if err != nil {
			return out, err
		}
		out.PutCondition(asked.Key(), s.Trace)
	}
	return out, nil
}

// Process gives the result of a batch as it stands: from the store while its inputs are the same, computed anew when not.
func (l *Lab) Process(ctx context.Context, batchID string) (Processed, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return Processed{}, err
	}
	return l.processed(ctx, b)
}

// processed is the result of a batch as it was read. Requests for the same one share its computation.
func (l *Lab) processed(ctx context.Context, b store.Batch) (Processed, error) {
	return l.processedAgain(ctx, b, "")
}

// processedAgain is processed, for a job that was stopped with the program where jobID is not empty.
func (l *Lab) processedAgain(ctx context.Context, b store.Batch, jobID string) (Processed, error) {
	batchID := b.ID
	p := Processed{Batch: b, InputsHash: inputsHash(b)}
	l.results.mu.Lock()
	held, ok := l.results.held[batchID]
	l.results.mu.Unlock()
	if ok && held.InputsHash == p.InputsHash && jobID == "" {
		held.Batch = b
		return held, nil
	}
	asked := jobs.Asked{ID: jobID, Kind: jobs.Result, Key: "results " + p.InputsHash, BatchID: b.ID, Subject: b.Name, Args: "{}"}
	shared, err := l.Jobs.Do(ctx, asked, func(ctx context.Context, progress *jobs.Progress) (any, error) {
		return l.keptOrComputed(ctx, b, p.InputsHash, progress)
	})
	if err != nil {
		return p, err
	}
	p.Result = shared.(batch.Result)
	l.results.mu.Lock()
	if l.results.held == nil || len(l.results.held) > 8 {
		l.results.held = map[string]Processed{}
	}
	l.results.held[batchID] = p
	l.results.mu.Unlock()
	return p, nil
}

func (l *Lab) keptOrComputed(ctx context.Context, b store.Batch, hash string, progress *jobs.Progress) (r batch.Result, err error) {
	reported := ""
	err = l.store.Read(ctx, func(t *store.Tx) error {
		if r, err = t.Result(b.ID, hash); err != nil {
			return err
		}
		reported, err = t.ReportedOf(b.ID)
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		return l.compute(ctx, b, hash, progress)
	}
	if err == nil && reported != hash { // as after an undo
		err = l.store.Write(ctx, func(t *store.Tx) error { return t.PutReported(b.ID, hash, reportedOf(b, r)) })
		if errors.Is(err, store.ErrDisk) {
			slog.Error("what a batch reports is not found on the shelf", "batch", b.Name, "error", err)
			err = nil
		}
	}
	return r, err
}

func (l *Lab) compute(ctx context.Context, b store.Batch, hash string, progress *jobs.Progress) (batch.Result, error) {
	injections, err := l.load(ctx, b)
	if err != nil {
		return batch.Result{}, err
	}
	r, err := batch.Process(ctx, batch.Input{Injections: injections, Method: b.Version.Method, Choices: b.Choices, Progress: progress.Set}, &l.peaks)
	if err != nil {
		return r, err
	}
	set, of, err := l.compiled(ctx, b, r, b.Version.Method.Fields)
	if err != nil {
		return r, err
	}
	r.Notices = append(r.Notices, set.Judge(of)...)
	packed, err := store.PackResult(r)
	if err != nil {
		return r, err
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		if err := t.PutResult(b.ID, hash, packed); err != nil {
			return err
		}
		return t.PutReported(b.ID, hash, reportedOf(b, r))
	})
	if errors.Is(err, store.ErrDisk) { // it can be looked at all the same, and computed again
		slog.Error("a result is not kept", "batch", b.Name, "error", err)
		return r, nil
	}
	return r, err
}

// Preview is what other settings would make of one injection, and of the whole batch.
type Preview struct {
	Injection batch.Injected  `json:"injection"`
	Beside    *batch.Injected `json:"beside"`
	Batch     *Moved          `json:"batch"`
}

// Moved counts what would change over the batch.
type Moved struct {
	Moved int `json:"moved"` // areas that change by more than 1 %
	Gone  int `json:"gone"`
	New   int `json:"new"`
}

// Peaks are those of one injection in one channel of the method, with all their measures.
func (l *Lab) Peaks(ctx context.Context, batchID, injectionID, channelID string) ([]batch.NamedPeak, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	for _, in := range p.Result.Injections {
		if in.ID != injectionID {
			continue
		}
		for k, c := range in.EachChannel() {
			if c.Channel == channelID || k == 0 && channelID == "" {
				return c.Peaks, nil
			}
		}
	}
	return nil, fmt.Errorf("injection %s, channel %q: %w", injectionID, channelID, store.ErrNotFound)
}

// Proposals are other ways to part peaks of one injection, where drops serve badly. Nothing is written.
func (l *Lab) Proposals(ctx context.Context, batchID, injectionID, channelID string) ([]peaks.Proposal, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	in, err := injection(p.Batch, injectionID)
	if err != nil {
		return nil, err
	}
	if in.Typed != nil {
		return []peaks.Proposal{}, nil
	}
	m := p.Batch.Version.Method
	c, ok := m.Channel(channelID)
	if !ok {
		return nil, fmt.Errorf("channel %q: %w", channelID, store.ErrNotFound)
	}
	s, err := l.signalOf(ctx, in, c.Signal)
	if errors.Is(err, errNoSignal) {
		return []peaks.Proposal{}, nil
	}
	if err != nil {
		return nil, err
	}
	return peaks.Propose(s.Trace, c.Peaks, m.EditsOn(in.Edits, c.ID), p.Result.ExpectedOf(c.ID, s.Trace.Name))
}

// Trial asks what other settings or edits would give. Nothing is written.
type Trial struct {
	InjectionID string         `json:"injection_id"`
	BesideID    string         `json:"beside_id,omitempty"` // another injection that is to be seen beside it
	Channel     string         `json:"channel,omitempty"`   // of the method, whose settings are tried; empty is the first
	Settings    peaks.Settings `json:"settings"`
	Edits       *[]peaks.Edit  `json:"edits"` // of the injection; null leaves those that it has
	Whole       bool           `json:"whole"` // over the whole batch, so that amounts follow
}

// TryPeaks integrates one injection, and another beside it, as the trial says; where Whole is set it does so over the batch, so that
// amounts follow, and counts the changes.
func (l *Lab) TryPeaks(ctx context.Context, batchID string, t Trial) (Preview, error) {
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return Preview{}, err
	}
	if _, ok := now.Batch.Version.Method.Channel(t.Channel); !ok {
		return Preview{}, refuseAt("/channel", "the method has no channel %q", t.Channel)
	}
	method := now.Batch.Version.Method.WithPeaks(t.Channel, t.Settings)
	tried := now.Batch
	if !t.Whole {
		tried.Injections = nil
		for _, id := range []string{t.InjectionID, t.BesideID} {
			if id == "" || id == t.InjectionID && len(tried.Injections) > 0 {
				continue
			}
			in, err := injection(now.Batch, id)
			if err != nil {
				return Preview{}, err
			}
			tried.Injections = append(tried.Injections, in)
		}
	}
	injections, err := l.load(ctx, tried)
	if err != nil {
		return Preview{}, err
	}
	for i := range injections {
		if injections[i].ID == t.InjectionID && t.Edits != nil {
			injections[i].Edits = *t.Edits
		}
	}
	r, err := batch.Process(ctx, batch.Input{Injections: injections, Method: method, Choices: tried.Choices}, &l.peaks)
	if err != nil {
		if ctx.Err() != nil {
			return Preview{}, err
		}
		return Preview{}, refuse("%s", err)
	}
	var out Preview
	for _, in := range r.Injections {
		if in.ID == t.InjectionID {
			out.Injection = in
		}
		if in.ID == t.BesideID {
			out.Beside = &in
		}
	}
	if t.Whole {
		out.Batch = &Moved{}
		for i := range r.Injections {
			before, after := now.Result.Injections[i].EachChannel(), r.Injections[i].EachChannel()
			for k := range after {
				out.Batch.count(before[k].Peaks, after[k].Peaks)
			}
		}
	}
	return out, nil
}

// Example is a mark on an injection: a peak is wanted there, or none.
type Example struct {
	InjectionID string  `json:"injection_id"`
	AtMin       float64 `json:"at_min"`
	Keep        bool    `json:"keep"`
}

// Examples are marks, and the stretch of the run that matters; none where its end is not after its start.
type Examples struct {
	Channel string    `json:"channel,omitempty"` // of the method; empty is the first
	Marks   []Example `json:"marks"`
	FromMin float64   `json:"from_min"`
	ToMin   float64   `json:"to_min"`
}

// SuggestPeaks finds settings that do what the examples show. Nothing is written.
func (l *Lab) SuggestPeaks(ctx context.Context, batchID string, e Examples) (peaks.Suggestion, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return peaks.Suggestion{}, err
	}
	c, ok := b.Version.Method.Channel(e.Channel)
	if !ok {
		return peaks.Suggestion{}, refuseAt("/channel", "the method has no channel %q", e.Channel)
	}
	var traces []signal.Trace
	index := map[string]int{}
	marks := make([]peaks.Mark, len(e.Marks))
	for i, m := range e.Marks {
		k, known := index[m.InjectionID]
		if !known {
			in, err := injection(b, m.InjectionID)
			if err != nil {
				return peaks.Suggestion{}, err
			}
			s, err := l.signalOf(ctx, in, c.Signal)
			if err != nil {
				return peaks.Suggestion{}, err
			}
			k = len(traces)
			index[m.InjectionID], traces = k, append(traces, s.Trace)
		}
		marks[i] = peaks.Mark{Trace: k, AtMin: m.AtMin, Keep: m.Keep}
	}
	s, err := peaks.Suggest(ctx, traces, marks, e.FromMin, e.ToMin, c.Peaks)
	if err != nil && ctx.Err() == nil {
		return s, refuse("%s", err)
	}
	return s, err
}

// count pairs peaks by their apexes.
func (m *Moved) count(before, after []batch.NamedPeak) {
	const same = 0.02 // min
	used := make([]bool, len(after))
	for _, b := range before {
		found := false
		for j, a := range after {
			if !used[j] && math.Abs(a.ApexMin-b.ApexMin) < same {
				used[j], found = true, true
				if math.Abs(a.AreaS/b.AreaS-1) > 0.01 {
					m.Moved++
				}
				break
			}
		}
		if !found {
			m.Gone++
		}
	}
	for _, u := range used {
		if !u {
			m.New++
		}
	}
}

// Working derives one number.
func (l *Lab) Working(ctx context.Context, batchID, injectionID, compoundID string) (batch.Working, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return batch.Working{}, err
	}
	w, ok := batch.Work(batch.Input{Injections: entries(p.Batch), Method: p.Batch.Version.Method, Choices: p.Batch.Choices}, p.Result, injectionID, compoundID)
	if !ok {
		return w, fmt.Errorf("injection %s or compound %s: %w", injectionID, compoundID, store.ErrNotFound)
	}
	return w, nil
}
