package lab

import (
	"context"
	"errors"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/spectra"
	"yugen/raw"
	"yugen/store"
)

// stretches are over which a spectrum is taken, min, and what is background to it.
type stretches struct {
	atMin      float64
	from, to   float64
	background [][2]float64 // at most two
}

// ofPeak is the upper half of a peak, less what lies beside it where nothing elutes.
func ofPeak(peak *peaks.Peak, others []batch.NamedPeak) stretches {
	half := halfWidth(peak)
	return stretches{peak.ApexMin, peak.ApexMin - half, peak.ApexMin + half, beside(peak.ApexMin, half, peak, others)}
}

// meanSpectrum is the mean over a stretch, and what was taken off it.
type meanSpectrum struct {
	lines, off  spectra.Lines
	scans       []spectra.Scan
	backgrounds [][2]float64 // that hold scans
}

// mean takes a spectrum; a stretch without a scan takes the one nearest to its middle.
func (s stretches) mean(run *raw.Run) (out meanSpectrum, err error) {
	if out.scans, err = scansOf(run, s.from, s.to); err != nil {
		return out, err
	}
	if len(out.scans) == 0 {
		one, err := run.Nearest(60 * (s.from + s.to) / 2)
		if err != nil {
			return out, ignoredAs(err)
		}
		out.scans = []spectra.Scan{one}
	}
	var background [2][]spectra.Scan
	all := append([]spectra.Scan{}, out.scans...)
	for k, b := range s.background[:min(2, len(s.background))] {
		if background[k], err = scansOf(run, b[0], b[1]); err != nil {
			return out, err
		}
		if len(background[k]) > 0 {
			out.backgrounds = append(out.backgrounds, b)
		}
		all = append(all, background[k]...)
	}
	about := run.Describe()
	within := spectra.Apart(all)
	out.off = spectra.Background(about.Kind, background[0], background[1], 60*s.atMin, within)
	out.lines = spectra.Mean(about.Kind, out.scans, within).Less(about.Kind, out.off, within)
	if about.Profile && about.Kind == spectra.Mass {
		out.lines = out.lines.Centroids(0.001)
	}
	return out, nil
}

// spectraFor are those that a compound is known by: of the kind that its channel is derived from; else masses, and without them wavelengths.
func (l *Lab) spectraFor(ctx context.Context, in store.Injection, m batch.Method, c compounds.Compound) (*raw.Run, error) {
	channel, _ := m.Channel(c.Channel)
	if k := channel.Signal.Kind; k == channels.Wavelength || k == channels.Maximum {
		return l.wavelengthsOf(ctx, in)
	}
	return l.anySpectra(ctx, in)
}

// anySpectra are the masses of an injection, and without them its wavelengths.
func (l *Lab) anySpectra(ctx context.Context, in store.Injection) (*raw.Run, error) {
	run, err := l.massesOf(ctx, in)
	if errors.Is(err, store.ErrNotFound) {
		return l.wavelengthsOf(ctx, in)
	}
	return run, err
}

// percentLike is how like two spectra are, 0 to 100.
func percentLike(kind spectra.Kind, a, b spectra.Lines) float64 {
	return 100 * spectra.Likeness(kind, a, b, spectra.Usual, spectra.UsualWithin)
}
