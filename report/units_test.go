package report

import (
	"strings"
	"testing"

	"yugen/report/layouts"
)

// Values are told in another unit, in words and in tables, with the digits that belong to them; what cannot be told so says why.
func TestValuesInOtherUnits(t *testing.T) {
	in := input(t)
	in.Method.Compounds[0].MolarMass = 194.19
	words := func(text string) string {
		t.Helper()
		l := layouts.Layout{Form: 1, Name: "A", Each: layouts.EachInjection, Paper: layouts.A4, MarginMM: layouts.Margin{Left: 20, Right: 20, Top: 32, Bottom: 20}, Rows: [][]layouts.Block{{{ID: "t", Kind: layouts.Text, Text: text}},
			{{ID: "v", Kind: layouts.Results, Values: []layouts.Value{{Quantity: "compound"}, {Quantity: "retention_min", Unit: "s"}, {Quantity: "amount", Unit: "% (m/m)", Digits: 3}}}}}}
		if err := l.Validate(); err != nil {
			t.Fatal(err)
		}
		r, err := Make(l, in, Subject{InjectionID: "2"})
		if err != nil {
			t.Fatal(err)
		}
		return texts(r)
	}
	for text, want := range map[string]string{
		"{retention_min of Caffeine in s; .1}":    "120.0 s",
		"{amount of Caffeine in µg/g; 5}":         "9281.3 µg/g",   // 9.28125 mg/g
		"{amount of Caffeine in µmol/g; 5}":       "47.795 µmol/g", // 9281.25 / 194.19
		"{amount of Caffeine in s}":               "[amount cannot be told in s]",
		"{amount of Caffeine in mg/g; 3}":         "9.28 mg/g",
		"{amount of Caffeine in mmol/L}":          "cannot be told in mmol/L",
		"{name} in a sentence, not a unit {vial}": "in a sentence, not a unit",
	} {
		if got := words(text); !strings.Contains(got, want) {
			t.Errorf("%s gives %s", text, got)
		}
	}
	got := words("x")
	for _, want := range []string{"Retention time, s", "120.000", "Amount, % (m/m)", "0.928"} {
		if !strings.Contains(got, want) {
			t.Errorf("the table has no %s: %s", want, got)
		}
	}
	in.Method.Compounds[0].MolarMass = 0
	if got := words("{amount of Caffeine in µmol/g}"); !strings.Contains(got, "Caffeine has no molar mass") {
		t.Errorf("without a molar mass: %s", got)
	}
}
