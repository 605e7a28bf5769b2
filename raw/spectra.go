package raw

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/binary"
	"encoding/gob"
	"errors"
	"fmt"
	"math"

	"yugen/core/spectra"
)

// point is one point of a spectrum, by its place on the second axis.
type point struct {
	at    float64
	scan  uint32
	order uint32 // within the scan; it is not kept
	value float64
}

const pointBytes = 8 + 4 + 8

func packPoints(points []point) []byte {
	out := make([]byte, 0, pointBytes*len(points))
	for _, p := range points {
		out = binary.LittleEndian.AppendUint64(out, math.Float64bits(p.at))
	}
	for _, p := range points {
		out = binary.LittleEndian.AppendUint32(out, p.scan)
	}
	for _, p := range points {
		out = binary.LittleEndian.AppendUint64(out, math.Float64bits(p.value))
	}
	return out
}

// slice is a packed slice whose points are read where they lie.
type slice struct {
	at, scan, value []byte
}

func sliceOf(data []byte) (slice, int, error) {
	n := len(data) / pointBytes
	if len(data) != n*pointBytes {
		return slice{}, 0, errors.New("a slice of spectra is cut off")
	}
	return slice{data[:8*n], data[8*n : 12*n], data[12*n:]}, n, nil
}

func (s slice) point(i int) point {
	return point{
		at:    math.Float64frombits(binary.LittleEndian.Uint64(s.at[8*i:])),
		scan:  binary.LittleEndian.Uint32(s.scan[4*i:]),
		value: math.Float64frombits(binary.LittleEndian.Uint64(s.value[8*i:])),
	}
}

// packScans writes scans one after the other: time, precursor, how many points, their places, their values.
func packScans(out []byte, scans []spectra.Scan) []byte {
	for _, s := range scans {
		out = packNumbers(out, []float64{s.TimeS, s.Precursor})
		out = binary.LittleEndian.AppendUint32(out, uint32(len(s.Axis)))
		out = packNumbers(packNumbers(out, s.Axis), s.Values)
	}
	return out
}

func unpackScans(data []byte) ([]spectra.Scan, error) {
	var list []spectra.Scan
	for len(data) > 0 {
		if len(data) < 20 {
			return nil, errors.New("a piece of spectra is cut off")
		}
		head := unpackNumbers(nil, data[:16])
		n := int(binary.LittleEndian.Uint32(data[16:]))
		if data = data[20:]; len(data) < 16*n {
			return nil, errors.New("a piece of spectra is cut off")
		}
		list = append(list, spectra.Scan{TimeS: head[0], Precursor: head[1], Axis: unpackNumbers(nil, data[:8*n]), Values: unpackNumbers(nil, data[8*n:16*n])})
		data = data[16*n:]
	}
	return list, nil
}

func packOutline(o spectra.Outline) ([]byte, error) {
	var b bytes.Buffer
	if err := gob.NewEncoder(&b).Encode(o); err != nil {
		return nil, err
	}
	return encoder.EncodeAll(b.Bytes(), nil), nil
}

// Run is one run of spectra that are kept, read in stretches. It is a spectra.Source.
type Run struct {
	spectra.About
	ctx     context.Context
	in      *volume
	hash    string
	number  int
	outline spectra.Outline
	order   []int // of time; nil where scans lie in it
	digest  string
}

