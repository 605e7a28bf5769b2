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

// The steps of a working. Each is written by the computation that it tells of, from the very numbers that it works with.

func (p *process) tellResponse(i int, compoundID string, m peakResponse) {
	what, id := "area", p.injections[i].ID
	if p.method.Curves.Response == Height {
		what = "height"
	}
	s := Step{
		Title:  fmt.Sprintf("Peak %s, injection %d", what, i+1),
		Rule:   ResponseRule,
		Top:    []Term{{Significant(m.measure, 5), &Link{checks.Peaks, id, compoundID}}},
		Result: Significant(m.response, 5),
	}
	if p.injections[i].Typed != nil {
		s.Title, s.Top[0].Link.Station = fmt.Sprintf("Response as typed, injection %d", i+1), checks.Batch
	}
	if m.standard != nil {
		is := m.standard.CompoundID
		s.Title = fmt.Sprintf("Peak %s ÷ internal standard's, injection %d", what, i+1)
		if p.internals > 1 {
			s.Title = fmt.Sprintf("Peak %s ÷ that of %s, injection %d", what, p.compoundName(is), i+1)
		}
		s.Bottom = []Term{{Significant(p.measure(m.standard), 5), &Link{checks.Peaks, id, is}}}
	}
	p.tell(s)
}

func (p *process) tellFactor(c Curve, response, relative float64) {
	p.tell(Step{
		Title: fmt.Sprintf("Relative response factor, to the curve of %s", p.compoundName(c.RelativeTo)),
		Rule:  FactorRule,
		Top:   []Term{plain(Significant(response, 5))}, Bottom: []Term{{number(response / relative), p.curveLink(c.CompoundID)}},
		Result: Significant(relative, 5),
	})
}

func (p *process) curveLink(compoundID string) *Link {
	return &Link{Station: checks.Curves, CompoundID: compoundID}
}

// tellCurve writes how a response is turned into a concentration by one curve, and, where it is the only one, how the injection's amount of internal
// standard comes in.
func (p *process) tellCurve(i int, c Curve, of calibration, response float64, read curves.Reading, only bool) {
	fit, link, unit := *of.fit, p.curveLink(c.CompoundID), p.method.Curves.Unit
	co := func(k int) Term { return Term{Significant(fit.Coefficients[k], 5), link} }
	y := plain(Significant(response, 5))
	s := Step{Title: fmt.Sprintf("Read from the curve%s, %s, weight %s", of.which, strings.ReplaceAll(string(fit.Model), "_", " "), weightWord(fit.Weight))}
	if c.From != nil {
		s.Title += ", measured in " + c.From.Batch
	}
	entry := p.injections[i].Entry
	if ratio := p.internalRatio(entry, c.CompoundID); ratio != 1 {
		read = scaled(read, ratio)
		is, _ := p.against(c.CompoundID)
		s.Title += fmt.Sprintf(", × %s ÷ %s of internal standard", number(p.internalAmount(entry, is)), number(is.Amount))
	}
	s.Result = Significant(read.X, 5) + " " + unit
	switch fit.Model {
	case curves.Linear:
		s.Rule = LineRule
		s.Bottom = []Term{co(1)}
		if fit.Coefficients[0] >= 0 {
			s.Top = []Term{y, plain(" − "), co(0)}
		} else {
			s.Top = []Term{y, plain(" − ("), co(0), plain(")")}
		}
	case curves.LinearOrigin, curves.Average, curves.OnePoint:
		s.Rule = OriginRule
		s.Top, s.Bottom = []Term{y}, []Term{co(0)}
	case curves.Quadratic:
		s.Rule = QuadraticRule
		s.Top = []Term{plain("x with "), co(0), plain(" + "), co(1), plain(" x + "), co(2), plain(" x² = "), y}
	case curves.QuadraticOrigin:
		s.Rule = QuadraticRule
		s.Top = []Term{plain("x with "), co(0), plain(" x + "), co(1), plain(" x² = "), y}
	case curves.LogLog:
		s.Rule = LogRule
		s.Top, s.Bottom = []Term{plain("log "), y, plain(" − ("), co(0), plain(")")}, []Term{co(1)}
		s.Result = "log x, x = " + s.Result
	}
	if read.StandardError != nil && only {
		s.Result += " ± " + Significant(*read.StandardError, 2)
	}
	p.tell(s)
	p.comes(read.X, unit)
}

