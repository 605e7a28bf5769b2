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
	peak := injected.peak(c.CompoundID)
	if peak == nil {
		r.Flags = append(r.Flags, NotFound)
		return r
	}
	r.PeakNumber = &peak.Number
	if r.Response, r.Problem = p.response(injected, c.CompoundID); r.Response == nil {
		return r
	}
	read, freedom, err := p.read(i, c, &r)
	if err != nil {
		r.Problem = err.Error()
		return r
	}
	r.Concentration, r.ConcentrationSE = &read.X, read.StandardError
	if c.Fit != nil && (in.Role == Sample || in.Role == Check) {
		p.rangeFlags(&r, c)
	}
	if in.Role == Sample && !p.method.Amounts.PercentOfTotal {
		p.content(&r, in, c.CompoundID, freedom)
	}
	return r
}

// rangeFlags say where a reading stands against its curve. At the internal standard's amount of the method, as the curve is.
func (p *process) rangeFlags(r *Reading, c Curve) {
	x := *r.Concentration
	chosen := p.method.Curves.Own[c.CompoundID].Limits
	switch {
	case c.Fit.Model == curves.OnePoint && chosen == nil: // one level is no range
	case x > c.Fit.HighX && c.Fit.Model != curves.OnePoint:
		r.Flags = append(r.Flags, AboveRange)
		more := math.Ceil(10*x/c.Fit.HighX) / 10
		r.Dilute = &more
	case chosen != nil && x < chosen.LOD:
		r.Flags = append(r.Flags, NotDetected)
	case c.LOQ != nil && x < *c.LOQ:
		r.Flags = append(r.Flags, BelowRange)
	}
}

// read turns a response into a concentration: from the sample's standard addition, from the curves before and after it, or from the one
// curve; with the degrees of freedom behind its standard error.
func (p *process) read(i int, c Curve, r *Reading) (curves.Reading, int, error) {
	in, response := p.injections[i], *r.Response
	if p.method.Curves.Way == ByAddition {
		return c.added(in.Entry)
	}
	if c.Fit == nil {
		return curves.Reading{}, 0, errors.New("there is no curve: " + c.Problem)
	}
	if c.RelativeTo != "" {
		response /= p.method.Curves.Own[c.CompoundID].ResponseFactor
	}
	read, freedom, err := p.bracketed(i, c, response, r)
	if err != nil {
		return read, freedom, err
	}
	ratio := p.internalRatio(in.Entry)
	read.X *= ratio
	if read.StandardError != nil {
		se := *read.StandardError * ratio
		read.StandardError = &se
	}
	return read, freedom, nil
}

// added is the amount that standard addition found in a sample.
func (c Curve) added(e Entry) (curves.Reading, int, error) {
	for _, a := range c.Additions {
		switch {
		case a.Name != e.Name:
		case a.Addition == nil:
			return curves.Reading{}, 0, errors.New(a.Problem)
		default:
			return curves.Reading{X: a.Addition.X, StandardError: a.Addition.StandardError, CI95: a.Addition.CI95}, a.Addition.Fit.DegreesOfFreedom, nil
		}
	}
	return curves.Reading{}, 0, errors.New("standard addition is for samples only")
}

// bracketed reads from the calibrations on both sides of an injection: their mean, or in between in run order. With one side only, from
// that; without brackets, from the one curve.
func (p *process) bracketed(i int, c Curve, response float64, r *Reading) (curves.Reading, int, error) {
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
		read, err := c.Fit.Read([]float64{response})
		return read, c.Fit.DegreesOfFreedom, err
	case before == nil || after == nil:
		only := before
		if only == nil {
			only = after
		}
		read, err := only.Fit.Read([]float64{response})
		return read, only.Fit.DegreesOfFreedom, err
	}
	a, err := before.Fit.Read([]float64{response})
	if err != nil {
		return a, 0, err
	}
	b, err := after.Fit.Read([]float64{response})
	if err != nil {
		return b, 0, err
	}
	r.Around = []float64{a.X, b.X}
	share := 0.5 // of the calibration after
	if p.method.Curves.Brackets == BetweenOfBracket {
		share = (float64(i) - before.Position) / (after.Position - before.Position)
	}
	read := curves.Reading{X: (1-share)*a.X + share*b.X}
	if a.StandardError != nil && b.StandardError != nil {
		se := math.Hypot((1-share)**a.StandardError, share**b.StandardError)
		read.StandardError = &se
	}
	return read, before.Fit.DegreesOfFreedom + after.Fit.DegreesOfFreedom, nil
}
