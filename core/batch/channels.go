package batch

import (
	"encoding/json"
	"fmt"
	"slices"

	"yugen/core/channels"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/signal"
)

// Channel is a signal that is processed in every injection that has it, with settings and time rules of its own.
type Channel struct {
	ID string `json:"id"`
	// Signal is which one; of the first channel it may be left open, and is then what was chosen for each injection.
	Signal channels.Signal `json:"signal"`
	Peaks  peaks.Settings  `json:"peaks"`
}

// FirstChannel is the id of the channel that every method begins with.
const FirstChannel = "first"

// maxChannels bounds the channels of a method.
const maxChannels = 50

// ReadMethod reads a method as it is written today, or as any earlier version wrote it: methods had settings for one signal once.
func ReadMethod(document []byte) (Method, error) {
	var m Method
	if err := json.Unmarshal(document, &m); err != nil {
		return m, err
	}
	return m.Today(), nil
}

// Today is a method that was read as an earlier version wrote it, as it is written today.
func (m Method) Today() Method {
	if m.Earlier != nil && len(m.Channels) == 0 {
		m.Channels = []Channel{{ID: FirstChannel, Peaks: *m.Earlier}}
		m.Earlier = nil
	}
	return m
}

// Channel is the channel of that id, the first one for an empty id.
func (m Method) Channel(id string) (Channel, bool) {
	for _, c := range m.Channels {
		if c.ID == id || id == "" {
			return c, true
		}
	}
	return Channel{}, false
}

// ChannelTitle is what people read of a channel; the first, chosen for each injection, has no title of its own.
func (m Method) ChannelTitle(id string) string {
	c, _ := m.Channel(id)
	if title := c.Signal.Title(); title != "" {
		return title
	}
	return "the first channel"
}

// WithPeaks is the method with other settings for one channel; the method itself stays as it is.
func (m Method) WithPeaks(channelID string, s peaks.Settings) Method {
	m.Channels = slices.Clone(m.Channels)
	for i := range m.Channels {
		if m.Channels[i].ID == channelID || channelID == "" && i == 0 {
			m.Channels[i].Peaks = s
		}
	}
	return m
}

// LookedForIn are the compounds that are looked for in a channel.
func (m Method) LookedForIn(channelID string) []compounds.Compound {
	list := []compounds.Compound{}
	for _, c := range m.Compounds {
		if m.channelOf(c.Channel) == channelID {
			list = append(list, c)
		}
	}
	return list
}

// channelOf is the id of the channel that a compound or an edit names; an empty name is the first.
func (m Method) channelOf(name string) string {
	if name == "" && len(m.Channels) > 0 {
		return m.Channels[0].ID
	}
	return name
}

func (m Method) validateChannels() error {
	if m.Earlier != nil {
		return fmt.Errorf("method: it has settings for peaks beside its channels; they belong into a channel")
	}
	if len(m.Channels) == 0 || len(m.Channels) > maxChannels {
		return fmt.Errorf("method: it has %d channels; between 1 and %d are processed", len(m.Channels), maxChannels)
	}
	ids, keys := map[string]bool{}, map[string]bool{}
	for i, c := range m.Channels {
		if c.ID == "" || len(c.ID) > maxText || ids[c.ID] {
			return fmt.Errorf("method: channel %d needs an id of its own; %q is empty, too long or taken", i+1, c.ID)
		}
		if i > 0 && c.Signal.Chosen() {
			return fmt.Errorf("method: channel %d does not say which signal it is", i+1)
		}
		if key := c.Signal.Key(); keys[key] {
			return fmt.Errorf("method: the signal %s is processed twice; one channel of it is enough", c.Signal.Title())
		}
		if err := c.Signal.Validate(); err != nil {
			return err
		}
		if err := c.Peaks.Validate(); err != nil {
			return err
		}
		ids[c.ID], keys[c.Signal.Key()] = true, true
	}
	for _, c := range m.Compounds {
		if c.Channel != "" && !ids[c.Channel] {
			return fmt.Errorf("compounds: %s is looked for in the channel %q, which the method does not have", c.Name, c.Channel)
		}
		for _, q := range c.Qualifiers {
			if !ids[m.channelOf(q.Channel)] {
				return fmt.Errorf("compounds: a qualifier of %s is in the channel %q, which the method does not have", c.Name, q.Channel)
			}
			if m.channelOf(q.Channel) == m.channelOf(c.Channel) {
				return fmt.Errorf("compounds: a qualifier of %s is in the very channel in which it is looked for; another one is wanted", c.Name)
			}
		}
	}
	return nil
}

// Signal is one trace of an injection with the hash of what it was made from.
type Signal struct {
	Trace signal.Trace
	Hash  string
}

// signalOf is the signal of an injection for a channel of the method; ok is false where it has none.
func (in Injection) signalOf(m Method, k int) (Signal, bool) {
	if in.Typed != nil {
		return Signal{}, false
	}
	if k == 0 {
		return Signal{in.Trace, in.TraceHash}, true
	}
	s, ok := in.Further[m.Channels[k].ID]
	return s, ok
}

// Put gives an injection the signal of a further channel.
func (in *Injection) Put(channelID string, s Signal) {
	if in.Further == nil {
		in.Further = map[string]Signal{}
	}
	in.Further[channelID] = s
}

// PutCondition gives an injection a condition of its run.
func (in *Injection) PutCondition(key string, t signal.Trace) {
	if in.Conditions == nil {
		in.Conditions = map[string]signal.Trace{}
	}
	in.Conditions[key] = t
}

// EditsOn are those edits that were made on a channel.
func (m Method) EditsOn(edits []peaks.Edit, channelID string) []peaks.Edit {
	var list []peaks.Edit
	for _, e := range edits {
		if m.channelOf(e.Channel) == channelID {
			list = append(list, e)
		}
	}
	return list
}
