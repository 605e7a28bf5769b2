package batch

import (
	"errors"
	"math"

	"yugen/core/curves"
)

// reading is what one compound gives in one injection.
func (p *process) reading(i int, c Curve) Reading {
	in, injected := p.injections[i], &p.result.Injections[i]
	r := Reading{Flags: []Flag{}}
	peak := injected.PeakOf(c.CompoundID)
	if peak == nil {
		r.Flags = append(r.Flags, NotFound)
		return r
	}
	r.PeakNumber = &peak.Number
	m, problem := p.response(injected, c.CompoundID)
	if m == nil {
		r.Problem = problem
		return r
	}
	r.Response = &m.response
	if p.hears(i, c.CompoundID) {
		p.tellResponse(i, c.CompoundID, *m)
	}
	read, err := p.read(i, c, &r)
	if err != nil {
		r.Problem = err.Error()
		var beyond *curves.BeyondTurn
		if errors.As(err, &beyond) && beyond.Above {
			r.Flags = append(r.Flags, AboveRange)
		} else if beyond != nil {
			r.Flags = append(r.Flags, BelowRange)
		}
		return r
	}
	r.Concentration, r.ConcentrationSE = &read.X, read.StandardError
	r.singleSE, r.curveSE, r.freedom = read.SingleSE, read.CurveSE, read.Freedom
	if c.Fit != nil && (in.Role == Sample || in.Role == Check) {
		p.rangeFlags(&r, c, read.X/p.internalRatio(in.Entry, c.CompoundID))
	}
	if in.Role == Sample && !p.method.Amounts.PercentOfTotal {
		p.amount(&r, i, c.CompoundID)
	}
	return r
}

// rangeFlags say where a reading stands against its curve; x is the reading at the method's amount of internal standard, as the curve is.
func (p *process) rangeFlags(r *Reading, c Curve, x float64) {
	flag, ok := p.rangeFlag(c, x)
	if !ok {
		return
	}
	r.Flags = append(r.Flags, flag)
	if flag == AboveRange {
		more := dilution(x, c.Fit.HighX)
		r.Dilute = &more
	}
}

// rangeFlag is where an amount stands against its curve and the limits that were chosen.
func (p *process) rangeFlag(c Curve, x float64) (Flag, bool) {
	chosen := p.method.Curves.Own[c.CompoundID].Limits
	switch {
	case c.Fit.Model == curves.OnePoint && chosen == nil: // one level is no range
	case x > c.Fit.HighX && c.Fit.Model != curves.OnePoint:
		return AboveRange, true
	case chosen != nil && x < chosen.LOD:
		return NotDetected, true
	case c.LOQ != nil && x < *c.LOQ:
		return BelowRange, true
	}
	return "", false
}

// dilution is the further dilution, to a tenth upwards, that brings an amount inside a range: the one advice that is given.
func dilution(x, highX float64) float64 { return math.Ceil(10*x/highX) / 10 }

// read turns a response into a concentration: from the sample's standard addition, from the curves before and after it, or from the one
// curve.
func (p *process) read(i int, c Curve, r *Reading) (curves.Reading, error) {
	in, response := p.injections[i], *r.Response
	if p.method.Curves.Way == ByAddition {
		return p.added(i, c)
	}
	if c.Fit == nil {
		return curves.Reading{}, errors.New("there is no curve: " + c.Problem)
	}
	if c.RelativeTo != "" {
		response /= p.method.Curves.Own[c.CompoundID].ResponseFactor
		if p.hears(i, c.CompoundID) {
			p.tellFactor(c, *r.Response, response)
		}
	}
	read, err := p.bracketed(i, c, response, r)
	if err != nil {
		return read, err
	}
	return scaled(read, p.internalRatio(in.Entry, c.CompoundID)), nil
}

// scaled is a reading at another amount of internal standard.
func scaled(read curves.Reading, ratio float64) curves.Reading {
	read.X *= ratio
	if read.StandardError != nil {
		se := *read.StandardError * ratio
		read.StandardError = &se
		read.SingleSE, read.CurveSE = read.SingleSE*ratio, read.CurveSE*ratio
	}
	return read
}

