package compounds

import (
	"reflect"
	"slices"
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

// Each peak in a window knows the rules by which it would win, and together they have all four.
func TestContendersKnowTheirRules(t *testing.T) {
	found := []peaks.Peak{at(4.7, 5), at(4.9, 90), at(5.05, 20), at(5.2, 10), at(6, 1000)}
	got := Name(found, []Compound{compound("a", 5, 0.3, Nearest), compound("z", 6, 0.3, Nearest)}, nil).Contenders
	want := []Contender{{0, []Rule{First}}, {1, []Rule{Largest}}, {2, []Rule{Nearest}}, {3, []Rule{Last}}}
	if len(got) != 1 || !reflect.DeepEqual(got["a"], want) {
		t.Errorf("%+v", got)
	}
}
