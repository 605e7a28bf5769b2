// Package compounds names peaks: which peak of a trace is which compound.
package compounds

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"yugen/core/peaks"
)

// Compound is what a peak can be named as.
type Compound struct {
	ID          string  `json:"id"`
	Name        string  `json:"name"`
	ExpectedMin float64 `json:"expected_min"`
	Window      Window  `json:"window"`
	Rule        Rule    `json:"rule"`
	Role        Role    `json:"role"`
	// Amount is how much internal standard every injection holds, in the unit of the levels; only for that role.
	Amount float64 `json:"amount,omitempty"`
	// Against is the internal standard that a target is read against, by id; empty means the nearest in retention, "none" none.
	Against string `json:"against,omitempty"`
	// Channel is the channel of the method that it is looked for in, by id; empty is the first.
	Channel string `json:"channel,omitempty"`
	// Qualifiers are peaks of other channels that bear the name out.
	Qualifiers []Qualifier `json:"qualifiers,omitempty"`
	// Reference peaks are named first; the expected times of the others are then scaled by where they are.
	Reference bool `json:"reference,omitempty"`
	// Index is the expected retention index; with it and a ladder ExpectedMin has no meaning. 0 is none.
	Index float64 `json:"index,omitempty"`
	Group string  `json:"group,omitempty"` // whose sum is reported
	Mix   string  `json:"mix,omitempty"`   // the mixture of standards that holds it; empty means every standard does
	// MinResolution is the least resolution that the method asks for, to the previous peak or to that of the compound ResolutionTo; 0
	// asks nothing.
	MinResolution float64 `json:"min_resolution,omitempty"`
	ResolutionTo  string  `json:"resolution_to,omitempty"`
	// MolarMass, g/mol, turns mass into amount of substance and back; 0 is not known.
	MolarMass float64 `json:"molar_mass,omitempty"`
}

// Qualifier asks for a peak at the same time in another channel, whose response stands in a ratio to the compound's own.
type Qualifier struct {
	Channel string `json:"channel"`
	// Ratio is the expected one; 0 takes the mean of the standards of the batch.
	Ratio            float64 `json:"ratio,omitempty"`
	TolerancePercent float64 `json:"tolerance_percent"` // to each side
	// Tolerance says what the percents are of; empty is of the ratio.
	Tolerance ToleranceKind `json:"tolerance,omitempty"`
}

// ToleranceKind says how far a ratio may stand from the expected one.
type ToleranceKind string

// The kinds of tolerance.
const (
	OfTheRatio ToleranceKind = ""         // percent of the ratio
	InPoints   ToleranceKind = "absolute" // percentage points: 10 lets 40 % go from 30 to 50 %
	InSteps    ToleranceKind = "steps"    // by the size of the ratio: 20 % of it above 50 %, 25 above 20, 30 above 10, 50 below
)

// ToleranceKinds lists them.
var ToleranceKinds = []ToleranceKind{OfTheRatio, InPoints, InSteps}

// Percent is how far a ratio may stand from the expected one, in percent of it. The steps are those of Commission Decision 2002/657/EC, table 4, for LC-MS and
// for chemical ionisation; ± 30 % of the ratio is what SANTE/11312/2021 asks for, ± 40 % Regulation (EU) 2021/808.
func (q Qualifier) Percent(expected float64) float64 {
	switch q.Tolerance {
	case InPoints:
		if expected == 0 {
			return 0
		}
		return q.TolerancePercent / math.Abs(expected)
	case InSteps:
		switch r := math.Abs(expected); {
		case r > 0.5:
			return 20
		case r > 0.2:
			return 25
		case r > 0.1:
			return 30
		}
		return 50
	}
	return q.TolerancePercent
}

// maxQualifiers bounds those of one compound.
const maxQualifiers = 20

