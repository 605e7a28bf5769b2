package batch

import (
	"time"

	"yugen/core/amounts"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
)

// Result is a processed batch.
type Result struct {
	Injections []Injected       `json:"injections"`
	Curves     []Curve          `json:"curves"`
	Samples    []SampleRow      `json:"samples"`
	Checks     []CheckRow       `json:"checks"`
	Outcomes   []checks.Outcome `json:"outcomes"`
	Notices    []checks.Notice  `json:"notices"`
	// Expected is what was estimated over the batch, for each channel and trace by name; settings overrule it.
	Expected []Expected `json:"expected"`
}

// ExpectedOf is what was estimated for a trace of a channel, or nil.
func (r Result) ExpectedOf(channelID, trace string) *peaks.Estimate {
	for i := range r.Expected {
		if r.Expected[i].Channel == channelID && r.Expected[i].Trace == trace {
			return &r.Expected[i].Estimate
		}
	}
	return nil
}

// Expected is the width and noise that all injections with a trace have in common.
type Expected struct {
	Channel    string `json:"channel"`
	Trace      string `json:"trace"`
	Injections int    `json:"injections"`
	peaks.Estimate
}

// Integrated is one channel of an injection, integrated and with its names.
type Integrated struct {
	Channel  string  `json:"channel"` // of the method, by id
	Trace    string  `json:"trace"`   // its name
	Unit     string  `json:"unit"`    // of the trace
	NoiseSD  float64 `json:"noise_sd"`
	WidthMin float64 `json:"width_min"`
	// EndWidthMin is the expected width at the end of the run.
	EndWidthMin float64      `json:"end_width_min"`
	Peaks       []NamedPeak  `json:"peaks"`
	Unmatched   []peaks.Edit `json:"unmatched_edits,omitempty"`
	// Problem is why the channel could not be integrated; the batch goes on without it.
	Problem string `json:"problem,omitempty"`
	// Dropped are peaks that were found and could not be measured, with the reason.
	Dropped []peaks.Dropped `json:"dropped,omitempty"`
}

// Injected is a processed injection: its first channel, and the others that the method processes.
type Injected struct {
	ID string `json:"id"`
	Integrated
	Further  []Integrated       `json:"further,omitempty"`
	Readings map[string]Reading `json:"readings"` // by compound id
	// InternalStandards are the deviations of their responses from their means over the batch, in percent, by compound id.
	InternalStandards map[string]float64 `json:"internal_standards_percent,omitempty"`
	// Qualifiers are what the peaks of other channels say of a compound that was found, by its id.
	Qualifiers map[string][]QualifierReading `json:"qualifiers,omitempty"`
	// Contenders are the peaks in a compound's window, by id, where there are more than one.
	Contenders map[string][]Contender `json:"contenders,omitempty"`
	// Places are where compounds are expected in this injection, by id, where that is not what the method says.
	Places map[string]compounds.Place `json:"places,omitempty"`
}

// Contender is a peak in a window, with the rules by which it would win.
type Contender struct {
	PeakNumber int              `json:"peak_number"`
	Wins       []compounds.Rule `json:"wins"`
}

// NamedPeak is a peak with the compound it is, if any.
type NamedPeak struct {
	peaks.Peak
	CompoundID string `json:"compound_id"`
	// RetentionIndex is absent without a ladder and outside it; RelativeRetention without a reference.
	RetentionIndex    *float64 `json:"retention_index"`
	RelativeRetention *float64 `json:"relative_retention"`
}

// Reading is what one compound gives in one injection. Concentration is in the unit of the levels, amount in the
// unit that is reported; what cannot be had is nil and Problem says why.
type Reading struct {
	PeakNumber      *int        `json:"peak_number"`
	Response        *float64    `json:"response"` // area or height, over the internal standard's where there is one
	Concentration   *float64    `json:"concentration"`
	ConcentrationSE *float64    `json:"concentration_se"`
	Amount          *float64    `json:"amount"`
	AmountSE        *float64    `json:"amount_se"`
	AmountCI95      *[2]float64 `json:"amount_ci95,omitempty"`
	// Terms are the relative standard uncertainties (%) of which that of the amount is made.
	Terms []UncertaintyTerm `json:"terms,omitempty"`
	// Around are what the calibrations before and after read, where the method brackets and there are both.
	Around []float64 `json:"around,omitempty"`
	// Dilute is the further dilution that would bring a reading above the range inside it.
	Dilute   *float64 `json:"dilute,omitempty"`
	Recovery *float64 `json:"recovery_percent"`

	// The reading's own scatter, what its curve leaves open (both in the unit of the levels), and the degrees of freedom behind them.
	singleSE, curveSE, freedom float64
	amountSingle, amountCurve  float64 // the same two in the unit of the amount
	amountBlank                float64 // the standard error of what was taken off for the blank

	Flags   []Flag `json:"flags"`
	Problem string `json:"problem,omitempty"`
}

// UncertaintyTerm is one share of an amount's uncertainty.
type UncertaintyTerm struct {
	Name    string  `json:"name"`
	Percent float64 `json:"percent"` // relative standard uncertainty
}

// Flag is a fact about a reading.
type Flag string

// The flags.
const (
	AboveRange     Flag = "above_range"
	BelowRange     Flag = "below_loq"
	NotFound       Flag = "not_found"
	NotDetected    Flag = "below_lod"
	CheckDrift     Flag = "check_drift"
	NoSampleAmount Flag = "no_sample_amount"
	// Doubtful is what eluted while something was wrong with the instrument; it counts in no mean.
	Doubtful Flag = "doubtful"
)

