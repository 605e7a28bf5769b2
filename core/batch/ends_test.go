package batch

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
)

// measured is a batch whose peaks are given, so that only what follows integration is computed.
type measured struct {
	method  Method
	choices Choices
	list    []Injection
	areas   []map[string]float64
}

func newMeasured(model curves.Model, weight curves.Weight, ids ...string) *measured {
	m := NewMethod()
	m.Curves.Model, m.Curves.Weight = model, weight
	for _, id := range ids {
		m.Compounds = append(m.Compounds, compounds.Compound{ID: id, Name: strings.ToUpper(id), Role: compounds.Target})
	}
	return &measured{method: m}
}

func (b *measured) add(e Entry, areas map[string]float64) {
	e.ID, e.Dilution, e.Factor = fmt.Sprint(len(b.list)+1), 1, 1
	if e.Name == "" {
		e.Name = e.ID
	}
	b.list, b.areas = append(b.list, Injection{Entry: e}), append(b.areas, areas)
}

func (b *measured) result() Result {
	p := newProcess(Input{Injections: b.list, Method: b.method, Choices: b.choices})
	p.result.Injections = make([]Injected, len(b.list))
	for i, in := range b.list {
		injected := Injected{ID: in.ID, Readings: map[string]Reading{}}
		for _, c := range b.method.Compounds {
			if area, ok := b.areas[i][c.ID]; ok {
				n := len(injected.Peaks) + 1
				injected.Peaks = append(injected.Peaks, NamedPeak{Peak: peaks.Peak{Number: n, AreaS: area, Height: area}, CompoundID: c.ID})
			}
		}
		p.result.Injections[i] = injected
	}
	p.calibrate(b.method.Targets())
	p.quantify()
	p.judge()
	return p.result
}

func (r Result) has(kind checks.Kind, text string) bool {
	return slices.ContainsFunc(r.Notices, func(n checks.Notice) bool { return n.Kind == kind && strings.Contains(n.Text, text) })
}

// Just outside the range a quadratic still reads; beyond its turn the flag says on which side, and nothing is left out silently.
func TestReadingsJustOutsideAQuadraticCount(t *testing.T) {
	at := func(x float64) float64 { return 10 + 100*x - 0.004*x*x }
	b := newMeasured(curves.Quadratic, curves.PerX, "a")
	for _, x := range []float64{100, 500, 1000, 2500, 5000, 10000} {
		b.add(Entry{Role: Standard, Level: ptr(x)}, map[string]float64{"a": at(x)})
	}
	whole := func(name string, x ...float64) {
		for _, v := range x {
			area := at(v)
			if v > 12500 { // beyond the turn
				area = at(12500) + 1000
			}
			b.add(Entry{Name: name, Role: Sample, Sample: ptr(1.0), Volume: ptr(1000.0)}, map[string]float64{"a": area})
		}
	}
	whole("top", 9817, 10372)
	whole("low", 60)
	whole("past", 9900, 13000)
	r := b.result()
	b.add(Entry{Name: "check", Role: Check, Level: ptr(8500.0)}, map[string]float64{"a": at(8500 * 1.3)})
	b.add(Entry{Name: "far", Role: Check, Level: ptr(8500.0)}, map[string]float64{"a": at(12500) + 1000})
	checked := b.result()
	of := func(name string) SampleValue {
		return r.Samples[slices.IndexFunc(r.Samples, func(s SampleRow) bool { return s.Name == name })].Values["a"]
	}
	if v := of("top"); v.N != 2 || math.Abs(*v.Mean-(9817+10372)/2.0) > 0.1 || !slices.Equal(v.Flags, []Flag{AboveRange}) {
		t.Errorf("top: %+v", v)
	}
	if v := of("low"); v.N != 1 || math.Abs(*v.Mean-60) > 0.1 || !slices.Equal(v.Flags, []Flag{BelowRange}) {
		t.Errorf("low: %+v", v)
	}
	if v := of("past"); v.N != 1 || v.Of != 2 || !slices.Equal(v.Flags, []Flag{AboveRange}) {
		t.Errorf("past: %+v", v)
	}
	if !checked.has(checks.Recovery, "reads 130.0 %") || !checked.has(checks.Recovery, "far cannot be read") || !checked.has(checks.AboveRange, "past") {
		t.Errorf("%+v", checked.Notices)
	}
}

