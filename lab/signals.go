package lab

import (
	"context"
	"fmt"
	"slices"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/formats"
	"yugen/lab/change"
	"yugen/store"
)

// BatchSignal is a signal that files of a batch hold, by name and unit.
type BatchSignal struct {
	Name string              `json:"name"`
	Unit string              `json:"unit"`
	Kind formats.ChannelKind `json:"kind"`
	// In is how many injections hold it, Processed in how many it is the one that is processed.
	In        int `json:"in"`
	Processed int `json:"processed"`
	// Channel is the channel of the method that it is processed as; empty where it is not.
	Channel string `json:"channel,omitempty"`
}

// Signals lists what the files of a batch hold, in the order in which they hold it.
func (l *Lab) Signals(ctx context.Context, batchID string) ([]BatchSignal, error) {
	list := []BatchSignal{}
	err := l.store.Read(ctx, func(t *store.Tx) error {
		m, err := t.MethodOf(batchID)
		if err != nil {
			return err
		}
		found, err := t.Signals(batchID)
		for _, s := range found {
			one := BatchSignal{Name: s.Name, Unit: s.Unit, Kind: formats.KindOfChannel(s.Name, s.Unit), In: s.Injections}
			for _, c := range m.Channels {
				switch {
				case c.Signal.Chosen() && s.Chosen > 0:
					one.Processed, one.Channel = s.Chosen, c.ID
				case c.Signal.Is(s.Name, s.Unit):
					one.Processed, one.Channel = s.Injections, c.ID
				}
			}
			list = append(list, one)
		}
		return err
	})
	return list, err
}

// ChooseSignal processes another signal in every injection that has it. Edits by hand are of the signal they were made on: where there are any they go with
// it, and undo brings back both.
func (l *Lab) ChooseSignal(ctx context.Context, batchID string, revision int, name, unit, reason, who string) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		c := change.Change{Action: "signal", Why: reason, Before: change.State{Traces: map[string]int{}, Edits: map[string][]peaks.Edit{}}, After: change.State{Traces: map[string]int{}, Edits: map[string][]peaks.Edit{}}}
		places, err := t.SignalPlaces(batchID, name, unit)
		if err != nil {
			return c, err
		}
		for _, in := range b.Injections {
			place, has := places[in.ID]
			if !has || place == in.Trace {
				continue
			}
			c.Before.Traces[in.ID], c.After.Traces[in.ID] = in.Trace, place
			others := slices.DeleteFunc(slices.Clone(in.Edits), func(e peaks.Edit) bool { return e.Channel == "" || e.Channel == b.Version.Method.Channels[0].ID })
			if len(others) < len(in.Edits) {
				c.Before.Edits[in.ID], c.After.Edits[in.ID] = in.Edits, append([]peaks.Edit{}, others...)
			}
		}
		switch {
		case len(places) == 0:
			return c, refuseAt("/name", "no file of %s has a signal called %s", b.Name, name)
		case len(c.After.Traces) == 0:
			return c, refuse("%s is processed already in every injection that has it", name)
		}
		c.Subject = fmt.Sprintf("%s in %s", name, plural(len(c.After.Traces), "injection"))
		if n := len(c.After.Edits); n > 0 {
			c.Subject += fmt.Sprintf(", edits of %s put aside", plural(n, "injection"))
		}
		return c, nil
	})
}

// InjectionSignal is one signal of an injection's file.
type InjectionSignal struct {
	Position  int                 `json:"position"` // among the signals of the injection's files
	Name      string              `json:"name"`
	Unit      string              `json:"unit"`
	Kind      formats.ChannelKind `json:"kind"`
	Processed bool                `json:"processed"`
	Low       float64             `json:"low"` // the range of its values
	High      float64             `json:"high"`
}

// SignalsOf lists the signals of one injection's file.
func (l *Lab) SignalsOf(ctx context.Context, batchID, injectionID string) ([]InjectionSignal, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	in, err := injection(b, injectionID)
	if err != nil {
		return nil, err
	}
	list := []InjectionSignal{}
	if in.Typed != nil {
		return list, nil
	}
	var found []store.Signal
	if err := l.store.Read(ctx, func(t *store.Tx) error {
		found, err = t.InjectionSignals(in.ID)
		return err
	}); err != nil {
		return nil, err
	}
	for _, s := range found {
		one, err := l.recorded(ctx, in, s.Place)
		if err != nil {
			return nil, err
		}
		list = append(list, InjectionSignal{s.Place, s.Name, s.Unit, formats.KindOfChannel(s.Name, s.Unit), processed(b.Version.Method, in, s), slices.Min(one.Trace.Values), slices.Max(one.Trace.Values)})
	}
	return list, nil
}

// processed tells whether a signal of an injection is one of those that the method processes.
func processed(m batch.Method, in store.Injection, s store.Signal) bool {
	for _, c := range m.Channels {
		if c.Signal.Chosen() && s.Place == in.Trace || c.Signal.Is(s.Name, s.Unit) {
			return true
		}
	}
	return false
}