// weightWord is a weight as a person writes it.
func weightWord(w curves.Weight) string {
	switch w {
	case curves.PerVariance:
		return "1/s², s of replicates modelled"
	case curves.PerMeasuredVariance:
		return "1/s², s of replicates as measured"
	}
	return string(w)
}

// tellBetween writes what the calibrations before and after come to together.
func (p *process) tellBetween(i int, compoundID string, list []calibration, around []float64, read curves.Reading) {
	ratio := p.internalRatio(p.injections[i].Entry, compoundID)
	read = scaled(read, ratio)
	title := "Mean of the two"
	if p.method.Curves.Brackets == BetweenOfBracket {
		title = "Between the two, in run order"
	}
	s := Step{Title: title, Rule: BetweenRule, Result: Significant(read.X, 5) + " " + p.method.Curves.Unit}
	for k, of := range list {
		if k > 0 {
			s.Top = append(s.Top, plain(" + "))
		}
		s.Top = append(s.Top, plain(Significant(of.share, 4)+" × "+Significant(ratio*around[k], 5)))
	}
	if read.StandardError != nil {
		s.Result += " ± " + Significant(*read.StandardError, 2)
	}
	p.tell(s)
	p.comes(read.X, p.method.Curves.Unit)
}

func (p *process) tellAddition(compoundID string, a curves.Addition) {
	link, weighted := p.curveLink(compoundID), "without weights"
	if a.Fit.Weight != curves.Unweighted {
		weighted = "weight " + weightWord(a.Fit.Weight)
	}
	s := Step{
		Title: fmt.Sprintf("Standard addition, %d injections, a straight line %s: intercept ÷ slope", len(a.Fit.Points), weighted),
		Rule:  AdditionRule,
		Top:   []Term{{Significant(a.Fit.Coefficients[0], 5), link}}, Bottom: []Term{{Significant(a.Fit.Coefficients[1], 5), link}},
		Result: Significant(a.X, 5) + " " + p.method.Curves.Unit,
	}
	if a.StandardError != nil {
		s.Result += " ± " + Significant(*a.StandardError, 2)
	}
	p.tell(s)
	p.comes(a.X, p.method.Curves.Unit)
}

func (p *process) tellRecovery(i int, found, nominal, percent float64) {
	p.tell(Step{
		Title: "Recovery of the check",
		Rule:  RecoveryRule,
		Top:   []Term{plain("100 × " + Significant(found, 5))}, Bottom: []Term{{Significant(nominal, 5), &Link{Station: checks.Batch, InjectionID: p.injections[i].ID}}},
		Result: Significant(percent, 4) + " %",
	})
	p.comes(percent, "%")
}

// tellShare writes the percent of the total.
func (p *process) tellShare(i int, concentration, percent float64) {
	var bottom []Term
	for _, c := range p.result.Curves {
		r := p.result.Injections[i].Readings[c.CompoundID]
		if !r.counts() {
			continue
		}
		if len(bottom) > 0 {
			bottom = append(bottom, plain(" + "))
		}
		bottom = append(bottom, Term{Significant(*r.Concentration, 4), &Link{checks.Results, p.injections[i].ID, c.CompoundID}})
	}
	p.tell(Step{Title: "Share of all targets found", Rule: ShareRule, Top: []Term{plain("100 × " + Significant(concentration, 5))}, Bottom: bottom, Result: Significant(percent, 4) + " %"})
	p.comes(percent, p.method.ReportedUnit())
}

