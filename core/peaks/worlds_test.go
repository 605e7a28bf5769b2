package peaks

import (
	"math"
	"math/cmplx"
	"math/rand/v2"
	"slices"
	"testing"

	"yugen/core/signal"
)

// world is a chromatogram under construction: true shapes on a ground, with noise of a kind.
type world struct {
	hz, endS float64
	shapes   []emg
	ground   func(t float64) float64
	noise    func(rng *rand.Rand, clean []float64, hz float64) []float64 // what is added; nil: none
}

func (w world) trace(t *testing.T, rng *rand.Rand) signal.Trace {
	t.Helper()
	y := make([]float64, int(w.endS*w.hz))
	for i := range y {
		at := float64(i) / w.hz
		for _, s := range w.shapes {
			if from, to := s.reach(); at >= from && at <= to {
				y[i] += s.at(at)
			}
		}
	}
	clean := slices.Clone(y)
	if w.ground != nil {
		for i := range y {
			y[i] += w.ground(float64(i) / w.hz)
		}
	}
	if w.noise != nil {
		for i, v := range w.noise(rng, clean, w.hz) {
			y[i] += v
		}
	}
	tr, err := signal.NewUniform(0, 1/w.hz, y)
	if err != nil {
		t.Fatal(err)
	}
	return tr
}

// shaped is a peak of a height and width at half height (s), with its tail in units of sigma.
func shaped(atS, height, widthS, tail float64) emg {
	e := emg{area: 1, sigma: 1, tau: tail}
	mode := e.mode()
	top := e.at(mode)
	sigma := widthS / (e.crossing(mode, top/2, 1) - e.crossing(mode, top/2, -1))
	return emg{area: height * sigma / top, centre: atS - mode*sigma, sigma: sigma, tau: tail * sigma}
}

func whiteNoise(sd float64) func(*rand.Rand, []float64, float64) []float64 {
	return func(rng *rand.Rand, clean []float64, _ float64) []float64 {
		out := make([]float64, len(clean))
		for i := range out {
			out[i] = sd * rng.NormFloat64()
		}
		return out
	}
}

// slowDetector is noise that passed a filter of one time constant.
func slowDetector(sd, timeConstantS float64) func(*rand.Rand, []float64, float64) []float64 {
	return func(rng *rand.Rand, clean []float64, hz float64) []float64 {
		keep := math.Exp(-1 / (timeConstantS * hz))
		out, state := make([]float64, len(clean)), 0.0
		for i := -1000; i < len(out); i++ {
			state = keep*state + math.Sqrt(1-keep*keep)*rng.NormFloat64()
			if i >= 0 {
				out[i] = sd * state
			}
		}
		return out
	}
}

// flicker has a 1/f spectrum: random phases, amplitudes as the root of 1/f, by a Fourier transform of a power of two.
func flicker(sd float64) func(*rand.Rand, []float64, float64) []float64 {
	return func(rng *rand.Rand, clean []float64, _ float64) []float64 {
		n := 1
		for n < len(clean) {
			n *= 2
		}
		spectrum := make([]complex128, n)
		for k := 1; k < n/2; k++ {
			spectrum[k] = complex(rng.NormFloat64(), rng.NormFloat64()) / complex(math.Sqrt(float64(k)), 0)
		}
		transform(spectrum)
		out, sum := make([]float64, len(clean)), 0.0
		for i := range out {
			out[i] = real(spectrum[i])
			sum += out[i] * out[i]
		}
		scale := sd / math.Sqrt(sum/float64(len(out)))
		for i := range out {
			out[i] *= scale
		}
		return out
	}
}

func transform(a []complex128) {
	n := len(a)
	if n == 1 {
		return
	}
	even, odd := make([]complex128, n/2), make([]complex128, n/2)
	for i := range even {
		even[i], odd[i] = a[2*i], a[2*i+1]
	}
	transform(even)
	transform(odd)
	for k := range even {
		w := cmplx.Exp(complex(0, 2*math.Pi*float64(k)/float64(n))) * odd[k]
		a[k], a[k+n/2] = even[k]+w, even[k]-w
	}
}

// counted is the noise of ions or photons: white, with a variance that grows by gain times the signal.
func counted(sd, gain float64) func(*rand.Rand, []float64, float64) []float64 {
	return func(rng *rand.Rand, clean []float64, _ float64) []float64 {
		out := make([]float64, len(clean))
		for i, y := range clean {
			out[i] = rng.NormFloat64() * math.Sqrt(sd*sd+gain*max(0, y))
		}
		return out
	}
}
