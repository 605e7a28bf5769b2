// Package formats reads open files into traces: it tells what a file is and hands it to the reader for it.
package formats

import (
	"bytes"
	"fmt"
	"time"

	"yugen/core/signal"
)

// File is what an open file holds.
type File struct {
	Traces []signal.Trace
	Header Header
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
}

// MaxBytes bounds a file.
const MaxBytes = 256 << 20

// Error says what keeps a file from being read, and where: a line of text or a byte offset, 0 when it is the whole file.
type Error struct {
	Line   int
	Offset int64
	Reason string
}

func (e *Error) Error() string {
	switch {
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
	Text    Kind = "text"
)

// KindOf tells what a file is by its content; its name plays no part.
func KindOf(data []byte) Kind {
	if bytes.HasPrefix(data, []byte("CDF")) {
		return ANDI
	}
	for _, magic := range []string{"\x89HDF", "PK\x03\x04", "%PDF", "\x89PNG", "\x1f\x8b", "<?xml", "<indexedmzML", "<mzML", "##"} {
		if bytes.HasPrefix(data, []byte(magic)) {
			return Unknown
		}
	}
	if len(data) == 0 || bytes.IndexByte(data[:min(len(data), 4096)], 0) >= 0 {
		return Unknown
	}
	return Text
}
