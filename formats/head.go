package formats

import (
	"bytes"
	"errors"
	"fmt"
	"io"
)

// headBytes is how much of a file is looked at to tell what it is.
const headBytes = 8192

// Head is the beginning of a file, by which readers tell whether it is theirs; its name plays no part.
type Head struct {
	Raw  []byte // as it came
	Text []byte // as text, without mark and blanks before it
	Wide bool   // it is text of two bytes a sign
}

// HeadOf takes the beginning of a file.
func HeadOf(data []byte) Head {
	raw := data[:min(len(data), headBytes)]
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
	Bytes int64
}

// Usual are the limits where nothing else is said.
var Usual = Limits{Bytes: MaxBytes}

// Reader reads one format.
type Reader struct {
	Kind  Kind
	Sniff func(Head) bool
	Read  func(r io.ReaderAt, size int64, limits Limits) (File, error)
}

// Whole makes a reader of a function that wants all bytes at once.
func Whole(read func(data []byte) (File, error)) func(io.ReaderAt, int64, Limits) (File, error) {
	return func(r io.ReaderAt, size int64, limits Limits) (File, error) {
		if size > limits.Bytes {
			return File{}, &Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read", size>>20, limits.Bytes>>20)}
		}
		data := make([]byte, size)
		if n, err := r.ReadAt(data, 0); err != nil && !(errors.Is(err, io.EOF) && int64(n) == size) {
			return File{}, fmt.Errorf("the file cannot be read to its end: %w", err)
		}
		return read(data)
	}
}
