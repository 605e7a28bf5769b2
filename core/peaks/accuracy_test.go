package peaks

import (
	"flag"
	"fmt"
	"math"
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
	kept, err := os.ReadFile(accuracyFile)
	// What follows is written by make coverage.
	own, intervals, _ := strings.Cut(string(kept), "\n## Intervals of amounts\n")
	if *writeAccuracy {
		if err := os.WriteFile(accuracyFile, []byte(table+"\n## Intervals of amounts\n"+intervals), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	if err != nil || own != table {
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
	fittedTable(t, &b)
	askedTable(t, &b)
	b.WriteString(`
Where it falls short:

- c13: a top that the detector cut off has lost its area. Such a peak is flagged; where peaks are parted by fit, its flanks give the area back
  (sat1 above is within 0.1 %; of sat2 too little is left).
- c16, c17 and c21 at low signal-to-noise: the errors are of the size of the standard uncertainty that is shown with each area (a peak of
  height 3 noise SD over 1.6 min of 0.1 s samples has 12 %), so that no integrator can be better but by fitting a shape that is known.
- c21 above that: where small peaks with tails stand close together on a bent, rising baseline, the straight line under a cluster is not
  the baseline. A baseline rule or a fit helps there.
- Speed: detection, baselines, splits and all measures of 300 peaks in 36 000 points take about 10 ms on the machines at hand, not 5 ms; a third of
  it is the measures that came on top of the first set.
`)
	return b.String()
}

var aboutFamily = map[string]string{
	"c01": "separated, no noise", "c02": "separated, noise", "c03": "steep drift", "c04": "tailing to 2.5", "c05": "pairs, Rs 0.8 to 2",
	"c06": "small peak on a tail", "c07": "solvent dip", "c08": "fast, 40 Hz", "c09": "slow, 1 Hz", "c10": "300 peaks", "c11": "steps", "c12": "spikes",
	"c13": "clipped tops", "c14": "noise only", "c15": "1/f noise only", "c16": "ladder of signal-to-noise", "c17": "rounded to integers", "c18": "uneven times",
	"c19": "scaled by 10⁹", "c20": "negative", "c21": "realistic mixture",
}

// fittedTable compares fits and skims with the true areas.
func fittedTable(t *testing.T, b *strings.Builder) {
	t.Helper()
	b.WriteString(`
Fitted shapes and skims against the true areas, error of each peak in percent:

| case | parted by | errors, % |
|---|---|---|
`)
	for _, row := range []struct {
		name, how string
		s         Settings
	}{
		{"c05_pair_rs0.8_clean", "fit", Settings{Split: ByFit}},
		{"c05_pair_rs1.0_noise", "fit", Settings{Split: ByFit}},
		{"c05_pair_rs1.5_noise", "fit", Settings{Split: ByFit}},
		{"c06_rider_10to1_gap30", "fit", Settings{Split: ByFit}},
		{"c06_rider_100to1_gap45", "fit", Settings{Split: ByFit}},
		{"c06_rider_10to1_gap30", "straight tangent", Settings{SkimPercent: 20}},
		{"c06_rider_10to1_gap30", "decay", Settings{SkimPercent: 20, SkimLine: ByExponential}},
		{"c13_clipped", "fit", Settings{Split: ByFit}},
	} {
		tr, want := readReference(t, row.name)
		found := find(t, tr, row.s).Peaks
		match := compare(want, found).match
		var errors []string
		for i, p := range want.Peaks {
			if j, ok := match[i]; ok {
				errors = append(errors, fmt.Sprintf("%s %.1f", p.Name, 100*math.Abs(found[j].AreaS/p.AreaS-1)))
			}
		}
		fmt.Fprintf(b, "| %s | %s | %s |\n", row.name, row.how, strings.Join(errors, ", "))
	}
}

// askedTable sets what is to be reached beside what is.
func askedTable(t *testing.T, b *strings.Builder) {
	t.Helper()
	worst := func(s Settings, trueArea bool, names ...string) (median, high float64) {
		var errors []float64
		for _, name := range names {
			tr, want := readReference(t, name)
			if name == "c20_negative" {
				s.TimeRules = told(name).TimeRules
			}
			got := find(t, tr, s).Peaks
			for i, j := range compare(want, got).match {
				p := want.Peaks[i]
				yard := p.IdealDropS
				if yard == 0 || trueArea {
					yard = p.AreaS
				}
				if p.Detectable {
					errors = append(errors, 100*math.Abs(got[j].AreaS/yard-1))
				}
			}
		}
		slices.Sort(errors)
		return quantile(errors, 0.5), quantile(errors, 0.95)
	}
	b.WriteString(`
What is asked and what is reached, areas in percent:

| | asked | reached |
|---|---|---|
`)
	row := func(what, asked, reached string) { fmt.Fprintf(b, "| %s | %s | %s |\n", what, asked, reached) }
	two := func(m, h float64) string { return fmt.Sprintf("median %.2f, 95th percentile %.2f", m, h) }
	_, h := worst(Settings{}, false, "c01_clean5", "c18_jitter")
	row("separated, without noise", "each 0.1", fmt.Sprintf("worst %.2f", h))
	_, h = worst(Settings{}, false, "c04_tailing_clean")
	row("tailing to 2.5, without noise", "each 0.3", fmt.Sprintf("worst %.2f", h))
	m, h := worst(Settings{}, false, "c02_noise_sn100_r4")
	row("separated, S/N 100", "median 0.3, 95th percentile 1", two(m, h))
	m, h = worst(Settings{}, false, "c02_noise_sn10_r1")
	row("S/N 10", "median 1, 95th percentile 3", two(m, h))
	_, h = worst(Settings{}, false, "c05_pair_rs0.8_clean", "c05_pair_rs1.0_noise", "c05_pair_rs1.5_noise", "c05_pair_rs2.0_clean")
	row("drop lines, Rs 0.8 to 2", "0.5 of the ideal drop", fmt.Sprintf("worst %.2f", h))
	_, h = worst(Settings{Split: ByFit}, true, "c05_pair_rs0.8_clean")
	row("fitted, without noise", "1", fmt.Sprintf("worst %.2f", h))
	_, h = worst(Settings{Split: ByFit}, true, "c05_pair_rs1.0_noise", "c05_pair_rs1.5_noise")
	row("fitted, with noise", "3", fmt.Sprintf("worst %.2f", h))
	m, _ = worst(Settings{Split: ByFit}, true, "c10_300peaks_r1")
	row("300 peaks, fitted", "median 1", fmt.Sprintf("median %.1f", m))
}
