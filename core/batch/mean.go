package batch

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"

	"yugen/core/amounts"
)

// MeanTerm is one part of the standard uncertainty of a mean, in percent of it. What averages becomes smaller with more replicates; what does not is
// common to them.
type MeanTerm struct {
	Name     string  `json:"name"`
	Percent  float64 `json:"percent"`
	Averages bool    `json:"averages"`
}

// The names of the terms of a preparation, as a method marks them common.
const (
	volumeTerm   = "volume"
	weighingTerm = "weighing"
	dilutionTerm = "dilution"
)

// PreparationTerms lists them.
var PreparationTerms = []string{volumeTerm, weighingTerm, dilutionTerm}

// preparation names what an injection was made from: the column of the run list, else its vial, else its sample.
func (e Entry) preparation() string {
	switch {
	case e.Preparation != "":
		return e.Preparation
	case e.Vial != "":
		return e.Vial
	}
	return e.Name
}

// part is an independent share of a variance with its degrees of freedom; 0 stands for endless.
type part struct {
	variance, freedom float64
	term              MeanTerm
}

// replicate is one reading of a sample with what it is made of, in the unit of the amounts.
type replicate struct {
	preparation   string
	amount        float64
	single, curve float64
	blank         float64
	diluted       bool
}

// replicates are the readings of a row that have an amount.
func (p *process) replicates(row SampleRow, compoundID string) (list []replicate, freedom float64) {
	for _, id := range row.InjectionIDs {
		i := p.places[id]
		in, r := &p.injections[i], p.result.Injections[i].Readings[compoundID]
		if !r.inMeans() {
			continue
		}
		list = append(list, replicate{in.preparation(), *r.Amount, r.amountSingle, r.amountCurve, r.amountBlank, in.Dilution != 1})
		freedom = max(freedom, r.freedom)
	}
	return list, freedom
}

// scatter is the sum of squares of readings about the mean of their preparation, in units of what the curve lets expect, and its degrees of freedom.
func scatter(list []replicate) (squares, freedom float64) {
	for _, group := range byPreparation(list) {
		mean := meanOf(group)
		for _, r := range group {
			if r.single > 0 {
				squares += (r.amount - mean) * (r.amount - mean) / (r.single * r.single)
			}
		}
		freedom += float64(len(group) - 1)
	}
	return squares, freedom
}

func byPreparation(list []replicate) [][]replicate {
	var groups [][]replicate
	for _, r := range list {
		i := slices.IndexFunc(groups, func(g []replicate) bool { return g[0].preparation == r.preparation })
		if i < 0 {
			groups = append(groups, []replicate{r})
			continue
		}
		groups[i] = append(groups[i], r)
	}
	return groups
}

func meanOf(list []replicate) float64 {
	sum := 0.0
	for _, r := range list {
		sum += r.amount / float64(len(list))
	}
	return sum
}

// pooled is how much more (or less) readings scatter than the curve's residuals say, as a factor on the variance, over all samples of the batch that
// do not stand out, with the degrees of freedom of curve and replicates together.
type pooled struct{ factor, freedom float64 }

// standsOut is the chance below which a spread is taken to differ from the pooled one.
const standsOut = 0.01

func (p *process) pool(compoundID string) pooled {
	if held, ok := p.pools[compoundID]; ok {
		return held
	}
	squares, freedom, curve := 0.0, 0.0, 0.0
	for _, row := range p.result.Samples {
		list, of := p.replicates(row, compoundID)
		curve = max(curve, of)
		s, f := scatter(list)
		if f > 0 && of > 0 && fTail(s/f, f, of) >= standsOut {
			squares, freedom = squares+s, freedom+f
		}
	}
	out := pooled{1, curve}
	if curve > 0 && freedom > 0 {
		out = pooled{(curve + squares) / (curve + freedom), curve + freedom}
	}
	if p.pools == nil {
		p.pools = map[string]pooled{}
	}
	p.pools[compoundID] = out
	return out
}

// fTail is the chance of a ratio of variances as large as this.
func fTail(ratio, df1, df2 float64) float64 {
	if df1 <= 0 || df2 <= 0 || math.IsNaN(ratio) {
		return 1
	}
	return 1 - distuv.F{D1: df1, D2: df2}.CDF(ratio)
}

