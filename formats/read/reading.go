package read

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/text"
)

// A text that is read by a profile is kept with it: this mark, the length of the profile's document, the document, and the very bytes that came. So it is always
// read again as it was read first, whatever becomes of the profile.
var withProfile = []byte("\x00read by a profile\x00\n")

// maxProfileBytes bounds the document of a profile.
const maxProfileBytes = 1 << 20

// Enclose puts a text and the profile by which it is read together.
func Enclose(p text.Profile, data []byte) ([]byte, error) {
	document, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	out := append([]byte{}, withProfile...)
	out = binary.BigEndian.AppendUint32(out, uint32(len(document)))
	return append(append(out, document...), data...), nil
}

// Came is where the very bytes that came lie in a file that may be enclosed with its profile.
func Came(r io.ReaderAt, size int64) (*io.SectionReader, error) {
	head := make([]byte, min(size, int64(len(withProfile)+4)))
	if n, err := r.ReadAt(head, 0); n < len(head) {
		return nil, fmt.Errorf("the file cannot be read: %w", err)
	}
	length, is := bytes.CutPrefix(head, withProfile)
	if !is || len(length) < 4 {
		return io.NewSectionReader(r, 0, size), nil
	}
	from := int64(len(head)) + int64(binary.BigEndian.Uint32(length))
	return io.NewSectionReader(r, from, size-from), nil
}

// Opened gives the very bytes that came, and the profile by which they are read, nil where it is none.
func Opened(data []byte) (came []byte, p *text.Profile, err error) {
	rest, is := bytes.CutPrefix(data, withProfile)
	if !is {
		return data, nil, nil
	}
	if len(rest) < 4 || binary.BigEndian.Uint32(rest) > maxProfileBytes || int(binary.BigEndian.Uint32(rest)) > len(rest)-4 {
		return nil, nil, &formats.Error{Reason: "the profile that it is read by is cut off"}
	}
	n := int(binary.BigEndian.Uint32(rest))
	profile, err := text.ReadProfile(rest[4 : 4+n])
	if err != nil {
		return nil, nil, &formats.Error{Reason: err.Error()}
	}
	return rest[4+n:], &profile, nil
}

// Enclosed is Opened of a file that need not lie in memory: nothing where it is not enclosed.
func Enclosed(r io.ReaderAt, size int64) ([]byte, *text.Profile, error) {
	mark := make([]byte, len(withProfile))
	if n, err := r.ReadAt(mark, 0); n < len(mark) || !bytes.Equal(mark, withProfile) {
		if err != nil && !errors.Is(err, io.EOF) {
			return nil, nil, fmt.Errorf("the file cannot be read: %w", err)
		}
		return nil, nil, nil
	}
	if size > formats.MaxWhole+2*maxProfileBytes {
		return nil, nil, tooLarge(int(size))
	}
	data := make([]byte, size)
	if n, err := r.ReadAt(data, 0); int64(n) < size {
		return nil, nil, fmt.Errorf("the file cannot be read to its end: %w", err)
	}
	return Opened(data)
}

// ByProfile reads a text by a profile, or refuses it where it does not fit.
func ByProfile(p text.Profile, data []byte) (formats.File, error) {
	return byProfile(p, data, formats.Usual, nil)
}

func byProfile(p text.Profile, data []byte, limits formats.Limits, to spectra.Taker) (formats.File, error) {
	if len(data) > formats.MaxWhole {
		return formats.File{}, tooLarge(len(data))
	}
	kind, err := KindOf(data)
	if err != nil {
		return formats.File{}, err
	}
	if kind != formats.Text {
		return formats.File{}, &formats.Error{Reason: "this is no delimited text, which profiles are for"}
	}
	return formats.Completed(to, func(to spectra.Taker) (formats.File, error) {
		return formats.Whole(p.Read)(bytes.NewReader(data), int64(len(data)), limits, to)
	})
}

func tooLarge(n int) error {
	return &formats.Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read", n>>20, formats.MaxWhole>>20)}
}
