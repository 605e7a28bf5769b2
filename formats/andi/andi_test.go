package andi

import (
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/signal"
	"yugen/formats"
)

func example(t *testing.T) (signal.Trace, formats.Header) {
	t.Helper()
	y := make([]float64, 50)
	for i := range y {
		y[i] = float64(float32(3 + math.Sin(float64(i)/3)))
	}
	tr, err := signal.NewUniform(12, 0.5, y)
	if err != nil {
		t.Fatal(err)
	}
	tr.Name, tr.Unit = "UV 278 nm", "mAU"
	at := time.Date(2026, 4, 4, 9, 12, 0, 0, time.UTC)
	amount, volume := 0.2029, 5.0
	return tr, formats.Header{Format: "ANDI chromatography", SampleName: "Leaf µ", SampleID: "KL-1", SampleType: "unknown", Vial: "B7", SampleAmount: &amount, Volume: &volume, AcquiredAt: &at, Operator: "O", MethodName: "M", Detector: "UV", Comments: "none"}
}

func TestWhatIsWrittenIsReadBack(t *testing.T) {
	tr, h := example(t)
	data, err := Write([]formats.Channel{formats.ChannelOf(tr)}, h, nil)
	if err != nil {
		t.Fatal(err)
	}
	got, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	back := got.Traces[0]
	if back.Name != tr.Name || back.Unit != tr.Unit || back.StartS != 12 || back.StepS != 0.5 || back.Len() != 50 {
		t.Errorf("%+v", back)
	}
	for i, v := range tr.Values {
		if back.Values[i] != v {
			t.Fatalf("value %d is %g, was %g", i, back.Values[i], v)
		}
	}
	g := got.Header
	if g.SampleName != h.SampleName || g.Vial != "B7" || *g.SampleAmount != 0.2029 || *g.Volume != 5 || !g.AcquiredAt.Equal(*h.AcquiredAt) || g.SampleType != "unknown" || g.Operator != "O" || g.MethodName != "M" || g.Comments != "none" {
		t.Errorf("%+v", g)
	}
}

// The tools of the format's own makers read what we write.
func TestOtherReadersReadWhatIsWritten(t *testing.T) {
	if _, err := exec.LookPath("ncdump"); err != nil {
		t.Skip("ncdump is not installed; make test installs it")
	}
	tr, h := example(t)
	data, err := Write([]formats.Channel{formats.ChannelOf(tr)}, h, nil)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "a.cdf")
	if err := os.WriteFile(file, data, 0o644); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("ncdump", "-p", "9,17", file).CombinedOutput()
	if err != nil {
		t.Fatal(string(out))
	}
	text := string(out)
	for _, want := range []string{"point_number = 50", ":detector_unit = \"mAU\"", ":sample_amount = 0.2029", "actual_sampling_interval = 0.5", "actual_delay_time = 12", "ordinate_values:autosampler_position = \"B7\"", ":injection_date_time_stamp = \"20260404091200+0000\"", "ordinate_values = 3, 3.32719469"} {
		if !strings.Contains(text, want) {
			t.Errorf("%s is missing in\n%s", want, text)
		}
	}
}

