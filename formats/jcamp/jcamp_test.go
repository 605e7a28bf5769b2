package jcamp

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
)

func read(t *testing.T, text string) formats.File {
	t.Helper()
	f, err := Read([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// Files of another writer, in plain and in squeezed form, give the values that their truth holds.
func TestFilesOfAnotherWriter(t *testing.T) {
	for _, name := range []string{"jcamp_1_affn.jdx", "jcamp_3_difdup.jdx"} {
		data, err := os.ReadFile("testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		told, err := os.ReadFile("testdata/" + name + ".truth.json")
		if err != nil {
			t.Fatal(err)
		}
		var truth struct {
			Values []float64 `json:"all_values"`
			Data   struct {
				Last float64 `json:"last_time_s"`
			} `json:"data"`
		}
		if err := json.Unmarshal(told, &truth); err != nil {
			t.Fatal(err)
		}
		c := read(t, string(data)).Channels[0]
		if len(c.Values) != len(truth.Values) || c.TimesS[len(c.TimesS)-1] != truth.Data.Last {
			t.Fatalf("%s: %d points to %g s", name, len(c.Values), c.TimesS[len(c.TimesS)-1])
		}
		for i, want := range truth.Values {
			if math.Abs(c.Values[i]-want) > 1e-9 {
				t.Fatalf("%s: value %d is %g, in truth %g", name, i, c.Values[i], want)
			}
		}
	}
	data, err := os.ReadFile("testdata/jcamp_4_peaktable_ms.jdx")
	if err != nil {
		t.Fatal(err)
	}
	s := read(t, string(data)).Spectra[0]
	if s.Kind != spectra.Mass || len(s.Scans) != 1 || len(s.Scans[0].Axis) != 13 || s.Scans[0].Values[7] != 100 {
		t.Errorf("%+v", s)
	}
}

// One number written in every form of the standard is the same number.
func TestAllFormsOfALine(t *testing.T) {
	want := []float64{100, 101, 101, 101, 99, -5, 0}
	for name, text := range map[string]string{
		"AFFN":            "0 100 101 101 101 99 -5 0",
		"AFFN, exponents": "0 1E+02 1.01E+02 101 101 9.9E+01 -5E+00 0",
		"PAC":             "0+100+101+101+101+99-5+0",
		"SQZ":             "0A00A01A01A01I9e@",
		"SQZ and DUP":     "0A00A01UI9e@",
		"DIF":             "0A00J%%kj04N",
		"DIF and DUP":     "0A00J%Tkj04N",
	} {
		l, err := decodeLine(text, 10)
		if err != nil || !slices.Equal(l.ys, want) {
			t.Errorf("%s: %v, %v", name, l.ys, err)
		}
	}
	for _, bad := range []string{"", "J5", "0 1 ? 3", "0 1 x", "0S", "0 %", "0 1 S99999999999", "0 1 T1", "0 ="} {
		if l, err := decodeLine(bad, 10); err == nil {
			t.Errorf("%q is read as %+v", bad, l)
		}
	}
}

const uniform = "##TITLE= t\n##JCAMP-DX= 5\n##DATA TYPE= CHROMATOGRAM\n##XUNITS= MINUTES\n##YUNITS= mAU\n##FIRSTX= 0\n##LASTX= 0.9\n##XFACTOR= 0.1\n##YFACTOR= 2\n##NPOINTS= 10\n##XYDATA= (X++(Y..Y))\n"

func TestWhatIsWrongIsToldWithItsLine(t *testing.T) {
	good := read(t, uniform+"0 1 2 3 4 5\n5 6 7 8 9 10\n##END=\n").Channels[0]
	if good.Unit != "mAU" || good.TimesS[9] != 54 || good.Values[9] != 20 {
		t.Errorf("%+v", good)
	}
	if old := read(t, strings.ReplaceAll(uniform+"0 1 2 3 4 5\n5 6 7 8 9 10\n##END=\n", "\n", "\r")).Channels[0]; !slices.Equal(old.Values, good.Values) {
		t.Errorf("with line ends of another system: %+v", old)
	}
	for name, c := range map[string]struct {
		text string
		line int
		says string
	}{
		"a value repeated beyond the table": {uniform + "0 1S99999999\n##END=\n", 12, "repeated"},
		"a point too few":                   {uniform + "0 1 2 3 4 5\n5 6 7 8 9\n##END=\n", 11, "NPOINTS says 10"},
		"a point too many":                  {uniform + "0 1 2 3 4 5\n5 6 7 8 9 10 11\n##END=\n", 13, "more than the 10"},
		"a line that is gone":               {uniform + "0 1 2 3\n6 7 8 9 10\n##END=\n", 13, "points are missing"},
		"a failed check":                    {uniform + "0A%%%%\n4B%%%%\n##END=\n", 13, "check of the ordinate"},
		"no number":                         {uniform + "0 1 2 #!\n##END=\n", 12, `"#!`},
		"a missing value":                   {uniform + "0 1 2 ? 4\n##END=\n", 12, "missing"},
		"NPOINTS no number":                 {strings.Replace(uniform, "NPOINTS= 10", "NPOINTS= ten", 1) + "0 1\n##END=\n", 10, "no number"},
		"too many points":                   {strings.Replace(uniform, "NPOINTS= 10", "NPOINTS= 4000000000", 1) + "0 1\n##END=\n", 11, "NPOINTS"},
		"an unknown form":                   {strings.Replace(uniform, "(X++(Y..Y))", "(R++(A..A))", 1), 11, "(X++(Y..Y)) is read"},
		"half a point":                      {"##TITLE= t\n##XUNITS= SECONDS\n##XYPOINTS= (XY..XY)\n1,2;3\n##END=\n", 3, "no ordinate"},
		"an unknown abscissa":               {"##TITLE= t\n##XUNITS= 1/CM\n##XYPOINTS= (XY..XY)\n1,2\n##END=\n", 3, "times, m/z and nanometres"},
		"not finite":                        {"##TITLE= t\n##XUNITS= SECONDS\n##XYPOINTS= (XY..XY)\n1,NaN\n##END=\n", 4, "no finite number"},
		"nothing in it":                     {"##TITLE= t\n##END=\n", 0, "no data"},
		"a page without symbol":             {"##TITLE= t\n##NTUPLES= MASS SPECTRUM\n##PAGE= T= 1\n##DATA TABLE= (XY..XY), PEAKS\n1,2\n##END=\n", 2, "SYMBOL"},
	} {
		_, err := Read([]byte(c.text))
		var e *formats.Error
		if !errors.As(err, &e) || e.Line != c.line || !strings.Contains(e.Reason, c.says) {
			t.Errorf("%s: %v, want line %d: %s", name, err, c.line, c.says)
		}
	}
}

// What is written reads back to the last bit: channels, several in one file, spectra of masses and of wavelengths.
func TestRoundTrip(t *testing.T) {
	awkward := []float64{0.1, 1.0 / 3, -1e-17, 6.02214076e23, 0, math.SmallestNonzeroFloat64, math.MaxFloat64 / 4, -0.30000000000000004, 7}
	times := make([]float64, len(awkward))
	for i := range times {
		times[i] = float64(i) / 3
	}
	f := formats.File{
		Header: formats.Header{SampleName: "Leaf ##END= $$ no remark"},
		Channels: []formats.Channel{
			{Name: "UV 278 nm", Kind: formats.Detector, Unit: "mAU", TimesS: times, Values: awkward},
			{Name: "Pump pressure", Kind: formats.Condition, Unit: "bar", TimesS: times, Values: awkward},
		},
		Spectra: []spectra.Run{
			{About: spectra.About{Kind: spectra.Mass, Level: 1, Unit: "counts"}, Scans: []spectra.Scan{{TimeS: 20, Axis: []float64{15.0235, 71.05}, Values: []float64{1.5, 1.0 / 7}}, {TimeS: 20.8}}},
			{About: spectra.About{Kind: spectra.Wavelength, Unit: "mAU"}, Scans: []spectra.Scan{{TimeS: 1.0 / 3, Axis: []float64{200, 201.5}, Values: []float64{-3, 4}}}},
		},
	}
	got := read(t, string(Write(f)))
	for i, c := range f.Channels {
		g := got.Channels[i]
		if g.Name != c.Name || g.Kind != c.Kind || g.Unit != c.Unit || !slices.Equal(g.TimesS, c.TimesS) || !slices.Equal(g.Values, c.Values) {
			t.Errorf("channel %d comes back as %+v", i, g)
		}
	}
	for i, r := range f.Spectra {
		for k, s := range r.Scans {
			g := got.Spectra[i].Scans[k]
			if g.TimeS != s.TimeS || g.Precursor != s.Precursor || !slices.Equal(g.Axis, s.Axis) || !slices.Equal(g.Values, s.Values) {
				t.Errorf("scan %d of run %d comes back as %+v", k, i, g)
			}
		}
	}
	if got.Header.SampleName != "Leaf # #END= $ $ no remark" {
		t.Errorf("the name comes back as %q", got.Header.SampleName)
	}
}

// The name of a channel is no name of a sample.
func TestATitleIsTakenForTheSampleOnlyWhereNothingElseIsSaid(t *testing.T) {
	c := []formats.Channel{{Name: "UV 278 nm", TimesS: []float64{1, 2}, Values: []float64{3, 4}}}
	if got := read(t, string(Write(formats.File{Channels: c}))).Header.SampleName; got != "" {
		t.Errorf("the sample is called %q", got)
	}
	if got := read(t, uniform+"0 1 2 3 4 5 6 7 8 9 10\n##END=\n").Header.SampleName; got != "t" {
		t.Errorf("the sample is called %q", got)
	}
}

func TestTuplesOfChannels(t *testing.T) {
	f := read(t, "##TITLE= two\n##DATA TYPE= CHROMATOGRAM\n##NTUPLES= CHROMATOGRAM\n##VAR_NAME= TIME, SIGNAL\n##SYMBOL= X, Y\n##UNITS= MINUTES, mAU\n##FIRST= 0, 1\n##LAST= 2, 1\n##FACTOR= 1, 0.5\n##PAGE= N= UV 210 nm\n##NPOINTS= 3\n##DATA TABLE= (X++(Y..Y)), XYDATA\n0 2 4 6\n##PAGE= N= UV 254 nm\n##NPOINTS= 3\n##DATA TABLE= (X++(Y..Y)), XYDATA\n0 20 40 60\n##END NTUPLES= CHROMATOGRAM\n##END=\n")
	if len(f.Channels) != 2 || f.Channels[1].Name != "UV 254 nm" || !slices.Equal(f.Channels[1].Values, []float64{10, 20, 30}) || !slices.Equal(f.Channels[0].TimesS, []float64{0, 60, 120}) {
		t.Errorf("%+v", f.Channels)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(uniform + "0A00J%Tkj04N\n##END=\n"))
	f.Add([]byte("##TITLE= t\n##NTUPLES= MASS SPECTRUM\n##SYMBOL= X, Y, T\n##UNITS= M/Z, counts, SECONDS\n##PAGE= T= 1\n##DATA TABLE= (XY..XY), PEAKS\n1,2;3,4\n##END=\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		file, err := Read(data)
		if err != nil {
			var e *formats.Error
			if !errors.As(err, &e) {
				t.Errorf("an error without a place: %v", err)
			}
			return
		}
		for _, c := range file.Channels {
			if len(c.TimesS) != len(c.Values) {
				t.Errorf("%d times, %d values", len(c.TimesS), len(c.Values))
			}
		}
	})
}
