package peaks

import (
	"fmt"
	"math"
	"slices"
)

// TimeRule is a setting that holds for a stretch of the run.
type TimeRule struct {
	Kind    RuleKind `json:"kind"`
	FromMin float64  `json:"from_min"`
	ToMin   float64  `json:"to_min"`
	// Setting is the setting that a Change changes: threshold, width_min, least_area, least_height or skim_percent.
	Setting string  `json:"setting,omitempty"`
	Value   float64 `json:"value,omitempty"`
	// How is the way in which a Part rule parts peaks.
	How SplitKind `json:"how,omitempty"`
}

// RuleKind names what a time rule does.
type RuleKind string

// The kinds of time rule.
const (
	// LeaveOut finds no peak whose apex lies in the stretch.
	LeaveOut RuleKind = "leave_out"
	// Negative finds negative peaks in the stretch, and no others. Elsewhere there are none.
	Negative RuleKind = "negative"
	// Hold keeps the baseline level: at the height that the signal has where the stretch begins.
	Hold RuleKind = "hold"
	// OneBaseline forces one straight baseline from the signal at the beginning of the stretch to that at its end.
	OneBaseline RuleKind = "one_baseline"
	// StraightGround takes the ground for straight in the stretch, however it bends.
	StraightGround RuleKind = "straight_ground"
	// Sum makes one peak of all whose apexes lie in the stretch.
	Sum RuleKind = "sum"
	// SplitHere parts the peak that lies there where the stretch begins; its end has no meaning.
	SplitHere RuleKind = "split_here"
	// Part says how peaks that touch are parted in the stretch.
	Part RuleKind = "part"
	// Change gives a setting another value in the stretch.
	Change RuleKind = "change"
)

// RuleKinds lists them in the order in which they are offered.
var RuleKinds = []RuleKind{LeaveOut, Negative, Hold, OneBaseline, StraightGround, Sum, SplitHere, Part, Change}

func (r TimeRule) covers(min float64) bool { return min >= r.FromMin && min <= r.ToMin }

func (r TimeRule) validate() error {
	finite := func(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }
	switch {
	case !slices.Contains(RuleKinds, r.Kind):
		return fmt.Errorf("is of the unknown kind %q; known are %v", r.Kind, RuleKinds)
	case !finite(r.FromMin) || !finite(r.ToMin):
		return fmt.Errorf("runs from %g to %g min; both must be numbers", r.FromMin, r.ToMin)
	case r.Kind != SplitHere && !(r.FromMin < r.ToMin):
		return fmt.Errorf("runs from %g to %g min; its end must come after its start", r.FromMin, r.ToMin)
	case r.Kind == Part && !slices.Contains(SplitKinds, r.How):
		return fmt.Errorf("parts peaks in the unknown way %q; known are %v", r.How, SplitKinds)
	case r.Kind == Change && !isChangeable(r.Setting):
		return fmt.Errorf("changes the setting %q; it can change %v", r.Setting, changeable)
	case r.Kind == Change && !(r.Value >= 0 && r.Value <= math.MaxFloat64):
		return fmt.Errorf("sets %s to %g; it must not be below 0", r.Setting, r.Value)
	}
	return nil
}

// rule is the last rule of a kind that covers the time.
func (s Settings) rule(kind RuleKind, min float64) (TimeRule, bool) {
	for _, r := range slices.Backward(s.TimeRules) {
		if r.Kind == kind && r.covers(min) {
			return r, true
		}
	}
	return TimeRule{}, false
}

func (s Settings) ruled(kind RuleKind, min float64) bool {
	_, ok := s.rule(kind, min)
	return ok
}

// sums joins the peaks of each stretch that is to be summed: from the first one's start to the last one's end.
func (v *view) sums(found []candidate) []candidate {
	for _, r := range v.settings.TimeRules {
		if r.Kind != Sum {
			continue
		}
		in := func(c candidate) bool { return r.covers(v.timeS(c.apex) / 60) }
		first := slices.IndexFunc(found, in)
		if first < 0 {
			continue
		}
		last := first
		for last+1 < len(found) && in(found[last+1]) {
			last++
		}
		whole := found[first]
		for _, c := range found[first+1 : last+1] {
			whole = joined(whole, c)
		}
		whole.summed = last > first
		found = slices.Concat(found[:first], []candidate{whole}, found[last+1:])
	}
	return found
}

// splitsHere parts peaks where rules say so.
func (v *view) splitsHere(found []candidate) []candidate {
	for _, r := range v.settings.TimeRules {
		if r.Kind != SplitHere {
			continue
		}
		at := v.position(r.FromMin)
		i := slices.IndexFunc(found, func(c candidate) bool { return at > c.start && at < c.end })
		if i < 0 {
			continue
		}
		if parts, ok := v.split(found, i, at, ByRule); ok {
			found = parts
		}
	}
	return found
}