// A file from those tools, with times in minutes of their own, comes in with them.
func TestUnevenTimesInMinutes(t *testing.T) {
	if _, err := exec.LookPath("ncgen"); err != nil {
		t.Skip("ncgen is not installed; make test installs it")
	}
	dir := t.TempDir()
	source, file := filepath.Join(dir, "a.cdl"), filepath.Join(dir, "a.cdf")
	if err := os.WriteFile(source, []byte(`netcdf a {
dimensions: point_number = 9 ;
variables:
	float raw_data_retention(point_number) ;
	short ordinate_values(point_number) ;
	:retention_unit = "Minutes" ; :detector_name = "FID" ; :sample_injection_volume = "1.5" ;
data:
	raw_data_retention = 0, 1, 2, 3.5, 4, 5, 6, 7, 8 ;
	ordinate_values = 5, 4, 3, -2, 1, 0, 1, 2, 300 ;
}`), 0o644); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("ncgen", "-o", file, source).CombinedOutput(); err != nil {
		t.Fatal(string(out))
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	got, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	tr := got.Traces[0]
	if tr.Name != "FID" || tr.TimeS(3) != 210 || tr.Values[3] != -2 || tr.Values[8] != 300 || *got.Header.Volume != 1.5 {
		t.Errorf("%+v %+v", tr, got.Header)
	}
}

// Every way of cutting a file short is a refusal, never a panic or a half-read trace.
func TestEveryCutIsRefused(t *testing.T) {
	tr, h := example(t)
	data, err := Write([]formats.Channel{formats.ChannelOf(tr)}, h, nil)
	if err != nil {
		t.Fatal(err)
	}
	for n := range data {
		if _, err := whole(data[:n]); err == nil {
			t.Fatalf("read with %d of %d bytes", n, len(data))
		}
	}
}

// Several channels, each with its own times, numbers that single precision does not hold, and the peaks that a file lists come back to the last bit.
func TestChannelsAndListedPeaksComeBack(t *testing.T) {
	uneven, err := signal.New([]float64{0, 1, 2, 3.5, 4, 5, 6, 7, 8.1}, []float64{0.1, 1.0 / 3, -2, 1e-30, 6.02214076e23, 3, 2, 1, 0})
	if err != nil {
		t.Fatal(err)
	}
	even, h := example(t)
	uneven.Name, uneven.Unit = "FID", "pA"
	third := even
	third.Name, third.Unit, third.StartS, third.StepS = "Pump pressure", "bar", 0, 2
	v := func(x float64) *float64 { return &x }
	peaks := []formats.ListedPeak{{Name: "Theobromine µ", RetentionMin: 4.125, StartMin: v(4), EndMin: v(4.5), Area: v(1234.5678), Height: v(88.25), Amount: v(0.1), AmountUnit: "mg/L"}, {RetentionMin: 6, Area: v(12)}}
	traces := []signal.Trace{even, uneven, third}
	var channels []formats.Channel
	for _, tr := range traces {
		channels = append(channels, formats.ChannelOf(tr))
	}
	channels[2].TimesS[7] = math.Nextafter(channels[2].TimesS[7], 99)
	data, err := Write(channels, h, peaks)
	if err != nil {
		t.Fatal(err)
	}
	got, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	if len(got.Traces) != 3 || got.Channels[2].Kind != formats.Condition {
		t.Fatalf("%d traces, %+v", len(got.Traces), got.Channels)
	}
	for k, want := range traces {
		back := got.Traces[k]
		if back.Name != want.Name || back.Unit != want.Unit || back.StartS != want.StartS || back.StepS != want.StepS || !slices.Equal(back.TimesS, want.TimesS) || !slices.Equal(back.Values, want.Values) {
			t.Errorf("channel %d comes back as %+v", k+1, back)
		}
	}
	for k, c := range channels {
		if !slices.Equal(got.Channels[k].TimesS, c.TimesS) {
			t.Errorf("the times of channel %d come back otherwise", k+1)
		}
	}
	if len(got.Peaks) != 2 || got.Peaks[0].Name != "Theobromine µ" || *got.Peaks[0].StartMin != 4 || *got.Peaks[0].Area != 1234.5678 || *got.Peaks[0].Amount != 0.1 || got.Peaks[0].AmountUnit != "mg/L" || got.Peaks[0].RetentionMin != 4.125 {
		t.Errorf("%+v", got.Peaks)
	}
	if second := got.Peaks[1]; second.RetentionMin != 6 || second.Height != nil || second.StartMin != nil || *second.Area != 12 {
		t.Errorf("%+v", second)
	}
	for n := range data {
		if _, err := whole(data[:n]); err == nil {
			t.Fatalf("read with %d of %d bytes", n, len(data))
		}
	}
	if _, err := Write(nil, h, nil); err == nil {
		t.Error("a file without a channel was written")
	}
}

// A peak table of another writer, with times in minutes, names of another length and places that were never filled.
func TestAPeakTableOfAnotherWriter(t *testing.T) {
	if _, err := exec.LookPath("ncgen"); err != nil {
		t.Skip("ncgen is not installed; make test installs it")
	}
	dir := t.TempDir()
	source, file := filepath.Join(dir, "a.cdl"), filepath.Join(dir, "a.cdf")
	if err := os.WriteFile(source, []byte(`netcdf a {
dimensions: point_number = 9 ; peak_number = 3 ; letters = 12 ;
variables:
	float actual_sampling_interval ; float actual_delay_time ;
	float ordinate_values(point_number) ;
	float peak_retention_time(peak_number) ; char peak_name(peak_number, letters) ; float peak_area(peak_number) ; float peak_start_time(peak_number) ;
	:retention_unit = "Minutes" ; :detector_name = "FID" ; :peak_amount_unit = "mg/L" ;
data:
	actual_sampling_interval = 0.5 ; actual_delay_time = 0 ;
	ordinate_values = 5, 4, 3, -2, 1, 0, 1, 2, 300 ;
	peak_retention_time = 1.5, 2.25, 3 ; peak_name = "one", "two", "" ; peak_area = 10, _, 30 ; peak_start_time = 1, 2, 2.75 ;
}`), 0o644); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("ncgen", "-o", file, source).CombinedOutput(); err != nil {
		t.Fatal(string(out))
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	got, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	if p := got.Peaks; len(p) != 3 || p[1].RetentionMin != 2.25 || p[0].Name != "one" || p[1].Name != "two" || p[2].Name != "" || p[1].Area != nil || *p[2].Area != 30 || *p[2].StartMin != 2.75 || p[0].Height != nil {
		t.Errorf("%+v", p)
	}
}

// What was never written is refused; what contradicts the header, or falls silent, is taken and told.
func TestFilesThatWereNotWrittenToTheirEnd(t *testing.T) {
	values := make([]float64, 1000)
	for i := range values {
		values[i] = 5 + math.Sin(float64(i))
	}
	write := func(change func([]float64)) []byte {
		own := slices.Clone(values)
		change(own)
		tr := signal.Trace{StepS: 0.5, Values: own, Name: "UV", Unit: "mAU"}
		data, err := Write([]formats.Channel{formats.ChannelOf(tr)}, formats.Header{SampleName: "Leaf"}, nil)
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	if _, err := whole(write(func(v []float64) {
		for i := 700; i < 1000; i++ {
			v[i] = fill
		}
	})); err == nil || !strings.Contains(err.Error(), "300 of its 1000 points were never written, the first is point 701") {
		t.Errorf("%v", err)
	}
	if _, err := whole(write(func(v []float64) { v[3] = 1e33 })); err == nil || !strings.Contains(err.Error(), "beyond what any detector gives") {
		t.Errorf("%v", err)
	}
	for want, change := range map[string]func([]float64){
		"The last 250 points are exactly 0": func(v []float64) {
			for i := 750; i < 1000; i++ {
				v[i] = 0
			}
		},
		"": func([]float64) {},
	} {
		file, err := whole(write(change))
		if err != nil || (len(file.Header.Doubts) > 0) != (want != "") || want != "" && !strings.HasPrefix(file.Header.Doubts[0], want) {
			t.Errorf("%v %v, want %q", file.Header.Doubts, err, want)
		}
	}
	tr := signal.Trace{StepS: 0.5, Values: values}
	if d := formats.DoubtLength(tr, 1200); !strings.Contains(d, "took 20 min, the points cover 8.325 min") {
		t.Errorf("%q", d)
	}
	if d := formats.DoubtRange(tr, 0, 5); !strings.Contains(d, "the header states 0 to 5") {
		t.Errorf("%q", d)
	}
	if formats.DoubtLength(tr, 499.5) != "" || formats.DoubtRange(tr, 4, 6) != "" || formats.DoubtLength(tr, 0) != "" {
		t.Error("a header that fits is doubted")
	}
}
