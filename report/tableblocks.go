package report

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/quantities"
	"yugen/core/summary"
	"yugen/report/layouts"
)

func (w *writer) peaksBlock(b layouts.Block, s subject) {
	if s.Each == layouts.EachBatch {
		w.section(w.titleOf(b, "Peaks", s), "", 12)
		w.sentence("A table of peaks is of one injection: make this layout for each injection or sample.")
		return
	}
	for _, at := range s.lines {
		line, injected, ok := w.channel(at, b.Channel)
		if !ok {
			continue
		}
		note := fmt.Sprintf("%s, noise %s %s", count(len(injected.Peaks), "peak"), batch.Significant(injected.NoiseSD, 2), line.Trace.Unit)
		if len(s.lines) > 1 {
			note = w.nameOf(at) + ", " + note
		}
		w.section(w.titleOf(b, "Peaks", s), note, 24)
		if len(injected.Peaks) == 0 {
			w.sentence("No peak was found.")
			continue
		}
		if len(b.Values) > 0 {
			w.peakValues(b, at, injected)
			continue
		}
		w.peakTable(line, injected, b.Named, b.Sum)
	}
}

// peakValues is a table of peaks with the columns that a layout names.
func (w *writer) peakValues(b layouts.Block, at int, injected batch.Injected) {
	row := w.quantityRow(at)
	var columns []column
	var chosen []quantities.Quantity
	for _, v := range b.Values {
		q, _ := w.quantities.Find(v.Quantity)
		chosen = append(chosen, q)
		columns = append(columns, w.columnOf(v, q))
	}
	var rows [][]cell
	for k := range injected.Peaks {
		p := &injected.Peaks[k]
		r := row
		r.Peak, r.Compound = p, compoundOf(w.in, p.CompoundID)
		if r.Compound == nil && b.Named {
			continue
		}
		cells := make([]cell, len(chosen))
		for i, q := range chosen {
			cells[i] = w.valueCell(b.Values[i], q, r, b.Missing)
		}
		rows = append(rows, cells)
	}
	w.table(columns, rows, 5)
}

func (w *writer) columnOf(v layouts.Value, q quantities.Quantity) column {
	head := firstOf(v.Head, q.Words, v.Quantity)
	if unit := unitOf(v, q); v.Head == "" && unit != "" {
		head += ", " + unit
	}
	wide := v.WidthMM
	number := q.Kind != quantities.Text && q.Kind != quantities.Moment
	if wide == 0 {
		wide = 20
		if !number {
			wide = 38
		}
	}
	return column{head: head, width: wide, number: number}
}

func (w *writer) valueCell(v layouts.Value, q quantities.Quantity, r quantities.Row, missing string) cell {
	if q.ID == "" {
		return cell{text: fmt.Sprintf("[there is no %q]", v.Quantity), colour: kaki}
	}
	if said, held := w.undecidedQuantity(q, r); held {
		return said
	}
	got := q.Of(r)
	if got.Absent() {
		return cell{text: firstOf(missing, unsaid), colour: ink3}
	}
	got, ok := inUnit(v, q, got, r.Compound)
	if !ok {
		return cell{text: notIn(v, q, r.Compound), colour: kaki}
	}
	return plain(shownAs(v, q, got))
}

func (w *writer) resultsBlock(b layouts.Block, s subject) {
	title := w.titleOf(b, "Results", s)
	targets := w.compoundsNamed(b.Compounds)
	if s.Each == layouts.EachBatch {
		w.samples(title, append(compoundColumns(targets), groupColumns(w.in.Method.Groups())...))
		return
	}
	k := w.sample(s)
	if s.Each == layouts.EachInjection || k < 0 {
		line := w.in.Lines[s.lines[0]]
		w.section(title, "", 24)
		switch {
		case len(targets) == 0 && len(b.Compounds) > 0: // they are told beneath
		case len(targets) == 0:
			w.sentence("The method names no compound.")
		case len(b.Values) > 0:
			w.compoundValues(b, targets, w.quantityRow(s.lines[0]))
		default:
			w.amounts(line, w.in.Result.Injections[s.lines[0]], targets)
		}
		return
	}
	w.section(title, w.in.Method.ReportedUnit()+", mean of "+count(len(s.lines), "injection")+", with its 95 % interval", 24)
	if len(b.Values) > 0 {
		w.compoundValues(b, targets, w.quantityRow(s.lines[0]))
		return
	}
	w.sampleMeans(w.in.Result.Samples[k], targets)
}

