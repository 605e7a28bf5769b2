// Package screening says which compounds are present in a sample, by the evidence that each must bring: its retention, its spectrum, the ratio of its ions and how
// far it stands out of the noise.
package screening

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Rules are the evidence that a compound must bring; part of the method. A rule of 0 asks nothing. How far ratios may stand off says each qualifier itself.
type Rules struct {
	RetentionMin       float64 `json:"retention_min"`         // how far from the standard nearest in the run, to each side
	LeastMatch         float64 `json:"least_match"`           // of the spectrum, 0 to 100
	LeastSignalToNoise float64 `json:"least_signal_to_noise"` // below it a compound is below the limit
	// Only are the compounds that are screened for, by id; empty is all targets.
	Only []string `json:"only,omitempty"`
	// Limits are the least contents that are told, in the reported unit, by compound id.
	Limits map[string]float64 `json:"limits,omitempty"`
}

// Usual are the rules of a method that has none of its own: ± 0.1 min and a signal three times the noise, as SANTE/11312/2021 asks for.
var Usual = Rules{RetentionMin: 0.1, LeastMatch: 90, LeastSignalToNoise: 3}

// Validate says in a sentence what keeps rules from being used.
func (r Rules) Validate() error {
	in := func(v, high float64) bool { return v >= 0 && v <= high }
	switch {
	case !in(r.RetentionMin, 1000):
		return fmt.Errorf("screening: a retention may stand off by 0 to 1000 min, not by %g", r.RetentionMin)
	case !in(r.LeastMatch, 100):
		return fmt.Errorf("screening: the least match is between 0 and 100, not %g", r.LeastMatch)
	case !in(r.LeastSignalToNoise, 1e6):
		return fmt.Errorf("screening: the least signal-to-noise is between 0 and 1000000, not %g", r.LeastSignalToNoise)
	}
	for id, limit := range r.Limits {
		if !(limit >= 0) || math.IsInf(limit, 0) {
			return fmt.Errorf("screening: the limit of %s is %g; it must be 0 or more", id, limit)
		}
	}
	return nil
}

// Kind is what a mark is of.
type Kind string

// The kinds of marks.
const (
	Retention     Kind = "retention"
	Spectrum      Kind = "spectrum"
	Ratio         Kind = "ratio"
	SignalToNoise Kind = "signal_to_noise"
)

// Kinds lists them in the order in which they are shown.
var Kinds = []Kind{Retention, Spectrum, Ratio, SignalToNoise}

// Mark is one piece of evidence: what was found, and what is permitted.
type Mark struct {
	Kind  Kind     `json:"kind"`
	Of    string   `json:"of,omitempty"` // the ion or wavelength of a ratio
	Value *float64 `json:"value"`        // absent where nothing was found, as of an ion that shows no peak
	Low   *float64 `json:"low"`          // absent is open
	High  *float64 `json:"high"`
	// Inside tells whether the value is permitted; what was not found is not.
	Inside bool `json:"inside"`
	// Expected is the middle of what is permitted: the standard's retention, the ratio.
	Expected *float64 `json:"expected,omitempty"`
	// SignalToNoise is that of the ion of a ratio.
	SignalToNoise *float64 `json:"signal_to_noise,omitempty"`
}

// NewMark holds a value against what is permitted; both ends are.
func NewMark(kind Kind, value, low, high *float64) Mark {
	m := Mark{Kind: kind, Value: value, Low: low, High: high}
	m.Inside = value != nil && !math.IsNaN(*value) && (low == nil || *value >= *low) && (high == nil || *value <= *high)
	return m
}

// Word is what is said of a compound in a sample.
type Word string

// The words. Only a person makes a compound present, or not.
const (
	Nothing    Word = "nothing"     // looked for, and nothing at its time
	BelowLimit Word = "below_limit" // there is something, but less than is told
	Proposed   Word = "proposed"    // all evidence speaks for it, and nobody has looked yet
	LookHere   Word = "look_here"   // some evidence is missing or speaks against it
	Present    Word = "present"     // a person confirmed it
	NotPresent Word = "not_present" // a person rejected it
	Again      Word = "again"       // a person wants the sample injected again
	Open       Word = ""            // takes back what a person said
)

