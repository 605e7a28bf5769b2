package runlist

import (
	"reflect"
	"strings"
	"testing"

	"yugen/core/batch"
)

func ptr(v float64) *float64 { return &v }

func TestWhatIsWrittenIsReadBack(t *testing.T) {
	lines := []Line{
		{"a.cdf", batch.Entry{Name: "Standard, \"60\"", Role: batch.Standard, Level: ptr(60), Vial: "A1", Dilution: 1, Factor: 1}},
		{"b.cdf", batch.Entry{Name: "Leaf", Role: batch.Sample, Vial: "B2", Dilution: 2.5, Volume: ptr(50), Sample: ptr(0.2029), Factor: 1.1}},
	}
	data, err := Write(lines)
	if err != nil {
		t.Fatal(err)
	}
	got, err := Read(data)
	if err != nil || !reflect.DeepEqual(got, lines) {
		t.Errorf("%v\n got %+v\nwant %+v", err, got, lines)
	}
}

func TestListsFromSpreadsheets(t *testing.T) {
	for name, text := range map[string]string{
		"semicolons and decimal commas": "File;Role;Sample\r\nb.cdf;sample;0,2029\r\n",
		"tabs":                          "\xef\xbb\xbffile\tsample\trole\nb.cdf\t0.2029\tSample\n",
	} {
		got, err := Read([]byte(text))
		if err != nil || len(got) != 1 || got[0].Entry.Role != batch.Sample || *got[0].Entry.Sample != 0.2029 || got[0].Entry.Name != "b.cdf" || got[0].Entry.Dilution != 1 {
			t.Errorf("%s: %+v %v", name, got, err)
		}
	}
}

func TestRefusalsNameTheLine(t *testing.T) {
	for text, want := range map[string]string{
		"":                              "needs a heading",
		"name,role\nx,sample\n":         "needs a column file",
		"file,colour\nx,red\n":          "column \"colour\" is unknown",
		"file,role\na,sample\nb,king\n": "line 3: role: \"king\" is unknown",
		"file,sample\na,0.2\nb,-1\n":    "line 3: sample: -1 must be above 0",
		"file,sample\na,0.2\nb\n":       "line 3",
	} {
		if _, err := Read([]byte(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %s", text, err, want)
		}
	}
}