// compoundValues is a table of compounds with the columns that a layout names.
func (w *writer) compoundValues(b layouts.Block, targets []compounds.Compound, row quantities.Row) {
	var columns []column
	rows := make([][]cell, len(targets))
	for _, v := range b.Values {
		q, _ := w.quantities.Find(v.Quantity)
		columns = append(columns, w.columnOf(v, q))
		for k := range targets {
			rows[k] = append(rows[k], w.valueCell(v, q, row.Of(&targets[k]), b.Missing))
		}
	}
	w.table(columns, rows, 5)
}

// sampleMeans is the table of what was found in one sample.
func (w *writer) sampleMeans(r batch.SampleRow, targets []compounds.Compound) {
	columns := []column{{head: "Compound", width: 46}, {head: "Mean, " + w.in.Method.ReportedUnit(), width: 30, number: true}, {head: "95 % interval", width: 40, number: true}, {head: "RSD, %", width: 18, number: true}, {head: "n", width: 14, number: true}, {head: "", width: 22}}
	line := func(name string, v batch.SampleValue) []cell {
		row := []cell{plain(name), {text: unsaid, colour: ink3}, plain(""), plain(""), plain(fmt.Sprintf("%d of %d", v.N, v.Of)), {text: remarks(v), colour: ink3}}
		if v.Mean != nil {
			shown, decimals := meanDigits(*v.Mean, v.SE)
			row[1] = cell{text: batch.Significant(*v.Mean, shown), strong: true}
			if v.CI95 != nil {
				row[2] = plain(strconv.FormatFloat(v.CI95[0], 'f', decimals, 64) + " – " + strconv.FormatFloat(v.CI95[1], 'f', decimals, 64))
			}
		}
		if v.RSD != nil {
			row[3] = plain(strconv.FormatFloat(*v.RSD, 'f', 2, 64))
		}
		return row
	}
	var rows [][]cell
	for _, c := range targets {
		row := line(c.Name, r.Values[c.ID])
		if said, held := w.undecided(r.Name, c.ID); held {
			row[1], row[2], row[3] = said, plain(""), plain("")
		}
		rows = append(rows, row)
	}
	for _, g := range w.in.Method.Groups() {
		rows = append(rows, line(g, r.Groups[g]))
	}
	w.table(columns, rows, 5)
}

// meanDigits are how many significant digits, and how many decimals, bring the last one to the second of the uncertainty.
func meanDigits(mean float64, se *float64) (significant, decimals int) {
	significant = 3
	if mean == 0 {
		return significant, 2
	}
	size := int(math.Floor(math.Log10(math.Abs(mean))))
	if se != nil && *se > 0 {
		significant = max(1, min(9, size-int(math.Floor(math.Log10(*se)))+2))
	}
	return significant, max(0, min(9, significant-1-size))
}

func (w *writer) groupsBlock(b layouts.Block, s subject) {
	title, groups := w.titleOf(b, "Groups", s), w.in.Method.Groups()
	if len(groups) == 0 {
		w.section(title, "", 12)
		w.sentence("The method has no group of compounds.")
		return
	}
	if k := w.sample(s); k >= 0 {
		w.section(title, w.in.Method.ReportedUnit(), 14)
		one := w.in.Result.Samples[k]
		var rows [][]cell
		for _, g := range groups {
			v := sampleCell(one.Groups[g], w.in.Method.Curves.Unit)
			value, below, _ := strings.Cut(v.text, "\n")
			rows = append(rows, []cell{plain(g), {text: value, strong: v.strong, colour: v.colour}, {text: below, colour: ink3}})
		}
		w.table([]column{{head: "Group", width: 60}, {head: "Sum, " + w.in.Method.ReportedUnit(), width: 34, number: true}, {head: "", width: 60}}, rows, 5)
		return
	}
	w.samples(title, groupColumns(groups))
}

