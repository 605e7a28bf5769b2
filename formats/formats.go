// Package formats reads open files into traces: it tells what a file is and hands it to the reader for it.
package formats

import (
	"fmt"
	"strings"
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
	// Spectra are in memory where nobody else took them; their outlines are always there.
	Spectra  []spectra.Run
	Outlines []spectra.Outline
	// Peaks are those that the file itself lists, as whoever wrote it found them.
	Peaks []ListedPeak
}

// ListedPeak is a peak of a file's own list. What it does not say is absent.
type ListedPeak struct {
	Name         string   `json:"name,omitempty"`
	RetentionMin float64  `json:"retention_min"`
	StartMin     *float64 `json:"start_min,omitempty"`
	EndMin       *float64 `json:"end_min,omitempty"`
	Area         *float64 `json:"area,omitempty"` // in the units of the file
	Height       *float64 `json:"height,omitempty"`
	Amount       *float64 `json:"amount,omitempty"`
	AmountUnit   string   `json:"amount_unit,omitempty"`
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

// MaxBytes bounds a file that is read piece by piece, MaxWhole one of which all bytes are wanted at once.
const (
	MaxBytes = 4 << 30
	MaxWhole = 256 << 20
)

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

// Sentence is an error as a person reads it: with a capital and a full stop.
func Sentence(err error) string {
	text := err.Error()
	if text == "" {
		return ""
	}
	r := []rune(text)
	text = strings.ToUpper(string(r[0])) + string(r[1:])
	if !strings.HasSuffix(text, ".") {
		text += "."
	}
	return text
}
