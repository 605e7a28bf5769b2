// Package compounds names peaks: which peak of a trace is which compound.
package compounds

import (
	"cmp"
	"fmt"
	"math"
	"slices"

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
	// MinResolution is the least resolution to the previous peak that the method asks for; 0 asks nothing.
	MinResolution float64 `json:"min_resolution,omitempty"`
}

// Window is how far a peak may stand from the expected retention, to each side.
type Window struct {
	Kind  WindowKind `json:"kind"`
	Value float64    `json:"value"` // minutes, or percent of the expected retention
}

// WindowKind is how a window is stated.
type WindowKind string

// The kinds of window.
const (
	Absolute WindowKind = "absolute"
	Percent  WindowKind = "percent"
)

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

// HalfWidthMin is half the window's width in minutes.
func (c Compound) HalfWidthMin() float64 {
	if c.Window.Kind == Percent {
		return c.ExpectedMin * c.Window.Value / 100
	}
	return c.Window.Value
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
		case !(c.ExpectedMin > 0) || c.ExpectedMin > 1e5:
			return fmt.Errorf("compounds: %s is expected at %g min; give a time above 0", c.Name, c.ExpectedMin)
		case c.Window.Kind != Absolute && c.Window.Kind != Percent:
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
		ids[c.ID], names[c.Name] = true, true
	}
	return nil
}

// Name finds the peak of each compound. The answer holds, by compound id, the index of its peak; compounds without a
// peak are absent. One peak has at most one name: when two compounds want it, it goes to the nearer in units of its
// window, and the other takes its next candidate. The order of the list has no effect.
func Name(found []peaks.Peak, list []Compound) map[string]int {
	type want struct {
		compound   Compound
		candidates []int
	}
	wants := make([]want, 0, len(list))
	for _, c := range list {
		wants = append(wants, want{c, Candidates(found, c)})
	}
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
			if contested && distance(found[peak], wants[other].compound) <= distance(found[peak], wants[w].compound) {
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

// Candidates are the peaks in a compound's window, the winner by its rule first.
func Candidates(found []peaks.Peak, c Compound) []int {
	var in []int
	for i, p := range found {
		if distance(p, c) <= 1 {
			in = append(in, i)
		}
	}
	slices.SortStableFunc(in, func(a, b int) int {
		switch c.Rule {
		case Largest:
			return cmp.Compare(found[b].AreaS, found[a].AreaS)
		case First:
			return cmp.Compare(found[a].ApexMin, found[b].ApexMin)
		case Last:
			return cmp.Compare(found[b].ApexMin, found[a].ApexMin)
		}
		return cmp.Compare(distance(found[a], c), distance(found[b], c))
	})
	return in
}

// distance is how far a peak stands from the expected retention, in half widths of the window.
func distance(p peaks.Peak, c Compound) float64 {
	return math.Abs(p.ApexMin-c.ExpectedMin) / c.HalfWidthMin()
}
