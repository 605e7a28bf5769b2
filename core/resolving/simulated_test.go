package resolving

import (
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"runtime"
	"testing"

	"yugen/core/spectra"
)

// made is how a batch is simulated.
type made struct {
	compounds, samples, scans, places int
	resolution                        float64
	shift                             float64 // standard deviation, in widths at half height
	bleed                             float64 // counts a scan at the end, over all masses; 0 is none
	height                            float64 // counts of the greatest line at the apex
	alike                             float64 // cosine of neighbouring spectra; 0 leaves them to chance
	absent                            float64 // how often a compound is not in a sample
	light                             bool    // broad spectra of a diode array with even noise, in place of counts
}

// poisson is a count of a mean.
func poisson(r *rand.Rand, mean float64) float64 {
	if mean > 60 {
		return math.Max(0, math.Round(mean+math.Sqrt(mean)*r.NormFloat64()))
	}
	limit, product, n := math.Exp(-mean), 1.0, -1.0
	for product > limit {
		product *= r.Float64()
		n++
	}
	return n
}

// make simulates a batch: the stack, the true spectra, and the true areas of each compound.
func (m made) make(seed uint64) (Stack, [][]float64, [][]float64) {
	r := rand.New(rand.NewPCG(seed, 99))
	const width, step = 4.0, 0.25 // s
	pure := make([][]float64, m.compounds)
	for k := range pure {
		pure[k] = m.spectrum(r)
		if k > 0 && m.alike > 0 {
			pure[k] = turned(pure[k-1], pure[k], m.alike)
		}
	}
	bleed := m.spectrum(r)
	middle := float64(m.scans) * step / 2
	areas := make([][]float64, m.compounds)
	s := Stack{Kind: spectra.Mass}
	if m.light {
		s.Kind = spectra.Wavelength
	}
	for j := range m.places {
		s.Axis = append(s.Axis, 40+float64(j))
	}
	for n := range m.samples {
		one := Sample{Name: fmt.Sprint("s", n+1)}
		common := m.shift * width * r.NormFloat64() / 2
		level := 0.5 + r.Float64()
		at, amount, sigma, tail := make([]float64, m.compounds), make([]float64, m.compounds), make([]float64, m.compounds), make([]float64, m.compounds)
		for k := range m.compounds {
			at[k] = middle + (float64(k)-float64(m.compounds-1)/2)*m.resolution*1.7*width + common + 0.3*m.shift*width*r.NormFloat64()
			amount[k] = math.Exp(2.3 * r.Float64() * 1.5)
			if r.Float64() < m.absent {
				amount[k] = 0
			}
			sigma[k], tail[k] = width/2.355*(0.95+0.1*r.Float64()), 0.2+0.2*r.Float64()
		}
		elutes := make([][]float64, m.compounds)
		for k := range elutes {
			elutes[k] = make([]float64, m.scans)
			for i := range elutes[k] {
				d := (float64(i)*step - at[k]) / sigma[k]
				if d > 0 {
					d /= 1 + tail[k]
				}
				elutes[k][i] = math.Exp(-d * d / 2)
			}
		}
		for i := range m.scans {
			row := make([]float64, m.places)
			for j := range row {
				v := 0.0
				for k := range elutes {
					v += amount[k] * elutes[k][i] * pure[k][j] * m.height / 10
				}
				v += m.bleed * level * (0.3 + 0.7*float64(i)/float64(m.scans)) * bleed[j]
				if m.light {
					row[j] = v + r.NormFloat64()
				} else {
					row[j] = poisson(r, v+3)
				}
			}
			one.TimesS, one.Values = append(one.TimesS, 300+float64(i)*step), append(one.Values, row)
		}
		for k := range elutes {
			sum := 0.0
			for _, v := range elutes[k] {
				sum += v
			}
			areas[k] = append(areas[k], amount[k]*sum)
		}
		s.Samples = append(s.Samples, one)
	}
	return s, pure, areas
}

// spectrum has its largest line at 1.
func (m made) spectrum(r *rand.Rand) []float64 {
	out := make([]float64, m.places)
	largest := 0.0
	if m.light {
		for range 3 {
			at, wide, high := r.Float64()*float64(m.places), float64(m.places)*(0.05+0.1*r.Float64()), 0.2+r.Float64()
			for j := range out {
				out[j] += high * math.Exp(-math.Pow((float64(j)-at)/wide, 2)/2)
			}
		}
	} else {
		for range 8 + r.IntN(20) {
			out[r.IntN(m.places)] += math.Pow(r.Float64(), 3)
		}
	}
	for _, v := range out {
		largest = math.Max(largest, v)
	}
	for j := range out {
		out[j] /= largest
	}
	return out
}

