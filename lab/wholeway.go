package lab

import (
	"context"
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

// The parts of a small batch that can be proposed.
const (
	proposedRoles   = "roles"
	proposedLevels  = "levels"
	proposedPeak    = "peak"
	proposedLine    = "line"
	proposedAmounts = "amounts"
)

// WholeWayAsk is what a person has said so far of what is proposed, without keeping it.
type WholeWayAsk struct {
	Name    string       `json:"name"`     // of the compound whose peak it is
	ApexMin float64      `json:"apex_min"` // another shared peak than the one proposed; 0 is that one
	Unit    string       `json:"unit"`     // of the levels, where their names do not say it
	Model   curves.Model `json:"model"`    // another curve than a line; empty is the line
	Refused []string     `json:"refused"`  // the keys of what is not wanted
}

// WholeWay is a batch of few files as it would be if all that is proposed without doubt were kept. Nothing of it is.
type WholeWay struct {
	Rows      []WayRow              `json:"rows"`
	Unit      string                `json:"unit"` // of the levels; empty where nobody has said
	UnitFrom  string                `json:"unit_from"`
	Proposals []Proposed            `json:"proposals"`
	Asked     []Question            `json:"asked"`
	LookedAt  []LookedAt            `json:"looked_at"`
	Peak      *proposals.SharedPeak `json:"peak"`
	Others    []float64             `json:"others"` // apexes of other peaks that all share, min
	Compound  string                `json:"compound"`
	Offered   string                `json:"offered"` // a name that all files carry
	Curve     *batch.Curve          `json:"curve"`
	Working   *batch.Working        `json:"working"` // of the first sample
	// Concentration is what that sample reads, in Unit, with the half-width of its 95 % interval.
	Concentration *float64 `json:"concentration"`
	HalfWidth     *float64 `json:"half_width"`
}

// WayRow is a file with what is read from its name.
type WayRow struct {
	InjectionID   string     `json:"injection_id"`
	File          string     `json:"file"`
	Role          batch.Role `json:"role"`
	RoleProposed  bool       `json:"role_proposed"`
	Level         *float64   `json:"level"`
	LevelProposed bool       `json:"level_proposed"`
	// From is the stretch of the file's name that was read.
	From    proposals.Span `json:"from"`
	AreaS   *float64       `json:"area_s"` // of the peak that all share
	ApexMin *float64       `json:"apex_min"`
	Doubt   string         `json:"doubt"`
}

// Proposed is one thing that stands ready to be kept.
type Proposed struct {
	Key     string `json:"key"`
	Text    string `json:"text"`
	From    string `json:"from"` // where it was read from
	Station string `json:"station"`
	// Doubt is why it is not kept with the others; empty where it is.
	Doubt string `json:"doubt"`
}

// Question is what only a person knows.
type Question struct {
	Key  string `json:"key"`
	Text string `json:"text"`
	Why  string `json:"why"`
}

// LookedAt is one of the usual mistakes, and whether it was made.
type LookedAt struct {
	Text  string `json:"text"`
	Found string `json:"found"`
	State string `json:"state"` // well, wrong, or open where there is nothing to judge
}

// maxWholeWay is up to how many files a batch is looked at as a whole.
const maxWholeWay = 60

// wayUnderway is a whole way that is being made out.
type wayUnderway struct {
	WholeWay
	b        store.Batch // with the entries that are proposed
	m        batch.Method
	readings []proposals.Reading
	compound string // its id
	refused  []string
	entries  map[string]batch.Entry // that would be set, without those in doubt
	levels   map[string]*float64    // that are proposed, by injection
	result   batch.Result
}

// WholeWay makes out what a batch of few files is likely to be. Nothing is written.
func (l *Lab) WholeWay(ctx context.Context, batchID string, ask WholeWayAsk) (WholeWay, error) {
	w, err := l.wholeWay(ctx, batchID, ask)
	if err != nil {
		return WholeWay{}, err
	}
	return w.WholeWay, nil
}

func (l *Lab) wholeWay(ctx context.Context, batchID string, ask WholeWayAsk) (*wayUnderway, error) {
	if ask.Name = strings.TrimSpace(ask.Name); len(ask.Name) > maxName {
		return nil, refuseAt("/name", "a compound's name has at most %d characters", maxName)
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	if len(p.Batch.Injections) > maxWholeWay {
		return nil, refuse("a batch of %d injections is not looked at as a whole; %d is the most", len(p.Batch.Injections), maxWholeWay)
	}
	w := &wayUnderway{b: p.Batch, m: p.Batch.Version.Method, refused: ask.Refused, entries: map[string]batch.Entry{}, levels: map[string]*float64{}}
	w.Proposals, w.Asked, w.LookedAt, w.Others = []Proposed{}, []Question{}, []LookedAt{}, []float64{}
	w.b.Injections = slices.Clone(w.b.Injections)
	w.readNames()
	w.rolesAndLevels(ask)
	w.sharedPeak(p.Result, ask)
	w.line(ask)
	w.propose(proposedAmounts, "Reported as measured"+inUnit(w.Unit), "nothing is weighed or diluted until somebody says so", "results", "")
	if len(w.m.Compounds) > 0 {
		if w.result, err = l.with(ctx, w.b, w.m); err != nil {
			return nil, err
		}
		w.read()
	}
	w.look()
	return w, nil
}

const maxName = 200

func inUnit(unit string) string {
	if unit == "" {
		return ""
	}
	return ", in " + unit
}

// propose adds a proposal that is neither refused nor agreed to already, and tells whether it holds for what hangs on it.
func (w *wayUnderway) propose(key, text, from, station, doubt string) bool {
	if slices.Contains(w.b.Choices.Agreed, key) {
		return true
	}
	if slices.Contains(w.refused, key) {
		return false
	}
	w.Proposals = append(w.Proposals, Proposed{key, text, from, station, doubt})
	return doubt == ""
}

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

// KeepWay keeps proposals, those of the keys or, without any, all that stand without doubt. It is one change, undone as one.
func (l *Lab) KeepWay(ctx context.Context, batchID string, revision int, ask WholeWayAsk, keys []string, who string) (store.Batch, error) {
	w, err := l.wholeWay(ctx, batchID, ask)
	if err != nil {
		return store.Batch{}, err
	}
	kept := []Proposed{}
	for _, p := range w.Proposals {
		if len(keys) == 0 && p.Doubt == "" || slices.Contains(keys, p.Key) {
			kept = append(kept, p)
		}
	}
	if len(kept) == 0 {
		return store.Batch{}, refuse("nothing that is proposed here stands without doubt")
	}
	has := func(key string) bool {
		return slices.ContainsFunc(kept, func(p Proposed) bool { return p.Key == key })
	}
	if has(proposedPeak) && w.Compound == "" {
		return store.Batch{}, refuseAt("/name", "the peak needs a name before it is kept")
	}
	if has(proposedLevels) && w.Unit == "" {
		return store.Batch{}, refuseAt("/unit", "the levels need a unit before they are kept")
	}
	if revision == 0 {
		revision = w.b.Revision
	}
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change, error) {
		c := change{action: "proposals", subject: subjects(kept), before: choicesOf(b), after: state{}}
		c.before.Entries, c.after.Entries = map[string]batch.Entry{}, map[string]batch.Entry{}
		w.keepEntries(b, has, &c)
		m := w.keepMethod(b.Version.Method, has)
		if err := valid(m); err != nil {
			return c, err
		}
		if mustJSON(m) != mustJSON(b.Version.Method) {
			v, err := t.SaveVersion(b.Version.MethodID, who, "proposed and kept: "+c.subject, m)
			if err != nil {
				return c, err
			}
			c.before.Version, c.after.Version, c.after.VersionHash = b.Version.ID, v.ID, v.Hash
		}
		choices := b.Choices
		for _, p := range kept {
			choices.Agreed = append(slices.Clone(choices.Agreed), p.Key)
		}
		c.after.Choices = &choices
		return c, nil
	})
}

