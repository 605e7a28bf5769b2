// Package peaks integrates a trace: it finds peaks, draws the baseline under them, parts those that touch, and measures
// each by the pharmacopoeial definitions.
package peaks

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"

	"yugen/core/signal"
)

// SideKind says how a boundary of a peak came to be.
type SideKind string

// The kinds of boundary.
const (
	Base   SideKind = "base"    // where the peak has come down to the baseline
	Drop   SideKind = "drop"    // a perpendicular line at a valley or beside a shoulder
	Valley SideKind = "valley"  // a baseline that stands in the valley
	Skim   SideKind = "skim"    // on a larger peak's flank
	Fitted SideKind = "fit"     // where a fitted shape has died away
	Limit  SideKind = "limit"   // the end of the trace
	ByHand SideKind = "by_hand" // where an edit put it
	ByRule SideKind = "rule"    // where a time rule put it
)

// Flag marks a peak that wants a human eye.
type Flag string

// The flags.
const (
	Saturated    Flag = "saturated"     // the detector cut off its top
	Shoulder     Flag = "shoulder"      // its apex is no maximum of its own
	Downward     Flag = "negative"      // it lies below its baseline
	Summed       Flag = "summed"        // a time rule made one of several
	FitFailed    Flag = "fit_failed"    // a fitted shape was asked for and none was found that holds; it is parted by a drop
	StraightSkim Flag = "straight_skim" // the tail could not be followed as a decay; it stands on a straight tangent
)

// Peak is one integrated peak. Times are in minutes, areas in signal · s; a measure that cannot be had is nil, and Absent says why.
// Area and height of a negative peak are negative.
type Peak struct {
	Number   int     `json:"number"`
	StartMin float64 `json:"start_min"`
	ApexMin  float64 `json:"apex_min"`
	EndMin   float64 `json:"end_min"`
	AreaS    float64 `json:"area_s"`
	// AreaSE is the standard uncertainty of the area; AreaTerms says what of.
	AreaSE        float64 `json:"area_standard_uncertainty_s"`
	AreaPercent   float64 `json:"area_percent"`
	Height        float64 `json:"height"`
	HeightPercent float64 `json:"height_percent"`
	Measures
	*MoreMeasures              // nil where a list of peaks is to be short
	StartKind     SideKind     `json:"start_kind"`
	EndKind       SideKind     `json:"end_kind"`
	BaselineKind  BaselineKind `json:"baseline_kind"`
	Flags         []Flag       `json:"flags"`
	BaselineStart float64      `json:"baseline_start"` // the baseline's signal at StartMin
	BaselineEnd   float64      `json:"baseline_end"`   // the baseline's signal at EndMin
	// Under is the baseline where it is not one straight line; Over is the top of the counted area where that is not the trace.
	Under *Outline  `json:"under,omitempty"`
	Over  *Outline  `json:"over,omitempty"`
	Shape *EMGShape `json:"shape,omitempty"` // where a shape was fitted
}

// Dropped is a peak that was found and could not be measured, or was taken for something else, with the reason.
type Dropped struct {
	ApexMin float64 `json:"apex_min"`
	Reason  string  `json:"reason"`
}

// Result is an integrated trace.
type Result struct {
	Peaks    []Peak  `json:"peaks"`
	NoiseSD  float64 `json:"noise_sd"`  // robust standard deviation of the sample-to-sample noise
	WidthMin float64 `json:"width_min"` // the expected width that was used, at the start of the run
	// EndWidthMin is that at its end, Noise the noise that was used.
	EndWidthMin float64    `json:"end_width_min"`
	Noise       NoiseModel `json:"noise"`
	// Unmatched are the edits whose peak is not there under these settings; they were not applied.
	Unmatched []Edit `json:"unmatched,omitempty"`
	// Dropped are peaks that were found and are not in the list.
	Dropped []Dropped `json:"dropped,omitempty"`
}

