package compounds

import (
	"cmp"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"yugen/core/peaks"
)

func at(min, area float64) peaks.Peak { return peaks.Peak{ApexMin: min, AreaS: area} }

func compound(id string, expected, half float64, rule Rule) Compound {
	return Compound{ID: id, Name: id, ExpectedMin: expected, Window: Window{Absolute, half}, Rule: rule, Role: Target}
}

func TestEachRuleHasItsWinner(t *testing.T) {
	found := []peaks.Peak{at(4.7, 5), at(4.9, 90), at(5.05, 20), at(5.2, 10), at(6, 1000)}
	for rule, want := range map[Rule][]int{
		Nearest: {2, 1, 3, 0},
		Largest: {1, 2, 3, 0},
		First:   {0, 1, 2, 3},
		Last:    {3, 2, 1, 0},
	} {
		if got := Candidates(found, Place{5, 0.3}, rule); !slices.Equal(got, want) {
			t.Errorf("%s: %v, want %v", rule, got, want)
		}
	}
}

func TestAContestedPeakGoesToTheNearerAndTheOtherTakesItsNext(t *testing.T) {
	found := []peaks.Peak{at(10.5, 400), at(10.9, 100)}
	egcg := compound("egcg", 10.52, 0.2, Largest)
	ec := compound("ec", 10.88, 0.5, Largest) // wants the large one too
	for _, list := range [][]Compound{{egcg, ec}, {ec, egcg}} {
		named := Name(found, list, nil).Peak
		if named["egcg"] != 0 || named["ec"] != 1 {
			t.Errorf("%v", named)
		}
	}
}

func TestNoPeakInTheWindowIsNoName(t *testing.T) {
	if named := Name([]peaks.Peak{at(3, 1)}, []Compound{compound("x", 4, 0.2, Nearest)}, nil).Peak; len(named) != 0 {
		t.Errorf("%v", named)
	}
	percent := Compound{ID: "p", Name: "p", ExpectedMin: 4, Window: Window{Percent, 30}, Rule: Nearest, Role: Target}
	if named := Name([]peaks.Peak{at(3, 1)}, []Compound{percent}, nil).Peak; named["p"] != 0 || len(named) != 1 {
		t.Errorf("3 min is within 30 %% of 4 min: %v", named)
	}
}

func TestValidateNamesTheCompound(t *testing.T) {
	good := compound("a", 5, 0.3, Nearest)
	for want, change := range map[string]func(*Compound){
		"compounds: the window of a is 0; it must be above 0":                   func(c *Compound) { c.Window.Value = 0 },
		"compounds: a has the unknown rule \"tallest\"":                         func(c *Compound) { c.Rule = "tallest" },
		"compounds: a is expected at -1 min; give a time above 0":               func(c *Compound) { c.ExpectedMin = -1 },
		"compounds: the internal standard a needs its amount in each injection": func(c *Compound) { c.Role = InternalStandard },
	} {
		c := good
		change(&c)
		if err := Validate([]Compound{c}); err == nil || err.Error() != want {
			t.Errorf("got %v, want %s", err, want)
		}
	}
	if err := Validate([]Compound{good, good}); err == nil {
		t.Error("the same compound twice was taken")
	}
}

