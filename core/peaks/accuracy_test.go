package peaks

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
)

var writeAccuracy = flag.Bool("write-accuracy", false, "write docs/accuracy.md anew")

const accuracyFile = "../../docs/accuracy.md"

// docs/accuracy.md says how well the reference chromatograms are integrated, by family; this test holds it to that.
func TestTheAccuracyTableIsTrue(t *testing.T) {
	table := accuracyTable(t)
	if *writeAccuracy {
		if err := os.WriteFile(accuracyFile, []byte(table), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	kept, err := os.ReadFile(accuracyFile)
	if err != nil || string(kept) != table {
		t.Errorf("docs/accuracy.md is not what is measured (%v): run go test ./core/peaks -run AccuracyTable -write-accuracy, and read what changed", err)
	}
}

func accuracyTable(t *testing.T) string {
	t.Helper()
	type family struct {
		about                       string
		detectable, found, invented int
		errors                      []float64
	}
	families := map[string]*family{}
	var names []string
	for _, name := range referenceCases(t) {
		tr, want := readReference(t, name)
		got, err := Find(tr, told(name), nil)
		if err != nil {
			t.Fatal(name, err)
		}
		s := compare(want, got.Peaks)
		if families[want.Family] == nil {
			families[want.Family] = &family{about: aboutFamily[want.Family]}
			names = append(names, want.Family)
		}
		f := families[want.Family]
		f.detectable, f.found, f.invented = f.detectable+s.detectable, f.found+s.found, f.invented+s.invented
		f.errors = append(f.errors, s.areaErrors...)
	}
	slices.Sort(names)
	var b strings.Builder
	b.WriteString(`# Accuracy

Chromatograms with exactly known areas, made independently of Yugen, integrated with no setting touched (c20 is told that its peaks are
negative). Missed and invented count peaks; area errors are against the ideal drop line, in percent. A test keeps this page true.

| family | what | peaks | missed | invented | median error, % | 95th percentile, % |
|---|---|---:|---:|---:|---:|---:|
`)
	detectable, found, invented := 0, 0, 0
	for _, n := range names {
		f := families[n]
		slices.Sort(f.errors)
		median, high := "–", "–"
		if len(f.errors) > 0 {
			median, high = fmt.Sprintf("%.2f", 100*quantile(f.errors, 0.5)), fmt.Sprintf("%.2f", 100*quantile(f.errors, 0.95))
		}
		fmt.Fprintf(&b, "| %s | %s | %d | %d | %d | %s | %s |\n", n, f.about, f.detectable, f.detectable-f.found, f.invented, median, high)
		detectable, found, invented = detectable+f.detectable, found+f.found, invented+f.invented
	}
	fmt.Fprintf(&b, "| all | | %d | %d | %d | | |\n", detectable, detectable-found, invented)
	b.WriteString(`
Where it falls short:

- c10: in a run with 300 peaks over three decades some shoulders that no maximum shows are found as peaks of their own.
- c13: a top that the detector cut off has lost its area; such peaks are flagged, and their areas are not to be trusted.
- c16, c17, c21: the areas of peaks near the noise depend on where noise lets the boundary fall.
`)
	return b.String()
}

var aboutFamily = map[string]string{
	"c01": "separated, no noise", "c02": "separated, noise", "c03": "steep drift", "c04": "tailing to 2.5", "c05": "pairs, Rs 0.8 to 2",
	"c06": "small peak on a tail", "c07": "solvent dip", "c08": "fast, 40 Hz", "c09": "slow, 1 Hz", "c10": "300 peaks", "c11": "steps", "c12": "spikes",
	"c13": "clipped tops", "c14": "noise only", "c15": "1/f noise only", "c16": "ladder of signal-to-noise", "c17": "rounded to integers", "c18": "uneven times",
	"c19": "scaled by 10⁹", "c20": "negative", "c21": "realistic mixture",
}
