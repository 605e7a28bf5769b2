package formats

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"yugen/core/spectra"
)

// HeadBytes is how much of a file is looked at to tell what it is.
const HeadBytes = 8192

// Head is the beginning of a file, by which readers tell whether it is theirs; its name plays no part.
type Head struct {
	Raw  []byte // as it came
	Text []byte // as text, without mark and blanks before it
	Wide bool   // it is text of two bytes a sign
}

// HeadOf takes the beginning of a file.
func HeadOf(data []byte) Head {
	raw := data[:min(len(data), HeadBytes)]
	h := Head{Raw: raw}
	decoded := raw
	if _, h.Wide = utf16(data); h.Wide {
		decoded = Decoded(raw[:len(raw)&^1])
	}
	h.Text = bytes.TrimLeft(bytes.TrimPrefix(decoded, []byte("\xef\xbb\xbf")), " \t\r\n")
	return h
}

// Limits bound what is read of one file.
type Limits struct {
	Bytes  int64 // of a file that is read piece by piece; others are at most MaxWhole
	Points int   // of all its numbers together
}

// Usual are the limits where all that is read lies in memory; Streamed where spectra are handed on.
var (
	Usual    = Limits{Bytes: 1 << 30, Points: 40_000_000}
	Streamed = Limits{Bytes: MaxBytes, Points: 1_000_000_000}
)

// Reader reads one format. Spectra are handed to a taker scan by scan, in the order of the file; the rest is in the file that is returned.
type Reader struct {
	Kind  Kind
	Sniff func(Head) bool
	Read  func(r io.ReaderAt, size int64, limits Limits, to spectra.Taker) (File, error)
}

// Whole makes a reader of a function that wants all bytes at once.
func Whole(read func(data []byte) (File, error)) func(io.ReaderAt, int64, Limits, spectra.Taker) (File, error) {
	return func(r io.ReaderAt, size int64, limits Limits, to spectra.Taker) (File, error) {
		if most := min(limits.Bytes, MaxWhole); size > most {
			return File{}, &Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read of this kind", size>>20, most>>20)}
		}
		data := make([]byte, size)
		if n, err := r.ReadAt(data, 0); err != nil && !(errors.Is(err, io.EOF) && int64(n) == size) {
			return File{}, fmt.Errorf("the file cannot be read to its end: %w", err)
		}
		file, err := read(data)
		if err != nil {
			return File{}, err
		}
		for _, run := range file.Spectra {
			for _, s := range run.Scans {
				if err := to.Take(run.About, s); err != nil {
					return File{}, err
				}
			}
		}
		file.Spectra = nil
		return file, nil
	}
}

// Completed completes what a reader gives with the outlines of its spectra, which are in memory where nobody takes them.
func Completed(to spectra.Taker, read func(spectra.Taker) (File, error)) (File, error) {
	var here spectra.Collected
	if to == nil {
		to = &here
	}
	glanced := spectra.Glanced{To: to}
	file, err := read(&glanced)
	if err != nil {
		return File{}, err
	}
	for i := range here.Runs {
		here.Runs[i].Sort()
	}
	file.Spectra, file.Outlines = here.Runs, glanced.Outlines
	return file, file.Complete()
}
