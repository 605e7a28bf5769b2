package mzml

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"io"
	"math"
	"os"
	"slices"
	"strings"
	"testing"

	"yugen/core/spectra"
	"yugen/formats"
)

func load(t testing.TB, name string) []byte {
	t.Helper()
	data, err := os.ReadFile("testdata/" + name)
	if err != nil {
		t.Fatal(err)
	}
	if !strings.HasSuffix(name, ".gz") {
		return data
	}
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	if data, err = io.ReadAll(z); err != nil {
		t.Fatal(err)
	}
	return data
}

type told struct {
	Chromatograms map[string]struct {
		Points int     `json:"points"`
		First  float64 `json:"first_time_s"`
		Last   float64 `json:"last_time_s"`
		Max    float64 `json:"max"`
		Sum    float64 `json:"sum"`
	} `json:"chromatograms"`
	MS1 struct {
		Count int       `json:"scan_count"`
		Times []float64 `json:"times_s"`
	} `json:"ms1"`
}

func near(a, b float64) bool { return math.Abs(a-b) <= 1e-9*max(1, math.Abs(a), math.Abs(b)) }

// Files of another writer give what their truth holds: chromatograms of all kinds, and scans.
func TestFilesOfAnotherWriter(t *testing.T) {
	for name, file := range map[string]string{"mzml_1_indexed_64_32_zlib.mzML": "mzml_1_indexed_64_32_zlib.mzML.gz", "mzml_3_srm_uv_indexed_64.mzML": "mzml_3_srm_uv_indexed_64.mzML"} {
		var truth told
		if err := json.Unmarshal(load(t, name+".truth.json"), &truth); err != nil {
			t.Fatal(err)
		}
		f, err := whole(load(t, file))
		if err != nil {
			t.Fatal(err)
		}
		if f.Header.SampleName != "Standard 1" || f.Header.AcquiredAt == nil || f.Header.AcquiredAt.UTC().Hour() != 8 {
			t.Errorf("%s: header %+v", name, f.Header)
		}
		if len(f.Channels) != len(truth.Chromatograms) {
			t.Errorf("%s: %d channels, in truth %d", name, len(f.Channels), len(truth.Chromatograms))
		}
		for _, c := range f.Channels {
			want := truth.Chromatograms[c.Name]
			sum := 0.0
			for _, v := range c.Values {
				sum += v
			}
			n := len(c.Values)
			if n != want.Points || !near(c.TimesS[0], want.First) || !near(c.TimesS[n-1], want.Last) || slices.Max(c.Values) != want.Max || !near(sum, want.Sum) || c.Kind != formats.Detector {
				t.Errorf("%s, %s: %d points from %g to %g s, max %g, sum %g; want %+v", name, c.Name, n, c.TimesS[0], c.TimesS[n-1], slices.Max(c.Values), sum, want)
			}
		}
		if truth.MS1.Count == 0 {
			continue
		}
		r := f.Spectra[0]
		if len(r.Scans) != truth.MS1.Count || r.Level != 1 {
			t.Fatalf("%s: %d scans of level %d", name, len(r.Scans), r.Level)
		}
		for i, at := range r.Times() {
			if !near(at, truth.MS1.Times[i]) {
				t.Fatalf("%s: scan %d at %g s, in truth %g", name, i, at, truth.MS1.Times[i])
			}
		}
		// The total ion signal is what the file's own chromatogram of it says.
		total := r.Total()
		for i, v := range f.Channels[0].Values {
			if math.Abs(total[i]/v-1) > 1e-6 {
				t.Fatalf("%s: total ion %d is %g, the file says %g", name, i, total[i], v)
			}
		}
	}
}

