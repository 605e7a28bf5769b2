package lab

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"sync"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/signal"
	"yugen/core/spectra"
	"yugen/store"
)

// errNoSignal says that an injection does not have a signal.
var errNoSignal = errors.New("there is no such signal")

// signalOf reads the signal of an injection that a definition means.
func (l *Lab) signalOf(ctx context.Context, in store.Injection, def channels.Signal) (batch.Signal, error) {
	switch {
	case in.Typed != nil:
		return batch.Signal{}, refuse("%s was typed; there is no trace of it", in.Name)
	case def.Kind == channels.Ratio, def.Kind == channels.LessBlank:
		return l.combined(ctx, in, def)
	case def.Derived():
		return l.derived(ctx, in, def)
	case def.Chosen():
		return l.recorded(ctx, in, in.Trace)
	}
	place, err := l.placeOf(ctx, in, def)
	if err != nil {
		return batch.Signal{}, err
	}
	return l.recorded(ctx, in, place)
}

// placeOf is the place of a recorded signal among those of an injection's files.
func (l *Lab) placeOf(ctx context.Context, in store.Injection, def channels.Signal) (place int, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		found, err := t.InjectionSignals(in.ID)
		if err != nil {
			return err
		}
		for _, s := range found {
			if def.Is(s.Name, s.Unit) {
				place = s.Place
				return nil
			}
		}
		return fmt.Errorf("%w: %s", errNoSignal, def.Title())
	})
	return place, err
}

// recorded reads a signal by its place among those of an injection's files.
func (l *Lab) recorded(ctx context.Context, in store.Injection, place int) (batch.Signal, error) {
	rawHash, position, ok := in.SignalAt(place)
	if !ok {
		return batch.Signal{}, fmt.Errorf("signal %d of %s: %w", place, in.Name, store.ErrNotFound)
	}
	return l.traces.get(traceKey{rawHash, strconv.Itoa(position)}, func() (tr signal.Trace, err error) {
		err = l.store.Read(ctx, func(t *store.Tx) error {
			tr, err = t.Trace(rawHash, position)
			return err
		})
		return tr, err
	})
}

// combined computes a signal from two others: a ratio of an injection's own, or one less that of the blank nearest before it in the run.
func (l *Lab) combined(ctx context.Context, in store.Injection, def channels.Signal) (batch.Signal, error) {
	if err := def.Validate(); err != nil {
		return batch.Signal{}, refuse("%s", err)
	}
	other, part, join := in, def.Parts[0], channels.LessOf
	if def.Kind == channels.Ratio {
		part, join = def.Parts[1], channels.RatioOf
	} else {
		if in.Blank == nil || in.Blank.Typed != nil {
			return batch.Signal{}, fmt.Errorf("%w: %s, as there is no blank beside it", errNoSignal, def.Title())
		}
		other = *in.Blank
	}
	a, err := l.signalOf(ctx, in, def.Parts[0])
	if err != nil {
		return batch.Signal{}, err
	}
	b, err := l.signalOf(ctx, other, part)
	if err != nil {
		return batch.Signal{}, err
	}
	return l.traces.get(traceKey{a.Hash + "+" + b.Hash, def.Key()}, func() (signal.Trace, error) {
		tr, err := join(a.Trace, b.Trace)
		if errors.Is(err, channels.ErrApart) {
			return tr, fmt.Errorf("%w: %s, as %w", errNoSignal, def.Title(), err)
		}
		tr.Name = def.Title()
		return tr, err
	})
}

// derived computes a signal from the spectra of an injection.
func (l *Lab) derived(ctx context.Context, in store.Injection, def channels.Signal) (batch.Signal, error) {
	return l.traces.get(traceKey{strings.Join(in.Hashes(), "+"), def.Key()}, func() (signal.Trace, error) {
		for _, hash := range in.Hashes() {
			runs, err := l.spectraOf(ctx, hash)
			if err != nil {
				return signal.Trace{}, err
			}
			var sources []spectra.Source
			for _, r := range runs {
				sources = append(sources, r)
			}
			if tr, err := def.Derive(sources); !errors.Is(err, channels.ErrAbsent) {
				return tr, err
			}
		}
		return signal.Trace{}, fmt.Errorf("%w: %s", errNoSignal, def.Title())
	})
}

