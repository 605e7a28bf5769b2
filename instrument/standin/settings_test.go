package standin

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/instrument"
)

// tallest is the highest point of a channel over its quiet level.
func tallest(values []float64) float64 {
	sorted := slices.Sorted(slices.Values(values))
	return sorted[len(sorted)-1] - sorted[len(sorted)/2]
}

// What may be changed is changed from the next injection on, within its bounds, and shown as what is asked; what belongs to the method is not. Twice as much injected
// gives twice the signal, in the next injection and not in the one that runs.
func TestSettingsAreChangedFromTheNextInjection(t *testing.T) {
	for kind, detector := range map[instrument.Kind]string{instrument.LC: "UV 278 nm", instrument.GC: "FID", instrument.GCMS: ""} {
		t.Run(string(kind), func(t *testing.T) {
			i, h := made(t, kind), &heard{}
			vial := ""
			for v := range i.tray { // the one with most in it
				if vial == "" || len(i.tray[v].Solutes) > len(i.tray[vial].Solutes) {
					vial = v
				}
			}
			take(t, i, vial, vial)
			h.pass(t, i, 24*time.Hour, func(s instrument.State) bool {
				for _, c := range s.Conditions { // whatever a person must do is done
					switch {
					case c.Standing != instrument.Person:
					case c.World != "":
						do(t, i, instrument.Act{Kind: instrument.World, What: c.World, Who: "M. Okada"})
					default:
						do(t, i, instrument.Act{Kind: instrument.Looked, What: c.ID, Who: "M. Okada"})
					}
				}
				return s.AtMin != nil && *s.AtMin > 1
			})
			usual, changeable := 0.0, 0
			for _, s := range i.State().Settings {
				set := func(v float64) error {
					return i.Do(instrument.Act{Kind: instrument.Sets, What: s.ID, Value: v, Who: "M. Okada"})
				}
				if s.Change == instrument.Fixed {
					if err := set(s.Asked); err == nil || !strings.Contains(err.Error(), "belongs to the method") {
						t.Errorf("%s is fixed, and is set: %v", s.ID, err)
					}
					continue
				}
				changeable++
				for _, v := range []float64{math.Nextafter(s.Low, -1e9), math.Nextafter(s.High, 1e9), math.NaN(), math.Inf(1), -s.High} {
					if err := set(v); err == nil || !strings.Contains(err.Error(), "is between") {
						t.Errorf("%s is set to %g, of %g to %g: %v", s.ID, v, s.Low, s.High, err)
					}
				}
				for _, v := range []float64{s.Low, s.High} {
					if err := set(v); err != nil {
						t.Errorf("%s at its bound %g: %v", s.ID, v, err)
					}
				}
				if s.ID == "volume" {
					usual = s.Asked
				}
				if err := set(s.Asked); err != nil {
					t.Error(err)
				}
			}
			if changeable < 2 || usual == 0 {
				t.Fatalf("%d settings may be changed", changeable)
			}
			refuses(t, i, instrument.Act{Kind: instrument.Sets, What: "weather", Value: 1}, "no setting")
			do(t, i, instrument.Act{Kind: instrument.Sets, What: "volume", Value: 2 * usual, Who: "M. Okada"})
			asked := i.State().Settings[slices.IndexFunc(i.State().Settings, func(s instrument.Setting) bool { return s.ID == "volume" })]
			if asked.Asked != 2*usual {
				t.Errorf("%+v", asked)
			}
			h.pass(t, i, 24*time.Hour, func(s instrument.State) bool { return s.Phase == instrument.Leaving || s.Phase == instrument.Resting })
			signal := func(row string) []float64 {
				if detector != "" {
					return h.values[row][detector][4*600:] // behind the solvent
				}
				var total []float64
				for _, scan := range h.scans[row] {
					sum := 0.0
					for _, v := range scan.Values {
						sum += v
					}
					total = append(total, sum)
				}
				return total
			}
			if ratio := tallest(signal("b")) / tallest(signal("a")); math.Abs(ratio-2) > 0.06 {
				t.Errorf("twice as much gives %.3f times the signal", ratio)
			}
		})
	}
}

// A run is made longer while it runs, never shorter than what was asked, and not without end.
func TestARunIsMadeLongerOnly(t *testing.T) {
	i, h := made(t, instrument.LC), &heard{}
	take(t, i, "A5")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles", Who: "M. Okada"})
	h.pass(t, i, time.Hour, func(s instrument.State) bool { return s.AtMin != nil && *s.AtMin > 17 })
	for _, minutes := range []float64{math.NaN(), 17, 17.99, 600.01, math.Inf(1), -20} {
		refuses(t, i, instrument.Act{Kind: instrument.Sets, What: "run", Value: minutes}, "longer only")
	}
	do(t, i, instrument.Act{Kind: instrument.Sets, What: "run", Value: 20})
	refuses(t, i, instrument.Act{Kind: instrument.Sets, What: "run", Value: 18}, "longer only")
	h.pass(t, i, time.Hour, phase(instrument.Leaving))
	if n := len(h.values["a"]["UV 278 nm"]); n != 12001 {
		t.Errorf("%d values of 20 min at 10 a second", n)
	}
}
