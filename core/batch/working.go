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

// Working is the derivation of a reported number, in the order in which a person would calculate it.
type Working struct {
	CompoundID string   `json:"compound_id"`
	Subject    string   `json:"subject"`
	Value      *float64 `json:"value"`
	Unit       string   `json:"unit"`
	Steps      []Step   `json:"steps"`
	Doubts     []string `json:"doubts"`
}

// Step is one line of a working: top over bottom (or top alone), and what it gives.
type Step struct {
	Title  string `json:"title"`
	Top    []Term `json:"top"`
	Bottom []Term `json:"bottom,omitempty"`
	Result string `json:"result"`
}

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

// Work derives the amount of a compound in one injection, or ok = false when either is not in the batch.
func Work(entries []Entry, m Method, r Result, injectionID, compoundID string) (Working, bool) {
	injections := make([]Injection, len(entries))
	for k, e := range entries {
		injections[k].Entry = e
	}
	i := slices.IndexFunc(entries, func(e Entry) bool { return e.ID == injectionID })
	c := slices.IndexFunc(r.Curves, func(c Curve) bool { return c.CompoundID == compoundID })
	if i < 0 || c < 0 {
		return Working{}, false
	}
	p := process{method: m, injections: injections, result: r}
	w := worker{process: &p, in: injections[i], index: i, curve: r.Curves[c], reading: r.Injections[i].Readings[compoundID]}
	w.out = Working{CompoundID: compoundID, Subject: p.compoundName(compoundID) + " in " + p.replicateName(i), Unit: m.Curves.Unit, Steps: []Step{}, Doubts: []string{}}
	w.response()
	w.read()
	w.content()
	w.mean()
	w.doubts()
	return w.out, true
}

type worker struct {
	process *process
	in      Injection
	index   int
	curve   Curve
	reading Reading
	out     Working
}

func (w *worker) step(s Step) { w.out.Steps = append(w.out.Steps, s) }

func (w *worker) peakLink(injectionID, compoundID string) *Link {
	return &Link{checks.Peaks, injectionID, compoundID}
}

func (w *worker) response() {
	injected := &w.process.result.Injections[w.index]
	peak := injected.peak(w.curve.CompoundID)
	if peak == nil || w.reading.Response == nil {
		return
	}
	what := "area"
	if w.process.method.Curves.Response == Height {
		what = "height"
	}
	s := Step{
		Title:  fmt.Sprintf("Peak %s, injection %d", what, w.index+1),
		Top:    []Term{{Significant(w.process.measure(peak), 5), w.peakLink(w.in.ID, w.curve.CompoundID)}},
		Result: Significant(*w.reading.Response, 5),
	}
	if is, ok := w.process.method.InternalStandard(); ok {
		s.Title = fmt.Sprintf("Peak %s ÷ internal standard's, injection %d", what, w.index+1)
		s.Bottom = []Term{{Significant(w.process.measure(injected.peak(is.ID)), 5), w.peakLink(w.in.ID, is.ID)}}
	}
	w.step(s)
}

func (w *worker) read() {
	if w.reading.Concentration == nil {
		return
	}
	fit := w.curve.Fit
	link := &Link{Station: checks.Curves, CompoundID: w.curve.CompoundID}
	co := func(i int) Term { return Term{Significant(fit.Coefficients[i], 5), link} }
	y := plain(Significant(*w.reading.Response, 5))
	unit := w.process.method.Curves.Unit
	s := Step{
		Title:  fmt.Sprintf("Read from the curve, %s, weight %s", fit.Model, fit.Weight),
		Result: Significant(*w.reading.Concentration, 5) + " " + unit,
	}
	switch fit.Model {
	case curves.Linear:
		s.Top, s.Bottom = []Term{y, plain(" − ("), co(0), plain(")")}, []Term{co(1)}
		if fit.Coefficients[0] >= 0 {
			s.Top = []Term{y, plain(" − "), co(0)}
		}
	case curves.LinearOrigin, curves.Average:
		s.Top, s.Bottom = []Term{y}, []Term{co(0)}
	case curves.Quadratic:
		s.Top = []Term{plain("x with "), co(0), plain(" + "), co(1), plain(" x + "), co(2), plain(" x² = "), y}
	case curves.QuadraticOrigin:
		s.Top = []Term{plain("x with "), co(0), plain(" x + "), co(1), plain(" x² = "), y}
	case curves.LogLog:
		s.Top, s.Bottom = []Term{plain("log "), y, plain(" − ("), co(0), plain(")")}, []Term{co(1)}
		s.Result = "log x, x = " + s.Result
	}
	if w.reading.ConcentrationSE != nil {
		s.Result += " ± " + Significant(*w.reading.ConcentrationSE, 2)
	}
	w.out.Value = w.reading.Concentration
	w.step(s)
	if w.reading.Recovery != nil {
		w.step(Step{
			Title: "Recovery of the check",
			Top:   []Term{plain("100 × " + Significant(*w.reading.Concentration, 5))}, Bottom: []Term{{Significant(*w.in.Level, 5), &Link{Station: checks.Batch, InjectionID: w.in.ID}}},
			Result: Significant(*w.reading.Recovery, 4) + " %",
		})
		w.out.Value, w.out.Unit = w.reading.Recovery, "%"
	}
}

func (w *worker) content() {
	if w.reading.Amount == nil {
		return
	}
	m := w.process.method
	link := &Link{Station: checks.Batch, InjectionID: w.in.ID}
	top := []Term{plain(Significant(*w.reading.Concentration, 5) + " " + m.Curves.Unit + " × "), {number(w.in.Dilution), link}, plain(" × "), {number(*w.in.Volume) + " " + m.Amounts.VolumeUnit, link}}
	if w.in.Factor != 1 {
		top = append(top, plain(" × "), Term{number(w.in.Factor), link})
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
		w.step(s)
		w.out.Value = v.Mean
	}
}

func (w *worker) doubts() {
	for _, f := range w.reading.Flags {
		switch f {
		case AboveRange:
			times := math.Ceil(*w.reading.Concentration / (0.8 * w.curve.Fit.HighX))
			w.doubt("Beyond the highest standard in use, %s %s. Diluted %g times more it would read near %s.", number(w.curve.Fit.HighX), w.process.method.Curves.Unit, times, Significant(*w.reading.Concentration/times, 3))
		case BelowRange:
			w.doubt("Below the lowest standard in use, %s %s.", number(w.curve.Fit.LowX), w.process.method.Curves.Unit)
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
