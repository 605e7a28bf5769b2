// Package checks judges a batch against its method's limits and says what wants a human eye.
package checks

import (
	"fmt"
	"math"
)

// Limits are what a method asks of a batch. A limit of 0 is not asked.
type Limits struct {
	RecoveryLow      float64 `json:"recovery_low_percent"`
	RecoveryHigh     float64 `json:"recovery_high_percent"`
	InternalStandard float64 `json:"internal_standard_percent"` // greatest deviation of its response from the batch's mean
	Blank            float64 `json:"blank_percent"`             // greatest response in a blank, of the lowest level's
	ReplicateRSD     float64 `json:"replicate_rsd_percent"`
	Deviation        float64 `json:"deviation_percent"` // greatest deviation of a level read back from its curve
}

// Station names where a notice leads.
type Station string

// The stations that notices lead to.
const (
	Batch     Station = "batch"
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
	NotFound       Kind = "not_found"
	NearEdge       Kind = "window_edge"
	NoCurve        Kind = "no_curve"
	LevelOff       Kind = "level_deviation"
	CarryOver      Kind = "blank"
	Recovery       Kind = "check"
	AboveRange     Kind = "above_range"
	Spread         Kind = "replicates"
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
}

// New makes a notice with its key.
func New(kind Kind, weight Weight, station Station, injectionID, compoundID, subject, text string) Notice {
	return Notice{fmt.Sprintf("%s/%s/%s", kind, injectionID, compoundID), kind, weight, station, injectionID, compoundID, subject, text}
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
