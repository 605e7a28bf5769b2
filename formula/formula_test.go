package formula

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/quantities"
)

func ptr[T any](v T) *T { return &v }

// made is a batch of a blank, a standard, two replicates of a sample and a check, with two compounds; caffeine is missing in the blank, and amounts are given.
func made() (*quantities.Batch, quantities.Register, []string) {
	m := batch.NewMethod()
	m.Compounds = []compounds.Compound{{ID: "caf", Name: "Caffeine", Role: compounds.Target}, {ID: "ec", Name: "EC", Role: compounds.Target}}
	peak := func(id string, min, area float64) batch.NamedPeak {
		return batch.NamedPeak{Peak: peaks.Peak{ApexMin: min, AreaS: area, Height: area / 10, MoreMeasures: &peaks.MoreMeasures{}}, CompoundID: id}
	}
	reading := func(amount float64) batch.Reading { return batch.Reading{Amount: &amount, Flags: []batch.Flag{}} }
	in := []batch.Injected{
		{ID: "1", Integrated: batch.Integrated{Unit: "mAU"}, Readings: map[string]batch.Reading{"caf": {Flags: []batch.Flag{batch.NotFound}}, "ec": {Flags: []batch.Flag{}}}},
		{ID: "2", Integrated: batch.Integrated{Unit: "mAU", Peaks: []batch.NamedPeak{peak("caf", 8, 100), peak("ec", 10, 50)}}, Readings: map[string]batch.Reading{}},
		{ID: "3", Integrated: batch.Integrated{Unit: "mAU", NoiseSD: 0.5, Peaks: []batch.NamedPeak{peak("caf", 8.1, 200), peak("ec", 10, 40), peak("", 12, 10)}}, Readings: map[string]batch.Reading{"caf": reading(10), "ec": reading(4)}},
		{ID: "4", Integrated: batch.Integrated{Unit: "mAU", Peaks: []batch.NamedPeak{peak("caf", 8.2, 220)}}, Readings: map[string]batch.Reading{"caf": reading(12)}},
		{ID: "5", Integrated: batch.Integrated{Unit: "mAU"}, Readings: map[string]batch.Reading{"caf": {Recovery: ptr(87.0), Flags: []batch.Flag{}}}},
	}
	b := &quantities.Batch{Name: "B", Method: m, Result: batch.Result{Injections: in}}
	for k, e := range []batch.Entry{{Name: "Blank", Role: batch.Blank}, {Name: "Std", Role: batch.Standard}, {Name: "Tea", Role: batch.Sample, Sample: ptr(0.2), Dilution: 2}, {Name: "Tea", Role: batch.Sample}, {Name: "Check", Role: batch.Check}} {
		b.Injections = append(b.Injections, quantities.Row{Batch: b, Number: k + 1, Entry: e, Injected: &in[k], Recorded: []quantities.Recorded{{Name: "Pump pressure", Unit: "bar", Least: 100, Most: 180 + float64(k), Mean: 150}}})
	}
	return b, quantities.For(m, nil, "mAU"), []string{"Caffeine", "EC"}
}

func field(lives, formula string) batch.LabField {
	return batch.LabField{Name: "It", Short: "it", Lives: lives, Formula: formula}
}

// row is where a field that lives somewhere is looked at: the first replicate of the tea, its caffeine.
func row(b *quantities.Batch, lives string) quantities.Row {
	r := b.Injections[2]
	switch lives {
	case "batch":
		return quantities.Row{Batch: b}
	case "compound", "peak", "sample":
		return r.Of(&b.Method.Compounds[0])
	}
	return r
}

