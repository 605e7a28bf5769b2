package report

import (
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/screening"
	"yugen/report/layouts"
)

// screened is the input with caffeine screened for, found in the sample, and a word on it.
func screened(t *testing.T, word screening.Word, inside bool) Input {
	t.Helper()
	in := input(t)
	in.Result.Samples[0].Values["caf"] = batch.SampleValue{Of: 1}
	own := in.Result.Samples[0].Values["caf"]
	own.Mean, own.N = ptr(9.28125), 1
	in.Result.Samples[0].Values["caf"] = own
	marks := []screening.Mark{screening.NewMark(screening.Retention, ptr(2.0), ptr(1.9), ptr(2.1)), screening.NewMark(screening.Spectrum, ptr(97.5), ptr(98.0), nil), {Kind: screening.Ratio, Low: ptr(0.2), High: ptr(0.4)}}
	if inside {
		marks = marks[:1]
	}
	e := screening.Evidence{InjectionID: "2", Found: word != screening.Nothing, Marks: marks, Word: screening.Proposed}
	cell := batch.ScreenedCell{Word: word, Evidence: []screening.Evidence{e}}
	if word == screening.Present || word == screening.NotPresent {
		cell.Decision = &screening.Decision{Sample: in.Lines[1].Name, Word: word, By: "M. Okada", Why: "looked at"}
	}
	in.Screened = &batch.Screened{Compounds: []batch.ScreenedCompound{{ID: "caf", Name: "Caffeine"}}, Samples: []batch.ScreenedSample{{Name: in.Lines[1].Name, InjectionIDs: []string{"2"}, Cells: []batch.ScreenedCell{cell}}}}
	return in
}

// What nobody has confirmed is on no page of any kind as present, nor by its amount.
func TestWhatIsUndecidedIsNotReportedAsPresent(t *testing.T) {
	for _, each := range []layouts.Each{layouts.EachInjection, layouts.EachSample, layouts.EachBatch} {
		for word, says := range map[screening.Word]string{screening.Proposed: "not decided", screening.LookHere: "not decided", screening.NotPresent: "not present", screening.BelowLimit: "below limit", screening.Again: "to inject again", screening.Present: "present", screening.Nothing: "–"} {
			in := screened(t, word, false)
			l := layouts.Layout{Form: 1, Name: "All", Each: each, Paper: layouts.A4, MarginMM: layouts.Margin{Left: 20, Right: 20, Top: 32, Bottom: 20}, Rows: [][]layouts.Block{
				{{ID: "a", Kind: layouts.Screening}}, {{ID: "b", Kind: layouts.Results}}, {{ID: "c", Kind: layouts.Text, Text: "It holds {amount of Caffeine}."}}}}
			r, err := Make(l, in, Subject{InjectionID: "2", Sample: in.Lines[1].Name})
			if err != nil {
				t.Fatal(err)
			}
			page := texts(r)
			if !strings.Contains(page, says) {
				t.Errorf("%s, %s: the page does not say %q:\n%s", each, word, says, page)
			}
			if told := strings.Contains(page, "9.28"); told != (word == screening.Present || word == screening.Nothing) {
				t.Errorf("%s, %s: the amount is told: %v\n%s", each, word, told, page)
			}
		}
	}
}

// A page says by what it was decided, and what lies outside.
func TestTheEvidenceIsOnThePage(t *testing.T) {
	l, err := layouts.ShippedLayout("screening")
	if err != nil {
		t.Fatal(err)
	}
	r, err := Make(l, screened(t, screening.Present, false), Subject{})
	if err != nil {
		t.Fatal(err)
	}
	page := texts(r)
	for _, words := range []string{"2.000 (1.900–2.100)", "97.5 (≥ 98.0)", "no peak (20.0–40.0)", "Decided by M. Okada", "present: looked at"} {
		if !strings.Contains(page, words) {
			t.Errorf("the page does not say %q:\n%s", words, page)
		}
	}
	in := screened(t, screening.Proposed, true)
	in.Screened = nil
	if r, err = Make(l, in, Subject{}); err != nil || !strings.Contains(texts(r), "no rules of a screening") {
		t.Errorf("without rules: %v", err)
	}
}
