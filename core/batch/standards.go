package batch

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yugen/core/amounts"
	"yugen/core/compounds"
)

// ContentTable says what the standards hold, where one solution holds different amounts of different compounds.
type ContentTable struct {
	Unit      string                `json:"unit"`      // as weighed
	Compounds map[string]ContentRow `json:"compounds"` // by compound id; what stands here for a level overrules the level's number
}

// ContentRow is what the standards hold of one compound.
type ContentRow struct {
	Purity   float64        `json:"purity_percent,omitempty"`    // of the substance weighed; 0 means 100
	PuritySE float64        `json:"purity_se_percent,omitempty"` // its standard uncertainty, in the same percent
	Levels   []LevelContent `json:"levels,omitempty"`
}

// LevelContent is how much was weighed in for a level of the run list.
type LevelContent struct {
	Level  float64 `json:"level"`
	Amount float64 `json:"amount"`
}

// maxLevels bounds the levels of a table.
const maxLevels = 500

func (m Method) validateContents() error {
	t := m.Curves.Contents
	if t == nil {
		return nil
	}
	for id, row := range t.Compounds {
		i := slices.IndexFunc(m.Compounds, func(c compounds.Compound) bool { return c.ID == id })
		switch {
		case i < 0 || m.Compounds[i].Role != compounds.Target:
			return fmt.Errorf("what the standards hold: %q is no target of this method", id)
		case !(row.Purity >= 0 && row.Purity <= 100):
			return fmt.Errorf("what the standards hold: a purity of %g %% of %s is not between 0 and 100", row.Purity, m.Compounds[i].Name)
		case !(row.PuritySE >= 0 && row.PuritySE <= 100):
			return fmt.Errorf("what the standards hold: ±%g %% of the purity of %s is not between 0 and 100", row.PuritySE, m.Compounds[i].Name)
		case len(row.Levels) > maxLevels:
			return fmt.Errorf("what the standards hold: %d levels of %s; at most %d are kept", len(row.Levels), m.Compounds[i].Name, maxLevels)
		}
		seen := map[float64]bool{}
		for _, l := range row.Levels {
			switch {
			case seen[l.Level]:
				return fmt.Errorf("what the standards hold: the level %g of %s stands twice", l.Level, m.Compounds[i].Name)
			case !(l.Amount >= 0) || math.IsInf(l.Amount, 0):
				return fmt.Errorf("what the standards hold: %g at the level %g of %s is no amount", l.Amount, l.Level, m.Compounds[i].Name)
			}
			seen[l.Level] = true
		}
		if _, err := m.weighed(1, m.Compounds[i]); err != nil {
			return fmt.Errorf("what the standards hold: %s is weighed in %s, which cannot become %s: %w", m.Compounds[i].Name, t.Unit, m.Curves.Unit, err)
		}
	}
	return nil
}

// weighed turns an amount of the table of contents into the unit of the levels.
func (m Method) weighed(amount float64, c compounds.Compound) (float64, error) {
	from, err := amounts.ParseUnit(m.Curves.Contents.Unit)
	if err != nil {
		return 0, err
	}
	to, err := amounts.ParseUnit(m.Curves.Unit)
	if err != nil {
		return 0, err
	}
	q, err := amounts.Quantity{Value: amount, Unit: from}.InWith(to, c.MolarMass)
	return unitFactor(q.Value), err
}

// purity is that of the substance behind a compound's standards, as a factor, and its relative standard uncertainty.
func (m Method) purity(compoundID string) (factor, relative float64) {
	if m.Curves.Contents == nil {
		return 1, 0
	}
	row := m.Curves.Contents.Compounds[compoundID]
	if row.Purity == 0 {
		return 1, row.PuritySE / 100
	}
	return row.Purity / 100, row.PuritySE / row.Purity
}

// content is what a standard or check of a level holds of a compound, in the unit of the levels; ok is false where it does not hold it. A level that no
// compound has a cell for in the table holds what its number says.
func (p *process) content(level float64, c compounds.Compound) (amount float64, ok bool) {
	factor, _ := p.method.purity(c.ID)
	t := p.method.Curves.Contents
	at := func(l LevelContent) bool { return l.Level == level }
	if t == nil || !p.tabled[level] {
		return level * factor, true
	}
	row := t.Compounds[c.ID]
	i := slices.IndexFunc(row.Levels, at)
	if i < 0 {
		return 0, false
	}
	amount, err := p.method.weighed(row.Levels[i].Amount, c)
	return amount * factor, err == nil
}

