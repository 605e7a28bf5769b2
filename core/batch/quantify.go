package batch

import (
	"fmt"
	"slices"
	"strings"
)

// quantify reads every target in every injection from its curve, turns it into the reported amount, and summarises
// replicates.
func (p *process) quantify() {
	p.readAll(func(e Entry) bool { return e.Role == Blank })
	p.takeOff()
	p.readAll(func(e Entry) bool { return e.Role != Blank })
	p.doubtful()
	p.shares()
	p.recoveries()
	p.driftFlags()
	p.samples()
}

// readAll reads every target in some of the injections.
func (p *process) readAll(of func(Entry) bool) {
	for i, in := range p.injections {
		if !of(in.Entry) {
			continue
		}
		for _, c := range p.result.Curves {
			p.result.Injections[i].Readings[c.CompoundID] = p.reading(i, c)
		}
	}
}

// recoveries compares each check with what was put in.
func (p *process) recoveries() {
	p.result.Checks = []CheckRow{}
	for i, in := range p.injections {
		for _, c := range p.result.Curves {
			r := p.result.Injections[i].Readings[c.CompoundID]
			nominal, held := p.checkContent(in.Entry, c.CompoundID)
			if !held || r.Concentration == nil || slices.Contains(r.Flags, Doubtful) {
				continue
			}
			percent, outside := p.method.Checks.RecoveryOutside(*r.Concentration, nominal)
			r.Recovery = &percent
			if p.hears(i, c.CompoundID) {
				p.tellRecovery(i, *r.Concentration, nominal, percent)
			}
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

// checkContent is what a check holds of a compound, above nothing.
func (p *process) checkContent(e Entry, compoundID string) (content float64, held bool) {
	if e.Role != Check {
		return 0, false
	}
	for _, c := range p.method.Compounds {
		if c.ID == compoundID {
			content, held = p.holds(e, c)
			return content, held && content > 0
		}
	}
	return 0, false
}

func (p *process) replicateName(i int) string {
	if p.ordinals == nil {
		p.ordinals = Replicates(len(p.injections), func(k int) Entry { return p.injections[k].Entry })
	}
	return strings.TrimSpace(p.injections[i].Name + " " + p.ordinals[i])
}

// Replicates says of each of n injections which replicate it is, as "2 of 3", where it shares name and role with others, else "".
func Replicates(n int, entry func(k int) Entry) []string {
	type key struct {
		name string
		role Role
	}
	of := func(k int) key { return key{entry(k).Name, entry(k).Role} }
	counts, seen := map[key]int{}, map[key]int{}
	for k := range n {
		counts[of(k)]++
	}
	list := make([]string, n)
	for k := range n {
		seen[of(k)]++
		if counts[of(k)] > 1 {
			list[k] = fmt.Sprintf("%d of %d", seen[of(k)], counts[of(k)])
		}
	}
	return list
}
