package resolving

import (
	"math"
	"testing"
)

// worstShare is the greatest error of a relative area, in parts of the component's largest, over all compounds of a simulated batch.
func worstShare(r Result, pure, areas [][]float64) (worst float64) {
	for k := range areas {
		at, best := 0, -1.0
		for c, one := range r.Components {
			if v := Cosine(pure[k], one.Spectrum); !one.Background && v > best {
				at, best = c, v
			}
		}
		truth, found, largest := 0.0, 0.0, 0.0
		for n, v := range areas[k] {
			truth, found, largest = truth+v, found+r.Components[at].Samples[n].AreaS, math.Max(largest, v)
		}
		for n, v := range areas[k] {
			worst = math.Max(worst, math.Abs(r.Components[at].Samples[n].AreaS/found-v/truth)*truth/largest)
		}
	}
	return worst
}

func doubted(r Result) bool {
	any := len(r.Doubts) > 1 // one stands always: what is below 1 % may be missed
	for _, c := range r.Components {
		any = any || len(c.Doubts) > 0
	}
	return any
}

// Spectra of light are broad: many sets of factors fit them. Where compounds begin and end alone, those are found that they are, without false alarm; where they elute
// almost together it is said, so that nothing is silently wrong.
func TestLightComesApartByWhatElutesAlone(t *testing.T) {
	for _, c := range []struct {
		resolution, mean, worst float64
		alarms                  int // at most, of 30
	}{{0.9, 0.01, 0.06, 4}, {0.6, 0.03, 0.12, 8}, {0.2, 1, 1, 30}} {
		sum, worst, alarms := 0.0, 0.0, 0
		for seed := range uint64(30) {
			m := made{compounds: 2 + int(seed)%2, samples: 6, scans: 130, places: 50, resolution: c.resolution, shift: 0.15, height: 300, light: true}
			s, pure, areas := m.make(500 + seed)
			r, err := Resolve(s, Options{Compounds: m.compounds})
			if err != nil {
				t.Fatal(err)
			}
			wrong, said := worstShare(r, pure, areas), doubted(r)
			sum, worst = sum+wrong, math.Max(worst, wrong)
			if said {
				alarms++
			} else if wrong > 0.1 {
				t.Errorf("resolution %g, seed %d: areas are off by %.2f of the largest, and nothing says so", c.resolution, seed, wrong)
			}
		}
		if sum/30 > c.mean || worst > c.worst || alarms > c.alarms {
			t.Errorf("resolution %g: areas are off by %.3f on average, %.3f at worst, %d doubted", c.resolution, sum/30, worst, alarms)
		}
	}
}

// Masses that elute as one are told apart by what they have to themselves; how sure that is, is said.
func TestMassesThatEluteAsOneAreDoubted(t *testing.T) {
	for seed := range uint64(40) {
		m := made{compounds: 2 + int(seed)%2, samples: 6, scans: 130, places: 50, resolution: 0.1, shift: 0.25, height: 5000}
		s, pure, areas := m.make(170 + seed)
		r, err := Resolve(s, Options{Compounds: m.compounds})
		if err != nil {
			t.Fatal(err)
		}
		if wrong := worstShare(r, pure, areas); wrong > 0.1 && !doubted(r) {
			t.Errorf("seed %d: areas are off by %.2f of the largest, and nothing says so", seed, wrong)
		}
	}
}
