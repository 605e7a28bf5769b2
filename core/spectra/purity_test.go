package spectra

import (
	"errors"
	"flag"
	"math"
	"math/rand/v2"
	"testing"
)

// Angles worked by hand, and one so small that the cosine would have lost it.
func TestAngles(t *testing.T) {
	for _, c := range []struct {
		a, b []float64
		want float64
	}{{[]float64{1, 0}, []float64{0, 5}, 90}, {[]float64{1, 0}, []float64{3, 3}, 45}, {[]float64{1, 2}, []float64{10, 20}, 0}, {[]float64{1, 0}, []float64{-1, 0}, 180}, {[]float64{1, 0}, []float64{1e300, 1e294}, 1e-6 * 180 / math.Pi}} {
		if got := Angle(c.a, c.b); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%v and %v: %g, want %g", c.a, c.b, got, c.want)
		}
	}
	if !math.IsNaN(Angle([]float64{0, 0}, []float64{1, 0})) || !math.IsNaN(Angle([]float64{1}, []float64{1, 2})) {
		t.Error("of nothing there is an angle")
	}
}

// Noise alone exceeds the limit as often as the limit says, for even and for very uneven noise, from few wavelengths to many.
func TestTheLimitOfNoise(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 5))
	for _, n := range []int{3, 20, 150} {
		for _, uneven := range []bool{false, true} {
			shape, noise := make([]float64, n), make([]float64, n)
			for k := range shape {
				shape[k] = 100 * math.Exp(-math.Pow((float64(k)/float64(n)-0.4)/0.2, 2))
				noise[k] = 0.5
				if uneven {
					noise[k] = 0.1 + 2*math.Pow(float64(k)/float64(n), 3)
				}
			}
			const runs = 4000
			over := 0
			for range runs {
				a, b := make([]float64, n), make([]float64, n)
				for k := range a {
					a[k], b[k] = 0.3*shape[k]+noise[k]*r.NormFloat64(), shape[k]+noise[k]/2*r.NormFloat64()
				}
				if Angle(a, b) > AngleLimit(shape, noise, 1/0.09+0.25, 0.05) {
					over++
				}
			}
			if share := float64(over) / float64(runs); share < 0.03 || share > 0.07 {
				t.Errorf("%d wavelengths, uneven %v: %.3f exceed the limit of 0.05", n, uneven, share)
			}
		}
	}
}

// shapeWidth is how many wavelengths a simulated spectrum has.
const shapeWidth = 120

// shapesAt are the spectra of two compounds that stand at an angle, in degrees.
func shapesAt(angle float64) (first, other []float64) {
	n := shapeWidth
	first, other = make([]float64, n), make([]float64, n)
	for k := range first {
		first[k] = math.Exp(-math.Pow((float64(k)-40)/18, 2)) + 0.4*math.Exp(-math.Pow((float64(k)-85)/12, 2))
		other[k] = math.Exp(-math.Pow((float64(k)-60)/25, 2))
	}
	// The other spectrum is turned until it stands at the angle.
	u, v := normalised(first), normalised(other)
	along := 0.0
	for k := range u {
		along += u[k] * v[k]
	}
	across := make([]float64, n)
	for k := range across {
		across[k] = v[k] - along*u[k]
	}
	across = normalised(across)
	sin, cos := math.Sincos(angle * math.Pi / 180)
	length := norm(first)
	for k := range other {
		other[k] = length * (cos*u[k] + sin*across[k])
	}
	return first, other
}

// peakOf is a simulated run: a peak whose height over the noise at its best wavelength is so much, with a share of another compound at a resolution, whose
// spectrum stands at an angle to the first; a gradient runs beneath.
func peakOf(r *rand.Rand, heightOverNoise, share, resolution, angle float64) (peak, before, after []Scan) {
	n := shapeWidth
	first, other := shapesAt(angle)
	const sigma = 4.0 // s, at 5 spectra a second: a peak of 16 s at the base has 80 spectra
	apart := resolution * 4 * sigma
	at := func(s float64) Scan {
		scan := Scan{TimeS: s, Axis: make([]float64, n), Values: make([]float64, n)}
		a, b := heightOverNoise*(1-share)*math.Exp(-s*s/2/sigma/sigma), heightOverNoise*share*math.Exp(-(s-apart)*(s-apart)/2/sigma/sigma)
		for k := range scan.Values {
			scan.Axis[k] = 200 + 2*float64(k)
			scan.Values[k] = a*first[k] + b*other[k] + 30 + 0.02*(s+60)*(1-float64(k)/float64(n)) + r.NormFloat64()
		}
		return scan
	}
	for s := -4.2 * sigma; s <= apart+4.2*sigma; s += 0.2 {
		peak = append(peak, at(s))
	}
	for s := 0.0; s < 12; s += 0.2 {
		before, after = append(before, at(-6*sigma-12+s)), append(after, at(apart+6*sigma+s))
	}
	return peak, before, after
}

