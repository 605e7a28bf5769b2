package batch

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"yugen/core/amounts"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/core/screening"
)

// Method is how a batch is processed: one document, saved as versions that never change.
type Method struct {
	Channels []Channel `json:"channels"` // that are processed, the first one first
	// Earlier are the settings of a method as it was written when there was one signal; Today makes them the first channel.
	Earlier   *peaks.Settings      `json:"peaks,omitempty"`
	Compounds []compounds.Compound `json:"compounds"`
	Ladder    *compounds.Ladder    `json:"ladder,omitempty"` // for retention indices
	Curves    Calibration          `json:"curves"`
	Amounts   Reporting            `json:"amounts"`
	Checks    checks.Limits        `json:"checks"`
	Fields    []LabField           `json:"fields,omitempty"` // quantities of the laboratory's own
	// Screening is the evidence by which compounds are told to be present; without it they are not screened for.
	Screening *screening.Rules `json:"screening,omitempty"`
}

// Calibration says how curves are made from the standards.
type Calibration struct {
	Response Response       `json:"response"`
	Unit     string         `json:"unit"` // of the levels
	Model    curves.Model   `json:"model"`
	Weight   curves.Weight  `json:"weight"`
	Averaged bool           `json:"averaged,omitempty"` // fit the means of replicates rather than each
	Way      Way            `json:"way,omitempty"`      // empty means ByCurve
	Brackets Bracketing     `json:"brackets,omitempty"` // empty means one curve for the whole run
	Own      map[string]Own `json:"own,omitempty"`      // by compound id, where it differs
	// Contents are what the standards hold by compound, where that is not what their level says.
	Contents *ContentTable `json:"contents,omitempty"`
}

// Way says where amounts come from.
type Way string

// The ways.
const (
	ByCurve    Way = "curve"
	ByAddition Way = "standard_addition" // of known amounts to each sample
)

// Bracketing says how the standards before and after a sample are used.
type Bracketing string

// The ways to bracket.
const (
	MeanOfBrackets   Bracketing = "mean"
	BetweenOfBracket Bracketing = "interpolated" // in run order
)

// Own is what one compound's curve has of its own.
type Own struct {
	Model  curves.Model  `json:"model,omitempty"`
	Weight curves.Weight `json:"weight,omitempty"`
	LowX   *float64      `json:"low_x,omitempty"` // the range in use; open where nil
	HighX  *float64      `json:"high_x,omitempty"`
	Limits *LimitChoice  `json:"limits,omitempty"`
	// RelativeTo is the compound whose curve is used, with ResponseFactor times its response for the same amount.
	RelativeTo     string  `json:"relative_to,omitempty"`
	ResponseFactor float64 `json:"response_factor,omitempty"`
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
	// PercentOfTotal reports each target as its share of all targets found, and needs no preparation.
	PercentOfTotal bool `json:"percent_of_total,omitempty"`
	// AsMeasured reports what is in the vial, in the unit of the levels, and needs no preparation either.
	AsMeasured bool `json:"as_measured,omitempty"`
	// TakeOffBlank takes the mean content of the blanks off each sample.
	TakeOffBlank bool `json:"take_off_blank,omitempty"`
	// The relative standard uncertainties (%) of the preparation; 0 is none.
	VolumePercent   float64 `json:"volume_percent,omitempty"`
	SamplePercent   float64 `json:"sample_percent,omitempty"`
	DilutionPercent float64 `json:"dilution_percent,omitempty"` // where there is a dilution
	// CommonTerms are those of volume, weighing and dilution that all preparations of a sample have in common; the others average out over them.
	CommonTerms []string `json:"common_terms,omitempty"`
}

// ReportedUnit is the unit of reported amounts.
func (m Method) ReportedUnit() string {
	switch {
	case m.Amounts.PercentOfTotal:
		return "% of total"
	case m.Amounts.AsMeasured:
		return m.Curves.Unit
	}
	return m.Amounts.Unit
}

// Prepared tells whether amounts take the preparation of samples into account.
func (r Reporting) Prepared() bool { return !r.PercentOfTotal && !r.AsMeasured }

// NewMethod is the method of a batch that has none yet.
func NewMethod() Method {
	return Method{
		Channels:  []Channel{{ID: FirstChannel, Peaks: peaks.Settings{Threshold: peaks.DefaultThreshold}}},
		Compounds: []compounds.Compound{},
		Curves:    Calibration{Response: Area, Unit: "mg/L", Model: curves.Linear, Weight: curves.PerX},
		Amounts:   Reporting{Unit: "mg/g", VolumeUnit: "mL", SampleUnit: "g"},
		Checks:    checks.Limits{RecoveryLow: 90, RecoveryHigh: 110, InternalStandard: 5, Blank: 20, ReplicateRSD: 5, Deviation: 20},
	}
}