// Injections that got another amount of internal standard: levels stay replicates of one another, limits and flags compare like with like, blanks keep
// their level to be judged by.
func TestLevelsStayLevelsWhateverTheInternalStandard(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, model := range []curves.Model{curves.Linear, curves.LogLog} {
		b := newMeasured(model, curves.Unweighted, "a")
		b.method.Compounds = append(b.method.Compounds, compounds.Compound{ID: "is", Name: "IS", Role: compounds.InternalStandard, Amount: 50})
		add := func(e Entry, x, internal float64) {
			e.Internal = &internal
			b.add(e, map[string]float64{"a": 100 * x * (1 + 0.01*rng.NormFloat64()), "is": 40 * internal})
		}
		for _, x := range []float64{1, 5, 20, 50, 100} {
			for _, internal := range []float64{50, 51, 49.5} {
				add(Entry{Role: Standard, Level: ptr(x)}, x, internal)
			}
		}
		// The top standard again with 3 % more internal standard is inside, not above, the range.
		add(Entry{Name: "same", Role: Sample, Sample: ptr(1.0), Volume: ptr(1000.0)}, 98, 51.5)
		b.add(Entry{Name: "blank", Role: Blank}, map[string]float64{"a": 60, "is": 2000})
		r := b.result()
		c := r.Curves[0]
		if c.Tests.LackOfFit == nil || c.Tests.LackOfFit.DF2 != 10 {
			t.Errorf("%s: lack of fit %+v", model, c.Tests.LackOfFit)
		}
		if len(r.Samples[0].Values["a"].Flags) != 0 {
			t.Errorf("%s: %+v", model, r.Samples[0].Values["a"])
		}
		if !r.has(checks.CarryOver, "% of the lowest level") {
			t.Errorf("%s: the blank vanished: %+v", model, r.Notices)
		}
		for _, l := range c.Limits {
			if l.Way == curves.ByReplicates && l.N != 3 {
				t.Errorf("%s: %d replicates at the lowest level", model, l.N)
			}
		}
		// One of them left out by hand says nothing of limits any more.
		b.choices.LeftOut = map[string][]LeftOut{"a": {{InjectionID: "1", Reason: "x"}}}
		for _, l := range b.result().Curves[0].Limits {
			if l.Way == curves.ByReplicates && l.N != 2 {
				t.Errorf("%s: %d replicates count, one of three is left out", model, l.N)
			}
		}
	}
}

// A mean bears the flag that it earns itself, and a group names what it lacks.
func TestWordsFollowTheMean(t *testing.T) {
	b := newMeasured(curves.Linear, curves.Unweighted, "a", "b")
	for i := range b.method.Compounds {
		b.method.Compounds[i].Group = "G"
	}
	for _, x := range []float64{10, 20, 50, 100} {
		for _, e := range []float64{-1, 1} {
			b.add(Entry{Role: Standard, Level: ptr(x)}, map[string]float64{"a": 10*x + 3*e, "b": 10*x - 2*e})
		}
	}
	own(&b.method, "a", Own{Limits: &LimitChoice{LOD: 9, LOQ: 12}})
	for _, x := range []float64{8, 17} {
		b.add(Entry{Name: "leaf", Role: Sample, Sample: ptr(1.0), Volume: ptr(1000.0)}, map[string]float64{"a": 10 * x})
	}
	row := b.result().Samples[0]
	if v := row.Values["a"]; v.N != 2 || len(v.Flags) != 0 {
		t.Errorf("a mean of 12.5 over limits of 9 and 12: %+v", v)
	}
	if v := row.Values["b"]; !slices.Equal(v.Flags, []Flag{NotFound}) {
		t.Errorf("b: %+v", v)
	}
	g := row.Groups["G"]
	if math.Abs(*g.Mean-12.5) > 0.1 || slices.Contains(g.Flags, NotFound) || !slices.Equal(g.Absent, []string{"B"}) || g.CI95 == nil {
		t.Errorf("the group: %+v", g)
	}
}

