package batch

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/checks"
	"yugen/core/curves"
)

func (w *worker) read() {
	if w.reading.Concentration == nil {
		return
	}
	switch {
	case w.process.method.Curves.Way == ByAddition:
		w.readAddition()
	case len(w.brackets()) == 2 && len(w.reading.Around) == 2:
		w.readBrackets()
	default:
		w.readCurve(*w.curve.Fit, "", *w.reading.Response, w.reading.Concentration)
	}
	w.out.Value = w.reading.Concentration
	if w.reading.Recovery != nil {
		w.step(Step{
			Title: "Recovery of the check",
			Top:   []Term{plain("100 × " + Significant(*w.reading.Concentration, 5))}, Bottom: []Term{{Significant(*w.in.Level, 5), &Link{Station: checks.Batch, InjectionID: w.in.ID}}},
			Result: Significant(*w.reading.Recovery, 4) + " %",
		})
		w.out.Value, w.out.Unit = w.reading.Recovery, "%"
	}
}

// readCurve writes how a response is turned into a concentration by one curve.
func (w *worker) readCurve(fit curves.Fit, which string, response float64, concentration *float64) {
	link := &Link{Station: checks.Curves, CompoundID: w.curve.CompoundID}
	co := func(i int) Term { return Term{Significant(fit.Coefficients[i], 5), link} }
	unit := w.process.method.Curves.Unit
	y := []Term{plain(Significant(response, 5))}
	if factor := w.process.method.Curves.Own[w.curve.CompoundID].ResponseFactor; w.curve.RelativeTo != "" {
		w.step(Step{
			Title: fmt.Sprintf("Relative response factor, to the curve of %s", w.process.compoundName(w.curve.RelativeTo)),
			Top:   y, Bottom: []Term{{number(factor), link}}, Result: Significant(response/factor, 5),
		})
		y = []Term{plain(Significant(response/factor, 5))}
	}
	s := Step{
		Title:  fmt.Sprintf("Read from the curve%s, %s, weight %s", which, strings.ReplaceAll(string(fit.Model), "_", " "), fit.Weight),
		Result: Significant(*concentration, 5) + " " + unit,
	}
	switch fit.Model {
	case curves.Linear:
		s.Bottom = []Term{co(1)}
		if fit.Coefficients[0] >= 0 {
			s.Top = append(y, plain(" − "), co(0))
		} else {
			s.Top = append(y, plain(" − ("), co(0), plain(")"))
		}
	case curves.LinearOrigin, curves.Average, curves.OnePoint:
		s.Top, s.Bottom = y, []Term{co(0)}
	case curves.Quadratic:
		s.Top = append([]Term{plain("x with "), co(0), plain(" + "), co(1), plain(" x + "), co(2), plain(" x² = ")}, y...)
	case curves.QuadraticOrigin:
		s.Top = append([]Term{plain("x with "), co(0), plain(" x + "), co(1), plain(" x² = ")}, y...)
	case curves.LogLog:
		s.Top, s.Bottom = append(append([]Term{plain("log ")}, y...), plain(" − ("), co(0), plain(")")), []Term{co(1)}
		s.Result = "log x, x = " + s.Result
	}
	if ratio := w.process.internalRatio(w.in.Entry); ratio != 1 {
		is, _ := w.process.method.InternalStandard()
		s.Title += fmt.Sprintf(", × %s ÷ %s of internal standard", number(*w.in.Internal), number(is.Amount))
	}
	if w.reading.ConcentrationSE != nil && which == "" {
		s.Result += " ± " + Significant(*w.reading.ConcentrationSE, 2)
	}
	w.step(s)
}

// brackets are the calibrations before and after this injection, where the method brackets.
func (w *worker) brackets() (list []Block) {
	for _, b := range w.curve.Blocks {
		if b.Fit == nil {
			continue
		}
		if b.Position < float64(w.index) {
			list = []Block{b}
			continue
		}
		return append(list, b)
	}
	return list
}

