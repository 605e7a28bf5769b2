package lab

import (
	"context"
	"errors"
	"fmt"
	"math"
	"sort"
	"sync"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
	"yugen/raw"
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
		if in.Typed != nil {
			break
		}
		runs, err := l.spectraOf(ctx, hash)
		if err != nil {
			return Spectrum{}, err
		}
		for _, r := range runs {
			if r.Level > 1 {
				continue
			}
			s, err := r.Nearest(60 * atMin)
			if errors.Is(err, raw.ErrAbsent) {
				continue
			}
			return sent(r.About, s), err
		}
	}
	return Spectrum{}, fmt.Errorf("spectra of %s: %w", in.Name, store.ErrNotFound)
}

// sent is a spectrum as it is sent, of many points the largest.
func sent(of spectra.About, s spectra.Scan) Spectrum {
	out := Spectrum{Kind: of.Kind, Level: of.Level, Polarity: of.Polarity, Unit: of.Unit, AtMin: s.TimeS / 60, Axis: []float64{}, Values: []float64{}, Profile: of.Profile}
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

// spectraOf opens the spectra of a raw file. Those of a file that came before they were laid down are laid down now.
func (l *Lab) spectraOf(ctx context.Context, hash string) ([]*raw.Run, error) {
	runs, err := l.store.Spectra(ctx, hash)
	if !errors.Is(err, raw.ErrAbsent) || l.bare.has(hash) {
		return runs, ignore(err, raw.ErrAbsent)
	}
	f, err := l.store.OpenRaw(ctx, hash)
	if err != nil {
		return nil, err
	}
	in := l.store.ReceiveSpectra(ctx, hash)
	defer in.Drop()
	file, err := read.From(f, f.Size, text.AxisGuessed, formats.Streamed, in)
	if err != nil {
		return nil, err
	}
	if len(file.Outlines) == 0 {
		l.bare.add(hash)
		return nil, nil
	}
	if err := in.KeepSpectra(); err != nil {
		return nil, err
	}
	return l.store.Spectra(ctx, hash)
}

// ignore is an error unless it is the one that says nothing new.
func ignore(err, nothing error) error {
	if errors.Is(err, nothing) {
		return nil
	}
	return err
}

// bare remembers files that have no spectra.
type bare struct {
	mu    sync.Mutex
	files map[string]bool
}

func (b *bare) has(hash string) bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.files[hash]
}

func (b *bare) add(hash string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.files == nil {
		b.files = map[string]bool{}
	}
	b.files[hash] = true
}