// holds tells whether a standard or check can hold a compound: by its level, and by the mixture it is.
func (p *process) holds(e Entry, c compounds.Compound) (amount float64, ok bool) {
	if e.Level == nil || e.Mix != "" && c.Mix != "" && e.Mix != c.Mix {
		return 0, false
	}
	return p.content(*e.Level, c)
}

// InternalAmount is how much an injection holds of one of several internal standards.
type InternalAmount struct {
	Name   string  `json:"name"`
	Amount float64 `json:"amount"` // in the unit of the levels
}

// External is what a target is read against that wants no internal standard.
const External = "none"

// InternalStandards are the compounds with that role, in order of retention.
func (m Method) InternalStandards() (list []compounds.Compound) {
	for _, c := range m.Compounds {
		if c.Role == compounds.InternalStandard {
			list = append(list, c)
		}
	}
	byRetention(list)
	return list
}

// Against gives the internal standard that each target is read against, by the target's id: the one that it names, or the nearest in retention. Where a
// target uses the curve of another, what that one is read against holds. Targets without one are absent.
func (m Method) Against() map[string]compounds.Compound {
	standards := m.InternalStandards()
	out := map[string]compounds.Compound{}
	for _, c := range m.Compounds {
		if c.Role != compounds.Target {
			continue
		}
		of := c
		if to := m.Curves.Own[c.ID].RelativeTo; to != "" {
			if i := slices.IndexFunc(m.Compounds, func(o compounds.Compound) bool { return o.ID == to }); i >= 0 {
				of = m.Compounds[i]
			}
		}
		if is, ok := nearest(standards, of); ok {
			out[c.ID] = is
		}
	}
	return out
}

func nearest(standards []compounds.Compound, c compounds.Compound) (best compounds.Compound, ok bool) {
	for _, is := range standards {
		if is.ID == c.Against {
			return is, true
		}
		if c.Against == "" && (!ok || math.Abs(is.ExpectedMin-c.ExpectedMin) < math.Abs(best.ExpectedMin-c.ExpectedMin)) {
			best, ok = is, true
		}
	}
	return best, ok
}

func (m Method) validateAgainst() error {
	for _, c := range m.Compounds {
		if c.Against == "" || c.Against == External {
			continue
		}
		i := slices.IndexFunc(m.Compounds, func(o compounds.Compound) bool { return o.ID == c.Against })
		if c.Role != compounds.Target || i < 0 || m.Compounds[i].Role != compounds.InternalStandard {
			return fmt.Errorf("method: %s is read against %q, which is no internal standard of this method", c.Name, c.Against)
		}
	}
	return nil
}

// against is the internal standard that a target is read against.
func (p *process) against(compoundID string) (compounds.Compound, bool) {
	is, ok := p.standards[compoundID]
	return is, ok
}

// internalAmount is how much of an internal standard an injection holds.
func (p *process) internalAmount(e Entry, is compounds.Compound) float64 {
	for _, a := range e.Internals {
		if a.Name == is.ID || strings.EqualFold(a.Name, is.Name) {
			return a.Amount
		}
	}
	if e.Internal != nil && p.internals == 1 {
		return *e.Internal
	}
	return is.Amount
}

// internalRatio is the amount of a target's internal standard in an injection over that of the method.
func (p *process) internalRatio(e Entry, compoundID string) float64 {
	is, ok := p.against(compoundID)
	if !ok {
		return 1
	}
	return p.internalAmount(e, is) / is.Amount
}

// InternalRatios tells the amount of a target's internal standard in an injection over that of the method; 1 without one.
func (m Method) InternalRatios() func(e Entry, compoundID string) float64 {
	return newProcess(Input{Method: m}).internalRatio
}

// strangeInternal tells of amounts of internal standard in the run list that belong to none, or to none in particular.
func (e Entry) strangeInternal(standards []compounds.Compound) string {
	if e.Internal != nil && len(standards) > 1 {
		return fmt.Sprintf("%s of internal standard, without saying of which: write for example %s %s; it is not applied", number(*e.Internal), standards[0].Name, number(*e.Internal))
	}
	for _, a := range e.Internals {
		if !slices.ContainsFunc(standards, func(is compounds.Compound) bool { return a.Name == is.ID || strings.EqualFold(a.Name, is.Name) }) {
			return fmt.Sprintf("an amount of %s, which is no internal standard of the method", a.Name)
		}
	}
	return ""
}