func (w *worker) readBrackets() {
	around := w.brackets()
	var parts []Term
	share := 0.5
	if w.process.method.Curves.Brackets == BetweenOfBracket {
		share = (float64(w.index) - around[0].Position) / (around[1].Position - around[0].Position)
	}
	for k, b := range around {
		read := w.reading.Around[k]
		weight := 1 - share
		if k == 1 {
			weight = share
			parts = append(parts, plain(" + "))
		}
		w.readCurve(*b.Fit, []string{" before", " after"}[k], *w.reading.Response, &read)
		parts = append(parts, plain(Significant(weight, 4)+" × "+Significant(read, 5)))
	}
	title := "Mean of the two"
	if w.process.method.Curves.Brackets == BetweenOfBracket {
		title = "Between the two, in run order"
	}
	s := Step{Title: title, Top: parts, Result: Significant(*w.reading.Concentration, 5) + " " + w.process.method.Curves.Unit}
	if w.reading.ConcentrationSE != nil {
		s.Result += " ± " + Significant(*w.reading.ConcentrationSE, 2)
	}
	w.step(s)
}

func (w *worker) readAddition() {
	for _, a := range w.curve.Additions {
		if a.Name != w.in.Name || a.Addition == nil {
			continue
		}
		link := &Link{Station: checks.Curves, CompoundID: w.curve.CompoundID}
		s := Step{
			Title: fmt.Sprintf("Standard addition, %d injections, a straight line without weights: intercept ÷ slope", len(a.Addition.Fit.Points)),
			Top:   []Term{{Significant(a.Addition.Fit.Coefficients[0], 5), link}}, Bottom: []Term{{Significant(a.Addition.Fit.Coefficients[1], 5), link}},
			Result: Significant(a.Addition.X, 5) + " " + w.process.method.Curves.Unit,
		}
		if a.Addition.StandardError != nil {
			s.Result += " ± " + Significant(*a.Addition.StandardError, 2)
		}
		w.step(s)
	}
}

// share writes the percent of the total.
func (w *worker) share() {
	if !w.process.method.Amounts.PercentOfTotal || w.reading.Amount == nil {
		return
	}
	var bottom []Term
	for _, c := range w.process.result.Curves {
		r := w.process.result.Injections[w.index].Readings[c.CompoundID]
		if r.Concentration == nil || *r.Concentration <= 0 {
			continue
		}
		if len(bottom) > 0 {
			bottom = append(bottom, plain(" + "))
		}
		bottom = append(bottom, Term{Significant(*r.Concentration, 4), &Link{checks.Results, w.in.ID, c.CompoundID}})
	}
	w.step(Step{Title: "Share of all targets found", Top: []Term{plain("100 × " + Significant(*w.reading.Concentration, 5))}, Bottom: bottom, Result: Significant(*w.reading.Amount, 4) + " %"})
	w.out.Value, w.out.Unit = w.reading.Amount, w.process.method.ReportedUnit()
}

func (w *worker) content() {
	if w.reading.Amount == nil || w.process.method.Amounts.PercentOfTotal {
		return
	}
	m := w.process.method
	link := &Link{Station: checks.Batch, InjectionID: w.in.ID}
	top := []Term{plain(Significant(*w.reading.Concentration, 5) + " " + m.Curves.Unit + " × "), {number(w.in.Dilution), link}, plain(" × "), {number(*w.in.Volume) + " " + m.Amounts.VolumeUnit, link}}
	if w.in.Factor != 1 {
		top = append(top, plain(" × "), Term{number(w.in.Factor), link})
	}
	plainProduct := *w.reading.Concentration * w.in.Dilution * *w.in.Volume / *w.in.Sample * w.in.Factor
	if factor := unitFactor(*w.reading.Amount / plainProduct); plainProduct != 0 && factor != 1 {
		top = append(top, plain(" × "+number(factor)+" (units)"))
	}
	s := Step{Title: "Dilution, extract volume, sample taken", Top: top,
		Bottom: []Term{{number(*w.in.Sample) + " " + m.Amounts.SampleUnit, link}},
		Result: Significant(*w.reading.Amount, 5) + " " + m.Amounts.Unit}
	if w.reading.AmountSE != nil {
		s.Result += " ± " + Significant(*w.reading.AmountSE, 2)
	}
	w.step(s)
	w.out.Value, w.out.Unit = w.reading.Amount, m.Amounts.Unit
}

