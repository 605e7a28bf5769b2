// Package resolving takes overlapping compounds apart over all samples of a batch at once: samples by time by m/z or wavelength become spectra, profiles and amounts,
// all of them non-negative, and as many as rise above what noise alone would give.
package resolving

import (
	"errors"
	"fmt"
	"math"
	"sync"

	"yugen/core/spectra"
)

// Stack is a stretch of the run of several samples on one second axis.
type Stack struct {
	Kind    spectra.Kind
	Axis    []float64 // m/z or nm
	Samples []Sample
}

// Sample is one of them: scans by places of the axis.
type Sample struct {
	Name   string
	TimesS []float64
	Values [][]float64
}

// Bounds of what is resolved at once.
const (
	maxCells    = 12_000_000
	leastScans  = 12 // of a sample
	leastPlaces = 3
	// Most is how many components are looked for at most.
	Most = 10
)

// NewStack brings the scans of several samples onto one axis: masses to whole numbers, wavelengths to the grid of the first sample.
func NewStack(kind spectra.Kind, names []string, runs [][]spectra.Scan) (Stack, error) {
	s := Stack{Kind: kind}
	if len(runs) == 0 || len(names) != len(runs) {
		return s, errors.New("there is no sample to resolve")
	}
	cells := 0
	for k, scans := range runs {
		if len(scans) < leastScans {
			return s, fmt.Errorf("%s has %d scans in the stretch; at least %d are wanted", names[k], len(scans), leastScans)
		}
		cells += len(scans)
	}
	place := s.grid(kind, runs)
	if len(s.Axis) < leastPlaces {
		return s, fmt.Errorf("the spectra have %d places; at least %d are wanted", len(s.Axis), leastPlaces)
	}
	if cells*len(s.Axis) > maxCells {
		return s, fmt.Errorf("the stretch has %d numbers; at most %d are resolved at once, so choose a shorter one", cells*len(s.Axis), maxCells)
	}
	for k, scans := range runs {
		one := Sample{Name: names[k]}
		for _, scan := range scans {
			row := make([]float64, len(s.Axis))
			for i, at := range scan.Axis {
				if c := place(at); c >= 0 && !math.IsNaN(scan.Values[i]) && !math.IsInf(scan.Values[i], 0) {
					row[c] += scan.Values[i]
				}
			}
			one.TimesS, one.Values = append(one.TimesS, scan.TimeS), append(one.Values, row)
		}
		s.Samples = append(s.Samples, one)
	}
	return s, nil
}

// grid sets the axis, and tells where on it a place falls.
func (s *Stack) grid(kind spectra.Kind, runs [][]spectra.Scan) func(float64) int {
	if kind == spectra.Wavelength {
		s.Axis = runs[0][0].Axis
		n := len(s.Axis)
		return func(at float64) int {
			if n < 2 || at < s.Axis[0] || at > s.Axis[n-1] {
				return -1
			}
			c := int(math.Round((at - s.Axis[0]) / (s.Axis[n-1] - s.Axis[0]) * float64(n-1)))
			return c
		}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, scans := range runs {
		for _, scan := range scans {
			for _, at := range scan.Axis {
				low, high = math.Min(low, math.Round(at)), math.Max(high, math.Round(at))
			}
		}
	}
	const widest = 1500 // whole masses: a square of them is held several times
	if !(high >= low) || high-low > widest {
		return func(float64) int { return -1 }
	}
	for at := low; at <= high; at++ {
		s.Axis = append(s.Axis, at)
	}
	return func(at float64) int { return int(math.Round(at) - low) }
}

// table is a matrix, row after row.
type table struct {
	n, p int
	v    []float64
}

func newTable(n, p int) table { return table{n, p, make([]float64, n*p)} }

func (t table) row(i int) []float64 { return t.v[i*t.p : (i+1)*t.p] }

// rows are some of them, one after the other, in the same place.
func (t table) rows(from, to int) table { return table{to - from, t.p, t.v[from*t.p : to*t.p]} }

// parts is into how many pieces work is cut. It does not depend on the machine, so that sums come out the same everywhere.
const parts = 8

// each does work on pieces of 0 to n beside each other.
func each(n int, work func(part, from, to int)) {
	var wait sync.WaitGroup
	for k := range parts {
		from, to := k*n/parts, (k+1)*n/parts
		if from == to {
			continue
		}
		wait.Add(1)
		go func() {
			defer wait.Done()
			work(k, from, to)
		}()
	}
	wait.Wait()
}
