package peaks

import (
	"math"
	"slices"

	"yugen/core/signal"
)

// Proposal is another way to part peaks in a stretch where drops serve badly, and by how much it changes the area that it changes most.
type Proposal struct {
	FromMin           float64   `json:"from_min"`
	ToMin             float64   `json:"to_min"`
	PartBy            SplitKind `json:"part_by"`
	ApexMin           float64   `json:"apex_min"` // of the peak whose area changes most
	AreaChangePercent float64   `json:"area_change_percent"`
	Reason            string    `json:"reason"`
}

const (
	// poorResolution is the resolution below which a drop gives much of one peak to another.
	poorResolution = 1.05
	// riderShare is the height of a peak, in parts of the one beside it, below which it rides on it.
	riderShare = 0.15
	// leastChange is what a proposal must change an area by, in percent and in standard uncertainties of the area as it is.
	leastChange = 1
	// leastFit and mostFitError are what a fit must explain, and how uncertain an area of it may be, to be proposed.
	leastFit     = 0.999
	mostFitError = 0.1
)

// Propose finds the stretches where drops part peaks that a fit or a skim parts better: pairs of poor resolution, and small peaks that ride on large ones.
// Nothing is proposed where a hand or a rule has said how to part, nor where it would change little.
func Propose(tr signal.Trace, s Settings, edits []Edit, expected *Estimate) ([]Proposal, error) {
	before, err := FindExpecting(tr, s, edits, expected)
	if err != nil {
		return nil, err
	}
	all := []Proposal{}
	for from := 0; from < len(before.Peaks); {
		to := from
		for to+1 < len(before.Peaks) && before.Peaks[to].EndKind == Drop && before.Peaks[to+1].StartKind == Drop && before.Peaks[to].EndMin == before.Peaks[to+1].StartMin {
			to++
		}
		cluster := before.Peaks[from : to+1]
		if reason := servedBadly(cluster); reason != "" && !partedByRule(s, cluster) {
			if p, ok := bestParting(tr, s, edits, expected, cluster, reason); ok {
				all = append(all, p)
			}
		}
		from = to + 1
	}
	return all, nil
}

// servedBadly says why drops do not serve a cluster, or nothing.
func servedBadly(cluster []Peak) string {
	for i := 1; i < len(cluster); i++ {
		a, b := cluster[i-1], cluster[i]
		if min(a.Height, b.Height) < riderShare*max(a.Height, b.Height) {
			return "a small peak rides on a large one"
		}
		if hasFlag(a, Shoulder) || hasFlag(b, Shoulder) {
			return "a shoulder has no valley"
		}
		if r := resolution(a, b); r != nil && *r < poorResolution || r == nil {
			return "the peaks overlap much"
		}
	}
	return ""
}

func hasFlag(p Peak, f Flag) bool { return slices.Contains(p.Flags, f) }

func partedByRule(s Settings, cluster []Peak) bool {
	for _, p := range cluster[1:] {
		if s.ruled(Part, p.StartMin) {
			return true
		}
	}
	return false
}

// bestParting tries a fit, and where none holds a skim, and says what changes.
func bestParting(tr signal.Trace, s Settings, edits []Edit, expected *Estimate, cluster []Peak, reason string) (Proposal, bool) {
	p := Proposal{FromMin: cluster[0].ApexMin, ToMin: cluster[len(cluster)-1].ApexMin, Reason: reason}
	for _, how := range []SplitKind{ByFit, ByExponential, ByTangent} {
		tried := s
		tried.TimeRules = append(slices.Clone(s.TimeRules), TimeRule{Kind: Part, FromMin: p.FromMin, ToMin: p.ToMin, How: how})
		after, err := FindExpecting(tr, tried, edits, expected)
		if err != nil {
			continue
		}
		change, at, ok := changeOf(cluster, after.Peaks, how)
		if !ok {
			continue
		}
		p.PartBy, p.AreaChangePercent, p.ApexMin = how, change, at
		return p, math.Abs(change) >= leastChange
	}
	return p, false
}

// changeOf is the greatest change of an area, in percent; not ok where a peak is gone, or the way to part did not come about.
func changeOf(cluster, after []Peak, how SplitKind) (percent, apexMin float64, ok bool) {
	came := false
	for _, p := range cluster {
		q := nearestPeak(after, p.ApexMin)
		if q == nil || math.Abs(q.ApexMin-p.ApexMin) > (p.EndMin-p.StartMin)/2 {
			return 0, 0, false
		}
		switch how {
		case ByFit:
			if q.Shape == nil || q.Shape.RSquared < leastFit || q.AreaSE > mostFitError*q.AreaS {
				return 0, 0, false
			}
			came = true
		default:
			came = came || q.StartKind == Skim && !hasFlag(*q, StraightSkim)
		}
		if c := 100 * (q.AreaS/p.AreaS - 1); math.Abs(c) > math.Abs(percent) {
			percent, apexMin = c, p.ApexMin
		}
	}
	return percent, apexMin, came
}

func nearestPeak(all []Peak, apexMin float64) *Peak {
	var best *Peak
	for i := range all {
		if best == nil || math.Abs(all[i].ApexMin-apexMin) < math.Abs(best.ApexMin-apexMin) {
			best = &all[i]
		}
	}
	return best
}
