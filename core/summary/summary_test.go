package summary

import (
	"math"
	"slices"
	"testing"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/quantities"
)

func p(v float64) *float64 { return &v }

func near(a *float64, want float64) bool {
	return a != nil && math.Abs(*a-want) <= 1e-9*math.Max(1, math.Abs(want))
}

// Five titrations of a textbook (Miller & Miller, Statistics and Chemometrics for Analytical Chemistry), whose mean is 10.10 mL and whose standard deviation is
// 0.0158 mL; Student's t by its tables.
func TestStatisticsAreThoseOfTheTextbook(t *testing.T) {
	s := Of([]*float64{p(10.08), p(10.11), p(10.09), p(10.10), p(10.12)})
	sd := math.Sqrt(0.001 / 4)
	if s.N != 5 || s.Of != 5 || !near(s.Mean, 10.10) || !near(s.SD, sd) || !near(s.RSD, 100*sd/10.10) || !near(s.Least, 10.08) || !near(s.Most, 10.12) || !near(s.Median, 10.10) {
		t.Errorf("%+v", s)
	}
	if want := 2.7764451052 * sd / math.Sqrt(5); s.Half == nil || math.Abs(*s.Half-want) > 1e-9 {
		t.Errorf("half the interval is %v, want %g", s.Half, want)
	}
	// 0.95 of Student's t with one degree of freedom reaches 12.7062 to each side.
	two := Of([]*float64{p(1), nil, p(3)})
	if two.N != 2 || two.Of != 3 || !near(two.Median, 2) || two.Half == nil || math.Abs(*two.Half-12.7062047362) > 1e-6 {
		t.Errorf("%+v, half %v", two, *two.Half)
	}
}

// Of nothing nothing is told, of a single value no spread, and of a mean of zero no relative one; what is no number counts as absent.
func TestTooFewValuesTellNoSpread(t *testing.T) {
	for _, values := range [][]*float64{nil, {nil, nil}, {p(math.NaN())}, {p(math.Inf(1)), nil}} {
		if s := Of(values); s.N != 0 || s.Of != len(values) || s.Mean != nil || s.SD != nil || s.Median != nil {
			t.Errorf("%v: %+v", values, s)
		}
	}
	if s := Of([]*float64{p(7), nil}); s.N != 1 || !near(s.Mean, 7) || s.SD != nil || s.RSD != nil || s.Half != nil || !near(s.Most, 7) {
		t.Errorf("%+v", s)
	}
	if s := Of([]*float64{p(-1), p(1)}); s.RSD != nil || !near(s.SD, math.Sqrt2) {
		t.Errorf("%+v", s)
	}
	if s := Of([]*float64{p(-2), p(-4)}); s.RSD == nil || *s.RSD < 0 {
		t.Errorf("the relative deviation of negative values is %v", s.RSD)
	}
	huge := Of([]*float64{p(1e12 + 1), p(1e12 + 2), p(1e12 + 3)})
	if !near(huge.SD, 1) {
		t.Errorf("about a large mean the deviation is %v", *huge.SD)
	}
}

func TestGroupsComeInRunOrderWithAllOfThemLast(t *testing.T) {
	roles := []string{"Standards", "Samples", "Standards", "Checks"}
	got := Groups(len(roles), func(i int) string { return roles[i] })
	names := []string{}
	for _, g := range got {
		names = append(names, g.Name)
	}
	if !slices.Equal(names, []string{"Standards", "Samples", "Checks", All}) || !slices.Equal(got[0].Injections, []int{0, 2}) || len(got[3].Injections) != 4 {
		t.Errorf("%+v", got)
	}
	if one := Groups(3, func(int) string { return All }); len(one) != 1 || len(one[0].Injections) != 3 {
		t.Errorf("one group: %+v", one)
	}
	if none := Groups(0, func(int) string { return "x" }); len(none) != 1 || len(none[0].Injections) != 0 {
		t.Errorf("no injection: %+v", none)
	}
}

// A cube takes each value from its row, leaves out what is not there, and shows all values of a column with as many decimals.
func TestACubeOfABatch(t *testing.T) {
	m := batch.NewMethod()
	m.Compounds = []compounds.Compound{{ID: "a", Name: "A"}, {ID: "b", Name: "B"}}
	register := quantities.For(m, nil, "mAU")
	find := func(id string) quantities.Quantity {
		q, ok := register.Find(id)
		if !ok {
			t.Fatal(id)
		}
		return q
	}
	of := &quantities.Batch{Method: m}
	row := func(at, area float64) quantities.Row {
		r := quantities.Row{Batch: of, Injected: &batch.Injected{}}
		if area > 0 {
			n := batch.NamedPeak{CompoundID: "a"}
			n.ApexMin, n.AreaS = at, area
			r.Injected.Peaks = append(r.Injected.Peaks, n)
		}
		return r
	}
	measures := []quantities.Quantity{find("retention_min"), find("area_s")}
	columns, err := Columns(m, nil)
	if err != nil {
		t.Fatal(err)
	}
	c := Build(measures, Values(measures, columns, []quantities.Row{row(2.001, 0.0123), row(2.003, 120), row(0, 0)}), []Group{{Name: All, Injections: []int{0, 1, 2}}})
	if s := c.Statistics[0][0][0]; s.N != 2 || s.Of != 3 || !near(s.Mean, 2.002) {
		t.Errorf("%+v", s)
	}
	if c.Values[1][0][2] != nil || *c.Values[1][0][1] != 120 || c.Statistics[1][1][0].N != 0 {
		t.Errorf("%+v", c.Values)
	}
	if c.Decimals[0][0] != 3 || c.Decimals[1][0] != 5 || c.Decimals[1][1] != 2 {
		t.Errorf("decimals %v", c.Decimals)
	}
}

