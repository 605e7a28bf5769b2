package amounts

import (
	"errors"
	"math"
	"strings"
	"testing"
)

func quantity(t *testing.T, v float64, unit string) Quantity {
	t.Helper()
	u, err := ParseUnit(unit)
	if err != nil {
		t.Fatal(err)
	}
	return Quantity{v, u}
}

func TestUnitsConvert(t *testing.T) {
	for _, c := range []struct {
		from string
		v    float64
		to   string
		want float64
	}{
		{"mg/L", 1, "µg/mL", 1}, {"mg/L", 1, "ng/µL", 1}, {"mg/g", 12.5, "% (m/m)", 1.25}, {"mg/kg", 3, "ppm (m/m)", 3},
		{"g", 0.2, "mg", 200}, {"mmol/L", 5, "µmol/mL", 5}, {"% (m/v)", 1, "g/L", 10}, {"μg/mL", 7, "mg/L", 7},
	} {
		got, err := quantity(t, c.v, c.from).In(quantity(t, 1, c.to).Unit)
		if err != nil || math.Abs(got.Value-c.want) > 1e-12*c.want {
			t.Errorf("%g %s = %g %s (%v), want %g", c.v, c.from, got.Value, c.to, err, c.want)
		}
	}
}

func TestUsualSpellingsAreRead(t *testing.T) {
	for spelled, plain := range map[string]string{
		"ug/mL": "µg/mL", "mg/l": "mg/L", "mg L-1": "mg/L", "mg·L⁻¹": "mg/L", "ul": "µL", "mcg/mL": "µg/mL", "mmol/l": "mmol/L", "ppm (m/v)": "mg/L",
		"ppm(w/w)": "mg/kg", "mM": "mmol/L", "% (w/v)": "% (m/v)", "ng / ml": "ng/mL",
	} {
		got, err := quantity(t, 7, spelled).In(quantity(t, 1, plain).Unit)
		if err != nil || math.Abs(got.Value-7) > 1e-12 {
			t.Errorf("%s is %+v %s, %v", spelled, got.Value, plain, err)
		}
	}
}

// What needs a density or a molar mass that is not there is refused; where it is there it is taken.
func TestContentNeedsWhatItNeeds(t *testing.T) {
	content := func(concentration, volume, sample, in string, molarMass float64) error {
		p := Preparation{1, quantity(t, 50, volume), quantity(t, 0.2, sample), 1, molarMass}
		_, err := p.Content(quantity(t, 10, concentration), quantity(t, 1, in).Unit)
		return err
	}
	for _, c := range []struct {
		concentration, volume, sample, in string
		molarMass                         float64
		fits                              bool
	}{
		{"mg/L", "mL", "g", "mg/g", 0, true}, {"mg/L", "mL", "g", "% (m/m)", 0, true}, {"mg/L", "mL", "mL", "mg/L", 0, true},
		{"mg/L", "mL", "g", "mmol/mol", 0, false}, {"mg/L", "mL", "g", "mmol/mol", 180, false}, {"mmol/L", "mL", "mol", "% (m/m)", 0, false},
		{"mg/L", "mL", "g", "mmol/g", 0, false}, {"mg/L", "mL", "g", "mmol/g", 180, true}, {"mL/L", "mL", "g", "mg/g", 0, false},
		{"mL/L", "mL", "mL", "mL/L", 0, true}, {"mg/g", "mL", "g", "mg/g", 0, false}, {"1", "mL", "g", "% (m/m)", 0, false}, {"mg/L", "mL", "g", "1", 0, false},
		{"mg/L", "mL", "g", "% (v/v)", 0, false},
	} {
		if err := content(c.concentration, c.volume, c.sample, c.in, c.molarMass); (err == nil) != c.fits {
			t.Errorf("%s in %s from %s as %s, molar mass %g: %v", c.concentration, c.volume, c.sample, c.in, c.molarMass, err)
		}
	}
}

func TestUnlikeUnitsRefuse(t *testing.T) {
	if _, err := quantity(t, 1, "mg/L").In(quantity(t, 1, "mmol/L").Unit); !errors.Is(err, ErrUnlike) {
		t.Errorf("mass is not amount of substance without a molar mass: %v", err)
	}
	if _, err := quantity(t, 1, "mg/g").Plus(quantity(t, 1, "mL/L")); !errors.Is(err, ErrUnlike) {
		t.Errorf("mass share and volume share do not add: %v", err)
	}
	sum, err := quantity(t, 1, "mg").Plus(quantity(t, 500, "µg"))
	if err != nil || math.Abs(sum.Value-1.5) > 1e-12 {
		t.Errorf("1 mg + 500 µg = %v %v", sum, err)
	}
	for _, bad := range []string{"ppm", "%", "furlong", "mg/L/g", ""} {
		if _, err := ParseUnit(bad); err == nil {
			t.Errorf("%q was taken as a unit", bad)
		}
	}
	if _, err := ParseUnit("ppm"); !strings.Contains(err.Error(), "ppm (m/m)") {
		t.Errorf("the refusal does not say what to write: %v", err)
	}
}

func TestContentOfAnExtract(t *testing.T) {
	// 73.1 mg/L in 50 mL of extract, diluted twofold, from 0.2020 g of leaf.
	p := Preparation{2, quantity(t, 50, "mL"), quantity(t, 0.2020, "g"), 1, 0}
	got, err := p.Content(quantity(t, 73.1, "mg/L"), quantity(t, 1, "mg/g").Unit)
	if want := 73.1 * 2 * 0.05 / 0.2020; err != nil || math.Abs(got.Value-want) > 1e-12*want {
		t.Errorf("%v %v, want %g mg/g", got, err, want)
	}
	p.Sample = quantity(t, 202, "mg") // the same leaf, weighed in another unit
	again, err := p.Content(quantity(t, 73.1, "µg/mL"), quantity(t, 1, "mg/g").Unit)
	if err != nil || math.Abs(again.Value-got.Value) > 1e-12*got.Value {
		t.Errorf("units changed the result: %v %v", again, err)
	}
	if _, err := p.Content(quantity(t, 1, "mg/L"), quantity(t, 1, "mg/L").Unit); !errors.Is(err, ErrUnlike) {
		t.Errorf("a content by mass is not a concentration: %v", err)
	}
	p.Sample.Value = 0
	if _, err := p.Content(quantity(t, 1, "mg/L"), quantity(t, 1, "mg/g").Unit); err == nil {
		t.Error("divided by no sample")
	}
}

func TestStatistics(t *testing.T) {
	s := Summarise([]float64{10, 12, 14})
	if *s.Mean != 12 || *s.SD != 2 || math.Abs(*s.RSD-100.0/6) > 1e-12 {
		t.Errorf("%v %v %v", *s.Mean, *s.SD, *s.RSD)
	}
	if one := Summarise([]float64{5}); one.SD != nil || one.RSD != nil || *one.Mean != 5 {
		t.Error("one value has no spread")
	}
	if Summarise(nil).Mean != nil {
		t.Error("no value has no mean")
	}
}
