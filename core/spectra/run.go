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
	TimeS     float64
	Axis      []float64
	Values    []float64
	Precursor float64 // m/z that the fragments of level 2 and above come from; 0 where it has none
}

func (s Scan) largest() float64 {
	if len(s.Values) == 0 {
		return 0
	}
	return slices.Max(s.Values)
}

// sort puts the points in the order of their axis. Points at one place stay apart.
func (s Scan) sort() {
	if !sort.Float64sAreSorted(s.Axis) {
		sort.Stable(byAxis(s))
	}
}

// Run is the spectra of one kind, level and polarity, in time order. Levels and polarities are never mixed: their ions are not the same signal.
type Run struct {
	About
	Scans []Scan
}

// Sources are the runs as what signals are derived from.
func Sources(runs []Run) []Source {
	list := make([]Source, len(runs))
	for i := range runs {
		list[i] = runs[i]
	}
	return list
}

// Band is a stretch of the second axis; both ends belong to it.
type Band struct{ Low, High float64 }

// Holds tells whether a place lies in the band.
func (b Band) Holds(at float64) bool { return b.Low <= at && at <= b.High }

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
	return r.each(Scan.largest)
}

// Ions is the sum of the intensities in the bands, each point counted once though bands overlap. A scan without any of them gives 0. Profile data are summed
// over the points of the band as centroids are.
func (r Run) Ions(bands ...Band) ([]float64, error) {
	merged := Union(bands)
	return r.each(func(s Scan) float64 { return s.within(merged) }), nil
}

// within is the sum over bands that do not overlap.
func (s Scan) within(bands []Band) float64 {
	total := 0.0
	for _, b := range bands {
		from := sort.SearchFloat64s(s.Axis, b.Low)
		for i := from; i < len(s.Axis) && s.Axis[i] <= b.High; i++ {
			total += s.Values[i]
		}
	}
	return total
}

// Product is the sum of the fragments in a band over the scans whose precursor lies in another; the times are those of these scans.
func (r Run) Product(precursor, product Band) (timesS, values []float64, err error) {
	for _, s := range r.Scans {
		if precursor.Holds(s.Precursor) {
			timesS, values = append(timesS, s.TimeS), append(values, s.within([]Band{product}))
		}
	}
	return timesS, values, nil
}

// At is the mean over the wavelengths of a band. Where no wavelength of the grid lies in it, it is the nearest one, if that is within half a step of the grid;
// an error tells that there is none.
func (r Run) At(b Band) ([]float64, error) {
	if r.Kind != Wavelength {
		return nil, fmt.Errorf("these spectra are of %s, not of wavelengths", r.Kind)
	}
	out := make([]float64, len(r.Scans))
	for k, s := range r.Scans {
		v, err := s.At(b)
		if err != nil {
			return nil, err
		}
		out[k] = v
	}
	return out, nil
}

// At is the mean of a spectrum over a band of wavelengths, as Run.At has it.
func (s Scan) At(b Band) (float64, error) {
	from := sort.SearchFloat64s(s.Axis, b.Low)
	to := from
	for to < len(s.Axis) && s.Axis[to] <= b.High {
		to++
	}
	if from < to {
		return sum(s.Values[from:to]) / float64(to-from), nil
	}
	i, ok := nearest(s.Axis, (b.Low+b.High)/2)
	if !ok {
		return 0, fmt.Errorf("no wavelength between %g and %g nm was measured", b.Low, b.High)
	}
	return s.Values[i], nil
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

// Union merges bands that overlap.
func Union(bands []Band) []Band {
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
		s.sort()
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
