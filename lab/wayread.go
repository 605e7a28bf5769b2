package lab

import (
	"fmt"
	"math"
	"path"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/proposals"
	"yugen/store"
)

// readNames reads the file names, and where one says nothing, the name that the file gives its sample.
func (w *wayUnderway) readNames() {
	names := make([]string, len(w.b.Injections))
	for i, in := range w.b.Injections {
		names[i] = strings.TrimSuffix(in.FileName, path.Ext(in.FileName))
		w.Rows = append(w.Rows, WayRow{InjectionID: in.ID, File: in.FileName, Role: in.Role, Level: in.Level})
	}
	w.readings = proposals.Names(names)
	w.Offered = proposals.CommonName(names)
	headers := make([]string, len(names))
	for i, in := range w.b.Injections {
		headers[i] = in.Header.SampleName
	}
	for i, h := range proposals.Names(headers) {
		r := &w.readings[i]
		switch {
		case headers[i] == "" || headers[i] == names[i]:
		case r.Level == nil && h.Level != nil && (r.Role == batch.NoRole || r.Role == h.Role || r.RoleFrom.To == 0):
			h.LevelFrom = proposals.Span{} // it is not in the file's name
			*r = h
		case r.Level != nil && h.Level != nil && h.Unit == r.Unit && *h.Level != *r.Level:
			r.Doubt = fmt.Sprintf("its name says %g, the file's header %g", *r.Level, *h.Level)
			r.Level = nil
		}
	}
}

// rolesAndLevels proposes what the names say where nobody has said anything yet.
func (w *wayUnderway) rolesAndLevels(ask WholeWayAsk) {
	unit := proposals.InOneUnit(w.readings)
	agreed := slices.Contains(w.b.Choices.Agreed, proposedLevels)
	set := slices.ContainsFunc(w.b.Injections, func(in store.Injection) bool { return in.Level != nil })
	switch {
	case agreed || set: // whoever has set a level has seen the unit in the head of its column
		w.Unit = w.m.Curves.Unit
	case ask.Unit != "":
		w.Unit, w.UnitFrom = ask.Unit, "said"
	case unit != "":
		w.Unit, w.UnitFrom = unit, "names"
	}
	roles, levels, doubt := 0, 0, ""
	of := map[batch.Role]int{}
	for i := range w.b.Injections {
		in, row, r := &w.b.Injections[i], &w.Rows[i], w.readings[i]
		row.Doubt = r.Doubt
		row.From = r.RoleFrom
		if r.LevelFrom.To > 0 {
			row.From = r.LevelFrom
		}
		if in.Role == batch.NoRole && r.Role != batch.NoRole && !slices.Contains(w.refused, proposedRoles) {
			in.Role, row.Role, row.RoleProposed = r.Role, r.Role, true
			roles++
			w.entries[in.ID] = in.Entry
		}
		of[in.Role]++
		leveled := in.Role == batch.Standard || in.Role == batch.Check
		if in.Level != nil || !leveled || slices.Contains(w.refused, proposedLevels) {
			continue
		}
		if r.Doubt != "" && doubt == "" {
			doubt = r.Doubt
		}
		if r.Level != nil {
			row.Level, row.LevelProposed = r.Level, true
			w.levels[in.ID] = r.Level
			levels++
		}
	}
	if w.Unit == "" && (levels > 0 || set) {
		w.Asked = append(w.Asked, Question{"unit", "The unit of the levels", "the names say numbers alone"})
	}
	if roles > 0 {
		w.propose(proposedRoles, "Roles: "+counted(of), "from the names", "batch", "")
	}
	if levels > 0 {
		doubt = strings.TrimSpace(doubt)
		if doubt == "" && w.Unit == "" {
			doubt = "they have no unit yet"
		}
		from := "from the names"
		if w.UnitFrom == "names" {
			from += "; the unit is read with each"
		}
		w.propose(proposedLevels, "Levels "+w.levelRange()+strings.TrimSuffix(" "+w.Unit, " "), from, "batch", doubt)
		if doubt == "" {
			for i := range w.b.Injections {
				in := &w.b.Injections[i]
				if v := w.levels[in.ID]; v != nil {
					in.Level = v
					w.entries[in.ID] = in.Entry
				}
			}
		}
	}
	if w.Unit != "" {
		w.m.Curves.Unit = w.Unit
	}
	if of[batch.NoRole] > 0 && len(w.b.Injections) > 0 {
		w.Asked = append(w.Asked, Question{"roles", "What " + plural(of[batch.NoRole], "file") + " " + verb(of[batch.NoRole]), "their names do not say: standard, sample, blank or check"})
	}
}

func counted(of map[batch.Role]int) string {
	var parts []string
	for _, role := range batch.Roles {
		if n := of[role]; n > 0 {
			parts = append(parts, plural(n, string(role)))
		}
	}
	return strings.Join(parts, ", ")
}

func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

