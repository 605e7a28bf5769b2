package library

import (
	"errors"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/jcamp"
)

func ptr[T any](v T) *T { return &v }

// A library goes through each format and comes back as it was, with names of any language and lines at odd places.
func TestLibrariesComeBack(t *testing.T) {
	want := []spectra.Entry{
		{ID: "1", Name: "Linalool-like, (±)", Lines: spectra.Lines{{At: 41, Height: 37.5}, {At: 71.0503, Height: 999}, {At: 93, Height: 1e-7}}, Index: ptr(1099.25), Formula: "C10H18O", Mass: 154.25, Source: "made up, \"bench\"; 2026", Conditions: "70 eV"},
		{ID: "x 2", Name: "チャ & <été>", Lines: spectra.Lines{{At: 29, Height: 1}}},
		{ID: "3", Name: "Nothing"},
		{ID: "4", Name: "UV", Kind: spectra.Wavelength, Lines: spectra.Lines{{At: 278, Height: 12}}},
	}
	write := map[string]func([]spectra.Entry) ([]byte, error){"json": JSON, "csv": CSV, "jcamp": func(e []spectra.Entry) ([]byte, error) { return jcamp.WriteLibrary("Teas", e), nil }}
	for name, of := range write {
		data, err := of(want)
		if err != nil {
			t.Fatal(err)
		}
		got, err := Read(data)
		if err != nil {
			t.Errorf("%s: %v in\n%s", name, err, data)
			continue
		}
		if name == "jcamp" { // where the unit of the axis says what it is
			for k := range got {
				if got[k].Kind == spectra.Mass {
					got[k].Kind = ""
				}
			}
		}
		for k := range got {
			if len(got[k].Lines) == 0 {
				got[k].Lines = nil
			}
		}
		if !reflect.DeepEqual(got, want) {
			t.Errorf("%s gives\n%+v, want\n%+v", name, got, want)
		}
	}
}

// Peak tables of a file that others wrote, and NTUPLES.
func TestAFileOfPeakTables(t *testing.T) {
	text := "##TITLE=Two\n##JCAMP-DX=4.24\n##DATA TYPE=LINK\n##BLOCKS=3\n" +
		"##TITLE=First\n##JCAMP-DX=4.24\n##DATA TYPE=MASS SPECTRUM\n##XUNITS=M/Z\n##YUNITS=RELATIVE INTENSITY\n##NPOINTS=2\n##PEAK TABLE=(XY..XY)\n50 10; 60 20\n##END=\n" +
		"##TITLE=Run\n##JCAMP-DX=4.24\n##DATA TYPE=CHROMATOGRAM\n##XUNITS=SECONDS\n##NPOINTS=2\n##XYPOINTS=(XY..XY)\n0,1\n1,2\n##END=\n" +
		"##TITLE=Second\n##JCAMP-DX=4.24\n##DATA TYPE=MASS SPECTRUM\n##MOLFORM=C2 H6 O\n##MW=46.07\n##XUNITS=M/Z\n##YUNITS=COUNTS\n##NPOINTS=1\n##PEAK TABLE=(XY..XY)\n31,999\n##END=\n##END=\n"
	got, err := Read([]byte(text))
	if err != nil || len(got) != 2 || got[0].Name != "First" || got[1].ID != "2" || got[1].Mass != 46.07 || got[1].Lines[0] != (spectra.Line{At: 31, Height: 999}) || len(got[0].Lines) != 2 {
		t.Errorf("%+v, %v", got, err)
	}
}

// What is damaged is refused with its place.
func TestDamagedLibraries(t *testing.T) {
	for text, says := range map[string]string{
		"":                                "the library is empty",
		`[{"peaks": [[1,2]]}`:             "byte 19",
		`[{"peaks": "none"}]`:             "which is not what a library has there",
		`[{"peaks": [[1]]}]`:              "spectrum 1, 1: line 1 has 1 numbers",
		`[{"peaks": [[1,1e999]]}]`:        "not what a library has there",
		`[{"retention_index": -4}]`:       "its retention index is -4",
		"name;mass\nA;1\n":                "no library",
		"name,peaks\nA,50:1 60\n":         "line 2: \"60\" is no line",
		"name,mass,peaks\nA,heavy,50:1\n": "line 2: the mass \"heavy\"",
		"##TITLE=x\n##XUNITS=M/Z\n##NPOINTS=3\n##PEAK TABLE=(XY..XY)\n1,2\n##END=\n": "NPOINTS says 3",
		"##TITLE=x\n##END=\n": "no spectrum in it",
	} {
		_, err := Read([]byte(text))
		var e *formats.Error
		if !errors.As(err, &e) || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(`[{"id": 1, "name": "A", "peaks": [[50, 1], [60, 2]], "retention_index": 900}]`))
	f.Add([]byte("name,peaks\nA,50:1 60:2\n"))
	f.Add([]byte("##TITLE=x\n##XUNITS=M/Z\n##PEAK TABLE=(XY..XY)\n1,2\n##END=\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		list, err := Read(data)
		if err != nil {
			return
		}
		for _, e := range list {
			for k, l := range e.Lines {
				if !(l.At > 0) || !(l.Height > 0) || k > 0 && e.Lines[k-1].At >= l.At {
					t.Fatalf("%q has the lines %v", e.Name, e.Lines)
				}
			}
		}
		if _, err := JSON(list); err != nil {
			t.Fatal(fmt.Errorf("it cannot be written: %w", err))
		}
	})
}
