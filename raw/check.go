package raw

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"slices"

	"yugen/core/spectra"
)

// Digests takes the spectra of a file to compare them with those that were laid down.
type Digests struct {
	runs []spectra.About
	sums []hash.Hash
}

// Take adds a scan to the digest of its run.
func (d *Digests) Take(of spectra.About, s spectra.Scan) error {
	k := slices.IndexFunc(d.runs, func(a spectra.About) bool { return a.Same(of) })
	if k < 0 {
		k = len(d.runs)
		d.runs, d.sums = append(d.runs, of), append(d.sums, sha256.New())
	}
	d.sums[k].Write(packScans(nil, []spectra.Scan{s}))
	return nil
}

// CheckSpectra compares what was laid down of the spectra of a file with what the file gives now, piece by piece and slice by slice. What was never laid down
// is no fault: it is when it is asked for.
func (s *Store) CheckSpectra(ctx context.Context, hash string, d Digests) error {
	runs, err := s.Spectra(ctx, hash)
	if errors.Is(err, ErrAbsent) {
		return nil
	}
	if err != nil {
		return err
	}
	if len(runs) != len(d.runs) {
		return fmt.Errorf("%d runs are laid down, the file gives %d", len(runs), len(d.runs))
	}
	for k, r := range runs {
		if err := r.check(hex.EncodeToString(d.sums[k].Sum(nil))); err != nil {
			return fmt.Errorf("run %d: %w", k+1, err)
		}
	}
	return nil
}

// check reads all pieces and all slices of a run.
func (r *Run) check(want string) error {
	pieces := sha256.New()
	if err := r.each(func(_ int, s spectra.Scan) error {
		pieces.Write(packScans(nil, []spectra.Scan{s}))
		return nil
	}); err != nil {
		return err
	}
	if r.digest != want || hex.EncodeToString(pieces.Sum(nil)) != want {
		return errors.New("they are not what the file holds")
	}
	// Slices hold the points of each scan in the order of its axis, so that their sums are the totals to the last bit.
	sums, points := make([]float64, len(r.outline.TimesS)), 0
	if err := r.within(r.outline.Reach, func(p point) { sums[p.scan] += p.value; points++ }); err != nil {
		return err
	}
	if points != r.outline.Points || !slices.Equal(sums, r.outline.Totals) {
		return errors.New("what ions are read from is not what the file holds")
	}
	return nil
}
