package checks

import (
	"fmt"
	"math"
)

// ConditionLimit is what a method asks of a condition of the run, as a pump's pressure. What is 0 or nil is not asked.
type ConditionLimit struct {
	Name string   `json:"name"` // of the signal
	Unit string   `json:"unit"`
	Low  *float64 `json:"low,omitempty"`
	High *float64 `json:"high,omitempty"`
	// Fall is the greatest fall or rise within so many seconds.
	Fall    float64 `json:"fall,omitempty"`
	WithinS float64 `json:"within_s,omitempty"`
	// Usual is the greatest deviation from what most injections of the batch have at the same time: a gradient that was not as programmed shows in it.
	Usual float64 `json:"usual,omitempty"`
	// FromMin and ToMin are the stretch of the run in which it holds; the whole run where ToMin is 0.
	FromMin float64 `json:"from_min,omitempty"`
	ToMin   float64 `json:"to_min,omitempty"`
}

// maxConditions bounds the limits on conditions.
const maxConditions = 50

func validateConditions(list []ConditionLimit) error {
	if len(list) > maxConditions {
		return fmt.Errorf("checks: there are %d limits on conditions; at most %d are taken", len(list), maxConditions)
	}
	for i, c := range list {
		for _, v := range []float64{c.Fall, c.WithinS, c.Usual, c.FromMin, c.ToMin} {
			if !(v >= 0) || math.IsInf(v, 0) {
				return fmt.Errorf("checks: condition limit %d, on %s, has the number %g; 0 or more is meant", i+1, c.Name, v)
			}
		}
		switch {
		case c.Name == "" || len(c.Name) > 200 || len(c.Unit) > 200:
			return fmt.Errorf("checks: condition limit %d needs the name of its signal, of at most 200 characters", i+1)
		case c.Low == nil && c.High == nil && c.Fall == 0 && c.Usual == 0:
			return fmt.Errorf("checks: condition limit %d, on %s, asks nothing", i+1, c.Name)
		case c.Low != nil && c.High != nil && !(*c.Low < *c.High):
			return fmt.Errorf("checks: condition limit %d, on %s, runs from %g to %g", i+1, c.Name, *c.Low, *c.High)
		case c.Fall > 0 && c.WithinS == 0:
			return fmt.Errorf("checks: condition limit %d, on %s, does not say within how many seconds it may change by %g", i+1, c.Name, c.Fall)
		case c.ToMin > 0 && c.FromMin >= c.ToMin:
			return fmt.Errorf("checks: condition limit %d, on %s, holds from %g to %g min, which is no stretch", i+1, c.Name, c.FromMin, c.ToMin)
		}
	}
	return nil
}
