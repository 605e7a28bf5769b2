package read

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"

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

// ByProfile reads a text by a profile, or refuses it where it does not fit.
func ByProfile(p text.Profile, data []byte) (formats.File, error) {
	if len(data) > formats.MaxBytes {
		return formats.File{}, tooLarge(len(data))
	}
	kind, err := KindOf(data)
	if err != nil {
		return formats.File{}, err
	}
	if kind != formats.Text {
		return formats.File{}, &formats.Error{Reason: "this is no delimited text, which profiles are for"}
	}
	file, err := p.Read(data)
	if err != nil {
		return formats.File{}, err
	}
	return file, file.Complete()
}

func tooLarge(n int) error {
	return &formats.Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read", n>>20, formats.MaxBytes>>20)}
}