// turned mixes a spectrum into another one until they stand at a cosine.
func turned(a, b []float64, cos float64) []float64 {
	low, high := 0.0, 1.0
	mix := func(t float64) []float64 {
		out := make([]float64, len(a))
		for j := range a {
			out[j] = (1-t)*a[j] + t*b[j]
		}
		return out
	}
	for range 50 {
		if t := (low + high) / 2; Cosine(a, mix(t)) > cos {
			low = t
		} else {
			high = t
		}
	}
	return mix(high)
}

// Ordinary batches come apart with the number found by itself, whatever their compounds, shifts, bleed and absences.
func TestOrdinaryBatchesComeApart(t *testing.T) {
	wrong, worstCos, worstR, all := 0, 1.0, 1.0, 0
	for n := 1; n <= 5; n++ {
		for _, resolution := range []float64{0.3, 0.5, 1} {
			for seed := range uint64(2) {
				m := made{compounds: n, samples: 10, scans: 160, places: 100, resolution: resolution, shift: 0.4 * float64(seed), bleed: 40 * float64((n+int(seed))%2), height: 4000, absent: 0.1 * float64(seed)}
				s, pure, areas := m.make(100*uint64(n) + 10*uint64(10*resolution) + seed)
				got, err := Resolve(s, Options{})
				if err != nil {
					t.Fatal(err)
				}
				found, cos, r := against(got, pure, func(k int) []float64 { return areas[k] })
				all++
				if found != n {
					wrong++
					t.Logf("%+v: %d found, %d in all, excess %v", m, found, len(got.Components), got.Excess)
					continue
				}
				if cos < 0.998 || r < 0.999 {
					t.Logf("%+v: cosine %.4f, r %.4f, bands %v", m, cos, r, bandsOf(got))
				}
				worstCos, worstR = math.Min(worstCos, cos), math.Min(worstR, r)
			}
		}
	}
	t.Logf("%d of %d wrong, worst cosine %.5f, worst r %.5f", wrong, all, worstCos, worstR)
	if wrong > 1 || worstCos < 0.998 || worstR < 0.998 {
		t.Errorf("%d of %d batches have another number, the worst cosine is %.5f, the worst correlation %.5f", wrong, all, worstCos, worstR)
	}
}

func bandsOf(r Result) (list []float64) {
	for _, c := range r.Components {
		list = append(list, math.Round(1000*c.Band)/1000)
	}
	return list
}

// What cannot be told apart is doubted in words: hardly a component with a wrong spectrum goes without, and hardly one that is right with.
func TestWhatCannotBeToldApartIsDoubted(t *testing.T) {
	bad, missed, good, alarms := 0, 0, 0, 0
	for _, m := range []made{
		{compounds: 2, samples: 8, scans: 120, places: 80, resolution: 0.5, shift: 0.3, height: 400, alike: 0.95},
		{compounds: 3, samples: 8, scans: 140, places: 80, resolution: 0.5, shift: 0.3, height: 4000, alike: 0.95},
		{compounds: 2, samples: 8, scans: 120, places: 80, resolution: 0.4, shift: 0.3, height: 4000, alike: 0.99},
		{compounds: 3, samples: 8, scans: 120, places: 80, resolution: 0.2, shift: 0.2, height: 1000, bleed: 30},
		{compounds: 3, samples: 8, scans: 140, places: 80, resolution: 0.5, shift: 0.3, height: 40},
	} {
		for seed := range uint64(4) {
			s, pure, _ := m.make(400 + seed)
			got, err := Resolve(s, Options{})
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range got.Components {
				if c.Background {
					continue
				}
				best := 0.0
				for _, spectrum := range pure {
					best = math.Max(best, Cosine(c.Spectrum, spectrum))
				}
				doubted := len(c.Doubts) > 0 || got.Agree < agreeing
				switch {
				case best < 0.97 && !doubted:
					bad, missed = bad+1, missed+1
					t.Logf("%+v, seed %d: a cosine of %.3f without a word", m, seed, best)
				case best < 0.97:
					bad++
				case best > 0.995 && doubted:
					good, alarms = good+1, alarms+1
				case best > 0.995:
					good++
				}
			}
		}
	}
	t.Logf("%d of %d wrong ones without a word, %d of %d right ones with", missed, bad, alarms, good)
	if bad < 3 || missed > 0 || alarms > good/2 {
		t.Errorf("%d of %d wrong spectra are told without a word of doubt; of %d right ones %d are doubted", missed, bad, good, alarms)
	}
}

