package raw

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"math"
	"slices"

	"yugen/core/signal"
	"yugen/core/spectra"
)

// form numbers the way in which spectra are laid down; those of another form are read from their file anew.
const form = 1

const (
	// scanPoints is how many points of spectra make one piece in time order, slicePoints in order of m/z or wavelength.
	scanPoints  = 1 << 16
	slicePoints = 1 << 12
	// blockPoints is over how many points of a run, in time order, slices are cut: what is in memory of it at once.
	blockPoints = 1 << 18
	// tracePoints is how many samples of a trace make one piece.
	tracePoints = 1 << 16
	// heldBytes is how much of what comes is held in memory before it is written. Small files are written in one go.
	heldBytes = 8 << 20
)

// Incoming is a file that is being taken in: all of it is kept, or nothing. Its spectra are taken while it is read.
type Incoming struct {
	store *Store
	ctx   context.Context
	hash  string
	runs  []*incomingRun
	rows  []row
	held  int
	in    *volume // that is written to; nil while everything is in memory
	tx    *sql.Tx
}

type row struct {
	query string
	args  []any
}

// incomingRun is what of a run is not yet written.
type incomingRun struct {
	spectra.Outline
	pending []spectra.Scan // in time order
	points  int
	block   []spectra.Scan // of which slices are to be cut
	first   int            // the number of the first scan of the block
	size    int            // its points
	blocks  int
	digest  hash.Hash
}

// Receive begins to take in a file.
func (s *Store) Receive(ctx context.Context, hash string) *Incoming {
	return &Incoming{store: s, ctx: ctx, hash: hash}
}

// Hash is the address of the file.
func (in *Incoming) Hash() string { return in.hash }

// Take lays a spectrum down.
func (in *Incoming) Take(of spectra.About, s spectra.Scan) error {
	k := slices.IndexFunc(in.runs, func(r *incomingRun) bool { return r.Same(of) })
	if k < 0 {
		k = len(in.runs)
		in.runs = append(in.runs, &incomingRun{Outline: spectra.Outline{About: of}, digest: sha256.New()})
	}
	r := in.runs[k]
	r.About = r.Joined(of)
	r.Add(s)
	r.digest.Write(packScans(nil, []spectra.Scan{s}))
	r.pending, r.points = append(r.pending, s), r.points+len(s.Axis)
	r.block, r.size = append(r.block, s), r.size+len(s.Axis)
	if r.points >= scanPoints || len(r.pending) >= scanPoints {
		if err := in.writeScans(k); err != nil {
			return err
		}
	}
	if r.size >= blockPoints || len(r.block) >= blockPoints {
		return in.writeSlices(k)
	}
	return nil
}

// writeScans writes what is pending of a run in time order.
func (in *Incoming) writeScans(k int) error {
	r := in.runs[k]
	if len(r.pending) == 0 {
		return nil
	}
	last := len(r.TimesS) - 1
	packed := encoder.EncodeAll(packScans(nil, r.pending), nil)
	first := last + 1 - len(r.pending)
	r.pending, r.points = nil, 0
	return in.put(len(packed), "INSERT INTO scans(hash, form, run, first, last, data) VALUES (?,?,?,?,?,?)", in.hash, form, k, first, last, packed)
}

// writeSlices writes the block of a run in the order of its second axis.
func (in *Incoming) writeSlices(k int) error {
	r := in.runs[k]
	points := make([]point, 0, r.size)
	for i, s := range r.block {
		for j, at := range s.Axis {
			points = append(points, point{at, uint32(r.first + i), s.Values[j]})
		}
	}
	// Stable: within a scan, points at one place stay in their order, so that sums come out to the last bit as they do over the scan.
	slices.SortStableFunc(points, func(a, b point) int {
		switch {
		case a.at < b.at:
			return -1
		case a.at > b.at:
			return 1
		}
		return 0
	})
	for slice := range slices.Chunk(points, slicePoints) {
		packed := encoder.EncodeAll(packPoints(slice), nil)
		if err := in.put(len(packed), "INSERT INTO slices(hash, form, run, block, low, high, data) VALUES (?,?,?,?,?,?,?)", in.hash, form, k, r.blocks, slice[0].at, slice[len(slice)-1].at, packed); err != nil {
			return err
		}
	}
	r.first += len(r.block)
	r.block, r.size = nil, 0
	r.blocks++
	return nil
}

// put writes a row, or holds it while there is little.
func (in *Incoming) put(bytes int, query string, args ...any) error {
	in.rows, in.held = append(in.rows, row{query, args}), in.held+bytes
	if in.held < heldBytes {
		return nil
	}
	return in.write()
}

// write writes what is held. Whoever began to write has the turn until the end.
func (in *Incoming) write() error {
	if in.tx == nil {
		in.store.turn.Lock()
		var err error
		if in.in, err = in.store.writable(in.ctx); err == nil {
			in.tx, err = in.in.db.BeginTx(in.ctx, nil)
		}
		if err != nil {
			in.tx = nil
			in.store.turn.Unlock()
			return err
		}
	}
	for _, r := range in.rows {
		if _, err := in.tx.ExecContext(in.ctx, r.query, r.args...); err != nil {
			return err
		}
	}
	in.rows, in.held = nil, 0
	return nil
}

