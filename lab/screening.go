package lab

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/screening"
	"yugen/core/spectra"
	"yugen/lab/change"
	"yugen/store"
)

// screens holds, by the hash of what results are made from, the spectra of compounds in injections, which take long to read.
type screens struct {
	mu   sync.Mutex
	held []*screened
}

type screened struct {
	inputs string
	mu     sync.Mutex
	taken  map[[2]string]takenSpectrum // by injection and compound
}

type takenSpectrum struct {
	kind  spectra.Kind
	lines spectra.Lines // nil where there are no spectra, or the compound was not found
}

// mostScreens is how many batches are held.
const mostScreens = 4

func (s *screens) of(inputs string) *screened {
	s.mu.Lock()
	defer s.mu.Unlock()
	if k := slices.IndexFunc(s.held, func(h *screened) bool { return h.inputs == inputs }); k >= 0 {
		return s.held[k]
	}
	one := &screened{inputs: inputs, taken: map[[2]string]takenSpectrum{}}
	s.held = append(s.held, one)
	if len(s.held) > mostScreens {
		s.held = s.held[1:]
	}
	return one
}

// Screening judges every target in every sample of a batch.
func (l *Lab) Screening(ctx context.Context, batchID string) (batch.Screened, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return batch.Screened{}, err
	}
	return l.screen(ctx, p)
}

func (l *Lab) screen(ctx context.Context, p Processed) (batch.Screened, error) {
	w := l.screenWork(p)
	out := batch.Screen(p.Batch.Version.Method, entriesOf(p.Batch), p.Result, p.Batch.Choices, w.asked(ctx))
	return out, w.err
}

func entriesOf(b store.Batch) []batch.Entry {
	list := make([]batch.Entry, len(b.Injections))
	for k, in := range b.Injections {
		list[k] = in.Entry
	}
	return list
}

func (l *Lab) screenWork(p Processed) *screenWork {
	return &screenWork{lab: l, p: p, held: l.screens.of(p.InputsHash)}
}

// asked answers how like spectra are until reading one fails; err then says why.
func (w *screenWork) asked(ctx context.Context) batch.Likeness {
	return func(id, standard string, c compounds.Compound) (*float64, string) {
		if w.err != nil {
			return nil, ""
		}
		return w.likeness(ctx, id, standard, c)
	}
}

// screenWork reads spectra while a batch is screened.
type screenWork struct {
	lab  *Lab
	p    Processed
	held *screened
	err  error
}

// likeness holds the spectrum of a compound against that of the standard; where none shows it, against the entries of that name in the libraries.
func (w *screenWork) likeness(ctx context.Context, id, standard string, c compounds.Compound) (*float64, string) {
	own, err := w.spectrum(ctx, id, c)
	if err != nil || len(own.lines) == 0 {
		w.err = err
		return nil, ""
	}
	reference, against, err := w.reference(ctx, standard, c, own)
	if err != nil || len(reference) == 0 {
		w.err = err
		return nil, ""
	}
	like := percentLike(own.kind, own.lines, reference)
	return &like, against
}

// reference is what a spectrum is held against, and where that is from.
func (w *screenWork) reference(ctx context.Context, standard string, c compounds.Compound, own takenSpectrum) (spectra.Lines, string, error) {
	if standard != "" {
		s, err := w.spectrum(ctx, standard, c)
		if err != nil || s.kind == own.kind && len(s.lines) > 0 {
			in, unknown := injection(w.p.Batch, standard)
			return s.lines, in.Name, errors.Join(err, unknown)
		}
	}
	entries, err := w.lab.named(ctx, own.kind, c.Name)
	if err != nil || len(entries) == 0 {
		return nil, "", err
	}
	best := slices.MaxFunc(entries, func(a, b LibraryEntry) int {
		return cmp.Compare(percentLike(own.kind, own.lines, a.entry().Lines), percentLike(own.kind, own.lines, b.entry().Lines))
	})
	return best.entry().Lines, best.Library, nil
}

// spectrum is that of a compound in an injection.
func (w *screenWork) spectrum(ctx context.Context, id string, c compounds.Compound) (takenSpectrum, error) {
	key := [2]string{id, c.ID}
	w.held.mu.Lock()
	defer w.held.mu.Unlock()
	if s, there := w.held.taken[key]; there {
		return s, nil
	}
	s, err := w.take(ctx, id, c)
	if err == nil {
		w.held.taken[key] = s
	}
	return s, err
}

func (w *screenWork) take(ctx context.Context, id string, c compounds.Compound) (takenSpectrum, error) {
	at := slices.IndexFunc(w.p.Result.Injections, func(in batch.Injected) bool { return in.ID == id })
	peak, others := w.p.Result.Injections[at].PeakOf(c.ID), allPeaks(w.p, id)
	if peak == nil {
		return takenSpectrum{}, nil
	}
	run, err := w.lab.spectraFor(ctx, w.p.Batch.Injections[at], w.p.Batch.Version.Method, c)
	if errors.Is(err, store.ErrNotFound) {
		return takenSpectrum{}, nil
	}
	if err != nil {
		return takenSpectrum{}, err
	}
	mean, err := ofPeak(&peak.Peak, others).mean(run)
	if errors.Is(err, store.ErrNotFound) {
		return takenSpectrum{}, nil
	}
	return takenSpectrum{run.Describe().Kind, mean.lines}, err
}

// maxScreenDecisions bounds what is decided at once.
const maxScreenDecisions = 2000

// DecideScreening keeps what a person said of compounds in samples: all of it, or nothing.
func (l *Lab) DecideScreening(ctx context.Context, batchID string, revision int, asked []batch.ScreenDecision, who string) (store.Batch, error) {
	if n := len(asked); n == 0 || n > maxScreenDecisions {
		return store.Batch{}, refuse("between 1 and %d decisions are taken at once, not %d", maxScreenDecisions, n)
	}
	for k := range asked {
		d := &asked[k]
		if d.Why = strings.TrimSpace(d.Why); len(d.Why) > maxReason {
			return store.Batch{}, refuse("a reason has at most %d characters", maxReason)
		}
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return store.Batch{}, err
	}
	now, err := l.screen(ctx, p)
	if err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		if inputsHash(b) != p.InputsHash {
			return change.Change{}, refuse("%s has been changed meanwhile; look at the evidence again", b.Name)
		}
		c := b.Choices
		if err := now.Decide(&c, asked, who, b.Version.Number); err != nil {
			return change.Change{}, refuseAt("/decisions", "%s", err)
		}
		return change.Change{Action: "screening", Subject: screenSubject(now, asked), Why: asked[0].Why, Before: change.ChoicesOf(b), After: change.State{Choices: &c}}, nil
	})
}

// screenSubject says in the record what was decided.
func screenSubject(s batch.Screened, list []batch.ScreenDecision) string {
	name := func(id string) string {
		for _, c := range s.Compounds {
			if c.ID == id {
				return c.Name
			}
		}
		return id
	}
	words := map[screening.Word]string{screening.Present: "is present", screening.NotPresent: "is not present", screening.Again: "is looked for again", "": "is open again"}
	parts := make([]string, 0, len(list))
	for k, d := range list {
		if k == 6 && len(list) > 7 {
			parts = append(parts, fmt.Sprintf("and %d more", len(list)-k))
			break
		}
		parts = append(parts, fmt.Sprintf("%s %s in %s", name(d.CompoundID), words[d.Word], d.Sample))
	}
	return strings.Join(parts, ", ")
}
