package andi

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"yugen/formats"
)

// A file of the classic kind and one with wide offsets hold the same; the later kinds are named and refused.
func TestKindsOfNetCDF(t *testing.T) {
	if _, err := exec.LookPath("nccopy"); err != nil {
		t.Skip("nccopy is not installed; make test installs it")
	}
	tr, h := example(t)
	data, err := Write([]formats.Channel{formats.ChannelOf(tr)}, h, nil)
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	from := filepath.Join(folder, "from.cdf")
	if err := os.WriteFile(from, data, 0o600); err != nil {
		t.Fatal(err)
	}
	for kind, refusal := range map[string]string{"classic": "", "64-bit offset": "", "cdf5": "version 5", "netCDF-4": "netCDF"} {
		to := filepath.Join(folder, strings.ReplaceAll(kind, " ", "-"))
		if out, err := exec.Command("nccopy", "-k", kind, from, to).CombinedOutput(); err != nil {
			t.Fatalf("%s: %v %s", kind, err, out)
		}
		copied, err := os.ReadFile(to)
		if err != nil {
			t.Fatal(err)
		}
		got, err := whole(copied)
		if refusal != "" {
			if err == nil || !strings.Contains(err.Error(), refusal) {
				t.Errorf("%s: %v", kind, err)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s: %v", kind, err)
			continue
		}
		if back := got.Traces[0]; !slices.Equal(back.Values, tr.Values) || back.StartS != tr.StartS || back.StepS != tr.StepS || got.Header.SampleName != h.SampleName {
			t.Errorf("%s: %d values from %g s, of %q", kind, back.Len(), back.StartS, got.Header.SampleName)
		}
		for _, cut := range []int{5, 40, len(copied) / 3, len(copied) - 1} { // cut off, it is refused in a sentence
			if _, err := whole(copied[:cut]); err == nil {
				t.Errorf("%s: the first %d of %d bytes are taken", kind, cut, len(copied))
			}
		}
	}
}
