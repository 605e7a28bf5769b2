package batch

import (
	"math"
	"slices"

	"yugen/core/amounts"
)

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