// tellContent writes what the preparation makes of a concentration, and the uncertainty of the amount.
func (p *process) tellContent(i int, r Reading, b blank, net float64) {
	in, m := p.injections[i], p.method
	link := &Link{Station: checks.Batch, InjectionID: in.ID}
	if b.n > 0 {
		s := Step{Title: fmt.Sprintf("Blank taken off, the mean of %d", b.n), Rule: BlankRule, Top: []Term{plain(Significant(*r.Concentration, 5) + " − "), {Significant(b.mean, 4), &Link{Station: checks.Results}}}, Result: Significant(net, 5) + " " + m.Curves.Unit}
		if in.Dilution != 1 {
			s.Title += ", ÷ dilution"
			s.Top = append(s.Top, plain(" ÷ "+number(in.Dilution)))
		}
		p.tell(s)
		if b.se == 0 {
			p.doubt("How much the blanks scatter is not known, so taking them off adds no uncertainty.")
		}
	}
	if !m.Amounts.Prepared() {
		p.comes(*r.Amount, m.ReportedUnit())
		p.tellUncertainty(r)
		return
	}
	top := []Term{plain(Significant(net, 5) + " " + m.Curves.Unit + " × "), {number(in.Dilution), link}, plain(" × "), {number(*in.Volume) + " " + m.Amounts.VolumeUnit, link}}
	if in.Factor != 1 {
		top = append(top, plain(" × "), Term{number(in.Factor), link})
	}
	if product := net * in.Dilution * *in.Volume / *in.Sample * in.Factor; product != 0 {
		if factor := unitFactor(*r.Amount / product); factor != 1 {
			top = append(top, plain(" × "+number(factor)+" (units)"))
		}
	}
	s := Step{Title: "Dilution, extract volume, sample taken", Rule: ContentRule, Top: top,
		Bottom: []Term{{number(*in.Sample) + " " + m.Amounts.SampleUnit, link}},
		Result: Significant(*r.Amount, 5) + " " + m.Amounts.Unit}
	if r.AmountSE != nil {
		s.Result += " ± " + Significant(*r.AmountSE, 2)
	}
	p.tell(s)
	p.comes(*r.Amount, m.Amounts.Unit)
	p.tellUncertainty(r)
}

// unitFactor is the factor between units with its rounding taken off.
func unitFactor(v float64) float64 {
	rounded, err := strconv.ParseFloat(strconv.FormatFloat(v, 'e', 11, 64), 64)
	if err != nil {
		return v
	}
	return rounded
}

// tellUncertainty writes how the amount's standard uncertainty is made of its terms, and the interval.
func (p *process) tellUncertainty(r Reading) {
	if r.AmountSE == nil || len(r.Terms) == 0 {
		return
	}
	names := make([]string, len(r.Terms))
	percents := make([]float64, len(r.Terms))
	for k, t := range r.Terms {
		names[k], percents[k] = t.Name, t.Percent
	}
	relative := 100 * *r.AmountSE / math.Abs(*r.Amount)
	s := Step{Title: "Standard uncertainty in %, from " + strings.Join(names, ", "), Rule: UncertaintyRule, Top: rootOfSquares(percents), Result: fmt.Sprintf("%s %% = %s %s", Significant(relative, 2), Significant(*r.AmountSE, 2), p.method.ReportedUnit())}
	if ci := r.AmountCI95; ci != nil {
		s.Result += fmt.Sprintf("; 95 %% interval %s to %s", Significant(ci[0], 4), Significant(ci[1], 4))
	}
	p.tell(s)
}

func rootOfSquares(percents []float64) []Term {
	top := []Term{plain("√(")}
	for k, v := range percents {
		if k > 0 {
			top = append(top, plain(" + "))
		}
		top = append(top, plain(Significant(v, 3)+"²"))
	}
	return append(top, plain(")"))
}