// meanParts are the independent parts of the variance of a mean of replicates, of which the preparation's are told apart since they are common to all
// compounds of a sample. Repeatability is that of the curve's residuals pooled with all replicates of the batch; a sample's own spread counts alone only
// where it stands out. Where preparations differ by more than their terms and repeatability explain, their own spread counts instead of both.
func (p *process) meanParts(row SampleRow, compoundID string) (own, curve part, preparation []part, ok bool) {
	list, freedom := p.replicates(row, compoundID)
	if len(list) == 0 || freedom <= 0 {
		return own, curve, nil, false
	}
	n := float64(len(list))
	mean := meanOf(list)
	pool := p.pool(compoundID)
	squares, within := scatter(list)
	factor, of := pool.factor, pool.freedom
	if within > 0 && factor > 0 && fTail(squares/within/factor, within, of) < standsOut {
		factor, of = squares/within, within
	}
	diluted := false
	own = part{freedom: of, term: MeanTerm{Name: "repeatability", Averages: true}}
	curve = part{freedom: freedom, term: MeanTerm{Name: "curve"}}
	sum, blank := 0.0, 0.0
	for _, r := range list {
		own.variance += factor * r.single * r.single / (n * n)
		sum += r.curve / n
		blank += r.blank / n
		diluted = diluted || r.diluted
	}
	curve.variance = sum * sum
	groups := byPreparation(list)
	share := 0.0 // Σ (nⱼ/n)²: what is left of a term that each preparation has for itself
	for _, g := range groups {
		share += float64(len(g)) * float64(len(g)) / (n * n)
	}
	perPreparation := 0.0
	for _, t := range p.preparationTerms(diluted, compoundID) {
		common := t.Name == purityTerm || slices.Contains(p.method.Amounts.CommonTerms, t.Name)
		variance := t.Percent * t.Percent / 1e4 * mean * mean
		if !common {
			perPreparation += variance
			variance *= share
		}
		preparation = append(preparation, part{variance: variance, term: MeanTerm{Name: t.Name, Averages: !common}})
	}
	if blank > 0 {
		preparation = append(preparation, part{blank * blank, p.blanks[compoundID].freedom, MeanTerm{Name: blankTerm}})
	}
	if spread, freedom, differ := p.between(groups, factor, of, perPreparation); differ {
		own = part{spread, freedom, MeanTerm{Name: "spread of preparations", Averages: true}}
		preparation = slices.DeleteFunc(preparation, func(q part) bool { return q.term.Averages })
	}
	return own, curve, preparation, true
}

// between is the variance of the mean from the spread of the preparations' own means, and whether that is more than repeatability and their terms
// explain, at the chance of standsOut.
func (p *process) between(groups [][]replicate, factor, freedom, perPreparation float64) (variance, of float64, differ bool) {
	k := float64(len(groups))
	if k < 2 {
		return 0, 0, false
	}
	means := make([]float64, len(groups))
	explained := 0.0
	for i, g := range groups {
		means[i] = meanOf(g)
		single := 0.0
		for _, r := range g {
			single += factor * r.single * r.single / float64(len(g)*len(g))
		}
		explained += (single + perPreparation) / k
	}
	sd := amounts.Summarise(means).SD
	if explained <= 0 || fTail(*sd**sd/explained, k-1, freedom) >= standsOut {
		return 0, 0, false
	}
	return *sd * *sd / k, k - 1, true
}

// preparationTerms are the relative standard uncertainties that the method states: of the preparation, and of the standard's purity.
func (p *process) preparationTerms(diluted bool, compoundID string) (list []UncertaintyTerm) {
	if p.method.Amounts.PercentOfTotal {
		return nil
	}
	for _, t := range p.method.statedTerms() {
		if t.Percent > 0 && (t.Name != dilutionTerm || diluted) {
			list = append(list, t)
		}
	}
	if _, relative := p.method.purity(p.curveOf(compoundID)); relative > 0 && p.method.Curves.Way != ByAddition {
		list = append(list, UncertaintyTerm{purityTerm, 100 * relative})
	}
	return list
}

// statedTerms are the uncertainties of the preparation, where amounts take it into account.
func (m Method) statedTerms() []UncertaintyTerm {
	if !m.Amounts.Prepared() {
		return nil
	}
	a := m.Amounts
	return []UncertaintyTerm{{volumeTerm, a.VolumePercent}, {weighingTerm, a.SamplePercent}, {dilutionTerm, a.DilutionPercent}}
}

