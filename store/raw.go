package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"math"

	"github.com/klauspost/compress/zstd"

	"yugen/core/signal"
	"yugen/raw"
)

var (
	encoder, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))
	decoder, _ = zstd.NewReader(nil, zstd.WithDecoderMaxMemory(1<<30))
)

// Hash addresses raw data.
func Hash(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// beside says in the row of a file that its content lies in the database files of raw data.
const beside = "raw"

// Kept is a raw file whose content is kept, for a transaction to refer to.
type Kept struct {
	Hash   string
	size   int64
	traces []signal.Trace // without their samples
	points []int
	even   []bool
}

// Receive begins to take in a raw file. Its spectra may be laid down while it is read.
func (s *Store) Receive(ctx context.Context, hash string) *raw.Incoming {
	return s.raw.Receive(ctx, hash)
}

// ReceiveSpectra begins to lay down only the spectra of a raw file that is kept already.
func (s *Store) ReceiveSpectra(ctx context.Context, hash string) *raw.Incoming {
	return s.raw.ReceiveSpectra(ctx, hash)
}

// Keep keeps the content of a raw file: its bytes, the samples of its traces, and what was taken of its spectra. It is there before anything refers to it.
func (s *Store) Keep(ctx context.Context, in *raw.Incoming, from io.ReaderAt, size int64, traces []signal.Trace) (Kept, error) {
	k := Kept{Hash: in.Hash(), size: size}
	for _, tr := range traces {
		k.points, k.even = append(k.points, tr.Len()), append(k.even, tr.TimesS == nil)
		bare := tr
		bare.TimesS, bare.Values = nil, nil
		k.traces = append(k.traces, bare)
	}
	var place string
	err := s.Read(ctx, func(t *Tx) error { return t.row("SELECT place FROM blobs WHERE hash = ?", []any{k.Hash}, &place) })
	if err == nil && place != beside { // it is from before there was a place beside
		in.Drop()
		return k, nil
	}
	if err != nil && !errors.Is(err, ErrNotFound) {
		in.Drop()
		return k, err
	}
	return k, s.onDisk(in.Keep(from, size, traces))
}

// PutKept refers to a raw file whose content is kept, and to its traces; what is there already is referred to once.
func (t *Tx) PutKept(k Kept) error {
	t.flush = true
	if err := t.exec("INSERT INTO blobs(hash, size, data, place) VALUES (?, ?, x'', ?) ON CONFLICT DO NOTHING", k.Hash, k.size, beside); err != nil {
		return err
	}
	for i, tr := range k.traces {
		if err := t.exec("INSERT INTO traces(raw_hash, position, name, unit, start_s, step_s, even, points, data) VALUES (?,?,?,?,?,?,?,?,x'') ON CONFLICT DO NOTHING",
			k.Hash, i, tr.Name, tr.Unit, tr.StartS, tr.StepS, k.even[i], k.points[i]); err != nil {
			return err
		}
	}
	return nil
}

// PutBlob keeps a small file in the work database itself.
func (t *Tx) PutBlob(data []byte) (hash string, err error) {
	hash = Hash(data)
	return hash, t.exec("INSERT INTO blobs(hash, size, data) VALUES (?, ?, ?) ON CONFLICT DO NOTHING", hash, len(data), encoder.EncodeAll(data, nil))
}

// RawFile is the content of a raw file, read as it is asked for.
type RawFile struct {
	io.ReaderAt
	Size int64
}

// OpenRaw opens the content of a raw file.
func (t *Tx) OpenRaw(hash string) (RawFile, error) {
	var place string
	if err := t.row("SELECT place FROM blobs WHERE hash = ?", []any{hash}, &place); err != nil {
		return RawFile{}, err
	}
	if place != beside {
		data, err := t.Blob(hash)
		return RawFile{bytes.NewReader(data), int64(len(data))}, err
	}
	f, err := t.raw.File(t.ctx, hash)
	if err != nil {
		return RawFile{}, fmt.Errorf("store: raw data %.12s: %w", hash, err)
	}
	return RawFile{f, f.Size()}, nil
}

// OpenRaw is that of Tx, for longer than a transaction lasts.
func (s *Store) OpenRaw(ctx context.Context, hash string) (f RawFile, err error) {
	err = s.Read(ctx, func(t *Tx) error {
		f, err = t.OpenRaw(hash)
		return err
	})
	return f, err
}

// Spectra opens the spectra that were laid down of a raw file; raw.ErrAbsent where they were not, as those of earlier forms.
func (s *Store) Spectra(ctx context.Context, hash string) ([]*raw.Run, error) {
	return s.raw.Spectra(ctx, hash)
}

// Blob hands bytes back as they came, and fails when they are not what their hash says.
func (t *Tx) Blob(hash string) ([]byte, error) {
	var packed []byte
	var place string
	if err := t.row("SELECT data, place FROM blobs WHERE hash = ?", []any{hash}, &packed, &place); err != nil {
		return nil, err
	}
	if place == beside {
		return nil, fmt.Errorf("store: raw data %.12s are read piece by piece", hash)
	}
	data, err := decoder.DecodeAll(packed, nil)
	if err != nil {
		return nil, fmt.Errorf("store: raw data %.12s cannot be unpacked: %w", hash, err)
	}
	if Hash(data) != hash {
		return nil, fmt.Errorf("store: raw data %.12s is corrupt: its hash does not match", hash)
	}
	return data, nil
}

// Trace reads one decoded trace.
func (t *Tx) Trace(rawHash string, position int) (signal.Trace, error) {
	var tr signal.Trace
	var even bool
	var points int
	var packed []byte
	err := t.row("SELECT name, unit, start_s, step_s, even, points, data FROM traces WHERE raw_hash = ? AND position = ?", []any{rawHash, position},
		&tr.Name, &tr.Unit, &tr.StartS, &tr.StepS, &even, &points, &packed)
	if err != nil {
		return tr, err
	}
	if len(packed) == 0 {
		tr.Values, tr.TimesS, err = t.raw.Trace(t.ctx, rawHash, position, points, even)
		if err != nil {
			return tr, fmt.Errorf("store: %w", err)
		}
		return tr, nil
	}
	data, err := decoder.DecodeAll(packed, nil)
	if err != nil {
		return tr, fmt.Errorf("store: trace %d of %.12s cannot be unpacked: %w", position, rawHash, err)
	}
	want := points
	if !even {
		want *= 2
	}
	if points < signal.MinPoints || len(data) != 8*want {
		return tr, errors.New("store: a trace has lost points; run yugen check")
	}
	all := make([]float64, want)
	for i := range all {
		all[i] = math.Float64frombits(binary.LittleEndian.Uint64(data[8*i:]))
	}
	tr.Values = all[:points]
	if !even {
		tr.TimesS = all[points:]
	}
	return tr, nil
}

// TraceFile is a raw file with how many traces are kept of it.
type TraceFile struct {
	RawHash string
	Traces  int
}

// TraceFiles lists the raw files of which traces are kept.
func (t *Tx) TraceFiles() ([]TraceFile, error) {
	var list []TraceFile
	err := t.each("SELECT raw_hash, count(*) FROM traces GROUP BY raw_hash ORDER BY raw_hash", nil, func(r *sql.Rows) error {
		var f TraceFile
		err := r.Scan(&f.RawHash, &f.Traces)
		list = append(list, f)
		return err
	})
	return list, err
}

// CheckSpectra compares what was laid down of a file's spectra with what the file gives.
func (t *Tx) CheckSpectra(hash string, d raw.Digests) error {
	return t.raw.CheckSpectra(t.ctx, hash, d)
}
