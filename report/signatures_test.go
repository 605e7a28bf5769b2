package report

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"yugen/report/layouts"
)

func textsOf(pages []*Page) string {
	var all []string
	for _, p := range pages {
		for _, i := range p.Items {
			if i.Text != nil {
				all = append(all, i.Text.Text)
			}
		}
	}
	return strings.Join(all, "\n")
}

// Signatures stand on the page with their meaning, moment and seal; what was withdrawn stands there for good, on every page, and where nobody signed there are lines.
func TestSignaturesStandOnThePage(t *testing.T) {
	at := time.Date(2026, 4, 4, 20, 14, 0, 0, time.UTC)
	given := Signature{Meaning: "reviewed", Words: "I looked at every change", Name: "R. Lindqvist", At: at, Seal: "e0821795955d603eaaaa", Proven: true}
	withdrawn := given
	withdrawn.Gone = &Withdrawn{Who: "L. Ferreira", Why: "the bottle says 60", At: at.Add(time.Hour)}
	alone := given
	alone.Alone, alone.Proven = true, false
	for what, c := range map[string]struct {
		signed    []Signature
		has, lack []string
	}{
		"nobody signed": {nil, []string{"Reviewed by"}, []string{"seal", "Unlocked"}},
		"signed":        {[]Signature{given}, []string{"R. Lindqvist", "reviewed, 4 Apr 2026, 20:14 UTC", "seal e082 1795 955d 603e", "I looked at every change"}, []string{"Reviewed by", "not independent", "Unlocked"}},
		"alone":         {[]Signature{alone}, []string{"not independent, not proven by a password"}, nil},
		"withdrawn":     {[]Signature{withdrawn}, []string{"Reviewed by", "withdrawn", "the bottle says 60", "Unlocked 4 Apr 2026, 21:14 UTC by L. Ferreira: the bottle says 60"}, nil},
	} {
		in := input(t)
		in.Signed = c.signed
		made, err := New(WholeBatch, in, "")
		if err != nil {
			t.Fatal(err)
		}
		text := strings.ReplaceAll(textsOf(made.Pages), "\n", " ")
		for _, want := range c.has {
			if !strings.Contains(text, want) {
				t.Errorf("%s: %q is not on the page", what, want)
			}
		}
		for _, not := range c.lack {
			if strings.Contains(text, not) {
				t.Errorf("%s: %q is on the page", what, not)
			}
		}
		document, err := JSON(in, layouts.EachBatch, Subject{}, "")
		if err != nil {
			t.Fatal(err)
		}
		var d Document
		if err := json.Unmarshal(document, &d); err != nil || len(d.Signatures) != len(c.signed) {
			t.Errorf("%s: %d signatures in the document, %v", what, len(d.Signatures), err)
		}
	}
}
