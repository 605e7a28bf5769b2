package batch

import (
	"fmt"
	"slices"

	"yugen/core/amounts"
)

// quantify reads every target in every injection from its curve, turns it into the reported amount, and summarises
// replicates.
func (p *process) quantify() {
	for i := range p.injections {
		for _, c := range p.result.Curves {
			p.result.Injections[i].Readings[c.CompoundID] = p.reading(i, c)
		}
	}
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
	if c.Fit == nil {
		r.Problem = "There is no curve: " + c.Problem
		return r
	}
	read, err := c.Fit.Read([]float64{*r.Response})
	if err != nil {
		r.Problem = err.Error()
		return r
	}
	r.Concentration, r.ConcentrationSE = &read.X, read.StandardError
	if in.Role == Sample || in.Role == Check {
		switch {
		case read.X > c.Fit.HighX:
			r.Flags = append(r.Flags, AboveRange)
		case read.X < c.Fit.LowX:
			r.Flags = append(r.Flags, BelowRange)
		}
	}
	if in.Role == Sample {
		p.content(&r, in)
	}
	return r
}

// content turns a concentration into the amount in the sample as taken.
func (p *process) content(r *Reading, in Injection) {
	if in.Sample == nil || in.Volume == nil {
		r.Flags = append(r.Flags, NoSampleAmount)
		return
	}
	content := func(concentration float64) (float64, error) {
		q, err := p.method.content(in.Entry, concentration)
		return q.Value, err
	}
	amount, err := content(*r.Concentration)
	if err != nil {
		r.Problem = err.Error()
		return
	}
	r.Amount = &amount
	if r.ConcentrationSE != nil {
		// The preparation is a factor, so the calibration's error passes through it as the value does.
		if se, err := content(*r.ConcentrationSE); err == nil {
			r.AmountSE = &se
		}
	}
}

// content is what an entry's preparation makes of a concentration, in the reported unit.
func (m Method) content(e Entry, concentration float64) (amounts.Quantity, error) {
	var units [4]amounts.Unit
	for i, symbol := range []string{m.Curves.Unit, m.Amounts.VolumeUnit, m.Amounts.SampleUnit, m.Amounts.Unit} {
		u, err := amounts.ParseUnit(symbol)
		if err != nil {
			return amounts.Quantity{}, err
		}
		units[i] = u
	}
	preparation := amounts.Preparation{
		Dilution: e.Dilution, Factor: e.Factor,
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
		for _, c := range p.result.Curves {
			p.result.Samples[i].Values[c.CompoundID] = p.summary(p.result.Samples[i], c.CompoundID)
		}
	}
}

func (p *process) summary(row SampleRow, compoundID string) SampleValue {
	var found, concentrations []float64
	v := SampleValue{Flags: []Flag{}}
	missing := 0
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
	v.Statistics, v.Concentration = amounts.Summarise(found), amounts.Summarise(concentrations)
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
