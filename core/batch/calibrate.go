package batch

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"

	"yugen/core/compounds"
	"yugen/core/curves"
)

// calibrate makes a curve for each target from the standards in which it was found; then those that stand on another's.
func (p *process) calibrate() {
	p.result.Curves = []Curve{}
	own := map[string]Curve{}
	for _, c := range p.method.Targets() {
		if p.method.Curves.Own[c.ID].RelativeTo == "" {
			own[c.ID] = p.curve(c)
		}
	}
	for _, c := range p.method.Targets() {
		curve, ok := own[c.ID]
		if !ok {
			curve = own[p.method.Curves.Own[c.ID].RelativeTo]
			curve.RelativeTo, curve.CompoundID = curve.CompoundID, c.ID
		}
		p.result.Curves = append(p.result.Curves, curve)
	}
}

func (p *process) curve(c compounds.Compound) Curve {
	own := p.method.shape(c.ID)
	curve := Curve{CompoundID: c.ID, Points: p.points(c, own), Line: []LinePoint{}, Limits: []curves.Limit{}, Tests: curves.Diagnostics{Outliers: []curves.LevelOutlier{}}}
	if p.method.Curves.Way == ByAddition {
		curve.Additions = p.additions(c)
		return curve
	}
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
	curve.Line = line(fit, lowestPositive(curve.Points), curve.Points[len(curve.Points)-1].X)
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
		points[i] = curves.Point{X: q.X, Y: q.Response, Out: q.LeftOut || !q.InRange, Level: &list[i].Level}
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
		points[i] = curves.Point{X: q.X, Y: q.Response, Out: q.LeftOut, Level: &list[i].Level}
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
		peak := injected.peak(c.CompoundID)
		if peak == nil {
			if in.Role == Blank { // nothing was found: that is zero
				low.Blanks = append(low.Blanks, 0)
			}
			continue
		}
		if sn := peak.SignalToNoise; sn != nil && inUse[in.ID] {
			low.SignalToNoise = append(low.SignalToNoise, *sn)
		}
		if response, _ := p.response(injected, c.CompoundID); in.Role == Blank && response != nil {
			low.Blanks = append(low.Blanks, *response)
		}
	}
	return low
}

// lowestInUse are the points in use at the lowest level, which is known by its nominal value.
func (c Curve) lowestInUse() (points []CurvePoint, ok bool) {
	for _, q := range c.Points { // by level
		if q.LeftOut || !q.InRange || len(points) > 0 && q.Level != points[0].Level {
			continue
		}
		points = append(points, q)
	}
	return points, len(points) > 0
}

// scaledLevel is the level at the method's amount of internal standard: the curve is one of ratios, of amounts as of responses.
func (p *process) scaledLevel(e Entry) float64 { return *e.Level / p.internalRatio(e) }

// internalRatio is the amount of internal standard in an injection over that of the method.
func (p *process) internalRatio(e Entry) float64 {
	is, ok := p.method.InternalStandard()
	if !ok || e.Internal == nil {
		return 1
	}
	return *e.Internal / is.Amount
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
		response, _ := p.response(&p.result.Injections[i], c.ID)
		if !slices.Contains(names, in.Name) {
			names = append(names, in.Name)
		}
		if response == nil {
			continue
		}
		added := 0.0
		if in.Added != nil {
			added = *in.Added
		}
		// At the method's amount of internal standard, as additions and all other injections are.
		points[in.Name] = append(points[in.Name], curves.Point{X: added, Y: *response * p.internalRatio(in.Entry), Level: &added})
	}
	list := make([]SampleAddition, len(names))
	for i, name := range names {
		list[i].Name = name
		if a, err := curves.StandardAddition(points[name]); err != nil {
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

// points are the standards that hold the compound, by level and then in run order; kept levels as they were once measured.
func (p *process) points(c compounds.Compound, own Own) []CurvePoint {
	list := []CurvePoint{}
	state := func(level float64) *LevelState {
		for i := range own.Levels {
			if own.Levels[i].Level == level {
				return &own.Levels[i]
			}
		}
		return nil
	}
	place := func(q CurvePoint) {
		q.InRange = (own.LowX == nil || q.Level >= *own.LowX) && (own.HighX == nil || q.Level <= *own.HighX)
		for _, out := range own.LeftOut {
			if out.InjectionID == q.InjectionID {
				q.LeftOut, q.Reason = true, out.Reason
			}
		}
		list = append(list, q)
	}
	for i, in := range p.injections {
		if in.Role != Standard || in.Level == nil || in.Mix != "" && c.Mix != "" && in.Mix != c.Mix {
			continue
		}
		response, _ := p.response(&p.result.Injections[i], c.ID)
		s := state(*in.Level)
		if response == nil || s != nil && s.State == LevelKept {
			continue
		}
		q := CurvePoint{InjectionID: in.ID, Level: *in.Level, X: p.scaledLevel(in.Entry), Response: *response}
		if s != nil {
			q.LeftOut, q.Reason = true, s.Reason
		}
		place(q)
	}
	for _, s := range own.Levels {
		for _, k := range s.Kept {
			if s.State == LevelKept {
				place(CurvePoint{InjectionID: k.InjectionID, Level: s.Level, X: k.X, Response: k.Response, Kept: true, KeptFrom: s.From})
			}
		}
	}
	slices.SortStableFunc(list, func(a, b CurvePoint) int { return cmp.Compare(a.Level, b.Level) })
	return list
}

// response is the area or height of a compound, over that of the internal standard where the method has one. Where it
// cannot be had the second value says why.
func (p *process) response(in *Injected, compoundID string) (*float64, string) {
	peak := in.peak(compoundID)
	if peak == nil {
		return nil, ""
	}
	r := p.measure(peak)
	if is, ok := p.method.InternalStandard(); ok {
		standard := in.peak(is.ID)
		if standard == nil {
			return nil, fmt.Sprintf("The internal standard %s was not found in this injection.", is.Name)
		}
		r /= p.measure(standard)
	}
	return &r, ""
}

func (p *process) measure(peak *NamedPeak) float64 {
	if p.method.Curves.Response == Height {
		return peak.Height
	}
	return peak.AreaS
}

func number(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
