package batch

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
)

// twoStandards is a batch with two internal standards, of which one is lost by a tenth more in each injection and the other by a twentieth; a goes with the
// first and b with the second. Contents are read exactly only where each target is read against its own.
func twoStandards() *measured {
	b := newMeasured(curves.Linear, curves.Unweighted, "a", "b")
	b.method.Compounds = append(b.method.Compounds,
		compounds.Compound{ID: "is1", Name: "First", ExpectedMin: 2, Role: compounds.InternalStandard, Amount: 50},
		compounds.Compound{ID: "is2", Name: "Second", ExpectedMin: 8, Role: compounds.InternalStandard, Amount: 20})
	b.method.Compounds[0].ExpectedMin, b.method.Compounds[1].ExpectedMin = 3, 7
	loss := func(k int) (float64, float64) { return 1 - 0.02*float64(k), 1 - 0.011*float64(k) }
	k := 0
	add := func(e Entry, a, bb float64) {
		l1, l2 := loss(k)
		k++
		b.add(e, map[string]float64{"a": 10 * a * l1, "b": 4 * bb * l2, "is1": 300 * l1, "is2": 90 * l2})
	}
	for _, x := range []float64{1, 5, 20, 60, 120} {
		add(Entry{Role: Standard, Level: &x}, x, x)
	}
	add(Entry{Role: Check, Level: ptr(20.0)}, 20, 20)
	add(Entry{Role: Sample, Name: "Leaf", Volume: ptr(50.0), Sample: ptr(0.25)}, 33, 44)
	add(Entry{Role: Sample, Name: "Leaf", Volume: ptr(50.0), Sample: ptr(0.25)}, 33, 44)
	return b
}

func TestEachTargetIsReadAgainstItsInternalStandard(t *testing.T) {
	b := twoStandards()
	r := b.result()
	near(t, "a, by the nearest", r.Injections[6].Readings["a"].Concentration, 33, 1e-9)
	near(t, "b, by the nearest", r.Injections[7].Readings["b"].Concentration, 44, 1e-9)
	b.method.Compounds[0].Against = "is2"
	other := b.result()
	if got := *other.Injections[6].Readings["a"].Concentration; math.Abs(got-33) < 0.5 {
		t.Errorf("a against the other reads %g as if nothing had changed", got)
	}
	near(t, "b stays", other.Injections[6].Readings["b"].Concentration, 44, 1e-9)
	b.method.Compounds[0].Against = External
	external := b.result()
	near(t, "a without one", external.Injections[6].Readings["a"].Response, 10*33*(1-0.02*6), 1e-9)
	w, _ := Work(Input{Injections: b.list, Method: b.method}, r, "7", "b")
	if !strings.Contains(w.Text, "÷ that of Second") {
		t.Errorf("%s", w.Text)
	}
}

// Each internal standard has its drift, its check and its notices.
func TestEachInternalStandardIsWatched(t *testing.T) {
	b := twoStandards()
	r := b.result()
	last := r.Injections[7].InternalStandards
	if !(last["is1"] < last["is2"]) || last["is2"] >= 0 {
		t.Errorf("drift %v", last)
	}
	var judged []string
	for _, o := range r.Outcomes {
		if o.Kind == "internal_standard" {
			judged = append(judged, o.CompoundID)
		}
	}
	if !slices.Equal(judged, []string{"is1", "is2"}) {
		t.Errorf("judged %v", judged)
	}
}

