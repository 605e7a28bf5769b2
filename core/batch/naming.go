package batch

import (
	"slices"

	"yugen/core/compounds"
	"yugen/core/peaks"
)

// injected gives the peaks of one injection their names, channel by channel.
func injected(in Injection, found []integrated, m Method) Injected {
	if in.Typed != nil {
		return typed(in, m)
	}
	out := Injected{ID: in.ID, Readings: map[string]Reading{}}
	for k, c := range m.Channels {
		named := out.named(found[k], m, c.ID)
		if k == 0 {
			out.Integrated = named
		} else {
			out.Further = append(out.Further, named)
		}
	}
	return out
}

// named names the peaks of one channel, and keeps what the windows say.
func (in *Injected) named(r integrated, m Method, channelID string) Integrated {
	out := Integrated{Channel: channelID, Trace: r.trace, Unit: r.unit, NoiseSD: r.NoiseSD, WidthMin: r.WidthMin, EndWidthMin: r.EndWidthMin, Unmatched: r.Unmatched, Dropped: r.Dropped, Problem: r.problem, Peaks: make([]NamedPeak, len(r.Peaks))}
	for i, p := range r.Peaks {
		out.Peaks[i].Peak = p
		if m.Ladder != nil {
			if index, ok := m.Ladder.Index(p.ApexMin); ok {
				out.Peaks[i].RetentionIndex = &index
			}
		}
	}
	list := m.LookedForIn(channelID)
	names := compounds.Name(r.Peaks, list, m.Ladder)
	for compound, peak := range names.Peak {
		out.Peaks[peak].CompoundID = compound
	}
	for id, rivals := range names.Contenders {
		if in.Contenders == nil {
			in.Contenders = map[string][]Contender{}
		}
		for _, r := range rivals {
			in.Contenders[id] = append(in.Contenders[id], Contender{out.Peaks[r.Peak].Number, r.Wins})
		}
	}
	for _, c := range list {
		if c.Reference {
			out.relative(names.Peak, c)
		}
		// A place that is where the method says needs no telling.
		if p, ok := names.Place[c.ID]; ok && (p.ExpectedMin != c.ExpectedMin || c.Window.Kind == compounds.ByIndex) {
			if in.Places == nil {
				in.Places = map[string]compounds.Place{}
			}
			in.Places[c.ID] = p
		}
	}
	return out
}

// typed stands a peak for each response that a person gave: nothing but a name and a size.
func typed(in Injection, m Method) Injected {
	out := Injected{ID: in.ID, Integrated: Integrated{Peaks: []NamedPeak{}}, Readings: map[string]Reading{}}
	list := slices.Clone(m.Compounds)
	byRetention(list)
	for _, c := range list {
		if response, ok := in.Typed[c.ID]; ok {
			out.Peaks = append(out.Peaks, NamedPeak{CompoundID: c.ID, Peak: peaks.Peak{Number: len(out.Peaks) + 1, ApexMin: c.ExpectedMin, AreaS: response, Height: response, Flags: []peaks.Flag{}}})
		}
	}
	return out
}

// relative gives each peak its retention relative to the reference before it, or the first one.
func (in *Integrated) relative(named map[string]int, reference compounds.Compound) {
	at, ok := named[reference.ID]
	if !ok {
		return
	}
	for i := range in.Peaks {
		p := &in.Peaks[i]
		if p.RelativeRetention == nil || in.Peaks[at].ApexMin <= p.ApexMin {
			r := p.ApexMin / in.Peaks[at].ApexMin
			p.RelativeRetention = &r
		}
	}
}

// EachChannel are the integrated channels of the injection, the first one first.
func (in *Injected) EachChannel() []*Integrated {
	list := []*Integrated{&in.Integrated}
	for i := range in.Further {
		list = append(list, &in.Further[i])
	}
	return list
}

// PeakOf is the peak of a compound in any channel, or nil.
func (in *Injected) PeakOf(compoundID string) *NamedPeak {
	for _, c := range in.EachChannel() {
		for i := range c.Peaks {
			if c.Peaks[i].CompoundID == compoundID {
				return &c.Peaks[i]
			}
		}
	}
	return nil
}
