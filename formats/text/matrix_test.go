package text

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"yugen/core/spectra"
	"yugen/formats"
)

// grid is a matrix of ten scans whose value is its row times 1000 and its column.
func grid(heads ...string) string {
	var b strings.Builder
	b.WriteString("time_s," + strings.Join(heads, ",") + "\n")
	for i := range 10 {
		fmt.Fprintf(&b, "%d", i)
		for k := range heads {
			fmt.Fprintf(&b, ",%d", 1000*i+k)
		}
		b.WriteString("\n")
	}
	return b.String()
}

func numbers(from, step float64, n int) []string {
	heads := make([]string, n)
	for i := range heads {
		heads[i] = fmt.Sprintf("%g", from+float64(i)*step)
	}
	return heads
}

func TestAMatrixIsSpectra(t *testing.T) {
	for name, c := range map[string]struct {
		heads []string
		axis  Axis
		kind  spectra.Kind // empty where the columns are channels
		doubt bool
	}{
		"masses":                      {numbers(40, 1, 12), AxisGuessed, spectra.Mass, true},
		"a diode array":               {numbers(200, 2, 50), AxisGuessed, spectra.Wavelength, true},
		"wavelengths that say so":     {[]string{"210 nm", "254 nm", "280 nm"}, AxisGuessed, spectra.Wavelength, false},
		"masses that say so":          {[]string{"m/z 57.07", "m/z 71.09"}, AxisGuessed, spectra.Mass, false},
		"few bare numbers":            {[]string{"210", "254"}, AxisGuessed, "", false},
		"few bare numbers, as said":   {[]string{"210", "254"}, AxisNM, spectra.Wavelength, false},
		"masses where nm is guessed":  {numbers(200, 2, 50), AxisMZ, spectra.Mass, false},
		"channels named by a number":  {numbers(40, 1, 12), AxisChannels, "", false},
		"one head that is no number":  {append(numbers(40, 1, 11), "total"), AxisGuessed, "", false},
		"an uneven grid is of masses": {[]string{"200", "201", "203", "207", "211", "213", "217", "219", "223", "229"}, AxisGuessed, spectra.Mass, true},
	} {
		f, err := ReadAs([]byte(grid(c.heads...)), c.axis)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if c.kind == "" {
			if len(f.Spectra) != 0 || len(f.Channels) != len(c.heads) {
				t.Errorf("%s: %d runs, %d channels", name, len(f.Spectra), len(f.Channels))
			}
			continue
		}
		if len(f.Spectra) != 1 || f.Spectra[0].Kind != c.kind || len(f.Spectra[0].Scans) != 10 || (len(f.Header.Doubts) > 0) != c.doubt {
			t.Errorf("%s: %+v, doubts %v", name, f.Spectra, f.Header.Doubts)
			continue
		}
		if s := f.Spectra[0].Scans[3]; s.TimeS != 3 || s.Values[1] != 3001 {
			t.Errorf("%s: scan %+v", name, s)
		}
	}
	f, err := Read([]byte(grid("280 nm", "254 nm")))
	if err != nil || !slices.Equal(f.Spectra[0].Scans[2].Axis, []float64{254, 280}) || !slices.Equal(f.Spectra[0].Scans[2].Values, []float64{2001, 2000}) || !slices.Equal(f.Spectra[0].Scans[3].Values, []float64{3001, 3000}) {
		t.Errorf("falling heads: %+v, %v", f.Spectra, err)
	}
	var e *formats.Error
	if _, err := Read([]byte(grid("254 nm", "280 nm") + "5,1,2\n")); !errors.As(err, &e) || e.Line != 12 {
		t.Errorf("a time that goes back: %v", err)
	}
}

