package batch

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"yugen/core/checks"
	"yugen/core/curves"
)

func own(m *Method, id string, o Own) {
	if m.Curves.Own == nil {
		m.Curves.Own = map[string]Own{}
	}
	m.Curves.Own[id] = o
}

func reading(t *testing.T, list []Injection, m Method, injectionID, compoundID string) Reading {
	t.Helper()
	r := processed(t, list, m, nil)
	i := slices.IndexFunc(list, func(in Injection) bool { return in.ID == injectionID })
	return r.Injections[i].Readings[compoundID]
}

// An injection that got twice the internal standard has half the ratio; its own amount puts that right, in samples and in standards.
func TestTheInternalStandardsAmountIsThatOfTheInjection(t *testing.T) {
	list, m := run(t), method()
	for _, k := range []int{2, 6} { // a standard and a sample whose internal standard is said to be another
		list[k].Internal = ptr(50.0)
	}
	r := processed(t, list, m, nil)
	// The traces hold as much as before, so what is told to hold twice the standard reads twice.
	near(t, "sample", r.Injections[6].Readings["a"].Concentration, 60, 8)
	for _, q := range r.Curves[0].Points {
		if q.InjectionID == "s2" && (q.Level != 20 || q.X != 10) {
			t.Errorf("%+v", q)
		}
	}
	for i := range list {
		list[i].Internal = ptr(50.0)
	}
	near(t, "all alike", processed(t, list, m, nil).Injections[6].Readings["a"].Concentration, 30, 0.5)
}

func TestARelativeResponseFactorBorrowsACurve(t *testing.T) {
	m := method()
	own(&m, "b", Own{RelativeTo: "a", ResponseFactor: perUnitB / perUnitA})
	r := reading(t, run(t), m, "u0", "b")
	near(t, "b by the curve of a", r.Concentration, 150, 0.5)
	for _, bad := range []Own{{RelativeTo: "b", ResponseFactor: 1}, {RelativeTo: "a"}, {RelativeTo: "is", ResponseFactor: 1}, {RelativeTo: "nobody", ResponseFactor: 1}} {
		own(&m, "b", bad)
		if err := m.Validate(); err == nil {
			t.Errorf("%+v is taken", bad)
		}
	}
}

// The detector loses a tenth between the first and the second calibration; the sample stands a quarter of the way.
func TestBracketsInRunOrder(t *testing.T) {
	m := method()
	m.Compounds = m.Compounds[:2] // without internal standard, so that the loss shows
	levels := []float64{5, 20, 50}
	var list []Injection
	block := func(name string, sensitivity float64) {
		for _, l := range levels {
			list = append(list, injection(t, name+string(rune('0'+int(l/5))), "Standard", Standard, ptr(l), l, l, sensitivity))
		}
	}
	block("x", 1)
	for k := range 4 {
		list = append(list, injection(t, "u"+string(rune('0'+k)), "Leaf"+string(rune('0'+k)), Sample, nil, 30, 30, 1-0.1*float64(k+2)/7))
	}
	block("y", 0.9)
	first := 3 // the first sample, between positions 1 and 8
	m.Curves.Brackets = BetweenOfBracket
	for k := range 4 {
		near(t, "interpolated", processed(t, list, m, nil).Injections[first+k].Readings["a"].Concentration, 30, 0.6)
	}
	m.Curves.Brackets = MeanOfBrackets
	r := processed(t, list, m, nil)
	response := *r.Injections[first].Readings["a"].Response
	blocks := r.Curves[0].Blocks
	if len(blocks) != 2 || blocks[0].Position != 1 || blocks[1].Position != 8 {
		t.Fatalf("%+v", blocks)
	}
	a, _ := blocks[0].Fit.Read([]float64{response})
	b, _ := blocks[1].Fit.Read([]float64{response})
	near(t, "mean", r.Injections[first].Readings["a"].Concentration, (a.X+b.X)/2, 1e-9)
	// A result that was kept and read again has lost nothing that a working needs.
	raw, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	var kept Result
	if err := json.Unmarshal(raw, &kept); err != nil {
		t.Fatal(err)
	}
	if w, ok := Work(Input{Injections: list, Method: m}, kept, "u0", "a"); !ok || !strings.Contains(w.Text, "Mean of the two: 0.5000 × ") || strings.Count(w.Text, "Read from the curve") != 2 {
		t.Errorf("%s", w.Text)
	}
}

