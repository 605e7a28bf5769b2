package resolving

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// compared holds two results of the same compounds against each other: as many of them, in order of time, with the same spectra, and areas by a factor, of the
// samples that both have.
func compared(t *testing.T, what string, a, b Result, factor, laterMin, within float64) {
	t.Helper()
	if len(a.Components) != len(b.Components) {
		t.Errorf("%s: %d components, %d before", what, len(b.Components), len(a.Components))
		return
	}
	for k, c := range a.Components {
		d := b.Components[k]
		if c.Background {
			continue
		}
		if cos := Cosine(c.Spectrum, d.Spectrum); cos < 1-within {
			t.Errorf("%s: the spectrum of %d is turned to a cosine of %.5f", what, k+1, cos)
		}
		if math.Abs(d.ApexMin-c.ApexMin-laterMin) > 0.005 {
			t.Errorf("%s: %d stands at %.4f min, before at %.4f", what, k+1, d.ApexMin, c.ApexMin)
		}
		largest := 0.0
		for _, p := range c.Samples {
			largest = math.Max(largest, p.AreaS)
		}
		for _, p := range c.Samples {
			i := slices.IndexFunc(d.Samples, func(q Portion) bool { return q.Sample == p.Sample })
			if i < 0 || math.Abs(d.Samples[i].AreaS-factor*p.AreaS) > factor*(within*largest+4*p.SE) {
				t.Errorf("%s: the area of %d in %s is not %g times %g", what, k+1, p.Sample, factor, p.AreaS)
			}
		}
	}
}

func resolved(t *testing.T, s Stack) Result {
	t.Helper()
	r, err := Resolve(s, Options{})
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// changed is a stack of which every scan was changed.
func changed(s Stack, times func(float64) float64, values func(float64) float64) Stack {
	out := Stack{Kind: s.Kind, Axis: s.Axis}
	for _, one := range s.Samples {
		c := Sample{Name: one.Name}
		for i, row := range one.Values {
			to := make([]float64, len(row))
			for j, v := range row {
				to[j] = values(v)
			}
			c.TimesS, c.Values = append(c.TimesS, times(one.TimesS[i])), append(c.Values, to)
		}
		out.Samples = append(out.Samples, c)
	}
	return out
}

func same(v float64) float64 { return v }

// What is found depends neither on the order of the samples, nor on the clock, nor, with even noise, on the unit of the signal; and a sample in which nothing elutes
// changes nothing and has nothing.
func TestWhatIsResolvedFollowsTheSamples(t *testing.T) {
	for seed := range uint64(3) {
		m := made{compounds: 2 + int(seed)%2, samples: 5, scans: 130, places: 40, resolution: 0.6, shift: 0.05, height: 300, light: true}
		s, _, _ := m.make(70 + seed)
		as := resolved(t, s)
		what := func(law string) string { return fmt.Sprintf("seed %d, %s", seed, law) }

		reversed := Stack{Kind: s.Kind, Axis: s.Axis, Samples: slices.Clone(s.Samples)}
		slices.Reverse(reversed.Samples)
		compared(t, what("reversed"), as, resolved(t, reversed), 1, 0, 0.01)

		compared(t, what("an hour later"), as, resolved(t, changed(s, func(v float64) float64 { return v + 3600 }, same)), 1, 60, 0.001)
		compared(t, what("in a thousandth of the unit"), as, resolved(t, changed(s, same, func(v float64) float64 { return 1000 * v })), 1000, 0, 0.001)
		compared(t, what("in a million times the unit"), as, resolved(t, changed(s, same, func(v float64) float64 { return v / 1e6 })), 1e-6, 0, 0.001)

		noise := rand.New(rand.NewPCG(seed, 3))
		empty := changed(Stack{Kind: s.Kind, Axis: s.Axis, Samples: s.Samples[:1]}, same, func(float64) float64 { return noise.NormFloat64() }).Samples[0]
		empty.Name = "nothing"
		with := Stack{Kind: s.Kind, Axis: s.Axis, Samples: append(slices.Clone(s.Samples), empty)}
		beside := resolved(t, with)
		compared(t, what("beside an empty sample"), as, beside, 1, 0, 0.02)
		for k, c := range beside.Components {
			largest, here := 0.0, 0.0
			for _, p := range c.Samples {
				if p.Sample == "nothing" {
					here = p.AreaS
				}
				largest = math.Max(largest, p.AreaS)
			}
			if here > 0.02*largest {
				t.Errorf("%s: %g of component %d, of which the most is %g, in a sample without anything", what("beside an empty sample"), here, k+1, largest)
			}
		}
	}
}
