// Package andi reads and writes ANDI chromatography files: netCDF with the names of ASTM E1947.
package andi

import (
	"errors"
	"fmt"
	"io"
	"math"
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
	if n := f.Length(ordinates); n > int64(limits.Points) {
		if _, err := f.Stretch(ordinates, n-1, 1); err != nil { // it is less than it says
			return formats.File{}, located(err)
		}
		return formats.File{}, &formats.Error{Reason: fmt.Sprintf("it has %d points; at most %d are read", n, limits.Points)}
	}
	values, err := f.Numbers(ordinates)
	if err != nil {
		return formats.File{}, located(err)
	}
	if err := unwritten(values); err != nil {
		return formats.File{}, err
	}
	trace, err := timed(f, values)
	if err != nil {
		return formats.File{}, err
	}
	trace.Unit = f.Text("detector_unit")
	trace.Name = firstOf(f.Text("detection_method_name"), f.Text("detector_name"), "signal")
	file := formats.File{Traces: []signal.Trace{trace}, Header: header(f)}
	said, _ := scalar(f, "actual_run_time_length")
	low, okLow := scalar(f, "detector_minimum_value")
	high, okHigh := scalar(f, "detector_maximum_value")
	if !okLow || !okHigh {
		low, high = 0, 0
	}
	perUnit := secondsPer(f)
	for _, doubt := range []string{formats.Doubt(trace), formats.DoubtLength(trace, said*perUnit), formats.DoubtRange(trace, low, high)} {
		if doubt != "" {
			file.Header.Doubts = append(file.Header.Doubts, doubt)
		}
	}
	return file, nil
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

func timed(f *netcdf.File, values []float64) (signal.Trace, error) {
	perUnit := secondsPer(f)
	var trace signal.Trace
	var err error
	if retention, ok := f.Variable("raw_data_retention"); ok && f.Length(retention) == int64(len(values)) {
		times, numbersErr := f.Numbers(retention)
		if numbersErr != nil {
			return trace, located(numbersErr)
		}
		for i := range times {
			times[i] *= perUnit
		}
		trace, err = signal.New(times, values)
	} else {
		step, ok := scalar(f, "actual_sampling_interval")
		if !ok {
			return trace, &formats.Error{Reason: "it gives neither actual_sampling_interval nor raw_data_retention, so its times are unknown"}
		}
		delay, _ := scalar(f, "actual_delay_time")
		trace, err = signal.NewUniform(delay*perUnit, step*perUnit, values)
	}
	if err != nil {
		return trace, &formats.Error{Reason: err.Error()}
	}
	return trace, nil
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

// Write encodes one trace, which must be uniform, with its header.
func Write(trace signal.Trace, h formats.Header) ([]byte, error) {
	if trace.TimesS != nil {
		return nil, fmt.Errorf("andi: a trace with uneven times cannot be written with a sampling interval")
	}
	var w netcdf.Writer
	at := ""
	if h.AcquiredAt != nil {
		at = h.AcquiredAt.Format("20060102150405-0700")
	}
	for _, a := range [][2]string{
		{"dataset_completeness", "C1+C2"}, {"aia_template_revision", "1.0"}, {"netcdf_revision", "2.3"}, {"languages", "English only"},
		{"injection_date_time_stamp", at}, {"operator_name", h.Operator}, {"separation_experiment_type", "liquid chromatography"},
		{"company_method_name", h.MethodName}, {"sample_id", h.SampleID}, {"sample_id_comments", h.Comments},
		{"sample_name", h.SampleName}, {"sample_type", h.SampleType},
		{"detection_method_name", trace.Name}, {"detector_name", h.Detector}, {"detector_unit", trace.Unit},
		{"raw_data_table_name", "raw"}, {"retention_unit", "seconds"},
	} {
		w.AddText(a[0], a[1])
	}
	for _, n := range []struct {
		name  string
		value *float64
	}{{"sample_amount", h.SampleAmount}, {"sample_injection_volume", h.Volume}} {
		if n.value != nil {
			w.AddNumber(n.name, *n.value)
		}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, v := range trace.Values {
		low, high = math.Min(low, v), math.Max(high, v)
	}
	points := w.AddDimension("point_number", trace.Len())
	numbers := []struct {
		name  string
		value float64
	}{
		{"detector_maximum_value", high}, {"detector_minimum_value", low},
		{"actual_run_time_length", trace.EndS() - trace.StartS}, {"actual_sampling_interval", trace.StepS}, {"actual_delay_time", trace.StartS},
	}
	for _, n := range numbers {
		if err := w.AddVariable(n.name, netcdf.Double, nil, []float64{n.value}); err != nil {
			return nil, err
		}
	}
	attrs := []netcdf.Attribute{{Name: "uniform_sampling_flag", Type: netcdf.Char, Text: "Y"}}
	if h.Vial != "" {
		attrs = append(attrs, netcdf.Attribute{Name: "autosampler_position", Type: netcdf.Char, Text: h.Vial})
	}
	if err := w.AddVariable("ordinate_values", netcdf.Float, []int{points}, trace.Values, attrs...); err != nil {
		return nil, err
	}
	return w.Bytes(), nil
}
