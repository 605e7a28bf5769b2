package peaks

import (
	"math"
	"testing"
)

// Over many simulated runs the 95 % interval of a separated peak's area holds the truth in 90 to 99 % of them.
func TestTheAreasIntervalHoldsTheTruth(t *testing.T) {
	for _, height := range []float64{20, 60, 300} {
		held, runs := 0, 0
		truth := height * 0.05 * 60 * math.Sqrt(2*math.Pi)
		for seed := range uint64(400) {
			tr := gaussians(t, 1, 1000+seed, [3]float64{5, height, 0.05})
			for _, p := range find(t, tr, Settings{WidthMin: 0.118}).Peaks {
				if math.Abs(p.ApexMin-5) < 0.05 {
					runs++
					if math.Abs(p.AreaS-truth) <= 1.96*p.AreaSE {
						held++
					}
				}
			}
		}
		share := float64(held) / float64(runs)
		t.Logf("height %g: held in %.1f %% of %d runs", height, 100*share, runs)
		if runs < 390 || share < 0.90 || share > 0.99 {
			t.Errorf("height %g: %d runs, held in %.1f %%", height, runs, 100*share)
		}
	}
}

func TestUncertaintyGrowsWithNoiseAndVanishesWithoutIt(t *testing.T) {
	clean := find(t, gaussians(t, 0, 1, three...), Settings{WidthMin: 0.1}).Peaks[0]
	low := find(t, gaussians(t, 0.1, 1, three...), Settings{WidthMin: 0.1}).Peaks[0]
	high := find(t, gaussians(t, 1, 1, three...), Settings{WidthMin: 0.1}).Peaks[0]
	if clean.AreaSE > 1e-6*clean.AreaS || !(low.AreaSE < high.AreaSE) || low.AreaSE <= 0 {
		t.Errorf("%g %g %g", clean.AreaSE, low.AreaSE, high.AreaSE)
	}
}
