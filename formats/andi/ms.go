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
func readSpectra(f *netcdf.File) (formats.File, error) {
	file := formats.File{Header: header(f)}
	file.Header.Format = "ANDI mass spectrometry"
	file.Header.AcquiredAt = stamp(f.Text("experiment_date_time_stamp"))
	file.Header.SampleName = firstOf(f.Text("external_file_ref_0"), file.Header.SampleName, f.Text("experiment_title"))
	times, err := scaled(f, "scan_acquisition_time")
	if err != nil {
		return file, err
	}
	starts, err := scaled(f, "scan_index")
	if err != nil {
		return file, err
	}
	counts, err := scaled(f, "point_count")
	if err != nil {
		return file, err
	}
	masses, err := scaled(f, "mass_values")
	if err != nil {
		return file, err
	}
	intensities, err := scaled(f, "intensity_values")
	if err != nil {
		return file, err
	}
	n := len(times)
	if len(starts) != n || len(counts) != n || len(masses) != len(intensities) {
		return file, &formats.Error{Reason: fmt.Sprintf("there are %d times, %d scan indices and %d point counts, %d masses and %d intensities; they do not belong together", n, len(starts), len(counts), len(masses), len(intensities))}
	}
	run := spectra.Run{Kind: spectra.Mass, Level: 1, Scans: make([]spectra.Scan, n)}
	if v, ok := f.Variable("intensity_values"); ok {
		run.Unit = strings.TrimSpace(v.Text("units"))
		if strings.HasPrefix(run.Unit, "Arbitrary") {
			run.Unit = ""
		}
	}
	switch polarity := strings.ToLower(f.Text("test_ionization_polarity")); {
	case strings.HasPrefix(polarity, "positive"):
		run.Polarity = spectra.Positive
	case strings.HasPrefix(polarity, "negative"):
		run.Polarity = spectra.Negative
	}
	run.Profile = strings.HasPrefix(strings.ToLower(f.Text("experiment_type")), "continuum")
	for i := range n {
		from, to := starts[i], starts[i]+counts[i]
		if !(counts[i] >= 0) || counts[i] == 0 {
			run.Scans[i] = spectra.Scan{TimeS: times[i]}
			continue
		}
		if from < 0 || to > float64(len(masses)) || from != math.Trunc(from) || to != math.Trunc(to) {
			return file, &formats.Error{Reason: fmt.Sprintf("scan %d should have points %g to %g; there are %d", i+1, from+1, to, len(masses))}
		}
		run.Scans[i] = spectra.Scan{TimeS: times[i], Axis: masses[int(from):int(to)], Values: intensities[int(from):int(to)]}
	}
	run.Sort()
	file.Spectra = []spectra.Run{run}
	return file, nil
}

// scaled are the numbers of a variable, times its scale_factor and with its add_offset; each must be finite.
func scaled(f *netcdf.File, name string) ([]float64, error) {
	v, ok := f.Variable(name)
	if !ok {
		return nil, &formats.Error{Reason: "there is no variable " + name + " in it, so its spectra cannot be read"}
	}
	values, err := f.Numbers(v)
	if err != nil {
		return nil, located(err)
	}
	factor, offset := 1.0, 0.0
	for _, a := range v.Attributes {
		if len(a.Numbers) != 1 {
			continue
		}
		switch a.Name {
		case "scale_factor":
			factor = a.Numbers[0]
		case "add_offset":
			offset = a.Numbers[0]
		}
	}
	if factor != 1 || offset != 0 {
		for i := range values {
			values[i] = values[i]*factor + offset
		}
	}
	return values, formats.CheckValues(name, values)
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
