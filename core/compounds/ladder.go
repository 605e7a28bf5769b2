package compounds

import (
	"fmt"
	"math"
)

// Ladder is a row of alkanes against whose retention times others are indexed.
type Ladder struct {
	Scale     LadderScale `json:"scale"`
	HoldUpMin float64     `json:"hold_up_min,omitempty"` // for the logarithmic scale
	Rungs     []Rung      `json:"rungs"`                 // in order of time
}

// Rung is one alkane.
type Rung struct {
	Carbons int     `json:"carbons"`
	TimeMin float64 `json:"time_min"`
}

// LadderScale says how an index runs between two rungs.
type LadderScale string

// The scales.
const (
	// LinearScale is for runs with a temperature programme (van den Dool & Kratz, J. Chromatogr. 11 (1963) 463).
	LinearScale LadderScale = "linear"
	// LogarithmicScale is for isothermal runs, by adjusted times (Kováts, Helv. Chim. Acta 41 (1958) 1915).
	LogarithmicScale LadderScale = "logarithmic"
)

// Validate says in a sentence what is wrong with a ladder.
func (l Ladder) Validate() error {
	if l.Scale != LinearScale && l.Scale != LogarithmicScale {
		return fmt.Errorf("ladder: the scale %q is unknown; it is linear or logarithmic", l.Scale)
	}
	if len(l.Rungs) < 2 || len(l.Rungs) > 100 {
		return fmt.Errorf("ladder: there are %d alkanes; from 2 to 100 are taken", len(l.Rungs))
	}
	if !(l.HoldUpMin >= 0) {
		return fmt.Errorf("ladder: the hold-up time is %g min; it must not be below 0", l.HoldUpMin)
	}
	for i, r := range l.Rungs {
		switch {
		case r.Carbons < 1 || r.Carbons > 200:
			return fmt.Errorf("ladder: alkane %d has %d carbons; from 1 to 200 are known", i+1, r.Carbons)
		case !(r.TimeMin > 0) || math.IsInf(r.TimeMin, 0):
			return fmt.Errorf("ladder: alkane %d stands at %g min; give a time above 0", i+1, r.TimeMin)
		case l.Scale == LogarithmicScale && r.TimeMin <= l.HoldUpMin:
			return fmt.Errorf("ladder: alkane %d stands at %g min, not after the hold-up time of %g min", i+1, r.TimeMin, l.HoldUpMin)
		case i > 0 && (r.TimeMin <= l.Rungs[i-1].TimeMin || r.Carbons <= l.Rungs[i-1].Carbons):
			return fmt.Errorf("ladder: alkane %d does not come after the one before it, in time and in carbons", i+1)
		}
	}
	return nil
}

// Index is the retention index at a time; ok is false outside the ladder, where nothing is extrapolated.
func (l Ladder) Index(min float64) (index float64, ok bool) {
	for i := 1; i < len(l.Rungs); i++ {
		a, b := l.Rungs[i-1], l.Rungs[i]
		if min >= a.TimeMin && min <= b.TimeMin {
			f := (l.scaled(min) - l.scaled(a.TimeMin)) / (l.scaled(b.TimeMin) - l.scaled(a.TimeMin))
			return 100 * (float64(a.Carbons) + f*float64(b.Carbons-a.Carbons)), true
		}
	}
	return 0, false
}

// TimeMin is the time of a retention index; ok is false outside the ladder.
func (l Ladder) TimeMin(index float64) (min float64, ok bool) {
	for i := 1; i < len(l.Rungs); i++ {
		a, b := l.Rungs[i-1], l.Rungs[i]
		if low, high := 100*float64(a.Carbons), 100*float64(b.Carbons); index >= low && index <= high {
			s := l.scaled(a.TimeMin) + (l.scaled(b.TimeMin)-l.scaled(a.TimeMin))*(index-low)/(high-low)
			if l.Scale == LogarithmicScale {
				return math.Exp(s) + l.HoldUpMin, true
			}
			return s, true
		}
	}
	return 0, false
}

func (l Ladder) scaled(min float64) float64 {
	if l.Scale == LogarithmicScale {
		return math.Log(min - l.HoldUpMin)
	}
	return min
}

// place is where a compound with an index is expected; a window in index units is as wide as the ladder makes it there.
func (l Ladder) place(c Compound) (Place, bool) {
	at, ok := l.TimeMin(c.Index)
	if !ok {
		return Place{}, false
	}
	half := c.Window.Value
	switch c.Window.Kind {
	case Percent:
		half = at * c.Window.Value / 100
	case ByIndex:
		low, okLow := l.TimeMin(c.Index - c.Window.Value)
		high, okHigh := l.TimeMin(c.Index + c.Window.Value)
		switch {
		case okLow && okHigh:
			half = (high - low) / 2
		case okLow:
			half = at - low
		case okHigh:
			half = high - at
		default:
			return Place{}, false
		}
	}
	return Place{at, half}, true
}
