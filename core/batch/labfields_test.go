package batch

import (
	"fmt"
	"math"
	"strings"
	"testing"
)

// A field is taken with everything at its limit, and refused, by its name, with anything just beyond.
func TestFieldsAreTakenToTheirLimits(t *testing.T) {
	good := LabField{Name: "Share", Short: "share", Lives: "injection", Formula: "1", Unit: "%"}
	ptr := func(v float64) *float64 { return &v }
	whole := func(n int) *int { return &n }
	for what, c := range map[string]struct {
		change func(*LabField)
		says   string // empty where it is taken
	}{
		"as it is":                    {func(*LabField) {}, ""},
		"a name at its limit":         {func(f *LabField) { f.Name = strings.Repeat("ü", maxFieldName) }, ""},
		"a name beyond it":            {func(f *LabField) { f.Name = strings.Repeat("ü", maxFieldName+1) }, "at most 100 letters"},
		"no name":                     {func(f *LabField) { f.Name = " \t" }, "needs a name"},
		"a short name at its limit":   {func(f *LabField) { f.Short = "a" + strings.Repeat("9", 59) }, ""},
		"a short name beyond it":      {func(f *LabField) { f.Short = "a" + strings.Repeat("9", 60) }, "short name"},
		"a short name with a capital": {func(f *LabField) { f.Short = "Share" }, "short name"},
		"a short name from a digit":   {func(f *LabField) { f.Short = "1st" }, "short name"},
		"a short name with an umlaut": {func(f *LabField) { f.Short = "größe" }, "short name"},
		"a formula at its limit":      {func(f *LabField) { f.Formula = strings.Repeat("1", maxFieldFormula) }, ""},
		"a formula beyond it":         {func(f *LabField) { f.Formula = strings.Repeat("1", maxFieldFormula+1) }, "at most 4000 letters"},
		"no formula":                  {func(f *LabField) { f.Formula = "\n" }, "has no formula"},
		"it lives nowhere":            {func(f *LabField) { f.Lives = "moon" }, `not with "moon"`},
		"9 decimals":                  {func(f *LabField) { f.Decimals = whole(9) }, ""},
		"10 decimals":                 {func(f *LabField) { f.Decimals = whole(10) }, "decimals are 0 to 9"},
		"fewer than none":             {func(f *LabField) { f.Decimals = whole(-1) }, "decimals are 0 to 9"},
		"limits that meet":            {func(f *LabField) { f.Low, f.High = ptr(2), ptr(2) }, ""},
		"limits that cross":           {func(f *LabField) { f.Low, f.High = ptr(math.Nextafter(2, 3)), ptr(2) }, "above the upper"},
		"a limit that is no number":   {func(f *LabField) { f.Low = ptr(math.NaN()) }, "finite"},
		"a limit without end":         {func(f *LabField) { f.High = ptr(math.Inf(1)) }, "finite"},
	} {
		f := good
		c.change(&f)
		err := ValidFields([]LabField{f})
		if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("%s: %v", what, err)
		}
	}
	var many []LabField
	for k := range maxLabFields + 1 {
		f := good
		f.Name, f.Short = fmt.Sprint("Field ", k), fmt.Sprint("f", k)
		many = append(many, f)
	}
	if err := ValidFields(many[:maxLabFields]); err != nil {
		t.Error(err)
	}
	if err := ValidFields(many); err == nil {
		t.Errorf("%d fields are taken", len(many))
	}
	for _, change := range []func(*LabField){func(f *LabField) { f.Name = "SHARE" }, func(f *LabField) { f.Short = good.Short }} {
		other := LabField{Name: "Other", Short: "other", Lives: "batch", Formula: "1"}
		change(&other)
		if err := ValidFields([]LabField{good, other}); err == nil {
			t.Errorf("%s and %s are both taken", good.Name, other.Name)
		}
	}
	for _, lives := range FieldLives {
		f := good
		f.Lives = lives
		if err := ValidFields([]LabField{f}); err != nil {
			t.Errorf("%s: %v", lives, err)
		}
	}
}
