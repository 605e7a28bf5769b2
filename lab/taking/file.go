// Package taking reads files that come to a batch: what they are and hold, what they do not say of their injection, and which of them belong together.
package taking

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
	"yugen/raw"
	"yugen/store"
)

// Outcome says what became of one file.
type Outcome struct {
	File        string `json:"file"`
	Status      Status `json:"status"`
	InjectionID string `json:"injection_id,omitempty"`
	Message     string `json:"message,omitempty"`
	Unsupported bool   `json:"unsupported,omitempty"` // it is of a kind that is not read; another refused one is damaged
}

// Status is how an import ended.
type Status string

// The ways an import ends.
const (
	Added   Status = "added"
	Joined  Status = "joined"  // it is of an injection that is there, measured by another detector
	Already Status = "already" // the batch holds this very file; nothing was done
	Refused Status = "refused"
	Coming  Status = "coming"  // it has arrived, and is not yet taken in
	Stopped Status = "stopped" // somebody stopped the taking in before it came to this file
)

// Statuses lists them.
var Statuses = []Status{Added, Joined, Already, Refused, Coming, Stopped}

// maxFileName bounds the names of files, in bytes.
const maxFileName = 200

// FileName is the name of a file without its folders, bounded.
func FileName(sent string) string {
	name := path.Base(strings.ReplaceAll(sent, "\\", "/"))
	if len(name) > maxFileName {
		name = strings.ToValidUTF8(name[len(name)-maxFileName:], "")
	}
	return name
}

// File is a file on its way into a batch: read and packed, or refused.
type File struct {
	Out      Outcome
	Who      string
	Header   formats.Header
	Hash     string
	Kept     store.Kept
	Decoded  formats.File
	Apart    bool           // it is an injection of its own, whatever its name
	Signals  []store.Signal // their names and units
	Detector int            // the place of the first that is no condition; -1 where there is none
}

// Source is a file that is to be read: as it came, or enclosed with the profile by which it is read.
type Source struct {
	io.ReaderAt
	Size int64
}

func InMemory(data []byte) Source { return Source{bytes.NewReader(data), int64(len(data))} }

// nowhere takes spectra that nobody wants.
type nowhere struct{}

func (nowhere) Take(spectra.About, spectra.Scan) error { return nil }

func Enclose(p text.Profile, data []byte) (Source, error) {
	both, err := read.Enclose(p, data)
	return InMemory(both), err
}

// Whole are all bytes of a file that is small enough.
func Whole(from Source) ([]byte, error) {
	return io.ReadAll(io.NewSectionReader(from, 0, from.Size))
}

// KindOf tells what a file is by its beginning; what is of no known kind has none.
func KindOf(from Source) (formats.Kind, error) {
	head := make([]byte, min(from.Size, formats.HeadBytes))
	if n, err := from.ReadAt(head, 0); n < len(head) {
		return "", err
	}
	kind, _ := read.KindOf(head)
	return kind, nil
}

// Glance reads a file of which nothing is kept. One that cannot be read is refused with its reason.
func Glance(name string, from Source, who string) (File, error) {
	return decode(name, from, who, formats.Streamed, nowhere{})
}

// InFull is Glance with the spectra in memory.
func InFull(name string, from Source, who string) (File, error) {
	return decode(name, from, who, formats.Usual, nil)
}

// Keep is Glance for a file that is kept: when it returns, its content is. What was read of the very same bytes before need not be read again; nil where
// nothing was.
func Keep(ctx context.Context, in *store.Store, name string, from Source, who string, before *File) (File, error) {
	hash, err := raw.HashOf(from, from.Size)
	if err != nil {
		return File{Out: Outcome{File: FileName(name), Status: Refused}}, err
	}
	coming := in.Receive(ctx, hash)
	defer coming.Drop()
	var d File
	if before != nil && before.Hash == hash && before.Light() {
		d = *before
		d.Who = who
	} else if d, err = decode(name, from, who, formats.Streamed, coming); err != nil || d.Out.Status == Refused {
		return d, err
	}
	d.Hash = hash
	d.Kept, err = in.Keep(ctx, coming, from, from.Size, d.Decoded.Traces)
	d.Decoded = formats.File{} // what was decoded is kept by now, and need not stand in memory
	return d, err
}

// Light tells whether all of a file is in what was read of it: spectra are handed on and not held.
func (d File) Light() bool { return len(d.Decoded.Outlines) == 0 && len(d.Decoded.Traces) > 0 }

// Points are those of all signals of a file that was read.
func (d File) Points() (n int) {
	for _, tr := range d.Decoded.Traces {
		n += tr.Len()
	}
	return n
}

// decode reads a file. One that cannot be read is refused with its reason.
func decode(name string, from Source, who string, limits formats.Limits, to spectra.Taker) (File, error) {
	d := File{Out: Outcome{File: FileName(name), Status: Refused}, Who: who}
	file, err := read.From(from, from.Size, text.AxisGuessed, limits, to)
	d.Decoded = file
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		d.Out.Message, d.Out.Unsupported = formats.Sentence(unreadable), unreadable.Unsupported
		return d, nil
	}
	if err != nil {
		return d, err
	}
	if len(file.Traces) == 0 {
		d.Out.Status, d.Out.Message = Refused, "It holds no signal against time that could be integrated, only single spectra."
		return d, nil
	}
	d.Header, d.Detector = file.Header, -1
	for k, tr := range file.Traces {
		d.Signals = append(d.Signals, store.Signal{Name: tr.Name, Unit: tr.Unit, Place: k})
		if d.Detector < 0 && formats.KindOfChannel(tr.Name, tr.Unit) == formats.Detector {
			d.Detector = k
		}
	}
	d.Out.Status = Added
	return d, nil
}

// Safely reads a file so that one which fails its reader is refused.
func Safely(decode func(string, Source, string) (File, error), a store.Arrival, from Source) (d File, err error) {
	defer func() {
		if r := recover(); r != nil {
			d, err = File{Out: Outcome{File: a.Name, Status: Refused, Message: fmt.Sprintf("It cannot be read; it fails Yugen's reader (%v).", r)}}, nil
		}
	}()
	if d, err = decode(a.Name, from, a.Who); err == nil && d.Out.Status != Refused {
		d.Hash, err = raw.HashOf(from, from.Size)
	}
	return d, err
}