// unitFactor is the factor between units with its rounding taken off.
func unitFactor(v float64) float64 {
	rounded, err := strconv.ParseFloat(strconv.FormatFloat(v, 'e', 11, 64), 64)
	if err != nil {
		return v
	}
	return rounded
}

// uncertainty writes how the amount's standard uncertainty is made of its terms, and the interval.
func (w *worker) uncertainty() {
	if w.reading.AmountSE == nil || len(w.reading.Terms) == 0 {
		return
	}
	top := []Term{plain("√(")}
	for i, t := range w.reading.Terms {
		if i > 0 {
			top = append(top, plain(" + "))
		}
		top = append(top, plain(Significant(t.Percent, 3)+"²"))
	}
	top = append(top, plain(")"))
	names := make([]string, len(w.reading.Terms))
	for i, t := range w.reading.Terms {
		names[i] = t.Name
	}
	relative := 100 * *w.reading.AmountSE / math.Abs(*w.reading.Amount)
	s := Step{Title: "Standard uncertainty in %, from " + strings.Join(names, ", "), Top: top, Result: fmt.Sprintf("%s %% = %s %s", Significant(relative, 2), Significant(*w.reading.AmountSE, 2), w.out.Unit)}
	if ci := w.reading.AmountCI95; ci != nil {
		s.Result += fmt.Sprintf("; 95 %% interval %s to %s", Significant(ci[0], 4), Significant(ci[1], 4))
	}
	w.step(s)
}

// mean adds the last step where the sample has more than one replicate with an amount.
func (w *worker) mean() {
	if w.in.Role != Sample {
		return
	}
	for _, row := range w.process.result.Samples {
		v, ok := row.Values[w.curve.CompoundID]
		if !ok || !slices.Contains(row.InjectionIDs, w.in.ID) || v.N < 2 || v.Mean == nil {
			continue
		}
		var top []Term
		for i, in := range w.process.injections {
			r := w.process.result.Injections[i].Readings[w.curve.CompoundID]
			if slices.Contains(row.InjectionIDs, in.ID) && r.Amount != nil {
				if len(top) > 0 {
					top = append(top, plain(" + "))
				}
				top = append(top, Term{Significant(*r.Amount, 5), &Link{checks.Results, in.ID, w.curve.CompoundID}})
			}
		}
		s := Step{Title: fmt.Sprintf("Mean of %d", v.N), Top: top, Bottom: []Term{plain(strconv.Itoa(v.N))}, Result: Significant(*v.Mean, 4) + " " + w.out.Unit}
		if v.RSD != nil {
			s.Title += ", relative SD " + Significant(*v.RSD, 2) + " %"
		}
		if v.N < v.Of {
			s.Title = fmt.Sprintf("Mean of %d of %d", v.N, v.Of) + strings.TrimPrefix(s.Title, fmt.Sprintf("Mean of %d", v.N))
		}
		w.step(s)
		w.meanUncertainty(v)
		w.out.Value = v.Mean
	}
}

// meanUncertainty writes which terms of a mean's uncertainty average out over its replicates and which do not.
func (w *worker) meanUncertainty(v SampleValue) {
	if v.SE == nil || v.CI95 == nil || len(v.Terms) == 0 {
		return
	}
	top := []Term{plain("√(")}
	var averaging, common []string
	for i, t := range v.Terms {
		if i > 0 {
			top = append(top, plain(" + "))
		}
		top = append(top, plain(Significant(t.Percent, 3)+"²"))
		if t.Averages {
			averaging = append(averaging, t.Name)
		} else {
			common = append(common, t.Name)
		}
	}
	title := "Standard uncertainty of the mean in %"
	if len(averaging) > 0 {
		title += "; averaging out: " + strings.Join(averaging, ", ")
	}
	if len(common) > 0 {
		title += "; common: " + strings.Join(common, ", ")
	}
	w.step(Step{Title: title, Top: append(top, plain(")")),
		Result: fmt.Sprintf("%s %s; 95 %% interval %s to %s", Significant(*v.SE, 2), w.out.Unit, Significant(v.CI95[0], 4), Significant(v.CI95[1], 4))})
}

