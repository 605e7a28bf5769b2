package peaks

import (
	"math"
	"slices"
	"strconv"

	"yugen/core/signal"
)

// NoiseModel is the noise of single samples: its variance is SD² + PerRoot² · s + PerSignal² · s² where the signal is s above the quiet trace's. PerRoot
// is what counted ions or photons give, PerSignal what is multiplied.
type NoiseModel struct {
	SD        float64 `json:"sd"`
	PerRoot   float64 `json:"per_root_signal,omitempty"`
	PerSignal float64 `json:"per_signal,omitempty"`
}

// Estimate is what traces say of the widths of their peaks at half height and of their noise.
type Estimate struct {
	WidthMin    float64    `json:"width_min"`     // at the start of the run; 0 where there are no clear peaks
	EndWidthMin float64    `json:"end_width_min"` // at its end
	Noise       NoiseModel `json:"noise"`
}

// EstimateOf estimates from one trace, of its longest stretch where it has gaps.
func EstimateOf(tr signal.Trace) Estimate {
	tr = tr.Longest()
	v := unsettled(tr, Settings{})
	e := Estimate{Noise: v.noiseModel()}
	if first, last, ok := v.clearWidths(); ok {
		e.WidthMin, e.EndWidthMin = first*tr.StepS/60, last*tr.StepS/60
	}
	return e
}

func (v *view) noiseModel() NoiseModel {
	m := NoiseModel{SD: v.noise}
	if v.growth != nil {
		m.PerRoot, m.PerSignal = math.Sqrt(v.growth.root), v.growth.share
	}
	return m
}

// Together is the estimate of traces that are to be integrated alike: the median of each, rounded to two digits, so that one more trace rarely moves it.
// A trace without clear peaks says nothing of widths.
func Together(all []Estimate) Estimate {
	median := func(of func(Estimate) float64, counts func(Estimate) bool) float64 {
		var values []float64
		for _, e := range all {
			if counts(e) {
				values = append(values, of(e))
			}
		}
		if len(values) == 0 {
			return 0
		}
		slices.Sort(values)
		return twoDigits(values[len(values)/2])
	}
	wide := func(e Estimate) bool { return e.WidthMin > 0 }
	any := func(Estimate) bool { return true }
	return Estimate{
		median(func(e Estimate) float64 { return e.WidthMin }, wide),
		median(func(e Estimate) float64 { return e.EndWidthMin }, wide),
		NoiseModel{
			median(func(e Estimate) float64 { return e.Noise.SD }, any),
			median(func(e Estimate) float64 { return e.Noise.PerRoot }, any),
			median(func(e Estimate) float64 { return e.Noise.PerSignal }, any),
		},
	}
}

func twoDigits(v float64) float64 {
	r, err := strconv.ParseFloat(strconv.FormatFloat(v, 'e', 1, 64), 64)
	if err != nil {
		return v
	}
	return r
}

// noisier is how much more noise than the common one a trace must have for its own to be used.
const noisier = 1.5

// expect uses what was estimated over several traces where nothing is set. A trace that is clearly noisier than the others keeps its own noise.
func (v *view) expect(e Estimate) {
	if v.settings.Noise != nil || v.noise > noisier*e.Noise.SD {
		return
	}
	v.fix(e.Noise)
}

// fix takes the noise as given.
func (v *view) fix(m NoiseModel) {
	sparse := []float64(nil)
	if v.growth != nil {
		sparse = v.growth.sparse
	}
	v.noise, v.growth = m.SD, nil
	if m.PerRoot > 0 || m.PerSignal > 0 || sparse != nil {
		v.growth = &growth{floor: quantileOf(v.raw, floorQuantile), root: m.PerRoot * m.PerRoot, share: m.PerSignal, sparse: sparse}
	}
}
