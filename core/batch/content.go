package batch

import (
	"math"

	"yugen/core/amounts"
)

// content turns a concentration into the amount in the sample as taken. Its relative uncertainty is the root of the squares of those of
// the reading and of the preparation (JCGM 100:2008, 5.1.6); the interval takes Student's t at the effective degrees of freedom of
// Welch and Satterthwaite (G.4), where those of the preparation are endless.
func (p *process) content(r *Reading, in Injection, compoundID string) {
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
	scale := math.Abs(amount.Value / *r.Concentration)
	r.amountSingle, r.amountCurve = r.singleSE*scale, r.curveSE*scale
	r.Terms = append(r.Terms, p.preparationTerms(in.Dilution != 1)...)
	squares := 0.0
	for _, t := range r.Terms {
		squares += t.Percent * t.Percent
	}
	se := math.Sqrt(squares) / 100 * math.Abs(amount.Value)
	r.AmountSE = &se
	if r.freedom > 0 {
		effective := r.freedom
		if len(r.Terms) > 1 {
			effective *= math.Pow(math.Sqrt(squares)/r.Terms[0].Percent, 4)
		}
		half := p.student95(effective) * se
		r.AmountCI95 = &[2]float64{amount.Value - half, amount.Value + half}
	}
}

// shares turns the concentrations of each injection into percent of their sum. A share's error is (1 − s) times that of its own part less s times
// those of all others, over the total (JCGM 100:2008, 5.2.2): scatter is each part's own, what a curve leaves open is common to all parts that are
// read from it.
func (p *process) shares() {
	if !p.method.Amounts.PercentOfTotal {
		return
	}
	for i := range p.injections {
		readings := p.result.Injections[i].Readings
		total := 0.0
		for _, c := range p.result.Curves { // in their order, so that the sum has the same digits each time
			if r := readings[c.CompoundID]; r.counts() {
				total += *r.Concentration
			}
		}
		if total == 0 {
			continue
		}
		changed := make(map[string]Reading, len(readings))
		for _, c := range p.result.Curves {
			r := readings[c.CompoundID]
			if r.Concentration == nil {
				continue
			}
			share := *r.Concentration / total
			percent := 100 * share
			r.Amount = &percent
			if r.ConcentrationSE != nil {
				single, curve := p.shareSE(readings, c.CompoundID, share)
				r.amountSingle, r.amountCurve = 100/total*single, 100/total*curve
				se := math.Hypot(r.amountSingle, r.amountCurve)
				r.AmountSE = &se
			}
			changed[c.CompoundID] = r
		}
		for id, r := range changed {
			readings[id] = r
		}
	}
}

// counts tells whether a reading is a part of the total.
func (r Reading) counts() bool { return r.Concentration != nil && *r.Concentration > 0 }

// shareSE is the standard error of one part's share, times the total: from scatter, and from the curves.
func (p *process) shareSE(readings map[string]Reading, part string, share float64) (single, curve float64) {
	scatter, curves := 0.0, 0.0
	common := map[string]float64{} // by the compound whose curve it is
	for _, c := range p.result.Curves {
		r := readings[c.CompoundID]
		weight := -share
		if c.CompoundID == part {
			weight = 1 - share
		} else if !r.counts() {
			continue
		}
		scatter += weight * weight * r.singleSE * r.singleSE
		common[p.curveOf(c.CompoundID)] += weight * r.curveSE
	}
	for _, c := range p.result.Curves { // in their order
		curves += common[c.CompoundID] * common[c.CompoundID]
	}
	return math.Sqrt(scatter), math.Sqrt(curves)
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