func TestStandardAdditionFindsWhatTheSampleHeld(t *testing.T) {
	m := method()
	m.Curves.Way = ByAddition
	var list []Injection
	for k, added := range []float64{0, 10, 20, 30} {
		in := injection(t, "u"+string(rune('0'+k)), "Leaf", Sample, nil, 30+added, 12+added, 1)
		in.Added, in.Volume, in.Sample = ptr(added), ptr(50.0), ptr(0.25)
		list = append(list, in)
	}
	r := processed(t, list, m, nil)
	near(t, "a", r.Injections[2].Readings["a"].Concentration, 30, 0.5)
	near(t, "b", r.Injections[0].Readings["b"].Concentration, 12, 0.5)
	near(t, "amount", r.Samples[0].Values["a"].Mean, 30*0.05/0.25, 0.5)
	if v := r.Samples[0].Values["a"]; v.N != 1 || r.Injections[0].Readings["a"].ConcentrationSE == nil {
		t.Errorf("%+v: the four injections are one result", v)
	}
	for _, n := range r.Notices {
		if n.Kind == checks.NoCurve {
			t.Errorf("standard addition needs no standards: %+v", n)
		}
	}
}

// Two mixtures of standards share their levels; each holds one of the compounds.
func TestMixturesOfStandardsHoldTheirOwnCompounds(t *testing.T) {
	m := method()
	m.Compounds[0].Mix, m.Compounds[1].Mix = "M1", "M2"
	list := run(t)[5:]
	for i, level := range []float64{1, 5, 20, 50, 100} {
		one, two := injection(t, "p"+string(rune('0'+i)), "Mix 1", Standard, ptr(level), level, 0, 1), injection(t, "q"+string(rune('0'+i)), "Mix 2", Standard, ptr(level), 0, level, 1)
		one.Mix, two.Mix = "M1", "M2"
		list = append(list, one, two)
	}
	r := processed(t, list, m, nil)
	for _, c := range r.Curves {
		if len(c.Points) != 5 {
			t.Errorf("%s stands on %d points", c.CompoundID, len(c.Points))
		}
	}
	for _, n := range r.Notices {
		if n.Kind == checks.NotFound {
			t.Errorf("%+v: it is not in that mixture", n)
		}
	}
}

func TestALevelIsLeftOutOrKept(t *testing.T) {
	in := Input{Injections: run(t), Method: method()}
	in.Choices.Levels = map[string][]LevelState{"a": {{Level: 100, State: LevelLeftOut, Reason: "too high for us"}}}
	c := chosen(t, in, nil).Curves[0]
	if last := c.Points[4]; !last.LeftOut || last.Reason != "too high for us" || c.Fit.HighX != 50 {
		t.Errorf("%+v", last)
	}
	in.Choices.Levels = map[string][]LevelState{"a": {{Level: 100, State: LevelKept, From: "Last week", Kept: []KeptPoint{{InjectionID: "earlier", X: 100, Response: 4.2}}}}}
	c = chosen(t, in, nil).Curves[0]
	if last := c.Points[4]; !last.Kept || last.KeptFrom != "Last week" || last.Response != 4.2 || last.LeftOut || len(c.Points) != 5 {
		t.Errorf("%+v", last)
	}
	for what, c := range map[string]Choices{
		"a reason has at most 500": {LeftOut: map[string][]LeftOut{"a": {{"s1", strings.Repeat("x", 501)}}}},
		"at most 5000 are kept":    {Levels: map[string][]LevelState{"a": {{Level: 5, State: LevelKept, Kept: make([]KeptPoint, 5001)}}}},
	} {
		if err := c.Validate(); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%v, want %q", err, what)
		}
	}
	in.Choices.Levels["a"][0].State = "resting"
	if _, err := Process(t.Context(), in, nil); err == nil || !strings.Contains(err.Error(), "left_out or kept") {
		t.Errorf("%v", err)
	}
}

// What a method once said of injections and levels, in the words of then, is read as the choices of its batch in the words of today.
func TestEarlierMethodsGiveUpTheirChoices(t *testing.T) {
	c, err := LiftChoices([]byte(`{"curves":{"own":{"a":{"left_out":[{"injection_id":"s1","reason":"cap"}],"levels":[{"level":5,"state":"off","reason":"a"},{"level":20,"state":"frozen","kept":[{"injection_id":"i","x":20,"response":1}],"reason":"b"}]},"b":{"model":"linear"}}}}`))
	if err != nil {
		t.Fatal(err)
	}
	levels := c.Levels["a"]
	if levels[0].State != LevelLeftOut || levels[1].State != LevelKept || levels[1].Kept[0].Response != 1 || c.LeftOut["a"][0].Reason != "cap" || len(c.Levels) != 1 || len(c.LeftOut) != 1 {
		t.Errorf("%+v", c)
	}
	if text, err := json.Marshal(c); err != nil || strings.Contains(string(text), "frozen") || strings.Contains(string(text), `"off"`) {
		t.Errorf("%s %v", text, err)
	}
}

