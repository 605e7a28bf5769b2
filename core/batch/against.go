package batch

import (
	"math"

	"yugen/core/compounds"
)

// AgainstRow is how well one target is read against each internal standard, and against none: the reason to choose.
type AgainstRow struct {
	CompoundID string `json:"compound_id"`
	// Chosen is the internal standard that the target is read against, or "none"; Named tells whether the method names it, or it is the nearest.
	Chosen string         `json:"chosen"`
	Named  bool           `json:"named"`
	Ways   []AgainstOther `json:"ways"` // in order of retention, none last
}

// AgainstOther is one internal standard, or "none".
type AgainstOther struct {
	StandardID string `json:"standard_id"`
	// RSD is the pooled relative standard deviation of replicates, in percent; nil where there are none.
	RSD     *float64 `json:"rsd_percent"`
	Freedom int      `json:"degrees_of_freedom"`
}

// AgainstTable tells for every target and internal standard how much replicates scatter: those of standards, checks and samples that share name, role and
// level, with the squares of their relative standard deviations pooled by degrees of freedom.
func AgainstTable(in Input, r Result) []AgainstRow {
	p := newProcess(in)
	p.result = r
	groups := p.replicateGroups()
	standards := p.method.InternalStandards()
	rows := []AgainstRow{}
	for _, c := range p.method.Targets() {
		row := AgainstRow{CompoundID: c.ID, Chosen: External, Named: c.Against != ""}
		if is, ok := p.against(c.ID); ok {
			row.Chosen = is.ID
		}
		for _, is := range standards {
			row.Ways = append(row.Ways, p.scatterAgainst(c, &is, groups))
		}
		row.Ways = append(row.Ways, p.scatterAgainst(c, nil, groups))
		rows = append(rows, row)
	}
	return rows
}

// replicateGroups are the injections that should give the same response, by their places in the run.
func (p *process) replicateGroups() [][]int {
	type key struct {
		name     string
		role     Role
		level    float64
		dilution float64
	}
	index := map[key]int{}
	var groups [][]int
	for i, in := range p.injections {
		if in.Role == Blank || in.Role == NoRole {
			continue
		}
		k := key{in.Name, in.Role, -1, in.Dilution}
		if in.Level != nil {
			k.level = *in.Level
		}
		if in.Role == Standard && in.Level != nil {
			k.name = ""
		}
		at, known := index[k]
		if !known {
			at = len(groups)
			index[k], groups = at, append(groups, nil)
		}
		groups[at] = append(groups[at], i)
	}
	return groups
}

// scatterAgainst pools the scatter of a target's responses over groups of replicates; a nil standard leaves them as they are.
func (p *process) scatterAgainst(c compounds.Compound, is *compounds.Compound, groups [][]int) AgainstOther {
	out := AgainstOther{StandardID: External}
	if is != nil {
		out.StandardID = is.ID
	}
	squares := 0.0
	for _, group := range groups {
		sum, sum2, n := 0.0, 0.0, 0.0
		for _, i := range group {
			in := &p.result.Injections[i]
			peak := in.PeakOf(c.ID)
			if peak == nil {
				continue
			}
			v := p.measure(peak)
			if is != nil {
				standard := in.PeakOf(is.ID)
				if standard == nil || p.measure(standard) == 0 {
					continue
				}
				v *= p.internalAmount(p.injections[i].Entry, *is) / is.Amount / p.measure(standard)
			}
			sum, sum2, n = sum+v, sum2+v*v, n+1
		}
		if mean := sum / n; n > 1 && mean != 0 {
			squares += max(0, sum2-n*mean*mean) / (mean * mean)
			out.Freedom += int(n) - 1
		}
	}
	if out.Freedom > 0 {
		rsd := 100 * math.Sqrt(squares/float64(out.Freedom))
		out.RSD = &rsd
	}
	return out
}