func (w *worker) doubts() {
	for _, f := range w.reading.Flags {
		switch f {
		case AboveRange:
			if w.reading.Dilute == nil {
				break // its problem says where it is
			}
			w.doubt("Beyond the highest standard in use, %s %s. Diluted %.1f times more it would lie inside.", number(w.curve.Fit.HighX), w.process.method.Curves.Unit, *w.reading.Dilute)
		case BelowRange:
			if w.curve.LOQ == nil {
				break
			}
			w.doubt("Below the quantitation limit, %s %s.", number(*w.curve.LOQ), w.process.method.Curves.Unit)
		case NotDetected:
			w.doubt("Below the detection limit, %s %s: reported as not detected.", number(*w.curve.LOD), w.process.method.Curves.Unit)
		case CheckDrift:
			w.doubt("A check next to this sample is outside its limits.")
		case NoSampleAmount:
			w.doubt("There is no sample amount or volume, so only the concentration can be given.")
		case NotFound:
			w.doubt("No peak was found in its window.")
		}
	}
	if w.reading.Problem != "" {
		w.doubt("%s", w.reading.Problem)
	}
}

func (w *worker) doubt(format string, args ...any) {
	w.out.Doubts = append(w.out.Doubts, fmt.Sprintf(format, args...))
}

// workGroup derives the sum of a group in one injection.
func (p *process) workGroup(i int, group string) (Working, bool) {
	in := p.injections[i]
	w := worker{process: p, in: in, index: i}
	w.out = Working{CompoundID: GroupPrefix + group, Subject: group + " in " + p.replicateName(i), Unit: p.method.ReportedUnit(), Steps: []Step{}, Doubts: []string{}}
	var top []Term
	sum, known := 0.0, false
	for _, c := range p.method.Targets() {
		if c.Group != group {
			continue
		}
		known = true
		r := p.result.Injections[i].Readings[c.ID]
		if r.Amount == nil {
			w.doubt("%s has no amount here and adds nothing.", c.Name)
			continue
		}
		if len(top) > 0 {
			top = append(top, plain(" + "))
		}
		top = append(top, plain(c.Name+" "), Term{Significant(*r.Amount, 5), &Link{checks.Results, in.ID, c.ID}})
		sum += *r.Amount
	}
	if !known {
		return Working{}, false
	}
	if len(top) > 0 {
		w.out.Value = &sum
		w.step(Step{Title: "Sum of " + group, Top: top, Result: Significant(sum, 5) + " " + w.out.Unit})
	}
	for _, row := range p.result.Samples {
		if v := row.Groups[group]; slices.Contains(row.InjectionIDs, in.ID) && v.N > 1 && v.Mean != nil {
			w.step(Step{Title: fmt.Sprintf("Mean of %d", v.N), Top: []Term{plain("sum of each of them")}, Bottom: []Term{plain(strconv.Itoa(v.N))}, Result: Significant(*v.Mean, 4) + " " + w.out.Unit})
			w.out.Value = v.Mean
		}
	}
	w.out.Text = w.out.text()
	return w.out, true
}

// text is a working as a proof that can be read on its own, with brackets where they belong.
func (w Working) text() string {
	var b strings.Builder
	b.WriteString(w.Subject)
	if w.Value != nil {
		fmt.Fprintf(&b, ": %s %s", Significant(*w.Value, 4), w.Unit)
	}
	b.WriteString("\n")
	for i, s := range w.Steps {
		top, bottom := joinTerms(s.Top), joinTerms(s.Bottom)
		switch {
		case bottom == "":
		case strings.ContainsAny(top, "+−") && strings.Contains(top, " "):
			top = "(" + top + ") / "
		default:
			top += " / "
		}
		if strings.Contains(bottom, " + ") {
			bottom = "(" + bottom + ")"
		}
		fmt.Fprintf(&b, "%d. %s: %s%s = %s\n", i+1, s.Title, top, bottom, s.Result)
	}
	for _, d := range w.Doubts {
		b.WriteString("Note: " + d + "\n")
	}
	return b.String()
}

func joinTerms(terms []Term) string {
	var b strings.Builder
	for _, t := range terms {
		b.WriteString(t.Text)
	}
	return b.String()
}
