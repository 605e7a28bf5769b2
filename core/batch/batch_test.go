package batch

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/signal"
)

// The batch of these tests has two compounds and an internal standard, as Gaussians of known area on little noise.
const (
	apexA, apexB, apexIS = 2.0, 4.0, 6.0
	perUnitA, perUnitB   = 10.0, 4.0
	standardArea         = 200.0
)

func ptr[T any](v T) *T { return &v }

func injection(t *testing.T, id, name string, role Role, level *float64, a, b, sensitivity float64) Injection {
	t.Helper()
	rng := rand.New(rand.NewPCG(uint64(len(id))+7, uint64(id[len(id)-1])))
	y := make([]float64, 5000)
	for i := range y {
		at := float64(i) / 600
		for _, p := range [][2]float64{{apexA, perUnitA * a}, {apexB, perUnitB * b}, {apexIS, standardArea}} {
			d := (at - p[0]) / 0.05
			y[i] += sensitivity * p[1] / (0.05 * 60 * math.Sqrt(2*math.Pi)) * math.Exp(-d*d/2)
		}
		y[i] += 0.002 * rng.NormFloat64()
	}
	tr, err := signal.NewUniform(0, 0.1, y)
	if err != nil {
		t.Fatal(err)
	}
	return Injection{Entry: Entry{ID: id, Name: name, Role: role, Level: level, Dilution: 1, Factor: 1}, Trace: tr, TraceHash: id}
}

func method() Method {
	m := NewMethod()
	m.Channels[0].Peaks.WidthMin = 0.1
	for _, c := range []struct {
		id string
		at float64
	}{{"a", apexA}, {"b", apexB}, {"is", apexIS}} {
		m.Compounds = append(m.Compounds, compounds.Compound{ID: c.id, Name: strings.ToUpper(c.id), ExpectedMin: c.at, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target})
	}
	m.Compounds[2].Role, m.Compounds[2].Amount = compounds.InternalStandard, 25
	return m
}

func run(t *testing.T) []Injection {
	t.Helper()
	list := []Injection{}
	for i, level := range []float64{1, 5, 20, 50, 100} {
		list = append(list, injection(t, fmt.Sprintf("s%d", i), fmt.Sprintf("Standard %g", level), Standard, ptr(level), level, level, 1+0.01*float64(i)))
	}
	list = append(list, injection(t, "k1", "Check", Check, ptr(20.0), 20, 20, 1))
	for i, content := range []float64{30, 30.3} {
		in := injection(t, fmt.Sprintf("u%d", i), "Leaf", Sample, nil, content, 150, 0.97)
		in.Dilution, in.Volume, in.Sample = 2, ptr(50.0), ptr(0.25)
		list = append(list, in)
	}
	bad := injection(t, "k2", "Check", Check, ptr(20.0), 20, 16, 1)
	return append(list, bad)
}

func processed(t *testing.T, list []Injection, m Method, c *Cache) Result {
	t.Helper()
	return chosen(t, Input{Injections: list, Method: m}, c)
}

