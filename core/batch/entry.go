package batch

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Field names a column of the run list.
type Field string

// The fields of a run list entry.
const (
	FieldName     Field = "name"
	FieldRole     Field = "role"
	FieldLevel    Field = "level"
	FieldVial     Field = "vial"
	FieldDilution Field = "dilution"
	FieldVolume   Field = "volume"
	FieldSample   Field = "sample"
	FieldFactor   Field = "factor"
	FieldInternal Field = "internal"
	FieldAdded    Field = "added"
	FieldMix      Field = "mix"
	// FieldPreparation tells which injections come from one weighing and extract.
	FieldPreparation Field = "preparation"
)

// Fields lists them in the order of the run list's columns.
var Fields = []Field{FieldName, FieldRole, FieldLevel, FieldVial, FieldDilution, FieldVolume, FieldSample, FieldFactor, FieldInternal, FieldAdded, FieldMix, FieldPreparation}

// maxText bounds names and vials.
const maxText = 200

// maxInternals bounds the internal standards of one injection.
const maxInternals = 50

// Set changes one field from text as a person or a spreadsheet writes it: numbers with point or comma, a dilution as 5, ×5
// or 1:5. Empty text clears what may be empty.
func (e *Entry) Set(field Field, text string) error {
	text = strings.TrimSpace(text)
	switch field {
	case FieldName, FieldVial, FieldMix, FieldPreparation:
		if len(text) > maxText {
			return fmt.Errorf("%s: %d characters; at most %d are kept", field, len(text), maxText)
		}
		switch field {
		case FieldVial:
			e.Vial = text
			return nil
		case FieldMix:
			e.Mix = text
			return nil
		case FieldPreparation:
			e.Preparation = text
			return nil
		}
		if text == "" {
			return fmt.Errorf("name: an injection needs a name")
		}
		e.Name = text
	case FieldRole:
		role, err := roleOf(text)
		if err != nil {
			return err
		}
		e.Role = role
	case FieldLevel:
		return optional(field, text, true, &e.Level)
	case FieldVolume:
		return optional(field, text, false, &e.Volume)
	case FieldSample:
		return optional(field, text, false, &e.Sample)
	case FieldInternal:
		return e.setInternal(text)
	case FieldAdded:
		return optional(field, text, true, &e.Added)
	case FieldDilution:
		return factor(field, strings.TrimPrefix(strings.TrimPrefix(text, "×"), "1:"), &e.Dilution)
	case FieldFactor:
		return factor(field, text, &e.Factor)
	default:
		return fmt.Errorf("%q is no field of the run list", field)
	}
	return nil
}

// setInternal reads the amount of internal standard in an injection: one number, or where there are several the name and amount of each, as
// "Anisole 25; Ethyl gallate 18".
func (e *Entry) setInternal(text string) error {
	if !strings.ContainsFunc(text, unicode.IsLetter) {
		e.Internals = nil
		return optional(FieldInternal, text, false, &e.Internal)
	}
	var list []InternalAmount
	for part := range strings.SplitSeq(text, ";") {
		part = strings.TrimSpace(part)
		k := strings.LastIndexByte(part, ' ')
		if k < 0 {
			return fmt.Errorf("internal: %q wants a name and an amount, as in Anisole 25", part)
		}
		amount, err := positive(FieldInternal, part[k+1:], false)
		if err != nil {
			return err
		}
		name := strings.TrimSpace(part[:k])
		if len(name) > maxText || len(list) == maxInternals {
			return fmt.Errorf("internal: names have at most %d characters, and an injection at most %d of them", maxText, maxInternals)
		}
		list = append(list, InternalAmount{name, amount})
	}
	e.Internal, e.Internals = nil, list
	return nil
}

// InternalText is what Set reads the same amounts from.
func (e Entry) InternalText() string {
	if e.Internal != nil {
		return number(*e.Internal)
	}
	parts := make([]string, len(e.Internals))
	for i, a := range e.Internals {
		parts[i] = a.Name + " " + number(a.Amount)
	}
	return strings.Join(parts, "; ")
}

// roleWords are what roles are called besides, in the languages of the trade that are met most.
var roleWords = map[Role][]string{
	Blank:       {"blk", "blindwert", "leerwert", "blanc", "blanco", "bianco"},
	Standard:    {"std", "cal", "calibration", "calibrant", "calibrator", "kalibrierung", "étalon", "etalon", "patrón", "patron", "estándar"},
	Check:       {"qc", "control", "kontrolle", "contrôle", "controle", "prüfprobe"},
	Sample:      {"unknown", "unk", "spl", "probe", "échantillon", "echantillon", "muestra", "campione"},
	Suitability: {"sst", "system suitability", "eignung"},
}

// RoleOfWord is the role that one lower-case word stands for, in the languages of the trade that are met most.
func RoleOfWord(word string) (Role, bool) {
	for _, role := range Roles {
		if role != NoRole && (word == string(role) || slices.Contains(roleWords[role], word)) {
			return role, true
		}
	}
	return NoRole, false
}

// roleOf reads a role: its word, another word for it, or as much of its word as no other begins with.
func roleOf(text string) (Role, error) {
	word := strings.ToLower(strings.TrimSpace(text))
	if word == "" || word == "none" {
		return NoRole, nil
	}
	if role, known := RoleOfWord(word); known {
		return role, nil
	}
	var begins []Role
	for _, role := range Roles {
		if strings.HasPrefix(string(role), word) {
			begins = append(begins, role)
		}
	}
	switch len(begins) {
	case 1:
		return begins[0], nil
	case 0:
		return NoRole, fmt.Errorf("role: %q is unknown; write blank, standard, check, sample or suitability", text)
	}
	return NoRole, fmt.Errorf("role: %q could be %s or %s; write more of it", text, begins[0], begins[1])
}

func positive(field Field, text string, zero bool) (float64, error) {
	v, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(text), ",", ".", 1), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%s: %q is not a number", field, text)
	}
	if v < 0 && zero {
		return 0, fmt.Errorf("%s: %g is below 0; 0 or more is meant", field, v)
	}
	if v < 0 || (v == 0 && !zero) {
		return 0, fmt.Errorf("%s: %g must be above 0", field, v)
	}
	return v, nil
}

func optional(field Field, text string, zero bool, into **float64) error {
	if text == "" || text == "–" {
		*into = nil
		return nil
	}
	v, err := positive(field, text, zero)
	if err != nil {
		return err
	}
	*into = &v
	return nil
}

func factor(field Field, text string, into *float64) error {
	if text == "" || text == "–" {
		*into = 1
		return nil
	}
	v, err := positive(field, text, false)
	if err != nil {
		return err
	}
	*into = v
	return nil
}
