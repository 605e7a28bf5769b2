package raw

import (
	"bytes"
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
	room  []byte  // to compress in
	tx    *sql.Tx // nil while everything is in memory
	// present is what tells that another one has kept the same meanwhile; there says that it has.
	present string
	there   bool
	laying  *laying // what lays spectra down while the file is read on; nil before the first
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
	packed  []byte // of one scan, used again
}

// Receive begins to take in a file.
func (s *Store) Receive(ctx context.Context, hash string) *Incoming {
	return &Incoming{store: s, ctx: ctx, hash: hash, present: "SELECT 1 FROM files WHERE hash = ?"}
}

// ReceiveSpectra begins to take in only the spectra of a file that is kept elsewhere.
func (s *Store) ReceiveSpectra(ctx context.Context, hash string) *Incoming {
	return &Incoming{store: s, ctx: ctx, hash: hash, present: fmt.Sprintf("SELECT 1 FROM runs WHERE hash = ? AND form = %d", form)}
}

// Hash is the address of the file.
func (in *Incoming) Hash() string { return in.hash }

// Take lays a spectrum down, beside the reading of the next ones. What goes wrong is told by a later Take, or by Keep.
func (in *Incoming) Take(of spectra.About, s spectra.Scan) error {
	if in.laying == nil {
		in.laying = lay(in.take)
	}
	return in.laying.give(of, s)
}

func (in *Incoming) take(of spectra.About, s spectra.Scan) error {
	k := slices.IndexFunc(in.runs, func(r *incomingRun) bool { return r.Same(of) })
	if k < 0 {
		k = len(in.runs)
		in.runs = append(in.runs, &incomingRun{Outline: spectra.Outline{About: of}, digest: sha256.New()})
	}
	r := in.runs[k]
	r.About = r.Joined(of)
	r.Add(s)
	r.packed = packScans(r.packed[:0], []spectra.Scan{s})
	r.digest.Write(r.packed)
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
	packed := in.compressed(packScans(nil, r.pending))
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
			points = append(points, point{at, uint32(r.first + i), uint32(j), s.Values[j]})
		}
	}
	// Within a scan, points at one place stay in their order, so that sums come out to the last bit as they do over the scan.
	slices.SortFunc(points, func(a, b point) int {
		switch {
		case a.at < b.at:
			return -1
		case a.at > b.at:
			return 1
		case a.scan != b.scan:
			return int(a.scan) - int(b.scan)
		}
		return int(a.order) - int(b.order)
	})
	for slice := range slices.Chunk(points, slicePoints) {
		packed := in.compressed(packPoints(slice))
		if err := in.put(len(packed), "INSERT INTO slices(hash, form, run, block, low, high, data) VALUES (?,?,?,?,?,?,?)", in.hash, form, k, r.blocks, slice[0].at, slice[len(slice)-1].at, packed); err != nil {
			return err
		}
	}
	r.first += len(r.block)
	r.block, r.size = nil, 0
	r.blocks++
	return nil
}

// compressed takes no more memory than it has bytes, as it may be held for a while.
func (in *Incoming) compressed(data []byte) []byte {
	in.room = encoder.EncodeAll(data, in.room[:0])
	return bytes.Clone(in.room)
}

// put writes a row, or holds it while there is little.
func (in *Incoming) put(size int, query string, args ...any) error {
	in.rows, in.held = append(in.rows, row{query, args}), in.held+size
	if in.held < heldBytes {
		return nil
	}
	return in.write()
}

// write writes what is held. Whoever began to write has the turn until the end.
func (in *Incoming) write() error {
	defer func() { in.rows, in.held = nil, 0 }()
	if in.tx == nil && !in.there {
		if err := in.begin(); err != nil {
			return err
		}
	}
	if in.there {
		return nil
	}
	for _, r := range in.rows {
		if _, err := in.tx.ExecContext(in.ctx, r.query, r.args...); err != nil {
			return err
		}
	}
	return nil
}

// begin takes the turn and looks whether somebody else has kept the same file meanwhile.
func (in *Incoming) begin() error {
	in.store.turn.Lock()
	_, err := in.store.holding(in.ctx, in.present, in.hash)
	if in.there = err == nil; in.there {
		in.store.turn.Unlock()
		return nil
	}
	if errors.Is(err, ErrAbsent) {
		var v *volume
		if v, err = in.store.writable(in.ctx); err == nil {
			in.tx, err = v.db.BeginTx(in.ctx, nil)
		}
	}
	if err != nil {
		in.tx = nil
		in.store.turn.Unlock()
	}
	return err
}

// Drop keeps nothing of it. After Keep it does nothing.
func (in *Incoming) Drop() {
	_ = in.laying.end() // what went wrong there was told by Keep, or nobody keeps it
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
		packed := in.compressed(piece)
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
	if err := in.write(); err != nil || in.there {
		return err
	}
	err := in.tx.Commit()
	in.tx = nil
	in.store.turn.Unlock()
	return err
}

func (in *Incoming) keepRuns() error {
	if err := in.laying.end(); err != nil {
		return err
	}
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
		packed := in.compressed(data)
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