// An injection's own amounts are told for each by name; a bare number would be anyone's and is not applied, but told.
func TestAmountsOfSeveralInternalStandards(t *testing.T) {
	b := twoStandards()
	for i := range b.list {
		if err := b.list[i].Set(FieldInternal, "first 25; Second 10"); err != nil {
			t.Fatal(err)
		}
	}
	if text := b.list[0].InternalText(); text != "first 25; Second 10" {
		t.Errorf("%q", text)
	}
	half := b.result()
	near(t, "level at half the internal standard", &half.Curves[0].Points[2].X, 40, 1e-9)
	near(t, "the amount stays", half.Injections[6].Readings["a"].Concentration, 33, 1e-9)
	bare := twoStandards()
	bare.list[3].Internal = ptr(25.0)
	stray := twoStandards()
	stray.list[3].Internals = []InternalAmount{{"Third", 1}}
	for want, x := range map[string]*measured{"without saying of which": bare, "an amount of Third, which is no internal standard": stray} {
		r := x.result()
		if !slices.ContainsFunc(r.Notices, func(n checks.Notice) bool { return n.InjectionID == "4" && strings.Contains(n.Text, want) }) {
			t.Errorf("no notice %q among %v", want, r.Notices)
		}
		near(t, want, r.Injections[6].Readings["a"].Concentration, 33, 1e-9)
	}
	for _, text := range []string{"First", "First x", "First -3", "First 0"} {
		e := Entry{}
		if err := e.Set(FieldInternal, text); err == nil {
			t.Errorf("%q was taken: %+v", text, e)
		}
	}
}

// A compound on the curve of another is read against what that one is read against: the factor is between ratios of the same kind.
func TestARelativeFactorKeepsTheInternalStandard(t *testing.T) {
	b := twoStandards()
	own(&b.method, "b", Own{RelativeTo: "a", ResponseFactor: 2})
	if is := b.method.Against()["b"]; is.ID != "is1" {
		t.Errorf("b is read against %q", is.ID)
	}
}

// One solution holds different amounts of different compounds: x of each curve is what was weighed, in the unit of the levels, times the purity.
func TestStandardsHoldWhatTheTableSays(t *testing.T) {
	b := newMeasured(curves.Linear, curves.Unweighted, "a", "b")
	b.method.Curves.Contents = &ContentTable{Unit: "µg/mL", Compounds: map[string]ContentRow{
		"a": {Purity: 95, PuritySE: 0.6, Levels: []LevelContent{{1, 1.05}, {2, 5.26}, {3, 21.1}, {4, 63.2}}},
		"b": {Levels: []LevelContent{{1, 2}, {2, 10}, {3, 40}}},
	}}
	b.method.Compounds[0].Group, b.method.Compounds[1].Group = "Both", "Both"
	a, bb := []float64{1.05, 5.26, 21.1, 63.2}, []float64{2, 10, 40, 0}
	for k := range a {
		level := float64(k + 1)
		areas := map[string]float64{"a": 0.95 * a[k] * 7, "b": bb[k] * 3}
		if bb[k] == 0 {
			areas["b"] = 400 // something else stands in its window: it must make no point
		}
		b.add(Entry{Role: Standard, Level: &level}, areas)
	}
	b.add(Entry{Role: Check, Level: ptr(3.0)}, map[string]float64{"a": 0.95 * 21.1 * 7, "b": 40 * 3})
	b.add(Entry{Role: Check, Level: ptr(20.0)}, map[string]float64{"a": 0.95 * 20 * 7, "b": 20 * 3})
	b.add(Entry{Role: Sample, Name: "Leaf", Volume: ptr(50.0), Sample: ptr(0.25)}, map[string]float64{"a": 7 * 30, "b": 3 * 12})
	r := b.result()
	if n := len(r.Curves[1].Points); n != 3 {
		t.Errorf("b has %d points; the fourth standard does not hold it", n)
	}
	near(t, "what enters the curve", &r.Curves[0].Points[3].X, 63.2*0.95, 1e-12)
	leaf := r.Injections[6].Readings
	near(t, "a", leaf["a"].Concentration, 30, 1e-9)
	near(t, "b", leaf["b"].Concentration, 12, 1e-9)
	near(t, "a check from the table", r.Injections[4].Readings["a"].Recovery, 100, 1e-9)
	near(t, "a check whose level stands nowhere in it holds its number times the purity", r.Injections[5].Readings["a"].Recovery, 100, 1e-9)
	// The purity's own uncertainty is common to every amount read from that curve.
	i := slices.IndexFunc(leaf["a"].Terms, func(u UncertaintyTerm) bool { return u.Name == "standard's purity" })
	if i < 0 || math.Abs(leaf["a"].Terms[i].Percent-100*0.6/95) > 1e-12 {
		t.Errorf("terms %+v", leaf["a"].Terms)
	}
	value := r.Samples[0].Values["a"]
	if k := slices.IndexFunc(value.Terms, func(u MeanTerm) bool { return u.Name == "standard's purity" && !u.Averages }); k < 0 {
		t.Errorf("of the mean %+v", value.Terms)
	}
	group := r.Samples[0].Groups["Both"]
	purity := 0.6 / 95 * *value.Mean
	near(t, "in the sum only a's purity counts", group.SE, purity, 1e-6)
}