// Spectra opens the runs of spectra that were read from a file. It is ErrAbsent where they were never laid down; a file without spectra has none either.
func (s *Store) Spectra(ctx context.Context, hash string) ([]*Run, error) {
	v, err := s.holding(ctx, "SELECT 1 FROM runs WHERE hash = ? AND form = ?", hash, form)
	if err != nil {
		return nil, err
	}
	rows, err := v.db.QueryContext(ctx, "SELECT run, outline, digest FROM runs WHERE hash = ? AND form = ? ORDER BY run", hash, form)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []*Run
	for rows.Next() {
		r := &Run{ctx: ctx, in: v, hash: hash}
		var packed []byte
		if err := rows.Scan(&r.number, &packed, &r.digest); err != nil {
			return nil, err
		}
		data, err := decoder.DecodeAll(packed, nil)
		if err == nil {
			err = gob.NewDecoder(bytes.NewReader(data)).Decode(&r.outline)
		}
		if err != nil {
			return nil, fmt.Errorf("spectra of %.12s cannot be unpacked: %w", hash, err)
		}
		r.About, r.order = r.outline.About, r.outline.Order()
		list = append(list, r)
	}
	return list, rows.Err()
}

// Outline is the run at a glance, scans in the order of the file.
func (r *Run) Outline() spectra.Outline { return r.outline }

// Times are those of the scans, s.
func (r *Run) Times() []float64 { return spectra.Sorted(r.outline.TimesS, r.order) }

// Total is the sum of all intensities of each scan.
func (r *Run) Total() []float64 { return spectra.Sorted(r.outline.Totals, r.order) }

// BasePeak is the largest intensity of each scan.
func (r *Run) BasePeak() []float64 { return spectra.Sorted(r.outline.BasePeaks, r.order) }

// Ions is the sum of the intensities in the bands, as spectra.Run has it. Only the slices that the bands touch are read.
func (r *Run) Ions(bands ...spectra.Band) ([]float64, error) {
	sums := make([]float64, len(r.outline.TimesS))
	for _, b := range spectra.Union(bands) {
		if err := r.within(b, func(p point) { sums[p.scan] += p.value }); err != nil {
			return nil, err
		}
	}
	return spectra.Sorted(sums, r.order), nil
}

// within tells every point of a band, of each scan in the order of its axis.
func (r *Run) within(b spectra.Band, each func(point)) error {
	touched, err := r.slices(b)
	if err != nil {
		return err
	}
	read, err := r.in.db.PrepareContext(r.ctx, "SELECT data FROM slices WHERE rowid = ?")
	if err != nil {
		return err
	}
	defer read.Close()
	var packed sql.RawBytes
	var held []byte
	for _, id := range touched {
		rows, err := read.QueryContext(r.ctx, id)
		if err != nil {
			return err
		}
		if rows.Next() {
			if err = rows.Scan(&packed); err == nil {
				held, err = decoder.DecodeAll(packed, held[:0])
			}
		}
		if err := errors.Join(err, rows.Err(), rows.Close()); err != nil {
			return fmt.Errorf("spectra of %.12s cannot be unpacked: %w", r.hash, err)
		}
		s, n, err := sliceOf(held)
		if err != nil {
			return fmt.Errorf("spectra of %.12s: %w", r.hash, err)
		}
		for i := range n {
			if p := s.point(i); b.Holds(p.at) && int(p.scan) < len(r.outline.TimesS) {
				each(p)
			}
		}
	}
	return nil
}

// slices are those that a band touches, in the order of scans and, within, of the axis.
func (r *Run) slices(b spectra.Band) (ids []int64, err error) {
	rows, err := r.in.db.QueryContext(r.ctx, "SELECT rowid FROM slices WHERE hash = ? AND form = ? AND run = ? AND low <= ? AND high >= ? ORDER BY block, low, rowid", r.hash, form, r.number, b.High, b.Low)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	return ids, rows.Err()
}

