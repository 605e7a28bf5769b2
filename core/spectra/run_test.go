package spectra

import (
	"math"
	"slices"
	"testing"
)

func run() Run {
	return Run{About: About{Kind: Mass, Level: 1}, Scans: []Scan{
		{TimeS: 0, Axis: []float64{70.7, 71.0, 71.3, 105.03}, Values: []float64{1, 2, 4, 8}},
		{TimeS: 1},
		{TimeS: 2, Axis: []float64{71.35, 200}, Values: []float64{16, 32}},
	}}
}

func TestIonsCountBothEdgesAndEachPointOnce(t *testing.T) {
	for _, c := range []struct {
		name  string
		bands []Band
		want  []float64
	}{
		{"both edges belong to it", []Band{{70.7, 71.3}}, []float64{7, 0, 0}},
		{"just inside the edges", []Band{{70.71, 71.29}}, []float64{2, 0, 0}},
		{"overlapping bands", []Band{{70, 71.1}, {71, 72}}, []float64{7, 0, 16}},
		{"two ions", []Band{{105.02, 105.04}, {199, 201}}, []float64{8, 0, 32}},
		{"none", []Band{{300, 301}}, []float64{0, 0, 0}},
		{"parts per million", []Band{PPM(105.03, 10)}, []float64{8, 0, 0}},
	} {
		if got, err := run().Ions(c.bands...); err != nil || !slices.Equal(got, c.want) {
			t.Errorf("%s: %v %v, want %v", c.name, got, err, c.want)
		}
	}
	if got := run().Total(); !slices.Equal(got, []float64{15, 0, 48}) {
		t.Errorf("total %v", got)
	}
	if got := run().BasePeak(); !slices.Equal(got, []float64{8, 0, 32}) {
		t.Errorf("base peak %v", got)
	}
	if got := run().Range(); got != (Band{70.7, 200}) {
		t.Errorf("range %v", got)
	}
	if got := (Run{}).Range(); !math.IsNaN(got.Low) {
		t.Errorf("range of nothing %v", got)
	}
}

func TestAWavelengthIsTheMeanOfItsBand(t *testing.T) {
	r := Run{About: About{Kind: Wavelength}, Scans: []Scan{{TimeS: 0, Axis: []float64{270, 274, 278, 282}, Values: []float64{1, 3, 5, 7}}}}
	for _, c := range []struct {
		band Band
		want float64
	}{{Around(278, 4), 5}, {Around(276, 2), 4}, {Around(278, 0), 5}, {Around(279.5, 0), 5}, {Around(281, 0.2), 7}} {
		got, err := r.At(c.band)
		if err != nil || got[0] != c.want {
			t.Errorf("%v: %v %v, want %g", c.band, got, err, c.want)
		}
	}
	if _, err := r.At(Around(290, 1)); err == nil {
		t.Error("a wavelength beyond the grid is given")
	}
	if _, err := run().At(Around(71, 1)); err == nil {
		t.Error("a wavelength of masses is given")
	}
}

func TestScansAreSorted(t *testing.T) {
	r := Run{Scans: []Scan{{TimeS: 5, Axis: []float64{3, 1, 2}, Values: []float64{30, 10, 20}}, {TimeS: 1, Axis: []float64{1}, Values: []float64{1}}}}
	r.Sort()
	if r.Scans[0].TimeS != 1 || !slices.Equal(r.Scans[1].Axis, []float64{1, 2, 3}) || !slices.Equal(r.Scans[1].Values, []float64{10, 20, 30}) {
		t.Errorf("%+v", r.Scans)
	}
}
