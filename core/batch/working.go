package batch

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/checks"
	"yugen/core/compounds"
)

// Working is the derivation of a reported number, in the order in which a person would calculate it.
type Working struct {
	CompoundID string   `json:"compound_id"`
	Subject    string   `json:"subject"`
	Value      *float64 `json:"value"`
	Unit       string   `json:"unit"`
	Steps      []Step   `json:"steps"`
	Doubts     []string `json:"doubts"`
	Text       string   `json:"text"` // the same as lines of text, to be copied
}

// Step is one line of a working: top over bottom (or top alone), and what it gives.
type Step struct {
	Title  string `json:"title"`
	Rule   Rule   `json:"rule"`
	Top    []Term `json:"top"`
	Bottom []Term `json:"bottom,omitempty"`
	Result string `json:"result"`
}

// Rule names the formula that a step follows; docs/help.md has each of them in general.
type Rule string

// The formulas of a working.
const (
	ResponseRule        Rule = "response"
	FactorRule          Rule = "factor"
	LineRule            Rule = "line"
	OriginRule          Rule = "origin"
	QuadraticRule       Rule = "quadratic"
	LogRule             Rule = "log"
	BetweenRule         Rule = "between"
	AdditionRule        Rule = "addition"
	RecoveryRule        Rule = "recovery"
	ShareRule           Rule = "share"
	BlankRule           Rule = "blank"
	ContentRule         Rule = "content"
	UncertaintyRule     Rule = "uncertainty"
	SumRule             Rule = "sum"
	MeanRule            Rule = "mean"
	MeanUncertaintyRule Rule = "mean_uncertainty"
)

// Rules lists them in the order in which a working has them.
var Rules = []Rule{ResponseRule, FactorRule, LineRule, OriginRule, QuadraticRule, LogRule, BetweenRule, AdditionRule, RecoveryRule, ShareRule, BlankRule, ContentRule,
	UncertaintyRule, SumRule, MeanRule, MeanUncertaintyRule}

// Term is a piece of a formula: a number that leads to where it came from, or plain text.
type Term struct {
	Text string `json:"text"`
	Link *Link  `json:"link,omitempty"`
}

// Link is the place a number came from.
type Link struct {
	Station     checks.Station `json:"station"`
	InjectionID string         `json:"injection_id,omitempty"`
	CompoundID  string         `json:"compound_id,omitempty"`
}

func plain(text string) Term { return Term{Text: text} }

// Significant writes a value with the given number of significant digits, a true minus sign, and no exponent between
// 0.0001 and 10 million.
func Significant(v float64, digits int) string {
	a := math.Abs(v)
	if a != 0 && (a < 1e-4 || a >= 1e7) {
		return strings.Replace(strconv.FormatFloat(v, 'e', digits-1, 64), "-", "−", 1)
	}
	decimals := 0
	if a > 0 {
		decimals = max(0, digits-1-int(math.Floor(math.Log10(a))))
	}
	return strings.Replace(strconv.FormatFloat(v, 'f', decimals, 64), "-", "−", 1)
}

// GroupPrefix begins the id of a group where a working is asked for: group:catechins.
const GroupPrefix = "group:"

// narrator listens to how one number comes about while it is computed.
type narrator struct {
	index      int    // of the injection
	compoundID string // or a group's
	out        *Working
}

// Work derives the amount of a compound, or of a group, in one injection, by computing it once more from the peaks and writing down each step. ok is
// false when either is not in the batch.
func Work(in Input, r Result, injectionID, compoundID string) (w Working, ok bool) {
	i := slices.IndexFunc(in.Injections, func(in Injection) bool { return in.ID == injectionID })
	wanted := wantedFor(in.Method, compoundID)
	if i < 0 || i >= len(r.Injections) || len(wanted) == 0 {
		return Working{}, false
	}
	p := newProcess(in)
	p.result.Injections = slices.Clone(r.Injections)
	for k := range p.result.Injections { // what is computed again is written into maps of its own
		p.result.Injections[k].Readings = map[string]Reading{}
	}
	w = Working{CompoundID: compoundID, Unit: in.Method.Curves.Unit, Steps: []Step{}, Doubts: []string{}}
	group, isGroup := strings.CutPrefix(compoundID, GroupPrefix)
	if isGroup {
		w.Subject, w.Unit = group+" in "+p.replicateName(i), in.Method.ReportedUnit()
	} else {
		w.Subject = p.compoundName(compoundID) + " in " + p.replicateName(i)
	}
	p.narrator = &narrator{i, compoundID, &w}
	p.calibrate(wanted)
	p.quantify()
	if !isGroup {
		at := slices.IndexFunc(p.result.Curves, func(c Curve) bool { return c.CompoundID == compoundID })
		p.tellDoubts(p.result.Curves[at], p.result.Injections[i].Readings[compoundID])
	}
	w.Text = w.text()
	return w, true
}

// wantedFor are the targets that a number stands on.
func wantedFor(m Method, compoundID string) (list []compounds.Compound) {
	group, isGroup := strings.CutPrefix(compoundID, GroupPrefix)
	known := false
	for _, c := range m.Targets() {
		mine := c.ID == compoundID || isGroup && c.Group != "" && c.Group == group
		known = known || mine
		if mine || m.Amounts.PercentOfTotal { // a share stands on all of them
			list = append(list, c)
		}
	}
	if !known {
		return nil
	}
	return list
}

// hears tells whether somebody listens to a compound in an injection.
func (p *process) hears(i int, compoundID string) bool {
	return p.narrator != nil && p.narrator.index == i && p.narrator.compoundID == compoundID
}

// hearsRow tells whether somebody listens to a compound in one of a sample's injections.
func (p *process) hearsRow(row SampleRow, compoundID string) bool {
	return p.narrator != nil && p.hears(p.narrator.index, compoundID) && slices.Contains(row.InjectionIDs, p.injections[p.narrator.index].ID)
}

// tell writes a step down.
func (p *process) tell(s Step) { p.narrator.out.Steps = append(p.narrator.out.Steps, s) }

// comes is what the steps have come to so far.
func (p *process) comes(value float64, unit string) {
	p.narrator.out.Value, p.narrator.out.Unit = &value, unit
}

func (p *process) doubt(format string, args ...any) {
	p.narrator.out.Doubts = append(p.narrator.out.Doubts, fmt.Sprintf(format, args...))
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
