package batch

import (
	"math"

	"yugen/core/amounts"
)

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
