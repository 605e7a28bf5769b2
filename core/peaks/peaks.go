// Package peaks integrates a trace: it finds peaks, draws the baseline under them, parts those that touch, and measures
// each by the pharmacopoeial definitions.
package peaks

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"yugen/core/signal"
)

// Settings say how a trace is integrated. The zero value means: estimate the width, default threshold, keep all.
type Settings struct {
	WidthMin  float64 `json:"width_min"`  // expected width at half height; 0 estimates it from the trace
	Threshold float64 `json:"threshold"`  // how many times its own noise a peak's curvature must be; 0 means DefaultThreshold
	LeastArea float64 `json:"least_area"` // signal · s
	// SkimPercent is the greatest height of a peak on the tail or front of another, in percent of that other's, at which it is
	// skimmed off by a tangent rather than parted by a drop; 0 skims none.
	SkimPercent float64 `json:"skim_percent,omitempty"`
	// SkimValleyPercent is the least height of the valley between the two, in percent of the small one's; 0 means 10.
	SkimValleyPercent float64    `json:"skim_valley_percent,omitempty"`
	TimeRules         []TimeRule `json:"time_rules,omitempty"`
}

// DefaultThreshold keeps noise alone below one false peak in twenty runs of 10 000 points.
const DefaultThreshold = 5.0

// TimeRule is a setting that holds for a stretch of the run.
type TimeRule struct {
	Kind    RuleKind `json:"kind"`
	FromMin float64  `json:"from_min"`
	ToMin   float64  `json:"to_min"`
}

// RuleKind names what a time rule does.
type RuleKind string

// The kinds of time rule.
const (
	// LeaveOut finds no peak whose apex lies in the stretch.
	LeaveOut RuleKind = "leave_out"
	// Negative finds negative peaks in the stretch, and no others. Elsewhere there are none.
	Negative RuleKind = "negative"
)

// RuleKinds lists them in the order in which they are offered.
var RuleKinds = []RuleKind{LeaveOut, Negative}

// SideKind says how a boundary of a peak came to be.
type SideKind string

// The kinds of boundary: on the baseline, by perpendicular drop at a valley or shoulder, on a tangent, at the end of the trace, by
// hand.
const (
	Base   SideKind = "base"
	Drop   SideKind = "drop"
	Skim   SideKind = "skim"
	Limit  SideKind = "limit"
	ByHand SideKind = "by_hand"
)

// Flag marks a peak that wants a human eye.
type Flag string

// The flags: a top cut off by the detector, an apex that is no maximum of its own, a peak below its baseline.
const (
	Saturated Flag = "saturated"
	Shoulder  Flag = "shoulder"
	Downward  Flag = "negative"
)

// Peak is one integrated peak. Times are in minutes, areas in signal · s; a measure that cannot be had is nil. Area and height
// of a negative peak are negative.
type Peak struct {
	Number   int     `json:"number"`
	StartMin float64 `json:"start_min"`
	ApexMin  float64 `json:"apex_min"`
	EndMin   float64 `json:"end_min"`
	AreaS    float64 `json:"area_s"`
	// AreaSE is the standard uncertainty of the area from noise, in the signal and in the two ends on which the baseline stands.
	AreaSE        float64  `json:"area_standard_uncertainty_s"`
	AreaPercent   float64  `json:"area_percent"`
	Height        float64  `json:"height"`
	WidthHalfMin  *float64 `json:"width_half_min"`
	Tailing       *float64 `json:"tailing"`
	Asymmetry     *float64 `json:"asymmetry"`
	Plates        *float64 `json:"plates"`
	Resolution    *float64 `json:"resolution"`
	SignalToNoise *float64 `json:"signal_to_noise"`
	StartKind     SideKind `json:"start_kind"`
	EndKind       SideKind `json:"end_kind"`
	Flags         []Flag   `json:"flags"`
	BaselineStart float64  `json:"baseline_start"` // the baseline's signal at StartMin
	BaselineEnd   float64  `json:"baseline_end"`   // the baseline's signal at EndMin
}

// Result is an integrated trace.
type Result struct {
	Peaks    []Peak  `json:"peaks"`
	NoiseSD  float64 `json:"noise_sd"`  // robust standard deviation of the sample-to-sample noise
	WidthMin float64 `json:"width_min"` // the expected width that was used
	// Unmatched are the edits whose peak is not there under these settings; they were not applied.
	Unmatched []Edit `json:"unmatched,omitempty"`
}

