package batch

import (
	"fmt"
	"math"
	"slices"

	"yugen/core/compounds"
	"yugen/core/screening"
)

// Screened is a batch screened: targets against samples.
type Screened struct {
	Rules     screening.Rules    `json:"rules"`
	Compounds []ScreenedCompound `json:"compounds"` // in order of retention
	Samples   []ScreenedSample   `json:"samples"`   // in run order
}

// ScreenedCompound is a target that samples are screened for.
type ScreenedCompound struct {
	ID          string   `json:"id"`
	Name        string   `json:"name"`
	ExpectedMin float64  `json:"expected_min"`
	Ratios      []string `json:"ratios"` // titles of its qualifiers
}

// ScreenedSample is what is said of each compound in one sample; the cells stand as the compounds do.
type ScreenedSample struct {
	Name         string         `json:"name"`
	InjectionIDs []string       `json:"injection_ids"`
	Cells        []ScreenedCell `json:"cells"`
}

// ScreenedCell is one compound in one sample.
type ScreenedCell struct {
	Word screening.Word `json:"word"`
	// Evidence is that of each injection of the sample; it is shown by that at the place Shown. Others say otherwise.
	Evidence []screening.Evidence `json:"evidence"`
	Shown    int                  `json:"shown"`
	Others   int                  `json:"others"`
	// Decision is what a person said; nil where nobody did. Where it is stale the word is that of the evidence as it is now.
	Decision *screening.Decision `json:"decision,omitempty"`
	Stale    bool                `json:"stale,omitempty"`
	Print    string              `json:"print"`
}

// AllInside tells whether a person may confirm the cell without a reason: each injection brings all evidence that is asked for.
func (c ScreenedCell) AllInside() bool { return c.Own() == screening.Proposed }

// Own is the word of the evidence alone.
func (c ScreenedCell) Own() screening.Word {
	word, _, _ := screening.Together(c.Evidence)
	return word
}

// Likeness says how like the spectrum of a compound in an injection is to that in another one (of a standard; empty for none), 0 to 100, and what it was held
// against; nil where there are no spectra to compare.
type Likeness func(injectionID, standardID string, c compounds.Compound) (match *float64, against string)

// Screen judges every target in every sample of a processed batch.
func Screen(m Method, entries []Entry, r Result, choices Choices, likeness Likeness) Screened {
	s := newScreener(m, entries, r, likeness)
	out := Screened{Rules: s.rules(), Compounds: []ScreenedCompound{}, Samples: []ScreenedSample{}}
	targets := slices.DeleteFunc(m.Targets(), func(c compounds.Compound) bool {
		return len(out.Rules.Only) > 0 && !slices.Contains(out.Rules.Only, c.ID)
	})
	for _, c := range targets {
		one := ScreenedCompound{c.ID, c.Name, c.ExpectedMin, []string{}}
		for _, q := range c.Qualifiers {
			one.Ratios = append(one.Ratios, s.method.ChannelTitle(q.Channel))
		}
		out.Compounds = append(out.Compounds, one)
	}
	for _, row := range r.Samples {
		sample := ScreenedSample{Name: row.Name, InjectionIDs: row.InjectionIDs, Cells: make([]ScreenedCell, 0, len(targets))}
		for _, c := range targets {
			sample.Cells = append(sample.Cells, s.cell(row, c, choices.Screened[c.ID]))
		}
		out.Samples = append(out.Samples, sample)
	}
	return out
}

// ScreenOne is what one injection, of whatever role, says of one compound.
func ScreenOne(m Method, entries []Entry, r Result, injectionID string, c compounds.Compound, likeness Likeness) screening.Evidence {
	s := newScreener(m, entries, r, likeness)
	return s.evidence(s.places[injectionID], c)
}

func newScreener(m Method, entries []Entry, r Result, likeness Likeness) screener {
	s := screener{method: m, entries: entries, result: r, likeness: likeness, places: map[string]int{}}
	for i := range entries {
		s.places[entries[i].ID] = i
	}
	return s
}

type screener struct {
	method   Method
	entries  []Entry
	result   Result
	likeness Likeness
	places   map[string]int // of the injections in the run
}

func (s screener) rules() screening.Rules {
	if s.method.Screening == nil {
		return screening.Usual
	}
	return *s.method.Screening
}

func (s screener) cell(row SampleRow, c compounds.Compound, said []screening.Decision) ScreenedCell {
	cell := ScreenedCell{Evidence: make([]screening.Evidence, 0, len(row.InjectionIDs))}
	for _, id := range row.InjectionIDs {
		cell.Evidence = append(cell.Evidence, s.evidence(s.places[id], c))
	}
	cell.Word, cell.Shown, cell.Others = screening.Together(cell.Evidence)
	cell.Print = screening.Print(cell.Evidence)
	if k := slices.IndexFunc(said, func(d screening.Decision) bool { return d.Sample == row.Name }); k >= 0 {
		d := said[k]
		cell.Decision, cell.Stale = &d, d.Print != cell.Print
		if !cell.Stale {
			cell.Word = d.Word
		}
	}
	return cell
}

