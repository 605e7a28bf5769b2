package channels

import (
	"errors"
	"math"
	"testing"

	"yugen/core/signal"
)

func uniform(t *testing.T, startS, stepS float64, values ...float64) signal.Trace {
	t.Helper()
	tr, err := signal.NewUniform(startS, stepS, values)
	if err != nil {
		t.Fatal(err)
	}
	return tr
}

func TestCombinedSignalsArePointwise(t *testing.T) {
	a := uniform(t, 0, 1, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20)
	b := uniform(t, 1, 2, 1, 3, 5, 7, 9, 11, 13, 15) // t at whole seconds t, from 1 s
	r, err := RatioOf(a, b)
	if err != nil || r.Len() != 9 || r.TimeS(0) != 1 || r.Unit != "" {
		t.Fatalf("%+v, %v", r, err)
	}
	l, err := LessOf(a, b)
	if err != nil || l.Len() != 9 {
		t.Fatalf("%+v, %v", l, err)
	}
	for i := range r.Values {
		at := float64(i + 1)
		if math.Abs(r.Values[i]-(2*at+2)/at) > 1e-12 || math.Abs(l.Values[i]-(at+2)) > 1e-12 {
			t.Errorf("at %g s: %g and %g", at, r.Values[i], l.Values[i])
		}
	}
	fives := uniform(t, 0, 1, 5, 5, 5, 5, 5, 5, 5, 5)
	if r, err = RatioOf(fives, uniform(t, 0, 1, -1, 0, 0.99, 100, 100, 100, 100, 50)); err != nil || r.Values[0] != 0 || r.Values[1] != 0 || r.Values[2] != 0 || r.Values[3] != 0.05 || r.Values[7] != 0.1 {
		t.Errorf("over next to nothing: %v, %v", r.Values, err)
	}
	for _, apart := range [][2]signal.Trace{{a, uniform(t, 100, 1, 1, 2, 3, 4, 5, 6, 7, 8)}, {a, {}}, {{}, b}, {a, uniform(t, 3, 1, 1, 2, 3, 4, 5, 6, 7, 8)}} {
		if _, err := LessOf(apart[0], apart[1]); !errors.Is(err, ErrApart) {
			t.Errorf("%v", err)
		}
	}
}

func TestCombinedDefinitions(t *testing.T) {
	uv, ion := Signal{Name: "UV 278 nm", Unit: "mAU"}, Signal{Kind: Ions, Places: []Place{{71.05, 0.3, false}}}
	ratio := Signal{Kind: Ratio, Parts: []Signal{uv, ion}}
	less := Signal{Kind: LessBlank, Parts: []Signal{{}}}
	if err := errors.Join(ratio.Validate(), less.Validate()); err != nil {
		t.Fatal(err)
	}
	if ratio.Title() != "UV 278 nm ÷ m/z 71.05 ± 0.3" || less.Title() != "first channel less the blank" {
		t.Errorf("%q, %q", ratio.Title(), less.Title())
	}
	turned := Signal{Kind: Ratio, Parts: []Signal{ion, uv}}
	if ratio.Key() == turned.Key() || ratio.Key() != (Signal{Kind: Ratio, Parts: []Signal{{Name: "uv 278 NM", Unit: "MAU"}, ion}}).Key() || !ratio.Derived() {
		t.Errorf("keys %q and %q", ratio.Key(), turned.Key())
	}
	for _, odd := range []Signal{{Kind: Ratio}, {Kind: Ratio, Parts: []Signal{uv}}, {Kind: LessBlank, Parts: []Signal{uv, uv}}, {Kind: LessBlank, Parts: []Signal{ratio}}, {Kind: TotalIon, Parts: []Signal{uv}}, {Kind: Ratio, Parts: []Signal{uv, {Kind: Ions}}}, {Parts: []Signal{uv}}} {
		if odd.Validate() == nil {
			t.Errorf("%+v is taken", odd)
		}
	}
	if _, err := ratio.Derive(nil); !errors.Is(err, ErrAbsent) {
		t.Errorf("a ratio is derived from spectra: %v", err)
	}
}
