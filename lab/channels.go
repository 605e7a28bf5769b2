package lab

import (
	"context"
	"fmt"
	"slices"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/compounds"
	"yugen/lab/change"
	"yugen/store"
)

// ChannelAsked says which signal is to be processed too: one that files hold, by its name and unit, or words for one that is derived from spectra, as
// "71.05±0.3" for ions, "195.1 → 138.1±0.3" for a product, or "278±4" for a wavelength.
type ChannelAsked struct {
	Name  string        `json:"name,omitempty"`
	Unit  string        `json:"unit,omitempty"`
	Kind  channels.Kind `json:"kind,omitempty"`
	Words string        `json:"words,omitempty"`
	// Of are channels of the method, by id: the two of a ratio, the one that the blank is taken off.
	Of []string `json:"of,omitempty"`
}

// signal is the one that is asked for; m holds the channels that it may be made of.
func (a ChannelAsked) signal(m batch.Method) (channels.Signal, error) {
	switch a.Kind {
	case channels.Ions:
		return channels.ParseIons(a.Words)
	case channels.Wavelength:
		return channels.ParseWavelength(a.Words)
	case channels.Product:
		return channels.ParseProduct(a.Words)
	}
	s := channels.Signal{Kind: a.Kind, Name: a.Name, Unit: a.Unit}
	for _, id := range a.Of {
		c, known := m.Channel(id)
		if !known || id == "" {
			return s, fmt.Errorf("the method has no channel %q", id)
		}
		s.Parts = append(s.Parts, c.Signal)
	}
	if s.Chosen() {
		return s, fmt.Errorf("a channel needs the name of its signal")
	}
	return s, s.Validate()
}

// AddChannel processes one more signal, in a new version of the method. What is processed already is refused, so that asking twice makes no twin.
func (l *Lab) AddChannel(ctx context.Context, batchID string, revision int, asked ChannelAsked, who string) (store.Batch, error) {
	now, err := l.Batch(ctx, batchID)
	if err != nil {
		return store.Batch{}, err
	}
	s, err := asked.signal(now.Version.Method)
	if err != nil {
		return store.Batch{}, refuseAt("/words", "%s", err)
	}
	return l.changeMethod(ctx, batchID, revision, s.Title()+" is processed too", who, func(t *store.Tx, b store.Batch, m *batch.Method) error {
		for _, c := range m.Channels {
			if c.Signal.Key() == s.Key() {
				return refuseAt("/name", "%s is processed already", s.Title())
			}
		}
		if !s.Derived() {
			if err := recordedBy(t, b, m.Channels[0], s); err != nil {
				return err
			}
		}
		usual := batch.NewMethod().Channels[0].Peaks
		m.Channels = append(slices.Clone(m.Channels), batch.Channel{ID: freshChannelID(s, m.Channels), Signal: s, Peaks: usual})
		return nil
	})
}

// recordedBy refuses a signal that no file of the batch holds, and one that is the first channel of an injection.
func recordedBy(t *store.Tx, b store.Batch, first batch.Channel, s channels.Signal) error {
	found, err := t.Signals(b.ID)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(found, func(f store.Signal) bool { return s.Is(f.Name, f.Unit) }) {
		return refuseAt("/name", "no file of %s has a signal called %s", b.Name, s.Name)
	}
	for _, in := range b.Injections {
		if first.Signal.Chosen() && s.Is(in.Signal, in.Unit) {
			return refuseAt("/name", "%s is the first channel of %s already", s.Name, in.Name)
		}
	}
	return nil
}

// freshChannelID makes an id of a signal's title that no other channel has.
func freshChannelID(s channels.Signal, others []batch.Channel) string {
	return compounds.IDOf(s.Title(), func(id string) bool {
		return slices.ContainsFunc(others, func(c batch.Channel) bool { return c.ID == id })
	})
}

// RemoveChannel no longer processes a signal. One in which compounds are looked for stays, as their results would go with it.
func (l *Lab) RemoveChannel(ctx context.Context, batchID string, revision int, channelID, who string) (store.Batch, error) {
	return l.changeMethod(ctx, batchID, revision, "a channel is no longer processed", who, func(_ *store.Tx, _ store.Batch, m *batch.Method) error {
		k := slices.IndexFunc(m.Channels, func(c batch.Channel) bool { return c.ID == channelID })
		switch {
		case k < 0:
			return fmt.Errorf("channel %q: %w", channelID, store.ErrNotFound)
		case k == 0:
			return refuse("the first channel stays; another signal can be processed in its place")
		}
		if list := m.LookedForIn(channelID); len(list) > 0 {
			return refuse("%s is looked for in %s; take it off the list or look for it elsewhere first", list[0].Name, m.Channels[k].Signal.Title())
		}
		for _, c := range m.Compounds {
			if slices.ContainsFunc(c.Qualifiers, func(q compounds.Qualifier) bool { return q.Channel == channelID }) {
				return refuse("%s has a qualifier in %s; take that off first", c.Name, m.Channels[k].Signal.Title())
			}
		}
		m.Channels = slices.Delete(slices.Clone(m.Channels), k, k+1)
		return nil
	})
}

// changeMethod saves a version of a batch's method in which something is otherwise.
func (l *Lab) changeMethod(ctx context.Context, batchID string, revision int, why, who string, edit func(*store.Tx, store.Batch, *batch.Method) error) (store.Batch, error) {
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		m := b.Version.Method
		if err := edit(t, b, &m); err != nil {
			return change.Change{}, err
		}
		return newVersion(t, b, m, why, who)
	})
}
