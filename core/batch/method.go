package batch

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"yugen/core/amounts"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
)

// Method is how a batch is processed: one document, saved as versions that never change.
type Method struct {
	Peaks     peaks.Settings       `json:"peaks"`
	Compounds []compounds.Compound `json:"compounds"`
	Ladder    *compounds.Ladder    `json:"ladder,omitempty"` // for retention indices
	Curves    Calibration          `json:"curves"`
	Amounts   Reporting            `json:"amounts"`
	Checks    checks.Limits        `json:"checks"`
}

// Calibration says how curves are made from the standards.
type Calibration struct {
	Response Response       `json:"response"`
	Unit     string         `json:"unit"` // of the levels
	Model    curves.Model   `json:"model"`
	Weight   curves.Weight  `json:"weight"`
	Own      map[string]Own `json:"own,omitempty"` // by compound id, where it differs
}

// Own is what one compound's curve has of its own.
type Own struct {
	Model   curves.Model  `json:"model,omitempty"`
	Weight  curves.Weight `json:"weight,omitempty"`
	LowX    *float64      `json:"low_x,omitempty"` // the range in use; open where nil
	HighX   *float64      `json:"high_x,omitempty"`
	LeftOut []LeftOut     `json:"left_out,omitempty"`
}

// LeftOut is a point taken out of a curve by hand.
type LeftOut struct {
	InjectionID string `json:"injection_id"`
	Reason      string `json:"reason"`
}

// Response is the measure of a peak that a curve is made of.
type Response string

// The responses.
const (
	Area   Response = "area"
	Height Response = "height"
)

// Reporting says in which unit amounts are reported.
type Reporting struct {
	Unit       string `json:"unit"`
	VolumeUnit string `json:"volume_unit"`
	SampleUnit string `json:"sample_unit"`
}

// NewMethod is the method of a batch that has none yet.
func NewMethod() Method {
	return Method{
		Peaks:     peaks.Settings{Threshold: peaks.DefaultThreshold},
		Compounds: []compounds.Compound{},
		Curves:    Calibration{Response: Area, Unit: "mg/L", Model: curves.Linear, Weight: curves.PerX},
		Amounts:   Reporting{Unit: "mg/g", VolumeUnit: "mL", SampleUnit: "g"},
		Checks:    checks.Limits{RecoveryLow: 90, RecoveryHigh: 110, InternalStandard: 5, Blank: 20, ReplicateRSD: 5, Deviation: 20},
	}
}

// Validate says in a sentence what keeps a method from being used.
func (m Method) Validate() error {
	if err := m.Peaks.Validate(); err != nil {
		return err
	}
	if err := compounds.Validate(m.Compounds); err != nil {
		return err
	}
	if m.Ladder != nil {
		if err := m.Ladder.Validate(); err != nil {
			return err
		}
	}
	standards := 0
	for _, c := range m.Compounds {
		if c.Role == compounds.InternalStandard {
			standards++
		}
	}
	if standards > 1 {
		return fmt.Errorf("method: %d compounds are internal standards; there can be one", standards)
	}
	if m.Curves.Response != Area && m.Curves.Response != Height {
		return fmt.Errorf("method: the response %q is unknown; it is area or height", m.Curves.Response)
	}
	if err := validShape(m.Curves.Model, m.Curves.Weight); err != nil {
		return err
	}
	for id, own := range m.Curves.Own {
		shape := m.shape(id)
		if err := validShape(shape.Model, shape.Weight); err != nil {
			return fmt.Errorf("curve of %s: %w", id, err)
		}
		for _, limit := range []*float64{own.LowX, own.HighX} {
			if limit != nil && (math.IsNaN(*limit) || *limit < 0) {
				return fmt.Errorf("curve of %s: the range ends at %g; it must not be below 0", id, *limit)
			}
		}
		if own.LowX != nil && own.HighX != nil && *own.LowX >= *own.HighX {
			return fmt.Errorf("curve of %s: the range from %g to %g is empty", id, *own.LowX, *own.HighX)
		}
	}
	return m.validateUnits()
}

func validShape(model curves.Model, weight curves.Weight) error {
	if !slices.Contains(curves.Models, model) {
		return fmt.Errorf("method: the model %q is unknown; known are %v", model, curves.Models)
	}
	if !slices.Contains(curves.Weights, weight) {
		return fmt.Errorf("method: the weight %q is unknown; known are %v", weight, curves.Weights)
	}
	return nil
}

func (m Method) validateUnits() error {
	var units [4]amounts.Unit
	for i, symbol := range []string{m.Curves.Unit, m.Amounts.VolumeUnit, m.Amounts.SampleUnit, m.Amounts.Unit} {
		u, err := amounts.ParseUnit(symbol)
		if err != nil {
			return err
		}
		units[i] = u
	}
	p := amounts.Preparation{Dilution: 1, Factor: 1, Volume: amounts.Quantity{Value: 1, Unit: units[1]}, Sample: amounts.Quantity{Value: 1, Unit: units[2]}}
	if _, err := p.Content(amounts.Quantity{Value: 1, Unit: units[0]}, units[3]); err != nil {
		return errors.Join(fmt.Errorf("method: %s in %s of extract from %s of sample cannot be reported in %s", m.Curves.Unit, m.Amounts.VolumeUnit, m.Amounts.SampleUnit, m.Amounts.Unit), err)
	}
	return nil
}

// shape is the model and weight of one compound's curve.
func (m Method) shape(compoundID string) Own {
	own := m.Curves.Own[compoundID]
	if own.Model == "" {
		own.Model = m.Curves.Model
	}
	if own.Weight == "" {
		own.Weight = m.Curves.Weight
	}
	return own
}

// InternalStandard is the compound with that role.
func (m Method) InternalStandard() (compounds.Compound, bool) {
	for _, c := range m.Compounds {
		if c.Role == compounds.InternalStandard {
			return c, true
		}
	}
	return compounds.Compound{}, false
}

// Targets are the compounds that are quantified, in order of retention.
func (m Method) Targets() []compounds.Compound {
	var list []compounds.Compound
	for _, c := range m.Compounds {
		if c.Role == compounds.Target {
			list = append(list, c)
		}
	}
	slices.SortStableFunc(list, func(a, b compounds.Compound) int {
		switch {
		case a.ExpectedMin < b.ExpectedMin:
			return -1
		case a.ExpectedMin > b.ExpectedMin:
			return 1
		}
		return 0
	})
	return list
}
