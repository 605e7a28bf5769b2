package andi

import (
	"fmt"
	"math"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/netcdf"
)

// readSpectra decodes ANDI mass spectrometry: ASTM E2077-00 (2016) on ASTM E2078. Masses and intensities may be integers with scale_factor and add_offset.
// Scans are read one by one.
func readSpectra(f *netcdf.File, limits formats.Limits, to spectra.Taker) (formats.File, error) {
	file := formats.File{Header: header(f)}
	file.Header.Format = "ANDI mass spectrometry"
	file.Header.AcquiredAt = stamp(f.Text("experiment_date_time_stamp"))
	file.Header.SampleName = firstOf(f.Text("external_file_ref_0"), file.Header.SampleName, f.Text("experiment_title"))
	var perScan [3][]float64
	for k, name := range []string{"scan_acquisition_time", "scan_index", "point_count"} {
		v, err := numbersOf(f, name)
		if err != nil {
			return file, err
		}
		if v.length > maxScans {
			return file, &formats.Error{Reason: fmt.Sprintf("there are %d scans; at most %d are read", v.length, maxScans)}
		}
		if perScan[k], err = v.stretch(0, v.length); err != nil {
			return file, err
		}
	}
	times, starts, counts := perScan[0], perScan[1], perScan[2]
	masses, err := numbersOf(f, "mass_values")
	if err != nil {
		return file, err
	}
	intensities, err := numbersOf(f, "intensity_values")
	if err != nil {
		return file, err
	}
	n := len(times)
	if len(starts) != n || len(counts) != n || masses.length != intensities.length {
		return file, &formats.Error{Reason: fmt.Sprintf("there are %d times, %d scan indices and %d point counts, %d masses and %d intensities; they do not belong together", n, len(starts), len(counts), masses.length, intensities.length)}
	}
	about := aboutSpectra(f)
	points := 0.0
	for i := range n {
		scan := spectra.Scan{TimeS: times[i]}
		if from, count := starts[i], counts[i]; count > 0 {
			if to := from + count; from < 0 || to > float64(masses.length) || from != math.Trunc(from) || to != math.Trunc(to) {
				return file, &formats.Error{Reason: fmt.Sprintf("scan %d should have points %g to %g; there are %d", i+1, from+1, to, masses.length)}
			}
			if points += count; points > float64(limits.Points) {
				return file, &formats.Error{Reason: fmt.Sprintf("there are more than %d points in it", limits.Points)}
			}
			if scan.Axis, err = masses.stretch(int64(from), int64(count)); err != nil {
				return file, err
			}
			if scan.Values, err = intensities.stretch(int64(from), int64(count)); err != nil {
				return file, err
			}
		}
		if err := to.Take(about, scan); err != nil {
			return file, err
		}
	}
	return file, nil
}

// maxScans bounds those of one file.
const maxScans = 10_000_000

// aboutSpectra is what the file says of all its scans.
func aboutSpectra(f *netcdf.File) spectra.About {
	about := spectra.About{Kind: spectra.Mass, Level: 1}
	if v, ok := f.Variable("intensity_values"); ok {
		about.Unit = strings.TrimSpace(v.Text("units"))
		if strings.HasPrefix(about.Unit, "Arbitrary") {
			about.Unit = ""
		}
	}
	switch polarity := strings.ToLower(f.Text("test_ionization_polarity")); {
	case strings.HasPrefix(polarity, "positive"):
		about.Polarity = spectra.Positive
	case strings.HasPrefix(polarity, "negative"):
		about.Polarity = spectra.Negative
	}
	about.Profile = strings.HasPrefix(strings.ToLower(f.Text("experiment_type")), "continuum")
	return about
}

// scaled are the numbers of a variable, times its scale_factor and with its add_offset.
type scaled struct {
	file           *netcdf.File
	variable       *netcdf.Variable
	length         int64
	factor, offset float64
}