func TestFormulasCompute(t *testing.T) {
	b, register, names := made()
	for _, c := range []struct {
		lives, formula, unit string
		want                 any // a number, a text, or an error as why
	}{
		{"batch", `count(injections, .role == "sample")`, "", 2.0},
		{"batch", `len(injections)`, "", 5.0},
		{"injection", `sum(peaks, .area_s)`, "mAU·s", 250.0},
		{"injection", `100 * sum(filter(peaks, .compound != ""), .area_s) / sum(peaks, .area_s)`, "", 96.0},
		{"injection", `compound("caffeine").amount + compound("EC").amount`, "mg/g", 14.0},
		{"injection", `compound("EC").retention_min - compound("Caffeine").retention_min`, "min", 1.9},
		{"injection", `trace("pump pressure").most`, "", 182.0},
		{"injection", `traces[0].mean + 1`, "", 151.0},
		{"injection", `noise * 3`, "mAU", 1.5},
		{"injection", `dilution == 2 ? sample * 2 : sample`, "g", 0.4},
		{"injection", `name + " " + role`, "", "Tea sample"},
		{"injection", `upper(name) in ["TEA", "COCOA"]`, "", "pass"},
		{"injection", `not (name contains "ea") or peaks_found > 5`, "", "fail"},
		{"compound", `area_s / compound("EC").area_s`, "", 5.0},
		{"compound", `rsd(map(replicates, .amount))`, "%", 100 * math.Sqrt2 / 11},
		{"compound", `sd(map(replicates, .amount))`, "mg/g", math.Sqrt2},
		{"compound", `retention_min - first(filter(run, .role == "standard")).retention_min`, "min", 0.1},
		{"compound", `area_s ^ 2 / height`, "mAU·s^2", 2000.0},
		{"batch", `max(map(filter(injections, .role == "check"), abs(.compound("Caffeine").recovery_percent - 100)))`, "%", 13.0},
		{"batch", `all(filter(injections, .role == "check"), abs(.compound("Caffeine").recovery_percent - 100) <= 10)`, "", "fail"},
		{"batch", `median(map(injections, .peaks_found))`, "", 1.0},
		{"batch", `let n = count(injections, .role == "sample"); n * n`, "", 4.0},
		{"injection", `injections[-1].name`, "", "Check"},
		{"injection", `compound("EC").amount ?? 0`, "mg/g", 4.0},
		// What is not there is absent, with why; it is never zero and never infinite.
		{"injection", `1 / (dilution - 2)`, "", fmt.Errorf("divided by zero")},
		{"injection", `dilution % 0`, "", fmt.Errorf("divided by zero")},
		{"injection", `(0 - 1) ^ 0.5`, "", fmt.Errorf("not a finite number")},
		{"injection", `10 ^ 400`, "", fmt.Errorf("not a finite number")},
		{"injection", `volume * 2`, "mL", fmt.Errorf("there is no extract in Tea")},
		{"injection", `injections[99].name`, "", fmt.Errorf("no place 99")},
		{"injection", `trace("Oven").most`, "", fmt.Errorf("no Oven was recorded in Tea")},
		{"injection", `mean(map(filter(peaks, .area_s > 1000), .area_s))`, "mAU·s", fmt.Errorf("the list is empty")},
		{"injection", `compound("EC").recovery_percent > 5`, "", fmt.Errorf("there is no recovery of EC in Tea")},
		{"batch", `rsd(map(filter(injections, .role == "check"), .noise))`, "%", fmt.Errorf("1 value is too few")},
		{"batch", `count(filter(injections, .compound("Caffeine").amount > 0), true)`, "", 2.0},
	} {
		set := Compile([]batch.LabField{field(c.lives, c.formula)}, register, names)
		if p := set.Problems[0]; p != nil {
			t.Errorf("%s: %s", c.formula, p.Says)
			continue
		}
		if set.Compiled[0].Unit != c.unit {
			t.Errorf("%s is in %q, not %q", c.formula, set.Compiled[0].Unit, c.unit)
		}
		q, _ := set.Register.Find("it")
		v := q.Of(row(b, c.lives))
		isWanted(t, c.formula, v, c.want)
	}
}

// isWanted compares what a formula comes to with a number, a text, or an error as why it is absent.
func isWanted(t *testing.T, formula string, v quantities.Value, want any) {
	t.Helper()
	switch want := want.(type) {
	case float64:
		if v.Number == nil || math.Abs(*v.Number-want) > 1e-12*math.Max(1, math.Abs(want)) {
			t.Errorf("%s is %v %q %s, not %g", formula, v.Number, v.Text, v.Why, want)
		}
	case string:
		if v.Text != want {
			t.Errorf("%s is %q %s, not %q", formula, v.Text, v.Why, want)
		}
	case error:
		if !v.Absent() || !strings.Contains(v.Why, want.Error()) {
			t.Errorf("%s is %v %q, absent for %q; not for %q", formula, v.Number, v.Text, v.Why, want)
		}
	}
}

// A statistic over what is missing in places says of how many it is.
func TestAStatisticSaysOfHowMany(t *testing.T) {
	b, register, names := made()
	set := Compile([]batch.LabField{field("batch", `mean(map(injections, .compound("Caffeine").amount))`)}, register, names)
	q, _ := set.Register.Find("it")
	if v := q.Of(row(b, "batch")); *v.Number != 11 || v.Why != "2 of 5 have a value" {
		t.Errorf("%g, %q", *v.Number, v.Why)
	}
}