// Validate says in a sentence what keeps a method from being used.
func (m Method) Validate() error {
	for _, part := range []struct {
		name  string
		check func() error
	}{
		{"channels", m.validateChannels},
		{"compounds", func() error { return compounds.Validate(m.Compounds) }},
		{"ladder", func() error {
			if m.Ladder == nil {
				return nil
			}
			return m.Ladder.Validate()
		}},
		{"compounds", m.validateAgainst},
		{"curves", m.validateCurves},
		{"curves", m.validateWays},
		{"amounts", m.validateUnits},
		{"curves/contents", m.validateContents},
		{"fields", func() error { return ValidFields(m.Fields) }},
		{"screening", func() error {
			if m.Screening == nil {
				return nil
			}
			return m.Screening.Validate()
		}},
	} {
		if err := part.check(); err != nil {
			return PartError{part.name, err}
		}
	}
	return nil
}

// PartError is what is wrong with one part of a method.
type PartError struct {
	Part string // its place in the method's document
	Err  error
}

func (e PartError) Error() string { return e.Err.Error() }

func (e PartError) Unwrap() error { return e.Err }

func (m Method) validateCurves() error {
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
	return nil
}

func (m Method) validateWays() error {
	if w := m.Curves.Way; w != "" && w != ByCurve && w != ByAddition {
		return fmt.Errorf("method: the way %q is unknown; it is curve or standard_addition", w)
	}
	if b := m.Curves.Brackets; b != "" && b != MeanOfBrackets && b != BetweenOfBracket {
		return fmt.Errorf("method: brackets %q are unknown; they are mean or interpolated", b)
	}
	for _, term := range m.Amounts.CommonTerms {
		if !slices.Contains(PreparationTerms, term) {
			return fmt.Errorf("method: the common term %q is unknown; it is volume, weighing or dilution", term)
		}
	}
	for _, percent := range []float64{m.Amounts.VolumePercent, m.Amounts.SamplePercent, m.Amounts.DilutionPercent} {
		if !(percent >= 0 && percent <= 100) {
			return fmt.Errorf("method: the uncertainty of %g %% is not between 0 and 100", percent)
		}
	}
	for id, own := range m.Curves.Own {
		if own.RelativeTo != "" {
			i := slices.IndexFunc(m.Compounds, func(c compounds.Compound) bool { return c.ID == own.RelativeTo })
			switch {
			case i < 0 || own.RelativeTo == id || m.Compounds[i].Role != compounds.Target:
				return fmt.Errorf("curve of %s: it is relative to %q, which is no other target", id, own.RelativeTo)
			case m.Curves.Own[own.RelativeTo].RelativeTo != "":
				return fmt.Errorf("curve of %s: it is relative to %s, which has no curve of its own", id, own.RelativeTo)
			case !(own.ResponseFactor > 0):
				return fmt.Errorf("curve of %s: its relative response factor is %g; it must be above 0", id, own.ResponseFactor)
			}
		}
		if l := own.Limits; l != nil && !(l.LOD >= 0 && l.LOQ >= l.LOD) {
			return fmt.Errorf("curve of %s: a detection limit of %g and a quantitation limit of %g cannot be; the second is not below the first", id, l.LOD, l.LOQ)
		}
	}
	return m.Checks.Validate()
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
	if m.Amounts.PercentOfTotal && m.Amounts.AsMeasured {
		return errors.New("method: amounts are reported as measured or in percent of the total, not both")
	}
	if !m.Amounts.Prepared() {
		return nil
	}
	p := amounts.Preparation{Dilution: 1, Factor: 1, Volume: amounts.Quantity{Value: 1, Unit: units[1]}, Sample: amounts.Quantity{Value: 1, Unit: units[2]}}
	one := amounts.Quantity{Value: 1, Unit: units[0]}
	if _, err := p.Content(one, units[3]); err == nil {
		return nil
	}
	p.MolarMass = 1
	if _, err := p.Content(one, units[3]); err != nil {
		because := ""
		if strings.Contains(err.Error(), "density") {
			because = ", since a density would be wanted"
		}
		return fmt.Errorf("method: %s in %s of extract from %s of sample cannot be reported in %s%s", m.Curves.Unit, m.Amounts.VolumeUnit, m.Amounts.SampleUnit, m.Amounts.Unit, because)
	}
	for _, c := range m.Targets() { // it takes the molar mass of each
		if c.MolarMass == 0 {
			return fmt.Errorf("method: %s has no molar mass, so %s cannot become %s; give it at the Compounds station", c.Name, m.Curves.Unit, m.Amounts.Unit)
		}
	}
	return nil
}

// molarMass is that of a compound in g/mol, or 0.
func (m Method) molarMass(compoundID string) float64 {
	for _, c := range m.Compounds {
		if c.ID == compoundID {
			return c.MolarMass
		}
	}
	return 0
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

// Targets are the compounds that are quantified, in order of retention.
func (m Method) Targets() []compounds.Compound {
	var list []compounds.Compound
	for _, c := range m.Compounds {
		if c.Role == compounds.Target {
			list = append(list, c)
		}
	}
	byRetention(list)
	return list
}

func byRetention(list []compounds.Compound) {
	slices.SortStableFunc(list, func(a, b compounds.Compound) int { return cmp.Compare(a.ExpectedMin, b.ExpectedMin) })
}

// Groups are the names of the groups of targets, in the order of their first compound.
func (m Method) Groups() []string {
	var names []string
	for _, c := range m.Targets() {
		if c.Group != "" && !slices.Contains(names, c.Group) {
			names = append(names, c.Group)
		}
	}
	return names
}