// Validate says in a sentence which setting cannot be used.
func (s Settings) Validate() error {
	for _, f := range []struct {
		name     string
		v, limit float64
	}{{"peak width", s.WidthMin, 1000}, {"noise threshold", s.Threshold, 1e9}, {"least area", s.LeastArea, math.MaxFloat64}, {"skim height", s.SkimPercent, 100}, {"skim valley", s.SkimValleyPercent, 1000}} {
		if math.IsNaN(f.v) || f.v < 0 || f.v > f.limit {
			return fmt.Errorf("peaks: the %s is %g; it must lie between 0 and %g", f.name, f.v, f.limit)
		}
	}
	if len(s.TimeRules) > 1000 {
		return fmt.Errorf("peaks: there are %d time rules; at most 1000 are taken", len(s.TimeRules))
	}
	for i, r := range s.TimeRules {
		if !slices.Contains(RuleKinds, r.Kind) {
			return fmt.Errorf("peaks: time rule %d is of the unknown kind %q; known are %v", i+1, r.Kind, RuleKinds)
		}
		if !(r.FromMin < r.ToMin) {
			return fmt.Errorf("peaks: time rule %d runs from %g to %g min; its end must come after its start", i+1, r.FromMin, r.ToMin)
		}
	}
	return nil
}

// Find integrates a trace with the settings and the edits made by hand, in their order. It is a pure function of the
// three.
func Find(tr signal.Trace, s Settings, edits []Edit) (Result, error) {
	if err := s.Validate(); err != nil {
		return Result{}, err
	}
	if tr.Len() < signal.MinPoints {
		return Result{}, fmt.Errorf("peaks: the trace has %d points; it needs at least %d", tr.Len(), signal.MinPoints)
	}
	if s.Threshold == 0 {
		s.Threshold = DefaultThreshold
	}
	out := func(atMin float64) bool { return within(atMin, LeaveOut, s.TimeRules) }
	negative := func(atMin float64) bool { return within(atMin, Negative, s.TimeRules) }
	found, unmatched, v := upward(tr, s, edits, func(atMin float64) bool { return !out(atMin) && !negative(atMin) })
	if slices.ContainsFunc(s.TimeRules, func(r TimeRule) bool { return r.Kind == Negative }) {
		down, alsoUnmatched := downward(tr, s, edits, func(atMin float64) bool { return !out(atMin) && negative(atMin) })
		found = append(found, down...)
		slices.SortFunc(found, func(a, b Peak) int { return cmp.Compare(a.ApexMin, b.ApexMin) })
		unmatched = slices.DeleteFunc(unmatched, func(e Edit) bool { return !slices.Contains(alsoUnmatched, e) })
	}
	summarise(tr, found)
	return Result{found, v.noise, v.width * tr.StepS / 60, unmatched}, nil
}

// upward finds the peaks above their baselines whose apexes are wanted.
func upward(tr signal.Trace, s Settings, edits []Edit, wanted func(atMin float64) bool) (found []Peak, unmatched []Edit, v *view) {
	v = newView(tr, s.WidthMin, s.Threshold)
	candidates := slices.DeleteFunc(v.candidates(), func(c candidate) bool { return !wanted(v.timeS(c.apex) / 60) })
	v.bound(candidates)
	candidates = v.credible(candidates)
	candidates, unmatched = v.apply(candidates, edits)
	v.baselines(candidates)
	v.skim(candidates, s.SkimPercent, s.SkimValleyPercent)
	found, gone := without(v.measure(candidates, s.LeastArea), edits)
	return found, append(unmatched, gone...), v
}

// downward finds negative peaks: the peaks of the mirrored trace.
func downward(tr signal.Trace, s Settings, edits []Edit, wanted func(atMin float64) bool) (found []Peak, unmatched []Edit) {
	mirrored := tr
	mirrored.Values = make([]float64, tr.Len())
	for i, y := range tr.Values {
		mirrored.Values[i] = -y
	}
	found, unmatched, _ = upward(mirrored, s, edits, wanted)
	for i := range found {
		p := &found[i]
		p.AreaS, p.Height, p.BaselineStart, p.BaselineEnd = -p.AreaS, -p.Height, -p.BaselineStart, -p.BaselineEnd
		p.Flags = append(p.Flags, Downward)
	}
	return found, unmatched
}

func within(atMin float64, kind RuleKind, rules []TimeRule) bool {
	return slices.ContainsFunc(rules, func(r TimeRule) bool { return r.Kind == kind && atMin >= r.FromMin && atMin <= r.ToMin })
}