// At is the mean over the wavelengths of a band, or the nearest one, as spectra.Run has it.
func (r *Run) At(b spectra.Band) ([]float64, error) {
	if r.Kind != spectra.Wavelength {
		return nil, fmt.Errorf("these spectra are of %s, not of wavelengths", r.Kind)
	}
	n := len(r.outline.TimesS)
	sums, counts := make([]float64, n), make([]int, n)
	if err := r.within(b, func(p point) { sums[p.scan] += p.value; counts[p.scan]++ }); err != nil {
		return nil, err
	}
	between := false // of a grid that has no wavelength in the band the nearest one is taken, for which whole spectra are read
	for i := range sums {
		if between = between || counts[i] == 0; counts[i] > 0 {
			sums[i] /= float64(counts[i])
		}
	}
	if between {
		err := r.each(func(i int, s spectra.Scan) (err error) {
			sums[i], err = s.At(b)
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return spectra.Sorted(sums, r.order), nil
}

// Product is the sum of the fragments in a band over the scans whose precursor lies in another, as spectra.Run has it.
func (r *Run) Product(precursor, product spectra.Band) (timesS, values []float64, err error) {
	sums, err := r.Ions(product)
	if err != nil || r.outline.Precursors == nil {
		return nil, nil, err
	}
	times, precursors := r.Times(), spectra.Sorted(r.outline.Precursors, r.order)
	for i, at := range precursors {
		if precursor.Holds(at) {
			timesS, values = append(timesS, times[i]), append(values, sums[i])
		}
	}
	return timesS, values, nil
}

// each reads all scans in the order of the file.
func (r *Run) each(of func(int, spectra.Scan) error) error {
	return r.Scans(math.Inf(-1), math.Inf(1), of)
}

// Scans reads those of a stretch of time, in the order of the file. Only the pieces that the stretch touches are unpacked.
func (r *Run) Scans(fromS, toS float64, of func(number int, s spectra.Scan) error) error {
	rows, err := r.in.db.QueryContext(r.ctx, "SELECT first, last FROM scans WHERE hash = ? AND form = ? AND run = ? ORDER BY first", r.hash, form, r.number)
	if err != nil {
		return err
	}
	var pieces [][2]int
	for rows.Next() {
		var p [2]int
		if err := rows.Scan(&p[0], &p[1]); err != nil {
			rows.Close()
			return err
		}
		if p[1] < len(r.outline.TimesS) && r.touches(p, fromS, toS) {
			pieces = append(pieces, p)
		}
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	for _, p := range pieces {
		scans, err := r.piece(p)
		if err != nil {
			return err
		}
		for i, s := range scans {
			if fromS <= s.TimeS && s.TimeS <= toS {
				if err := of(p[0]+i, s); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (r *Run) touches(p [2]int, fromS, toS float64) bool {
	for _, t := range r.outline.TimesS[p[0] : p[1]+1] {
		if fromS <= t && t <= toS {
			return true
		}
	}
	return false
}

func (r *Run) piece(p [2]int) ([]spectra.Scan, error) {
	var packed []byte
	if err := r.in.db.QueryRowContext(r.ctx, "SELECT data FROM scans WHERE hash = ? AND form = ? AND run = ? AND first = ?", r.hash, form, r.number, p[0]).Scan(&packed); err != nil {
		return nil, err
	}
	data, err := decoder.DecodeAll(packed, nil)
	if err != nil {
		return nil, fmt.Errorf("spectra of %.12s cannot be unpacked: %w", r.hash, err)
	}
	scans, err := unpackScans(data)
	if err == nil && len(scans) != p[1]-p[0]+1 {
		err = errors.New("scans are missing from a piece")
	}
	if err != nil {
		return nil, fmt.Errorf("spectra of %.12s: %w", r.hash, err)
	}
	return scans, nil
}

// Nearest is the spectrum next to a moment.
func (r *Run) Nearest(atS float64) (s spectra.Scan, err error) {
	if len(r.outline.TimesS) == 0 {
		return s, ErrAbsent
	}
	nearest := 0
	for i, t := range r.outline.TimesS {
		if math.Abs(t-atS) < math.Abs(r.outline.TimesS[nearest]-atS) {
			nearest = i
		}
	}
	t := r.outline.TimesS[nearest]
	err = r.Scans(t, t, func(i int, one spectra.Scan) error {
		if i == nearest {
			s = one
		}
		return nil
	})
	return s, err
}