// Drop keeps nothing of it. After Keep it does nothing.
func (in *Incoming) Drop() {
	in.rows, in.runs = nil, nil
	if in.tx == nil {
		return
	}
	_ = in.tx.Rollback()
	in.tx = nil
	in.store.turn.Unlock()
}

// Keep keeps the bytes of the file with its traces and what was taken of its spectra. What is kept already stays as it is.
func (in *Incoming) Keep(from io.ReaderAt, size int64, traces []signal.Trace) error {
	defer in.Drop()
	kept, err := in.store.Has(in.ctx, in.hash)
	if err != nil || kept {
		return err
	}
	if err := in.keepRuns(); err != nil {
		return err
	}
	for k, tr := range traces {
		if err := in.keepTrace(k, tr); err != nil {
			return err
		}
	}
	buffer := make([]byte, pieceBytes)
	for at := int64(0); at < size; at += pieceBytes {
		piece := buffer[:min(pieceBytes, size-at)]
		if n, err := from.ReadAt(piece, at); n < len(piece) {
			return fmt.Errorf("the file cannot be read to its end: %w", errors.Join(err, io.ErrUnexpectedEOF))
		}
		packed := encoder.EncodeAll(piece, nil)
		if err := in.put(len(packed), "INSERT INTO pieces(hash, position, data) VALUES (?,?,?)", in.hash, at/pieceBytes, packed); err != nil {
			return err
		}
	}
	return in.commit("INSERT INTO files(hash, size) VALUES (?,?)", in.hash, size)
}

// KeepSpectra keeps what was taken of the spectra of a file that is kept elsewhere.
func (in *Incoming) KeepSpectra() error {
	defer in.Drop()
	if err := in.keepRuns(); err != nil {
		return err
	}
	return in.commit("INSERT INTO flushed VALUES (1, 1) ON CONFLICT DO UPDATE SET times = times + 1")
}

func (in *Incoming) commit(query string, args ...any) error {
	in.rows = append(in.rows, row{query, args})
	if err := in.write(); err != nil {
		return err
	}
	if err := in.tx.Commit(); err != nil {
		return err
	}
	in.tx = nil
	in.store.turn.Unlock()
	return nil
}

func (in *Incoming) keepRuns() error {
	for k, r := range in.runs {
		if err := in.writeScans(k); err != nil {
			return err
		}
		if err := in.writeSlices(k); err != nil {
			return err
		}
		outline, err := packOutline(r.Outline)
		if err != nil {
			return err
		}
		if err := in.put(len(outline), "INSERT INTO runs(hash, form, run, outline, digest) VALUES (?,?,?,?,?)", in.hash, form, k, outline, hex.EncodeToString(r.digest.Sum(nil))); err != nil {
			return err
		}
	}
	return nil
}

func (in *Incoming) keepTrace(k int, tr signal.Trace) error {
	for from := 0; from < tr.Len(); from += tracePoints {
		to := min(from+tracePoints, tr.Len())
		data := packNumbers(make([]byte, 0, 16*(to-from)), tr.Values[from:to])
		if tr.TimesS != nil {
			data = packNumbers(data, tr.TimesS[from:to])
		}
		packed := encoder.EncodeAll(data, nil)
		if err := in.put(len(packed), "INSERT INTO traces(hash, trace, position, data) VALUES (?,?,?,?)", in.hash, k, from/tracePoints, packed); err != nil {
			return err
		}
	}
	return nil
}

// Trace reads the samples of a trace that is kept with its file, and the times of an uneven one.
func (s *Store) Trace(ctx context.Context, hash string, k, points int, even bool) (values, timesS []float64, err error) {
	v, err := s.holding(ctx, "SELECT 1 FROM traces WHERE hash = ? AND trace = ?", hash, k)
	if err != nil {
		return nil, nil, err
	}
	rows, err := v.db.QueryContext(ctx, "SELECT data FROM traces WHERE hash = ? AND trace = ? ORDER BY position", hash, k)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	values = make([]float64, 0, points)
	for rows.Next() {
		var packed []byte
		if err := rows.Scan(&packed); err != nil {
			return nil, nil, err
		}
		data, err := decoder.DecodeAll(packed, nil)
		if err != nil {
			return nil, nil, fmt.Errorf("trace %d of %.12s cannot be unpacked: %w", k+1, hash, err)
		}
		half := len(data)
		if !even {
			half /= 2
			timesS = unpackNumbers(timesS, data[half:])
		}
		values = unpackNumbers(values, data[:half])
	}
	if len(values) != points || !even && len(timesS) != points {
		return nil, nil, fmt.Errorf("trace %d of %.12s has lost points; run yugen check", k+1, hash)
	}
	return values, timesS, rows.Err()
}

func packNumbers(out []byte, list []float64) []byte {
	for _, v := range list {
		out = binary.LittleEndian.AppendUint64(out, math.Float64bits(v))
	}
	return out
}

func unpackNumbers(out []float64, data []byte) []float64 {
	for ; len(data) >= 8; data = data[8:] {
		out = append(out, math.Float64frombits(binary.LittleEndian.Uint64(data)))
	}
	return out
}