// A compound is taken with everything at its limit, and refused by its name just beyond it.
func TestCompoundsAreTakenToTheirLimits(t *testing.T) {
	for what, c := range map[string]struct {
		change func(*Compound)
		says   string // empty where it is taken
	}{
		"as it is":                      {func(*Compound) {}, ""},
		"expected last":                 {func(c *Compound) { c.ExpectedMin = 1e5 }, ""},
		"expected later":                {func(c *Compound) { c.ExpectedMin = math.Nextafter(1e5, 2e5) }, "is expected at"},
		"expected first":                {func(c *Compound) { c.ExpectedMin = math.SmallestNonzeroFloat64 }, ""},
		"expected at no time":           {func(c *Compound) { c.ExpectedMin = 0 }, "is expected at"},
		"expected when nobody knows":    {func(c *Compound) { c.ExpectedMin = math.NaN() }, "is expected at"},
		"the widest window":             {func(c *Compound) { c.Window.Value = 1e5 }, ""},
		"a wider one":                   {func(c *Compound) { c.Window.Value = math.Nextafter(1e5, 2e5) }, "the window of a"},
		"a window that is no number":    {func(c *Compound) { c.Window.Value = math.NaN() }, "the window of a"},
		"a window of another kind":      {func(c *Compound) { c.Window.Kind = "wide" }, "unknown kind"},
		"the heaviest":                  {func(c *Compound) { c.MolarMass = 1e7 }, ""},
		"a heavier one":                 {func(c *Compound) { c.MolarMass = math.Nextafter(1e7, 2e7) }, "molar mass"},
		"one of less than no mass":      {func(c *Compound) { c.MolarMass = -math.SmallestNonzeroFloat64 }, "molar mass"},
		"a mass that is no number":      {func(c *Compound) { c.MolarMass = math.NaN() }, "molar mass"},
		"the highest index":             {func(c *Compound) { c.Index = 1e5 }, ""},
		"a higher one":                  {func(c *Compound) { c.Index = math.Nextafter(1e5, 2e5) }, "retention index"},
		"an index that is no number":    {func(c *Compound) { c.Index = math.NaN() }, "retention index"},
		"a window in units of no index": {func(c *Compound) { c.Window.Kind = ByIndex }, "no retention index"},
		"a reference by index":          {func(c *Compound) { c.Reference, c.Index = true, 900 }, "by time"},
		"another role":                  {func(c *Compound) { c.Role = "witness" }, "unknown role"},
		"a standard of some amount":     {func(c *Compound) { c.Role, c.Amount = InternalStandard, math.SmallestNonzeroFloat64 }, ""},
		"a standard of no number":       {func(c *Compound) { c.Role, c.Amount = InternalStandard, math.NaN() }, "needs its amount"},
		"the longest name":              {func(c *Compound) { c.Name = strings.Repeat("é", maxName) }, ""},
		"a longer one":                  {func(c *Compound) { c.Name = strings.Repeat("é", maxName+1) }, "letters"},
		"a longer group":                {func(c *Compound) { c.Group = strings.Repeat("é", maxName+1) }, "letters"},
		"a longer id":                   {func(c *Compound) { c.ID = strings.Repeat("x", maxName+1) }, "letters"},
		"no name":                       {func(c *Compound) { c.Name = "" }, "has no name"},
		"no id":                         {func(c *Compound) { c.ID = "" }, "id of its own"},
	} {
		one := compound("a", 5, 0.3, Nearest)
		c.change(&one)
		err := cmp.Or(Validate([]Compound{one}), Bounded([]Compound{one}))
		if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("%s: %v", what, err)
		}
	}
	var many []Compound
	for k := range 2001 {
		many = append(many, compound(fmt.Sprint("c", k), 5, 0.3, Nearest))
	}
	if err := Validate(many[:2000]); err != nil {
		t.Error(err)
	}
	if err := Validate(many); err == nil || !strings.Contains(err.Error(), "at most 2000") {
		t.Errorf("2001 compounds: %v", err)
	}
	for _, change := range []func(*Compound){func(c *Compound) { c.ID = many[0].ID }, func(c *Compound) { c.Name = many[0].Name }} {
		other := many[1]
		change(&other)
		if err := Validate([]Compound{many[0], other}); err == nil {
			t.Errorf("%+v beside %+v", other, many[0])
		}
	}
}

// Each peak in a window knows the rules by which it would win, and together they have all four.
func TestContendersKnowTheirRules(t *testing.T) {
	found := []peaks.Peak{at(4.7, 5), at(4.9, 90), at(5.05, 20), at(5.2, 10), at(6, 1000)}
	got := Name(found, []Compound{compound("a", 5, 0.3, Nearest), compound("z", 6, 0.3, Nearest)}, nil).Contenders
	want := []Contender{{0, []Rule{First}}, {1, []Rule{Largest}}, {2, []Rule{Nearest}}, {3, []Rule{Last}}}
	if len(got) != 1 || !reflect.DeepEqual(got["a"], want) {
		t.Errorf("%+v", got)
	}
}
