// Package checks judges a batch against its method's limits and says what wants a human eye.
package checks

import (
	"fmt"
	"math"
	"slices"
)

// Limits are what a method asks of a batch. A limit of 0 is not asked.
type Limits struct {
	RecoveryLow      float64 `json:"recovery_low_percent"`
	RecoveryHigh     float64 `json:"recovery_high_percent"`
	InternalStandard float64 `json:"internal_standard_percent"` // greatest deviation of its response from the batch's mean
	Blank            float64 `json:"blank_percent"`             // greatest response in a blank, of the lowest level's
	ReplicateRSD     float64 `json:"replicate_rsd_percent"`
	Deviation        float64 `json:"deviation_percent"` // greatest deviation of a level read back from its curve
	// Suitability are the limits on the suitability injections.
	Suitability []Suitability `json:"suitability,omitempty"`
	// Conditions are the limits on the conditions of the run.
	Conditions []ConditionLimit `json:"conditions,omitempty"`
}

// Suitability is a limit on a measure of a peak, or on its spread over the suitability injections.
type Suitability struct {
	Measure    Measure  `json:"measure"`
	CompoundID string   `json:"compound_id,omitempty"` // empty means every compound
	Low        *float64 `json:"low,omitempty"`
	High       *float64 `json:"high,omitempty"`
}

// Measure names what a suitability limit is on.
type Measure string

// The measures.
const (
	Tailing       Measure = "tailing"
	Plates        Measure = "plates"
	Resolution    Measure = "resolution"
	SignalToNoise Measure = "signal_to_noise"
	AreaRSD       Measure = "area_rsd"      // over the injections, %
	RetentionRSD  Measure = "retention_rsd" // over the injections, %
)

// Measures lists them in the order in which they are offered.
var Measures = []Measure{Tailing, Plates, Resolution, SignalToNoise, AreaRSD, RetentionRSD}

// Validate says in a sentence which limit cannot be used.
func (l Limits) Validate() error {
	if err := validateConditions(l.Conditions); err != nil {
		return err
	}
	for i, s := range l.Suitability {
		switch {
		case !slices.Contains(Measures, s.Measure):
			return fmt.Errorf("checks: suitability limit %d is on the unknown measure %q; known are %v", i+1, s.Measure, Measures)
		case s.Low == nil && s.High == nil:
			return fmt.Errorf("checks: suitability limit %d, on %s, has neither a lower nor an upper end", i+1, s.Measure)
		case s.Low != nil && s.High != nil && *s.Low > *s.High:
			return fmt.Errorf("checks: suitability limit %d, on %s, runs from %g to %g", i+1, s.Measure, *s.Low, *s.High)
		}
	}
	return nil
}

// Outcome is what one check came to, passed or not, with its numbers. Over several injections it is the worst of them.
type Outcome struct {
	Kind        Kind     `json:"kind"`
	Measure     string   `json:"measure"`
	CompoundID  string   `json:"compound_id,omitempty"`
	InjectionID string   `json:"injection_id,omitempty"`
	Value       float64  `json:"value"`
	Unit        string   `json:"unit"`
	Low         *float64 `json:"low"`
	High        *float64 `json:"high"`
	Count       int      `json:"count"` // how many were judged
	Outside     int      `json:"outside"`
}

// Passed tells whether nothing was outside.
func (o Outcome) Passed() bool { return o.Outside == 0 }

// Worst gathers values against limits and keeps the one furthest out, in units of the limit.
func (o *Outcome) Worst(value float64, injectionID string) {
	out := o.Low != nil && value < *o.Low || o.High != nil && value > *o.High
	if out {
		o.Outside++
	}
	if o.Count++; o.Count == 1 || o.beyond(value) > o.beyond(o.Value) {
		o.Value, o.InjectionID = value, injectionID
	}
}

// beyond is how far a value lies past the nearer limit; below 0 inside.
func (o *Outcome) beyond(value float64) float64 {
	d := math.Inf(-1)
	if o.Low != nil {
		d = math.Max(d, *o.Low-value)
	}
	if o.High != nil {
		d = math.Max(d, value-*o.High)
	}
	return d
}

// Station names where a notice leads.
type Station string

// The stations that notices lead to.
const (
	Batch     Station = "batch"
	Traces    Station = "traces"
	Peaks     Station = "peaks"
	Compounds Station = "compounds"
	Curves    Station = "curves"
	Results   Station = "results"
)

// Kind names what a notice is about.
type Kind string

// The kinds of notice.
const (
	NoSampleAmount Kind = "no_sample_amount"
	NoLevel        Kind = "no_level"
	NoName         Kind = "no_name"
	InternalDrift  Kind = "internal_standard"
	LowResolution  Kind = "resolution"
	CutOff         Kind = "saturated"
	LostEdit       Kind = "lost_edit"
	NoFit          Kind = "no_fit"
	Unmeasured     Kind = "unmeasured"
	NotFound       Kind = "not_found"
	NearEdge       Kind = "window_edge"
	NoCurve        Kind = "no_curve"
	LevelOff       Kind = "level_deviation"
	CarryOver      Kind = "blank"
	Recovery       Kind = "check"
	Unsuitable     Kind = "suitability"
	AboveRange     Kind = "above_range"
	Spread         Kind = "replicates"
	QualifierRatio Kind = "qualifier"
	RunCondition   Kind = "condition"
	FieldLimit     Kind = "field"
	Doubted        Kind = "doubted"
)

// Weight tells what must be decided from what is good to know.
type Weight string

// The weights.
const (
	Decide Weight = "decide"
	Know   Weight = "know"
)

// Notice is one thing that wants a human eye. Its key is the same as long as the thing is.
type Notice struct {
	Key         string  `json:"key"`
	Kind        Kind    `json:"kind"`
	Weight      Weight  `json:"weight"`
	Station     Station `json:"station"`
	InjectionID string  `json:"injection_id,omitempty"`
	CompoundID  string  `json:"compound_id,omitempty"`
	Subject     string  `json:"subject"` // who
	Text        string  `json:"text"`    // what, as the rest of the sentence
	// AtMin is the moment of the run that it is about; absent where it is about none.
	AtMin *float64 `json:"at_min,omitempty"`
}

// New makes a notice with its key.
func New(kind Kind, weight Weight, station Station, injectionID, compoundID, subject, text string) Notice {
	return Notice{fmt.Sprintf("%s/%s/%s", kind, injectionID, compoundID), kind, weight, station, injectionID, compoundID, subject, text, nil}
}

// RecoveryOutside tells whether a check that reads found where nominal was put in is outside the limits, and its recovery in %.
func (l Limits) RecoveryOutside(found, nominal float64) (percent float64, outside bool) {
	percent = 100 * found / nominal
	low := l.RecoveryLow > 0 && percent < l.RecoveryLow
	high := l.RecoveryHigh > 0 && percent > l.RecoveryHigh
	return percent, low || high
}

// ResponseOutside tells whether a response deviates from the batch's mean by more than the limit, and by how many percent.
func (l Limits) ResponseOutside(response, mean float64) (percent float64, outside bool) {
	percent = 100 * (response/mean - 1)
	return percent, l.InternalStandard > 0 && math.Abs(percent) > l.InternalStandard
}

// BlankOutside tells whether a blank's response exceeds its share of the lowest level's, and that share in %.
func (l Limits) BlankOutside(response, lowest float64) (percent float64, outside bool) {
	percent = 100 * response / lowest
	return percent, l.Blank > 0 && percent > l.Blank
}
