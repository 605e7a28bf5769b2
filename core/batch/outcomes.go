package batch

import (
	"fmt"
	"math"
	"slices"

	"yugen/core/amounts"
	"yugen/core/checks"
	"yugen/core/compounds"
)

// outcomes are all checks with their numbers, passed or not: the worst of each kind for each compound.
func (p *process) outcomes() {
	p.result.Outcomes = []checks.Outcome{}
	l := p.method.Checks
	for _, c := range p.method.Targets() {
		p.recoveryOutcome(c, l)
		p.blankOutcome(c, l)
		p.spreadOutcome(c, l)
		p.deviationOutcome(c, l)
		p.resolutionOutcome(c)
	}
	p.internalOutcome(l)
	p.suitability()
}

// outcome keeps what was judged: what the method asks nothing of is no check.
func (p *process) outcome(o checks.Outcome) {
	if o.Count > 0 && (o.Low != nil || o.High != nil) {
		p.result.Outcomes = append(p.result.Outcomes, o)
	}
}

// asked is a limit, or nil where it is 0.
func asked(limit float64) *float64 {
	if limit == 0 {
		return nil
	}
	return &limit
}

func (p *process) recoveryOutcome(c compounds.Compound, l checks.Limits) {
	o := checks.Outcome{Kind: checks.Recovery, Measure: "recovery of checks", CompoundID: c.ID, Unit: "%", Low: asked(l.RecoveryLow), High: asked(l.RecoveryHigh)}
	for _, row := range p.result.Checks {
		if row.CompoundID == c.ID {
			o.Worst(row.Recovery, row.InjectionID)
		}
	}
	p.outcome(o)
}

func (p *process) blankOutcome(c compounds.Compound, l checks.Limits) {
	i := slices.IndexFunc(p.result.Curves, func(q Curve) bool { return q.CompoundID == c.ID })
	lowest, ok := p.lowestMeasure(p.result.Curves[i])
	if !ok {
		return
	}
	o := checks.Outcome{Kind: checks.CarryOver, Measure: "blanks, of the lowest level", CompoundID: c.ID, Unit: "%", High: asked(l.Blank)}
	for i, in := range p.injections {
		if in.Role != Blank {
			continue
		}
		percent := 0.0
		if peak := p.result.Injections[i].PeakOf(c.ID); peak != nil {
			percent = 100 * p.measure(peak) / lowest
		}
		o.Worst(percent, in.ID)
	}
	p.outcome(o)
}

func (p *process) spreadOutcome(c compounds.Compound, l checks.Limits) {
	o := checks.Outcome{Kind: checks.Spread, Measure: "RSD of replicates", CompoundID: c.ID, Unit: "%", High: asked(l.ReplicateRSD)}
	for _, s := range p.result.Samples {
		if v := s.Values[c.ID]; v.RSD != nil && !slices.Contains(v.Flags, BelowRange) && !slices.Contains(v.Flags, NotDetected) {
			o.Worst(*v.RSD, s.InjectionIDs[0])
		}
	}
	p.outcome(o)
}

func (p *process) deviationOutcome(c compounds.Compound, l checks.Limits) {
	for _, q := range p.result.Curves {
		if q.CompoundID == c.ID && q.Verdict.Largest != nil {
			o := checks.Outcome{Kind: checks.LevelOff, Measure: "largest deviation of a level", CompoundID: c.ID, Unit: "%", High: asked(l.Deviation)}
			o.Worst(math.Abs(*q.Verdict.Largest), "")
			p.outcome(o)
		}
	}
}

func (p *process) resolutionOutcome(c compounds.Compound) {
	if c.MinResolution == 0 {
		return
	}
	to := "the previous peak"
	if c.ResolutionTo != "" {
		to = p.compoundName(c.ResolutionTo)
	}
	o := checks.Outcome{Kind: checks.LowResolution, Measure: "resolution to " + to, CompoundID: c.ID, Low: asked(c.MinResolution)}
	for i := range p.result.Injections {
		if r := p.result.Injections[i].resolution(c); r != nil {
			o.Worst(*r, p.injections[i].ID)
		}
	}
	p.outcome(o)
}

