// Package read opens any supported file: it looks at the content and picks the reader.
package read

import (
	"fmt"

	"yugen/formats"
	"yugen/formats/andi"
	"yugen/formats/text"
)

// File decodes the bytes of a file. Errors are *formats.Error with the place where the file departs from its format.
func File(data []byte) (formats.File, error) {
	if len(data) > formats.MaxBytes {
		return formats.File{}, &formats.Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read", len(data)>>20, formats.MaxBytes>>20)}
	}
	kind, err := formats.KindOf(data)
	switch {
	case err != nil:
		return formats.File{}, err
	case kind == formats.ANDI:
		return andi.Read(data)
	}
	return text.Read(data)
}