func TestTablesOfContentsThatCannotBe(t *testing.T) {
	for want, table := range map[string]*ContentTable{
		"no target":                       {Unit: "mg/L", Compounds: map[string]ContentRow{"is": {}}},
		"a purity of 101 %":               {Unit: "mg/L", Compounds: map[string]ContentRow{"a": {Purity: 101}}},
		"the level 5 of A stands twice":   {Unit: "mg/L", Compounds: map[string]ContentRow{"a": {Levels: []LevelContent{{5, 1}, {5, 2}}}}},
		"-1 at the level 5 of A":          {Unit: "mg/L", Compounds: map[string]ContentRow{"a": {Levels: []LevelContent{{5, -1}}}}},
		"weighed in g, which cannot":      {Unit: "g", Compounds: map[string]ContentRow{"a": {}}},
		"weighed in mmol/L, which cannot": {Unit: "mmol/L", Compounds: map[string]ContentRow{"a": {}}},
	} {
		m := method()
		m.Curves.Contents = table
		if err := m.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %q", err, want)
		}
	}
	m := method()
	m.Compounds[0].MolarMass = 194.19
	m.Curves.Contents = &ContentTable{Unit: "mmol/L", Compounds: map[string]ContentRow{"a": {Levels: []LevelContent{{1, 0.5}}}}}
	if err := m.Validate(); err != nil {
		t.Error(err)
	}
	near(t, "by the molar mass", ptr(must(m.weighed(0.5, m.Compounds[0]))), 97.095, 1e-9)
}

func must(v float64, err error) float64 {
	if err != nil {
		panic(err)
	}
	return v
}

// What the blanks hold is taken off each sample before its preparation is counted in, with the uncertainty of their mean.
func TestTheBlankIsTakenOff(t *testing.T) {
	b := newMeasured(curves.LinearOrigin, curves.Unweighted, "a")
	for _, x := range []float64{1, 5, 20, 60} {
		b.add(Entry{Role: Standard, Level: &x}, map[string]float64{"a": 10 * x})
	}
	for _, x := range []float64{1.8, 2.2, 2.0} {
		b.add(Entry{Role: Blank}, map[string]float64{"a": 10 * x})
	}
	b.add(Entry{Role: Blank}, nil) // one in which nothing was found holds nothing
	b.add(Entry{Role: Sample, Name: "Leaf", Volume: ptr(50.0), Sample: ptr(0.25)}, map[string]float64{"a": 10 * 30})
	b.list[8].Dilution = 5
	b.method.Amounts.TakeOffBlank = true
	r := b.result()
	leaf := r.Injections[8].Readings["a"]
	near(t, "the concentration stays as it was read", leaf.Concentration, 30, 1e-9)
	near(t, "amount", leaf.Amount, (30*5-1.5)*0.05/0.25, 1e-9)
	sd := math.Sqrt((0.3*0.3 + 0.7*0.7 + 0.5*0.5 + 1.5*1.5) / 3)
	near(t, "its uncertainty is that of the blanks' mean", leaf.AmountSE, sd/2*0.05/0.25, 1e-6)
	w, _ := Work(Input{Injections: b.list, Method: b.method}, r, "9", "a")
	if !strings.Contains(w.Text, "Blank taken off, the mean of 4, ÷ dilution: 30.000 − 1.500 ÷ 5 = 29.700 mg/L") || *w.Value != *leaf.Amount {
		t.Errorf("%s", w.Text)
	}
	b.list, b.areas = slices.Delete(b.list, 4, 7), slices.Delete(b.areas, 4, 7)
	one := b.result()
	w, _ = Work(Input{Injections: b.list, Method: b.method}, one, "9", "a")
	if !strings.Contains(strings.Join(w.Doubts, " "), "How much the blanks scatter is not known") {
		t.Errorf("%v", w.Doubts)
	}
}