func TestTheOrderOfFilesHasNoEffectOnACurve(t *testing.T) {
	list := run(t)
	want := processed(t, list, method(), nil).Curves
	shuffled := slices.Clone(list)
	rand.New(rand.NewPCG(1, 2)).Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
	for k, c := range processed(t, shuffled, method(), nil).Curves {
		for i, b := range c.Fit.Coefficients {
			if math.Abs(b-want[k].Fit.Coefficients[i]) > 1e-12*math.Abs(want[k].Fit.Coefficients[1]) {
				t.Errorf("%s: %v, in order %v", c.CompoundID, c.Fit.Coefficients, want[k].Fit.Coefficients)
			}
		}
	}
}

func TestUncertaintyTermByTerm(t *testing.T) {
	list, m := run(t), method()
	plain := reading(t, list, m, "u0", "a")
	m.Amounts.VolumePercent, m.Amounts.SamplePercent, m.Amounts.DilutionPercent = 0.3, 0.4, 1.2
	r := reading(t, list, m, "u0", "a")
	calibration := 100 * *plain.ConcentrationSE / *plain.Concentration
	near(t, "root of the squares", r.AmountSE, *r.Amount/100*math.Sqrt(calibration*calibration+0.3*0.3+0.4*0.4+1.2*1.2), 1e-9)
	if len(r.Terms) != 4 || len(plain.Terms) != 1 || r.Terms[3].Name != "dilution" {
		t.Errorf("%+v", r.Terms)
	}
	// With much of the uncertainty from the preparation the interval is the normal one, 1.96 standard uncertainties.
	if half := (r.AmountCI95[1] - r.AmountCI95[0]) / 2; math.Abs(half/(1.96**r.AmountSE)-1) > 0.01 {
		t.Errorf("%g for a standard uncertainty of %g", half, *r.AmountSE)
	}
}

func TestGroupsAreSums(t *testing.T) {
	list, m := run(t), method()
	m.Compounds[0].Group, m.Compounds[1].Group = "Both", "Both"
	r := processed(t, list, m, nil)
	row := r.Samples[0]
	near(t, "sum", row.Groups["Both"].Mean, *row.Values["a"].Mean+*row.Values["b"].Mean, 1e-9)
	if row.Groups["Both"].N != 2 || row.Groups["Both"].CI95 == nil {
		t.Errorf("%+v", row.Groups)
	}
	w, ok := Work(Input{Injections: list, Method: m}, r, "u0", GroupPrefix+"Both")
	if !ok || *w.Value != *row.Groups["Both"].Mean || !strings.Contains(w.Text, "Sum of Both: A 12.") {
		t.Errorf("%s", w.Text)
	}
	if _, ok := Work(Input{Injections: list, Method: m}, r, "u0", GroupPrefix+"Neither"); ok {
		t.Error("a group that is not there has a working")
	}
}

func TestPercentOfTheTotal(t *testing.T) {
	list, m := run(t), method()
	m.Amounts.PercentOfTotal = true
	r := processed(t, list, m, nil)
	a, b := r.Samples[0].Values["a"].Mean, r.Samples[0].Values["b"].Mean
	near(t, "a and b", ptr(*a+*b), 100, 1e-9)
	near(t, "a", r.Injections[6].Readings["a"].Amount, 100*30.0/180, 0.5)
	for _, n := range r.Notices {
		if n.Kind == checks.NoSampleAmount {
			t.Error("a share needs no weight")
		}
	}
}

func TestChosenLimitsAreUsed(t *testing.T) {
	list, m := run(t), method()
	list[6] = injection(t, "u0", "Leaf", Sample, nil, 0.4, 3, 1)
	own(&m, "a", Own{Limits: &LimitChoice{LOD: 0.6, LOQ: 2, Way: curves.ByBlanks, Reason: "five days"}})
	own(&m, "b", Own{Limits: &LimitChoice{LOD: 0.6, LOQ: 4, Way: curves.ByBlanks, Reason: "five days"}})
	r := processed(t, list, m, nil)
	if f := r.Injections[6].Readings["a"].Flags; !slices.Contains(f, NotDetected) || slices.Contains(f, BelowRange) {
		t.Errorf("%v", f)
	}
	if f := r.Injections[6].Readings["b"].Flags; !slices.Contains(f, BelowRange) {
		t.Errorf("%v", f)
	}
	if c := r.Curves[0]; *c.LOD != 0.6 || *c.LOQ != 2 || len(c.Limits) != len(curves.LimitWays) {
		t.Errorf("%+v", c.Limits)
	}
	m.Curves.Own["a"] = Own{Limits: &LimitChoice{LOD: 3, LOQ: 2}}
	if m.Validate() == nil {
		t.Error("a quantitation limit below the detection limit is taken")
	}
}