// Curve is the calibration of one compound.
type Curve struct {
	CompoundID string             `json:"compound_id"`
	Points     []CurvePoint       `json:"points"`
	Fit        *curves.Fit        `json:"fit"`
	Tests      curves.Diagnostics `json:"tests"`
	Line       []LinePoint        `json:"line"` // the curve from zero to beyond its highest standard, for drawing
	Problem    string             `json:"problem,omitempty"`
	Verdict    Verdict            `json:"verdict"`
	// Factors are the responses over the contents of the standards in use.
	Factors amounts.Statistics `json:"response_factors"`
	// LevelFactors are their means level by level.
	LevelFactors []LevelFactor `json:"level_factors"`
	// Against is the internal standard that the responses are read against, by id.
	Against string `json:"against,omitempty"`
	// From is the batch whose curve this is, where it is not of this batch's standards.
	From *CurveSource `json:"from,omitempty"`
	// LOD and LOQ are those that the method chose; where it chose none, 3.3 times the standard error of the intercept over the slope, and
	// the lowest level in use.
	LOD *float64 `json:"lod"`
	LOQ *float64 `json:"loq"`
	// Limits are those by every way, for choosing.
	Limits []curves.Limit `json:"limits"`
	// Range is the widest run of levels over which the curve holds, as a proposal; nil where none does.
	Range *curves.Range `json:"range"`
	// RelativeTo is the compound whose curve this one uses, by a relative response factor.
	RelativeTo string `json:"relative_to,omitempty"`
	// Blocks are the calibrations before and after samples, in run order, where the method brackets.
	Blocks []Block `json:"blocks,omitempty"`
	// Additions are the standard additions, one a sample.
	Additions []SampleAddition `json:"additions,omitempty"`
}

// LevelFactor is the mean response factor of one level's points in use.
type LevelFactor struct {
	Level float64 `json:"level"`
	Mean  float64 `json:"mean"`
}

// CurveSource is the batch that a curve was measured in.
type CurveSource struct {
	BatchID    string     `json:"batch_id"`
	Batch      string     `json:"batch"`
	Study      string     `json:"study"`
	MeasuredAt *time.Time `json:"measured_at"`
}

// Block is a stretch of standards in the run with a curve of its own.
type Block struct {
	Position float64     `json:"position"` // the middle of its standards in run order, from 0
	Fit      *curves.Fit `json:"fit"`
	Problem  string      `json:"problem,omitempty"`
}

// SampleAddition is the standard addition of one sample.
type SampleAddition struct {
	Name     string           `json:"name"`
	Addition *curves.Addition `json:"addition"`
	Problem  string           `json:"problem,omitempty"`
}

// LinePoint is a place on a curve, with its 95 % confidence band inside the range.
type LinePoint struct {
	X    float64  `json:"x"`
	Y    float64  `json:"y"`
	Band *float64 `json:"band"`
}

// CurvePoint is one standard of a curve; the fit's points stand in the same order.
type CurvePoint struct {
	InjectionID string  `json:"injection_id"`
	Level       float64 `json:"level"`   // of the run list
	Content     float64 `json:"content"` // of the compound in it, in the unit of the levels
	Response    float64 `json:"response"`
	Measure     float64 `json:"measure"` // the area or height behind the response
	InRange     bool    `json:"in_range"`
	LeftOut     bool    `json:"left_out"`
	Reason      string  `json:"reason,omitempty"`
	// Kept points were measured in an earlier batch, the one KeptFrom names.
	Kept     bool   `json:"kept,omitempty"`
	KeptFrom string `json:"kept_from,omitempty"`
	// X is the content at the method's amount of internal standard; it is the content where the injection holds just that.
	X float64 `json:"x"`
}

// Verdict is a sentence on a curve: what holds, and what does not.
type Verdict struct {
	Good    string   `json:"good"`
	Doubt   string   `json:"doubt,omitempty"`
	Largest *float64 `json:"largest_deviation_percent"`
}

// SampleRow is one sample with its replicates.
type SampleRow struct {
	Name         string                 `json:"name"`
	InjectionIDs []string               `json:"injection_ids"`
	Values       map[string]SampleValue `json:"values"` // by compound id
	Groups       map[string]SampleValue `json:"groups,omitempty"`
}

// SampleValue is the mean of a sample's replicates for one compound, in the reported unit.
type SampleValue struct {
	amounts.Statistics
	Concentration amounts.Statistics `json:"concentration"`
	// SE and CI95 are the standard uncertainty and the 95 % interval of the mean: repeatability and what each preparation has for itself average out,
	// the curve and what is common do not. Terms says of what.
	SE    *float64    `json:"se"`
	CI95  *[2]float64 `json:"ci95"`
	Terms []MeanTerm  `json:"terms,omitempty"`
	Flags []Flag      `json:"flags"` // that the mean itself earns
	// Of is how many injections there are; N of them could be read.
	Of int `json:"of"`
	// Absent are the names of a group's compounds that were found in no injection and count as 0.
	Absent []string `json:"absent,omitempty"`
}

// CheckRow is one check injection's recovery of one compound.
type CheckRow struct {
	InjectionID string  `json:"injection_id"`
	CompoundID  string  `json:"compound_id"`
	Recovery    float64 `json:"recovery_percent"`
	Outside     bool    `json:"outside"`
}