// combine is the standard uncertainty, the 95 % interval at the effective degrees of freedom (JCGM 100:2008, G.4), and the terms.
func (p *process) combine(v *SampleValue, parts []part) {
	if v.Mean == nil {
		return
	}
	variance, fourth := 0.0, 0.0
	v.Terms = nil
	for _, q := range parts {
		variance += q.variance
		if q.freedom > 0 {
			fourth += q.variance * q.variance / q.freedom
		}
		if *v.Mean != 0 {
			t := q.term
			t.Percent = 100 * math.Sqrt(q.variance) / math.Abs(*v.Mean)
			v.Terms = append(v.Terms, t)
		}
	}
	se := math.Sqrt(variance)
	v.SE = &se
	half := se * p.student95(1e6)
	if fourth > 0 {
		half = se * p.student95(variance*variance/fourth)
	}
	v.CI95 = &[2]float64{*v.Mean - half, *v.Mean + half}
}

// interval gives a mean its uncertainty: from what averages and what does not, or, where a curve says nothing of scatter, from the replicates' own spread.
func (p *process) interval(v *SampleValue, row SampleRow, compoundID string) {
	own, curve, preparation, ok := p.meanParts(row, compoundID)
	if ok {
		p.combine(v, append([]part{own, curve}, preparation...))
		return
	}
	if v.SD != nil {
		n := float64(v.N)
		p.combine(v, []part{{*v.SD * *v.SD / n, n - 1, MeanTerm{Name: "repeatability", Averages: true}}})
	}
}

// groupInterval is that of a sum of compounds: scatter adds up in squares, a curve that several share adds up as it is, and the preparation is common
// to all of them.
func (p *process) groupInterval(v *SampleValue, row SampleRow, compoundIDs []string) {
	own := part{term: MeanTerm{Name: "repeatability", Averages: true}}
	fourth := 0.0
	curves := map[string]part{}
	var order []string
	preparation := map[string]float64{} // standard uncertainties by term; purity and blank are each compound's own
	var names []part
	var single []part
	for _, id := range compoundIDs {
		o, c, prep, ok := p.meanParts(row, id)
		if !ok {
			continue
		}
		own.variance += o.variance
		fourth += o.variance * o.variance / o.freedom
		of := p.curveOf(id)
		if _, known := curves[of]; !known {
			order = append(order, of)
		}
		sum := math.Sqrt(curves[of].variance) + math.Sqrt(c.variance)
		curves[of] = part{sum * sum, c.freedom, MeanTerm{Name: "curve"}}
		for _, q := range prep {
			if q.term.Name == purityTerm || q.term.Name == blankTerm {
				single = append(single, q)
				continue
			}
			if _, known := preparation[q.term.Name]; !known {
				names = append(names, q)
			}
			preparation[q.term.Name] += math.Sqrt(q.variance)
		}
	}
	if len(order) == 0 {
		return
	}
	if fourth > 0 {
		own.freedom = own.variance * own.variance / fourth
	}
	parts := []part{own}
	for _, of := range order {
		parts = append(parts, curves[of])
	}
	for _, q := range names {
		u := preparation[q.term.Name]
		parts = append(parts, part{variance: u * u, term: q.term})
	}
	p.combine(v, append(parts, together(single)...))
}

// together adds the variances of parts of the same name, which are independent.
func together(list []part) (sums []part) {
	for _, q := range list {
		i := slices.IndexFunc(sums, func(s part) bool { return s.term.Name == q.term.Name })
		if i < 0 {
			sums = append(sums, q)
			continue
		}
		s := &sums[i]
		if both := s.variance + q.variance; both > 0 && s.freedom > 0 && q.freedom > 0 {
			s.freedom = both * both / (s.variance*s.variance/s.freedom + q.variance*q.variance/q.freedom)
		}
		s.variance += q.variance
	}
	return sums
}

// curveOf is the compound whose curve a compound is read from.
func (p *process) curveOf(compoundID string) string {
	if to := p.method.Curves.Own[compoundID].RelativeTo; to != "" {
		return to
	}
	return compoundID
}
