package compounds

import (
	"math"
	"strings"
	"testing"

	"yugen/core/peaks"
)

var rungs = []Rung{{10, 5}, {11, 8}, {12, 12}, {14, 20}}

func TestRetentionIndices(t *testing.T) {
	linear, isothermal := Ladder{LinearScale, 0, rungs}, Ladder{LogarithmicScale, 1, rungs}
	for _, c := range []struct {
		ladder Ladder
		min    float64
		want   float64
	}{
		{linear, 5, 1000}, {linear, 6.5, 1050}, {linear, 16, 1300}, {linear, 20, 1400},
		{isothermal, 5, 1000}, {isothermal, 8, 1100},
		// log(6.5−1) between log 4 and log 7
		{isothermal, 6.5, 100 * (10 + math.Log(5.5/4)/math.Log(7.0/4))},
	} {
		got, ok := c.ladder.Index(c.min)
		if !ok || math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%s at %g: %g, want %g", c.ladder.Scale, c.min, got, c.want)
		}
		if back, ok := c.ladder.TimeMin(got); !ok || math.Abs(back-c.min) > 1e-9 {
			t.Errorf("%s: index %g leads to %g min, not %g", c.ladder.Scale, got, back, c.min)
		}
	}
	if _, ok := linear.Index(4.9); ok {
		t.Error("below the ladder nothing is known")
	}
	if _, ok := linear.TimeMin(1500); ok {
		t.Error("above the ladder nothing is known")
	}
}

func TestACompoundIsFoundByItsIndex(t *testing.T) {
	ladder := Ladder{LinearScale, 0, rungs}
	c := compound("a", 99, 5, Nearest)
	c.Index, c.Window = 1050, Window{ByIndex, 4}
	named := Name([]peaks.Peak{at(6.3, 1), at(6.6, 1), at(9, 1)}, []Compound{c}, &ladder)
	if named.Peak["a"] != 1 || math.Abs(named.Place["a"].HalfMin-0.12) > 1e-9 {
		t.Errorf("%+v", named)
	}
	c.Index = 2000
	if named := Name([]peaks.Peak{at(6.6, 1)}, []Compound{c}, &ladder); len(named.Peak) != 0 {
		t.Errorf("outside the ladder it cannot be found: %+v", named)
	}
}

func TestReferencesMoveTheOthers(t *testing.T) {
	first, second := compound("r1", 4, 0.5, Largest), compound("r2", 10, 1, Largest)
	first.Reference, second.Reference = true, true
	between, after := compound("b", 7, 0.05, Nearest), compound("z", 15, 0.05, Nearest)
	// Everything comes late: 4 at 4.2, 10 at 10.8.
	found := []peaks.Peak{at(4.2, 90), at(7, 5), at(7.5, 5), at(10.8, 90), at(16.2, 5)}
	named := Name(found, []Compound{between, after, second, first}, nil)
	for id, want := range map[string]int{"r1": 0, "b": 2, "r2": 3, "z": 4} {
		if got, ok := named.Peak[id]; !ok || got != want {
			t.Errorf("%s is peak %d, want %d", id, got, want)
		}
	}
	if p := named.Place["b"]; math.Abs(p.ExpectedMin-7.5) > 1e-9 || p.HalfMin != 0.05 {
		t.Errorf("%+v", p)
	}
	// One reference scales in its ratio; none leaves all as it is.
	if p := Name(found, []Compound{first, between}, nil).Place["b"]; math.Abs(p.ExpectedMin-7*4.2/4) > 1e-9 {
		t.Errorf("%+v", p)
	}
	if p := Name(found[1:2], []Compound{first, between}, nil).Place["b"]; p.ExpectedMin != 7 {
		t.Errorf("%+v", p)
	}
}

func TestLaddersAreRefusedInASentence(t *testing.T) {
	for want, l := range map[string]Ladder{
		"the scale \"cubic\" is unknown": {"cubic", 0, rungs}, "there are 1 alkanes": {LinearScale, 0, rungs[:1]},
		"not after the hold-up time": {LogarithmicScale, 6, rungs}, "does not come after": {LinearScale, 0, []Rung{{10, 5}, {9, 8}}},
	} {
		if err := l.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %s", err, want)
		}
	}
	if err := (Ladder{LinearScale, 0, rungs}).Validate(); err != nil {
		t.Error(err)
	}
}
