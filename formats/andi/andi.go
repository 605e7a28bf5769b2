// Package andi reads and writes ANDI chromatography files: netCDF with the names of ASTM E1947.
package andi

import (
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"time"

	"yugen/core/signal"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/netcdf"
)

// Read decodes a chromatography file. Times are in seconds: actual_delay_time and actual_sampling_interval, or
// raw_data_retention where that is given; values are ordinate_values.
func Read(from io.ReaderAt, size int64, limits formats.Limits, to spectra.Taker) (formats.File, error) {
	if size > limits.Bytes {
		return formats.File{}, &formats.Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read", size>>20, limits.Bytes>>20)}
	}
	f, err := netcdf.Open(from, size)
	if err != nil {
		return formats.File{}, located(err)
	}
	ordinates, ok := f.Variable("ordinate_values")
	if !ok {
		if _, scans := f.Variable("scan_acquisition_time"); scans {
			return readSpectra(f, limits, to)
		}
		return formats.File{}, &formats.Error{Reason: "there is no variable ordinate_values in it, so it is no ANDI chromatogram"}
	}
	file := formats.File{Header: header(f)}
	add := func(v *netcdf.Variable, suffix, name, unit string) error {
		trace, times, err := channel(f, v, suffix, limits)
		if err != nil {
			return err
		}
		trace.Name, trace.Unit = name, unit
		c := formats.ChannelOf(trace)
		if times != nil { // to the last bit, where an interval would round them
			c.TimesS = times
		}
		file.Traces, file.Channels = append(file.Traces, trace), append(file.Channels, c)
		return nil
	}
	if err := add(ordinates, "", firstOf(f.Text("detection_method_name"), f.Text("detector_name"), "signal"), f.Text("detector_unit")); err != nil {
		return formats.File{}, err
	}
	for k := 2; k <= maxChannels; k++ {
		more, ok := f.Variable("ordinate_values" + suffix(k))
		if !ok {
			break
		}
		if err := add(more, suffix(k), firstOf(more.Text("detection_method_name"), fmt.Sprintf("signal %d", k)), strings.TrimSpace(more.Text("detector_unit"))); err != nil {
			return formats.File{}, err
		}
	}
	if file.Peaks, err = listedPeaks(f); err != nil {
		return formats.File{}, err
	}
	said, _ := scalar(f, "actual_run_time_length")
	low, okLow := scalar(f, "detector_minimum_value")
	high, okHigh := scalar(f, "detector_maximum_value")
	if !okLow || !okHigh {
		low, high = 0, 0
	}
	perUnit, trace := secondsPer(f), file.Traces[0]
	for _, doubt := range []string{formats.Doubt(trace), formats.DoubtLength(trace, said*perUnit), formats.DoubtRange(trace, low, high)} {
		if doubt != "" {
			file.Header.Doubts = append(file.Header.Doubts, doubt)
		}
	}
	return file, nil
}

// maxChannels bounds those of one file.
const maxChannels = 100

// suffix ends the names of the variables of a further channel. The standard has one channel a file; further ones stand beside it under names that readers of
// one channel pass over.
func suffix(k int) string { return fmt.Sprintf("_%d", k) }

// channel reads the samples of a channel, and their times (s) where they stand beside.
func channel(f *netcdf.File, ordinates *netcdf.Variable, suffix string, limits formats.Limits) (tr signal.Trace, timesS []float64, err error) {
	if n := f.Length(ordinates); n > int64(limits.Points) {
		if _, err := f.Stretch(ordinates, n-1, 1); err != nil { // it is less than it says
			return tr, nil, located(err)
		}
		return tr, nil, &formats.Error{Reason: fmt.Sprintf("it has %d points; at most %d are read", n, limits.Points)}
	}
	values, err := f.Numbers(ordinates)
	if err != nil {
		return tr, nil, located(err)
	}
	if err := unwritten(values); err != nil {
		return tr, nil, err
	}
	return timed(f, values, suffix)
}

// fill is what netCDF writes where nothing was written (NC_FILL_FLOAT and NC_FILL_DOUBLE).
const fill = 9.969209968386869e36

