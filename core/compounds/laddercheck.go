package compounds

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// LadderCheck is what speaks against a ladder: rungs out of line with their neighbours, and how far the alkanes of an injection stand from it.
type LadderCheck struct {
	Found  int         `json:"found"`  // rungs that have a peak near
	Shift  *float64    `json:"shift"`  // the median shift of those, min; absent where the peaks are not those of the alkanes: fewer than four fifths of the rungs, or than three, have one, or they do not move together
	Shifts []RungShift `json:"shifts"` // of each rung that has a peak
	Odd    []RungShift `json:"odd"`    // rungs that are not where their neighbours put them
	Says   string      `json:"says"`
}

// RungShift is how far a rung is from where it is expected, min.
type RungShift struct {
	Carbons int     `json:"carbons"`
	Shift   float64 `json:"shift_min"`
}

const (
	oddShare   = 0.12 // of the way to the next rung
	driftShare = 0.05 // the same for a median shift that is worth a word
	// togetherShare is how far from their median shift half of the alkanes may stand.
	togetherShare = 0.02
)

// Check holds a ladder against itself, and against the apexes of an injection of its alkanes, min. A rung is expected where a polynomial through two neighbours on
// each side puts it (Lagrange, in carbons), which for an even or a growing spacing is within a hundredth of the step.
func (l Ladder) Check(apexes []float64) LadderCheck {
	out := LadderCheck{Shifts: []RungShift{}, Odd: []RungShift{}}
	for i, r := range l.Rungs {
		if expected, ok := l.between(i); ok && math.Abs(r.TimeMin-expected) > oddShare*l.step(i) {
			out.Odd = append(out.Odd, RungShift{r.Carbons, r.TimeMin - expected})
		}
		if at, ok := nearest(apexes, r.TimeMin); ok && math.Abs(at-r.TimeMin) < l.step(i)/3 {
			out.Shifts = append(out.Shifts, RungShift{r.Carbons, at - r.TimeMin})
		}
	}
	out.Odd = worstOf(out.Odd)
	if out.Found = len(out.Shifts); out.Found >= 3 && 5*out.Found >= 4*len(l.Rungs) && l.together(out.Shifts) {
		shift := medianShift(out.Shifts)
		out.Shift = &shift
	}
	out.Says = out.says(l)
	return out
}

// together tells whether alkanes move together, as they do from one run to the next; other peaks stand at random about the rungs.
func (l Ladder) together(shifts []RungShift) bool {
	middle := medianShift(shifts)
	apart := make([]RungShift, len(shifts))
	for k, s := range shifts {
		apart[k].Shift = math.Abs(s.Shift - middle)
	}
	step := (l.Rungs[len(l.Rungs)-1].TimeMin - l.Rungs[0].TimeMin) / float64(len(l.Rungs)-1)
	return medianShift(apart) <= togetherShare*step
}

// worstOf leaves the rung that is most out of line and those that are not its neighbours: a wrong one makes its neighbours look wrong.
func worstOf(odd []RungShift) []RungShift {
	slices.SortStableFunc(odd, func(a, b RungShift) int {
		switch {
		case math.Abs(a.Shift) > math.Abs(b.Shift):
			return -1
		case math.Abs(a.Shift) < math.Abs(b.Shift):
			return 1
		}
		return 0
	})
	kept := []RungShift{}
	for _, r := range odd {
		if !slices.ContainsFunc(kept, func(k RungShift) bool { return max(k.Carbons-r.Carbons, r.Carbons-k.Carbons) <= 4 }) {
			kept = append(kept, r)
		}
	}
	return kept
}

func (c LadderCheck) says(l Ladder) string {
	var parts []string
	for _, r := range c.Odd {
		parts = append(parts, fmt.Sprintf("C%d stands %.2f min %s where its neighbours put it.", r.Carbons, math.Abs(r.Shift), map[bool]string{true: "after", false: "before"}[r.Shift > 0]))
	}
	if c.Shift != nil {
		step := (l.Rungs[len(l.Rungs)-1].TimeMin - l.Rungs[0].TimeMin) / float64(len(l.Rungs)-1)
		switch {
		case math.Abs(*c.Shift) > driftShare*step:
			parts = append(parts, fmt.Sprintf("The alkanes shown come %.3f min %s than the ladder says: take them anew, or indices are off by up to %.0f.", math.Abs(*c.Shift), map[bool]string{true: "later", false: "earlier"}[*c.Shift > 0], l.offBy(*c.Shift)))
		default:
			parts = append(parts, fmt.Sprintf("%d of %d alkanes shown stand where the ladder says, within %.3f min.", c.Found, len(l.Rungs), c.widest()))
		}
	}
	return strings.Join(parts, " ")
}

func (c LadderCheck) widest() float64 {
	widest := 0.0
	for _, s := range c.Shifts {
		widest = math.Max(widest, math.Abs(s.Shift))
	}
	return widest
}

// offBy is the greatest error of an index that a shift makes, in index units.
func (l Ladder) offBy(shift float64) float64 {
	most := 0.0
	for i := 1; i < len(l.Rungs); i++ {
		a, b := l.Rungs[i-1], l.Rungs[i]
		most = math.Max(most, 100*float64(b.Carbons-a.Carbons)*math.Abs(shift)/(b.TimeMin-a.TimeMin))
	}
	return most
}

// step is the time to the nearer neighbour of a rung.
func (l Ladder) step(i int) float64 {
	least := math.Inf(1)
	if i > 0 {
		least = l.Rungs[i].TimeMin - l.Rungs[i-1].TimeMin
	}
	if i+1 < len(l.Rungs) {
		least = math.Min(least, l.Rungs[i+1].TimeMin-l.Rungs[i].TimeMin)
	}
	return least
}

// between is where two neighbours on each side put a rung; ok is false near the ends.
func (l Ladder) between(i int) (float64, bool) {
	if i < 2 || i+2 >= len(l.Rungs) {
		return 0, false
	}
	x, sum := float64(l.Rungs[i].Carbons), 0.0
	around := []int{i - 2, i - 1, i + 1, i + 2}
	for _, a := range around {
		term := l.Rungs[a].TimeMin
		for _, b := range around {
			if a != b {
				term *= (x - float64(l.Rungs[b].Carbons)) / float64(l.Rungs[a].Carbons-l.Rungs[b].Carbons)
			}
		}
		sum += term
	}
	return sum, true
}

func nearest(list []float64, at float64) (float64, bool) {
	best, found := 0.0, false
	for _, v := range list {
		if !found || math.Abs(v-at) < math.Abs(best-at) {
			best, found = v, true
		}
	}
	return best, found
}

func medianShift(list []RungShift) float64 {
	values := make([]float64, len(list))
	for k, s := range list {
		values[k] = s.Shift
	}
	slices.Sort(values)
	if n := len(values); n%2 == 0 {
		return (values[n/2-1] + values[n/2]) / 2
	}
	return values[len(values)/2]
}
