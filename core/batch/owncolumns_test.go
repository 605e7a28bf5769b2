package batch

import (
	"strings"
	"testing"
)

func TestOwnColumnsReadWhatPeopleWrite(t *testing.T) {
	temperature := OwnColumn{ID: "t", Name: "Temperature", Kind: NumberColumn}
	date := OwnColumn{ID: "d", Name: "Harvest", Kind: DateColumn}
	roast := OwnColumn{ID: "r", Name: "Roast", Kind: ChoiceColumn, Options: []string{"light", "dark"}}
	lot := OwnColumn{ID: "l", Name: "Lot", Kind: TextColumn}
	for _, c := range []struct {
		column     OwnColumn
		text, want string
		refused    bool
	}{
		{temperature, " 45,5 ", "45.5", false}, {temperature, "-3e2", "-300", false}, {temperature, "warm", "", true}, {temperature, "NaN", "", true}, {temperature, "", "", false},
		{date, "30.04.2026", "2026-04-30", false}, {date, "2026-04-30", "2026-04-30", false}, {date, "31.02.2026", "", true}, {date, "4/5/2026", "", true},
		{roast, "Dark", "dark", false}, {roast, "medium", "", true},
		{lot, "A-17 µ", "A-17 µ", false}, {lot, strings.Repeat("x", 201), "", true}, {lot, "–", "", false},
	} {
		got, err := c.column.Read(c.text)
		if got != c.want || (err != nil) != c.refused {
			t.Errorf("%s, %q: %q %v", c.column.Name, c.text, got, err)
		}
	}
	a := Entry{}
	if err := a.SetOwn(lot, "A"); err != nil {
		t.Fatal(err)
	}
	b := a
	if err := b.SetOwn(lot, ""); err != nil || a.Own["l"] != "A" || b.Own != nil {
		t.Errorf("%v %v %v", err, a.Own, b.Own)
	}
}

func TestAPatternTakesAValueFromAName(t *testing.T) {
	for _, c := range []struct{ pattern, name, want string }{
		{"oolong_{}C_*", "oolong_45C_2", "45"}, {"*_{}C*", "Oolong_dark_60c_1", "60"}, {"{}-*", "lot17-a", "lot17"}, {"*.{}", "a.b.c", "c"},
		{"a(b)[{}]", "A(b)[7]", "7"}, {"{}", "all of it", "all of it"}, {"x{}y", "xy", ""}, {"oolong_{}C_*", "sencha_45C_2", ""},
	} {
		p, err := ParsePattern(c.pattern)
		if err != nil {
			t.Fatal(err)
		}
		if got, ok := p.In(c.name); got != c.want || ok != (c.want != "") {
			t.Errorf("%s in %s: %q %v", c.pattern, c.name, got, ok)
		}
	}
	for _, odd := range []string{"", "no place", "{}{}", strings.Repeat("x", 200) + "{}"} {
		if _, err := ParsePattern(odd); err == nil {
			t.Errorf("%.20q is a pattern", odd)
		}
	}
}

func TestOddOwnColumnsAreRefused(t *testing.T) {
	for what, list := range map[string][]OwnColumn{
		"no id":          {{Name: "Lot", Kind: TextColumn}},
		"no name":        {{ID: "l", Kind: TextColumn}},
		"a name twice":   {{ID: "a", Name: "Lot", Kind: TextColumn}, {ID: "b", Name: "lot ", Kind: TextColumn}},
		"a name of ours": {{ID: "v", Name: "Vial", Kind: TextColumn}},
		"no kind":        {{ID: "l", Name: "Lot", Kind: "colour"}},
		"no options":     {{ID: "l", Name: "Lot", Kind: ChoiceColumn}},
	} {
		if ValidateOwnColumns(list) == nil {
			t.Errorf("%s is taken", what)
		}
	}
}
