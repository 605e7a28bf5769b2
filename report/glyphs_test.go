package report

import (
	"strings"
	"testing"
)

// Whatever characters people write: no crash, and what no face has stands as its code point, never as a box like any other.
func TestEveryCharacterIsShownOrNamed(t *testing.T) {
	for text, want := range map[string]string{
		"Théanine, 5 µg/mL ± 0,3": "Théanine, 5 µg/mL ± 0,3",
		"緑茶":                      "[U+7DD1][U+8336]",
		"leaf 🍃":                  "leaf [U+1F343]",
		"שלום":                    "[U+05E9][U+05DC][U+05D5][U+05DD]",
		"a\x00b\u202e":            "a[U+0000]b[U+202E]",
	} {
		if got := printable(text, Sans); got != want {
			t.Errorf("%q is written %q, want %q", text, got, want)
		}
	}
	if font := faceFor("γ-Terpinene", Serif); font != Sans {
		t.Errorf("Greek is set in %s, which lacks it", font)
	}
	if font := faceFor("Жук", SerifMed); font != SerifMed {
		t.Errorf("Cyrillic is set in %s", font)
	}
	in := input(t)
	in.Study, in.Batch = "緑茶 🍃 "+strings.Repeat("𝔘", 200), "ชา"
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