// Asked says which signal of an injection is meant: a place among those of its file, one that is derived from its spectra, a channel of the method, or, with none
// of them, the first channel.
type Asked struct {
	Place   *int
	Derived *channels.Signal
	Channel string
}

// TraceOf reads a signal of an injection of a batch.
func (l *Lab) TraceOf(ctx context.Context, batchID, injectionID string, which Asked) (signal.Trace, error) {
	if which.Place != nil || which.Derived != nil {
		return l.traceOfOne(ctx, batchID, injectionID, which)
	}
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return signal.Trace{}, err
	}
	in, err := injection(b, injectionID)
	if err != nil {
		return signal.Trace{}, err
	}
	c, ok := b.Version.Method.Channel(which.Channel)
	if !ok {
		return signal.Trace{}, fmt.Errorf("channel %q: %w", which.Channel, store.ErrNotFound)
	}
	s, err := l.signalOf(ctx, in, c.Signal)
	if errors.Is(err, errNoSignal) {
		return s.Trace, fmt.Errorf("%s of %s: %w", c.Signal.Title(), in.Name, store.ErrNotFound)
	}
	return s.Trace, err
}

// traceOfOne reads a signal for which the rest of the batch need not be known: a large one is asked for ions of hundreds of injections, one by one.
func (l *Lab) traceOfOne(ctx context.Context, batchID, injectionID string, which Asked) (signal.Trace, error) {
	var in store.Injection
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		in, err = t.Injection(batchID, injectionID)
		return err
	})
	if err != nil {
		return signal.Trace{}, err
	}
	if which.Place != nil {
		if in.Typed != nil {
			return signal.Trace{}, refuse("%s was typed; there is no trace of it", in.Name)
		}
		s, err := l.recorded(ctx, in, *which.Place)
		return s.Trace, err
	}
	s, err := l.derived(ctx, in, *which.Derived)
	if errors.Is(err, errNoSignal) {
		return s.Trace, fmt.Errorf("%s of %s: %w", which.Derived.Title(), in.Name, store.ErrNotFound)
	}
	return s.Trace, err
}

type traceKey struct {
	hash  string
	place string // among the traces of the file, or the key of a derived signal
}

// traceCache holds decoded traces, at most cachedPoints of their points together.
type traceCache struct {
	mu     sync.Mutex
	held   map[traceKey]signal.Trace
	order  []traceKey
	points int
}

const cachedPoints = 20_000_000

// get is the signal of a key, read now where it is not held.
func (c *traceCache) get(k traceKey, read func() (signal.Trace, error)) (batch.Signal, error) {
	hash := k.hash + "/" + k.place
	c.mu.Lock()
	tr, ok := c.held[k]
	c.mu.Unlock()
	if ok {
		return batch.Signal{Trace: tr, Hash: hash}, nil
	}
	tr, err := read()
	if err != nil {
		return batch.Signal{}, err
	}
	c.put(k, tr)
	return batch.Signal{Trace: tr, Hash: hash}, nil
}

func (c *traceCache) put(k traceKey, tr signal.Trace) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.held == nil {
		c.held = map[traceKey]signal.Trace{}
	}
	if _, twice := c.held[k]; twice {
		return
	}
	c.held[k], c.order, c.points = tr, append(c.order, k), c.points+tr.Len()
	for c.points > cachedPoints && len(c.order) > 1 {
		oldest := c.order[0]
		c.points -= c.held[oldest].Len()
		delete(c.held, oldest)
		c.order = c.order[1:]
	}
}