// Spectra of a diode array, one sample alone, many compounds, and nothing at all.
func TestOtherDetectorsAndNumbers(t *testing.T) {
	for name, m := range map[string]made{
		"a diode array":   {compounds: 2, samples: 8, scans: 140, places: 90, resolution: 0.9, shift: 0.2, height: 2000, light: true},
		"one sample":      {compounds: 2, samples: 1, scans: 160, places: 100, resolution: 0.7, height: 4000},
		"eight compounds": {compounds: 8, samples: 12, scans: 300, places: 120, resolution: 0.6, shift: 0.3, height: 4000, bleed: 50},
		"huge counts":     {compounds: 2, samples: 6, scans: 160, places: 80, resolution: 0.6, shift: 1, height: 4e7},
	} {
		s, pure, areas := m.make(17)
		got, err := Resolve(s, Options{})
		if err != nil {
			t.Fatal(name, err)
		}
		n, cos, r := against(got, pure, func(k int) []float64 { return areas[k] })
		if n != m.compounds || cos < 0.99 || m.samples > 1 && r < 0.99 {
			t.Errorf("%s: %d of %d, cosine %.4f, r %.4f", name, n, m.compounds, cos, r)
		}
	}
	empty, _, _ := made{compounds: 1, samples: 5, scans: 100, places: 60, resolution: 1, height: 0}.make(3)
	if got, err := Resolve(empty, Options{}); err != nil || len(got.Components) != 0 || len(got.Doubts) == 0 {
		t.Errorf("noise alone is %d components, %v", len(got.Components), err)
	}
}

// The same stack gives the same numbers on one core and on several, to the last bit; the number given, they stay.
func TestResolvingIsTheSameOnAnyMachine(t *testing.T) {
	s, pure, areas := made{compounds: 3, samples: 6, scans: 120, places: 70, resolution: 0.5, shift: 0.3, height: 2000, bleed: 30}.make(8)
	cores := runtime.GOMAXPROCS(1)
	one, err := Resolve(s, Options{})
	runtime.GOMAXPROCS(4)
	four, again := Resolve(s, Options{})
	runtime.GOMAXPROCS(cores)
	if err != nil || again != nil || !reflect.DeepEqual(one, four) {
		t.Errorf("one core and four give different results, %v, %v", err, again)
	}
	for _, way := range []func(Stack, Options) (Result, error){Resolve, Tolerant} {
		given, err := way(s, Options{Compounds: 3})
		n, cos, r := against(given, pure, func(k int) []float64 { return areas[k] })
		if err != nil || n != 3 || cos < 0.99 || r < 0.99 || given.ChosenBy != "given" {
			t.Errorf("given 3: %d, cosine %.4f, r %.4f, chosen by %s, %v", n, cos, r, given.ChosenBy, err)
		}
	}
}

func TestOddStacksAreRefused(t *testing.T) {
	scan := func(at float64, values ...float64) spectra.Scan {
		s := spectra.Scan{TimeS: at}
		for k, v := range values {
			s.Axis, s.Values = append(s.Axis, 50+float64(k)), append(s.Values, v)
		}
		return s
	}
	var few, narrow, wide, plain []spectra.Scan
	for k := range 40 {
		at := float64(k)
		if k < 11 {
			few = append(few, scan(at, 1, 2, 3, 4))
		}
		narrow = append(narrow, scan(at, 1, 2))
		wide = append(wide, spectra.Scan{TimeS: at, Axis: []float64{50, 9000}, Values: []float64{1, 2}})
		plain = append(plain, scan(at, math.NaN(), math.Inf(1), 3, 4))
	}
	for name, runs := range map[string][][]spectra.Scan{"none": nil, "few scans": {few}, "narrow": {narrow}, "too wide": {wide}, "one short": {plain, few}} {
		names := make([]string, len(runs))
		if _, err := NewStack(spectra.Mass, names, runs); err == nil {
			t.Errorf("%s is taken", name)
		}
	}
	s, err := NewStack(spectra.Mass, []string{"a"}, [][]spectra.Scan{plain})
	if err != nil {
		t.Fatal(err)
	}
	if got, err := Resolve(s, Options{}); err != nil || math.IsNaN(got.Explained) {
		t.Errorf("values that are no numbers, and no noise: %+v, %v", got, err)
	}
	for _, o := range []Options{{Compounds: -1}, {Compounds: 11}} {
		if _, err := Resolve(s, o); err == nil {
			t.Errorf("%+v is taken", o)
		}
	}
}