// The interval of an amount less its blank holds the truth: blanks scatter, the curve is read twice.
func TestAmountsLessTheirBlankCover(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 9))
	noise := func(x float64) float64 { return 10*x + 2*rng.NormFloat64() }
	inside, runs := 0, 1500
	for range runs {
		b := newMeasured(curves.Linear, curves.Unweighted, "a")
		for _, x := range []float64{2, 5, 10, 20, 40, 60} {
			b.add(Entry{Role: Standard, Level: &x}, map[string]float64{"a": noise(x)})
		}
		for range 4 {
			b.add(Entry{Role: Blank}, map[string]float64{"a": noise(3)})
		}
		b.add(Entry{Role: Sample, Name: "Leaf", Volume: ptr(1.0), Sample: ptr(1.0)}, map[string]float64{"a": noise(25)})
		b.method.Amounts.TakeOffBlank = true
		ci := b.result().Injections[10].Readings["a"].AmountCI95
		if ci != nil && ci[0] <= 0.022 && 0.022 <= ci[1] { // 22 mg/L of 1 mL in 1 g
			inside++
		}
	}
	if share := float64(inside) / float64(runs); share < 0.93 || share > 0.985 {
		t.Errorf("%.3f of the intervals hold the truth", share)
	}
}

// A batch without standards of its own is read from the curves of an earlier one and gives what that one would have given.
func TestCurvesOfAnEarlierBatch(t *testing.T) {
	first := twoStandards()
	r := first.result()
	points, against := EarlierOf(first.method, r)
	when := time.Date(2026, 4, 1, 0, 0, 0, 0, time.UTC)
	later := &measured{method: first.method, list: first.list[5:], areas: first.areas[5:]}
	later.choices.Earlier = &Earlier{BatchID: "e", Batch: "Spring", Study: "Teas", MeasuredAt: &when, Response: Area, Unit: "mg/L", Curves: points, Against: against}
	got := later.result()
	near(t, "the same amount", got.Injections[1].Readings["a"].Amount, *r.Injections[6].Readings["a"].Amount, 1e-12)
	if c := got.Curves[0]; c.From == nil || c.From.Batch != "Spring" || !c.Points[0].Kept || c.Points[0].KeptFrom != "Spring" {
		t.Errorf("%+v", c.From)
	}
	if m, ok := newProcess(Input{Method: first.method}).lowestMeasure(got.Curves[0]); !ok || math.Abs(m-10) > 1e-9 {
		t.Errorf("the lowest level's area is %g, for judging blanks", m)
	}
	w, _ := Work(Input{Injections: later.list, Method: later.method, Choices: later.choices}, got, "7", "a")
	if !strings.Contains(w.Text, "measured in Spring") {
		t.Errorf("%s", w.Text)
	}
	for want, change := range map[string]func(*measured){
		"are of areas, this method measures heights": func(b *measured) { b.method.Curves.Response = Height },
		"not measured against the internal standard": func(b *measured) { b.method.Compounds[0].Against = External },
		"the levels of this method in µg/L":          func(b *measured) { b.method.Curves.Unit = "µg/L" },
	} {
		x := &measured{method: first.method, list: later.list, areas: later.areas, choices: later.choices}
		x.method.Compounds = slices.Clone(first.method.Compounds)
		change(x)
		if c := x.result().Curves[0]; c.Fit != nil || !strings.Contains(c.Problem, want) {
			t.Errorf("%q: %v", want, c.Problem)
		}
	}
}

