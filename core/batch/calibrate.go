package batch

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"

	"yugen/core/amounts"
	"yugen/core/compounds"
	"yugen/core/curves"
)

// calibrate makes a curve for each of some targets, from the standards in which it was found; then those that stand on another's.
func (p *process) calibrate(targets []compounds.Compound) {
	p.result.Curves = []Curve{}
	own := map[string]Curve{}
	of := func(c compounds.Compound) Curve {
		curve, made := own[c.ID]
		if !made {
			curve = p.curve(c)
			own[c.ID] = curve
		}
		return curve
	}
	for _, c := range targets {
		curve := Curve{}
		if to := p.method.Curves.Own[c.ID].RelativeTo; to == "" {
			curve = of(c)
		} else {
			i := slices.IndexFunc(p.method.Compounds, func(o compounds.Compound) bool { return o.ID == to })
			curve = of(p.method.Compounds[i])
			curve.RelativeTo, curve.CompoundID = to, c.ID
		}
		p.result.Curves = append(p.result.Curves, curve)
	}
}

func (p *process) curve(c compounds.Compound) Curve {
	own := p.method.shape(c.ID)
	curve := Curve{CompoundID: c.ID, Points: p.points(c, own), LevelFactors: []LevelFactor{}, Line: []LinePoint{}, Limits: []curves.Limit{}, Tests: curves.Diagnostics{Outliers: []curves.LevelOutlier{}}}
	if is, ok := p.against(c.ID); ok {
		curve.Against = is.ID
	}
	if p.method.Curves.Way == ByAddition {
		curve.Additions = p.additions(c)
		return curve
	}
	if e := p.choices.Earlier; e != nil {
		curve.From = &CurveSource{e.BatchID, e.Batch, e.Study, e.MeasuredAt}
		if curve.Problem = p.unlike(e, c.ID); curve.Problem != "" {
			return curve
		}
	}
	curve.Factors, curve.LevelFactors = responseFactors(curve.Points)
	if len(curve.Points) == 0 {
		curve.Problem = "No standard holds it yet."
		return curve
	}
	fit, err := p.fit(curve.Points, own)
	if err != nil {
		curve.Problem = err.Error()
		return curve
	}
	curve.Fit, curve.Tests = &fit, fit.Diagnose()
	curve.Line = line(fit, lowestPositive(curve.Points), highestX(curve.Points))
	curve.limits(own, p.lowEvidence(curve))
	if r, ok := curves.WidestRange(open(curve.Points), own.Model, own.Weight, curves.LeastLevels, p.deviationLimit()); ok {
		curve.Range = &r
	}
	curve.Verdict = p.verdict(curve)
	curve.Blocks = p.blocks(curve.Points, own)
	return curve
}

// fit is the curve through the points that are in use.
func (p *process) fit(list []CurvePoint, own Own) (curves.Fit, error) {
	points := make([]curves.Point, len(list))
	for i, q := range list {
		points[i] = curves.Point{X: q.X, Y: q.Response, Out: q.LeftOut || !q.InRange, Level: &list[i].Content}
	}
	if p.method.Curves.Averaged {
		return curves.NewAveraged(points, own.Model, own.Weight)
	}
	return curves.New(points, own.Model, own.Weight)
}

// open are the points without the range in use, so that a wider one can be proposed.
func open(list []CurvePoint) []curves.Point {
	points := make([]curves.Point, len(list))
	for i, q := range list {
		points[i] = curves.Point{X: q.X, Y: q.Response, Out: q.LeftOut, Level: &list[i].Content}
	}
	return points
}

// usualDeviation is the limit on deviations where the method asks for none, in percent.
const usualDeviation = 20

func (p *process) deviationLimit() float64 {
	if p.method.Checks.Deviation > 0 {
		return p.method.Checks.Deviation
	}
	return usualDeviation
}

// limits takes those that were chosen, or what stands for them.
func (c *Curve) limits(own Own, low curves.LowEvidence) {
	c.Limits = c.Fit.Limits(low)
	if own.Limits != nil {
		lod, loq := own.Limits.LOD, own.Limits.LOQ
		c.LOD, c.LOQ = &lod, &loq
		return
	}
	if c.Fit.Model == curves.OnePoint { // one level says nothing about lower ones
		return
	}
	loq := c.Fit.LowX
	c.LOQ = &loq
	for _, l := range c.Limits {
		if l.Way == curves.ByIntercept && c.Fit.Model == curves.Linear {
			c.LOD = l.LOD
		}
	}
}

