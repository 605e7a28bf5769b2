package report

import (
	"strings"

	"yugen/core/amounts"
	"yugen/core/compounds"
	"yugen/core/quantities"
	"yugen/report/layouts"
)

// inUnit is a value in the unit that a layout asks for. Times go between min and s; amounts between units of their kind, and between mass and amount of
// substance by the molar mass of the compound. What cannot be said in that unit is false.
func inUnit(v layouts.Value, q quantities.Quantity, got quantities.Value, c *compounds.Compound) (quantities.Value, bool) {
	if v.Unit == "" || v.Unit == q.Unit || got.Number == nil {
		return got, true
	}
	factor, ok := factorBetween(q.Unit, v.Unit, c)
	if !ok {
		return got, false
	}
	number := *got.Number * factor
	got.Number = &number
	if got.Uncertainty != nil {
		u := *got.Uncertainty * factor
		got.Uncertainty = &u
	}
	return got, true
}

func factorBetween(from, to string, c *compounds.Compound) (float64, bool) {
	switch {
	case from == "min" && to == "s":
		return 60, true
	case from == "s" && to == "min":
		return 1.0 / 60, true
	}
	a, errA := amounts.ParseUnit(from)
	b, errB := amounts.ParseUnit(to)
	if errA != nil || errB != nil {
		return 0, false
	}
	mass := 0.0
	if c != nil {
		mass = c.MolarMass
	}
	in, err := amounts.Quantity{Value: 1, Unit: a}.InWith(b, mass)
	return in.Value, err == nil
}

// unitOf is the unit that a value is shown in.
func unitOf(v layouts.Value, q quantities.Quantity) string {
	if v.Unit != "" {
		return v.Unit
	}
	return q.Unit
}

// notIn says why a value cannot be shown in a unit.
func notIn(v layouts.Value, q quantities.Quantity, c *compounds.Compound) string {
	says := "[" + strings.ToLower(q.Words) + " cannot be told in " + v.Unit
	if c != nil && c.MolarMass == 0 && strings.Contains(v.Unit+q.Unit, "mol") {
		says += ": " + c.Name + " has no molar mass"
	}
	return says + "]"
}
