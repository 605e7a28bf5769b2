// Package channels says which signal of an injection is meant: one that its files hold, or one that is derived from its spectra.
package channels

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"yugen/core/signal"
	"yugen/core/spectra"
)

// Kind says where a signal comes from.
type Kind string

// The kinds. All but the recorded are derived: from spectra, and the last two from other signals.
const (
	Recorded   Kind = "" // by its name and unit among those that the files hold
	TotalIon   Kind = "total_ion"
	BasePeak   Kind = "base_peak"
	Ions       Kind = "ions"
	Wavelength Kind = "wavelength"
	Maximum    Kind = "maximum" // over all wavelengths
	Product    Kind = "product" // of fragments: a precursor and one of its products
	Ratio      Kind = "ratio"   // of two signals of an injection
	LessBlank  Kind = "less_blank"
)

// Kinds lists them.
var Kinds = []Kind{Recorded, TotalIon, BasePeak, Ions, Wavelength, Maximum, Product, Ratio, LessBlank}

// Signal is a definition: the same twice is the same signal, in every injection. Its zero value is the signal that was chosen for each injection when its
// file was taken in, the first detector.
type Signal struct {
	Kind Kind   `json:"kind,omitempty"`
	Name string `json:"name,omitempty"` // of a recorded one
	Unit string `json:"unit,omitempty"`
	// Places are the ions, which are summed; the one wavelength; or the precursor and its product.
	Places []Place `json:"places,omitempty"`
	// Level is that of the mass scans; 0 means 1, and of a product 2.
	Level int `json:"level,omitempty"`
	// Parts are the signals that a ratio is of, or the one that the blank's is taken off; neither kind itself.
	Parts []Signal `json:"parts,omitempty"`
}

// Place is one m/z or wavelength (nm).
type Place struct {
	At        float64 `json:"at"`
	Tolerance float64 `json:"tolerance,omitempty"` // to each side, in the same unit or in parts per million
	PPM       bool    `json:"ppm,omitempty"`
}

// Band is the stretch that belongs to the place; both ends do.
func (p Place) Band() spectra.Band {
	if p.PPM {
		return spectra.PPM(p.At, p.Tolerance)
	}
	return spectra.Around(p.At, p.Tolerance)
}

func (p Place) String() string { return digits(p.At) + p.tolerance() }

func (p Place) tolerance() string {
	switch {
	case p.Tolerance == 0:
		return ""
	case p.PPM:
		return " ± " + digits(p.Tolerance) + " ppm"
	}
	return " ± " + digits(p.Tolerance)
}

// The sizes of a definition are bounded.
const (
	maxIons = 200
	maxText = 200
)

// Chosen tells whether the signal is the one that was chosen for each injection.
func (s Signal) Chosen() bool { return s.Kind == Recorded && s.Name == "" && s.Unit == "" }

// Derived tells whether it is computed rather than recorded.
func (s Signal) Derived() bool { return s.Kind != Recorded }

var notInKey = regexp.MustCompile(`[^\p{L}\p{N}.]+`)

