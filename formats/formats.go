// Package formats reads open files into traces: it tells what a file is and hands it to the reader for it.
package formats

import (
	"bytes"
	"fmt"
	"regexp"
	"time"

	"yugen/core/signal"
	"yugen/core/spectra"
)

// File is what an open file holds.
type File struct {
	// Traces are what peaks are looked for in: the detectors, then the total signal of spectra.
	Traces []signal.Trace
	Header Header
	// Channels are all signals against time as the file has them, conditions among them.
	Channels []Channel
	Spectra  []spectra.Run
}

// Header is what a file says about its injection; what it does not say is empty.
type Header struct {
	Format       string     `json:"format"`
	SampleName   string     `json:"sample_name"`
	SampleID     string     `json:"sample_id"`
	SampleType   string     `json:"sample_type"`
	Vial         string     `json:"vial"`
	SampleAmount *float64   `json:"sample_amount"`
	Volume       *float64   `json:"injection_volume"`
	AcquiredAt   *time.Time `json:"acquired_at"`
	Operator     string     `json:"operator"`
	MethodName   string     `json:"method_name"`
	Detector     string     `json:"detector"`
	Comments     string     `json:"comments"`
	// Doubts are what looks as if the file was not written to its end, or contradicts itself.
	Doubts []string `json:"doubts,omitempty"`
	// Spectra are the kinds of spectra that the file holds, from which further signals can be derived.
	Spectra []spectra.Kind `json:"spectra,omitempty"`
	// Settings are what the file says of equipment and conditions, in its order.
	Settings []Setting `json:"settings,omitempty"`
}

// MaxBytes bounds a file.
const MaxBytes = 256 << 20

// Error says what keeps a file from being read, and where: a line of text or a byte offset, 0 when it is the whole file.
type Error struct {
	Line   int
	Column int // counted from 1, of a table
	Offset int64
	Reason string
	// Unsupported says that the file is of a kind that is not read; others are damaged, or not what they seem.
	Unsupported bool
}

func (e *Error) Error() string {
	switch {
	case e.Line > 0 && e.Column > 0:
		return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Column, e.Reason)
	case e.Line > 0:
		return fmt.Sprintf("line %d: %s", e.Line, e.Reason)
	case e.Offset > 0:
		return fmt.Sprintf("byte %d: %s", e.Offset, e.Reason)
	}
	return e.Reason
}

// Kind names a format by the first bytes of a file.
type Kind string

// The kinds of file that are read.
const (
	Unknown Kind = ""
	ANDI    Kind = "andi"
	JCAMP   Kind = "jcamp"
	MzML    Kind = "mzml"
	Text    Kind = "text"
)

// kinds that are told by their first bytes and are not read, with what to do.
var unsupported = []struct{ magic, what, instead string }{
	{"\x89HDF", "a file of the HDF5 family, as netCDF 4 is", "write it as netCDF classic, or as text with a time and a signal column"},
	{"PK\x03\x04", "a packed file or a workbook", "unpack it, or save the sheet as text with a time and a signal column"},
	{"\x1f\x8b", "a packed file", "unpack it first"},
	{"%PDF", "a PDF, which holds pictures of numbers", "take the chromatogram out of its source as ANDI or text"},
	{"\x89PNG", "a picture", "take the chromatogram out of its source as ANDI or text"},
	{"\xff\xd8\xff", "a picture", "take the chromatogram out of its source as ANDI or text"},
	{"<", "a file of markup, such as XML or a web page", "write it as ANDI or as text with a time and a signal column"},
	{"{", "a JSON document", "write it as text with a time and a signal column"},
}

var (
	titleFirst = regexp.MustCompile(`(?i)^##\s*TITLE\s*=`)
	mzMLRoot   = regexp.MustCompile(`<(?:indexedmzML|mzML)[\s>]`)
)

// KindOf tells what a file is by its content; its name plays no part. The error of an unknown kind says what it looks like.
func KindOf(data []byte) (Kind, error) {
	head := data[:min(len(data), 8192)]
	_, wide := utf16(data)
	if wide {
		head = Decoded(head[:len(head)&^1])
	}
	text := bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\xef\xbb\xbf")), " \t\r\n")
	switch {
	case len(data) == 0:
		return Unknown, &Error{Reason: "the file is empty"}
	case bytes.HasPrefix(data, []byte("CDF")):
		return ANDI, nil
	case bytes.HasPrefix(text, []byte("##")) && titleFirst.Match(text[:min(len(text), 200)]):
		return JCAMP, nil
	case bytes.HasPrefix(text, []byte("<")) && mzMLRoot.Match(text[:min(len(text), 4096)]):
		return MzML, nil
	}
	for _, u := range unsupported {
		if bytes.HasPrefix(text, []byte(u.magic)) {
			return Unknown, &Error{Unsupported: true, Reason: "this looks like " + u.what + ", which is not read; " + u.instead}
		}
	}
	if !wide && bytes.IndexByte(data[:min(len(data), 4096)], 0) >= 0 {
		return Unknown, &Error{Unsupported: true, Reason: "this is of a kind that is not read; ANDI chromatograms and delimited text are"}
	}
	return Text, nil
}