// What cannot be understood is said in words, at its place, with what may have been meant.
func TestWhatIsWrongIsSaidAtItsPlace(t *testing.T) {
	_, register, names := made()
	for _, c := range []struct{ lives, formula, at, says, instead string }{
		{"injection", `sum(peaks, .aera_s)`, "aera_s", "There is no aera_s here; area_s is near.", "area_s"},
		{"injection", `compound("Cafeine").amount`, `"Cafeine"`, "no compound Cafeine. Caffeine is near.", "Caffeine"},
		{"injection", `noise + sample`, "+", "g cannot be added to mAU: these are unlike units.", ""},
		{"compound", `amount > area_s`, ">", "unlike units", ""},
		{"compound", `amount + recovery_percent`, "+", "unlike units", ""},
		{"injection", `peaks + 1`, "+", "needs two numbers; here stand a list and a number.", ""},
		{"injection", `noise ? 1 : 2`, "noise", "A condition is true or false", ""},
		{"injection", `sum(peaks, .area_s) +`, "", "ends before it is complete", ""},
		{"injection", `1 + * 2`, "*", `"*" is not expected here.`, ""},
		{"injection", `now()`, "now", "no function now", ""},
		{"injection", `mena(map(peaks, .area_s))`, "mena", "no function mena", "mean"},
		{"injection", `area_s * 2`, "area_s", "area_s is of peak, and this is an injection.", ""},
		{"batch", `peaks`, "peaks", "looks at all injections", "injections"},
		{"batch", `compound("EC").amount`, "compound", "go through injections", ""},
		{"injection", `peaks`, "peaks", "a field is a number, a text, or true or false", ""},
		{"injection", `amount ^ 0.5`, "", "", ""},
		{"compound", `amount ^ 0.5`, "^", "whole number from 0 to 6", ""},
		{"injection", `{"a": 1}`, "", "no use in fields", ""},
		{"injection", `#`, "#", "", ""},
		{"injection", ``, "", "Write a formula.", ""},
		{"injection", strings.Repeat("1+", 300) + "1", "", "too long", ""},
	} {
		set := Compile([]batch.LabField{field(c.lives, c.formula)}, register, names)
		p := set.Problems[0]
		if p == nil {
			t.Errorf("%q was understood", c.formula)
			continue
		}
		r := []rune(c.formula)
		if c.at != "" && (p.From < 0 || p.To > len(r) || string(r[p.From:p.To]) != c.at) {
			t.Errorf("%q: %s stands at %d to %d", c.formula, p.Says, p.From, p.To)
		}
		if !strings.Contains(p.Says, c.says) || c.instead != "" && p.Instead != c.instead {
			t.Errorf("%q: %q, instead %q", c.formula, p.Says, p.Instead)
		}
	}
}

// Fields work on fields; a circle is refused with its path, and a short name that is taken is refused.
func TestFieldsUseFields(t *testing.T) {
	b, register, names := made()
	fields := []batch.LabField{
		{Name: "Share", Short: "share", Lives: "injection", Formula: `100 * named / whole`, Unit: "%"},
		{Name: "Named", Short: "named", Lives: "injection", Formula: `sum(filter(peaks, .compound != ""), .area_s)`},
		{Name: "Whole", Short: "whole", Lives: "injection", Formula: `sum(peaks, .area_s)`},
		{Name: "Mean share", Short: "mean_share", Lives: "batch", Formula: `mean(map(filter(injections, .role == "sample"), .share))`},
		{Name: "Egg", Short: "egg", Lives: "injection", Formula: `hen * 2`},
		{Name: "Hen", Short: "hen", Lives: "injection", Formula: `egg / 2`},
		{Name: "Noise", Short: "noise", Lives: "injection", Formula: `1`},
		{Name: "Sum", Short: "sum", Lives: "injection", Formula: `1`},
	}
	set := Compile(fields, register, names)
	q, _ := set.Register.Find("mean_share")
	if v := q.Of(row(b, "batch")); v.Number == nil || math.Abs(*v.Number-(96+100)/2.0) > 1e-12 || q.Unit != "%" {
		t.Errorf("the mean share is %+v in %s", v, q.Unit)
	}
	if got := strings.Join(set.Compiled[0].Uses, " "); got != "named whole" {
		t.Errorf("the share uses %s", got)
	}
	circle := ""
	for _, k := range []int{4, 5} {
		if set.Problems[k] == nil {
			t.Fatal("a circle was understood")
		}
		circle += set.Problems[k].Says
	}
	if !strings.Contains(circle, "Egg uses Hen uses Egg") {
		t.Errorf("the circle is told as %s", circle)
	}
	for _, k := range []int{6, 7} {
		if set.Problems[k] == nil || !strings.Contains(set.Problems[k].Says, "another short name") {
			t.Errorf("the short name %s was taken twice: %v", fields[k].Short, set.Problems[k])
		}
	}
}