func (c Compound) validateQualifiers() error {
	if len(c.Qualifiers) > maxQualifiers {
		return fmt.Errorf("compounds: %s has %d qualifiers; at most %d are taken", c.Name, len(c.Qualifiers), maxQualifiers)
	}
	for _, q := range c.Qualifiers {
		if !slices.Contains(ToleranceKinds, q.Tolerance) {
			return fmt.Errorf("compounds: the tolerance %q of a qualifier of %s is unknown; it is of the ratio, absolute or steps", q.Tolerance, c.Name)
		}
		if !(q.Ratio >= 0 && q.Ratio <= 1e9) || !(q.TolerancePercent > 0 && q.TolerancePercent <= 1000) {
			return fmt.Errorf("compounds: a qualifier of %s has the ratio %g ± %g %%; the ratio is 0 or more, and the tolerance above 0", c.Name, q.Ratio, q.TolerancePercent)
		}
	}
	return nil
}

// FreshID makes an id of a name that no other compound has.
func FreshID(name string, others []Compound) string {
	return IDOf(name, func(id string) bool {
		return slices.ContainsFunc(others, func(c Compound) bool { return c.ID == id })
	})
}

// IDOf makes an id of a name that is not taken.
func IDOf(name string, taken func(id string) bool) string {
	stem := strings.Trim(notInID.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if stem == "" {
		stem = "compound"
	}
	id := stem
	for n := 2; taken(id); n++ {
		id = fmt.Sprintf("%s-%d", stem, n)
	}
	return id
}

var notInID = regexp.MustCompile(`[^a-z0-9]+`)

// Window is how far a peak may stand from the expected retention, to each side.
type Window struct {
	Kind  WindowKind `json:"kind"`
	Value float64    `json:"value"` // minutes, percent of the expected retention, or index units
}

// WindowKind is how a window is stated.
type WindowKind string

// The kinds of window.
const (
	Absolute WindowKind = "absolute"
	Percent  WindowKind = "percent"
	ByIndex  WindowKind = "index" // in units of retention index; the compound needs an index and the method a ladder
)

// WindowKinds lists them in the order in which they are offered.
var WindowKinds = []WindowKind{Absolute, Percent, ByIndex}

// Rule says which peak wins when several are in the window.
type Rule string

// The four rules.
const (
	Nearest Rule = "nearest"
	Largest Rule = "largest"
	First   Rule = "first"
	Last    Rule = "last"
)

// Rules lists them in the order in which they are offered.
var Rules = []Rule{Nearest, Largest, First, Last}

// Role is what a compound is for.
type Role string

// The roles.
const (
	Target           Role = "target"
	InternalStandard Role = "internal_standard"
)

// maxName bounds ids, names and groups, in letters.
const maxName = 300

// Bounded says in a sentence which id, name or group is too long to be kept. Lists that are kept already are not asked for it.
func Bounded(list []Compound) error {
	for i, c := range list {
		if max(utf8.RuneCountInString(c.ID), utf8.RuneCountInString(c.Name), utf8.RuneCountInString(c.Group)) > maxName {
			return fmt.Errorf("compounds: id, name and group of number %d have at most %d letters each", i+1, maxName)
		}
	}
	return nil
}

// Validate says in a sentence what is wrong with a list of compounds.
func Validate(list []Compound) error {
	if len(list) > 2000 {
		return fmt.Errorf("compounds: there are %d; at most 2000 are taken", len(list))
	}
	ids, names := map[string]bool{}, map[string]bool{}
	for i, c := range list {
		switch {
		case c.ID == "" || ids[c.ID]:
			return fmt.Errorf("compounds: number %d needs an id of its own; %q is empty or taken", i+1, c.ID)
		case c.Name == "":
			return fmt.Errorf("compounds: number %d has no name", i+1)
		case names[c.Name]:
			return fmt.Errorf("compounds: the name %q is given twice", c.Name)
		case c.Index < 0 || c.Index > 1e5 || c.Index != c.Index:
			return fmt.Errorf("compounds: the retention index of %s is %g; it must lie between 0 and 100000", c.Name, c.Index)
		case c.Reference && c.Index > 0:
			return fmt.Errorf("compounds: %s is a reference and is expected by retention index; references are expected by time", c.Name)
		case c.Window.Kind == ByIndex && c.Index == 0:
			return fmt.Errorf("compounds: the window of %s is in index units, but it has no retention index", c.Name)
		case !(c.ExpectedMin > 0) || c.ExpectedMin > 1e5:
			return fmt.Errorf("compounds: %s is expected at %g min; give a time above 0", c.Name, c.ExpectedMin)
		case !(c.MolarMass >= 0) || c.MolarMass > 1e7:
			return fmt.Errorf("compounds: the molar mass of %s is %g; it must lie between 0 and 10000000 g/mol", c.Name, c.MolarMass)
		case !slices.Contains(WindowKinds, c.Window.Kind):
			return fmt.Errorf("compounds: the window of %s is of the unknown kind %q", c.Name, c.Window.Kind)
		case !(c.Window.Value > 0) || c.Window.Value > 1e5:
			return fmt.Errorf("compounds: the window of %s is %g; it must be above 0", c.Name, c.Window.Value)
		case !slices.Contains(Rules, c.Rule):
			return fmt.Errorf("compounds: %s has the unknown rule %q", c.Name, c.Rule)
		case c.Role != Target && c.Role != InternalStandard:
			return fmt.Errorf("compounds: %s has the unknown role %q", c.Name, c.Role)
		case c.Role == InternalStandard && !(c.Amount > 0):
			return fmt.Errorf("compounds: the internal standard %s needs its amount in each injection", c.Name)
		}
		if err := c.validateQualifiers(); err != nil {
			return err
		}
		ids[c.ID], names[c.Name] = true, true
	}
	return nil
}

// Place is where a compound is expected in one injection, in minutes, and how far its window reaches to each side.
type Place struct {
	ExpectedMin float64 `json:"expected_min"`
	HalfMin     float64 `json:"half_min"`
}

// Place is where a compound is expected when nothing has moved.
func (c Compound) Place() Place {
	half := c.Window.Value
	if c.Window.Kind == Percent {
		half = c.ExpectedMin * c.Window.Value / 100
	}
	return Place{c.ExpectedMin, half}
}

// Named is which peak of a trace each compound is.
type Named struct {
	Peak  map[string]int   // by compound id, the index of its peak; compounds without a peak are absent
	Place map[string]Place // by compound id
	// Contenders are, for compounds with more than one peak in their window, those peaks in order of time.
	Contenders map[string][]Contender
}

// Contender is a peak in a window, with the rules by which it would win.
type Contender struct {
	Peak int
	Wins []Rule
}

// contenders tells of each peak in a window by which rules it would win; nil where there is only one.
func contenders(found []peaks.Peak, at Place) []Contender {
	in := Candidates(found, at, First)
	if len(in) < 2 {
		return nil
	}
	list := make([]Contender, len(in))
	for k, peak := range in {
		list[k] = Contender{Peak: peak, Wins: []Rule{}}
	}
	for _, rule := range Rules {
		winner := Candidates(found, at, rule)[0]
		k := slices.Index(in, winner)
		list[k].Wins = append(list[k].Wins, rule)
	}
	return list
}

// Name finds the peak of each compound. References are named first, and the places of the others are scaled by theirs; a compound with a
// retention index is expected where the ladder says. One peak has at most one name: when two compounds want it, it goes to the nearer
// in units of its window, and the other takes its next candidate. The order of the list has no effect.
func Name(found []peaks.Peak, list []Compound, ladder *Ladder) Named {
	var references, others []Compound
	for _, c := range list {
		if c.Reference {
			references = append(references, c)
		} else {
			others = append(others, c)
		}
	}
	out := Named{map[string]int{}, map[string]Place{}, map[string][]Contender{}}
	taken := map[int]bool{}
	settle := func(list []Compound, at func(Compound) (Place, bool)) {
		var wants []want
		for _, c := range list {
			p, ok := at(c)
			if !ok {
				continue
			}
			out.Place[c.ID] = p
			if rivals := contenders(found, p); rivals != nil {
				out.Contenders[c.ID] = rivals
			}
			candidates := slices.DeleteFunc(Candidates(found, p, c.Rule), func(i int) bool { return taken[i] })
			wants = append(wants, want{c, p, candidates})
		}
		for id, peak := range share(found, wants) {
			out.Peak[id] = peak
		}
	}
	settle(references, func(c Compound) (Place, bool) { return c.Place(), true })
	for _, peak := range out.Peak {
		taken[peak] = true
	}
	moved := scaling(references, out.Peak, found)
	settle(others, func(c Compound) (Place, bool) {
		if c.Index > 0 && ladder != nil {
			return ladder.place(c)
		}
		p := c.Place()
		return Place{moved(p.ExpectedMin), p.HalfMin}, true
	})
	return out
}

// scaling moves expected times as the references have moved: by straight pieces through zero and each reference that was found, and
// beyond the last in its ratio.
func scaling(references []Compound, named map[string]int, found []peaks.Peak) func(min float64) float64 {
	type knot struct{ expected, found float64 }
	knots := []knot{{0, 0}}
	for _, c := range references {
		if i, ok := named[c.ID]; ok {
			knots = append(knots, knot{c.ExpectedMin, found[i].ApexMin})
		}
	}
	slices.SortFunc(knots, func(a, b knot) int { return cmp.Compare(a.expected, b.expected) })
	return func(min float64) float64 {
		i := 1
		for i < len(knots) && knots[i].expected < min {
			i++
		}
		if i == len(knots) {
			last := knots[i-1]
			if last.expected == 0 {
				return min
			}
			return min * last.found / last.expected
		}
		a, b := knots[i-1], knots[i]
		if b.expected == a.expected {
			return b.found
		}
		return a.found + (b.found-a.found)*(min-a.expected)/(b.expected-a.expected)
	}
}

// want is a compound with the peaks it could be, the best first.
type want struct {
	compound   Compound
	place      Place
	candidates []int
}

// share gives each peak to at most one compound.
func share(found []peaks.Peak, wants []want) map[string]int {
	slices.SortFunc(wants, func(a, b want) int { return cmp.Compare(a.compound.ID, b.compound.ID) })
	taken := map[int]int{} // peak -> index into wants
	for open := true; open; {
		open = false
		for w := range wants {
			if held(taken, w) || len(wants[w].candidates) == 0 {
				continue
			}
			open = true
			peak := wants[w].candidates[0]
			other, contested := taken[peak]
			if contested && distance(found[peak], wants[other].place) <= distance(found[peak], wants[w].place) {
				wants[w].candidates = wants[w].candidates[1:]
				continue
			}
			if contested {
				wants[other].candidates = wants[other].candidates[1:]
			}
			taken[peak] = w
		}
	}
	named := make(map[string]int, len(taken))
	for peak, w := range taken {
		named[wants[w].compound.ID] = peak
	}
	return named
}

func held(taken map[int]int, w int) bool {
	for _, x := range taken {
		if x == w {
			return true
		}
	}
	return false
}

// Candidates are the peaks in a window, the winner by the rule first.
func Candidates(found []peaks.Peak, at Place, rule Rule) []int {
	var in []int
	for i, p := range found {
		if distance(p, at) <= 1 {
			in = append(in, i)
		}
	}
	slices.SortStableFunc(in, func(a, b int) int {
		switch rule {
		case Largest:
			return cmp.Compare(found[b].AreaS, found[a].AreaS)
		case First:
			return cmp.Compare(found[a].ApexMin, found[b].ApexMin)
		case Last:
			return cmp.Compare(found[b].ApexMin, found[a].ApexMin)
		}
		return cmp.Compare(distance(found[a], at), distance(found[b], at))
	})
	return in
}

// distance is how far a peak stands from the expected retention, in half widths of the window.
func distance(p peaks.Peak, at Place) float64 {
	return math.Abs(p.ApexMin-at.ExpectedMin) / at.HalfMin
}
