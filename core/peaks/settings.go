package peaks

import (
	"fmt"
	"math"
	"slices"
)

// Settings say how a trace is integrated. The zero value means: estimate the width, default threshold, keep all.
type Settings struct {
	WidthMin float64 `json:"width_min"` // expected width at half height; 0 estimates it from the trace
	// EndWidthMin is the expected width at the end of the run, where peaks widen along it; 0 means that of the start. It needs WidthMin.
	EndWidthMin float64 `json:"end_width_min,omitempty"`
	Threshold   float64 `json:"threshold"`              // how many times its own noise a peak's curvature must be; 0 means DefaultThreshold
	LeastArea   float64 `json:"least_area"`             // signal · s
	LeastHeight float64 `json:"least_height,omitempty"` // in the trace's unit
	// Noise fixes the noise, and how it grows with the signal; nil learns it from the trace, over a batch from all of its traces.
	Noise *NoiseModel `json:"noise,omitempty"`
	// Feet says how far out baselines stand; empty means OutwardFeet.
	Feet FeetChoice `json:"feet,omitempty"`
	// Certainty is how many times its standard uncertainty an area must at least be; 0 means 3. What falls short is told as dropped.
	Certainty float64 `json:"certainty,omitempty"`
	// SmoothMin is the length of the filter through which areas and heights are measured; 0 measures the raw signal.
	SmoothMin float64        `json:"smooth_min,omitempty"`
	Split     SplitKind      `json:"split,omitempty"`    // how peaks that touch are parted; empty means ByDrop
	Baseline  BaselineChoice `json:"baseline,omitempty"` // empty means FollowedBaseline
	// BackgroundWidths is how many peak widths a modelled background must bend over at least; 0 means 20.
	BackgroundWidths float64 `json:"background_widths,omitempty"`
	// SkimPercent is the greatest height of a peak on the tail or front of another, in percent of that other's, at which it is
	// skimmed off by a tangent rather than parted by a drop; 0 skims none.
	SkimPercent float64 `json:"skim_percent,omitempty"`
	// SkimValleyPercent is the least height of the valley between the two, in percent of the small one's; 0 means 10.
	SkimValleyPercent float64 `json:"skim_valley_percent,omitempty"`
	// SkimLine is what a skimmed peak stands on: ByTangent or ByExponential; empty means ByTangent.
	SkimLine SplitKind `json:"skim_line,omitempty"`
	// HoldUpMin is the time of what is not retained; with it retention factors and selectivities are had.
	HoldUpMin float64 `json:"hold_up_min,omitempty"`
	// NoiseWidths is how many widths at half height the stretch of peak-to-peak noise must have; 0 means 5.
	NoiseWidths float64    `json:"noise_widths,omitempty"`
	TimeRules   []TimeRule `json:"time_rules,omitempty"`
}

// DefaultThreshold keeps noise alone below one false peak in twenty runs of 10 000 points.
const DefaultThreshold = 5.0

// SplitKind says how a peak is parted from one it touches.
type SplitKind string

// The ways to part peaks.
const (
	ByDrop        SplitKind = "drop"        // a perpendicular line at the valley, one baseline under all
	ByValley      SplitKind = "valley"      // baselines from valley to valley
	ByTangent     SplitKind = "tangent"     // the small one on a straight tangent, the large one keeps what is under it
	ByExponential SplitKind = "exponential" // the small one on the large one's tail, followed as a decay
	ByFit         SplitKind = "fit"         // a sum of exponentially modified Gaussians
)

// SplitKinds lists them in the order in which they are offered.
var SplitKinds = []SplitKind{ByDrop, ByValley, ByTangent, ByExponential, ByFit}

// BaselineChoice says what stands under all peaks where no rule says otherwise.
type BaselineChoice string

// The baselines to choose from.
const (
	FollowedBaseline   BaselineChoice = "followed"   // straight lines under clusters, on a ground whose bend is followed where they contradict the signal
	ChordBaseline      BaselineChoice = "chord"      // a straight line under each cluster of peaks, whatever the ground
	BackgroundBaseline BaselineChoice = "background" // a modelled background under everything
)

// BaselineChoices lists them in the order in which they are offered.
var BaselineChoices = []BaselineChoice{FollowedBaseline, ChordBaseline, BackgroundBaseline}

// FeetChoice says how far out the outer feet of peaks are sought.
type FeetChoice string

// The feet to choose from.
const (
	OutwardFeet FeetChoice = "outward" // until what the tail leaves is small against the noise of the area
	FlankFeet   FeetChoice = "flank"   // where the flank's bend dies in its noise
)

const (
	defaultCertainty        = 3
	defaultBackgroundWidths = 20
	defaultNoiseWidths      = 5
	// defaultSkimValley is how high, in percent of the small peak, the valley beside it must be for it to stand on a tail rather
	// than beside a peak.
	defaultSkimValley = 10
)

// bounded is a setting with the greatest value it may have; the least is 0.
type bounded struct {
	name  string // as in the document
	words string
	value func(*Settings) *float64
	most  float64
}