// A formula that would go on for ever ends as absent.
func TestStepsAreBounded(t *testing.T) {
	b, register, names := made()
	for range 400 {
		b.Injections = append(b.Injections, b.Injections[2])
	}
	set := Compile([]batch.LabField{field("batch", `sum(injections, sum(map(injections, .number_of)))`), field("batch", `count(injections, count(injections, count(injections, .role == "sample") > 0) > 0)`)}, register, names)
	if set.Problems[0] == nil {
		t.Error("an unknown quantity within was understood")
	}
	set = Compile([]batch.LabField{field("batch", `count(injections, count(injections, count(injections, .role == "sample") > 0) > 0)`)}, register, names)
	if set.Problems[0] != nil {
		t.Fatal(set.Problems[0].Says)
	}
	q, _ := set.Register.Find("it")
	if v := q.Of(row(b, "batch")); !v.Absent() || !strings.Contains(v.Why, "too many steps") {
		t.Errorf("%+v", v)
	}
}

// The ten examples are understood by any method with two compounds.
func TestExamplesAreUnderstood(t *testing.T) {
	b, register, names := made()
	list := Examples(b.Method)
	set := Compile(list, register, names)
	for k, p := range set.Problems {
		if p != nil {
			t.Errorf("%s: %s", list[k].Name, p.Says)
			continue
		}
		if v, _ := set.Register.Find(list[k].Short); v.Of(row(b, list[k].Lives)).Absent() {
			t.Errorf("%s has no value: %s", list[k].Name, v.Of(row(b, list[k].Lives)).Why)
		}
	}
	m := batch.NewMethod()
	m.Fields = list
	if err := m.Validate(); len(list) != 10 || err != nil {
		t.Errorf("%d examples: %v", len(list), err)
	}
}

// Whatever stands in a formula, it is refused with a place in it or computes to a value that is finite or absent.
func FuzzFormula(f *testing.F) {
	b, register, names := made()
	for _, e := range Examples(b.Method) {
		f.Add(e.Lives, e.Formula)
	}
	f.Add("injection", `let x = peaks[0].area_s; x ?? 1 ** -2 in [1, 2]`)
	f.Add("injection", `map(map(peaks, .area_s), # / 0)[0] ?? sum([])`)
	f.Fuzz(func(t *testing.T, lives, text string) {
		if len(text) > 2000 {
			return
		}
		set := Compile([]batch.LabField{field(lives, text)}, register, names)
		if p := set.Problems[0]; p != nil {
			if p.Says == "" || p.From < 0 || p.To < p.From {
				t.Fatalf("%q: %+v", text, p)
			}
			return
		}
		q, _ := set.Register.Find("it")
		for _, r := range []quantities.Row{row(b, lives), b.Injections[0], {Batch: b}} {
			if v := q.Of(r); v.Number != nil && (math.IsNaN(*v.Number) || math.IsInf(*v.Number, 0)) {
				t.Fatalf("%q is %g", text, *v.Number)
			}
		}
	})
}

// What a filter over all injections finds is kept for other rows only where it does not depend on them: with the own name in it, and with the own compound, it is
// found anew.
func TestFiltersThatDependOnTheRow(t *testing.T) {
	b, register, names := made()
	for _, c := range []struct {
		lives, formula string
		want           map[int][]float64 // by injection, for caffeine and EC, or alone; NaN is none
	}{
		{"injection", `len(filter(injections, .name == name))`, map[int][]float64{0: {1}, 2: {2}, 3: {2}, 4: {1}}},
		{"injection", `len(filter(injections, .name == "Tea"))`, map[int][]float64{0: {2}, 2: {2}, 4: {2}}},
		{"compound", `sum(filter(run, .role == "sample"), .area_s)`, map[int][]float64{1: {420, 40}, 2: {420, 40}, 3: {420, 40}}},
		{"compound", `len(filter(run, .retention_min > 8.15))`, map[int][]float64{1: {1, 2}, 2: {1, 2}}},
		{"compound", `len(filter(run, .retention_min > retention_min))`, map[int][]float64{1: {2, 0}, 2: {1, 0}}},
	} {
		set := Compile([]batch.LabField{field(c.lives, c.formula)}, register, names)
		if set.Problems[0] != nil {
			t.Errorf("%s: %s", c.formula, set.Problems[0].Says)
			continue
		}
		q, _ := set.Register.Find("it")
		for range 2 { // the second time from what is kept
			for k, wants := range c.want {
				for n, want := range wants {
					r := b.Injections[k]
					if c.lives == "compound" {
						r = r.Of(&b.Method.Compounds[n])
					}
					v := q.Of(r)
					if math.IsNaN(want) != (v.Number == nil) || v.Number != nil && *v.Number != want {
						t.Errorf("%s in injection %d of compound %d is %v (%s), want %g", c.formula, k+1, n, v.Number, v.Why, want)
					}
				}
			}
		}
	}
}
