package batch

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/checks"
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

// GroupPrefix begins the id of a group where a working is asked for: group:catechins.
const GroupPrefix = "group:"

// Work derives the amount of a compound, or of a group, in one injection, or ok = false when either is not in the batch.
func Work(entries []Entry, m Method, r Result, injectionID, compoundID string) (Working, bool) {
	injections := make([]Injection, len(entries))
	for k, e := range entries {
		injections[k].Entry = e
	}
	i := slices.IndexFunc(entries, func(e Entry) bool { return e.ID == injectionID })
	if i < 0 {
		return Working{}, false
	}
	p := process{method: m, injections: injections, result: r}
	if group, ok := strings.CutPrefix(compoundID, GroupPrefix); ok {
		return p.workGroup(i, group)
	}
	c := slices.IndexFunc(r.Curves, func(c Curve) bool { return c.CompoundID == compoundID })
	if c < 0 {
		return Working{}, false
	}
	w := worker{process: &p, in: injections[i], index: i, curve: r.Curves[c], reading: r.Injections[i].Readings[compoundID]}
	w.out = Working{CompoundID: compoundID, Subject: p.compoundName(compoundID) + " in " + p.replicateName(i), Unit: m.Curves.Unit, Steps: []Step{}, Doubts: []string{}}
	w.response()
	w.read()
	w.share()
	w.content()
	w.uncertainty()
	w.mean()
	w.doubts()
	w.out.Text = w.out.text()
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