func TestSuitabilityIsJudged(t *testing.T) {
	list, m := run(t), method()
	for k, s := range []float64{1, 1.002, 0.93} {
		list = append(list, injection(t, "f"+string(rune('0'+k)), "Suitability", Suitability, nil, 20, 20, s))
	}
	m.Checks.Suitability = []checks.Suitability{
		{Measure: checks.AreaRSD, CompoundID: "a", High: ptr(2.0)},
		{Measure: checks.Tailing, High: ptr(1.5)},
		{Measure: checks.Plates, CompoundID: "b", Low: ptr(1e6)},
	}
	r := processed(t, list, m, nil)
	failed := map[string]bool{}
	for _, n := range r.Notices {
		if strings.HasPrefix(string(n.Kind), string(checks.Unsuitable)) {
			failed[n.CompoundID+" "+n.Text] = true
		}
	}
	if len(failed) != 2 {
		t.Errorf("%v", failed)
	}
	passed := 0
	for _, o := range r.Outcomes {
		if o.Kind == checks.Unsuitable && o.Passed() {
			passed++
			if o.Measure == "tailing" && (o.Count != 3 || math.Abs(o.Value-1) > 0.1) {
				t.Errorf("%+v", o)
			}
		}
	}
	if passed != 3 { // tailing of the two compounds and the internal standard
		t.Errorf("%d passed", passed)
	}
	m.Checks.Suitability = []checks.Suitability{{Measure: "beauty", High: ptr(2.0)}}
	if m.Validate() == nil {
		t.Error("a limit on nothing known is taken")
	}
}

// Every check is told with its numbers, passed or not.
func TestOutcomesOfAllChecks(t *testing.T) {
	list, m := run(t), method()
	list = append(list, injection(t, "z", "Blank", Blank, nil, 0.5, 0, 0.01))
	r := processed(t, list, m, nil)
	got := map[checks.Kind]checks.Outcome{}
	for _, o := range r.Outcomes {
		if o.CompoundID == "b" || o.CompoundID == "is" {
			got[o.Kind] = o
		}
	}
	if o := got[checks.Recovery]; o.Count != 2 || o.Outside != 1 || math.Abs(o.Value-80) > 1 || o.InjectionID != "k2" {
		t.Errorf("%+v", o)
	}
	if o := got[checks.InternalDrift]; !o.Passed() || o.Count < 9 {
		t.Errorf("%+v", o)
	}
	if o := got[checks.CarryOver]; !o.Passed() || o.Count != 1 {
		t.Errorf("%+v", o)
	}
}

func TestMassBecomesAmountOfSubstance(t *testing.T) {
	list, m := run(t), method()
	m.Amounts.Unit = "µmol/g"
	if err := m.Validate(); err == nil || !strings.Contains(err.Error(), "A has no molar mass") {
		t.Fatalf("%v", err)
	}
	m.Compounds[0].MolarMass, m.Compounds[1].MolarMass = 194.19, 180.16
	r := reading(t, list, m, "u0", "a")
	near(t, "µmol/g", r.Amount, 30*2*0.05/0.25/194.19*1000, 0.5)
	m.Curves.Unit, m.Amounts.Unit = "mmol/L", "mg/g"
	near(t, "and back", reading(t, list, m, "u0", "a").Amount, 30*2*0.05/0.25*194.19, 0.5)
	m.Amounts.Unit = "mL/g"
	if m.Validate() == nil {
		t.Error("a molar mass gives no volume")
	}
}

func TestResolutionToANamedPeak(t *testing.T) {
	list, m := run(t), method()
	m.Compounds[1].MinResolution, m.Compounds[1].ResolutionTo = 30, "is" // 1.18 · 2 min / (2 · 0.118 min) = 20
	r := processed(t, list, m, nil)
	found := false
	for _, o := range r.Outcomes {
		if o.Kind == checks.LowResolution && o.CompoundID == "b" {
			found = true
			if o.Measure != "resolution to IS" || math.Abs(o.Value-10.02) > 0.3 || o.Passed() {
				t.Errorf("%+v", o)
			}
		}
	}
	if !found {
		t.Error("it was not judged")
	}
}