var numbers = []bounded{
	{"width_min", "peak width", func(s *Settings) *float64 { return &s.WidthMin }, 1000},
	{"end_width_min", "peak width at the end", func(s *Settings) *float64 { return &s.EndWidthMin }, 1000},
	{"threshold", "noise threshold", func(s *Settings) *float64 { return &s.Threshold }, 1e9},
	{"least_area", "least area", func(s *Settings) *float64 { return &s.LeastArea }, math.MaxFloat64},
	{"least_height", "least height", func(s *Settings) *float64 { return &s.LeastHeight }, math.MaxFloat64},
	{"certainty", "certainty", func(s *Settings) *float64 { return &s.Certainty }, 1000},
	{"smooth_min", "smoothing", func(s *Settings) *float64 { return &s.SmoothMin }, 1000},
	{"background_widths", "bend of the background", func(s *Settings) *float64 { return &s.BackgroundWidths }, 1000},
	{"skim_percent", "skim height", func(s *Settings) *float64 { return &s.SkimPercent }, 100},
	{"skim_valley_percent", "skim valley", func(s *Settings) *float64 { return &s.SkimValleyPercent }, 1000},
	{"hold_up_min", "hold-up time", func(s *Settings) *float64 { return &s.HoldUpMin }, 1e5},
	{"noise_widths", "stretch of noise", func(s *Settings) *float64 { return &s.NoiseWidths }, 1000},
}

// maxRules bounds the time rules of a method.
const maxRules = 1000

// Validate says in a sentence which setting cannot be used.
func (s Settings) Validate() error {
	for _, n := range numbers {
		if v := *n.value(&s); math.IsNaN(v) || v < 0 || v > n.most {
			return fmt.Errorf("peaks: the %s is %g; it must lie between 0 and %g", n.words, v, n.most)
		}
	}
	if s.EndWidthMin > 0 && s.WidthMin == 0 {
		return fmt.Errorf("peaks: end_width_min is %g but width_min is not set; a width that grows needs both", s.EndWidthMin)
	}
	if s.Split != "" && s.Split != ByDrop && s.Split != ByValley && s.Split != ByFit {
		return fmt.Errorf("peaks: split is %q; it is drop, valley or fit (tangents come by skim_percent)", s.Split)
	}
	if s.SkimLine != "" && s.SkimLine != ByTangent && s.SkimLine != ByExponential {
		return fmt.Errorf("peaks: skim_line is %q; it is tangent or exponential", s.SkimLine)
	}
	if s.Baseline != "" && !slices.Contains(BaselineChoices, s.Baseline) {
		return fmt.Errorf("peaks: baseline is %q; it is followed, chord or background", s.Baseline)
	}
	if s.Feet != "" && s.Feet != OutwardFeet && s.Feet != FlankFeet {
		return fmt.Errorf("peaks: feet is %q; it is outward or flank", s.Feet)
	}
	if n := s.Noise; n != nil {
		for _, v := range []float64{n.SD, n.PerRoot, n.PerSignal} {
			if math.IsNaN(v) || v < 0 || v > math.MaxFloat64 {
				return fmt.Errorf("peaks: the noise has the value %g; none may be below 0", v)
			}
		}
	}
	if len(s.TimeRules) > maxRules {
		return fmt.Errorf("peaks: there are %d time rules; at most %d are taken", len(s.TimeRules), maxRules)
	}
	for i, r := range s.TimeRules {
		if err := r.validate(); err != nil {
			return fmt.Errorf("peaks: time rule %d %w", i+1, err)
		}
	}
	return nil
}

// withDefaults fills in what is 0 or empty, but for the width, which is estimated.
func (s Settings) withDefaults() Settings {
	or := func(v *float64, d float64) {
		if *v == 0 {
			*v = d
		}
	}
	or(&s.Threshold, DefaultThreshold)
	or(&s.BackgroundWidths, defaultBackgroundWidths)
	or(&s.SkimValleyPercent, defaultSkimValley)
	or(&s.NoiseWidths, defaultNoiseWidths)
	or(&s.Certainty, defaultCertainty)
	if s.Split == "" {
		s.Split = ByDrop
	}
	if s.SkimLine == "" {
		s.SkimLine = ByTangent
	}
	if s.Baseline == "" {
		s.Baseline = FollowedBaseline
	}
	return s
}

// at are the settings that hold at a time (min), with the rules that change one.
func (s Settings) at(min float64) Settings {
	for _, r := range s.TimeRules {
		if r.Kind != Change || !r.covers(min) {
			continue
		}
		for _, n := range numbers {
			if n.name == r.Setting {
				*n.value(&s) = r.Value
			}
		}
	}
	return s
}

// changeable are the settings that a time rule may change for a stretch.
var changeable = []string{"threshold", "width_min", "least_area", "least_height", "skim_percent"}

func isChangeable(name string) bool { return slices.Contains(changeable, name) }
