// Package amounts holds quantities with real units, what a lab makes of a concentration by dilution, volume and sample
// amount, and the statistics of replicates.
package amounts

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"
)

// Unit is a unit of mass, volume, amount of substance, or a product of powers of them.
type Unit struct {
	Symbol string
	scale  float64 // to g, L, mol
	dims   dims
	// share tells mass per mass from volume per volume and plain numbers, which all have no dimension.
	share string
}

type dims struct{ mass, volume, substance int }

var simple = map[string]Unit{
	"kg": {"kg", 1e3, dims{mass: 1}, ""}, "g": {"g", 1, dims{mass: 1}, ""}, "mg": {"mg", 1e-3, dims{mass: 1}, ""},
	"µg": {"µg", 1e-6, dims{mass: 1}, ""}, "ng": {"ng", 1e-9, dims{mass: 1}, ""}, "pg": {"pg", 1e-12, dims{mass: 1}, ""},
	"L": {"L", 1, dims{volume: 1}, ""}, "mL": {"mL", 1e-3, dims{volume: 1}, ""}, "µL": {"µL", 1e-6, dims{volume: 1}, ""},
	"mol": {"mol", 1, dims{substance: 1}, ""}, "mmol": {"mmol", 1e-3, dims{substance: 1}, ""},
	"µmol": {"µmol", 1e-6, dims{substance: 1}, ""}, "nmol": {"nmol", 1e-9, dims{substance: 1}, ""},
	"1": {"1", 1, dims{}, ""},
	// Parts of a whole mean nothing until the whole is said.
	"% (m/m)": {"% (m/m)", 1e-2, dims{}, "m/m"}, "ppm (m/m)": {"ppm (m/m)", 1e-6, dims{}, "m/m"}, "ppb (m/m)": {"ppb (m/m)", 1e-9, dims{}, "m/m"},
	"% (v/v)": {"% (v/v)", 1e-2, dims{}, "v/v"}, "ppm (v/v)": {"ppm (v/v)", 1e-6, dims{}, "v/v"}, "ppb (v/v)": {"ppb (v/v)", 1e-9, dims{}, "v/v"},
	"% (m/v)": {"% (m/v)", 10, dims{mass: 1, volume: -1}, ""}, "ppm (m/v)": {"ppm (m/v)", 1e-3, dims{mass: 1, volume: -1}, ""},
	"ppb (m/v)": {"ppb (m/v)", 1e-6, dims{mass: 1, volume: -1}, ""},
	"mol/L":     molar("mol/L", 1), "M": molar("M", 1), "mM": molar("mM", 1e-3), "µM": molar("µM", 1e-6), "nM": molar("nM", 1e-9),
}

func molar(symbol string, scale float64) Unit {
	return Unit{symbol, scale, dims{substance: 1, volume: -1}, ""}
}

// usual turns the usual spellings of a unit into the one that is known: l for L, u for µ, a product with a negative power for a ratio.
var usual = strings.NewReplacer("μ", "µ", "⁻¹", "-1", "·", " ", "^", "")

func usualSpelling(symbol string) string {
	s := strings.Join(strings.Fields(usual.Replace(strings.TrimSpace(symbol))), " ")
	if i := strings.Index(s, "("); i > 0 { // parts of a whole: ppm(m/m), ppm (w/v)
		whole := strings.NewReplacer("w", "m", " ", "").Replace(strings.ToLower(s[i:]))
		return strings.TrimSpace(s[:i]) + " " + whole
	}
	if top, bottom, ok := strings.Cut(s, " "); ok && strings.HasSuffix(bottom, "-1") {
		s = top + "/" + strings.TrimSuffix(bottom, "-1")
	}
	parts := strings.Split(s, "/")
	for i, p := range parts {
		p = strings.TrimSpace(p)
		if strings.HasPrefix(p, "u") && len(p) > 1 {
			p = "µ" + p[1:]
		}
		if p == "mcg" {
			p = "µg"
		}
		if strings.HasSuffix(p, "l") && !strings.HasSuffix(p, "ol") {
			p = strings.TrimSuffix(p, "l") + "L"
		}
		parts[i] = p
	}
	return strings.Join(parts, "/")
}

