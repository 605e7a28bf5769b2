package batch

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"yugen/core/amounts"
	"yugen/core/curves"
)

// quantify reads every target in every injection from its curve, turns it into the reported amount, and summarises
// replicates.
func (p *process) quantify() {
	for i := range p.injections {
		for _, c := range p.result.Curves {
			p.result.Injections[i].Readings[c.CompoundID] = p.reading(i, c)
		}
	}
	p.shares()
	p.recoveries()
	p.driftFlags()
	p.samples()
}

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

// content turns a concentration into the amount in the sample as taken. Its relative uncertainty is the root of the squares of those of
// the reading and of the preparation (JCGM 100:2008, 5.1.6); the interval takes Student's t at the effective degrees of freedom of
// Welch and Satterthwaite (G.4), where those of the preparation are endless.
func (p *process) content(r *Reading, in Injection, compoundID string, freedom int) {
	if in.Sample == nil || in.Volume == nil {
		r.Flags = append(r.Flags, NoSampleAmount)
		return
	}
	amount, err := p.method.content(in.Entry, compoundID, *r.Concentration)
	if err != nil {
		r.Problem = err.Error()
		return
	}
	r.Amount = &amount.Value
	if r.ConcentrationSE == nil || *r.Concentration == 0 {
		return
	}
	r.Terms = []UncertaintyTerm{{"reading from the curve", 100 * *r.ConcentrationSE / math.Abs(*r.Concentration)}}
	m := p.method.Amounts
	for _, t := range []UncertaintyTerm{{"volume", m.VolumePercent}, {"weighing", m.SamplePercent}, {"dilution", m.DilutionPercent}} {
		if t.Percent > 0 && (t.Name != "dilution" || in.Dilution != 1) {
			r.Terms = append(r.Terms, t)
		}
	}
	squares := 0.0
	for _, t := range r.Terms {
		squares += t.Percent * t.Percent
	}
	se := math.Sqrt(squares) / 100 * math.Abs(amount.Value)
	r.AmountSE = &se
	if freedom > 0 {
		effective := float64(freedom)
		if len(r.Terms) > 1 {
			effective *= math.Pow(math.Sqrt(squares)/r.Terms[0].Percent, 4)
		}
		half := p.student95(effective) * se
		r.AmountCI95 = &[2]float64{amount.Value - half, amount.Value + half}
	}
}

// shares turns the concentrations of each injection into percent of their sum.
func (p *process) shares() {
	if !p.method.Amounts.PercentOfTotal {
		return
	}
	for i := range p.injections {
		readings := p.result.Injections[i].Readings
		total := 0.0
		for _, c := range p.result.Curves { // in their order, so that the sum has the same digits each time
			if r := readings[c.CompoundID]; r.Concentration != nil && *r.Concentration > 0 {
				total += *r.Concentration
			}
		}
		for id, r := range readings {
			if r.Concentration == nil || total == 0 {
				continue
			}
			share := 100 * *r.Concentration / total
			r.Amount = &share
			if r.ConcentrationSE != nil {
				// As if the total were exact: what it shares with its part makes the true uncertainty smaller.
				se := 100 * *r.ConcentrationSE / total
				r.AmountSE = &se
			}
			readings[id] = r
		}
	}
}

// content is what an entry's preparation makes of a concentration, in the reported unit.
func (m Method) content(e Entry, compoundID string, concentration float64) (amounts.Quantity, error) {
	var units [4]amounts.Unit
	for i, symbol := range []string{m.Curves.Unit, m.Amounts.VolumeUnit, m.Amounts.SampleUnit, m.Amounts.Unit} {
		u, err := amounts.ParseUnit(symbol)
		if err != nil {
			return amounts.Quantity{}, err
		}
		units[i] = u
	}
	preparation := amounts.Preparation{
		Dilution: e.Dilution, Factor: e.Factor, MolarMass: m.molarMass(compoundID),
		Volume: amounts.Quantity{Value: *e.Volume, Unit: units[1]},
		Sample: amounts.Quantity{Value: *e.Sample, Unit: units[2]},
	}
	return preparation.Content(amounts.Quantity{Value: concentration, Unit: units[0]}, units[3])
}

// recoveries compares each check with its nominal content.
func (p *process) recoveries() {
	p.result.Checks = []CheckRow{}
	for i, in := range p.injections {
		if in.Role != Check || in.Level == nil || *in.Level == 0 {
			continue
		}
		for _, c := range p.result.Curves {
			r := p.result.Injections[i].Readings[c.CompoundID]
			if r.Concentration == nil {
				continue
			}
			percent, outside := p.method.Checks.RecoveryOutside(*r.Concentration, *in.Level)
			r.Recovery = &percent
			p.result.Injections[i].Readings[c.CompoundID] = r
			p.result.Checks = append(p.result.Checks, CheckRow{in.ID, c.CompoundID, percent, outside})
		}
	}
}