// tellSum writes the sum of a group in one injection.
func (p *process) tellSum(i int, group string, members []string, sum float64) {
	s := Step{Title: "Sum of " + group, Rule: SumRule, Result: Significant(sum, 5) + " " + p.method.ReportedUnit()}
	for _, id := range members {
		r := p.result.Injections[i].Readings[id]
		if r.Amount == nil {
			p.doubt("%s has no amount here and adds nothing.", p.compoundName(id))
			continue
		}
		if len(s.Top) > 0 {
			s.Top = append(s.Top, plain(" + "))
		}
		s.Top = append(s.Top, plain(p.compoundName(id)+" "), Term{Significant(*r.Amount, 5), &Link{checks.Results, p.injections[i].ID, id}})
	}
	if len(s.Top) > 0 {
		p.tell(s)
		p.comes(sum, p.method.ReportedUnit())
	}
}

// tellMean writes the last step where a sample has more than one replicate with an amount.
func (p *process) tellMean(row SampleRow, id string, v SampleValue) {
	if v.N < 2 || v.Mean == nil {
		return
	}
	var top []Term
	if strings.HasPrefix(id, GroupPrefix) {
		top = []Term{plain("sum of each of them")}
	}
	for i, in := range p.injections {
		r := p.result.Injections[i].Readings[id]
		if slices.Contains(row.InjectionIDs, in.ID) && r.inMeans() {
			if len(top) > 0 {
				top = append(top, plain(" + "))
			}
			top = append(top, Term{Significant(*r.Amount, 5), &Link{checks.Results, in.ID, id}})
		}
	}
	unit := p.method.ReportedUnit()
	s := Step{Title: fmt.Sprintf("Mean of %d", v.N), Rule: MeanRule, Top: top, Bottom: []Term{plain(strconv.Itoa(v.N))}, Result: Significant(*v.Mean, 4) + " " + unit}
	if v.N < v.Of {
		s.Title += fmt.Sprintf(" of %d", v.Of)
	}
	if v.RSD != nil {
		s.Title += ", relative SD " + Significant(*v.RSD, 2) + " %"
	}
	p.tell(s)
	p.comes(*v.Mean, unit)
	p.tellMeanUncertainty(v, unit)
}

// tellMeanUncertainty writes which terms of a mean's uncertainty average out over its replicates and which do not.
func (p *process) tellMeanUncertainty(v SampleValue, unit string) {
	if v.SE == nil || v.CI95 == nil || len(v.Terms) == 0 {
		return
	}
	percents := make([]float64, len(v.Terms))
	var averaging, common []string
	for k, t := range v.Terms {
		percents[k] = t.Percent
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
	p.tell(Step{Title: title, Rule: MeanUncertaintyRule, Top: rootOfSquares(percents),
		Result: fmt.Sprintf("%s %s; 95 %% interval %s to %s", Significant(*v.SE, 2), unit, Significant(v.CI95[0], 4), Significant(v.CI95[1], 4))})
}

// tellDoubts writes what speaks against a number.
func (p *process) tellDoubts(c Curve, r Reading) {
	unit := p.method.Curves.Unit
	for _, f := range r.Flags {
		switch f {
		case AboveRange:
			if r.Dilute == nil {
				break // its problem says where it is
			}
			p.doubt("Beyond the highest standard in use, %s %s. Diluted %.1f times more it would lie inside.", number(c.Fit.HighX), unit, *r.Dilute)
		case BelowRange:
			if c.LOQ == nil {
				break
			}
			p.doubt("Below the quantitation limit, %s %s.", number(*c.LOQ), unit)
		case NotDetected:
			p.doubt("Below the detection limit, %s %s: reported as not detected.", number(*c.LOD), unit)
		case CheckDrift:
			p.doubt("A check next to this sample is outside its limits.")
		case NoSampleAmount:
			p.doubt("There is no sample amount or volume, so only the concentration can be given.")
		case Doubtful:
			p.doubt("Something was wrong with the instrument while it eluted; it counts in no mean until it is run again or taken as it is.")
		case NotFound:
			p.doubt("No peak was found in its window.")
		}
	}
	if r.Problem != "" {
		p.doubt("%s", r.Problem)
	}
}