// Find integrates a trace with the settings and the edits made by hand, in their order. It is a pure function of the
// three.
func Find(tr signal.Trace, s Settings, edits []Edit) (Result, error) {
	return FindExpecting(tr, s, edits, nil)
}

// FindExpecting does so with what was estimated over several traces, where the settings leave the width or the noise open.
func FindExpecting(tr signal.Trace, s Settings, edits []Edit, expected *Estimate) (Result, error) {
	if err := s.Validate(); err != nil {
		return Result{}, err
	}
	if tr.Len() < signal.MinPoints {
		return Result{}, fmt.Errorf("peaks: the trace has %d points; it needs at least %d", tr.Len(), signal.MinPoints)
	}
	if parts := tr.Stretches(); len(parts) != 1 {
		return findInStretches(parts, s, edits, expected)
	}
	s = s.withDefaults()
	out := func(atMin float64) bool { return s.ruled(LeaveOut, atMin) }
	negative := func(atMin float64) bool { return s.ruled(Negative, atMin) }
	found, unmatched, v := upward(tr, s, edits, expected, func(atMin float64) bool { return !out(atMin) && !negative(atMin) })
	if slices.ContainsFunc(s.TimeRules, func(r TimeRule) bool { return r.Kind == Negative }) {
		down, occupied, alsoUnmatched := downward(tr, s, edits, expected, func(atMin float64) bool { return !out(atMin) && negative(atMin) })
		found, v.occupied = append(found, down...), append(v.occupied, occupied...)
		slices.SortFunc(found, func(a, b Peak) int { return cmp.Compare(a.ApexMin, b.ApexMin) })
		unmatched = slices.DeleteFunc(unmatched, func(e Edit) bool { return !slices.ContainsFunc(alsoUnmatched, e.equals) })
	}
	summarise(tr, found, v.occupied, s, v.noise)
	return Result{
		Peaks: found, NoiseSD: v.noise, WidthMin: v.widthFirst * tr.StepS / 60,
		EndWidthMin: v.widthLast * tr.StepS / 60, Noise: v.noiseModel(), Unmatched: unmatched, Dropped: v.dropped,
	}, nil
}

// findInStretches integrates each stretch of a trace with gaps on its own, since nothing is known of what the signal did between them. Widths and noise
// that are told are those of the longest.
func findInStretches(parts []signal.Trace, s Settings, edits []Edit, expected *Estimate) (Result, error) {
	var all Result
	if len(parts) == 0 {
		return all, errors.New("peaks: no stretch of the trace has enough points together")
	}
	longest := 0
	of := make([]int, len(edits)) // how many stretches could not use an edit
	for _, part := range parts {
		r, err := FindExpecting(part, s, edits, expected)
		if err != nil {
			return all, err
		}
		for k, e := range edits {
			if slices.ContainsFunc(r.Unmatched, e.equals) {
				of[k]++
			}
		}
		all.Peaks, all.Dropped = append(all.Peaks, r.Peaks...), append(all.Dropped, r.Dropped...)
		if part.Len() > longest {
			longest = part.Len()
			all.NoiseSD, all.WidthMin, all.EndWidthMin, all.Noise = r.NoiseSD, r.WidthMin, r.EndWidthMin, r.Noise
		}
	}
	for k, e := range edits {
		if of[k] == len(parts) {
			all.Unmatched = append(all.Unmatched, e)
		}
	}
	number(all.Peaks)
	return all, nil
}

