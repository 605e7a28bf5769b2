package batch

import (
	"math"
	"strings"
	"testing"

	"yugen/core/checks"
	"yugen/core/signal"
)

// pumped is the usual run with a pump pressure that falls with the gradient, at one point a second; in the first leaf it falls by 30 bar at 3.5 min.
func pumped(t *testing.T) ([]Injection, Method) {
	t.Helper()
	list := run(t)
	for i := range list {
		y := make([]float64, 500)
		for k := range y {
			y[k] = 180 - float64(k)/50 + 0.2*math.Sin(float64(k*k))
			if list[i].ID == "u0" && k >= 210 {
				y[k] -= 30
			}
		}
		tr, err := signal.NewUniform(0, 1, y)
		if err != nil {
			t.Fatal(err)
		}
		list[i].Conditions = map[string]signal.Trace{"pump-pressure@bar": tr}
	}
	return list, method()
}

func TestConditionsAreHeldAgainstTheirLimits(t *testing.T) {
	list, m := pumped(t)
	for _, c := range []struct {
		name  string
		limit checks.ConditionLimit
		says  string // of the leaf's notice; empty where there is none
	}{
		{"a fall", checks.ConditionLimit{Fall: 15, WithinS: 5}, "fell by 30"},
		{"a fall that is allowed", checks.ConditionLimit{Fall: 31, WithinS: 5}, ""},
		{"a slow fall is none", checks.ConditionLimit{Fall: 5, WithinS: 5, FromMin: 0, ToMin: 3.4}, ""},
		{"at least", checks.ConditionLimit{Low: ptr(160.0)}, "stood at 139.8 bar"},
		{"just at least", checks.ConditionLimit{Low: ptr(139.0)}, ""},
		{"at most", checks.ConditionLimit{High: ptr(190.0)}, ""},
		{"within, before the fall", checks.ConditionLimit{Low: ptr(160.0), High: ptr(190.0), ToMin: 3.4}, ""},
		{"as in most", checks.ConditionLimit{Usual: 5}, "where most injections have"},
		{"about as in most", checks.ConditionLimit{Usual: 31}, ""},
		{"another condition", checks.ConditionLimit{Name: "Oven", Unit: "°C", Low: ptr(1000.0)}, ""},
	} {
		if c.limit.Name == "" {
			c.limit.Name, c.limit.Unit = "Pump pressure", "bar"
		}
		m.Checks.Conditions = []checks.ConditionLimit{c.limit}
		r := processed(t, list, m, nil)
		var got []checks.Notice
		for _, n := range r.Notices {
			if strings.HasPrefix(string(n.Kind), string(checks.RunCondition)) {
				got = append(got, n)
			}
		}
		if c.says == "" {
			if len(got) > 0 {
				t.Errorf("%s: %+v", c.name, got)
			}
			continue
		}
		if len(got) != 1 || got[0].InjectionID != "u0" || got[0].Station != checks.Traces || !strings.Contains(got[0].Text, c.says) || got[0].AtMin == nil {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
	m.Checks.Conditions = []checks.ConditionLimit{{Name: "Pump pressure", Unit: "bar", Fall: 15, WithinS: 5}}
	r := processed(t, list, m, nil)
	for _, n := range r.Notices {
		if strings.HasPrefix(string(n.Kind), string(checks.RunCondition)) && (math.Abs(*n.AtMin-3.5) > 0.1 || !strings.Contains(n.Text, "the next to elute is B at 4.00 min")) {
			t.Errorf("%+v at %g", n, *n.AtMin)
		}
	}
	found := false
	for _, o := range r.Outcomes {
		if o.Kind == checks.RunCondition {
			found = o.Count == len(list) && o.Outside == 1 && math.Abs(o.Value-30) < 1
		}
	}
	if !found {
		t.Errorf("%+v", r.Outcomes)
	}
}

func TestWhatElutesAtAFallIsNamed(t *testing.T) {
	list, m := pumped(t)
	for i := range list {
		if list[i].ID == "u0" {
			tr := list[i].Conditions["pump-pressure@bar"]
			for k := range tr.Values {
				tr.Values[k] = 180
				if k >= 240 { // while B elutes
					tr.Values[k] = 150
				}
			}
		}
	}
	m.Checks.Conditions = []checks.ConditionLimit{{Name: "pump pressure", Unit: "bar", Fall: 15, WithinS: 5}}
	r := processed(t, list, m, nil)
	if got := noticed(r, checks.RunCondition+"_pump-pressure@bar_change_0"); len(got) != 1 || !strings.HasSuffix(got[0], "; B eluted then, IS next") {
		t.Errorf("%q", got)
	}
}

func TestOddLimitsOnConditionsAreRefused(t *testing.T) {
	for what, limit := range map[string]checks.ConditionLimit{
		"no name":    {Low: ptr(1.0)},
		"nothing":    {Name: "x"},
		"upside":     {Name: "x", Low: ptr(2.0), High: ptr(2.0)},
		"no seconds": {Name: "x", Fall: 3},
		"below 0":    {Name: "x", Fall: -3, WithinS: 1},
		"no number":  {Name: "x", Usual: math.NaN()},
		"no stretch": {Name: "x", Usual: 1, FromMin: 3, ToMin: 2},
	} {
		m := method()
		m.Checks.Conditions = []checks.ConditionLimit{limit}
		if m.Validate() == nil {
			t.Errorf("%s is taken", what)
		}
	}
}
