package andi

import (
	"encoding/json"
	"errors"
	"math"
	"os"
	"slices"
	"strings"
	"testing"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/netcdf"
)

// Mass spectra of another writer: times, total ion and extracted ions are those of their truth.
func TestMassSpectraOfAnotherWriter(t *testing.T) {
	data, err := os.ReadFile("testdata/andims_1_float_netcdf4py.cdf")
	if err != nil {
		t.Fatal(err)
	}
	told, err := os.ReadFile("testdata/andims_1_float_netcdf4py.cdf.truth.json")
	if err != nil {
		t.Fatal(err)
	}
	var truth struct {
		Times  []float64 `json:"times_s"`
		Total  []float64 `json:"tic"`
		Counts []int     `json:"point_counts"`
		Ions   []struct {
			MZ          float64   `json:"mz"`
			Tolerance   float64   `json:"tolerance"`
			Intensities []float64 `json:"intensities"`
		} `json:"eic"`
	}
	if err := json.Unmarshal(told, &truth); err != nil {
		t.Fatal(err)
	}
	f, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	r := f.Spectra[0]
	if len(r.Scans) != len(truth.Times) || r.Polarity != spectra.Positive || r.Profile {
		t.Fatalf("%d scans, %q, profile %v", len(r.Scans), r.Polarity, r.Profile)
	}
	near := func(a, b float64) bool { return math.Abs(a-b) <= 1e-9*max(1, math.Abs(b)) }
	total := r.Total()
	for i, s := range r.Scans {
		if !near(s.TimeS, truth.Times[i]) || !near(total[i], truth.Total[i]) || len(s.Axis) != truth.Counts[i] {
			t.Fatalf("scan %d at %g s with %d points and %g in all", i, s.TimeS, len(s.Axis), total[i])
		}
	}
	for _, ion := range truth.Ions {
		got, err := r.Ions(spectra.Around(ion.MZ, ion.Tolerance))
		if err != nil {
			t.Fatal(err)
		}
		for i, v := range got {
			if !near(v, ion.Intensities[i]) {
				t.Fatalf("m/z %g ± %g, scan %d: %g, in truth %g", ion.MZ, ion.Tolerance, i, v, ion.Intensities[i])
			}
		}
	}
}

// Masses and intensities as integers with a factor and an offset; a scan that points beyond the data is refused.
func TestScaledIntegers(t *testing.T) {
	write := func(start float64) []byte {
		var w netcdf.Writer
		scans, points := w.AddDimension("scan_number", 2), w.AddDimension("point_number", 3)
		factor := func(v float64) netcdf.Attribute {
			return netcdf.Attribute{Name: "scale_factor", Type: netcdf.Double, Numbers: []float64{v}}
		}
		for _, v := range []struct {
			name   string
			kind   netcdf.Type
			dim    int
			values []float64
			attrs  []netcdf.Attribute
		}{
			{"scan_acquisition_time", netcdf.Double, scans, []float64{1, 2}, nil},
			{"scan_index", netcdf.Int, scans, []float64{0, start}, nil},
			{"point_count", netcdf.Int, scans, []float64{1, 2}, nil},
			{"mass_values", netcdf.Short, points, []float64{2014, 1400, 1500}, []netcdf.Attribute{factor(0.05)}},
			{"intensity_values", netcdf.Int, points, []float64{-3, 7, 100}, []netcdf.Attribute{factor(2), {Name: "add_offset", Type: netcdf.Double, Numbers: []float64{10}}}},
		} {
			if err := w.AddVariable(v.name, v.kind, []int{v.dim}, v.values, v.attrs...); err != nil {
				t.Fatal(err)
			}
		}
		return w.Bytes()
	}
	f, err := whole(write(1))
	if err != nil {
		t.Fatal(err)
	}
	s := f.Spectra[0].Scans
	if !slices.Equal(s[0].Values, []float64{4}) || !slices.Equal(s[1].Values, []float64{24, 210}) || math.Abs(s[1].Axis[0]-70) > 1e-12 {
		t.Errorf("%+v", s)
	}
	var e *formats.Error
	if _, err := whole(write(2)); !errors.As(err, &e) || !strings.Contains(e.Reason, "scan 2 should have points 3 to 4; there are 3") {
		t.Errorf("a scan beyond the data: %v", err)
	}
}

func TestMassSpectraRoundTrip(t *testing.T) {
	r := spectra.Run{About: spectra.About{Kind: spectra.Mass, Level: 1, Polarity: spectra.Negative, Profile: true, Unit: "counts"}, Scans: []spectra.Scan{
		{TimeS: 1.0 / 3, Axis: []float64{15.0235, 71.05}, Values: []float64{1.0 / 7, 6.02214076e23}}, {TimeS: 20.8},
	}}
	data, err := WriteSpectra(r, formats.Header{SampleName: "Leaf"})
	if err != nil {
		t.Fatal(err)
	}
	f, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	g := f.Spectra[0]
	if g.Polarity != r.Polarity || g.Profile != r.Profile || g.Unit != r.Unit || !slices.Equal(g.Scans[0].Axis, r.Scans[0].Axis) || !slices.Equal(g.Scans[0].Values, r.Scans[0].Values) || g.Scans[0].TimeS != 1.0/3 || len(g.Scans[1].Axis) != 0 {
		t.Errorf("it comes back as %+v", g)
	}
	if _, err := WriteSpectra(spectra.Run{About: spectra.About{Kind: spectra.Wavelength}}, formats.Header{}); err == nil {
		t.Error("wavelengths are written as masses")
	}
}