// ParseUnit reads a symbol such as mg, mL, mg/L, µg/g or "% (m/m)". Bare percent, ppm and ppb are refused, since they do not say
// of what.
func ParseUnit(symbol string) (Unit, error) {
	s := usualSpelling(symbol)
	if u, ok := simple[s]; ok {
		return u, nil
	}
	switch s {
	case "%", "ppm", "ppb":
		return Unit{}, fmt.Errorf("amounts: %q does not say of what; write %s (m/m) for mass in mass", s, s)
	}
	top, bottom, ratio := strings.Cut(s, "/")
	a, okA := simple[strings.TrimSpace(top)]
	b, okB := simple[strings.TrimSpace(bottom)]
	if !ratio || !okA || !okB || strings.Contains(top+bottom, "(") {
		return Unit{}, fmt.Errorf("amounts: the unit %q is unknown; write for example mg/L, µg/mL, mg/g or mmol/L", symbol)
	}
	u := Unit{s, a.scale / b.scale, a.dims.minus(b.dims), ""}
	if u.dims == (dims{}) {
		u.share = a.dims.shareOf()
	}
	return u, nil
}

// shareOf is what kind of share a quantity has in another of its own kind.
func (d dims) shareOf() string {
	switch {
	case d.mass != 0:
		return "m/m"
	case d.volume != 0:
		return "v/v"
	case d.substance != 0:
		return "n/n"
	}
	return ""
}

func (d dims) plus(e dims) dims {
	return dims{d.mass + e.mass, d.volume + e.volume, d.substance + e.substance}
}
func (d dims) minus(e dims) dims {
	return dims{d.mass - e.mass, d.volume - e.volume, d.substance - e.substance}
}

// Quantity is a value with its unit.
type Quantity struct {
	Value float64
	Unit  Unit
}

// ErrUnlike is what adding or converting between unlike units gives.
var ErrUnlike = errors.New("unlike units")

// In converts to another unit of the same kind.
func (q Quantity) In(u Unit) (Quantity, error) {
	if q.Unit.dims != u.dims || u.dims == (dims{}) && q.Unit.share != u.share {
		return Quantity{}, fmt.Errorf("amounts: %s cannot be turned into %s: %w", q.Unit.Symbol, u.Symbol, ErrUnlike)
	}
	return Quantity{q.Value * q.Unit.scale / u.scale, u}, nil
}

// Plus adds in the unit of q.
func (q Quantity) Plus(r Quantity) (Quantity, error) {
	if q.Unit.dims == (dims{}) && q.Unit.share != r.Unit.share {
		return Quantity{}, fmt.Errorf("amounts: %s and %s cannot be added: %w", q.Unit.Symbol, r.Unit.Symbol, ErrUnlike)
	}
	s, err := r.In(q.Unit)
	if err != nil {
		return Quantity{}, fmt.Errorf("amounts: %s and %s cannot be added: %w", q.Unit.Symbol, r.Unit.Symbol, ErrUnlike)
	}
	return Quantity{q.Value + s.Value, q.Unit}, nil
}

// Times and Over multiply and divide, units with them.
func (q Quantity) Times(r Quantity) Quantity {
	return Quantity{q.Value * r.Value, Unit{q.Unit.Symbol + "·" + r.Unit.Symbol, q.Unit.scale * r.Unit.scale, q.Unit.dims.plus(r.Unit.dims), ""}}
}

// Over divides q by r.
func (q Quantity) Over(r Quantity) Quantity {
	return Quantity{q.Value / r.Value, Unit{q.Unit.Symbol + "/(" + r.Unit.Symbol + ")", q.Unit.scale / r.Unit.scale, q.Unit.dims.minus(r.Unit.dims), ""}}
}

