package batch

import (
	"context"
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/signal"
)

var (
	coverageRuns  = flag.Int("coverage-runs", 60, "simulated batches for each kind of curve")
	writeCoverage = flag.Bool("write-coverage", false, "write the table of intervals into docs/accuracy.md")
)

// world is a way in which responses come about and scatter, with the curve whose assumptions that meets.
type world struct {
	about    string
	model    curves.Model
	weight   curves.Weight
	response func(x float64) float64
	sd       func(x float64) float64 // of the content that is measured
	levels   []float64
	averaged bool // the curve goes through the means of duplicates
}

func constant(sd float64) func(float64) float64 { return func(float64) float64 { return sd } }
func relative(r float64) func(float64) float64  { return func(x float64) float64 { return r * x } }

var six = []float64{5, 10, 20, 40, 70, 100}

var worlds = []world{
	{"line, the same scatter everywhere", curves.Linear, curves.Unweighted, func(x float64) float64 { return 3 + 10*x }, constant(0.5), six, false},
	{"line through means, the same scatter everywhere", curves.Linear, curves.Unweighted, func(x float64) float64 { return 3 + 10*x }, constant(0.5), six, true},
	{"line, scatter in proportion", curves.Linear, curves.PerX2, func(x float64) float64 { return 3 + 10*x }, relative(0.02), six, false},
	{"line, scatter with the root", curves.Linear, curves.PerX, func(x float64) float64 { return 3 + 10*x }, func(x float64) float64 { return 0.1 * math.Sqrt(x) }, six, false},
	{"line through zero, scatter in proportion", curves.LinearOrigin, curves.PerX2, func(x float64) float64 { return 10 * x }, relative(0.02), six, false},
	{"quadratic, the same scatter everywhere", curves.Quadratic, curves.Unweighted, func(x float64) float64 { return 3 + 10*x - 0.02*x*x }, constant(0.5), six, false},
	{"mean response factor, scatter in proportion", curves.Average, curves.Unweighted, func(x float64) float64 { return 10 * x }, relative(0.02), six, false},
	{"logarithms, scatter in proportion", curves.LogLog, curves.Unweighted, func(x float64) float64 { return 12 * math.Pow(x, 0.95) }, relative(0.02), six, false},
	{"one point, scatter in proportion", curves.OnePoint, curves.Unweighted, func(x float64) float64 { return 10 * x }, relative(0.02), []float64{40, 40, 40, 40}, false},
}

// The 95 % interval of an amount, from chromatogram to unit, holds the truth in 93 to 97 % of simulated batches. make coverage runs a
// thousand of each kind and writes the table; the everyday test runs fewer and allows for that.
func TestIntervalsOfAmountsHoldTheTruth(t *testing.T) {
	var b strings.Builder
	fmt.Fprintf(&b, "\n## Intervals of amounts\n\n%d simulated batches of each kind, from chromatograms to amounts with uncertain volume and weight: how often the 95 %% interval holds the truth. `make coverage` writes this table.\n\n| world | model | weight | held, %% |\n|---|---|---|---:|\n", *coverageRuns)
	for k, w := range worlds {
		held, runs := 0, 0
		for seed := range *coverageRuns {
			if runs++; w.holds(t, uint64(1000*k+1)+uint64(seed)*7919) {
				held++
			}
		}
		share := 100 * float64(held) / float64(runs)
		fmt.Fprintf(&b, "| %s | %s | %s | %.1f |\n", w.about, w.model, w.weight, share)
		// Four standard deviations of a share of so many; with a thousand that is within 93 to 97.
		slack := math.Max(2, 400*math.Sqrt(0.95*0.05/float64(*coverageRuns)))
		if math.Abs(share-95) > slack {
			t.Errorf("%s: %.1f %% of %d", w.about, share, runs)
		}
	}
	t.Log(b.String())
	if *writeCoverage {
		const file = "../../docs/accuracy.md"
		kept, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		rest, _, _ := strings.Cut(string(kept), "\n## Intervals of amounts\n")
		if err := os.WriteFile(file, []byte(rest+b.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
}

// holds simulates duplicate standards and one sample, and tells whether the sample's interval holds its content.
func (w world) holds(t *testing.T, seed uint64) bool {
	t.Helper()
	rng := rand.New(rand.NewPCG(seed, 9))
	m := NewMethod()
	m.Channels[0].Peaks.WidthMin = 0.1
	m.Compounds = []compounds.Compound{{ID: "a", Name: "A", ExpectedMin: 1, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target}}
	m.Curves.Model, m.Curves.Weight, m.Curves.Averaged = w.model, w.weight, w.averaged
	m.Amounts.VolumePercent, m.Amounts.SamplePercent = 0.5, 0.5
	var list []Injection
	inject := func(role Role, level *float64, content float64) *Injection {
		measured := content + w.sd(content)*rng.NormFloat64()
		y := make([]float64, 1200)
		for i := range y {
			d := (float64(i)/600 - 1) / 0.05
			y[i] = w.response(measured)/(0.05*60*math.Sqrt(2*math.Pi))*math.Exp(-d*d/2) + 0.001*rng.NormFloat64()
		}
		tr, err := signal.NewUniform(0, 0.1, y)
		if err != nil {
			t.Fatal(err)
		}
		list = append(list, Injection{Entry: Entry{ID: fmt.Sprint(len(list)), Name: fmt.Sprint(len(list)), Role: role, Level: level, Dilution: 1, Factor: 1}, Trace: tr})
		return &list[len(list)-1]
	}
	for _, level := range w.levels {
		inject(Standard, ptr(level), level)
		inject(Standard, ptr(level), level)
	}
	const truth, volume, taken = 30.0, 50.0, 0.25
	sample := inject(Sample, nil, truth)
	// What was written down is off from what was used by the uncertainties that the method states.
	sample.Volume, sample.Sample = ptr(volume*(1+0.005*rng.NormFloat64())), ptr(taken*(1+0.005*rng.NormFloat64()))
	r, err := Process(context.Background(), Input{Injections: list, Method: m}, nil)
	if err != nil {
		t.Fatal(err)
	}
	ci := r.Injections[len(list)-1].Readings["a"].AmountCI95
	if ci == nil {
		t.Fatalf("%s: no interval: %+v %+v", w.about, r.Injections[len(list)-1].Readings["a"], r.Curves[0].Problem)
	}
	want := truth * volume / 1000 / taken
	return ci[0] <= want && want <= ci[1]
}
