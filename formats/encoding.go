package formats

import (
	"bytes"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Decoded gives text as UTF-8 without a mark: from UTF-8, from UTF-16 with a mark or without one, and what is neither from Windows-1252, the other encoding that
// instruments write (ISO 8859-1 is within it).
func Decoded(data []byte) []byte {
	if rest, ok := bytes.CutPrefix(data, []byte("\xef\xbb\xbf")); ok {
		return rest
	}
	if endian, wide := utf16(data); wide {
		if out, err := unicode.UTF16(endian, unicode.UseBOM).NewDecoder().Bytes(data); err == nil {
			return out
		}
	}
	if utf8.Valid(data) {
		return data
	}
	out, err := charmap.Windows1252.NewDecoder().Bytes(data)
	if err != nil { // which it cannot: every byte has its sign
		return data
	}
	return out
}

// utf16 tells whether bytes are text of two bytes a sign: by their mark, or because every other byte of the beginning is zero.
func utf16(data []byte) (endian unicode.Endianness, wide bool) {
	switch {
	case bytes.HasPrefix(data, []byte("\xff\xfe")):
		return unicode.LittleEndian, true
	case bytes.HasPrefix(data, []byte("\xfe\xff")):
		return unicode.BigEndian, true
	}
	head := data[:min(len(data), 400)&^1]
	even, odd := 0, 0
	for i := 0; i < len(head); i += 2 {
		if head[i] == 0 {
			even++
		}
		if head[i+1] == 0 {
			odd++
		}
	}
	const most = 0.9 // of the signs of a table stand in the first 256 places
	half := most * float64(len(head)/2)
	switch {
	case len(head) < 16:
		return unicode.LittleEndian, false
	case float64(odd) >= half && even == 0:
		return unicode.LittleEndian, true
	case float64(even) >= half && odd == 0:
		return unicode.BigEndian, true
	}
	return unicode.LittleEndian, false
}
