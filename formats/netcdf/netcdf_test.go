package netcdf

import (
	"encoding/binary"
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

// file is a small file with each type of variable.
func file(t *testing.T) []byte {
	t.Helper()
	var w Writer
	n := w.AddDimension("n", 3)
	m := w.AddDimension("m", 2)
	w.AddText("title", "odd")
	w.AddNumber("weight", 0.25)
	for _, v := range []struct {
		name   string
		t      Type
		dims   []int
		values []float64
	}{
		{"short", Short, []int{n}, []float64{-1, 2, 32767}},
		{"int", Int, []int{m}, []float64{-2147483648, 7}},
		{"float", Float, []int{n, m}, []float64{1, 2, 3, 4, 5, 0.5}},
		{"double", Double, nil, []float64{math.Pi}},
	} {
		if err := w.AddVariable(v.name, v.t, v.dims, v.values, Attribute{Name: "unit", Type: Char, Text: v.name}); err != nil {
			t.Fatal(err)
		}
	}
	return w.Bytes()
}

func TestEveryTypeIsReadBack(t *testing.T) {
	f, err := Decode(file(t))
	if err != nil {
		t.Fatal(err)
	}
	if f.Text("title") != "odd" || *f.Number("weight") != 0.25 || f.Number("title") != nil || f.Text("none") != "" {
		t.Errorf("%+v", f.Attributes)
	}
	for name, want := range map[string][]float64{"short": {-1, 2, 32767}, "int": {-2147483648, 7}, "float": {1, 2, 3, 4, 5, 0.5}, "double": {math.Pi}} {
		v, ok := f.Variable(name)
		if !ok || v.Text("unit") != name || f.Length(v) != int64(len(want)) {
			t.Fatalf("%s: %+v", name, v)
		}
		got, err := f.Numbers(v)
		if err != nil {
			t.Fatal(err)
		}
		for i := range want {
			if got[i] != want[i] {
				t.Errorf("%s[%d] is %g, want %g", name, i, got[i], want[i])
			}
		}
	}
	if _, ok := f.Variable("none"); ok {
		t.Error("found a variable that is not there")
	}
}

func TestAVariableMustFillItsDimensions(t *testing.T) {
	var w Writer
	n := w.AddDimension("n", 3)
	if err := w.AddVariable("x", Float, []int{n}, []float64{1, 2}); err == nil {
		t.Error("two values for three places were taken")
	}
}

func TestOtherFilesAreNamed(t *testing.T) {
	for data, want := range map[string]string{
		"":                        "not a netCDF classic file",
		"HDF":                     "not a netCDF classic file",
		"CDF\x05\x00\x00\x00\x00": "netCDF version 5 is not read",
		"CDF\x01\x00\x00":         "ends inside its header",
		"CDF\x01\x00\x00\x00\x00\x00\x00\x00\x0a\x7f\xff\xff\xff": "announces 2147483647 dimensions",
	} {
		_, err := Decode([]byte(data))
		var at *FormatError
		if !errors.As(err, &at) || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %s", data, err, want)
		}
	}
}

// One damaged byte anywhere gives a file or a refusal, never a panic, a loop or an allocation beyond the file.
func TestDamagedBytes(t *testing.T) {
	good := file(t)
	rng := rand.New(rand.NewPCG(1, 3))
	for i := range good {
		for range 4 {
			bad := append([]byte(nil), good...)
			bad[i] = byte(rng.IntN(256))
			f, err := Decode(bad)
			if err != nil {
				continue
			}
			for k := range f.Variables {
				if values, err := f.Numbers(&f.Variables[k]); err == nil && len(values) > len(bad) {
					t.Fatalf("byte %d: %d values from %d bytes", i, len(values), len(bad))
				}
			}
		}
	}
}

// A file of records interleaves its variables; a single record variable is not padded.
func TestRecordsAreGathered(t *testing.T) {
	word := func(b []byte, v uint32) []byte { return binary.BigEndian.AppendUint32(b, v) }
	name := func(b []byte, s string) []byte {
		b = append(word(b, uint32(len(s))), s...)
		return append(b, make([]byte, (4-len(s)%4)%4)...)
	}
	header := func(begin [2]uint32) []byte {
		b := word([]byte("CDF\x01"), 3) // records
		b = name(word(word(b, 10), 1), "time")
		b = word(b, 0) // the record dimension
		b = word(word(b, 0), 0)
		b = word(word(b, 11), 2)
		for i, v := range []string{"a", "b"} {
			b = word(word(name(b, v), 1), 0)
			b = word(word(b, 0), 0)
			b = word(word(word(b, []uint32{uint32(Short), uint32(Float)}[i]), 4), begin[i])
		}
		return b
	}
	size := uint32(len(header([2]uint32{})))
	data := header([2]uint32{size, size + 4})
	for i := range 3 {
		data = append(data, 0, byte(10+i), 0, 0)
		data = word(data, math.Float32bits(float32(i)+0.5))
	}
	f, err := Decode(data)
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range [][]float64{{10, 11, 12}, {0.5, 1.5, 2.5}} {
		got, err := f.Numbers(&f.Variables[i])
		if err != nil || len(got) != 3 || got[0] != want[0] || got[1] != want[1] || got[2] != want[2] {
			t.Errorf("variable %d: %v %v, want %v", i, got, err, want)
		}
	}
	if _, err := func() ([]float64, error) {
		short, err := Decode(data[:len(data)-3])
		if err != nil {
			return nil, err
		}
		return short.Numbers(&short.Variables[1])
	}(); err == nil {
		t.Error("a record that is cut off was read")
	}
}