// unwritten refuses a file in which points were never written.
func unwritten(values []float64) error {
	n, first := 0, -1
	for i, v := range values {
		if math.Abs(v-fill) <= 1e-6*fill {
			if n++; first < 0 {
				first = i
			}
		}
	}
	if n == 0 {
		return nil
	}
	return &formats.Error{Reason: fmt.Sprintf("%d of its %d points were never written, the first is point %d; export the chromatogram again", n, len(values), first+1)}
}

// secondsPer is how many seconds its unit of time has.
func secondsPer(f *netcdf.File) float64 {
	if strings.HasPrefix(strings.ToLower(f.Text("retention_unit")), "min") {
		return 60
	}
	return 1
}

func timed(f *netcdf.File, values []float64, suffix string) (tr signal.Trace, timesS []float64, err error) {
	perUnit := secondsPer(f)
	if retention, ok := f.Variable("raw_data_retention" + suffix); ok && f.Length(retention) == int64(len(values)) {
		times, numbersErr := f.Numbers(retention)
		if numbersErr != nil {
			return tr, nil, located(numbersErr)
		}
		for i := range times {
			times[i] *= perUnit
		}
		timesS = times
		tr, err = signal.New(slices.Clone(times), values)
	} else {
		step, ok := scalar(f, "actual_sampling_interval"+suffix)
		if !ok {
			return tr, nil, &formats.Error{Reason: "it gives neither actual_sampling_interval nor raw_data_retention, so its times are unknown"}
		}
		delay, _ := scalar(f, "actual_delay_time"+suffix)
		tr, err = signal.NewUniform(delay*perUnit, step*perUnit, values)
	}
	if err != nil {
		return tr, nil, &formats.Error{Reason: err.Error()}
	}
	return tr, timesS, nil
}

func scalar(f *netcdf.File, name string) (float64, bool) {
	v, ok := f.Variable(name)
	if !ok || f.Length(v) != 1 {
		return 0, false
	}
	n, err := f.Numbers(v)
	if err != nil || math.IsNaN(n[0]) || math.IsInf(n[0], 0) {
		return 0, false
	}
	return n[0], true
}

func header(f *netcdf.File) formats.Header {
	h := formats.Header{
		Format:     "ANDI chromatography",
		SampleName: f.Text("sample_name"), SampleID: f.Text("sample_id"), SampleType: f.Text("sample_type"),
		Operator: f.Text("operator_name"), MethodName: f.Text("company_method_name"),
		Detector: f.Text("detector_name"), Comments: f.Text("sample_id_comments"),
		Vial:       position(f),
		AcquiredAt: stamp(f.Text("injection_date_time_stamp")),
	}
	for _, name := range equipment {
		h.AddSetting(formats.Setting{Name: strings.ReplaceAll(name, "_", " "), Value: f.Text(name)})
	}
	h.SampleAmount, h.Volume = f.Number("sample_amount"), f.Number("sample_injection_volume")
	return h
}

// equipment are the attributes of the standard that tell of conditions and equipment.
var equipment = []string{
	"separation_experiment_type", "column_description", "column_id", "injection_method", "instrument_name", "detection_method_name", "detector_name", "sample_amount_units",
	"test_separation_type", "test_ionization_mode", "test_detector_type", "test_scan_function", "instrument_mfr_serial_no", "instrument_comments",
}

// position is the place in the autosampler's tray.
func position(f *netcdf.File) string {
	if v, ok := f.Variable("ordinate_values"); ok {
		return strings.TrimSpace(v.Text("autosampler_position"))
	}
	return ""
}

// stamp reads 20240315093000+0100.
func stamp(s string) *time.Time {
	for _, layout := range []string{"20060102150405-0700", "20060102150405"} {
		if t, err := time.Parse(layout, s); err == nil {
			return &t
		}
	}
	return nil
}

func firstOf(texts ...string) string {
	for _, t := range texts {
		if t = strings.TrimSpace(t); t != "" {
			return t
		}
	}
	return ""
}

func located(err error) error {
	var at *netcdf.FormatError
	if errors.As(err, &at) {
		return &formats.Error{Offset: at.Offset, Reason: at.Reason}
	}
	return err
}
