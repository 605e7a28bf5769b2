package batch

import (
	"fmt"
	"math"
	"regexp"
	"strings"
	"unicode/utf8"
)

// LabField is a quantity of the laboratory's own: a formula over what a batch can show. What it computes is not known here; formula compiles it.
type LabField struct {
	Name  string `json:"name"`  // for people
	Short string `json:"short"` // in formulas
	// Lives is of what there is one value: batch, injection, trace, peak, compound or sample.
	Lives    string   `json:"lives"`
	Formula  string   `json:"formula"`
	Unit     string   `json:"unit,omitempty"` // absent is that which the formula gives
	Decimals *int     `json:"decimals,omitempty"`
	Low      *float64 `json:"low,omitempty"` // limits, inclusive; a value outside is a check that fails
	High     *float64 `json:"high,omitempty"`
}

// FieldLives are where fields may live.
var FieldLives = []string{"batch", "injection", "trace", "peak", "compound", "sample"}

// Bounds of fields.
const (
	maxLabFields    = 200
	maxFieldFormula = 4000
	maxFieldName    = 100
)

var shortName = regexp.MustCompile(`^[a-z][a-z0-9_]{0,59}$`)

// ValidFields checks what can be known of fields without their formulas.
func ValidFields(fields []LabField) error {
	if len(fields) > maxLabFields {
		return fmt.Errorf("a method has at most %d fields", maxLabFields)
	}
	shorts, names := map[string]bool{}, map[string]bool{}
	for _, f := range fields {
		if err := f.validate(); err != nil {
			return err
		}
		if shorts[f.Short] || names[strings.ToLower(f.Name)] {
			return fmt.Errorf("two fields are called %s or %s", f.Name, f.Short)
		}
		shorts[f.Short], names[strings.ToLower(f.Name)] = true, true
	}
	return nil
}

func (f LabField) validate() error {
	switch {
	case strings.TrimSpace(f.Name) == "" || utf8.RuneCountInString(f.Name) > maxFieldName:
		return fmt.Errorf("a field needs a name of at most %d letters", maxFieldName)
	case !shortName.MatchString(f.Short):
		return fmt.Errorf("%s: the short name %q is not of small letters, digits and _, beginning with a letter", f.Name, f.Short)
	case !knownLives(f.Lives):
		return fmt.Errorf("%s lives with %s, not with %q", f.Name, strings.Join(FieldLives, ", "), f.Lives)
	case strings.TrimSpace(f.Formula) == "":
		return fmt.Errorf("%s has no formula", f.Name)
	case len(f.Formula) > maxFieldFormula:
		return fmt.Errorf("%s: a formula has at most %d letters", f.Name, maxFieldFormula)
	case f.Decimals != nil && (*f.Decimals < 0 || *f.Decimals > 9):
		return fmt.Errorf("%s: decimals are 0 to 9, not %d", f.Name, *f.Decimals)
	}
	for _, limit := range []*float64{f.Low, f.High} {
		if limit != nil && (math.IsNaN(*limit) || math.IsInf(*limit, 0)) {
			return fmt.Errorf("%s: a limit is a finite number", f.Name)
		}
	}
	if f.Low != nil && f.High != nil && *f.Low > *f.High {
		return fmt.Errorf("%s: the lower limit is above the upper one", f.Name)
	}
	return nil
}

func knownLives(lives string) bool {
	for _, l := range FieldLives {
		if l == lives {
			return true
		}
	}
	return false
}
