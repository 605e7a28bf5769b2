package proposals

import (
	"testing"

	"yugen/core/batch"
)

func read(t *testing.T, names ...string) []Reading {
	t.Helper()
	return Names(names)
}

func wants(t *testing.T, name string, r Reading, role batch.Role, level float64, unit string) {
	t.Helper()
	got := -1.0
	if r.Level != nil {
		got = *r.Level
	}
	if r.Role != role || got != level || r.Unit != unit {
		t.Errorf("%s reads as %q, %g %q; want %q, %g %q (doubt %q)", name, r.Role, got, r.Unit, role, level, unit, r.Doubt)
	}
}

func TestNamesSayRoleLevelAndUnit(t *testing.T) {
	for _, c := range []struct {
		name  string
		role  batch.Role
		level float64
		unit  string
	}{
		{"std 05 mg-L", batch.Standard, 5, "mg/L"},
		{"STD_0,5ug_mL_2", batch.Standard, 0.5, "µg/mL"},
		{"Kalibrierung 20 mg per L", batch.Standard, 20, "mg/L"},
		{"étalon-100µg.mL", batch.Standard, 100, "µg/mL"},
		{"2.5mgL", batch.Standard, 2.5, "mg/L"},
		{"cal 10nmol/ml", batch.Standard, 10, "nmol/mL"},
		{"QC 50 mg-L", batch.Check, 50, "mg/L"},
		{"unknown cola", batch.Sample, -1, ""},
		{"muestra 3", batch.Sample, -1, ""},
		{"sample spiked 10 mg-L", batch.Sample, -1, ""},
		{"Blindwert 2", batch.Blank, -1, ""},
		{"green tea 30 mg leaves", batch.NoRole, -1, ""}, // a mass alone is no content
		{"run 0007", batch.NoRole, -1, ""},
		{"5 mg-large", batch.NoRole, -1, ""},
		{"標準 20 mg-L", batch.Standard, 20, "mg/L"},
		{"", batch.NoRole, -1, ""},
	} {
		wants(t, c.name, read(t, c.name)[0], c.role, c.level, c.unit)
	}
}

func TestTheStretchOfANameIsTold(t *testing.T) {
	r := read(t, "étalon 05 mg-L")[0]
	if got := string([]rune("étalon 05 mg-L")[r.LevelFrom.From:r.LevelFrom.To]); got != "05 mg-L" {
		t.Errorf("read from %q", got)
	}
	if got := string([]rune("étalon 05 mg-L")[r.RoleFrom.From:r.RoleFrom.To]); got != "étalon" {
		t.Errorf("role read from %q", got)
	}
}

// A number without a unit is a level where it tells standards apart, and doubtful where it may as well count them.
func TestBareNumbers(t *testing.T) {
	list := read(t, "std 5", "std 10", "std 20", "cola")
	for i, want := range []float64{5, 10, 20} {
		wants(t, "std", list[i], batch.Standard, want, "")
		if list[i].Doubt != "" {
			t.Errorf("doubt %q", list[i].Doubt)
		}
	}
	wants(t, "cola", list[3], batch.Sample, -1, "")
	for _, r := range read(t, "std 1", "std 2", "std 3") {
		if r.Level == nil || r.Doubt == "" {
			t.Errorf("numbers that may count are taken for levels: %+v", r)
		}
	}
	// Beside a level with a unit a bare number is none.
	list = read(t, "std 5 mg-L", "std 10 mg-L", "std new 3")
	if list[2].Level != nil {
		t.Errorf("std new 3 has level %g", *list[2].Level)
	}
	if r := read(t, "std 5 ppm", "std 10 ppm"); r[0].Level == nil || *r[0].Level != 5 || r[0].Doubt == "" || r[0].Unit != "" {
		t.Errorf("ppm: %+v", r[0])
	}
	// One standard makes no samples of the others.
	if r := read(t, "std 5", "tea"); r[1].Role != batch.NoRole {
		t.Errorf("tea is taken for %q", r[1].Role)
	}
}

func TestLevelsComeInOneUnit(t *testing.T) {
	list := read(t, "std 500 ug-L", "std 1 mg-L", "std 5 mg-L", "std 2 mmol-L")
	if unit := InOneUnit(list); unit != "mg/L" {
		t.Fatalf("unit %q", unit)
	}
	wants(t, "500 ug-L", list[0], batch.Standard, 0.5, "mg/L")
	if list[3].Level != nil || list[3].Doubt == "" {
		t.Errorf("mmol became %+v", list[3])
	}
	if unit := InOneUnit(nil); unit != "" {
		t.Errorf("no levels have the unit %q", unit)
	}
}

func TestTheNameThatAllFilesCarry(t *testing.T) {
	for want, names := range map[string][]string{
		"caffeine": {"caffeine std 5 mg-L", "Caffeine std 10 mg-L", "cola caffeine"},
		"":         {"std 5 mg-L", "std 10 mg-L", "unknown"},
	} {
		if got := CommonName(names); got != want {
			t.Errorf("%v carry %q, want %q", names, got, want)
		}
	}
	if got := CommonName([]string{"Monday caffeine 1", "Monday caffeine 2"}); got != "" {
		t.Errorf("of two common words one is chosen: %q", got)
	}
	if got := CommonName([]string{"caffeine"}); got != "" {
		t.Errorf("one file has %q in common", got)
	}
}