// added is the amount that standard addition found in a sample.
func (p *process) added(i int, c Curve) (curves.Reading, error) {
	for _, a := range c.Additions {
		switch {
		case a.Name != p.injections[i].Name:
		case a.Addition == nil:
			return curves.Reading{}, errors.New(a.Problem)
		default:
			read := curves.Reading{X: a.Addition.X, StandardError: a.Addition.StandardError, CI95: a.Addition.CI95, Freedom: float64(a.Addition.Fit.DegreesOfFreedom)}
			if read.StandardError != nil {
				read.CurveSE = *read.StandardError // all injections together made the one amount
			}
			if p.hears(i, c.CompoundID) {
				p.tellAddition(c.CompoundID, *a.Addition)
			}
			return read, nil
		}
	}
	return curves.Reading{}, errors.New("standard addition is for samples only")
}

// calibration is a curve that an injection is read from, with its share in the reading.
type calibration struct {
	fit   *curves.Fit
	share float64
	which string // " before" or " after" the injection; empty for the one curve
}

// calibrations are the curves that an injection is read from: those before and after it, for their mean or in between in run order; with one side only,
// that; without brackets, the one curve.
func (p *process) calibrations(i int, c Curve) []calibration {
	var before, after *Block
	for k := range c.Blocks {
		b := &c.Blocks[k]
		switch {
		case b.Fit == nil:
		case b.Position < float64(i):
			before = b
		case after == nil:
			after = b
		}
	}
	switch {
	case before == nil && after == nil:
		return []calibration{{c.Fit, 1, ""}}
	case after == nil:
		return []calibration{{before.Fit, 1, " before"}}
	case before == nil:
		return []calibration{{after.Fit, 1, " after"}}
	}
	share := 0.5 // of the calibration after
	if p.method.Curves.Brackets == BetweenOfBracket {
		share = (float64(i) - before.Position) / (after.Position - before.Position)
	}
	return []calibration{{before.Fit, 1 - share, " before"}, {after.Fit, share, " after"}}
}

// bracketed reads from each calibration that holds for an injection, and combines what they read.
func (p *process) bracketed(i int, c Curve, response float64, r *Reading) (curves.Reading, error) {
	list := p.calibrations(i, c)
	read := make([]curves.Reading, len(list))
	for k, of := range list {
		var err error
		if read[k], err = of.fit.Read([]float64{response}); err != nil {
			return read[k], err
		}
		if p.hears(i, c.CompoundID) {
			p.tellCurve(i, c, of, response, read[k], len(list) == 1)
		}
	}
	if len(list) == 1 {
		return read[0], nil
	}
	r.Around = []float64{read[0].X, read[1].X}
	both := between(read[0], read[1], list[1].share)
	if p.hears(i, c.CompoundID) {
		p.tellBetween(i, c.CompoundID, list, r.Around, both)
	}
	return both, nil
}

// between is the weighted mean of two readings of one response. Its own scatter is in both and does not average out; the errors of the two curves
// are independent.
func between(a, b curves.Reading, share float64) curves.Reading {
	read := curves.Reading{X: (1-share)*a.X + share*b.X}
	if a.StandardError == nil || b.StandardError == nil {
		return read
	}
	first, second := (1-share)*a.CurveSE, share*b.CurveSE
	read.SingleSE, read.CurveSE = (1-share)*a.SingleSE+share*b.SingleSE, math.Hypot(first, second)
	se := math.Hypot(read.SingleSE, read.CurveSE)
	read.StandardError = &se
	if both := a.Freedom + b.Freedom; se > 0 {
		parts := math.Pow(read.SingleSE, 4)/both + math.Pow(first, 4)/a.Freedom + math.Pow(second, 4)/b.Freedom
		read.Freedom = math.Pow(se, 4) / parts
	} else {
		read.Freedom = both
	}
	return read
}
