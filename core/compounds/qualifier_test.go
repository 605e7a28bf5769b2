package compounds

import (
	"math"
	"testing"
)

// How far a ratio may stand from the expected one, by each rule, at and beside the edges of its steps.
func TestTolerancesOfRatios(t *testing.T) {
	for _, c := range []struct {
		q        Qualifier
		expected float64
		want     float64
	}{
		{Qualifier{TolerancePercent: 30}, 0.4, 30}, {Qualifier{TolerancePercent: 40}, 0.02, 40},
		{Qualifier{Tolerance: InPoints, TolerancePercent: 10}, 0.4, 25}, {Qualifier{Tolerance: InPoints, TolerancePercent: 10}, 0.05, 200}, {Qualifier{Tolerance: InPoints, TolerancePercent: 10}, 0, 0},
		{Qualifier{Tolerance: InSteps, TolerancePercent: 1}, 0.500001, 20}, {Qualifier{Tolerance: InSteps, TolerancePercent: 1}, 0.5, 25},
		{Qualifier{Tolerance: InSteps, TolerancePercent: 1}, 0.2, 30}, {Qualifier{Tolerance: InSteps, TolerancePercent: 1}, 0.1, 50}, {Qualifier{Tolerance: InSteps, TolerancePercent: 1}, 1.8, 20},
	} {
		if got := c.q.Percent(c.expected); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%+v around %g: %g %%, want %g", c.q, c.expected, got, c.want)
		}
	}
	c := Compound{Name: "A", Qualifiers: []Qualifier{{Channel: "x", TolerancePercent: 30, Tolerance: "mood"}}}
	if c.validateQualifiers() == nil {
		t.Error("a tolerance that is not known was taken")
	}
}
