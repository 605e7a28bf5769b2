package lab

import (
	"context"
	"fmt"
	"math"
	"sort"
	"sync"

	"yugen/core/spectra"
	"yugen/formats/read"
	"yugen/store"
)

// Spectrum is the one that was measured nearest to a moment.
type Spectrum struct {
	Kind     spectra.Kind     `json:"kind"`
	Level    int              `json:"level"`
	Polarity spectra.Polarity `json:"polarity,omitempty"`
	Unit     string           `json:"unit"`
	AtMin    float64          `json:"at_min"` // when it was measured
	Axis     []float64        `json:"axis"`   // m/z or nm
	Values   []float64        `json:"values"`
	Profile  bool             `json:"profile"`
}

// maxSpectrumPoints bounds what is sent of one spectrum; of more, the largest stay.
const maxSpectrumPoints = 4000

// SpectrumAt gives the spectrum of an injection at a moment: of the full scans, or of the wavelengths.
func (l *Lab) SpectrumAt(ctx context.Context, batchID, injectionID string, atMin float64) (Spectrum, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return Spectrum{}, err
	}
	in, err := injection(b, injectionID)
	if err != nil {
		return Spectrum{}, err
	}
	for _, hash := range in.Hashes() {
		runs, err := l.runsOf(ctx, hash)
		if err != nil {
			return Spectrum{}, err
		}
		for _, r := range runs {
			if r.Level <= 1 && len(r.Scans) > 0 {
				return nearestTo(r, atMin), nil
			}
		}
	}
	return Spectrum{}, fmt.Errorf("spectra of %s: %w", in.Name, store.ErrNotFound)
}

// nearestTo is the scan next to a moment.
func nearestTo(r spectra.Run, atMin float64) Spectrum {
	atS := 60 * atMin
	i := sort.Search(len(r.Scans), func(i int) bool { return r.Scans[i].TimeS >= atS })
	if i == len(r.Scans) || i > 0 && atS-r.Scans[i-1].TimeS < r.Scans[i].TimeS-atS {
		i--
	}
	s := r.Scans[i]
	out := Spectrum{Kind: r.Kind, Level: r.Level, Polarity: r.Polarity, Unit: r.Unit, AtMin: s.TimeS / 60, Axis: []float64{}, Values: []float64{}, Profile: r.Profile}
	least := math.Inf(-1)
	if len(s.Values) > maxSpectrumPoints {
		sorted := append([]float64{}, s.Values...)
		sort.Float64s(sorted)
		least = sorted[len(sorted)-maxSpectrumPoints]
	}
	for k, v := range s.Values {
		if v >= least && len(out.Values) < maxSpectrumPoints {
			out.Axis, out.Values = append(out.Axis, s.Axis[k]), append(out.Values, v)
		}
	}
	return out
}

// runCache holds the spectra of the files that were looked at last, so that moving along one reads it once.
type runCache struct {
	mu    sync.Mutex
	order []string
	held  map[string][]spectra.Run
}

// cachedRuns is of how many files spectra are held.
const cachedRuns = 2

func (l *Lab) runsOf(ctx context.Context, hash string) ([]spectra.Run, error) {
	l.runs.mu.Lock()
	runs, ok := l.runs.held[hash]
	l.runs.mu.Unlock()
	if ok {
		return runs, nil
	}
	data, err := l.Raw(ctx, hash)
	if err != nil {
		return nil, err
	}
	file, err := read.File(data)
	if err != nil {
		return nil, err
	}
	l.runs.mu.Lock()
	defer l.runs.mu.Unlock()
	if l.runs.held == nil {
		l.runs.held = map[string][]spectra.Run{}
	}
	if _, twice := l.runs.held[hash]; !twice {
		l.runs.held[hash], l.runs.order = file.Spectra, append(l.runs.order, hash)
		if len(l.runs.order) > cachedRuns {
			delete(l.runs.held, l.runs.order[0])
			l.runs.order = l.runs.order[1:]
		}
	}
	return file.Spectra, nil
}