func chosen(t *testing.T, in Input, c *Cache) Result {
	t.Helper()
	r, err := Process(context.Background(), in, c)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

func near(t *testing.T, what string, got *float64, want, percent float64) {
	t.Helper()
	if got == nil || math.Abs(*got-want) > percent/100*math.Abs(want) {
		t.Errorf("%s: got %v, want %g", what, deref(got), want)
	}
}

func deref(v *float64) any {
	if v == nil {
		return "nothing"
	}
	return *v
}

func TestAmountsFromPeaksToUnits(t *testing.T) {
	list := run(t)
	r := processed(t, list, method(), nil)
	leaf := r.Injections[6].Readings["a"]
	near(t, "concentration", leaf.Concentration, 30, 0.5)
	near(t, "amount in mg/g", leaf.Amount, 30*2*0.05/0.25, 0.5) // mg/L · dilution · L / g
	row := r.Samples[0]
	if len(r.Samples) != 1 || row.Name != "Leaf" || row.Values["a"].N != 2 {
		t.Fatalf("samples %+v", r.Samples)
	}
	near(t, "mean", row.Values["a"].Mean, 30.15*2*0.05/0.25, 0.5)
	near(t, "RSD", row.Values["a"].RSD, 0.704, 25)
}

func TestTheInternalStandardTakesSensitivityOut(t *testing.T) {
	list := run(t)
	m := method()
	with := processed(t, list, m, nil).Injections[6].Readings["a"]
	m.Compounds = m.Compounds[:2]
	without := processed(t, list, m, nil).Injections[6].Readings["a"]
	near(t, "with it", with.Concentration, 30, 0.5)
	if math.Abs(*without.Concentration-30) < 0.5 {
		t.Errorf("without it the lost sensitivity should show, but it reads %g", *without.Concentration)
	}
}

func TestFlagsAndNotices(t *testing.T) {
	list := run(t)
	list[7].Sample = nil
	r := processed(t, list, method(), nil)
	b := r.Injections[6].Readings["b"]
	if !slices.Contains(b.Flags, AboveRange) || !slices.Contains(b.Flags, CheckDrift) {
		t.Errorf("150 mg/L beside a failed check: flags %v", b.Flags)
	}
	if slices.Contains(r.Injections[6].Readings["a"].Flags, CheckDrift) {
		t.Error("the checks of a are good")
	}
	near(t, "recovery", r.Injections[8].Readings["b"].Recovery, 80, 1)
	keys := []string{}
	for _, n := range r.Notices {
		keys = append(keys, n.Key)
	}
	slices.Sort(keys)
	if want := []string{"above_range/u0/b", "check/k2/b", "no_sample_amount/u1/"}; !slices.Equal(keys, want) {
		t.Errorf("notices %v, want %v", keys, want)
	}
}

func TestAPointLeftOutAndARangeChangeTheCurve(t *testing.T) {
	list := run(t)
	m := method()
	all := processed(t, list, m, nil).Curves[0]
	m.Curves.Own = map[string]Own{"a": {HighX: ptr(50.0), Model: curves.LinearOrigin}}
	some := chosen(t, Input{Injections: list, Method: m, Choices: Choices{LeftOut: map[string][]LeftOut{"a": {{"s1", "cap leaked"}}}}}, nil).Curves[0]
	if all.Fit.DegreesOfFreedom != 3 || some.Fit.DegreesOfFreedom != 2 || some.Fit.HighX != 50 || some.Fit.Model != curves.LinearOrigin {
		t.Errorf("fits %+v %+v", all.Fit, some.Fit)
	}
	if p := some.Points[1]; !p.LeftOut || p.Reason != "cap leaked" || some.Fit.Points[1].DeviationPercent == nil {
		t.Errorf("the point left out: %+v", p)
	}
	if p := some.Points[4]; p.InRange {
		t.Errorf("100 is outside a range to 50: %+v", p)
	}
}

// A result is a pure function of its inputs: neither the cache, nor running twice, nor the order of the method's compounds
// changes a byte.
func TestSameInputsSameBytes(t *testing.T) {
	list := run(t)
	bytes := func(r Result) string {
		b, err := json.Marshal(r)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	want := bytes(processed(t, list, method(), nil))
	var c Cache
	for range 3 {
		if got := bytes(processed(t, list, method(), &c)); got != want {
			t.Fatal("the cache changed the result")
		}
	}
	turned := method()
	slices.Reverse(turned.Compounds)
	r := processed(t, list, turned, &c)
	near(t, "turned compounds", r.Injections[6].Readings["a"].Concentration, *processed(t, list, method(), nil).Injections[6].Readings["a"].Concentration, 1e-12)
}

func TestWorkingLeadsToTheReportedNumber(t *testing.T) {
	list := run(t)
	m := method()
	r := processed(t, list, m, nil)
	w, ok := Work(Input{Injections: list, Method: m}, r, "u0", "a")
	if !ok || len(w.Steps) != 6 {
		t.Fatalf("%v %+v", ok, w)
	}
	near(t, "its value", w.Value, *r.Samples[0].Values["a"].Mean, 1e-12)
	if w.Unit != "mg/g" || w.Steps[0].Top[0].Link == nil || w.Steps[0].Top[0].Link.InjectionID != "u0" || len(w.Steps[0].Bottom) != 1 {
		t.Errorf("first step %+v", w.Steps[0])
	}
	above, _ := Work(Input{Injections: list, Method: m}, r, "u0", "b")
	if len(above.Doubts) == 0 || !strings.Contains(above.Doubts[0], "Beyond the highest standard in use, 100 mg/L") {
		t.Errorf("doubts %v", above.Doubts)
	}
	if _, ok := Work(Input{Injections: list, Method: m}, r, "nobody", "a"); ok {
		t.Error("worked on an injection that is not there")
	}
}

func TestEmptyAndCancelled(t *testing.T) {
	if r := processed(t, nil, NewMethod(), nil); len(r.Injections) != 0 || r.Curves == nil || r.Notices == nil {
		t.Errorf("an empty batch: %+v", r)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := Process(ctx, Input{Injections: run(t), Method: method()}, nil); err != context.Canceled {
		t.Errorf("cancelled: %v", err)
	}
}

func TestMethodsAreRefusedInASentence(t *testing.T) {
	for want, change := range map[string]func(*Method){
		"cannot be reported in mg/L":                             func(m *Method) { m.Amounts.Unit = "mg/L" },
		"the model \"cubic\" is unknown":                         func(m *Method) { m.Curves.Model = "cubic" },
		"A is read against \"b\", which is no internal standard": func(m *Method) { m.Compounds[0].Against = "b" },
		"the range from 9 to 3 is empty":                         func(m *Method) { m.Curves.Own = map[string]Own{"a": {LowX: ptr(9.0), HighX: ptr(3.0)}} },
		"the response \"colour\" is unknown":                     func(m *Method) { m.Curves.Response = "colour" },
	} {
		m := method()
		change(&m)
		if err := m.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %s", err, want)
		}
	}
}

func TestEntriesAreReadAsPeopleWriteThem(t *testing.T) {
	e := Entry{Dilution: 1, Factor: 1}
	for _, c := range []struct {
		field Field
		text  string
	}{{FieldDilution, "×5"}, {FieldSample, "0,2029"}, {FieldRole, "Sample"}, {FieldLevel, "60"}, {FieldVolume, " 50 "}} {
		if err := e.Set(c.field, c.text); err != nil {
			t.Errorf("%s %q: %v", c.field, c.text, err)
		}
	}
	if e.Dilution != 5 || *e.Sample != 0.2029 || e.Role != Sample || *e.Level != 60 || *e.Volume != 50 {
		t.Errorf("%+v", e)
	}
	for text, want := range map[string]Role{"Std": Standard, "QC": Check, "unknown": Sample, "BLK": Blank, "Probe": Sample, "étalon": Standard, "sam": Sample, "su": Suitability, "c": Check, "": NoRole, "none": NoRole} {
		o := Entry{}
		if err := o.Set(FieldRole, text); err != nil || o.Role != want {
			t.Errorf("%q is read as %q, want %q, %v", text, o.Role, want, err)
		}
	}
	if err := new(Entry).Set(FieldRole, "s"); err == nil || !strings.Contains(err.Error(), "could be standard or sample") {
		t.Errorf("%v", err)
	}
	if err := e.Set(FieldLevel, ""); err != nil || e.Level != nil {
		t.Error("empty text clears a level")
	}
	for field, text := range map[Field]string{FieldSample: "-1", FieldDilution: "0", FieldRole: "king", FieldName: "", FieldVolume: "NaN", "colour": "red"} {
		before := e
		if err := e.Set(field, text); err == nil || !reflect.DeepEqual(e, before) {
			t.Errorf("%s %q was taken", field, text)
		}
	}
}

func TestSignificant(t *testing.T) {
	for want, c := range map[string]struct {
		v float64
		n int
	}{"77.5": {77.4601, 3}, "−0.00160": {-0.0015952, 3}, "1235": {1235.2, 4}, "0": {0, 3}, "8.7e−05": {8.6872e-5, 2}, "1.2e+08": {1.23e8, 2}} {
		if got := Significant(c.v, c.n); got != want {
			t.Errorf("%g to %d: %s, want %s", c.v, c.n, got, want)
		}
	}
}

// The curve is whole on a logarithmic axis too: between any two neighbouring levels there are points of it.
func TestTheDrawnCurveIsWholeOnEitherAxis(t *testing.T) {
	fit, err := curves.New([]curves.Point{{X: 0.01, Y: 1}, {X: 1, Y: 100}, {X: 100, Y: 1e4}, {X: 1000, Y: 1e5}}, curves.Linear, curves.Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	drawn := line(fit, 0.01, 1000)
	for _, gap := range [][2]float64{{0.006, 0.01}, {0.01, 1}, {1, 100}, {100, 1000}} {
		n := 0
		for _, p := range drawn {
			if p.X > gap[0] && p.X < gap[1] {
				n++
			}
		}
		if n < 3 {
			t.Errorf("between %g and %g there are %d points", gap[0], gap[1], n)
		}
	}
	if !slices.IsSortedFunc(drawn, func(a, b LinePoint) int { return cmp.Compare(a.X, b.X) }) {
		t.Error("the points are not in order")
	}
}

// One odd trace does not take the others with it: what panics or cannot be integrated is told of its injection, and the batch goes on.
func TestAnOddTraceFailsAlone(t *testing.T) {
	list := run(t)
	want := processed(t, list, method(), nil)
	broken := injection(t, "z9", "Broken", Sample, nil, 10, 10, 1)
	broken.Trace.Values = broken.Trace.Values[:3] // as a trace that lost its points
	odd := injection(t, "z8", "Odd", Sample, nil, 10, 10, 1)
	odd.Trace.TimesS = []float64{1} // its times and values are of different lengths: whoever reads on panics
	r := processed(t, append(slices.Clone(list), broken, odd), method(), &Cache{})
	for i := range list {
		a, _ := json.Marshal(want.Injections[i].Peaks)
		b, _ := json.Marshal(r.Injections[i].Peaks)
		if string(a) != string(b) {
			t.Errorf("%s has other peaks", list[i].ID)
		}
	}
	for i, id := range map[int]string{9: "z9", 10: "z8"} {
		in := r.Injections[i]
		if in.ID != id || in.Problem == "" || len(in.Peaks) != 0 || in.Readings["a"].Concentration != nil {
			t.Errorf("%s: %+v", id, in)
		}
		if !slices.ContainsFunc(r.Notices, func(n checks.Notice) bool {
			return n.InjectionID == id && strings.HasPrefix(n.Text, "could not be integrated: ")
		}) {
			t.Errorf("nobody says that %s could not be integrated", id)
		}
	}
}

// A trace with a long gap is integrated on both sides of it.
func TestATraceWithAGapIsIntegratedInStretches(t *testing.T) {
	in := injection(t, "g", "Gap", Sample, nil, 20, 20, 1)
	var times, values []float64
	for i, v := range in.Trace.Values {
		at := in.Trace.TimeS(i)
		if i >= 1800 {
			at += 1000
		}
		times, values = append(times, at), append(values, v)
	}
	tr, err := signal.New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	in.Trace = tr
	m := method()
	m.Compounds[1].ExpectedMin, m.Compounds[2].ExpectedMin = apexB+1000.0/60, apexIS+1000.0/60
	r := processed(t, []Injection{in}, m, nil)
	peaks := r.Injections[0].Peaks
	if len(peaks) != 3 {
		t.Fatalf("%d peaks, %q", len(peaks), r.Injections[0].Problem)
	}
	for i, want := range []float64{perUnitA * 20, perUnitB * 20, standardArea} {
		near(t, peaks[i].CompoundID, &peaks[i].AreaS, want, 0.5)
		if peaks[i].Number != i+1 {
			t.Errorf("peak %d has the number %d", i+1, peaks[i].Number)
		}
	}
}