func TestLimitsAreThoseOfTheMethodAlone(t *testing.T) {
	l := checks.Limits{Suitability: []checks.Suitability{
		{Measure: checks.Tailing, High: p(1.8)}, {Measure: checks.RetentionRSD, CompoundID: "a", High: p(0.25)}, {Measure: checks.Resolution, Low: p(1.5)},
	}}
	if got := LimitOf(l, "tailing", "b"); got.High == nil || *got.High != 1.8 || got.RSDHigh != nil {
		t.Errorf("%+v", got)
	}
	if got := LimitOf(l, "retention_min", "a"); got.RSDHigh == nil || *got.RSDHigh != 0.25 || got.High != nil {
		t.Errorf("%+v", got)
	}
	if got := LimitOf(l, "resolution", "a"); got.Low == nil || *got.Low != 1.5 {
		t.Errorf("%+v", got)
	}
	for _, none := range []Limit{LimitOf(l, "retention_min", "b"), LimitOf(l, "area_s", "a"), LimitOf(l, "height", "a"), LimitOf(checks.Limits{}, "tailing", "a")} {
		if none != (Limit{}) {
			t.Errorf("a limit that nobody set: %+v", none)
		}
	}
}

// Sums are over what was found, and absent where something was found that has no value or where the measure does not add; the largest peak needs no name.
func TestSumsAndTheLargestPeak(t *testing.T) {
	m := batch.NewMethod()
	m.Compounds = []compounds.Compound{{ID: "a", Name: "A", Group: "both", Role: compounds.Target}, {ID: "b", Name: "B", Group: "both", Role: compounds.Target}, {ID: "c", Name: "C"}}
	of := &quantities.Batch{Method: m}
	row := func(amountOfB *float64, peaks ...batch.NamedPeak) quantities.Row {
		return quantities.Row{Batch: of, Injected: &batch.Injected{Integrated: batch.Integrated{Peaks: peaks}, Readings: map[string]batch.Reading{"a": {Amount: p(2)}, "b": {Amount: amountOfB}}}}
	}
	peak := func(of string, at, area float64) batch.NamedPeak {
		n := batch.NamedPeak{CompoundID: of}
		n.ApexMin, n.AreaS = at, area
		return n
	}
	all := row(p(3), peak("a", 1, 10), peak("b", 2, 20), peak("", 3, 500))
	unread := row(nil, peak("a", 1, 10), peak("b", 2, 20))
	lone := row(nil, peak("a", 1, 10))
	nothing := quantities.Row{Batch: of, Injected: &batch.Injected{}}
	register := quantities.For(m, nil, "mAU")
	columns, err := Columns(m, []string{"group:both", "sum:a+c", "largest", "b"})
	if err != nil {
		t.Fatal(err)
	}
	measures := []quantities.Quantity{}
	for _, id := range []string{"area_s", "amount", "retention_min"} {
		q, ok := register.Find(id)
		if !ok {
			t.Fatal(id)
		}
		measures = append(measures, q)
	}
	got := Values(measures, columns, []quantities.Row{all, unread, lone, nothing})
	want := [][][]float64{
		{{30, 30, 10, math.NaN()}, {10, 10, 10, math.NaN()}, {500, 20, 10, math.NaN()}, {20, 20, math.NaN(), math.NaN()}},
		{{5, math.NaN(), 2, math.NaN()}, {2, 2, 2, math.NaN()}, {math.NaN(), math.NaN(), 2, math.NaN()}, {3, math.NaN(), math.NaN(), math.NaN()}},
		{{math.NaN(), math.NaN(), math.NaN(), math.NaN()}, {math.NaN(), math.NaN(), math.NaN(), math.NaN()}, {3, 2, 1, math.NaN()}, {2, 2, math.NaN(), math.NaN()}},
	}
	for q := range want {
		for c := range want[q] {
			for i, v := range want[q][c] {
				if g := got[q][c][i]; math.IsNaN(v) != (g == nil) || g != nil && *g != v {
					t.Errorf("%s of %s in injection %d is %v, want %g", measures[q].ID, columns[c].Name, i, g, v)
				}
			}
		}
	}
	for _, bad := range []string{"nobody", "group:nobody", "sum:a+nobody", "sum:"} {
		if _, err := Columns(m, []string{bad}); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}