func verb(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

func (w *wayUnderway) levelRange() string {
	low, high := math.Inf(1), math.Inf(-1)
	for _, v := range w.levels {
		low, high = min(low, *v), max(high, *v)
	}
	return fmt.Sprintf("%g to %g", low, high)
}

// sharedPeak proposes the peak that all standards and samples share, under the name that somebody gives it.
func (w *wayUnderway) sharedPeak(r batch.Result, ask WholeWayAsk) {
	if targets := w.m.Targets(); len(targets) > 0 {
		w.compound, w.Compound = targets[0].ID, targets[0].Name
		w.areasOf(r)
		return
	}
	if slices.Contains(w.refused, proposedPeak) {
		return
	}
	lists := make([][]batch.NamedPeak, len(r.Injections))
	wanted := make([]bool, len(lists))
	levels := make([]*float64, len(lists))
	for i, in := range r.Injections {
		lists[i] = in.Peaks
		role := w.b.Injections[i].Role
		wanted[i] = role != batch.Blank
		if role == batch.Standard {
			levels[i] = w.Rows[i].Level
		}
	}
	shared := proposals.Shared(lists, wanted, levels)
	if len(shared) == 0 {
		w.Asked = append(w.Asked, Question{"peak", "Which peak is the compound's", "no peak stands in all files"})
		return
	}
	chosen := shared[0]
	for _, s := range shared {
		if ask.ApexMin > 0 && math.Abs(s.ApexMin-ask.ApexMin) < math.Abs(chosen.ApexMin-ask.ApexMin) {
			chosen = s
		}
	}
	for _, s := range shared {
		if s.ApexMin != chosen.ApexMin {
			w.Others = append(w.Others, s.ApexMin)
		}
	}
	w.Peak = &chosen
	for i, at := range chosen.Apexes {
		if !math.IsNaN(at) {
			k := slices.IndexFunc(lists[i], func(p batch.NamedPeak) bool { return p.ApexMin == at })
			w.Rows[i].ApexMin, w.Rows[i].AreaS = &lists[i][k].ApexMin, &lists[i][k].AreaS
		}
	}
	why, doubt := "the only one in all files", ""
	if len(shared) > 1 {
		why = fmt.Sprintf("of %d that all share, the one that follows the levels best", len(shared))
		if ask.ApexMin > 0 {
			why = "chosen here"
		} else if math.IsNaN(chosen.Fit) || shared[1].Fit > 0.98 {
			doubt = fmt.Sprintf("%d peaks stand in all files; point at the one that is meant", len(shared))
		}
	}
	w.compound, w.Compound = "proposed", ask.Name
	name := ask.Name
	if name == "" {
		name = fmt.Sprintf("the peak at %.2f min", chosen.ApexMin)
		w.Asked = append(w.Asked, Question{"name", fmt.Sprintf("What the peak at %.2f min is", chosen.ApexMin), "a time alone does not say"})
	}
	if doubt == "" && ask.Name == "" {
		doubt = "it has no name yet"
	}
	w.propose(proposedPeak, fmt.Sprintf("Peak %.2f to %.2f min", chosen.StartMin, chosen.EndMin), why, "peaks", doubt)
	window := max(0.05, 3*chosen.SpreadMin, (chosen.EndMin-chosen.StartMin)/4)
	w.m.Compounds = append(slices.Clone(w.m.Compounds), compounds.Compound{
		ID: w.compound, Name: name, ExpectedMin: rounded(chosen.ApexMin), Rule: compounds.Nearest, Role: compounds.Target,
		Window: compounds.Window{Kind: compounds.Absolute, Value: rounded(window)},
	})
}

// rounded leaves a time to a thousandth of a minute.
func rounded(v float64) float64 { return math.Round(v*1000) / 1000 }

// areasOf fills the rows from the peak that the compound has by now.
func (w *wayUnderway) areasOf(r batch.Result) {
	for i, in := range r.Injections {
		for k, p := range in.Peaks {
			if p.CompoundID == w.compound {
				w.Rows[i].AreaS, w.Rows[i].ApexMin = &in.Peaks[k].AreaS, &in.Peaks[k].ApexMin
			}
		}
	}
}

// line proposes the curve.
func (w *wayUnderway) line(ask WholeWayAsk) {
	standards := 0
	for _, in := range w.b.Injections {
		if in.Role == batch.Standard {
			standards++
		}
	}
	if standards == 0 || slices.Contains(w.b.Choices.Agreed, proposedLine) {
		return
	}
	w.m.Curves.Model, w.m.Curves.Weight = curves.Linear, curves.Unweighted
	text, from := "Straight line, every level counts alike", "not forced through zero"
	if ask.Model == curves.Quadratic {
		w.m.Curves.Model, text = curves.Quadratic, "Curve of second order, every level counts alike"
	}
	w.propose(proposedLine, text, from, "curves", "")
}

// read takes the curve and the first sample's reading from the result.
func (w *wayUnderway) read() {
	for i, c := range w.result.Curves {
		if c.CompoundID == w.compound && (c.Fit != nil || len(c.Points) > 0) {
			w.Curve = &w.result.Curves[i]
		}
	}
	for i, in := range w.result.Injections {
		reading, ok := in.Readings[w.compound]
		if w.b.Injections[i].Role != batch.Sample || !ok {
			continue
		}
		w.Concentration = reading.Concentration
		if ci := reading.AmountCI95; ci != nil && !w.m.Amounts.Prepared() {
			half := (ci[1] - ci[0]) / 2
			w.HalfWidth = &half
		}
		if work, ok := batch.Work(batch.Input{Injections: entries(w.b), Method: w.m, Choices: w.b.Choices}, w.result, in.ID, w.compound); ok && reading.Concentration != nil {
			w.Working = &work
		}
		return
	}
}
