// Package spectra holds the spectra of a run and the signals against time that are derived from them.
package spectra

import (
	"fmt"
	"math"
	"slices"
	"sort"
)

// Kind says what the second axis of spectra is.
type Kind string

// The kinds.
const (
	Mass       Kind = "mass"       // m/z
	Wavelength Kind = "wavelength" // nm
)

// Polarity of a mass scan.
type Polarity string

// The polarities; a file need not say.
const (
	Positive Polarity = "positive"
	Negative Polarity = "negative"
	Unsaid   Polarity = ""
)

// Scan is one spectrum at one moment: Axis (m/z or nm) rises, Values are its intensities.
type Scan struct {
	TimeS  float64
	Axis   []float64
	Values []float64
}

// Run is the spectra of one kind, level and polarity, in time order. Levels and polarities are never mixed: their ions are not the same signal.
type Run struct {
	Kind      Kind
	Level     int // of mass scans: 1 for full scans, 2 for fragments; 0 for wavelengths
	Polarity  Polarity
	Profile   bool    // mass scans that are not centroided
	Precursor float64 // m/z of scans of level 2 and above that share one; 0 where they do not
	Unit      string  // of the intensities
	Scans     []Scan
}

// Band is a stretch of the second axis; both ends belong to it.
type Band struct{ Low, High float64 }

// Around is the band of so much to each side of a centre.
func Around(centre, half float64) Band { return Band{centre - half, centre + half} }

// PPM is the band of so many parts per million to each side.
func PPM(centre, ppm float64) Band { return Around(centre, centre*ppm/1e6) }

// Times are those of the scans, s.
func (r Run) Times() []float64 {
	times := make([]float64, len(r.Scans))
	for i, s := range r.Scans {
		times[i] = s.TimeS
	}
	return times
}

// Total is the sum of all intensities of each scan: the total ion signal, or of wavelengths the sum over the grid.
func (r Run) Total() []float64 {
	return r.each(func(s Scan) float64 { return sum(s.Values) })
}

// BasePeak is the largest intensity of each scan, of wavelengths the maximum over them; 0 for a scan without points.
func (r Run) BasePeak() []float64 {
	return r.each(func(s Scan) float64 {
		if len(s.Values) == 0 {
			return 0
		}
		return slices.Max(s.Values)
	})
}

// Ions is the sum of the intensities in the bands, each point counted once though bands overlap. A scan without any of them gives 0. Profile data are summed
// over the points of the band as centroids are.
func (r Run) Ions(bands ...Band) []float64 {
	merged := union(bands)
	return r.each(func(s Scan) float64 {
		total := 0.0
		for _, b := range merged {
			from := sort.SearchFloat64s(s.Axis, b.Low)
			for i := from; i < len(s.Axis) && s.Axis[i] <= b.High; i++ {
				total += s.Values[i]
			}
		}
		return total
	})
}

// At is the mean over the wavelengths of a band. Where no wavelength of the grid lies in it, it is the nearest one, if that is within half a step of the grid;
// an error tells that there is none.
func (r Run) At(b Band) ([]float64, error) {
	if r.Kind != Wavelength {
		return nil, fmt.Errorf("these spectra are of %s, not of wavelengths", r.Kind)
	}
	out := make([]float64, len(r.Scans))
	for k, s := range r.Scans {
		from := sort.SearchFloat64s(s.Axis, b.Low)
		to := from
		for to < len(s.Axis) && s.Axis[to] <= b.High {
			to++
		}
		if from < to {
			out[k] = sum(s.Values[from:to]) / float64(to-from)
			continue
		}
		i, ok := nearest(s.Axis, (b.Low+b.High)/2)
		if !ok {
			return nil, fmt.Errorf("no wavelength between %g and %g nm was measured", b.Low, b.High)
		}
		out[k] = s.Values[i]
	}
	return out, nil
}

// Range is the least and greatest place on the second axis over all scans; NaN where there is none.
func (r Run) Range() Band {
	b := Band{math.NaN(), math.NaN()}
	for _, s := range r.Scans {
		if n := len(s.Axis); n > 0 {
			if !(b.Low <= s.Axis[0]) {
				b.Low = s.Axis[0]
			}
			if !(b.High >= s.Axis[n-1]) {
				b.High = s.Axis[n-1]
			}
		}
	}
	return b
}

func (r Run) each(of func(Scan) float64) []float64 {
	out := make([]float64, len(r.Scans))
	for i, s := range r.Scans {
		out[i] = of(s)
	}
	return out
}

func sum(values []float64) float64 {
	total := 0.0
	for _, v := range values {
		total += v
	}
	return total
}

// nearest is the place of the grid next to a wavelength, where it lies within half a step of it.
func nearest(axis []float64, at float64) (int, bool) {
	if len(axis) == 0 {
		return 0, false
	}
	i := sort.SearchFloat64s(axis, at)
	if i == len(axis) || i > 0 && at-axis[i-1] < axis[i]-at {
		i--
	}
	step := math.Inf(1)
	if i > 0 {
		step = axis[i] - axis[i-1]
	}
	if i+1 < len(axis) {
		step = min(step, axis[i+1]-axis[i])
	}
	return i, math.Abs(axis[i]-at) <= step/2
}

// union merges bands that overlap.
func union(bands []Band) []Band {
	list := slices.Clone(bands)
	slices.SortFunc(list, func(a, b Band) int {
		switch {
		case a.Low < b.Low:
			return -1
		case a.Low > b.Low:
			return 1
		}
		return 0
	})
	var out []Band
	for _, b := range list {
		if n := len(out); n > 0 && b.Low <= out[n-1].High {
			out[n-1].High = max(out[n-1].High, b.High)
			continue
		}
		out = append(out, b)
	}
	return out
}

// Sort puts the points of each scan in the order of their axis, and the scans in that of time. Points at one place stay apart.
func (r *Run) Sort() {
	for _, s := range r.Scans {
		if sort.Float64sAreSorted(s.Axis) {
			continue
		}
		sort.Stable(byAxis(s))
	}
	slices.SortStableFunc(r.Scans, func(a, b Scan) int {
		switch {
		case a.TimeS < b.TimeS:
			return -1
		case a.TimeS > b.TimeS:
			return 1
		}
		return 0
	})
}

type byAxis Scan

func (s byAxis) Len() int           { return len(s.Axis) }
func (s byAxis) Less(i, j int) bool { return s.Axis[i] < s.Axis[j] }
func (s byAxis) Swap(i, j int) {
	s.Axis[i], s.Axis[j] = s.Axis[j], s.Axis[i]
	s.Values[i], s.Values[j] = s.Values[j], s.Values[i]
}