// lowEvidence is what the batch knows about the lower end of a curve: the standards in use at its lowest level, and its blanks.
func (p *process) lowEvidence(c Curve) (low curves.LowEvidence) {
	lowest, _ := c.lowestInUse()
	inUse := map[string]bool{}
	for _, q := range lowest {
		low.Replicates = append(low.Replicates, q.Response)
		inUse[q.InjectionID] = !q.Kept
	}
	for i, in := range p.injections {
		injected := &p.result.Injections[i]
		peak := injected.PeakOf(c.CompoundID)
		if peak == nil {
			if in.Role == Blank { // nothing was found: that is zero
				low.Blanks = append(low.Blanks, 0)
			}
			continue
		}
		if sn := peak.SignalToNoise; sn != nil && inUse[in.ID] {
			low.SignalToNoise = append(low.SignalToNoise, *sn)
		}
		if m, _ := p.response(injected, c.CompoundID); in.Role == Blank && m != nil {
			low.Blanks = append(low.Blanks, m.response)
		}
	}
	return low
}

// lowestInUse are the points in use at the lowest level, which is known by its content.
func (c Curve) lowestInUse() (points []CurvePoint, ok bool) {
	for _, q := range c.Points { // by level
		if q.LeftOut || !q.InRange || len(points) > 0 && q.Content != points[0].Content {
			continue
		}
		points = append(points, q)
	}
	return points, len(points) > 0
}

// blocks are the stretches of standards between which other injections lie, each with its own curve.
func (p *process) blocks(points []CurvePoint, own Own) []Block {
	if p.method.Curves.Brackets == "" {
		return nil
	}
	var blocks []Block
	var members []string
	sum := 0.0
	end := func() {
		if len(members) == 0 {
			return
		}
		b := Block{Position: sum / float64(len(members))}
		var mine []CurvePoint
		for _, q := range points {
			if slices.Contains(members, q.InjectionID) || q.Kept {
				mine = append(mine, q)
			}
		}
		if fit, err := p.fit(mine, own); err != nil {
			b.Problem = err.Error()
		} else {
			b.Fit = &fit
		}
		blocks, members, sum = append(blocks, b), nil, 0
	}
	for i, in := range p.injections {
		switch in.Role {
		case Standard:
			members, sum = append(members, in.ID), sum+float64(i)
		case Sample, Check:
			end()
		}
	}
	end()
	return blocks
}

// additions are the standard additions of one compound, one for each sample name.
func (p *process) additions(c compounds.Compound) []SampleAddition {
	var names []string
	points := map[string][]curves.Point{}
	for i, in := range p.injections {
		if in.Role != Sample {
			continue
		}
		m, _ := p.response(&p.result.Injections[i], c.ID)
		if !slices.Contains(names, in.Name) {
			names = append(names, in.Name)
		}
		if m == nil {
			continue
		}
		added := 0.0
		if in.Added != nil {
			added = *in.Added
		}
		// At the method's amount of internal standard, as additions and all other injections are.
		points[in.Name] = append(points[in.Name], curves.Point{X: added, Y: m.response * p.internalRatio(in.Entry, c.ID), Level: &added})
	}
	list := make([]SampleAddition, len(names))
	for i, name := range names {
		list[i].Name = name
		if a, err := curves.StandardAddition(points[name], p.method.shape(c.ID).Weight); err != nil {
			list[i].Problem = err.Error()
		} else {
			list[i].Addition = &a
		}
	}
	return list
}

// line samples a curve for drawing, in even steps of the root, and as densely in even steps of the logarithm down to half the lowest level, so that it is
// whole on either axis.
func line(fit curves.Fit, lowest, highest float64) []LinePoint {
	const pieces = 80
	var at []float64
	for i := range pieces + 1 {
		f := float64(i) / pieces
		at = append(at, 1.1*highest*f*f)
		if lowest > 0 && highest > lowest {
			at = append(at, lowest/2*math.Pow(2.2*highest/lowest, f))
		}
	}
	slices.Sort(at)
	var list []LinePoint
	for _, x := range slices.Compact(at) {
		if fit.Model == curves.LogLog && x == 0 {
			continue
		}
		p := LinePoint{X: x, Y: fit.At(x)}
		if x >= fit.LowX && x <= fit.HighX {
			p.Band = fit.Band(x)
		}
		list = append(list, p)
	}
	return list
}

// lowestPositive is the lowest level above zero, or 0.
func lowestPositive(points []CurvePoint) float64 {
	lowest := 0.0
	for _, q := range points {
		if q.X > 0 && (lowest == 0 || q.X < lowest) {
			lowest = q.X
		}
	}
	return lowest
}

// highestX is the greatest x of points.
func highestX(points []CurvePoint) float64 {
	highest := math.Inf(-1)
	for _, q := range points {
		highest = max(highest, q.X)
	}
	return highest
}

