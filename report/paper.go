package report

import (
	"regexp"
	"strings"
	"time"

	"yugen/report/layouts"
)

// Paper is how a laboratory wants its pages, where a layout does not say otherwise.
type Paper struct {
	Size  layouts.Paper  // of the layouts that ship; empty is as they are
	Zone  *time.Location // of times; nil is UTC
	Comma bool           // numbers have a decimal comma
}

// onPaper is a moment in the laboratory's time.
func (in Input) onPaper(at time.Time, form string) string {
	if in.Paper.Zone != nil {
		return at.In(in.Paper.Zone).Format(form)
	}
	return at.UTC().Format(form)
}

// A number stands alone between blanks, but for signs around it, or at the ends of a range.
var decimal = regexp.MustCompile(`(^|[\s(<>≤≥±=:/×+−–-])([0-9][0-9\x{202f}\x{00a0}]*)\.([0-9]+)($|[\s)%,;:/×–-])`)

// commas sets decimal commas on all pages. What is a name keeps its points: of samples, files, vials, and whatever else a person has written.
func (w *writer) commas() {
	if !w.in.Paper.Comma {
		return
	}
	var names []string
	for _, l := range w.in.Lines {
		names = append(names, l.Name, l.File, l.Vial, l.Mix, l.Preparation)
		for _, v := range l.Own {
			names = append(names, v)
		}
	}
	names = append(names, w.in.Batch, w.in.Study, w.in.MethodName, w.in.Laboratory, w.in.Address)
	for _, c := range w.in.Method.Compounds {
		names = append(names, c.Name)
	}
	for _, r := range w.in.Record {
		names = append(names, r.What, r.Why)
	}
	var pointed []string
	for _, n := range names {
		if decimal.MatchString(n) {
			pointed = append(pointed, n)
		}
	}
	for _, p := range w.pages {
		for _, i := range p.Items {
			if i.Text == nil || !strings.Contains(i.Text.Text, ".") {
				continue
			}
			i.Text.Text = withCommas(i.Text.Text, pointed)
		}
	}
}

func withCommas(text string, names []string) string {
	for _, n := range names {
		if strings.Contains(text, n) || len(text) > 3 && strings.Contains(n, strings.TrimSuffix(text, "…")) {
			return text
		}
	}
	for range 2 { // two numbers may share the blank between them
		text = decimal.ReplaceAllString(text, "$1$2,$3$4")
	}
	return text
}