// curveBlock draws curves: small ones with a table, or where it has a height each by itself with its working.
func (w *writer) curveBlock(b layouts.Block, s subject) {
	title := w.titleOf(b, "Calibration", s)
	var chosen []batch.Curve
	for _, c := range w.in.Result.Curves {
		if len(b.Compounds) == 0 || slices.ContainsFunc(w.compoundsNamed(b.Compounds), func(o compounds.Compound) bool { return o.ID == c.CompoundID }) {
			chosen = append(chosen, c)
		}
	}
	switch {
	case len(chosen) == 0:
		w.section(title, "", 12)
		w.sentence(strings.TrimSpace("No curve in " + w.in.MethodName + ". Choose a compound that has one, or take the block off."))
	case b.HeightMM == 0 && len(b.Compounds) == 0:
		w.curves(title)
		w.leftOut(chosen)
	default:
		height := b.HeightMM
		if height == 0 {
			height = 60
		}
		for k, c := range chosen {
			if k > 0 && w.y > w.sheet.top && w.y+height+40 > w.sheet.bottom {
				w.newPage()
			}
			w.largeCurve(c, title, height)
		}
	}
}

// leftOut lists the points that are in no curve, with why.
func (w *writer) leftOut(list []batch.Curve) {
	var rows [][]cell
	for _, c := range list {
		for _, p := range c.Points {
			if p.LeftOut {
				rows = append(rows, []cell{plain(w.compoundName(c.CompoundID)), plain(batch.Significant(p.Level, 4)), plain(w.injectionName(p.InjectionID)), plain(firstOf(p.Reason, "no reason given"))})
			}
		}
	}
	if len(rows) == 0 {
		return
	}
	w.section("Left out", "points that are in no curve, and why", 14)
	w.table([]column{{head: "Compound", width: 38}, {head: "Level, " + w.in.Method.Curves.Unit, width: 24, number: true}, {head: "Injection", width: 42}, {head: "Why", width: 66}}, rows, 5)
}

func (w *writer) compoundName(id string) string {
	if c := compoundOf(w.in, id); c != nil {
		return c.Name
	}
	return id
}

func (w *writer) injectionName(id string) string {
	k := slices.IndexFunc(w.in.Lines, func(l Line) bool { return l.ID == id })
	if k < 0 {
		return "an earlier batch"
	}
	return fmt.Sprintf("%d %s", k+1, w.nameOf(k))
}

func (w *writer) largeCurve(c batch.Curve, title string, height float64) {
	name := w.compoundName(c.CompoundID)
	w.section(name, strings.ToLower(title)+", response against "+w.in.Method.Curves.Unit, height+20)
	if c.Fit == nil {
		w.sentence(firstOf(c.Problem, "There is no curve."))
		return
	}
	highX, lowY, highY := 0.0, 0.0, 0.0
	for _, p := range c.Points {
		highX, lowY, highY = math.Max(highX, p.X), math.Min(lowY, p.Response), math.Max(highY, p.Response)
	}
	if highX > 0 && highY > lowY {
		f := frame{x0: w.left + 14, x1: w.right - 4, y0: w.y + height - 8, y1: w.y + 2, from: 0, to: 1.05 * highX, low: lowY, high: 1.05 * highY}
		w.axes(f, "")
		p := w.page()
		p.text(Text{X: f.x1, Y: f.y0 + 7.4, Size: 7, Font: Sans, Colour: ink2, Align: end, Text: w.in.Method.Curves.Unit})
		var points [][2]float64
		for _, l := range c.Line {
			if l.X <= f.to {
				points = append(points, [2]float64{f.x(l.X), f.y(l.Y)})
			}
		}
		p.path(Path{Points: points, Stroke: ai, Width: 0.25})
		for _, q := range c.Points {
			fill := ai
			if q.LeftOut || !q.InRange {
				fill = "#FFFEFB"
			}
			p.dot(f.x(q.X), f.y(q.Response), 0.8, fill, ai)
		}
		w.y += height + 4
	}
	w.facts(w.curveFacts(c))
	w.leftOut([]batch.Curve{c})
}

