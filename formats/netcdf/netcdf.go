// Package netcdf reads and writes the classic netCDF format (versions 1 and 2), as far as chromatography files use it.
//
// Source: the netCDF classic format specification, an open standard of the Open Geospatial Consortium (OGC 10-092r3, chapter 6, whose grammar is also
// appendix B.1 of the netCDF users' guide). The rules that are followed, each with where it stands there:
//   - header = magic numrecs dim_list gatt_list var_list, numbers big-endian: the grammar of 6.1;
//   - magic is "CDF" and 1 (32-bit offsets) or 2 (64-bit offsets): VERSION in the grammar;
//   - numrecs may be "streaming", all ones: the number of records then follows from the length of the file (note on numrecs);
//   - names and values are padded with zeros to four bytes (padding);
//   - the dimension of length 0 is the record dimension, of which there is at most one (dim_length, note on records);
//   - vsize is redundant and may be wrong for large variables: sizes are computed from the dimensions (note on vsize);
//   - records of all record variables lie interleaved, each padded to four bytes, but for a single record variable of bytes, characters or shorts, which
//     is not padded (note on padding of record data);
//   - values that were never written hold the fill value of their type (the table of default fill values).
package netcdf

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// Type is the type of a variable or attribute.
type Type uint32

// The external types.
const (
	Byte   Type = 1
	Char   Type = 2
	Short  Type = 3
	Int    Type = 4
	Float  Type = 5
	Double Type = 6
)

func (t Type) size() int64 {
	switch t {
	case Byte, Char:
		return 1
	case Short:
		return 2
	case Int, Float:
		return 4
	case Double:
		return 8
	}
	return 0
}

// Dimension is a named length.
type Dimension struct {
	Name   string
	Length int64
	Record bool // the unlimited dimension
}

// Attribute is a named value: Text for Char, Numbers for the others.
type Attribute struct {
	Name    string
	Type    Type
	Text    string
	Numbers []float64
}

// Variable is a named array.
type Variable struct {
	Name       string
	Type       Type
	Dimensions []int
	Attributes []Attribute
	begin      int64
	record     bool
	each       int64 // elements, or elements a record
}

// File is a decoded header over its bytes, of which values are read as they are asked for.
type File struct {
	Dimensions []Dimension
	Attributes []Attribute
	Variables  []Variable
	from       io.ReaderAt
	size       int64
	records    int64
	recordSize int64
}

// FormatError says at which byte a file departs from the format.
type FormatError struct {
	Offset int64
	Reason string
}

func (e *FormatError) Error() string { return fmt.Sprintf("netcdf: byte %d: %s", e.Offset, e.Reason) }

// limit bounds every count in a header; no chromatography file comes near it.
const limit = 10000

// most is how many bytes one text or list of an attribute may have.
const most = 16 << 20

// ahead is how much of a header is read at once.
const ahead = 64 << 10

type decoder struct {
	from   io.ReaderAt
	size   int64
	held   []byte // of the file from heldAt on
	heldAt int64
	at     int64
	wide   bool // version 2 has 8-byte offsets
	err    *FormatError
}

func (d *decoder) fail(reason string, args ...any) {
	if d.err == nil {
		d.err = &FormatError{d.at, fmt.Sprintf(reason, args...)}
	}
}

func (d *decoder) take(n int64) []byte {
	if d.err != nil {
		return nil
	}
	if n < 0 || n > d.size-d.at {
		d.fail("the file ends inside its header; it may have been cut off")
		return nil
	}
	if n > most {
		d.fail("an attribute of %d MB is more than is read", n>>20)
		return nil
	}
	if d.at < d.heldAt || d.at+n > d.heldAt+int64(len(d.held)) {
		d.held, d.heldAt = make([]byte, min(max(n, ahead), d.size-d.at)), d.at
		if err := readFull(d.from, d.held, d.at); err != nil {
			d.fail("the file cannot be read: %s", err)
			return nil
		}
	}
	b := d.held[d.at-d.heldAt:][:n]
	d.at += n
	return b
}

// readFull reads all of b; that a reader tells the end of the file with its last bytes is no failure.
func readFull(from io.ReaderAt, b []byte, at int64) error {
	n, err := from.ReadAt(b, at)
	if n == len(b) || err == nil {
		return nil
	}
	if errors.Is(err, io.EOF) {
		return io.ErrUnexpectedEOF
	}
	return err
}

func (d *decoder) uint32() int64 {
	b := d.take(4)
	if b == nil {
		return 0
	}
	return int64(binary.BigEndian.Uint32(b))
}

func (d *decoder) offset() int64 {
	if !d.wide {
		return d.uint32()
	}
	b := d.take(8)
	if b == nil {
		return 0
	}
	v := binary.BigEndian.Uint64(b)
	if v > math.MaxInt64 {
		d.fail("an offset of %d is beyond any file", v)
		return 0
	}
	return int64(v)
}