// Responses that a person typed become a curve, readings and a working, without any trace.
func TestTypedResponses(t *testing.T) {
	m := method()
	m.Compounds = m.Compounds[:1]
	var list []Injection
	add := func(e Entry, response float64) {
		e.ID, e.Dilution, e.Factor, e.Typed = string(rune('A'+len(list))), 1, 1, map[string]float64{"a": response}
		if e.Name == "" {
			e.Name = e.ID
		}
		list = append(list, Injection{Entry: e})
	}
	for _, x := range []float64{1, 2, 5, 10, 20} {
		add(Entry{Role: Standard, Level: &x}, 0.05+0.1*x)
	}
	add(Entry{Role: Sample, Name: "Unknown"}, 0.75)
	r := processed(t, list, m, &Cache{})
	near(t, "unknown", r.Injections[5].Readings["a"].Concentration, 7, 1e-9)
	if len(r.Expected) != 0 || len(r.Injections[5].Peaks) != 1 {
		t.Errorf("%+v", r.Expected)
	}
	if w, ok := Work(Input{Injections: list, Method: m}, r, "F", "a"); !ok || *w.Value != *r.Injections[5].Readings["a"].Concentration {
		t.Errorf("%s", w.Text)
	}
}

// The scatter of replicates against each internal standard is least with the one that the target goes with.
func TestTheScatterOfReplicatesIsTheReasonToChoose(t *testing.T) {
	b := twoStandards()
	rows := AgainstTable(Input{Injections: b.list, Method: b.method}, b.result())
	if len(rows) != 2 || rows[0].Chosen != "is1" || rows[1].Chosen != "is2" || rows[0].Named {
		t.Fatalf("%+v", rows)
	}
	for k, row := range rows {
		if len(row.Ways) != 3 || row.Ways[2].StandardID != External || row.Ways[0].Freedom != 1 {
			t.Fatalf("%+v", row)
		}
		own, other, none := *row.Ways[k].RSD, *row.Ways[1-k].RSD, *row.Ways[2].RSD
		if own > 1e-6 || other < 0.1 || none < 0.5 {
			t.Errorf("%s: against its own %g, the other %g, none %g", row.CompoundID, own, other, none)
		}
	}
	// By hand: the two samples lose 12 and 14 % of a.
	low, high := 1-0.02*7, 1-0.02*6.0
	near(t, "without", rows[0].Ways[2].RSD, 100*(high-low)/math.Sqrt2/((high+low)/2), 1e-9)
}

// As measured in the vial: the concentration itself is the amount, without any weight or volume, and nothing asks for one.
func TestAmountsAsMeasuredInTheVial(t *testing.T) {
	list, m := run(t), method()
	list[7].Dilution, list[7].Volume, list[7].Sample = 1, nil, nil
	m.Amounts = Reporting{Unit: "mg/g", VolumeUnit: "mL", SampleUnit: "g", AsMeasured: true, VolumePercent: 5}
	r := processed(t, list, m, nil)
	for i := 6; i < 8; i++ {
		reading := r.Injections[i].Readings["a"]
		if *reading.Amount != *reading.Concentration || len(reading.Terms) != 1 {
			t.Errorf("%+v", reading)
		}
	}
	if v := r.Samples[0].Values["a"]; v.N != 2 || v.CI95 == nil {
		t.Errorf("%+v", v)
	}
	for _, n := range r.Notices {
		if n.Kind == checks.NoSampleAmount {
			t.Errorf("%+v", n)
		}
	}
	w, _ := Work(Input{Injections: list, Method: m}, r, "u0", "a")
	if w.Unit != "mg/L" || *w.Value != *r.Samples[0].Values["a"].Mean || strings.Contains(w.Text, "extract volume") {
		t.Errorf("%s", w.Text)
	}
	m.Amounts.PercentOfTotal = true
	if err := m.Validate(); err == nil {
		t.Error("as measured and in percent of the total at once")
	}
}