// driftFlags marks the samples that stand next to a check outside its limits: a sample is only as good as the checks
// before and after it.
func (p *process) driftFlags() {
	outside := map[[2]string]bool{}
	for _, c := range p.result.Checks {
		outside[[2]string{c.InjectionID, c.CompoundID}] = c.Outside
	}
	for i, in := range p.injections {
		if in.Role != Sample {
			continue
		}
		for id, r := range p.result.Injections[i].Readings {
			if r.Concentration != nil && (outside[[2]string{p.checkFrom(i, -1), id}] || outside[[2]string{p.checkFrom(i, 1), id}]) {
				r.Flags = append(r.Flags, CheckDrift)
				p.result.Injections[i].Readings[id] = r
			}
		}
	}
}

// checkFrom is the id of the first check before (-1) or after (1) an injection, or "".
func (p *process) checkFrom(i, dir int) string {
	for i += dir; i >= 0 && i < len(p.injections); i += dir {
		if p.injections[i].Role == Check {
			return p.injections[i].ID
		}
	}
	return ""
}

// samples gathers the replicates of each sample, which share its name, in the order of their first injection.
func (p *process) samples() {
	p.result.Samples = []SampleRow{}
	row := map[string]int{}
	for _, in := range p.injections {
		if in.Role != Sample {
			continue
		}
		if _, known := row[in.Name]; !known {
			row[in.Name] = len(p.result.Samples)
			p.result.Samples = append(p.result.Samples, SampleRow{Name: in.Name, Values: map[string]SampleValue{}})
		}
		s := &p.result.Samples[row[in.Name]]
		s.InjectionIDs = append(s.InjectionIDs, in.ID)
	}
	for i := range p.result.Samples {
		row := &p.result.Samples[i]
		for _, c := range p.result.Curves {
			row.Values[c.CompoundID] = p.summary(*row, c.CompoundID)
		}
		p.groups(row)
	}
}

// groups sums the compounds of each group in every replicate, and summarises the sums. A compound that was not found adds nothing and
// is told; a replicate without any of them has no sum.
func (p *process) groups(row *SampleRow) {
	for _, name := range p.method.Groups() {
		var sums []float64
		v := SampleValue{Flags: []Flag{}}
		for i, in := range p.injections {
			if !slices.Contains(row.InjectionIDs, in.ID) {
				continue
			}
			sum, found := 0.0, false
			for _, c := range p.method.Targets() {
				r := p.result.Injections[i].Readings[c.ID]
				if c.Group != name {
					continue
				}
				for _, f := range r.Flags {
					if !slices.Contains(v.Flags, f) {
						v.Flags = append(v.Flags, f)
					}
				}
				if r.Amount != nil {
					sum, found = sum+*r.Amount, true
				}
			}
			if found {
				sums = append(sums, sum)
			}
		}
		v.Statistics = amounts.Summarise(sums)
		v.CI95 = p.interval(v)
		if row.Groups == nil {
			row.Groups = map[string]SampleValue{}
		}
		row.Groups[name] = v
	}
}

// interval is the 95 % interval of a mean of replicates; nil with fewer than two.
func (p *process) interval(v SampleValue) *[2]float64 {
	if v.SD == nil {
		return nil
	}
	half := p.student95(float64(v.N-1)) * *v.SD / math.Sqrt(float64(v.N))
	return &[2]float64{*v.Mean - half, *v.Mean + half}
}

func (p *process) summary(row SampleRow, compoundID string) SampleValue {
	var found, concentrations []float64
	v := SampleValue{Flags: []Flag{}}
	missing := 0
	var single *[2]float64
	for i, in := range p.injections {
		if !slices.Contains(row.InjectionIDs, in.ID) {
			continue
		}
		r := p.result.Injections[i].Readings[compoundID]
		if r.Concentration != nil {
			concentrations = append(concentrations, *r.Concentration)
		}
		if r.Amount != nil {
			found = append(found, *r.Amount)
			single = r.AmountCI95
		}
		for _, f := range r.Flags {
			if f == NotFound {
				missing++
			} else if !slices.Contains(v.Flags, f) {
				v.Flags = append(v.Flags, f)
			}
		}
	}
	if missing == len(row.InjectionIDs) {
		v.Flags = append(v.Flags, NotFound)
	}
	if p.method.Curves.Way == ByAddition && len(found) > 1 { // all injections together made the one amount
		found, concentrations = found[:1], concentrations[:1]
	}
	v.Statistics, v.Concentration = amounts.Summarise(found), amounts.Summarise(concentrations)
	v.CI95 = p.interval(v)
	if v.CI95 == nil && len(found) == 1 {
		v.CI95 = single
	}
	return v
}

func (p *process) replicateName(i int) string {
	in := p.injections[i]
	of, at := 0, 0
	for k, other := range p.injections {
		if other.Name == in.Name && other.Role == in.Role {
			of++
			if k <= i {
				at++
			}
		}
	}
	if of < 2 {
		return in.Name
	}
	return fmt.Sprintf("%s %d of %d", in.Name, at, of)
}
