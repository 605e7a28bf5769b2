package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
)

// signals writes a table with a detector and a pump's pressure, and a matrix of masses, into a folder.
func signals(t *testing.T) (table, matrix string) {
	t.Helper()
	dir := t.TempDir()
	table, matrix = filepath.Join(dir, "run.csv"), filepath.Join(dir, "scans.csv")
	rows, scans := "time_min,UV 278 nm [mAU],Pump pressure [bar]\n", "time_s,m/z 57.07,m/z 71.09\n"
	for i := range 1200 {
		min := float64(i) / 200
		peak := func(at, height float64) float64 { return height * math.Exp(-(min-at)*(min-at)/0.004) }
		rows += fmt.Sprintf("%.5f,%.5f,%.3f\n", min, peak(2, 80)+0.02*math.Sin(float64(i*i)), 180+peak(3, 20))
		scans += fmt.Sprintf("%.3f,%.4f,%.4f\n", min*60, 5+peak(2, 900)+math.Sin(float64(i*i)), 4+peak(4, 700)+math.Cos(float64(i*i)))
	}
	for name, text := range map[string]string{table: rows, matrix: scans} {
		if err := os.WriteFile(name, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	return table, matrix
}

func TestReadTellsWhatFilesHold(t *testing.T) {
	table, matrix := signals(t)
	out, errs, code := yugen(t, "", "read", table, matrix, "../../formats/mzml/testdata/mzml_3_srm_uv_indexed_64.mzML")
	if code != 0 {
		t.Fatal(errs)
	}
	var answers []readAnswer
	if err := json.Unmarshal([]byte(out), &answers); err != nil {
		t.Fatal(err)
	}
	a, b, c := answers[0], answers[1], answers[2]
	if len(a.Channels) != 2 || a.Channels[0].Kind != "detector" || a.Channels[1].Kind != "condition" || a.Channels[0].Points != 1200 || a.Channels[1].Unit != "bar" || math.Abs(a.Channels[0].EndMin-5.995) > 1e-9 || len(a.Channels[0].First) != 5 {
		t.Errorf("%+v", a.Channels)
	}
	if len(b.Spectra) != 1 || b.Spectra[0].Kind != "mass" || b.Spectra[0].Scans != 1200 || *b.Spectra[0].MZMax != 71.09 || len(b.Channels) != 0 {
		t.Errorf("%+v", b.Spectra)
	}
	if len(c.Channels) != 3 || c.Header.SampleName != "Standard 1" || c.Channels[0].Key == c.Channels[1].Key {
		t.Errorf("%+v", c.Channels)
	}
	for name, args := range map[string][]string{
		"a file that is none":       {"read", "read_test.go"},
		"csv of a whole file":       {"read", table, "--format", "csv"},
		"a channel that is none":    {"read", table, "--channel", "UV 210 nm"},
		"ions without tolerance":    {"read", matrix, "--ions", "57.07"},
		"ions of a table":           {"read", table, "--ions", "57.07±0.3"},
		"a product of no fragments": {"read", matrix, "--product", "57.07>30±0.3"},
		"a product without arrow":   {"read", matrix, "--product", "57.07±0.3"},
		"an axis that is none":      {"read", matrix, "--axis", "cm"},
	} {
		if out, errs, code := yugen(t, "", args...); code != 1 || out != "" || strings.Count(strings.TrimSpace(errs), "\n") != 0 {
			t.Errorf("%s: code %d, %q, %q", name, code, out, errs)
		}
	}
}

// One signal as text: a channel by name and by key, ions with a tolerance in Da and in parts per million.
func TestReadGivesOneSignal(t *testing.T) {
	table, matrix := signals(t)
	for _, args := range [][]string{
		{"read", table, "--channel", "uv 278 nm", "--format", "csv"},
		{"read", table, "--channel", "detector:uv-278-nm@mau", "--format", "csv"},
		{"read", matrix, "--ions", "57.07±0.3", "--format", "csv"},
		{"read", matrix, "--ions", "57.07±10ppm,71.09±10ppm", "--format", "csv"},
	} {
		out, errs, code := yugen(t, "", args...)
		lines := strings.Split(strings.TrimSpace(out), "\n")
		if code != 0 || len(lines) != 1201 || lines[0] != "time_min,signal" {
			t.Errorf("%v: code %d, %d lines, %s", args, code, len(lines), errs)
		}
	}
}

// Peaks are looked for in detectors, never in conditions; of spectra in the total, or in the ions that are asked for.
func TestPeaksOfSignals(t *testing.T) {
	table, matrix := signals(t)
	peaksIn := func(args ...string) []integrated {
		t.Helper()
		out, errs, code := yugen(t, "", append([]string{"peaks"}, args...)...)
		if code != 0 {
			t.Fatal(errs)
		}
		var list []integrated
		if err := json.Unmarshal([]byte(out), &list); err != nil {
			t.Fatal(err)
		}
		return list
	}
	if list := peaksIn(table); len(list) != 1 || len(list[0].Peaks) != 1 || math.Abs(list[0].Peaks[0].ApexMin-2) > 0.01 {
		t.Errorf("of the table: %+v", list)
	}
	if list := peaksIn(matrix); len(list) != 1 || list[0].Trace != "total ion" || len(list[0].Peaks) != 2 {
		t.Errorf("of the scans: %+v", list)
	}
	list := peaksIn(matrix, "--ions", "71.09±0.3")
	want := 700 * math.Sqrt(math.Pi*0.004) * 60
	if len(list) != 1 || len(list[0].Peaks) != 1 || math.Abs(list[0].Peaks[0].ApexMin-4) > 0.01 || math.Abs(list[0].Peaks[0].AreaS/want-1) > 0.01 {
		t.Errorf("of one ion: %+v, want an area of %g", list, want)
	}
	if list := peaksIn(table, "--channel", "Pump pressure"); len(list) != 1 {
		t.Errorf("a condition that is asked for: %+v", list)
	}
}

// A file goes through every format and back with every digit.
func TestConvertRoundTrips(t *testing.T) {
	table, matrix := signals(t)
	csvOf := func(file string, args ...string) string {
		t.Helper()
		out, errs, code := yugen(t, "", append([]string{"read", file, "--format", "csv"}, args...)...)
		if code != 0 {
			t.Fatal(errs)
		}
		return out
	}
	dir := t.TempDir()
	for _, to := range []string{"mzml", "jcamp", "csv", "andi"} {
		file := filepath.Join(dir, "run."+to)
		if _, errs, code := yugen(t, "", "convert", table, "--to", to, "--out", file); code != 0 {
			t.Fatal(errs)
		}
		for _, channel := range []string{"UV 278 nm", "Pump pressure"} {
			if csvOf(file, "--channel", channel) != csvOf(table, "--channel", channel) {
				t.Errorf("%s changes %s", to, channel)
			}
		}
	}
	for _, to := range []string{"mzml", "jcamp", "csv", "andi"} {
		file := filepath.Join(dir, "scans."+to)
		if _, errs, code := yugen(t, "", "convert", matrix, "--to", to, "--out", file); code != 0 {
			t.Fatal(errs)
		}
		if csvOf(file, "--ions", "71.09±0.3") != csvOf(matrix, "--ions", "71.09±0.3") {
			t.Errorf("%s changes the ions", to)
		}
	}
	const twoKinds = "../../formats/mzml/testdata/mzml_1_indexed_64_32_zlib.mzML" // spectra of two levels, which ANDI does not hold
	for _, args := range [][]string{{"convert", twoKinds, "--to", "andi", "--out", filepath.Join(dir, "x")}, {"convert", table, "--to", "pdf", "--out", filepath.Join(dir, "x")}, {"convert", table, "--to", "csv"}} {
		if _, errs, code := yugen(t, "", args...); code != 1 || errs == "" {
			t.Errorf("%v: code %d", args, code)
		}
	}
	if _, err := os.Stat(filepath.Join(dir, "x")); err == nil {
		t.Error("a refused conversion leaves a file")
	}
}

// What an example says of its sample and its signals it says after every format that can hold it.
func TestExamplesRoundTrip(t *testing.T) {
	outline := func(file string) (list []map[string]any) {
		t.Helper()
		out, errs, code := yugen(t, "", "read", file, "--format", "json")
		if code != 0 {
			t.Fatal(errs)
		}
		if err := json.Unmarshal([]byte(out), &list); err != nil {
			t.Fatal(err)
		}
		delete(list[0], "file")
		delete(list[0], "kind")
		delete(list[0]["header"].(map[string]any), "format")
		return list
	}
	for _, c := range []struct{ file, to string }{
		{"15-check.mzML", "mzml jcamp andi"}, {"aroma-scan.cdf", "mzml jcamp andi csv"}, {"caffeine-diode-array.csv", "mzml jcamp csv"}, {"unknown-cola.jdx", "mzml jcamp andi"},
	} {
		for _, to := range strings.Fields(c.to) {
			file := filepath.Join(t.TempDir(), "run."+to)
			if _, errs, code := yugen(t, "", "convert", "../../examples/formats/"+c.file, "--to", to, "--out", file); code != 0 {
				t.Fatal(errs)
			}
			want, got := outline("../../examples/formats/"+c.file), outline(file)
			if to == "csv" { // a table says nothing of its sample
				delete(want[0], "header")
				delete(got[0], "header")
			}
			if to == "andi" && len(want[0]["spectra"].([]any)) == 0 { // whose only name of a channel stands among what was set, too
				got[0]["conditions"] = got[0]["conditions"].([]any)[1:]
			}
			if !reflect.DeepEqual(want, got) {
				t.Errorf("%s as %s says\n%v\nwanted\n%v", c.file, to, got, want)
			}
		}
	}
}

// A profile that a file suggests reads it and the next of its shape, and refuses another with its place.
func TestAProfileFromTheCommandLine(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		return path
	}
	table := func(sample, head string) string {
		text := "Probe;" + sample + "\nDatum;04.03.2026 14:05\n" + head + "\n"
		for i := range 50 {
			text += fmt.Sprintf("%d,25;%d,5\n", i, i*i)
		}
		return text
	}
	first := write("first.txt", table("Sencha", "Zeit [s];UV [mAU]"))
	out, errs, code := yugen(t, "", "profile", first)
	if code != 0 {
		t.Fatal(errs)
	}
	profile := write("profile.json", out)
	second := write("second.txt", table("Gyokuro", "Zeit [s];UV [mAU]"))
	var got []readAnswer
	out, errs, code = yugen(t, "", "read", first, second, "--profile", profile)
	if err := json.Unmarshal([]byte(out), &got); code != 0 || err != nil {
		t.Fatal(errs, err)
	}
	if c := got[1].Channels[0]; got[1].Header.SampleName != "Gyokuro" || got[1].Header.AcquiredAt == nil || c.Name != "UV" || c.Unit != "mAU" || c.Last[4] != 2401.5 || math.Abs(c.EndMin-49.25/60) > 1e-12 {
		t.Errorf("%+v", got[1])
	}
	third := write("third.txt", table("Hojicha", "Zeit [min];UV [mAU]"))
	if _, errs, code = yugen(t, "", "read", third, "--profile", profile); code != 1 || !strings.Contains(errs, "third.txt: line 3: the names of the columns") {
		t.Errorf("%d %s", code, errs)
	}
	if _, errs, code = yugen(t, "", "peaks", second, "--profile", profile); code != 0 {
		t.Error(errs)
	}
}

// The examples of the formats hold what their truth says.
func TestExamplesOfFormatsAreTrue(t *testing.T) {
	const dir = "../../examples/formats"
	raw, err := os.ReadFile(filepath.Join(dir, "truth.json"))
	if err != nil {
		t.Fatal(err)
	}
	var truth []struct {
		File, Profile string
		Channels      []struct {
			Name   string
			Points int
		}
		Spectra []struct {
			Kind   string
			Scans  int
			TICSum float64 `json:"tic_sum"`
		}
		Peaks []struct {
			Args    []string
			ApexMin float64 `json:"apex_min"`
			Height  float64
		}
	}
	if err := json.Unmarshal(raw, &truth); err != nil {
		t.Fatal(err)
	}
	for _, want := range truth {
		args := []string{filepath.Join(dir, want.File)}
		if want.Profile != "" {
			args = append(args, "--profile", filepath.Join(dir, want.Profile))
		}
		out, errs, code := yugen(t, "", append([]string{"read"}, args...)...)
		var got []readAnswer
		if err := json.Unmarshal([]byte(out), &got); code != 0 || err != nil {
			t.Errorf("%s: %s %v", want.File, errs, err)
			continue
		}
		if len(got[0].Channels) < len(want.Channels) || len(got[0].Spectra) != len(want.Spectra) {
			t.Errorf("%s: %d channels, %d runs of spectra", want.File, len(got[0].Channels), len(got[0].Spectra))
			continue
		}
		for k, c := range want.Channels {
			if c.Points != 0 && (got[0].Channels[k].Name != c.Name || got[0].Channels[k].Points != c.Points) {
				t.Errorf("%s: %s of %d points", want.File, got[0].Channels[k].Name, got[0].Channels[k].Points)
			}
		}
		for k, s := range want.Spectra {
			if g := got[0].Spectra[k]; g.Kind != s.Kind || g.Scans != s.Scans || s.TICSum != 0 && g.TICSum != s.TICSum {
				t.Errorf("%s: %+v", want.File, g)
			}
		}
		for _, p := range want.Peaks {
			out, errs, code := yugen(t, "", append(append([]string{"peaks"}, args...), p.Args...)...)
			var found []integrated
			if err := json.Unmarshal([]byte(out), &found); code != 0 || err != nil || len(found) != 1 || len(found[0].Peaks) == 0 {
				t.Errorf("%s %v: %s %v", want.File, p.Args, errs, err)
				continue
			}
			if g := found[0].Peaks[0]; math.Abs(g.ApexMin-p.ApexMin) > 0.01 || math.Abs(g.Height/p.Height-1) > 0.02 {
				t.Errorf("%s %v: a peak of %g at %g min", want.File, p.Args, g.Height, g.ApexMin)
			}
		}
	}
}
