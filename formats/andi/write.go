package andi

import (
	"fmt"
	"math"
	"slices"

	"yugen/core/signal"
	"yugen/formats"
	"yugen/formats/netcdf"
)

// Write encodes channels with their header and the peaks that the file lists. Numbers are single precision where that holds them, as the standard has it, else
// double; times that no interval gives to the last bit stand beside the values.
func Write(channels []formats.Channel, h formats.Header, peaks []formats.ListedPeak) ([]byte, error) {
	if len(channels) == 0 || len(channels) > maxChannels {
		return nil, fmt.Errorf("andi: between 1 and %d channels are written, not %d", maxChannels, len(channels))
	}
	var w netcdf.Writer
	head(&w, channels[0], h)
	for k, c := range channels {
		end := ""
		if k > 0 {
			end = suffix(k + 1)
		}
		if err := writeChannel(&w, c, h, end); err != nil {
			return nil, err
		}
	}
	if err := writePeaks(&w, peaks); err != nil {
		return nil, err
	}
	return w.Bytes(), nil
}

func head(w *netcdf.Writer, first formats.Channel, h formats.Header) {
	at := ""
	if h.AcquiredAt != nil {
		at = h.AcquiredAt.Format("20060102150405-0700")
	}
	for _, a := range [][2]string{
		{"dataset_completeness", "C1+C2"}, {"aia_template_revision", "1.0"}, {"netcdf_revision", "2.3"}, {"languages", "English only"},
		{"injection_date_time_stamp", at}, {"operator_name", h.Operator},
		{"company_method_name", h.MethodName}, {"sample_id", h.SampleID}, {"sample_id_comments", h.Comments},
		{"sample_name", h.SampleName}, {"sample_type", h.SampleType},
		{"detection_method_name", first.Name}, {"detector_name", h.Detector}, {"detector_unit", first.Unit},
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
}

func writeChannel(w *netcdf.Writer, c formats.Channel, h formats.Header, end string) error {
	tr, err := signal.New(slices.Clone(c.TimesS), make([]float64, len(c.TimesS))) // which tells an interval
	if err != nil {
		return fmt.Errorf("andi: %s: %w", c.Name, err)
	}
	byInterval := tr.TimesS == nil
	for i := range c.TimesS {
		byInterval = byInterval && c.TimesS[i] == tr.TimeS(i)
	}
	points := w.AddDimension("point_number"+end, tr.Len())
	type scalar struct {
		name  string
		value float64
	}
	scalars := []scalar{{"actual_sampling_interval" + end, tr.StepS}, {"actual_delay_time" + end, tr.StartS}}
	attrs := []netcdf.Attribute{{Name: "uniform_sampling_flag", Type: netcdf.Char, Text: "Y"}}
	if !byInterval {
		attrs[0].Text = "N"
	}
	if end == "" {
		scalars = append(scalars, scalar{"detector_maximum_value", slices.Max(c.Values)}, scalar{"detector_minimum_value", slices.Min(c.Values)}, scalar{"actual_run_time_length", tr.EndS() - tr.StartS})
		if h.Vial != "" {
			attrs = append(attrs, netcdf.Attribute{Name: "autosampler_position", Type: netcdf.Char, Text: h.Vial})
		}
	} else {
		attrs = append(attrs, netcdf.Attribute{Name: "detection_method_name", Type: netcdf.Char, Text: c.Name}, netcdf.Attribute{Name: "detector_unit", Type: netcdf.Char, Text: c.Unit})
	}
	for _, n := range scalars {
		if err := w.AddVariable(n.name, netcdf.Double, nil, []float64{n.value}); err != nil {
			return err
		}
	}
	if !byInterval {
		if err := w.AddVariable("raw_data_retention"+end, netcdf.Double, []int{points}, c.TimesS); err != nil {
			return err
		}
	}
	return w.AddVariable("ordinate_values"+end, precision(c.Values), []int{points}, c.Values, attrs...)
}

// precision is single where that holds every value.
func precision(values []float64) netcdf.Type {
	for _, v := range values {
		if float64(float32(v)) != v {
			return netcdf.Double
		}
	}
	return netcdf.Float
}

// nameLength is that of the standard for names of peaks.
const nameLength = 64

// The numbers of a listed peak, by the names of the standard.
var peakNumbers = []struct {
	name  string
	of    func(*formats.ListedPeak) **float64
	times bool // in the unit of the file's times
}{
	{"peak_start_time", func(p *formats.ListedPeak) **float64 { return &p.StartMin }, true},
	{"peak_end_time", func(p *formats.ListedPeak) **float64 { return &p.EndMin }, true},
	{"peak_area", func(p *formats.ListedPeak) **float64 { return &p.Area }, false},
	{"peak_height", func(p *formats.ListedPeak) **float64 { return &p.Height }, false},
	{"peak_amount", func(p *formats.ListedPeak) **float64 { return &p.Amount }, false},
}

func writePeaks(w *netcdf.Writer, peaks []formats.ListedPeak) error {
	if len(peaks) == 0 {
		return nil
	}
	w.AddText("peak_processing_results_table_name", "results")
	if unit := peaks[0].AmountUnit; unit != "" {
		w.AddText("peak_amount_unit", unit)
	}
	each, letters := w.AddDimension("peak_number", len(peaks)), w.AddDimension("_64_byte_string", nameLength)
	names, retention := make([]string, len(peaks)), make([]float64, len(peaks))
	for i, p := range peaks {
		names[i], retention[i] = p.Name, p.RetentionMin*60
	}
	if err := w.AddTexts("peak_name", [2]int{each, letters}, names); err != nil {
		return err
	}
	if err := w.AddVariable("peak_retention_time", netcdf.Double, []int{each}, retention); err != nil {
		return err
	}
	for _, n := range peakNumbers {
		values, any := make([]float64, len(peaks)), false
		for i := range peaks {
			values[i] = fill
			if v := *n.of(&peaks[i]); v != nil {
				if values[i], any = *v, true; n.times {
					values[i] *= 60
				}
			}
		}
		if any {
			if err := w.AddVariable(n.name, netcdf.Double, []int{each}, values); err != nil {
				return err
			}
		}
	}
	return nil
}

// listedPeaks reads the peak table of a file, none where it has none.
func listedPeaks(f *netcdf.File) ([]formats.ListedPeak, error) {
	v, ok := f.Variable("peak_retention_time")
	if !ok || f.Length(v) == 0 {
		return nil, nil
	}
	if f.Length(v) > maxPeaks {
		return nil, &formats.Error{Reason: fmt.Sprintf("its table lists %d peaks; at most %d are read", f.Length(v), maxPeaks)}
	}
	retention, err := f.Numbers(v)
	if err != nil {
		return nil, located(err)
	}
	perMin := secondsPer(f) / 60
	list := make([]formats.ListedPeak, 0, len(retention))
	for _, at := range retention {
		list = append(list, formats.ListedPeak{RetentionMin: at * perMin, AmountUnit: firstOf(f.Text("peak_amount_unit"))})
	}
	if v, ok := f.Variable("peak_name"); ok {
		if names, err := f.Texts(v); err == nil && len(names) == len(list) { // names of another form are left out, not the peaks
			for i := range list {
				list[i].Name = names[i]
			}
		}
	}
	for _, n := range peakNumbers {
		v, ok := f.Variable(n.name)
		if !ok || f.Length(v) != int64(len(list)) {
			continue
		}
		values, err := f.Numbers(v)
		if err != nil {
			return nil, located(err)
		}
		for i, value := range values {
			if math.IsNaN(value) || math.IsInf(value, 0) || math.Abs(value-fill) <= 1e-6*fill {
				continue
			}
			if n.times {
				value *= perMin
			}
			*n.of(&list[i]) = &value
		}
	}
	return slices.DeleteFunc(list, func(p formats.ListedPeak) bool {
		return math.IsNaN(p.RetentionMin) || math.IsInf(p.RetentionMin, 0) || math.Abs(p.RetentionMin) >= fill/100
	}), nil
}

// maxPeaks bounds those that a file lists.
const maxPeaks = 100_000
