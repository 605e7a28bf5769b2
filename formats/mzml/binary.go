package mzml

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"sync"

	"github.com/klauspost/compress/zlib"
)

// decode turns the text of a binary array into its numbers. It never takes more than the length that the file states, whatever a compressed stream holds.
func (a *array) decode() ([]float64, error) {
	for _, p := range a.params {
		if numpress[p.term] {
			return nil, fmt.Errorf("it is packed by %s, which is not read; write the file with zlib or none", p.name)
		}
	}
	width, float := 8, true
	switch {
	case a.has(float64s):
	case a.has(float32s):
		width = 4
	case a.has(int64s):
		float = false
	case a.has(int32s):
		width, float = 4, false
	default:
		return nil, fmt.Errorf("it does not say how wide its numbers are")
	}
	raw, err := a.unpacked(a.length * width)
	if err != nil {
		return nil, err
	}
	if len(raw) != a.length*width {
		if len(raw) > a.length*width {
			return nil, fmt.Errorf("it holds more than the %d numbers that it states", a.length)
		}
		return nil, fmt.Errorf("it holds %d bytes; %d numbers of %d are stated", len(raw), a.length, width)
	}
	out := make([]float64, a.length)
	for i := range out {
		b := raw[i*width:]
		switch {
		case float && width == 8:
			out[i] = math.Float64frombits(binary.LittleEndian.Uint64(b))
		case float:
			out[i] = float64(math.Float32frombits(binary.LittleEndian.Uint32(b)))
		case width == 8:
			out[i] = float64(int64(binary.LittleEndian.Uint64(b)))
		default:
			out[i] = float64(int32(binary.LittleEndian.Uint32(b)))
		}
		if math.IsNaN(out[i]) || math.IsInf(out[i], 0) {
			return nil, fmt.Errorf("value %d is not a finite number", i+1)
		}
	}
	return out, nil
}

// unpacked are the bytes of the array, at most one more than are stated.
func (a *array) unpacked(stated int) ([]byte, error) {
	text := a.binary.Bytes()
	if bytes.ContainsAny(text, " \n\r\t") {
		text = bytes.Join(bytes.Fields(text), nil)
	}
	packed := a.has(zlibbed) && len(text) > 0
	if !packed && base64.StdEncoding.DecodedLen(len(text)) > stated+3 {
		return make([]byte, stated+1), nil
	}
	raw := make([]byte, base64.StdEncoding.DecodedLen(len(text)))
	n, err := base64.StdEncoding.Decode(raw, text)
	if err != nil {
		return nil, fmt.Errorf("its bytes are broken: %w", err)
	}
	if !packed {
		return raw[:n], nil
	}
	return inflated(raw[:n], stated)
}

// mostPacked is how many bytes one byte of a zlib stream can hold at most, so that a small stream that states much takes no room for it.
const mostPacked = 1100

// inflaters are readers of zlib streams, used again: each has tables of its own.
var inflaters sync.Pool

// inflated are the bytes of a zlib stream, at most one more than are stated.
func inflated(packed []byte, stated int) ([]byte, error) {
	from := bytes.NewReader(packed)
	z, _ := inflaters.Get().(io.ReadCloser)
	var err error
	if z == nil {
		z, err = zlib.NewReader(from)
	} else {
		err = z.(zlib.Resetter).Reset(from, nil)
	}
	if err != nil {
		return nil, fmt.Errorf("its zlib stream is broken: %w", err)
	}
	defer inflaters.Put(z)
	out := bytes.NewBuffer(make([]byte, 0, min(stated+1, mostPacked*len(packed)+64)+bytes.MinRead))
	if _, err := out.ReadFrom(io.LimitReader(z, int64(stated)+1)); err != nil {
		return nil, fmt.Errorf("its bytes are broken: %w", err)
	}
	return out.Bytes(), nil
}

func (a *array) has(term string) bool {
	_, ok := has(a.params, term)
	return ok
}
