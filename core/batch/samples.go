package batch

import (
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

// summary is the mean of every replicate that could be read; it bears the flag that the mean itself earns.
func (p *process) summary(row SampleRow, compoundID string) SampleValue {
	v := SampleValue{Flags: []Flag{}, Of: len(row.InjectionIDs)}
	var found, concentrations []float64
	var first *Reading // with an amount
	x := 0.0           // the mean at the method's amount of internal standard
	seen := map[Flag]int{}
	for _, id := range row.InjectionIDs {
		i := p.places[id]
		r := p.result.Injections[i].Readings[compoundID]
		for _, f := range r.Flags {
			seen[f]++
		}
		if slices.Contains(r.Flags, Doubtful) {
			continue
		}
		if r.Concentration != nil {
			concentrations = append(concentrations, *r.Concentration)
			x += *r.Concentration / p.internalRatio(p.injections[i].Entry, compoundID)
		}
		if r.Amount != nil {
			found = append(found, *r.Amount)
			if first == nil {
				first = &r
			}
		}
	}
	if p.method.Curves.Way == ByAddition && len(found) > 1 { // all injections together made the one amount
		found, concentrations = found[:1], concentrations[:1]
	}
	v.Statistics, v.Concentration = amounts.Summarise(found), amounts.Summarise(concentrations)
	for _, f := range []Flag{CheckDrift, NoSampleAmount, Doubtful} {
		if seen[f] > 0 {
			v.Flags = append(v.Flags, f)
		}
	}
	if flag, ok := p.meanFlag(compoundID, x/max(1, float64(len(concentrations))), len(concentrations), len(row.InjectionIDs), seen); ok {
		v.Flags = append(v.Flags, flag)
	}
	if p.method.Curves.Way == ByAddition {
		if first != nil { // the mean and its interval are of one injection, with its own sample amount
			v.SE, v.CI95 = first.AmountSE, first.AmountCI95
		}
		return v
	}
	p.interval(&v, row, compoundID)
	if p.hearsRow(row, compoundID) {
		p.tellMean(row, compoundID, v)
	}
	return v
}

// meanFlag is where a mean stands against its curve; without any value, why there is none.
func (p *process) meanFlag(compoundID string, x float64, read, of int, seen map[Flag]int) (Flag, bool) {
	if read == 0 {
		for _, f := range []Flag{AboveRange, BelowRange} {
			if seen[f] > 0 {
				return f, true
			}
		}
		return NotFound, of > 0 && seen[NotFound] == of
	}
	if seen[AboveRange] > 0 && read < of { // what lies beyond the curve's turn would make the mean greater
		return AboveRange, true
	}
	for _, c := range p.result.Curves {
		if c.CompoundID == compoundID && c.Fit != nil {
			return p.rangeFlag(c, x)
		}
	}
	return "", false
}

// groups sums the compounds of each group in every replicate, and summarises the sums. A compound that is absent counts as 0 and is named; a
// replicate without any of them has no sum.
func (p *process) groups(row *SampleRow) {
	for _, name := range p.method.Groups() {
		var sums []float64
		var members []string
		absent := map[string]bool{}
		v := SampleValue{Flags: []Flag{}, Of: len(row.InjectionIDs)}
		for _, c := range p.method.Targets() {
			if c.Group == name {
				members = append(members, c.ID)
				absent[c.ID] = true
			}
		}
		for _, id := range row.InjectionIDs {
			i := p.places[id]
			sum, found := 0.0, false
			for _, id := range members {
				if r := p.result.Injections[i].Readings[id]; r.inMeans() {
					sum, found, absent[id] = sum+*r.Amount, true, false
				}
			}
			if found {
				sums = append(sums, sum)
			}
			if p.hears(i, GroupPrefix+name) {
				p.tellSum(i, name, members, sum)
			}
		}
		v.Statistics = amounts.Summarise(sums)
		for _, id := range members {
			if absent[id] {
				v.Absent = append(v.Absent, p.compoundName(id))
			}
			for _, f := range row.Values[id].Flags {
				if f != NotFound && f != NotDetected && f != BelowRange && !slices.Contains(v.Flags, f) {
					v.Flags = append(v.Flags, f)
				}
			}
		}
		if len(sums) == 0 {
			v.Flags = append(v.Flags, NotFound)
		}
		p.groupInterval(&v, *row, members)
		if p.hearsRow(*row, GroupPrefix+name) {
			p.tellMean(*row, GroupPrefix+name, v)
		}
		if row.Groups == nil {
			row.Groups = map[string]SampleValue{}
		}
		row.Groups[name] = v
	}
}
