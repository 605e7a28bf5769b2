package netcdf

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
)

// Writer gathers a file of fixed size in version 1.
type Writer struct {
	dims  []Dimension
	attrs []Attribute
	vars  []written
}

type written struct {
	Variable
	values []float64
	text   []byte // of a variable of characters
}

func (v written) bytes() int64 {
	if v.Type == Char {
		return int64(len(v.text))
	}
	return int64(len(v.values)) * v.Type.size()
}

// AddDimension gives the id of a new dimension.
func (w *Writer) AddDimension(name string, length int) int {
	w.dims = append(w.dims, Dimension{Name: name, Length: int64(length)})
	return len(w.dims) - 1
}

// AddText adds a global text attribute.
func (w *Writer) AddText(name, text string) {
	w.attrs = append(w.attrs, Attribute{Name: name, Type: Char, Text: text})
}

// AddNumber adds a global attribute of one number.
func (w *Writer) AddNumber(name string, value float64) {
	w.attrs = append(w.attrs, Attribute{Name: name, Type: Double, Numbers: []float64{value}})
}

// AddVariable adds a numeric variable over the given dimensions with its values and text attributes.
func (w *Writer) AddVariable(name string, t Type, dims []int, values []float64, attrs ...Attribute) error {
	n := 1
	for _, d := range dims {
		n *= int(w.dims[d].Length)
	}
	if n != len(values) {
		return fmt.Errorf("netcdf: variable %q has %d values for %d places", name, len(values), n)
	}
	w.vars = append(w.vars, written{Variable{Name: name, Type: t, Dimensions: dims, Attributes: attrs}, values, nil})
	return nil
}

// AddTexts adds a variable of texts, one for each place of a dimension, over a second dimension that is as long as the longest; longer ones are cut.
func (w *Writer) AddTexts(name string, dims [2]int, texts []string) error {
	n, each := int(w.dims[dims[0]].Length), int(w.dims[dims[1]].Length)
	if n != len(texts) {
		return fmt.Errorf("netcdf: variable %q has %d texts for %d places", name, len(texts), n)
	}
	all := make([]byte, n*each)
	for i, text := range texts {
		copy(all[i*each:(i+1)*each], text)
	}
	w.vars = append(w.vars, written{Variable: Variable{Name: name, Type: Char, Dimensions: dims[:]}, text: all})
	return nil
}

// Bytes encodes the file.
func (w *Writer) Bytes() []byte {
	begins := make([]int64, len(w.vars))
	at := int64(len(w.header(begins)))
	for i, v := range w.vars {
		begins[i] = at
		at += (v.bytes() + 3) &^ 3
	}
	out := bytes.NewBuffer(w.header(begins))
	for _, v := range w.vars {
		for _, x := range v.values {
			put(out, v.Type, x)
		}
		out.Write(v.text)
		pad(out, int(v.bytes()))
	}
	return out.Bytes()
}

func (w *Writer) header(begins []int64) []byte {
	var b bytes.Buffer
	b.WriteString("CDF\x01")
	u32(&b, 0)
	open := func(tag uint32, n int) {
		if n == 0 {
			tag = 0
		}
		u32(&b, tag)
		u32(&b, uint32(n))
	}
	text := func(s string) {
		u32(&b, uint32(len(s)))
		b.WriteString(s)
		pad(&b, len(s))
	}
	attributes := func(list []Attribute) {
		open(12, len(list))
		for _, a := range list {
			text(a.Name)
			u32(&b, uint32(a.Type))
			if a.Type == Char {
				text(a.Text)
				continue
			}
			u32(&b, uint32(len(a.Numbers)))
			for _, n := range a.Numbers {
				put(&b, a.Type, n)
			}
			pad(&b, len(a.Numbers)*int(a.Type.size()))
		}
	}
	open(10, len(w.dims))
	for _, d := range w.dims {
		text(d.Name)
		u32(&b, uint32(d.Length))
	}
	attributes(w.attrs)
	open(11, len(w.vars))
	for i, v := range w.vars {
		text(v.Name)
		u32(&b, uint32(len(v.Dimensions)))
		for _, d := range v.Dimensions {
			u32(&b, uint32(d))
		}
		attributes(v.Attributes)
		u32(&b, uint32(v.Type))
		u32(&b, uint32((v.bytes()+3)&^3))
		u32(&b, uint32(begins[i]))
	}
	return b.Bytes()
}

func u32(b *bytes.Buffer, v uint32) { b.Write(binary.BigEndian.AppendUint32(nil, v)) }

func pad(b *bytes.Buffer, n int) { b.Write(make([]byte, (4-n%4)%4)) }

func put(b *bytes.Buffer, t Type, x float64) {
	switch t {
	case Short:
		b.Write(binary.BigEndian.AppendUint16(nil, uint16(int16(x))))
	case Int:
		u32(b, uint32(int32(x)))
	case Float:
		u32(b, math.Float32bits(float32(x)))
	case Double:
		b.Write(binary.BigEndian.AppendUint64(nil, math.Float64bits(x)))
	}
}