// curveFacts are what a curve is, in words and numbers.
func (w *writer) curveFacts(c batch.Curve) [][2]string {
	unit := w.in.Method.Curves.Unit
	var terms []string
	for k, v := range c.Fit.Coefficients {
		terms = append(terms, fmt.Sprintf("b%d %s", k, batch.Significant(v, 6)))
	}
	used := 0
	for _, p := range c.Points {
		if p.InRange && !p.LeftOut {
			used++
		}
	}
	facts := [][2]string{
		{"Model", fmt.Sprintf("%s, weight %s", shape(string(c.Fit.Model)), shape(string(c.Fit.Weight)))}, {"Coefficients", strings.Join(terms, ", ")},
		{"Range", fmt.Sprintf("%g – %g %s", c.Fit.LowX, c.Fit.HighX, unit)}, {"Points", fmt.Sprintf("%d of %d", used, len(c.Points))},
	}
	optional := func(name string, v *float64, unit string, digits int) {
		if v != nil {
			facts = append(facts, [2]string{name, strings.TrimSpace(batch.Significant(*v, digits) + " " + unit)})
		}
	}
	if c.Fit.R2 != nil {
		facts = append(facts, [2]string{"R²", rSquared(*c.Fit.R2)})
	}
	optional("Residual SD", c.Fit.ResidualSD, "", 3)
	optional("Limit of detection", c.LOD, unit, 2)
	optional("Limit of quantity", c.LOQ, unit, 2)
	if c.Against != "" {
		facts = append(facts, [2]string{"Against", w.compoundName(c.Against)})
	}
	return append(facts, [2]string{"Verdict", c.Verdict.Good})
}

// processing says how the batch was processed: integration of each channel, internal standards, windows, limits.
func (w *writer) processing(b layouts.Block, s subject) {
	m := w.in.Method
	w.section(w.titleOf(b, "Processing", s), fmt.Sprintf("%s, version %d", w.in.MethodName, w.in.Version), 30)
	for _, c := range m.Channels {
		w.facts(append([][2]string{{"Channel", firstOf(c.Signal.Name, "the first signal")}}, integration(c.Peaks)...))
	}
	w.facts([][2]string{
		{"Checks", fmt.Sprintf("recovery %g to %g %%", m.Checks.RecoveryLow, m.Checks.RecoveryHigh)}, {"Replicates", fmt.Sprintf("RSD up to %g %%", m.Checks.ReplicateRSD)},
		{"Internal standard", fmt.Sprintf("within %g %% of its mean", m.Checks.InternalStandard)}, {"Blanks", fmt.Sprintf("up to %g %% of the lowest level", m.Checks.Blank)},
	})
	var rows [][]cell
	for _, c := range m.Compounds {
		role := ""
		if c.Role == compounds.InternalStandard {
			role = fmt.Sprintf("internal standard, %g %s", c.Amount, m.Curves.Unit)
		}
		window := fmt.Sprintf("± %g min", c.Window.Value)
		if c.Window.Kind != compounds.Absolute {
			window = fmt.Sprintf("± %g %%", c.Window.Value)
		}
		rows = append(rows, []cell{plain(c.Name), plain(strconv.FormatFloat(c.ExpectedMin, 'f', 3, 64)), plain(window), plain(strings.ReplaceAll(string(c.Rule), "_", " ")), plain(role)})
	}
	w.table([]column{{head: "Compound", width: 44}, {head: "Expected, min", width: 26, number: true}, {head: "Window", width: 24, number: true}, {head: "Which peak", width: 34}, {head: "", width: 42}}, rows, 5)
}

// integration are the settings of a channel that say something.
func integration(p peaks.Settings) (facts [][2]string) {
	width := "estimated over the batch"
	if p.WidthMin > 0 {
		width = fmt.Sprintf("%g min", p.WidthMin)
	}
	threshold := p.Threshold
	if threshold == 0 {
		threshold = peaks.DefaultThreshold
	}
	facts = [][2]string{{"Peak width", width}, {"Threshold", fmt.Sprintf("%g × noise", threshold)}}
	if p.LeastArea > 0 {
		facts = append(facts, [2]string{"Least area", fmt.Sprintf("%g signal·s", p.LeastArea)})
	}
	if p.SkimPercent > 0 {
		facts = append(facts, [2]string{"Skimmed", fmt.Sprintf("tails smaller than %g %%", p.SkimPercent)})
	}
	for _, r := range p.TimeRules {
		text := strings.ReplaceAll(string(r.Kind), "_", " ")
		if r.Setting != "" {
			text = fmt.Sprintf("%s %g", strings.ReplaceAll(r.Setting, "_", " "), r.Value)
		}
		facts = append(facts, [2]string{fmt.Sprintf("%g – %g min", r.FromMin, r.ToMin), text})
	}
	return facts
}

