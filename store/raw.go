package store

import (
	"crypto/sha256"
	"database/sql"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"math"

	"github.com/klauspost/compress/zstd"

	"yugen/core/signal"
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

// Packed is a raw file with its traces, compressed and hashed: the slow part, done before a transaction begins.
type Packed struct {
	Hash   string
	size   int
	data   []byte
	traces []signal.Trace // without their samples
	points []int
	even   []bool
	packed [][]byte
}

// Pack prepares a raw file and its traces to be kept.
func Pack(data []byte, traces []signal.Trace) Packed {
	p := Packed{Hash: Hash(data), size: len(data), data: encoder.EncodeAll(data, nil)}
	for _, tr := range traces {
		p.points, p.even, p.packed = append(p.points, tr.Len()), append(p.even, tr.TimesS == nil), append(p.packed, encoder.EncodeAll(pack(tr), nil))
		tr.TimesS, tr.Values = nil, nil
		p.traces = append(p.traces, tr)
	}
	return p
}

// PutPacked keeps a raw file whole under its hash, and its decoded traces beside it; what is there already is kept once.
func (t *Tx) PutPacked(p Packed) error {
	if err := t.exec("INSERT INTO blobs(hash, size, data) VALUES (?, ?, ?) ON CONFLICT DO NOTHING", p.Hash, p.size, p.data); err != nil {
		return err
	}
	for i, tr := range p.traces {
		if err := t.exec("INSERT INTO traces(raw_hash, position, name, unit, start_s, step_s, even, points, data) VALUES (?,?,?,?,?,?,?,?,?) ON CONFLICT DO NOTHING",
			p.Hash, i, tr.Name, tr.Unit, tr.StartS, tr.StepS, p.even[i], p.points[i], p.packed[i]); err != nil {
			return err
		}
	}
	return nil
}

// PutBlob keeps a small file.
func (t *Tx) PutBlob(data []byte) (hash string, err error) {
	p := Pack(data, nil)
	return p.Hash, t.PutPacked(p)
}

// Blob hands bytes back as they came, and fails when they are not what their hash says.
func (t *Tx) Blob(hash string) ([]byte, error) {
	var packed []byte
	if err := t.row("SELECT data FROM blobs WHERE hash = ?", []any{hash}, &packed); err != nil {
		return nil, err
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

// pack writes the values, and the times of an uneven trace, as little-endian float64.
func pack(tr signal.Trace) []byte {
	out := make([]byte, 0, 8*(len(tr.Values)+len(tr.TimesS)))
	for _, list := range [][]float64{tr.Values, tr.TimesS} {
		for _, v := range list {
			out = binary.LittleEndian.AppendUint64(out, math.Float64bits(v))
		}
	}
	return out
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