// Hostile files are refused at once, with the place.
func TestHostileFiles(t *testing.T) {
	for name, says := range map[string]string{
		"h05_billion_laughs.mzML":     "document type",
		"h08_zlib_bomb_200MB.mzML.gz": "more than the 3 numbers",
		"h10_nan_inf_intensity.mzML":  "not a finite number",
	} {
		_, err := whole(load(t, name))
		var e *formats.Error
		if !errors.As(err, &e) || !strings.Contains(e.Reason, says) || e.Offset == 0 {
			t.Errorf("%s: %v", name, err)
		}
	}
	good := string(load(t, "mzml_3_srm_uv_indexed_64.mzML"))
	for name, c := range map[string]struct{ text, says string }{
		"cut off":             {good[:len(good)/2], "cut off"},
		"numpress":            {strings.Replace(good, `accession="MS:1000574"`, `accession="MS:1002312"`, 1), "not read; write the file with zlib"},
		"a wrong length":      {strings.Replace(good, `defaultArrayLength="400"`, `defaultArrayLength="401"`, 1), "401 numbers of 8 are stated"},
		"a length below zero": {strings.Replace(good, `defaultArrayLength="400"`, `defaultArrayLength="-1"`, 1), "defaultArrayLength"},
		"a huge length":       {strings.Replace(good, `defaultArrayLength="400"`, `defaultArrayLength="2000000000"`, 1), "more than"},
		"an index that lies":  {strings.Replace(good, `</offset>`, `9999999</offset>`, -1), ""},
		"an unknown entity":   {strings.Replace(good, `<run `, `&lol;<run `, 1), "markup"},
		"nothing in it":       {`<mzML></mzML>`, "neither spectra"},
		"crossed elements":    {`<mzML><run></mzML></run>`, "closes nothing"},
	} {
		_, err := whole([]byte(c.text))
		if c.says == "" {
			if err != nil {
				t.Errorf("%s: %v", name, err)
			}
			continue
		}
		var e *formats.Error
		if !errors.As(err, &e) || !strings.Contains(e.Reason, c.says) {
			t.Errorf("%s: %v, want %s", name, err, c.says)
		}
	}
}

// What is written reads back to the last bit.
func TestRoundTrip(t *testing.T) {
	values := []float64{0.1, 1.0 / 3, -1e-17, 6.02214076e23, 0, math.SmallestNonzeroFloat64, 7}
	f := formats.File{
		Header:   formats.Header{SampleName: `Leaf <"&'> é`},
		Channels: []formats.Channel{{Name: "UV 278 nm", Kind: formats.Detector, Unit: "mAU", TimesS: values[:0:0], Values: nil}, {Name: "Pump pressure", Kind: formats.Condition, Unit: "bar", TimesS: []float64{1, 2, 3}, Values: values[:3]}},
		Spectra: []spectra.Run{
			{About: spectra.About{Kind: spectra.Mass, Level: 1, Polarity: spectra.Negative, Unit: "counts"}, Scans: []spectra.Scan{{TimeS: 1.0 / 3, Axis: []float64{15.0235, 71.05}, Values: values[:2]}, {TimeS: 20.8}}},
			{About: spectra.About{Kind: spectra.Mass, Level: 2, Profile: true}, Scans: []spectra.Scan{{TimeS: 2, Axis: []float64{77}, Values: values[3:4], Precursor: 182.0726}, {TimeS: 3, Axis: []float64{77}, Values: values[3:4], Precursor: 195.0877}}},
			{About: spectra.About{Kind: spectra.Wavelength, Unit: "mAU"}, Scans: []spectra.Scan{{TimeS: 4, Axis: []float64{200, 201.5}, Values: values[5:7]}}},
		},
	}
	data, err := Write(f)
	if err != nil {
		t.Fatal(err)
	}
	got, err := whole(data)
	if err != nil {
		t.Fatal(err)
	}
	if got.Header.SampleName != f.Header.SampleName {
		t.Errorf("the name comes back as %q", got.Header.SampleName)
	}
	for i, c := range f.Channels {
		g := got.Channels[i]
		if g.Name != c.Name || g.Kind != c.Kind || g.Unit != c.Unit || !slices.Equal(g.TimesS, c.TimesS) || !slices.Equal(g.Values, c.Values) {
			t.Errorf("channel %d comes back as %+v", i, g)
		}
	}
	for i, r := range f.Spectra {
		g := got.Spectra[i]
		if g.Kind != r.Kind || g.Level != r.Level || g.Polarity != r.Polarity || g.Profile != r.Profile || g.Precursor != r.Precursor || len(g.Scans) != len(r.Scans) {
			t.Fatalf("run %d comes back as %+v", i, g)
		}
		for k, s := range r.Scans {
			if g.Scans[k].TimeS != s.TimeS || g.Scans[k].Precursor != s.Precursor || !slices.Equal(g.Scans[k].Axis, s.Axis) || !slices.Equal(g.Scans[k].Values, s.Values) {
				t.Errorf("scan %d of run %d comes back as %+v", k, i, g.Scans[k])
			}
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(load(f, "h10_nan_inf_intensity.mzML"))
	f.Add(load(f, "h05_billion_laughs.mzML"))
	data, err := Write(formats.File{Channels: []formats.Channel{{Name: "x", TimesS: []float64{1, 2}, Values: []float64{3, 4}}}})
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data)
	f.Fuzz(func(t *testing.T, data []byte) {
		if _, err := whole(data); err != nil {
			var e *formats.Error
			if !errors.As(err, &e) {
				t.Errorf("an error without a place: %v", err)
			}
		}
	})
}