func numbersOf(f *netcdf.File, name string) (scaled, error) {
	v, ok := f.Variable(name)
	if !ok {
		return scaled{}, &formats.Error{Reason: "there is no variable " + name + " in it, so its spectra cannot be read"}
	}
	s := scaled{f, v, f.Length(v), 1, 0}
	for _, a := range v.Attributes {
		if len(a.Numbers) != 1 {
			continue
		}
		switch a.Name {
		case "scale_factor":
			s.factor = a.Numbers[0]
		case "add_offset":
			s.offset = a.Numbers[0]
		}
	}
	return s, nil
}

// stretch reads n of them; each must be finite.
func (s scaled) stretch(from, n int64) ([]float64, error) {
	values, err := s.file.Stretch(s.variable, from, n)
	if err != nil {
		return nil, located(err)
	}
	if s.factor != 1 || s.offset != 0 {
		for i := range values {
			values[i] = values[i]*s.factor + s.offset
		}
	}
	for i, v := range values {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, &formats.Error{Reason: fmt.Sprintf("%s: value %d is not a finite number", s.variable.Name, from+int64(i)+1)}
		}
	}
	return values, nil
}

// WriteSpectra encodes one run of mass scans with double numbers.
func WriteSpectra(r spectra.Run, h formats.Header) ([]byte, error) {
	if r.Kind != spectra.Mass {
		return nil, fmt.Errorf("andi: spectra of %s cannot be written as ANDI mass spectrometry", r.Kind)
	}
	var w netcdf.Writer
	kind, polarity, at := "Centroided Mass Spectrum", "", ""
	if r.Profile {
		kind = "Continuum Mass Spectrum"
	}
	switch r.Polarity {
	case spectra.Positive:
		polarity = "Positive Polarity"
	case spectra.Negative:
		polarity = "Negative Polarity"
	}
	if h.AcquiredAt != nil {
		at = h.AcquiredAt.Format("20060102150405-0700")
	}
	for _, a := range [][2]string{
		{"dataset_completeness", "C1+C2"}, {"ms_template_revision", "1.0.1"}, {"netcdf_revision", "2.3.2"}, {"languages", "English"},
		{"experiment_title", h.SampleName}, {"sample_name", h.SampleName}, {"experiment_date_time_stamp", at}, {"operator_name", h.Operator},
		{"experiment_type", kind}, {"test_ionization_polarity", polarity}, {"raw_data_mass_format", "Double"}, {"raw_data_intensity_format", "Double"},
	} {
		w.AddText(a[0], a[1])
	}
	var starts, counts, masses, intensities []float64
	for _, s := range r.Scans {
		starts, counts = append(starts, float64(len(masses))), append(counts, float64(len(s.Axis)))
		masses, intensities = append(masses, s.Axis...), append(intensities, s.Values...)
	}
	scans, points := w.AddDimension("scan_number", len(r.Scans)), w.AddDimension("point_number", len(masses))
	unit := netcdf.Attribute{Name: "units", Type: netcdf.Char, Text: firstOf(r.Unit, "Arbitrary Intensity Units")}
	for _, v := range []struct {
		name      string
		kind      netcdf.Type
		dimension int
		values    []float64
		attrs     []netcdf.Attribute
	}{
		{"scan_acquisition_time", netcdf.Double, scans, r.Times(), nil},
		{"total_intensity", netcdf.Double, scans, r.Total(), nil},
		{"scan_index", netcdf.Int, scans, starts, nil},
		{"point_count", netcdf.Int, scans, counts, nil},
		{"mass_values", netcdf.Double, points, masses, []netcdf.Attribute{{Name: "units", Type: netcdf.Char, Text: "M/Z"}}},
		{"intensity_values", netcdf.Double, points, intensities, []netcdf.Attribute{unit}},
	} {
		if err := w.AddVariable(v.name, v.kind, []int{v.dimension}, v.values, v.attrs...); err != nil {
			return nil, err
		}
	}
	return w.Bytes(), nil
}