// Key finds the same recorded signal in every injection: name and unit without case, blanks and signs.
func Key(name, unit string) string {
	key := strings.Trim(notInKey.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if unit != "" {
		key += "@" + strings.ToLower(unit)
	}
	return key
}

// Key is the same for the same signal, however it was asked for.
func (s Signal) Key() string {
	if !s.Derived() {
		return Key(s.Name, s.Unit)
	}
	key := string(s.Kind)
	for _, of := range s.Parts {
		key += " (" + of.Key() + ")"
	}
	for _, p := range s.Places {
		key += " " + p.String()
	}
	if s.Level > 1 {
		key += " MS" + strconv.Itoa(s.Level)
	}
	return key
}

// Is tells whether a recorded signal of this name and unit is the one that is meant.
func (s Signal) Is(name, unit string) bool {
	return !s.Derived() && !s.Chosen() && Key(name, unit) == s.Key()
}

// Title is what people read.
func (s Signal) Title() string {
	level := ""
	if s.Level > 1 {
		level = ", MS" + strconv.Itoa(s.Level)
	}
	switch s.Kind {
	case TotalIon:
		return "total ion" + level
	case BasePeak:
		return "base peak" + level
	case Maximum:
		return "maximum over wavelengths"
	case Ions:
		return "m/z " + s.placesText() + level
	case Wavelength:
		return s.placesText() + " nm"
	case Product:
		return "m/z " + s.Places[0].String() + " → " + s.Places[1].String() + level
	case Ratio:
		return s.Parts[0].partTitle() + " ÷ " + s.Parts[1].partTitle()
	case LessBlank:
		return s.Parts[0].partTitle() + " less the blank"
	}
	return s.Name
}

// partTitle is the title as part of another one.
func (s Signal) partTitle() string {
	if s.Chosen() {
		return "first channel"
	}
	return s.Title()
}

// level is that of the mass scans that the signal is derived from.
func (s Signal) level() int {
	if s.Kind == Product {
		return max(2, s.Level)
	}
	return max(1, s.Level)
}

// placesText says a tolerance that all have in common once.
func (s Signal) placesText() string {
	list := make([]string, len(s.Places))
	for i, p := range s.Places {
		list[i] = p.String()
		if i+1 < len(s.Places) && p.tolerance() == s.Places[i+1].tolerance() {
			list[i] = digits(p.At)
		}
	}
	return strings.Join(list, " + ")
}

func digits(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// Validate says in a sentence what keeps a definition from being used.
func (s Signal) Validate() error {
	finite := func(v float64) bool { return v > 0 && v < 1e6 && !math.IsNaN(v) }
	if len(s.Name) > maxText || len(s.Unit) > maxText {
		return fmt.Errorf("signal: its name and unit have at most %d characters", maxText)
	}
	if want := map[Kind]int{Ratio: 2, LessBlank: 1}[s.Kind]; len(s.Parts) != want {
		return fmt.Errorf("signal: a %q is of %d signals, not of %d", s.Kind, want, len(s.Parts))
	}
	for _, of := range s.Parts {
		if len(of.Parts) > 0 || of.Kind == Ratio || of.Kind == LessBlank {
			return fmt.Errorf("signal: %s cannot be part of another one", of.partTitle())
		}
		if err := of.Validate(); err != nil {
			return err
		}
	}
	switch s.Kind {
	case Recorded, TotalIon, BasePeak, Maximum, Ratio, LessBlank:
		return nil
	case Ions, Wavelength, Product:
	default:
		return fmt.Errorf("signal: the kind %q is unknown", s.Kind)
	}
	if s.Kind == Wavelength && len(s.Places) != 1 {
		return errors.New("signal: a wavelength is one number, in nm")
	}
	if s.Kind == Product && len(s.Places) != 2 {
		return errors.New("signal: a product is two m/z, the precursor's and its own")
	}
	if len(s.Places) == 0 || len(s.Places) > maxIons {
		return fmt.Errorf("signal: between 1 and %d ions are taken, not %d", maxIons, len(s.Places))
	}
	for _, p := range s.Places {
		if !finite(p.At) {
			return fmt.Errorf("signal: %g is no m/z or wavelength", p.At)
		}
		if !finite(p.Tolerance) && (s.Kind != Wavelength || p.Tolerance != 0) || p.PPM && s.Kind == Wavelength {
			return fmt.Errorf("signal: the tolerance of %s must be above 0, and of a wavelength in nm", s.Title())
		}
	}
	return nil
}

// bands are the stretches of m/z or wavelength that belong to it.
func (s Signal) bands() []spectra.Band {
	bands := make([]spectra.Band, len(s.Places))
	for i, p := range s.Places {
		bands[i] = p.Band()
	}
	return bands
}

// ErrAbsent says that an injection has no spectra that a signal could be derived from.
var ErrAbsent = errors.New("there are no spectra of this kind")

// Derive computes the signal from the spectra of an injection.
func (s Signal) Derive(from []spectra.Source) (signal.Trace, error) {
	r, err := s.Source(from)
	if err != nil {
		return signal.Trace{}, err
	}
	times, values, err := s.Of(r)
	if err != nil {
		return signal.Trace{}, err
	}
	tr, err := signal.New(times, values)
	tr.Name, tr.Unit = s.Title(), r.Describe().Unit
	return tr, err
}

// Of computes the signal from one run of spectra: times in s and values.
func (s Signal) Of(r spectra.Source) (timesS, values []float64, err error) {
	switch s.Kind {
	case TotalIon:
		values = r.Total()
	case BasePeak, Maximum:
		values = r.BasePeak()
	case Ions:
		values, err = r.Ions(s.bands()...)
	case Wavelength:
		values, err = r.At(s.bands()[0])
	case Product:
		if timesS, values, err = r.Product(s.Places[0].Band(), s.Places[1].Band()); err == nil && len(values) == 0 {
			err = fmt.Errorf("%s: no scan is of this precursor: %w", s.Title(), ErrAbsent)
		}
		return timesS, values, err
	default:
		err = fmt.Errorf("%s is recorded, not derived", s.Title())
	}
	return r.Times(), values, err
}

// Source is the first run of spectra of the kind and level that the signal is derived from.
func (s Signal) Source(from []spectra.Source) (spectra.Source, error) {
	if s.Kind == Ratio || s.Kind == LessBlank { // which are made of signals, not of spectra
		from = nil
	}
	wavelengths := s.Kind == Wavelength || s.Kind == Maximum
	for _, r := range from {
		about := r.Describe()
		if wavelengths == (about.Kind == spectra.Wavelength) && (wavelengths || max(1, about.Level) == s.level()) {
			return r, nil
		}
	}
	return nil, fmt.Errorf("%s: %w", s.Title(), ErrAbsent)
}
