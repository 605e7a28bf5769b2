package main

import (
	"bytes"
	"compress/gzip"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// unpacked is a file of the reference of resolving, as it would lie in a folder.
func unpacked(t *testing.T, name string) string {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("../../core/resolving/testdata", name+".gz"))
	if err != nil {
		t.Fatal(err)
	}
	z, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	text, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, text, 0o600); err != nil {
		t.Fatal(err)
	}
	return file
}

// The command resolves the files of a stretch, and says how many components there are and how it came to that; what it cannot do it says.
func TestResolveByCommand(t *testing.T) {
	args := []string{"resolve"}
	for _, n := range []string{"1", "2", "3", "4", "5", "6"} {
		args = append(args, unpacked(t, "c3_rs05_s"+n+".csv"))
	}
	for _, more := range [][]string{nil, {"--from", "4.9", "--to", "5.7"}, {"--components", "3"}, {"--method", "parafac2"}} {
		a := parsed[resolvedAnswer](t, "", append(append([]string{}, args...), more...)...)
		compounds := 0
		for _, c := range a.Components {
			if !c.Background {
				compounds++
			}
			if len(c.Samples) != 6 || c.Samples[0].File != args[1] || len(c.Spectrum) == 0 {
				t.Errorf("%v: %d samples, %d lines", more, len(c.Samples), len(c.Spectrum))
			}
		}
		if compounds != 3 || len(a.Components) != 4 || a.Explained < 0.99 || a.ChosenBy == "" {
			t.Errorf("%v: %d compounds of %d components, %.4f explained, by %s", more, compounds, len(a.Components), a.Explained, a.ChosenBy)
		}
	}
	for says, more := range map[string][]string{
		"to 5 min is none":     {"--from", "6", "--to", "5"},
		"scans in the stretch": {"--from", "5", "--to", "5.01"},
		"no number":            {"--components", "many"},
		"Between 1 and 10":     {"--components", "11"},
		"The method \"magic":   {"--method", "magic"},
		"The format \"xml\"":   {"--format", "xml"},
	} {
		if _, errs, code := yugen(t, "", append(append([]string{}, args...), more...)...); code == 0 || !strings.Contains(errs, says) {
			t.Errorf("%v: %d, %s", more, code, errs)
		}
	}
}