// summaryBlock sets measures against compounds, with statistics over groups of injections.
func (w *writer) summaryBlock(b layouts.Block, s subject) {
	title := w.titleOf(b, "Summary", s)
	measures := b.Measures
	if len(measures) == 0 {
		measures = []string{"retention_min", "area_s"}
	}
	lines := slices.DeleteFunc(slices.Clone(s.lines), func(k int) bool {
		return b.Of != "all" && w.in.Lines[k].Role == batch.Blank
	})
	columns, err := summary.Columns(w.in.Method, w.columnsNamed(b.Compounds))
	if none := len(b.Compounds) > 0 && len(w.columnsNamed(b.Compounds)) == 0; none || err != nil || len(lines) == 0 || len(columns) == 0 {
		w.section(title, "", 12)
		w.sentence("There is nothing to summarise.")
		return
	}
	var rows []quantities.Row
	for _, k := range lines {
		rows = append(rows, w.quantityRow(k))
	}
	by := firstOf(b.By, "replicates")
	groups := summary.Groups(len(lines), func(i int) string { return summary.Key(w.in.Method, w.in.Lines[lines[i]].Entry, by) })
	statistics := b.Statistics
	if len(statistics) == 0 {
		statistics = []string{"mean", "rsd"}
	}
	for _, id := range measures {
		w.quantityRow(lines[0])
		q, known := w.quantities.Find(id)
		words := firstOf(q.Words, id)
		if q.Unit != "" {
			words += ", " + q.Unit
		}
		w.section(title, words, 20)
		if !known {
			w.sentence(fmt.Sprintf("There is no quantity %q.", id))
			continue
		}
		measures := []quantities.Quantity{q}
		w.summaryTable(groups, columns, summary.Build(measures, summary.Values(measures, columns, rows), groups), statistics)
	}
}

func (w *writer) summaryTable(groups []summary.Group, across []summary.Column, cube summary.Cube, statistics []string) {
	n := w.beside()
	for from := 0; from < len(across); from += n {
		part := across[from:min(len(across), from+n)]
		columns := []column{{head: "", width: nameWidth}}
		for _, c := range part {
			columns = append(columns, column{head: c.Name, width: (w.right - w.left - nameWidth) / float64(n), number: true})
		}
		var rows [][]cell
		for g, group := range groups {
			for _, statistic := range statistics {
				row := []cell{plain(group.Name + ", " + firstOf(statisticWords[statistic], statistic))}
				for k := range part {
					row = append(row, statisticCell(cube.Statistics[0][from+k][g], statistic, cube.Decimals[0][from+k]))
				}
				rows = append(rows, row)
			}
		}
		w.table(columns, rows, 5)
	}
}

// statisticWords are those of statistics whose ids are no words.
var statisticWords = map[string]string{"sd": "SD", "rsd": "RSD, %", "interval": "95 % interval, ±"}

// statisticCell is one statistic; where values are missing it says of how many it is.
func statisticCell(s summary.Statistics, statistic string, decimals int) cell {
	value := map[string]*float64{"mean": s.Mean, "sd": s.SD, "rsd": s.RSD, "minimum": s.Least, "maximum": s.Most, "median": s.Median, "interval": s.Half}[statistic]
	if statistic == "n" {
		return plain(strconv.Itoa(s.N))
	}
	if value == nil {
		return cell{text: unsaid, colour: ink3}
	}
	text := strconv.FormatFloat(*value, 'f', decimals, 64)
	switch statistic {
	case "rsd":
		text = strconv.FormatFloat(*value, 'f', 2, 64)
	case "sd", "interval": // a spread is told to two digits, whatever it is the spread of
		text = batch.Significant(*value, 2)
	}
	if s.N < s.Of {
		text = fmt.Sprintf("n %d  %s", s.N, text)
	}
	return plain(text)
}
