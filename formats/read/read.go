// Package read opens any supported file: it looks at the content and picks the reader.
package read

import (
	"bytes"
	"io"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/andi"
	"yugen/formats/jcamp"
	"yugen/formats/mzml"
	"yugen/formats/text"
)

// registry are the readers, each of which tells by the beginning of a file whether it is its own. Text comes last: it takes what no other knows.
func registry(axis text.Axis) []formats.Reader {
	return []formats.Reader{
		{Kind: formats.ANDI, Sniff: andi.Sniff, Read: andi.Read},
		{Kind: formats.JCAMP, Sniff: jcamp.Sniff, Read: formats.Whole(jcamp.Read)},
		{Kind: formats.MzML, Sniff: mzml.Sniff, Read: mzml.Read},
		{Kind: formats.Text, Sniff: known(text.Sniff), Read: formats.Whole(func(data []byte) (formats.File, error) { return text.ReadAs(data, axis) })},
	}
}

// known keeps a reader from what is told by its first bytes and is not read.
func known(sniff func(formats.Head) bool) func(formats.Head) bool {
	return func(h formats.Head) bool { return sniff(h) && unsupportedBy(h) == nil }
}

// File decodes the bytes of a file. Errors are *formats.Error with the place where the file departs from its format.
func File(data []byte) (formats.File, error) { return FileAs(data, text.AxisGuessed) }

// FileAs is File where a person says what bare numbers as heads of a table's columns are.
func FileAs(data []byte, axis text.Axis) (formats.File, error) {
	return From(bytes.NewReader(data), int64(len(data)), axis, formats.Usual, nil)
}

// From decodes a file of so many bytes, which may be enclosed with its profile. Its spectra are handed to a taker scan by scan; where that is nil they are in
// the file, in memory.
func From(r io.ReaderAt, size int64, axis text.Axis, limits formats.Limits, to spectra.Taker) (formats.File, error) {
	data, profile, err := Enclosed(r, size)
	if err != nil {
		return formats.File{}, err
	}
	if profile != nil {
		return byProfile(*profile, data, limits, to)
	}
	head := make([]byte, min(size, formats.HeadBytes))
	if n, err := r.ReadAt(head, 0); err != nil && n < len(head) {
		return formats.File{}, &formats.Error{Reason: "the file cannot be read: " + err.Error()}
	}
	reader, err := readerOf(head, axis)
	if err != nil {
		return formats.File{}, err
	}
	return formats.Completed(to, func(to spectra.Taker) (formats.File, error) { return reader.Read(r, size, limits, to) })
}

// KindOf tells what a file is by its content; its name plays no part. The error of an unknown kind says what it looks like.
func KindOf(data []byte) (formats.Kind, error) {
	reader, err := readerOf(data, text.AxisGuessed)
	return reader.Kind, err
}

func readerOf(data []byte, axis text.Axis) (formats.Reader, error) {
	if len(data) == 0 {
		return formats.Reader{}, &formats.Error{Reason: "the file is empty"}
	}
	h := formats.HeadOf(data)
	for _, r := range registry(axis) {
		if r.Sniff(h) {
			return r, nil
		}
	}
	if err := unsupportedBy(h); err != nil {
		return formats.Reader{}, err
	}
	return formats.Reader{}, &formats.Error{Unsupported: true, Reason: "this is of a kind that is not read; ANDI chromatograms and delimited text are"}
}