// upward finds the peaks above their baselines whose apexes are wanted.
func upward(tr signal.Trace, s Settings, edits []Edit, expected *Estimate, wanted func(atMin float64) bool) (found []Peak, unmatched []Edit, v *view) {
	v = newView(tr, s, expected)
	search := func(v *view) []candidate { return v.search(wanted) }
	candidates := search(v)
	if b := v.followGround(candidates, search); b != nil {
		v = v.less(b)
		candidates = search(v)
	} else {
		candidates = v.lessCorners(candidates)
	}
	candidates = v.splitsHere(v.sums(v.upright(candidates)))
	candidates, left, unmatched := v.apply(v.roomFor(candidates, edits), edits)
	v.baselines(candidates)
	unmatched = append(unmatched, v.looseAnchors(edits)...)
	v.skim(candidates)
	v.fit(candidates)
	found, removed, lost := without(v.measure(candidates), left)
	for _, p := range removed {
		v.occupied = append(v.occupied, detected{p.StartMin, p.EndMin})
	}
	for _, u := range v.unwanted {
		v.occupied = append(v.occupied, detected{v.timeS(float64(u.from)) / 60, v.timeS(float64(u.to)) / 60})
	}
	for _, e := range edits {
		if e.Kind == Add && !slices.ContainsFunc(unmatched, e.equals) && !slices.ContainsFunc(append(found, removed...), e.spans) {
			lost = append(lost, e)
		}
	}
	return found, append(unmatched, lost...), v
}

// search finds the peaks whose apexes are wanted, with their boundaries.
func (v *view) search(wanted func(atMin float64) bool) []candidate {
	found := v.wanted(v.candidates(), wanted)
	if v.bend != nil {
		found = lessRims(found, v.bend.dips)
	}
	v.bound(found)
	found = v.credible(found)
	if v.bend != nil {
		v.outOfDips(found)
	}
	return found
}

// upright leaves out what has no apex between two boundaries: with settings far from the trace, as a width of hours, a neighbour's boundary can lie beyond it.
func (v *view) upright(found []candidate) []candidate {
	kept := make([]candidate, 0, len(found))
	for _, c := range found {
		if c.start <= c.apex && c.apex <= c.end && c.start < c.end {
			kept = append(kept, c)
		} else {
			v.drop(c.apex, "its neighbours leave it no room; the width may be far from that of the peaks")
		}
	}
	return kept
}

// drop notes a peak that is not told as one.
func (v *view) drop(position float64, reason string) {
	at := v.timeS(position) / 60
	if !slices.ContainsFunc(v.dropped, func(d Dropped) bool { return math.Abs(d.ApexMin-at)*60 < v.widthAt(position)*v.tr.StepS }) {
		v.dropped = append(v.dropped, Dropped{at, reason})
	}
}

// wanted leaves out the peaks that are not wanted, but remembers where they are, so that no tail is looked for beyond them.
func (v *view) wanted(found []candidate, at func(min float64) bool) []candidate {
	kept := make([]candidate, 0, len(found))
	for i := range found {
		c := &found[i]
		if at(v.timeS(c.apex) / 60) {
			kept = append(kept, *c)
			continue
		}
		v.unwanted = append(v.unwanted, stretch{v.nearFoot(c, -1), v.nearFoot(c, 1)})
	}
	return kept
}

// downward finds negative peaks: the peaks of the mirrored trace.
func downward(tr signal.Trace, s Settings, edits []Edit, expected *Estimate, wanted func(atMin float64) bool) (found []Peak, occupied []detected, unmatched []Edit) {
	mirrored := tr
	mirrored.Values = negated(tr.Values)
	mirroredEdits := slices.Clone(edits)
	for i, e := range mirroredEdits {
		if e.Level != nil {
			level := -*e.Level
			mirroredEdits[i].Level = &level
		}
	}
	found, lost, v := upward(mirrored, s, mirroredEdits, expected, wanted)
	for _, e := range lost {
		unmatched = append(unmatched, edits[slices.IndexFunc(mirroredEdits, e.equals)])
	}
	for i := range found {
		p := &found[i]
		p.AreaS, p.Height, p.BaselineStart, p.BaselineEnd = -p.AreaS, -p.Height, -p.BaselineStart, -p.BaselineEnd
		p.Flags = append(p.Flags, Downward)
		for _, o := range []*Outline{p.Under, p.Over} {
			if o != nil {
				o.Signal = negated(o.Signal)
			}
		}
	}
	return found, v.occupied, unmatched
}

func negated(values []float64) []float64 {
	out := make([]float64, len(values))
	for i, y := range values {
		out[i] = -y
	}
	return out
}
