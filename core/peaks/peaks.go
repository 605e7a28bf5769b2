// Package peaks integrates a trace: it finds peaks, draws the baseline under them, parts those that touch, and measures
// each by the pharmacopoeial definitions.
package peaks

import (
	"fmt"
	"math"

	"yugen/core/signal"
)

// Settings say how a trace is integrated. The zero value means: estimate the width, default threshold, keep all.
type Settings struct {
	WidthMin  float64    `json:"width_min"`  // expected width at half height; 0 estimates it from the trace
	Threshold float64    `json:"threshold"`  // how many times its own noise a peak's curvature must be; 0 means DefaultThreshold
	LeastArea float64    `json:"least_area"` // signal · s
	TimeRules []TimeRule `json:"time_rules,omitempty"`
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

// LeaveOut finds no peak whose apex lies in the stretch.
const LeaveOut RuleKind = "leave_out"

// SideKind says how a boundary of a peak came to be.
type SideKind string

// The kinds of boundary: on the baseline, by perpendicular drop at a valley or shoulder, at the end of the trace, by hand.
const (
	Base   SideKind = "base"
	Drop   SideKind = "drop"
	Limit  SideKind = "limit"
	ByHand SideKind = "by_hand"
)

// Flag marks a peak that wants a human eye.
type Flag string

// The flags: a top cut off by the detector, an apex that is no maximum of its own.
const (
	Saturated Flag = "saturated"
	Shoulder  Flag = "shoulder"
)

// Peak is one integrated peak. Times are in minutes, areas in signal · s; a measure that cannot be had is nil.
type Peak struct {
	Number        int      `json:"number"`
	StartMin      float64  `json:"start_min"`
	ApexMin       float64  `json:"apex_min"`
	EndMin        float64  `json:"end_min"`
	AreaS         float64  `json:"area_s"`
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
	}{{"peak width", s.WidthMin, 1000}, {"noise threshold", s.Threshold, 1e9}, {"least area", s.LeastArea, math.MaxFloat64}} {
		if math.IsNaN(f.v) || f.v < 0 || f.v > f.limit {
			return fmt.Errorf("peaks: the %s is %g; it must lie between 0 and %g", f.name, f.v, f.limit)
		}
	}
	if len(s.TimeRules) > 1000 {
		return fmt.Errorf("peaks: there are %d time rules; at most 1000 are taken", len(s.TimeRules))
	}
	for i, r := range s.TimeRules {
		if r.Kind != LeaveOut {
			return fmt.Errorf("peaks: time rule %d is of the unknown kind %q; known is %q", i+1, r.Kind, LeaveOut)
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
	threshold := s.Threshold
	if threshold == 0 {
		threshold = DefaultThreshold
	}
	v := newView(tr, s.WidthMin, threshold)
	found := v.candidates()
	found = v.outside(found, s.TimeRules)
	v.bound(found)
	found = v.credible(found)
	unmatched := v.applyMoves(found, edits)
	v.baselines(found)
	peaks := v.measure(found, s.LeastArea)
	peaks, gone := without(peaks, edits)
	summarise(tr, peaks)
	return Result{peaks, v.noise, v.width * tr.StepS / 60, append(unmatched, gone...)}, nil
}

// outside drops the candidates whose apex a rule leaves out.
func (v *view) outside(found []candidate, rules []TimeRule) []candidate {
	kept := found[:0]
next:
	for _, c := range found {
		at := v.timeS(c.apex) / 60
		for _, r := range rules {
			if r.Kind == LeaveOut && at >= r.FromMin && at <= r.ToMin {
				continue next
			}
		}
		kept = append(kept, c)
	}
	return kept
}
