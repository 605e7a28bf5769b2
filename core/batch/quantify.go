package batch

import (
	"fmt"
)

// quantify reads every target in every injection from its curve, turns it into the reported amount, and summarises
// replicates.
func (p *process) quantify() {
	for i := range p.injections {
		for _, c := range p.result.Curves {
			p.result.Injections[i].Readings[c.CompoundID] = p.reading(i, c)
		}
	}
	p.shares()
	p.recoveries()
	p.driftFlags()
	p.samples()
}

// recoveries compares each check with its nominal content.
func (p *process) recoveries() {
	p.result.Checks = []CheckRow{}
	for i, in := range p.injections {
		if in.Role != Check || in.Level == nil || *in.Level == 0 {
			continue
		}
		for _, c := range p.result.Curves {
			r := p.result.Injections[i].Readings[c.CompoundID]
			if r.Concentration == nil {
				continue
			}
			percent, outside := p.method.Checks.RecoveryOutside(*r.Concentration, *in.Level)
			r.Recovery = &percent
			p.result.Injections[i].Readings[c.CompoundID] = r
			p.result.Checks = append(p.result.Checks, CheckRow{in.ID, c.CompoundID, percent, outside})
		}
	}
}

// driftFlags marks the samples that stand next to a check outside its limits: a sample is only as good as the checks
// before and after it.
func (p *process) driftFlags() {
	outside := map[[2]string]bool{}
	for _, c := range p.result.Checks {
		outside[[2]string{c.InjectionID, c.CompoundID}] = c.Outside
	}
	for i, in := range p.injections {
		if in.Role != Sample {
			continue
		}
		for id, r := range p.result.Injections[i].Readings {
			if r.Concentration != nil && (outside[[2]string{p.checkFrom(i, -1), id}] || outside[[2]string{p.checkFrom(i, 1), id}]) {
				r.Flags = append(r.Flags, CheckDrift)
				p.result.Injections[i].Readings[id] = r
			}
		}
	}
}

// checkFrom is the id of the first check before (-1) or after (1) an injection, or "".
func (p *process) checkFrom(i, dir int) string {
	for i += dir; i >= 0 && i < len(p.injections); i += dir {
		if p.injections[i].Role == Check {
			return p.injections[i].ID
		}
	}
	return ""
}

func (p *process) replicateName(i int) string {
	in := p.injections[i]
	of, at := 0, 0
	for k, other := range p.injections {
		if other.Name == in.Name && other.Role == in.Role {
			of++
			if k <= i {
				at++
			}
		}
	}
	if of < 2 {
		return in.Name
	}
	return fmt.Sprintf("%s %d of %d", in.Name, at, of)
}
