package batch

import (
	"math"

	"yugen/core/amounts"
)

// blank is the mean content of the blanks, per volume of extract: at the blanks' own dilution.
type blank struct {
	mean, se, freedom float64 // se and freedom are 0 where one blank alone says nothing of its scatter
	n                 int
}

// takeOff finds what is taken off for the blank, of each compound; a blank without a peak holds nothing.
func (p *process) takeOff() {
	if !p.method.Amounts.TakeOffBlank {
		return
	}
	p.blanks = map[string]blank{}
	for _, c := range p.result.Curves {
		var values []float64
		single := 0.0
		for i, in := range p.injections {
			if in.Role != Blank {
				continue
			}
			r := p.result.Injections[i].Readings[c.CompoundID]
			switch {
			case r.Concentration != nil:
				values, single = append(values, *r.Concentration*in.Dilution), r.singleSE*in.Dilution
			case r.PeakNumber == nil:
				values = append(values, 0)
			}
		}
		s := amounts.Summarise(values)
		if s.Mean == nil {
			continue
		}
		b := blank{mean: *s.Mean, n: s.N, se: single}
		if s.SD != nil {
			b.se, b.freedom = *s.SD/math.Sqrt(float64(s.N)), float64(s.N-1)
		}
		p.blanks[c.CompoundID] = b
	}
}

// The names of terms of uncertainty.
const (
	readingTerm = "reading from the curve"
	purityTerm  = "standard's purity"
	blankTerm   = "blank"
)

// amount turns the concentration of one injection into the amount in the sample as taken. Its relative uncertainty is the root of the squares of those of
// the reading and of the preparation (JCGM 100:2008, 5.1.6); the interval takes Student's t at the effective degrees of freedom of
// Welch and Satterthwaite (G.4), where those of the preparation are endless.
func (p *process) amount(r *Reading, i int, compoundID string) {
	in := p.injections[i]
	if p.method.Amounts.Prepared() && (in.Sample == nil || in.Volume == nil) {
		r.Flags = append(r.Flags, NoSampleAmount)
		return
	}
	b := p.blanks[compoundID]
	net := *r.Concentration - b.mean/in.Dilution
	content, err := p.method.Content(in.Entry, compoundID, net)
	if err != nil {
		r.Problem = err.Error()
		return
	}
	one, err := p.method.Content(in.Entry, compoundID, 1)
	if err != nil {
		r.Problem = err.Error()
		return
	}
	r.Amount = &content.Value
	scale := math.Abs(one.Value)
	hears := p.hears(i, compoundID)
	if r.ConcentrationSE != nil && content.Value != 0 {
		r.amountSingle, r.amountCurve, r.amountBlank = r.singleSE*scale, r.curveSE*scale, b.se/in.Dilution*scale
		p.amountInterval(r, in.Entry, compoundID, *r.ConcentrationSE*scale, b.freedom)
	}
	if hears {
		p.tellContent(i, *r, b, net)
	}
}

// amountInterval gives one injection's amount its uncertainty, of the reading's in the unit of the amount and of what comes to it.
func (p *process) amountInterval(r *Reading, e Entry, compoundID string, readingSE, blankFreedom float64) {
	size := math.Abs(*r.Amount)
	variance, fourth := 0.0, 0.0
	term := func(name string, se, freedom float64) {
		r.Terms = append(r.Terms, UncertaintyTerm{name, 100 * se / size})
		variance += se * se
		if freedom > 0 {
			fourth += math.Pow(se, 4) / freedom
		}
	}
	term(readingTerm, readingSE, r.freedom)
	if r.amountBlank > 0 {
		term(blankTerm, r.amountBlank, blankFreedom)
	}
	for _, t := range p.preparationTerms(e.Dilution != 1, compoundID) {
		term(t.Name, t.Percent/100*size, 0)
	}
	se := math.Sqrt(variance)
	r.AmountSE = &se
	if r.freedom > 0 {
		half := p.student95(variance*variance/fourth) * se
		if fourth == 0 {
			half = p.student95(1e6) * se
		}
		r.AmountCI95 = &[2]float64{*r.Amount - half, *r.Amount + half}
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
			if p.hears(i, c.CompoundID) {
				p.tellShare(i, *r.Concentration, percent)
			}
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
	common, pure := map[string]float64{}, map[string]float64{} // by the compound whose curve it is: of the curve, and of its standard's purity
	for _, c := range p.result.Curves {
		r := readings[c.CompoundID]
		weight := -share
		if c.CompoundID == part {
			weight = 1 - share
		} else if !r.counts() {
			continue
		}
		scatter += weight * weight * r.singleSE * r.singleSE
		_, purity := p.method.purity(p.curveOf(c.CompoundID))
		if r.Concentration != nil {
			pure[p.curveOf(c.CompoundID)] += weight * *r.Concentration * purity
		}
		common[p.curveOf(c.CompoundID)] += weight * r.curveSE
	}
	for _, c := range p.result.Curves { // in their order
		curves += common[c.CompoundID]*common[c.CompoundID] + pure[c.CompoundID]*pure[c.CompoundID]
	}
	return math.Sqrt(scatter), math.Sqrt(curves)
}

// Content is what an entry's preparation makes of a concentration, in the reported unit.
func (m Method) Content(e Entry, compoundID string, concentration float64) (amounts.Quantity, error) {
	if m.Amounts.AsMeasured {
		return amounts.Quantity{Value: concentration}, nil
	}
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