// points are the standards that hold the compound, by what they hold and then in run order; kept levels as they were once measured, and all of them where
// the curve is that of an earlier batch.
func (p *process) points(c compounds.Compound, own Own) []CurvePoint {
	list := []CurvePoint{}
	levels, left := p.choices.Levels[c.ID], p.choices.LeftOut[c.ID]
	place := func(q CurvePoint) {
		q.InRange = (own.LowX == nil || q.Content >= *own.LowX) && (own.HighX == nil || q.Content <= *own.HighX)
		if i := slices.IndexFunc(left, func(o LeftOut) bool { return o.InjectionID == q.InjectionID }); i >= 0 {
			q.LeftOut, q.Reason = true, left[i].Reason
		}
		list = append(list, q)
	}
	keep := func(level float64, k KeptPoint, from string) CurvePoint {
		q := CurvePoint{InjectionID: k.InjectionID, Level: level, Content: level, X: k.X, Response: k.Response, Measure: k.Measure, Kept: true, KeptFrom: from}
		if k.Content != nil {
			q.Content = *k.Content
		}
		return q
	}
	if e := p.choices.Earlier; e != nil {
		for _, k := range e.Curves[c.ID] {
			q := keep(k.Level, k.KeptPoint, e.Batch)
			q.LeftOut, q.Reason = k.LeftOut != "", k.LeftOut
			place(q)
		}
	} else {
		p.ownPoints(c, levels, place)
	}
	for _, s := range levels {
		for _, k := range s.Kept {
			if s.State == LevelKept && p.choices.Earlier == nil {
				place(keep(s.Level, k, s.From))
			}
		}
	}
	slices.SortStableFunc(list, func(a, b CurvePoint) int {
		return cmp.Or(cmp.Compare(a.Content, b.Content), cmp.Compare(a.Level, b.Level))
	})
	return list
}

// ownPoints are the standards of this batch; those of a kept level give way to what was kept.
func (p *process) ownPoints(c compounds.Compound, levels []LevelState, place func(CurvePoint)) {
	for i, in := range p.injections {
		content, held := p.holds(in.Entry, c)
		if in.Role != Standard || !held {
			continue
		}
		m, _ := p.response(&p.result.Injections[i], c.ID)
		k := slices.IndexFunc(levels, func(l LevelState) bool { return l.Level == *in.Level })
		if m == nil || k >= 0 && levels[k].State == LevelKept {
			continue
		}
		// At the method's amount of internal standard: the curve is one of ratios, of amounts as of responses.
		q := CurvePoint{InjectionID: in.ID, Level: *in.Level, Content: content, X: content / p.internalRatio(in.Entry, c.ID), Response: m.response, Measure: m.measure}
		if k >= 0 {
			q.LeftOut, q.Reason = true, levels[k].Reason
		}
		if d := p.doubtedBy(i, c.ID); d != nil {
			q.LeftOut, q.Reason = true, d.Says
		}
		place(q)
	}
}

// peakResponse is what the peaks of an injection give for a compound.
type peakResponse struct {
	response float64    // over the internal standard's, where the compound is read against one
	measure  float64    // area or height alone
	standard *NamedPeak // the internal standard's peak, or nil
}

// response is the area or height of a compound, over that of the internal standard that it is read against. Without a peak it is nil; where it cannot
// be had the second value says why.
func (p *process) response(in *Injected, compoundID string) (*peakResponse, string) {
	peak := in.PeakOf(compoundID)
	if peak == nil {
		return nil, ""
	}
	m := peakResponse{measure: p.measure(peak)}
	m.response = m.measure
	if is, ok := p.against(compoundID); ok {
		if m.standard = in.PeakOf(is.ID); m.standard == nil {
			return nil, fmt.Sprintf("The internal standard %s was not found in this injection.", is.Name)
		}
		m.response /= p.measure(m.standard)
	}
	return &m, ""
}

func (p *process) measure(peak *NamedPeak) float64 {
	if p.method.Curves.Response == Height {
		return peak.Height
	}
	return peak.AreaS
}

// responseFactors are response over content of the points in use, together and level by level.
func responseFactors(points []CurvePoint) (amounts.Statistics, []LevelFactor) {
	var all []float64
	levels := []LevelFactor{}
	counts := []float64{}
	for _, q := range points {
		if q.LeftOut || !q.InRange || q.X <= 0 {
			continue
		}
		all = append(all, q.Response/q.X)
		k := slices.IndexFunc(levels, func(l LevelFactor) bool { return l.Level == q.Level })
		if k < 0 {
			k, levels, counts = len(levels), append(levels, LevelFactor{Level: q.Level}), append(counts, 0)
		}
		counts[k]++
		levels[k].Mean += (q.Response/q.X - levels[k].Mean) / counts[k]
	}
	return amounts.Summarise(all), levels
}

func number(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