func (d *decoder) text() string {
	n := d.uint32()
	b := d.take((n + 3) &^ 3)
	if b == nil {
		return ""
	}
	return string(b[:n])
}

// list reads the tag and count of a header list.
func (d *decoder) list(tag int64, what string) int64 {
	got, n := d.uint32(), d.uint32()
	if got == 0 && n == 0 {
		return 0
	}
	if got != tag {
		d.fail("the list of %s is not where it should be", what)
		return 0
	}
	if n > limit {
		d.fail("the header announces %d %s; at most %d are read", n, what, limit)
		return 0
	}
	return n
}

// Decode is Open for a file that lies in memory.
func Decode(data []byte) (*File, error) { return Open(bytes.NewReader(data), int64(len(data))) }

// Open reads the header of a file. Every length it announces is checked against the bytes that are there before anything of
// that length is made.
func Open(from io.ReaderAt, size int64) (*File, error) {
	d := &decoder{from: from, size: size}
	magic := d.take(4)
	if magic == nil || string(magic[:3]) != "CDF" {
		return nil, &FormatError{0, "this is not a netCDF classic file"}
	}
	if magic[3] != 1 && magic[3] != 2 {
		return nil, &FormatError{3, fmt.Sprintf("netCDF version %d is not read; versions 1 and 2 are", magic[3])}
	}
	d.wide = magic[3] == 2
	f := &File{from: from, size: size}
	f.records = d.uint32()
	for range d.list(10, "dimensions") {
		dim := Dimension{Name: d.text(), Length: d.uint32()}
		dim.Record = dim.Length == 0
		f.Dimensions = append(f.Dimensions, dim)
	}
	f.Attributes = d.attributes()
	for range d.list(11, "variables") {
		f.Variables = append(f.Variables, d.variable(f.Dimensions))
		if d.err != nil {
			break
		}
	}
	if d.err != nil {
		return nil, d.err
	}
	f.layRecords()
	return f, nil
}

func (d *decoder) attributes() []Attribute {
	var list []Attribute
	for range d.list(12, "attributes") {
		a := Attribute{Name: d.text()}
		a.Type = Type(d.uint32())
		n := d.uint32()
		size := a.Type.size()
		if size == 0 {
			d.fail("attribute %q has the unknown type %d", a.Name, a.Type)
			return nil
		}
		b := d.take((n*size + 3) &^ 3)
		if b == nil {
			return nil
		}
		if a.Type == Char {
			a.Text = string(b[:n])
		} else {
			a.Numbers = numbers(b[:n*size], a.Type)
		}
		list = append(list, a)
	}
	return list
}

func (d *decoder) variable(dims []Dimension) Variable {
	v := Variable{Name: d.text(), each: 1}
	n := d.uint32()
	if n > 32 {
		d.fail("variable %q has %d dimensions", v.Name, n)
		return v
	}
	for i := range n {
		id := d.uint32()
		if id >= int64(len(dims)) {
			d.fail("variable %q uses dimension %d of %d", v.Name, id, len(dims))
			return v
		}
		v.Dimensions = append(v.Dimensions, int(id))
		switch {
		case dims[id].Record && i == 0:
			v.record = true
		case dims[id].Record:
			d.fail("variable %q has the record dimension in the wrong place", v.Name)
		case dims[id].Length > math.MaxInt32 || v.each > math.MaxInt64/16/max(1, dims[id].Length):
			d.fail("variable %q is larger than any file", v.Name)
		default:
			v.each *= dims[id].Length
		}
	}
	v.Attributes = d.attributes()
	v.Type = Type(d.uint32())
	if v.Type.size() == 0 {
		d.fail("variable %q has the unknown type %d", v.Name, v.Type)
	}
	d.uint32() // the size in bytes, which follows from the rest
	v.begin = d.offset()
	return v
}

// layRecords finds the size of a record, and the number of records where the file was written as a stream.
func (f *File) layRecords() {
	var only *Variable
	count, first := 0, int64(math.MaxInt64)
	for i := range f.Variables {
		v := &f.Variables[i]
		if v.record {
			f.recordSize += (v.each*v.Type.size() + 3) &^ 3
			count, only = count+1, v
			first = min(first, v.begin)
		}
	}
	if count == 1 { // a single record variable is not padded
		f.recordSize = only.each * only.Type.size()
	}
	if f.records == math.MaxUint32 && f.recordSize > 0 && first <= f.size {
		f.records = (f.size - first) / f.recordSize
	}
	for i := range f.Dimensions {
		if f.Dimensions[i].Record {
			f.Dimensions[i].Length = f.records
		}
	}
}

// Variable finds a variable by name.
func (f *File) Variable(name string) (*Variable, bool) {
	for i := range f.Variables {
		if f.Variables[i].Name == name {
			return &f.Variables[i], true
		}
	}
	return nil, false
}

// Text is a global attribute's text, without trailing zeros.
func (f *File) Text(name string) string { return textOf(f.Attributes, name) }

