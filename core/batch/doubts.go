package batch

import (
	"fmt"
	"slices"
	"strings"

	"yugen/core/checks"
	"yugen/core/compounds"
)

// Doubt is a stretch of a run in which something went wrong with the instrument. What eluted in it counts in no mean and no curve until somebody takes it as it is.
type Doubt struct {
	FromMin float64 `json:"from_min"`
	ToMin   float64 `json:"to_min"`
	Says    string  `json:"says"`
	// Taken is why somebody takes it as it is; empty while it is in doubt.
	Taken string `json:"taken,omitempty"`
}

// doubtOf is what is wrong with a compound in an injection: its peak, or where it has none the time it is expected at, lies in a stretch that is in doubt; nil where
// nothing is.
func (p *process) doubtOf(i int, compoundID string) *Doubt {
	for k, d := range p.injections[i].Doubts {
		if d.Taken != "" {
			continue
		}
		if peak := p.result.Injections[i].PeakOf(compoundID); peak != nil {
			if peak.EndMin > d.FromMin && peak.StartMin < d.ToMin {
				return &p.injections[i].Doubts[k]
			}
			continue
		}
		at := slices.IndexFunc(p.method.Compounds, func(c compounds.Compound) bool { return c.ID == compoundID })
		if at >= 0 && p.method.Compounds[at].ExpectedMin > d.FromMin && p.method.Compounds[at].ExpectedMin < d.ToMin {
			return &p.injections[i].Doubts[k]
		}
	}
	return nil
}

// doubtful flags readings that are in doubt, with those that are read against a doubtful internal standard.
func (p *process) doubtful() {
	for i, in := range p.injections {
		if len(in.Doubts) == 0 {
			continue
		}
		for _, c := range p.result.Curves {
			if p.doubtedBy(i, c.CompoundID) == nil {
				continue
			}
			r := p.result.Injections[i].Readings[c.CompoundID]
			r.Flags = append(r.Flags, Doubtful)
			p.result.Injections[i].Readings[c.CompoundID] = r
		}
	}
}

// doubtedBy is what is wrong with a compound, with the internal standard that it is read against, or with any part of the total that it is a share of.
func (p *process) doubtedBy(i int, compoundID string) *Doubt {
	if d := p.doubtOf(i, compoundID); d != nil {
		return d
	}
	if is, ok := p.against(compoundID); ok {
		if d := p.doubtOf(i, is.ID); d != nil {
			return d
		}
	}
	if p.method.Amounts.PercentOfTotal && p.injections[i].Role == Sample {
		for _, c := range p.method.Targets() {
			if d := p.doubtOf(i, c.ID); d != nil {
				return d
			}
		}
	}
	return nil
}

// inMeans tells whether a reading has an amount that counts in means.
func (r Reading) inMeans() bool { return r.Amount != nil && !slices.Contains(r.Flags, Doubtful) }

// judgeDoubts tells of each injection that is in doubt, and of which compounds: one notice, however many stretches.
func (p *process) judgeDoubts() {
	for i, in := range p.injections {
		var parts []string
		doubtful := false
		for _, d := range in.Doubts {
			if d.Taken != "" {
				continue
			}
			doubtful = true
			var names []string
			for _, c := range p.method.Compounds {
				if by := p.doubtOf(i, c.ID); by != nil && *by == d {
					names = append(names, c.Name)
				}
			}
			part := fmt.Sprintf("%s, from %.2f min", d.Says, d.FromMin)
			if len(names) > 0 {
				part += " (" + strings.Join(names, ", ") + ")"
			}
			parts = append(parts, part)
		}
		if doubtful {
			p.notice(checks.New(checks.Doubted, checks.Decide, checks.Results, in.ID, "", p.replicateName(i), strings.Join(parts, "; ")+". It stays out of means until it is run again or taken as it is"))
		}
	}
}