// Words lists them.
var Words = []Word{Nothing, BelowLimit, Proposed, LookHere, Present, NotPresent, Again, Open}

// Waits tells whether a person must still say something.
func (w Word) Waits() bool { return w == Proposed || w == LookHere }

// Evidence is what one injection says of one compound.
type Evidence struct {
	InjectionID string   `json:"injection_id"`
	Found       bool     `json:"found"`
	Marks       []Mark   `json:"marks"`
	Amount      *float64 `json:"amount"` // in the reported unit
	Word        Word     `json:"word"`
	// Standard is the injection whose retention and spectrum it is held against; empty where no standard shows the compound.
	Standard string `json:"standard,omitempty"`
	// Against says what the spectrum is held against: a standard or an entry of a library; empty without one.
	Against string `json:"against,omitempty"`
}

// Judge says the word for the evidence as it stands. below tells that the amount is under what is told.
func (e Evidence) Judge(below bool) Word {
	if !e.Found {
		return Nothing
	}
	word := Proposed
	for _, m := range e.Marks {
		switch {
		case m.Inside:
		case m.Kind == SignalToNoise:
			return BelowLimit
		default:
			word = LookHere
		}
	}
	if below {
		return BelowLimit
	}
	return word
}

// Together is the word for a sample of several injections, the place of the one that it is shown by, and how many say otherwise. Where they do not agree, one has
// to look; it is shown by the one with the most to look at.
func Together(list []Evidence) (word Word, shown, others int) {
	rank := map[Word]int{Nothing: 0, BelowLimit: 1, Proposed: 2, LookHere: 3}
	counts := map[Word]int{}
	for k, e := range list {
		counts[e.Word]++
		if rank[e.Word] > rank[list[shown].Word] {
			shown = k
		}
	}
	if len(list) == 0 {
		return Nothing, 0, 0
	}
	if len(counts) == 1 {
		return list[0].Word, shown, 0
	}
	others = len(list) - counts[list[shown].Word]
	if counts[Proposed]+counts[LookHere] == 0 {
		return BelowLimit, shown, others
	}
	return LookHere, shown, others
}

// Decision is what a person said of a compound in a sample.
type Decision struct {
	Sample string `json:"sample"` // its name
	Word   Word   `json:"word"`   // present, not_present or again
	Why    string `json:"why,omitempty"`
	By     string `json:"by"`
	// Print is that of the evidence that was looked at, and Version the number of the method then: with other evidence it holds no longer.
	Print   string `json:"print"`
	Version int    `json:"version"`
}

// Bounds of decisions.
const (
	maxDecisions = 5000 // of one compound
	maxWhy       = 500  // letters of a reason
)

// ValidDecisions says in a sentence what keeps decisions from being kept.
func ValidDecisions(of map[string][]Decision) error {
	for id, list := range of {
		if len(list) > maxDecisions {
			return fmt.Errorf("screening: %d samples are decided for %s; at most %d are", len(list), id, maxDecisions)
		}
		for _, d := range list {
			if d.Word != Present && d.Word != NotPresent && d.Word != Again {
				return fmt.Errorf("screening: %s in %s cannot be %q; it is present, not_present or again", id, d.Sample, d.Word)
			}
			if len(d.Why) > maxWhy {
				return fmt.Errorf("screening: a reason has at most %d letters, that of %s in %s has %d", maxWhy, id, d.Sample, len(d.Why))
			}
		}
	}
	return nil
}

// Print is the same for the same evidence: its values to four digits, with what lies inside. A decision is only worth what was looked at.
func Print(list []Evidence) string {
	var parts []string
	for _, e := range list {
		text := string(e.Word)
		for _, m := range e.Marks {
			value := "none"
			if m.Value != nil {
				value = strconv.FormatFloat(*m.Value, 'g', 4, 64)
			}
			text += fmt.Sprintf(" %c%s%s", m.Kind[0], value, map[bool]string{true: "", false: "!"}[m.Inside])
		}
		parts = append(parts, text)
	}
	return strings.Join(parts, "; ")
}