func TestWhatIsWrittenReadsBack(t *testing.T) {
	times := []float64{0.1, 0.30000000000000004, 1.0 / 3, 1, 2, 3, 4, 5.5}
	values := []float64{-1e-17, 1.0 / 3, 6.02214076e23, 0, 1, 2, 3, 0.1}
	f := formats.File{Channels: []formats.Channel{{Name: "UV 278 nm", Unit: "mAU", TimesS: times, Values: values}, {Name: "=cmd", TimesS: times, Values: values}}}
	data, err := Write(f)
	if err != nil {
		t.Fatal(err)
	}
	got, err := Read(data)
	if err != nil {
		t.Fatal(err)
	}
	if c := got.Channels[0]; c.Name != "UV 278 nm" || c.Unit != "mAU" || !slices.Equal(c.TimesS, times) || !slices.Equal(c.Values, values) {
		t.Errorf("it comes back as %+v", c)
	}
	if !strings.Contains(string(data), ",'=cmd") {
		t.Errorf("a name that is a formula stands as %q", strings.SplitN(string(data), "\n", 2)[0])
	}
	run := spectra.Run{About: spectra.About{Kind: spectra.Wavelength}, Scans: []spectra.Scan{{TimeS: 0.1, Axis: []float64{200.5, 201}, Values: []float64{1.0 / 3, -2}}, {TimeS: 0.2, Axis: []float64{200.5, 201}, Values: []float64{4, 5}}, {TimeS: 0.3, Axis: []float64{200.5, 201}, Values: []float64{6, 7}}}}
	if data, err = Write(formats.File{Spectra: []spectra.Run{run}}); err != nil {
		t.Fatal(err)
	}
	if got, err = Read(data); err != nil || !slices.Equal(got.Spectra[0].Scans[0].Values, run.Scans[0].Values) || got.Spectra[0].Scans[1].TimeS != 0.2 || got.Spectra[0].Kind != spectra.Wavelength {
		t.Errorf("the matrix comes back as %+v, %v", got.Spectra, err)
	}
	run.Scans[1].Axis = []float64{200.5, 202}
	if _, err := Write(formats.File{Spectra: []spectra.Run{run}}); err == nil {
		t.Error("scans on other grids are written as one matrix")
	}
	ions := spectra.Run{About: spectra.About{Kind: spectra.Mass}, Scans: []spectra.Scan{{TimeS: 0.1}, {TimeS: 0.2, Axis: []float64{43, 71.5}, Values: []float64{7, 1.0 / 3}}, {TimeS: 0.3, Axis: []float64{41, 43}, Values: []float64{5, 6}}}}
	if data, err = Write(formats.File{Spectra: []spectra.Run{ions}}); err != nil {
		t.Fatal(err)
	}
	if want := "time_s,m/z 41,m/z 43,m/z 71.5\n0.1,0,0,0\n0.2,0,7,0.3333333333333333\n0.3,5,6,0\n"; string(data) != want {
		t.Errorf("scans with ions of their own are\n%swanted\n%s", data, want)
	}
	for i := range maxColumns {
		ions.Scans[2].Axis, ions.Scans[2].Values = append(ions.Scans[2].Axis, 100+float64(i)/8), append(ions.Scans[2].Values, 1)
	}
	if _, err := Write(formats.File{Spectra: []spectra.Run{ions}}); err == nil {
		t.Errorf("%d ions are written as one table", maxColumns+3)
	}
	if _, err := Write(formats.File{Spectra: []spectra.Run{{About: ions.About, Scans: ions.Scans[:1]}}}); err == nil {
		t.Error("a run without an ion is written as a column of times")
	}
	f.Channels[1].TimesS = append([]float64{0.05}, times[1:]...)
	if _, err := Write(f); err == nil {
		t.Error("channels of other times are written in one table")
	}
}

// The same table in every encoding is the same table.
func TestEncodings(t *testing.T) {
	source := "Zeit (min);Fläche µV\n"
	for i := range 12 {
		source += fmt.Sprintf("%d,5;%d,25\n", i, i*i)
	}
	for name, e := range map[string]encoding.Encoding{
		"UTF-8": unicode.UTF8, "UTF-8 with a mark": unicode.UTF8BOM, "Windows-1252": charmap.Windows1252,
		"UTF-16, little, with a mark": unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), "UTF-16, big, with a mark": unicode.UTF16(unicode.BigEndian, unicode.UseBOM),
		"UTF-16, little, without": unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), "UTF-16, big, without": unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM),
	} {
		data, err := e.NewEncoder().Bytes([]byte(source))
		if err != nil {
			t.Fatal(err)
		}
		if !Sniff(formats.HeadOf(data)) {
			t.Errorf("%s is not told as text", name)
		}
		f, err := Read(data)
		if err != nil || f.Channels[0].Name != "Fläche µV" || f.Channels[0].Values[11] != 121.25 || f.Channels[0].TimesS[1] != 90 {
			t.Errorf("%s: %+v, %v", name, f.Channels, err)
		}
	}
}

func TestMarksBetweenThousands(t *testing.T) {
	for field, want := range map[string]float64{"1'234.5": 1234.5, "1\u202f234.5": 1234.5, "1,234.5": 1234.5, "12,345,678": 12345678, "−3.5": -3.5, "1.5E+03": 1500} {
		if got, err := parse(field, false); err != nil || got != want {
			t.Errorf("%q is %g, %v", field, got, err)
		}
	}
	for field, want := range map[string]float64{"1.234,5": 1234.5, "1\u00a0234,5": 1234.5, "3,5e-2": 0.035} {
		if got, err := parse(field, true); err != nil || got != want {
			t.Errorf("%q is %g, %v", field, got, err)
		}
	}
	if _, err := parse("1,23", false); err == nil {
		t.Error("1,23 is read with a decimal point")
	}
}

// What stands above the table and is of no field of its own is kept as a setting.
func TestLinesAboveTheTableAreSettings(t *testing.T) {
	source := "Sample name,Leaf\n# Column: C18, 150 mm\nFlow rate,0.8 mL/min\n,\nOperator,M. Okada\ntime_min,UV 278 nm [mAU]\n"
	for i := range 10 {
		source += fmt.Sprintf("%d,%d\n", i, i)
	}
	f, err := Read([]byte(source))
	if err != nil {
		t.Fatal(err)
	}
	want := []formats.Setting{{Name: "Column", Value: "C18, 150 mm"}, {Name: "Flow rate", Value: "0.8 mL/min"}}
	if !slices.Equal(f.Header.Settings, want) || f.Header.Operator != "M. Okada" {
		t.Errorf("%+v", f.Header)
	}
}