// Preparation is how a sample became what was injected.
type Preparation struct {
	Dilution float64  // 1 for none
	Volume   Quantity // of the extract
	Sample   Quantity // taken
	Factor   float64  // the lab's own; 1 for none
	// MolarMass, g/mol, is wanted where mass is to become amount of substance or the other way; 0 is not known.
	MolarMass float64
}

// Content is the amount in the sample as taken: concentration · dilution · volume / sample · factor, in the given unit.
func (p Preparation) Content(concentration Quantity, in Unit) (Quantity, error) {
	if !(p.Dilution > 0) || !(p.Factor > 0) {
		return Quantity{}, fmt.Errorf("amounts: dilution %g and factor %g must both be above 0", p.Dilution, p.Factor)
	}
	if !(p.Sample.Value > 0) || !(p.Volume.Value > 0) {
		return Quantity{}, fmt.Errorf("amounts: sample amount %g and volume %g must both be above 0", p.Sample.Value, p.Volume.Value)
	}
	extracted := concentration.Times(p.Volume)
	if concentration.Unit.dims == (dims{}) { // a share of the extract is that much of it, of its own kind
		if whole := p.Volume.Unit.dims.shareOf(); concentration.Unit.share != whole {
			return Quantity{}, fmt.Errorf("amounts: %s of an extract in %s needs its density: %w", concentration.Unit.Symbol, p.Volume.Unit.Symbol, ErrUnlike)
		}
	}
	q := extracted.Over(p.Sample)
	if q.Unit.dims == (dims{}) {
		q.Unit.share = extracted.Unit.dims.shareOf()
	}
	q.Value *= p.Dilution * p.Factor
	return q.InWith(in, p.MolarMass)
}

// InWith converts as In does, and between mass and amount of substance by a molar mass (g/mol), where that is above 0.
func (q Quantity) InWith(u Unit, molarMass float64) (Quantity, error) {
	converted, err := q.In(u)
	if err == nil || !(molarMass > 0) {
		return converted, err
	}
	bySubstance := Quantity{q.Value, Unit{q.Unit.Symbol, q.Unit.scale / molarMass, q.Unit.dims.plus(dims{mass: -1, substance: 1}), "n/n"}}
	if substance, err := bySubstance.In(u); err == nil {
		return substance, nil
	}
	byMass := Quantity{q.Value, Unit{q.Unit.Symbol, q.Unit.scale * molarMass, q.Unit.dims.plus(dims{mass: 1, substance: -1}), "m/m"}}
	if mass, err := byMass.In(u); err == nil {
		return mass, nil
	}
	return Quantity{}, err
}

// Statistics of replicates. What needs two values is nil with fewer.
type Statistics struct {
	N    int      `json:"n"`
	Mean *float64 `json:"mean"`
	SD   *float64 `json:"sd"`
	RSD  *float64 `json:"rsd_percent"`
}

// Summarise gives mean, standard deviation (n - 1) and relative standard deviation (%).
func Summarise(values []float64) Statistics {
	s := Statistics{N: len(values)}
	if s.N == 0 {
		return s
	}
	mean := 0.0
	for _, v := range values {
		mean += v / float64(s.N)
	}
	s.Mean = &mean
	if s.N < 2 {
		return s
	}
	ss := 0.0
	for _, v := range values {
		ss += (v - mean) * (v - mean)
	}
	sd := math.Sqrt(ss / float64(s.N-1))
	s.SD = &sd
	if mean != 0 {
		rsd := 100 * sd / math.Abs(mean)
		s.RSD = &rsd
	}
	return s
}

// StudentT95 is the factor by which a standard uncertainty becomes half of a 95 % interval, at the degrees of freedom.
func StudentT95(freedom float64) float64 {
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: min(freedom, 1e6)}.Quantile(0.975)
}
