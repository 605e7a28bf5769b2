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
	switch formats.KindOf(data) {
	case formats.ANDI:
		return andi.Read(data)
	case formats.Text:
		return text.Read(data)
	}
	if len(data) == 0 {
		return formats.File{}, &formats.Error{Reason: "the file is empty"}
	}
	return formats.File{}, &formats.Error{Reason: "this is neither an ANDI chromatogram nor delimited text"}
}