func (p *process) internalOutcome(l checks.Limits) {
	if l.InternalStandard == 0 {
		return
	}
	for _, is := range p.method.InternalStandards() {
		low, high := -l.InternalStandard, l.InternalStandard
		o := checks.Outcome{Kind: checks.InternalDrift, Measure: "internal standard, from its mean", CompoundID: is.ID, Unit: "%", Low: &low, High: &high}
		for i := range p.result.Injections {
			if percent, ok := p.result.Injections[i].InternalStandards[is.ID]; ok {
				o.Worst(percent, p.injections[i].ID)
			}
		}
		p.outcome(o)
	}
}

// suitability judges the suitability injections by the method's limits; each failure is a notice.
func (p *process) suitability() {
	limits := p.method.Checks.Suitability
	if len(limits) == 0 {
		return
	}
	if !slices.ContainsFunc(p.injections, func(in Injection) bool { return in.Role == Suitability }) {
		p.notice(checks.New(checks.Unsuitable, checks.Decide, checks.Batch, "", "", "Suitability", "the method asks for it, but no injection has that role"))
		return
	}
	for _, limit := range limits {
		for _, c := range p.method.Compounds {
			if limit.CompoundID == "" || limit.CompoundID == c.ID {
				p.suitable(limit, c)
			}
		}
	}
}

func (p *process) suitable(limit checks.Suitability, c compounds.Compound) {
	o := checks.Outcome{Kind: checks.Unsuitable, Measure: measureWords[limit.Measure], CompoundID: c.ID, Low: limit.Low, High: limit.High}
	var spread []float64
	first := ""
	for i, in := range p.injections {
		peak := p.result.Injections[i].PeakOf(c.ID)
		if in.Role != Suitability || peak == nil {
			continue
		}
		if first == "" {
			first = in.ID
		}
		switch limit.Measure {
		case checks.AreaRSD:
			spread = append(spread, peak.AreaS)
		case checks.RetentionRSD:
			spread = append(spread, peak.ApexMin)
		default:
			if v := suitabilityValue(peak, limit.Measure); v != nil {
				o.Worst(*v, in.ID)
			}
		}
	}
	if rsd := amounts.Summarise(spread).RSD; rsd != nil {
		o.Unit = "%"
		o.Worst(*rsd, first)
	}
	p.outcome(o)
	if !o.Passed() {
		p.notice(checks.New(checks.Unsuitable+"_"+checks.Kind(limit.Measure), checks.Decide, checks.Peaks, o.InjectionID, c.ID, c.Name,
			fmt.Sprintf("%s is %s%s, the limit is %s", o.Measure, Significant(o.Value, 3), unitAfter(o.Unit), limitWords(limit))))
	}
}

var measureWords = map[checks.Measure]string{
	checks.Tailing: "tailing", checks.Plates: "plates", checks.Resolution: "resolution", checks.SignalToNoise: "signal-to-noise",
	checks.AreaRSD: "RSD of the area", checks.RetentionRSD: "RSD of the retention time",
}

func suitabilityValue(peak *NamedPeak, m checks.Measure) *float64 {
	switch m {
	case checks.Tailing:
		return peak.Tailing
	case checks.Plates:
		return peak.Plates
	case checks.Resolution:
		return peak.Resolution
	}
	return peak.SignalToNoise
}

func unitAfter(unit string) string {
	if unit == "" {
		return ""
	}
	return " " + unit
}

func limitWords(l checks.Suitability) string {
	switch {
	case l.Low == nil:
		return "at most " + number(*l.High)
	case l.High == nil:
		return "at least " + number(*l.Low)
	}
	return number(*l.Low) + " to " + number(*l.High)
}
