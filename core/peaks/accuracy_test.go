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

const (
	accuracyFile   = "../../docs/accuracy.md"
	intervalTables = "\n## Intervals of areas\n"
)

// docs/accuracy.md says how well the reference chromatograms are integrated, by family; this test holds it to that.
func TestTheAccuracyTableIsTrue(t *testing.T) {
	table := accuracyTable(t)
	kept, err := os.ReadFile(accuracyFile)
	// What follows is written by make coverage.
	own, intervals, _ := strings.Cut(string(kept), intervalTables)
	if *writeAccuracy {
		if err := os.WriteFile(accuracyFile, []byte(table+intervalTables+intervals), 0o644); err != nil {
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
	older := slices.IndexFunc(names, func(n string) bool { return strings.HasPrefix(n, "f") })
	var b strings.Builder
	b.WriteString(`# Accuracy

Chromatograms with exactly known areas, made independently of Yugen, integrated with no setting touched (c20 is told that its peaks are
negative). Missed and invented count peaks; area errors are against the ideal drop line, in percent. A test keeps this page true.

| family | what | peaks | missed | invented | median error, % | 95th percentile, % |
|---|---|---:|---:|---:|---:|---:|
`)
	detectable, found, invented := 0, 0, 0
	figures := func(n string) (median, high string, f *family) {
		f = families[n]
		slices.Sort(f.errors)
		median, high = "–", "–"
		if len(f.errors) > 0 {
			median, high = fmt.Sprintf("%.2f", 100*quantile(f.errors, 0.5)), fmt.Sprintf("%.2f", 100*quantile(f.errors, 0.95))
		}
		return median, high, f
	}
	for _, n := range names[:older] {
		median, high, f := figures(n)
		fmt.Fprintf(&b, "| %s | %s | %d | %d | %d | %s | %s |\n", n, f.about, f.detectable, f.detectable-f.found, f.invented, median, high)
		detectable, found, invented = detectable+f.detectable, found+f.found, invented+f.invented
	}
	fmt.Fprintf(&b, "| all | | %d | %d | %d | | |\n", detectable, detectable-found, invented)
	b.WriteString(`
Realistic families that came later, for detectors of many kinds: one chromatogram of each, against the nearer of ideal drop and truth. Beside stands what a
thirty-line script of a well-known scientific library reaches over five chromatograms of each (smoothing, peak finding, a baseline per cluster, drops).

| family | what | peaks | missed | invented | median error, % | 95th percentile, % | script: recall / precision | script: median / 95th, % |
|---|---|---:|---:|---:|---:|---:|---:|---:|
`)
	detectable, found, invented = 0, 0, 0
	var errors []float64
	for _, n := range names[older:] {
		median, high, f := figures(n)
		fmt.Fprintf(&b, "| %s | %s | %d | %d | %d | %s | %s | %s |\n", n, f.about, f.detectable, f.detectable-f.found, f.invented, median, high, scriptReaches[n])
		detectable, found, invented, errors = detectable+f.detectable, found+f.found, invented+f.invented, append(errors, f.errors...)
	}
	slices.Sort(errors)
	fmt.Fprintf(&b, "| all | | %d | %d | %d | %.2f | %.2f | .956 / .951 | .63 / 16 |\n", detectable, detectable-found, invented, 100*quantile(errors, 0.5), 100*quantile(errors, 0.95))
	fittedTable(t, &b)
	askedTable(t, &b)
	b.WriteString(`
Where it falls short:

- c13: a top that the detector cut off has lost its area. Such a peak is flagged; where peaks are parted by fit, its flanks give the area back.
- c16, f10, f13 and f19 at low signal-to-noise, and the small peaks of f11 and f23: the errors are of the size of the standard uncertainty that is shown
  with each area, so that no integrator can be better but by fitting a shape that is known.
- c21: where small peaks with tails stand close together on a bent, rising baseline that contradicts no straight line by more than noise, the straight line
  under a cluster is not the baseline. A baseline rule or a fit helps there.
- f09: the first peak on the fast flank of a cut-off solvent can be a quarter off where the decay under it is not seen on both sides.
- Ground is followed only where a straight baseline contradicts the signal; then peaks more than three times as wide as the others are partly taken for
  ground, and each area carries the doubt of it. Steps are not bends and are not followed.
- Spikes on a peak go into its area: areas are measured on the raw signal.
- Speed: ` + "`make bench`" + ` shows detection, baselines, splits, measures and uncertainties of 300 peaks in 36 000 points as a ratio to a loop that only smooths the
  trace three times. It is 1.7 where the ground is straight and about 3 where it has to be followed.
`)
	return b.String()
}

// scriptReaches is recall and precision, and median and 95th percentile of the area errors, of the simple script.
var scriptReaches = map[string]string{
	"f01": ".990 / 1 | .46 / 10", "f02": "1 / 1 | .29 / 2.4", "f03": "1 / 1 | .54 / 3.5", "f04": "1 / 1 | .31 / 2.4", "f05": "1 / 1 | .38 / 8.3",
	"f06": ".975 / .963 | 3.2 / 32", "f07": "1 / 1 | 1.1 / 5.1", "f08": ".882 / 1 | .38 / 9.6", "f09": ".817 / 1 | .96 / 22", "f10": "1 / 1 | 4.7 / 13",
	"f11": ".933 / 1 | .39 / 2.0", "f12": "1 / 1 | .33 / 5.9", "f13": ".757 / 1 | .29 / 3.5", "f14": "1 / .444 | .86 / 49", "f15": "1 / 1 | 1.1 / 2.3",
	"f16": ".971 / 1 | 2.8 / 24", "f17": ".971 / .919 | .40 / 2.9", "f18": ".80 / 1 | .30 / 3.4", "f19": ".925 / 1 | 2.6 / 30", "f20": ".987 / 1 | .76 / 37",
	"f21": "1 / 1 | 1.3 / 1.5", "f22": "1 / 1 | .33 / 4.1", "f23": "1 / 1 | .54 / 4.1", "f24": "5 false | –",
}

var aboutFamily = map[string]string{
	"f01": "GC-FID programme", "f02": "isothermal GC", "f03": "ion chromatography, water dip", "f04": "fronting", "f05": "electrophoresis",
	"f06": "gradient hump and step", "f07": "five to eight points a peak", "f08": "1 Hz", "f09": "small peaks on a cut-off solvent's tail", "f10": "S/N 3 to 10",
	"f11": "four decades", "f12": "raw counts around 10⁶", "f13": "coarse steps", "f14": "extracted ion, spikes", "f15": "transition cut to zero",
	"f16": "negative offset", "f17": "gaps, then another rate", "f18": "volts around 10⁻⁹", "f19": "1/f noise and ripple", "f20": "crowded groups",
	"f21": "flow injection", "f22": "isocratic, late", "f23": "riders of 0.2 to 3 %", "f24": "blank gradient",
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