const meansHeading = "\n## Intervals of means\n\n"

// Intervals of means hold the truth whatever the number of replicates, in the middle and at both ends, for injections of one preparation and for
// preparations of their own.
func TestIntervalsOfMeansHoldTheTruth(t *testing.T) {
	var table strings.Builder
	fmt.Fprintf(&table, "%s%d simulated batches of each kind: how often the 95 %% interval of a mean of replicates holds the truth, near the lowest level, in the middle and near the\nhighest. Volume and weighing are uncertain by 0.5 and 0.7 %%. `make coverage` writes this table.\n\n| what | replicates | low, %% | middle, %% | high, %% |\n|---|---:|---:|---:|---:|\n", meansHeading, 2**coverageRuns)
	for _, w := range []struct {
		about    string
		model    curves.Model
		weight   curves.Weight
		response func(x float64) float64
		sd       func(x float64) float64 // of the response, in the tenfold unit of the amounts
		own      bool                    // each replicate is a preparation of its own
	}{
		{"line, injections of one preparation", curves.Linear, curves.Unweighted, func(x float64) float64 { return 3 + 10*x }, constant(0.5), false},
		{"line, preparations of their own", curves.Linear, curves.Unweighted, func(x float64) float64 { return 3 + 10*x }, constant(0.5), true},
		{"line in proportion, preparations of their own", curves.Linear, curves.PerX2, func(x float64) float64 { return 3 + 10*x }, relative(0.02), true},
		{"quadratic, injections of one preparation", curves.Quadratic, curves.Unweighted, func(x float64) float64 { return 3 + 10*x - 0.02*x*x }, constant(0.5), false},
	} {
		for _, n := range []int{1, 2, 3, 6, 10} {
			fmt.Fprintf(&table, "| %s | %d |", w.about, n)
			for _, truth := range []float64{6, 40, 95} {
				held, runs := 0, 2**coverageRuns
				for seed := range runs {
					rng := rand.New(rand.NewPCG(uint64(seed), uint64(n)))
					b := newMeasured(w.model, w.weight, "a")
					b.method.Amounts.VolumePercent, b.method.Amounts.SamplePercent = 0.5, 0.7
					for _, x := range append(six, six...) {
						b.add(Entry{Role: Standard, Level: ptr(x)}, map[string]float64{"a": w.response(x) + 10*w.sd(x)*rng.NormFloat64()})
					}
					for range 3 { // other samples of the batch, in duplicate
						other := 10 + 80*rng.Float64()
						for range 2 {
							b.add(Entry{Name: fmt.Sprint("other ", other), Role: Sample, Sample: ptr(1.0), Volume: ptr(1000.0)}, map[string]float64{"a": w.response(other) + 10*w.sd(other)*rng.NormFloat64()})
						}
					}
					prepare := func() float64 { return (1 + 0.005*rng.NormFloat64()) * (1 + 0.007*rng.NormFloat64()) }
					one := prepare()
					for k := range n {
						e := Entry{Name: "it", Role: Sample, Sample: ptr(1.0), Volume: ptr(1000.0)}
						off := one
						if w.own {
							off, e.Preparation = prepare(), fmt.Sprint(k)
						}
						x := truth * off
						b.add(e, map[string]float64{"a": w.response(x) + 10*w.sd(x)*rng.NormFloat64()})
					}
					r := b.result()
					ci := r.Samples[len(r.Samples)-1].Values["a"].CI95
					if ci == nil {
						t.Fatalf("%s, %d replicates at %g: no interval", w.about, n, truth)
					}
					if ci[0] <= truth && truth <= ci[1] {
						held++
					}
				}
				share := 100 * float64(held) / float64(runs)
				fmt.Fprintf(&table, " %.1f |", share)
				slack := math.Max(2, 400*math.Sqrt(0.95*0.05/float64(runs)))
				if math.Abs(share-95) > slack {
					t.Errorf("%s, %d replicates at %g: %.1f %% hold the truth", w.about, n, truth, share)
				}
			}
			table.WriteString("\n")
		}
	}
	if *writeCoverage {
		const file = "../../docs/accuracy.md"
		kept, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		rest, _, _ := strings.Cut(string(kept), meansHeading)
		if err := os.WriteFile(file, []byte(rest+table.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
}

// The errors told for shares of a total and for readings between brackets are the true spreads.
func TestSharesAndBracketsTellTheirTrueSpread(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 4))
	spread := func(values []float64) float64 {
		mean, sum := 0.0, 0.0
		for _, v := range values {
			mean += v / float64(len(values))
		}
		for _, v := range values {
			sum += (v - mean) * (v - mean) / float64(len(values)-1)
		}
		return math.Sqrt(sum)
	}
	var shares, shareSE, bracketed, bracketSE []float64
	for range 1500 {
		b := newMeasured(curves.Linear, curves.Unweighted, "a", "b")
		b.method.Amounts.PercentOfTotal = true
		noisy := map[string]float64{"a": 0.2, "b": 6}
		peaksOf := func(a, b float64) map[string]float64 {
			return map[string]float64{"a": 10 * (a + noisy["a"]*rng.NormFloat64()), "b": 10 * (b + noisy["b"]*rng.NormFloat64())}
		}
		for _, x := range append(six, six...) {
			b.add(Entry{Role: Standard, Level: ptr(x)}, peaksOf(x, x))
		}
		b.add(Entry{Name: "oil", Role: Sample}, peaksOf(40, 60))
		r := b.result().Injections[len(b.list)-1].Readings["a"]
		shares, shareSE = append(shares, *r.Amount), append(shareSE, *r.AmountSE)

		k := newMeasured(curves.Linear, curves.Unweighted, "a")
		k.method.Curves.Brackets = MeanOfBrackets
		standards := func() {
			for _, x := range []float64{10, 25, 40, 55, 70, 85} {
				k.add(Entry{Role: Standard, Level: ptr(x)}, map[string]float64{"a": 10 * (x + rng.NormFloat64())})
			}
		}
		standards()
		k.add(Entry{Name: "leaf", Role: Sample}, map[string]float64{"a": 10 * (50 + rng.NormFloat64())})
		standards()
		q := k.result().Injections[6].Readings["a"]
		bracketed, bracketSE = append(bracketed, *q.Concentration), append(bracketSE, *q.ConcentrationSE)
	}
	root := func(values []float64) float64 {
		sum := 0.0
		for _, v := range values {
			sum += v * v / float64(len(values))
		}
		return math.Sqrt(sum)
	}
	for name, pair := range map[string][2]float64{"share": {root(shareSE), spread(shares)}, "bracket": {root(bracketSE), spread(bracketed)}} {
		if ratio := pair[0] / pair[1]; ratio < 0.92 || ratio > 1.08 {
			t.Errorf("%s: told %.3g, true spread %.3g", name, pair[0], pair[1])
		}
	}
}

// Standard addition takes the amount of internal standard of each injection into account.
func TestStandardAdditionKnowsTheInternalStandard(t *testing.T) {
	b := newMeasured(curves.Linear, curves.Unweighted, "a")
	b.method.Compounds = append(b.method.Compounds, compounds.Compound{ID: "is", Name: "IS", Role: compounds.InternalStandard, Amount: 50})
	b.method.Curves.Way = ByAddition
	for i, added := range []float64{0, 0, 10, 20, 30} {
		internal := []float64{50, 40, 60, 45, 55}[i]
		b.add(Entry{Name: "leaf", Role: Sample, Added: ptr(added), Internal: ptr(internal)}, map[string]float64{"a": 100 * (12 + added), "is": 40 * internal})
	}
	for _, r := range b.result().Injections {
		near(t, "amount", r.Readings["a"].Concentration, 12, 1e-6)
	}
}
