package spectra

import (
	"math"
	"math/rand/v2"
	"testing"
)

func sameLines(t *testing.T, what string, got, want Lines, within float64) {
	t.Helper()
	if len(got) != len(want) {
		t.Errorf("%s: %v, want %v", what, got, want)
		return
	}
	for k := range got {
		if math.Abs(got[k].At-want[k].At) > within || math.Abs(got[k].Height-want[k].Height) > within*math.Max(1, want[k].Height) {
			t.Errorf("%s: line %d is %v, want %v", what, k+1, got[k], want[k])
		}
	}
}

// Lines of several scans are one where they belong together, at any resolution: unit masses, masses that scatter by a few millidaltons, and two lines within one
// nominal mass that must never run into each other.
func TestTheMeanOfScans(t *testing.T) {
	unit := []Scan{{Axis: []float64{50, 51}, Values: []float64{10, 4}}, {Axis: []float64{50}, Values: []float64{20}}, {Axis: []float64{51}, Values: []float64{2}}}
	sameLines(t, "unit masses", Mean(Mass, unit, Apart(unit)), Lines{{50, 10}, {51, 2}}, 1e-12)

	r := rand.New(rand.NewPCG(1, 2))
	var fine []Scan
	for range 40 { // two lines 30 mDa apart, each scattering by 2
		fine = append(fine, Scan{Axis: []float64{150.05 + 0.002*r.NormFloat64(), 150.08 + 0.002*r.NormFloat64(), 300.2 + 0.004*r.NormFloat64()}, Values: []float64{100, 50, 10}})
	}
	got := Mean(Mass, fine, Apart(fine))
	if len(got) != 3 {
		t.Fatalf("%d lines: %v", len(got), got)
	}
	sameLines(t, "fine masses", got, Lines{{150.05, 100}, {150.08, 50}, {300.2, 10}}, 0.003)

	if got := Mean(Mass, nil, 0.3); got != nil {
		t.Errorf("the mean of no scan is %v", got)
	}
	if got := Mean(Mass, []Scan{{}, {Axis: []float64{60}, Values: []float64{8}}}, 0.3); len(got) != 1 || got[0].Height != 4 {
		t.Errorf("a scan without lines counts as none of them: %v", got)
	}
	grid := []Scan{{Axis: []float64{200, 202}, Values: []float64{1, -2}}, {Axis: []float64{200, 202}, Values: []float64{3, -4}}}
	sameLines(t, "wavelengths keep their sign", Mean(Wavelength, grid, 0), Lines{{200, 2}, {202, -3}}, 1e-12)
}

// A background that rises runs straight from one stretch to the other; what only one of them has counts by its share; what is left of a mass below nothing is no line,
// of a wavelength it is.
func TestBackgroundsAreTakenOff(t *testing.T) {
	before := []Scan{{TimeS: 0, Axis: []float64{44, 207}, Values: []float64{10, 100}}}
	after := []Scan{{TimeS: 100, Axis: []float64{207, 281}, Values: []float64{200, 40}}}
	off := Background(Mass, before, after, 25, 0.3)
	sameLines(t, "a quarter of the way", off, Lines{{44, 7.5}, {207, 125}, {281, 10}}, 1e-12)
	sameLines(t, "one side alone", Background(Mass, before, nil, 25, 0.3), Lines{{44, 10}, {207, 100}}, 1e-12)
	sameLines(t, "before the first", Background(Mass, before, after, -50, 0.3), Lines{{44, 10}, {207, 100}, {281, 0}}, 1e-12)
	peak := Lines{{91, 500}, {207, 130}, {281, 5}}
	sameLines(t, "masses", peak.Less(Mass, off, 0.3), Lines{{91, 500}, {207, 5}}, 1e-12)
	sameLines(t, "wavelengths", peak.Less(Wavelength, off, 0.3), Lines{{91, 500}, {207, 5}, {281, -5}}, 1e-12)
}

// A profile of three peaks gives three lines at their centres, whatever the grid is and wherever the points fall, and noise beneath a share of the largest none.
func TestProfilesAreCentroided(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 50 {
		shift := r.Float64() * 0.01
		var l Lines
		for at := 99.5 + shift; at < 103.5; at += 0.01 {
			h := 0.0
			for _, p := range []Line{{100.123, 1000}, {101.127, 60}, {102.5, 300}} {
				h += p.Height * math.Exp(-math.Pow((at-p.At)/0.04, 2)/2)
			}
			l = append(l, Line{at, h + 0.2*r.Float64()})
		}
		got := l.Centroids(0.01)
		if len(got) != 3 {
			t.Fatalf("%d lines: %v", len(got), got)
		}
		for k, want := range []float64{100.123, 101.127, 102.5} {
			if math.Abs(got[k].At-want) > 0.002 {
				t.Errorf("line %d stands at %.4f, want %.4f", k+1, got[k].At, want)
			}
		}
	}
	if got := (Lines{{50, 3}, {50.01, 3}, {50.02, 3}}).Centroids(0); len(got) != 1 {
		t.Errorf("a flat top is %d lines", len(got))
	}
}

func TestTheStretchAboveHalf(t *testing.T) {
	signal := []float64{10, 10, 12, 30, 61, 100, 62, 20, 11, 90, 10}
	if from, to := AboveHalf(signal, 5, 10); from != 4 || to != 6 {
		t.Errorf("from %d to %d", from, to)
	}
	if from, to := AboveHalf(signal, 0, 0); from != 0 || to != 10 {
		t.Errorf("where all is above half, from %d to %d", from, to)
	}
}
