package lab

import (
	"context"
	"errors"
	"fmt"
	"math"

	"yugen/core/spectra"
	"yugen/raw"
	"yugen/store"
)

// PeakPurity is whether a peak is one compound, by its spectra of wavelengths.
type PeakPurity struct {
	spectra.Purity
	Axis []float64 `json:"axis"` // nm
	// Spectra are those at the apex and at the front and the tail, at half of its height, less the baseline.
	Apex  []float64 `json:"apex"`
	Front []float64 `json:"front"`
	Tail  []float64 `json:"tail"`
	// Rest is what remains where the spectrum turns, after as much of that at the apex is taken off as can be there; RestPercent is its share of the signal there,
	// RestLike what it is like in the libraries. They are empty where the peak is one compound.
	Rest        []float64     `json:"rest"`
	RestPercent float64       `json:"rest_percent"`
	RestLike    []SpectrumHit `json:"rest_like"`
	Unit        string        `json:"unit"`
	Says        string        `json:"says"`
}

// wavelengthsOf are the spectra of wavelengths of an injection.
func (l *Lab) wavelengthsOf(ctx context.Context, in store.Injection) (*raw.Run, error) {
	return l.runOf(ctx, in, "spectra of wavelengths", func(a spectra.About) bool { return a.Kind == spectra.Wavelength })
}

// PurityAt holds the spectra across the peak at a moment against that at its apex.
func (l *Lab) PurityAt(ctx context.Context, batchID, injectionID, channelID string, atMin float64) (PeakPurity, error) {
	out := PeakPurity{Axis: []float64{}, Apex: []float64{}, Front: []float64{}, Tail: []float64{}, Rest: []float64{}, RestLike: []SpectrumHit{}}
	out.Scans = []spectra.PurityScan{}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	in, err := injection(p.Batch, injectionID)
	if err != nil {
		return out, err
	}
	run, err := l.wavelengthsOf(ctx, in)
	if err != nil {
		return out, err
	}
	peak := peakAt(p, injectionID, channelID, atMin)
	if peak == nil {
		out.Says = "There is no peak here whose spectra could be compared."
		return out, nil
	}
	half := halfWidth(peak)
	across, err := scansOf(run, peak.StartMin, peak.EndMin)
	if err != nil {
		return out, err
	}
	var before, after []spectra.Scan
	for _, s := range beside(peak.ApexMin, half, peak, allPeaks(p, injectionID)) {
		scans, err := scansOf(run, s[0], s[1])
		if err != nil {
			return out, err
		}
		if s[1] <= peak.ApexMin {
			before = scans
		} else {
			after = scans
		}
	}
	out.Unit = run.Describe().Unit
	out.Purity, err = spectra.PurityOf(across, before, after)
	switch {
	case errors.Is(err, spectra.ErrNoBaseline):
		out.Scans = []spectra.PurityScan{}
		out.Says = "There is too little baseline beside this peak to know its noise, so nothing can be said of its purity."
		return out, nil
	case err != nil:
		return out, refuse("%s", err)
	}
	out.Axis, out.Apex, out.Front, out.Tail = spectra.AtHalf(across, before, after)
	out.Says = saysOf(out.Purity)
	if !out.Impure {
		return out, nil
	}
	rest, share := spectra.Rest(across, before, after, out.Purity)
	if len(rest) == 0 {
		return out, nil
	}
	out.Rest, out.RestPercent = rest, 100*share
	entries, err := l.ofKind(ctx, spectra.Wavelength)
	lines := make(spectra.Lines, len(rest))
	for k, v := range rest {
		lines[k] = spectra.Line{At: out.Axis[k], Height: v}
	}
	out.RestLike = likeWavelengths(lines, entries, mostLikeRest)
	return out, err
}

// saysOf is what the angles say, and what they do not.
func saysOf(p spectra.Purity) string {
	side := "after"
	if p.ToMin < p.ApexMin {
		side = "before"
	}
	switch {
	case p.Weak:
		return "The peak is too weak: noise alone would turn its spectra by more than could be told."
	case p.Impure:
		return fmt.Sprintf("More than one compound: %s the apex the spectrum turns by up to %.1f°, more than noise would, from %.3f to %.3f min.", side, p.Largest, p.FromMin, p.ToMin)
	}
	return fmt.Sprintf("Nothing speaks against one compound: over %d spectra it turns no further than noise alone would. A second compound with the same spectrum would not show.", len(p.Scans))
}

// SpectraMap is the signal over time and wavelength or m/z, in a grid that a screen can show.
type SpectraMap struct {
	Kind   spectra.Kind `json:"kind"`
	Unit   string       `json:"unit"`
	Times  []float64    `json:"times_min"` // of the columns
	Axis   []float64    `json:"axis"`      // nm or m/z of the rows
	Values [][]float64  `json:"values"`    // rows × columns: the value furthest from nothing in each cell
}

// mostLikeRest is how many entries are told that what remains is like.
const mostLikeRest = 3

// Bounds of a map.
const (
	mapColumns = 360
	mapRows    = 140
)

// MapOf gives the map of an injection.
func (l *Lab) MapOf(ctx context.Context, batchID, injectionID string) (SpectraMap, error) {
	out := SpectraMap{Times: []float64{}, Axis: []float64{}, Values: [][]float64{}}
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return out, err
	}
	in, err := injection(b, injectionID)
	if err != nil {
		return out, err
	}
	run, err := l.wavelengthsOf(ctx, in)
	if errors.Is(err, store.ErrNotFound) {
		run, err = l.massesOf(ctx, in)
	}
	if err != nil {
		return out, err
	}
	outline := run.Outline()
	times := run.Times()
	if len(times) == 0 || !(outline.Reach.High > outline.Reach.Low) {
		return out, nil
	}
	columns, rows := min(mapColumns, len(times)), mapRows
	out.Kind, out.Unit = outline.Kind, outline.Unit
	from, to, low, high := times[0], times[len(times)-1], outline.Reach.Low, outline.Reach.High
	if out.Kind == spectra.Mass {
		rows = min(rows, int(high-low)+1)
	}
	for c := range columns {
		out.Times = append(out.Times, (from+(to-from)*(float64(c)+0.5)/float64(columns))/60)
	}
	for r := range rows {
		out.Axis = append(out.Axis, low+(high-low)*(float64(r)+0.5)/float64(rows))
		out.Values = append(out.Values, make([]float64, columns))
	}
	cell := func(v, low, high float64, n int) int { return min(n-1, max(0, int((v-low)/(high-low)*float64(n)))) }
	err = run.Scans(from, to, func(_ int, s spectra.Scan) error {
		c := cell(s.TimeS, from, to, columns)
		for k, at := range s.Axis {
			if v := &out.Values[cell(at, low, high, rows)][c]; math.Abs(s.Values[k]) > math.Abs(*v) {
				*v = s.Values[k]
			}
		}
		return nil
	})
	return out, err
}
