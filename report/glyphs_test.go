package report

import (
	"slices"
	"strings"
	"testing"
)

// Whatever characters people write: no crash, and what no face has stands as its code point, never as a box like any other.
func TestEveryCharacterIsShownOrNamed(t *testing.T) {
	for text, want := range map[string][]run{
		"Théanine, 5 µg/mL ± 0,3": {{"Théanine, 5 µg/mL ± 0,3", Serif, false}},
		"γ-Terpinene":             {{"γ", Sans, false}, {"-Terpinene", Serif, false}},
		"Жук":                     {{"Жук", Serif, false}},
		"Sencha 緑茶 5":             {{"Sencha ", Serif, false}, {"緑茶", Han, false}, {" 5", Serif, false}},
		"ほうじ茶":                    {{"ほうじ茶", Han, false}},
		"녹":                       {{"[U+B179]", Serif, false}},
		"ชา":                      {{"ชา", Thai, false}},
		"תה (ירוק)":               {{")", Serif, true}, {"ירוק", Hebrew, true}, {" (", Serif, true}, {"תה", Hebrew, true}},
		"תה (2)":                  {{")", Serif, true}, {"2", Serif, false}, {" (", Serif, true}, {"תה", Hebrew, true}},
		"a תה b":                  {{"a ", Serif, false}, {"תה", Hebrew, true}, {" b", Serif, false}},
		"leaf 🍃":                  {{"leaf [U+1F343]", Serif, false}},
		"a\x00b\u2029c":           {{"a[U+0000]b[U+2029]c", Serif, false}},
	} {
		if got := runsOf(text, Serif); !slices.Equal(got, want) {
			t.Errorf("%q is set as %+v, want %+v", text, got, want)
		}
	}
	if got := backwards("(שָׁלוֹם)"); got != "(םוֹלשָׁ)" {
		t.Errorf("%q", got)
	}
	in := input(t)
	in.Study, in.Batch = "緑茶 שלום 🍃 "+strings.Repeat("𝔘", 200), "ชา"
	in.Lines[0].Name = "leaf 🍃"
	for _, layout := range []Layout{WholeBatch, OneInjection} {
		r, err := New(layout, in, in.Lines[0].ID)
		if err != nil {
			t.Fatal(err)
		}
		if pdf, err := r.PDF(); err != nil || len(pdf) == 0 {
			t.Errorf("%s: %v", layout, err)
		}
		if svg := strings.Join(r.SVG(), ""); !strings.Contains(svg, "[U+1F343]") {
			t.Errorf("%s: the leaf is not named", layout)
		}
	}
}
