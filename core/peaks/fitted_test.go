package peaks

import (
	"flag"
	"math"
	"slices"
	"testing"
)

// The sum of a Gaussian and an exponential, by numeric convolution.
func TestTheShapeIsAGaussianSmearedByADecay(t *testing.T) {
	for _, e := range []emg{{3, 10, 1, 0.5}, {3, 10, 1, 4}, {3, 10, 0.02, 1}, {3, 10, 1, 0.1}, {3, 10, 1, -0.8}} {
		for _, at := range []float64{8, 9.5, 10, 11, 13, 18} {
			if e.tau < 0 {
				at = 20 - at
			}
			want, step := 0.0, e.sigma/4000
			for u := -8 * e.sigma; u < 8*e.sigma; u += step {
				d := at - e.centre - u
				if e.tau < 0 {
					d = -d
				}
				if d > 0 {
					want += step * math.Exp(-u*u/(2*e.sigma*e.sigma)) / (e.sigma * math.Sqrt(2*math.Pi)) * e.area / math.Abs(e.tau) * math.Exp(-d/math.Abs(e.tau))
				}
			}
			if got := e.at(at); math.Abs(got-want) > 0.02*(want+1e-3) {
				t.Errorf("%+v at %g: %g, by convolution %g", e, at, got, want)
			}
		}
	}
}

func TestTheShapeKeepsItsAreaAndIsNeverMoreThanAGaussian(t *testing.T) {
	for _, tau := range []float64{0, 1e-6, 1e-4, 1e-3, 0.01, 0.3, 3, 40, -1e-5, -2} {
		e := emg{7, 50, 1, tau}
		from, to := e.reach()
		sum, step := 0.0, 0.01
		for x := from; x < to; x += step {
			y := e.at(x)
			if math.IsNaN(y) || y < 0 || y > 7/math.Sqrt(2*math.Pi)*1.0001 {
				t.Fatalf("tau %g: %g at %g", tau, y, x)
			}
			sum += y * step
		}
		if math.Abs(sum/7-1) > 1e-3 {
			t.Errorf("tau %g: area %g", tau, sum)
		}
		mode := e.mode()
		if e.at(mode) < e.at(mode-0.01) || e.at(mode) < e.at(mode+0.01) {
			t.Errorf("tau %g: no maximum at %g", tau, mode)
		}
	}
}

// Fitted areas of reference pairs against the true areas, in percent.
func TestFittedReferenceAreas(t *testing.T) {
	for name, limit := range map[string]float64{
		"c05_pair_rs0.8_clean": 1, "c05_pair_rs1.0_noise": 3, "c05_pair_rs1.5_noise": 3, "c05_pair_rs2.0_clean": 1,
		"c06_rider_10to1_gap30": 5, "c06_rider_100to1_gap45": 10,
	} {
		tr, want := readReference(t, name)
		got := find(t, tr, Settings{Split: ByFit}).Peaks
		match := compare(want, got).match
		if len(match) != len(want.Peaks) {
			t.Errorf("%s: %d peaks", name, len(got))
			continue
		}
		for i, j := range match {
			p, q := want.Peaks[i], got[j]
			if off := 100 * (q.AreaS/p.AreaS - 1); q.BaselineKind != OnFit || math.Abs(off) > limit {
				t.Errorf("%s %s: off by %.2f %%, %s", name, p.Name, off, q.BaselineKind)
			}
			if off := 100 * (*q.WidthHalfMin/p.W50Min - 1); math.Abs(off) > limit {
				t.Errorf("%s %s: width off by %.2f %%", name, p.Name, off)
			}
		}
	}
}

// Where the detector was full the flanks tell what was lost. It stays flagged.
func TestAFitGivesACutOffPeakItsAreaBack(t *testing.T) {
	tr, want := readReference(t, "c13_clipped")
	for _, p := range find(t, tr, Settings{Split: ByFit}).Peaks {
		if p.Shape == nil {
			continue
		}
		for _, w := range want.Peaks {
			if math.Abs(w.ApexMin-p.ApexMin) < 0.05 && w.Name == "sat1" {
				if off := 100 * (p.AreaS/w.AreaS - 1); math.Abs(off) > 1 || !slices.Contains(p.Flags, Saturated) {
					t.Errorf("off by %.2f %%, flags %v", off, p.Flags)
				}
				return
			}
		}
	}
	t.Error("the cut-off peak was not fitted")
}

func TestFittedAreasOf300Peaks(t *testing.T) {
	tr, want := readReference(t, "c10_300peaks_r1")
	got := find(t, tr, Settings{Split: ByFit}).Peaks
	s := compare(want, got)
	var errors []float64
	for i, j := range s.match {
		if want.Peaks[i].Detectable {
			errors = append(errors, 100*math.Abs(got[j].AreaS/want.Peaks[i].AreaS-1))
		}
	}
	slices.Sort(errors)
	if median := quantile(errors, 0.5); median > 1 || s.found*100 < s.detectable*99 {
		t.Errorf("median %.2f %%, found %d of %d", median, s.found, s.detectable)
	}
}

var fittedRuns = flag.Int("fitted-runs", 70, "simulated pairs")

// The standard error of a fitted area holds the truth as often as it says.
func TestTheFittedAreasIntervalHoldsTheTruth(t *testing.T) {
	held, runs := 0, 0
	truth := 60 * 0.05 * 60 * math.Sqrt(2*math.Pi)
	for seed := range uint64(*fittedRuns) {
		tr := gaussians(t, 1, 5000+seed, [3]float64{5, 60, 0.05}, [3]float64{5.13, 60, 0.05})
		for _, p := range find(t, tr, Settings{WidthMin: 0.118, Split: ByFit}).Peaks {
			if p.Shape != nil && math.Abs(p.ApexMin-5) < 0.04 {
				runs++
				if math.Abs(p.AreaS-truth) <= 1.96*p.AreaSE {
					held++
				}
			}
		}
	}
	share := float64(held) / float64(runs)
	t.Logf("held in %.1f %% of %d runs", 100*share, runs)
	if 10*runs < 9**fittedRuns || share < 0.85 || share > 0.995 {
		t.Errorf("held in %.1f %% of %d runs", 100*share, runs)
	}
}

// An exponential under a rider on a tail comes nearer to the truth than a straight tangent.
func TestADecayFollowsATailBetterThanATangent(t *testing.T) {
	tr, want := readReference(t, "c06_rider_10to1_gap30")
	off := func(line SplitKind) float64 {
		p := find(t, tr, Settings{SkimPercent: 20, SkimLine: line}).Peaks[1]
		if p.StartKind != Skim || (line == ByExponential) != (p.BaselineKind == OnExponential) {
			t.Fatalf("%+v", p)
		}
		return 100 * math.Abs(p.AreaS/want.Peaks[1].AreaS-1)
	}
	if straight, decay := off(ByTangent), off(ByExponential); decay > 5 || decay > straight {
		t.Errorf("straight off by %.2f %%, decay by %.2f %%", straight, decay)
	}
}
