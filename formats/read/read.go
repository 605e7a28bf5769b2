// Package read opens any supported file: it looks at the content and picks the reader.
package read

import (
	"yugen/formats"
	"yugen/formats/andi"
	"yugen/formats/jcamp"
	"yugen/formats/mzml"
	"yugen/formats/text"
)

// File decodes the bytes of a file. Errors are *formats.Error with the place where the file departs from its format.
func File(data []byte) (formats.File, error) { return FileAs(data, text.AxisGuessed) }

// FileAs is File where a person says what bare numbers as heads of a table's columns are.
func FileAs(data []byte, axis text.Axis) (formats.File, error) {
	data, profile, err := Opened(data)
	if err != nil {
		return formats.File{}, err
	}
	if profile != nil {
		return ByProfile(*profile, data)
	}
	if len(data) > formats.MaxBytes {
		return formats.File{}, tooLarge(len(data))
	}
	kind, err := formats.KindOf(data)
	switch {
	case err != nil:
		return formats.File{}, err
	}
	read := func(data []byte) (formats.File, error) { return text.ReadAs(data, axis) }
	switch kind {
	case formats.ANDI:
		read = andi.Read
	case formats.JCAMP:
		read = jcamp.Read
	case formats.MzML:
		read = mzml.Read
	}
	file, err := read(data)
	if err != nil {
		return formats.File{}, err
	}
	if err := file.Complete(); err != nil {
		return formats.File{}, err
	}
	return file, nil
}