// Number is a global attribute's first number, also where it was written as text; nil where there is none.
func (f *File) Number(name string) *float64 {
	for _, a := range f.Attributes {
		if a.Name != name {
			continue
		}
		v, err := math.NaN(), error(nil)
		if a.Type == Char {
			v, err = strconv.ParseFloat(strings.Trim(a.Text, " \x00"), 64)
		} else if len(a.Numbers) > 0 {
			v = a.Numbers[0]
		}
		if err == nil && !math.IsNaN(v) && !math.IsInf(v, 0) {
			return &v
		}
	}
	return nil
}

// Text is an attribute's text.
func (v *Variable) Text(name string) string { return textOf(v.Attributes, name) }

func textOf(list []Attribute, name string) string {
	for _, a := range list {
		if a.Name == name {
			for len(a.Text) > 0 && a.Text[len(a.Text)-1] == 0 {
				a.Text = a.Text[:len(a.Text)-1]
			}
			return a.Text
		}
	}
	return ""
}

// Length is the number of elements of a variable.
func (f *File) Length(v *Variable) int64 {
	if v.record {
		return v.each * f.records
	}
	return v.each
}

// Numbers reads all elements of a numeric variable.
func (f *File) Numbers(v *Variable) ([]float64, error) { return f.Stretch(v, 0, f.Length(v)) }

// block is about how many bytes of interleaved records are read at once.
const block = 1 << 20

// Stretch reads n elements of a numeric variable from a place on.
func (f *File) Stretch(v *Variable, from, n int64) ([]float64, error) {
	size := v.Type.size()
	switch {
	case v.Type == Char:
		return nil, &FormatError{v.begin, fmt.Sprintf("variable %q holds text, not numbers", v.Name)}
	case n == 0:
		return nil, nil
	case from < 0 || n < 0 || from+n > f.Length(v):
		return nil, &FormatError{v.begin, fmt.Sprintf("variable %q has %d values; %d to %d are asked for", v.Name, f.Length(v), from+1, from+n)}
	case !v.record:
		b, err := f.span(v, v.begin+from*size, n*size)
		if err != nil {
			return nil, err
		}
		return numbers(b, v.Type), nil
	case f.recordSize == 0:
		return nil, nil
	}
	first, last := from/v.each, (from+n-1)/v.each
	if last >= (f.size-min(v.begin, f.size)+f.recordSize)/f.recordSize {
		return nil, &FormatError{v.begin, fmt.Sprintf("variable %q announces %d records; the file is too short for them", v.Name, f.records)}
	}
	all := make([]float64, 0, n)
	together := max(1, block/f.recordSize)
	for r := first; r <= last; r += together {
		k := min(together, last-r+1)
		b, err := f.span(v, v.begin+r*f.recordSize, (k-1)*f.recordSize+v.each*size)
		if err != nil {
			return nil, err
		}
		for i := range k {
			all = append(all, numbers(b[i*f.recordSize:][:v.each*size], v.Type)...)
		}
	}
	return all[from-first*v.each:][:n], nil
}

// Texts reads a variable of characters over two dimensions: a text for each place of the first. Records may not be one of them.
func (f *File) Texts(v *Variable) ([]string, error) {
	if v.Type != Char || v.record || len(v.Dimensions) != 2 {
		return nil, &FormatError{v.begin, fmt.Sprintf("variable %q is no list of texts", v.Name)}
	}
	n, each := f.Dimensions[v.Dimensions[0]].Length, f.Dimensions[v.Dimensions[1]].Length
	b, err := f.span(v, v.begin, n*each)
	if err != nil {
		return nil, err
	}
	texts := make([]string, n)
	for i := range texts {
		texts[i] = strings.Trim(string(b[int64(i)*each:][:each]), " \x00")
	}
	return texts, nil
}

func (f *File) span(v *Variable, from, n int64) ([]byte, error) {
	if from < 0 || n < 0 || from > f.size || n > f.size-from {
		return nil, &FormatError{from, fmt.Sprintf("variable %q should have %d bytes here, but the file ends at byte %d; it may have been cut off", v.Name, n, f.size)}
	}
	b := make([]byte, n)
	if err := readFull(f.from, b, from); err != nil {
		return nil, fmt.Errorf("the file cannot be read: %w", err)
	}
	return b, nil
}

func numbers(b []byte, t Type) []float64 {
	size := int(t.size())
	out := make([]float64, len(b)/size)
	for i := range out {
		e := b[i*size:]
		switch t {
		case Byte:
			out[i] = float64(int8(e[0]))
		case Short:
			out[i] = float64(int16(binary.BigEndian.Uint16(e)))
		case Int:
			out[i] = float64(int32(binary.BigEndian.Uint32(e)))
		case Float:
			out[i] = float64(math.Float32frombits(binary.BigEndian.Uint32(e)))
		case Double:
			out[i] = math.Float64frombits(binary.BigEndian.Uint64(e))
		}
	}
	return out
}