func subjects(kept []Proposed) string {
	parts := make([]string, len(kept))
	for i, p := range kept {
		parts[i] = p.Text
	}
	return strings.Join(parts, "; ")
}

// keepEntries sets roles and levels where nobody has set them.
func (w *wayUnderway) keepEntries(b store.Batch, has func(string) bool, c *change) {
	for i, in := range b.Injections {
		if i >= len(w.Rows) || w.Rows[i].InjectionID != in.ID {
			continue
		}
		e := in.Entry
		if has(proposedRoles) && e.Role == batch.NoRole {
			e.Role = w.readings[i].Role
		}
		if v := w.levels[in.ID]; has(proposedLevels) && v != nil && e.Level == nil {
			e.Level = v
		}
		if mustJSON(e) != mustJSON(in.Entry) {
			c.before.Entries[in.ID], c.after.Entries[in.ID] = in.Entry, e
		}
	}
}

// keepMethod is the method with the parts that are kept.
func (w *wayUnderway) keepMethod(m batch.Method, has func(string) bool) batch.Method {
	if has(proposedLevels) {
		m.Curves.Unit = w.Unit
	}
	if has(proposedLine) {
		m.Curves.Model, m.Curves.Weight = w.m.Curves.Model, w.m.Curves.Weight
	}
	if has(proposedPeak) && len(m.Targets()) == 0 {
		c := w.m.Compounds[len(w.m.Compounds)-1]
		c.ID = compounds.FreshID(c.Name, m.Compounds)
		m.Compounds = append(slices.Clone(m.Compounds), c)
	}
	if has(proposedAmounts) {
		m.Amounts.AsMeasured = true
	}
	return m
}