// evidence is what one injection says of one compound.
func (s screener) evidence(at int, c compounds.Compound) screening.Evidence {
	in, rules := &s.result.Injections[at], s.rules()
	e := screening.Evidence{InjectionID: in.ID, Marks: []screening.Mark{}, Word: screening.Nothing}
	peak := in.PeakOf(c.ID)
	if peak == nil {
		return e
	}
	e.Found = true
	expected := c.ExpectedMin
	if place, moved := in.Places[c.ID]; moved {
		expected = place.ExpectedMin
	}
	standard := s.standardNear(at, c.ID)
	if standard >= 0 {
		e.Standard = s.result.Injections[standard].ID
		expected = s.result.Injections[standard].PeakOf(c.ID).ApexMin
	}
	if rules.RetentionMin > 0 {
		mark := screening.NewMark(screening.Retention, &peak.ApexMin, ptrTo(expected-rules.RetentionMin), ptrTo(expected+rules.RetentionMin))
		mark.Expected = &expected
		e.Marks = append(e.Marks, mark)
	}
	if rules.LeastMatch > 0 {
		if match, against := s.likeness(in.ID, e.Standard, c); match != nil {
			e.Against = against
			e.Marks = append(e.Marks, screening.NewMark(screening.Spectrum, match, &rules.LeastMatch, nil))
		}
	}
	for k, q := range c.Qualifiers {
		if list := in.Qualifiers[c.ID]; k < len(list) && list[k].Expected != nil {
			e.Marks = append(e.Marks, s.ratio(list[k], q))
		}
	}
	if rules.LeastSignalToNoise > 0 && peak.SignalToNoise != nil {
		e.Marks = append(e.Marks, screening.NewMark(screening.SignalToNoise, peak.SignalToNoise, &rules.LeastSignalToNoise, nil))
	}
	e.Amount = in.Readings[c.ID].Amount
	limit := rules.Limits[c.ID]
	e.Word = e.Judge(limit > 0 && e.Amount != nil && *e.Amount < limit)
	return e
}

func (s screener) ratio(r QualifierReading, q compounds.Qualifier) screening.Mark {
	around := math.Abs(*r.Expected) * q.Percent(*r.Expected) / 100
	mark := screening.NewMark(screening.Ratio, r.Ratio, ptrTo(*r.Expected-around), ptrTo(*r.Expected+around))
	mark.Of, mark.Expected, mark.SignalToNoise, mark.Inside = s.method.ChannelTitle(q.Channel), r.Expected, r.SignalToNoise, r.Within
	return mark
}

// standardNear is the standard or check nearest in the run that shows the compound; −1 where none does. Of two equally near the earlier one is taken.
func (s screener) standardNear(at int, compoundID string) int {
	best := -1
	for i := range s.entries {
		if role := s.entries[i].Role; role != Standard && role != Check || s.entries[i].Typed != nil || s.result.Injections[i].PeakOf(compoundID) == nil {
			continue
		}
		if best < 0 || distance(i, at) < distance(best, at) {
			best = i
		}
	}
	return best
}

func distance(a, b int) int { return max(a-b, b-a) }

// Decide puts what a person said of cells into the choices of a batch. What is outside the evidence's limits asks for a reason; another print than that which was
// looked at is refused, so that nobody decides what they have not seen.
func (s Screened) Decide(choices *Choices, asked []ScreenDecision, by string, version int) error {
	kept := map[string][]screening.Decision{}
	for id, list := range choices.Screened {
		kept[id] = slices.Clone(list)
	}
	for _, a := range asked {
		cell, name, err := s.find(a)
		if err != nil {
			return err
		}
		kept[a.CompoundID] = slices.DeleteFunc(kept[a.CompoundID], func(d screening.Decision) bool { return d.Sample == a.Sample })
		if a.Word == "" { // taken back
			continue
		}
		if cell.Print != a.Print {
			return fmt.Errorf("%s in %s has other evidence by now than you looked at; look again", name, a.Sample)
		}
		plain := a.Word == screening.Again || a.Word == screening.Present && cell.AllInside()
		if !plain && a.Why == "" {
			return fmt.Errorf("%s in %s: say why; not all evidence speaks for it", name, a.Sample)
		}
		kept[a.CompoundID] = append(kept[a.CompoundID], screening.Decision{Sample: a.Sample, Word: a.Word, Why: a.Why, By: by, Print: a.Print, Version: version})
	}
	for id, list := range kept {
		if len(list) == 0 {
			delete(kept, id)
		}
	}
	choices.Screened = kept
	return screening.ValidDecisions(kept)
}

// ScreenDecision is what a person says of a compound in a sample; an empty word takes back what was said.
type ScreenDecision struct {
	Sample     string         `json:"sample"`
	CompoundID string         `json:"compound_id"`
	Word       screening.Word `json:"word"`
	Why        string         `json:"why,omitempty"`
	Print      string         `json:"print"` // of the evidence that was looked at
}

func (s Screened) find(a ScreenDecision) (ScreenedCell, string, error) {
	column := slices.IndexFunc(s.Compounds, func(c ScreenedCompound) bool { return c.ID == a.CompoundID })
	if column < 0 {
		return ScreenedCell{}, "", fmt.Errorf("there is no target %q in this method", a.CompoundID)
	}
	for _, sample := range s.Samples {
		if sample.Name == a.Sample {
			return sample.Cells[column], s.Compounds[column].Name, nil
		}
	}
	return ScreenedCell{}, "", fmt.Errorf("there is no sample called %q in this batch", a.Sample)
}