func normalised(v []float64) []float64 {
	out, length := make([]float64, len(v)), norm(v)
	for k := range v {
		out[k] = v[k] / length
	}
	return out
}

var purityRuns = flag.Int("purity-runs", 150, "simulated peaks of each kind")

// A pure peak is called impure in at most 5 of 100 runs; 5 % of another compound at a resolution of 0.5, whose spectrum stands at 15 degrees, is found in 95.
func TestPurityBySimulation(t *testing.T) {
	runs := *purityRuns
	for _, over := range []float64{200, 1000, 5000} {
		for _, c := range []struct {
			what                     string
			share, resolution, angle float64
			least, most              float64 // share of the runs called impure
		}{{"pure", 0, 0.5, 15, 0, 0.05}, {"5 % at 0.5 and 15 degrees", 0.05, 0.5, 15, 0.95, 1}, {"5 % of the same spectrum", 0.05, 0.5, 0, 0, 0.05}, {"5 % before the apex", 0.05, -0.5, 15, 0.95, 1}} {
			r := rand.New(rand.NewPCG(uint64(over), uint64(100*c.share+10*math.Abs(c.resolution)+c.angle)))
			found := 0
			for range runs {
				peak, before, after := peakOf(r, over, c.share, math.Abs(c.resolution), c.angle)
				if c.resolution < 0 { // the same run backwards
					peak, before, after = backwards(peak), backwards(after), backwards(before)
				}
				p, err := PurityOf(peak, before, after)
				if err != nil {
					t.Fatal(err)
				}
				if p.Weak {
					t.Fatalf("%g, %s: too weak to tell", over, c.what)
				}
				if p.Impure {
					found++
					if p.FromMin > p.ToMin || p.Largest <= 0 {
						t.Fatalf("%+v", p)
					}
				}
			}
			if share := float64(found) / float64(runs); share < c.least || share > c.most {
				t.Errorf("S/N %g, %s: called impure in %.3f of the runs", over, c.what, share)
			}
		}
	}
}

func backwards(scans []Scan) []Scan {
	out := make([]Scan, len(scans))
	for k, s := range scans {
		s.TimeS = -s.TimeS
		out[len(scans)-1-k] = s
	}
	return out
}

func TestPurityThatCannotBeTold(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	peak, before, after := peakOf(r, 200, 0, 0.5, 15)
	if _, err := PurityOf(peak, before[:3], nil); !errors.Is(err, ErrNoBaseline) {
		t.Errorf("without baseline: %v", err)
	}
	odd := append([]Scan{}, peak...)
	odd[4] = Scan{TimeS: odd[4].TimeS, Axis: []float64{1}, Values: []float64{1}}
	if _, err := PurityOf(odd, before, after); err == nil {
		t.Error("spectra on two grids were taken")
	}
	weak, before, after := peakOf(r, 2, 0, 0.5, 15)
	if p, err := PurityOf(weak, before, after); err != nil || !p.Weak || p.Impure {
		t.Errorf("a peak in the noise: %+v, %v", p, err)
	}
	if p, err := PurityOf(peak, before, nil); err != nil || p.Weak {
		t.Errorf("with baseline on one side: weak %v, %v", p.Weak, err)
	}
}

// What remains where a peak turns is the other compound's spectrum, as far as noise lets it be seen; of a pure peak nothing remains.
func TestTheRestIsTheOtherCompound(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 1))
	for _, share := range []float64{0.05, 0.2} {
		peak, before, after := peakOf(r, 2000, share, 0.8, 40)
		p, err := PurityOf(peak, before, after)
		if err != nil || !p.Impure {
			t.Fatalf("%v, %+v", err, p)
		}
		rest, of := Rest(peak, before, after, p)
		_, other := shapesAt(40)
		if angle := Angle(rest, other); angle > 25 || of <= 0 || of > 1 {
			t.Errorf("a share of %g: the rest stands %.1f° from the other compound, %.2f of the signal", share, angle, of)
		}
	}
	peak, before, after := peakOf(r, 2000, 0, 0.8, 40)
	p, err := PurityOf(peak, before, after)
	if rest, _ := Rest(peak, before, after, p); err != nil || rest != nil {
		t.Errorf("of a pure peak %d wavelengths remain, %v", len(rest), err)
	}
}
