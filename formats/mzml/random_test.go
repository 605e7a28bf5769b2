package mzml

import (
	"bytes"
	"compress/zlib"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"yugen/core/spectra"
)

// habits are how some program may write its file: the standard leaves all of them open.
type habits struct {
	rnd       *rand.Rand
	number    string // of the arrays: their accession
	zipped    bool
	grouped   bool // what describes all arrays stands once, and is referred to
	indexed   bool
	unit      string // of times
	perUnitS  float64
	namespace bool
}

func (h habits) param(accession, name, value, more string) string {
	return fmt.Sprintf(`<cvParam cvRef="MS" accession="%s" name="%s" value="%s"%s/>`, accession, name, value, more)
}

// packed is an array in the number and the packing of the file; what it holds afterwards is what that number can hold.
func (h habits) packed(values []float64) (text string, held []float64) {
	var raw bytes.Buffer
	for _, v := range values {
		switch h.number {
		case float64s:
			_ = binary.Write(&raw, binary.LittleEndian, v)
		case float32s:
			v = float64(float32(v))
			_ = binary.Write(&raw, binary.LittleEndian, float32(v))
		case int64s:
			v = math.Round(v)
			_ = binary.Write(&raw, binary.LittleEndian, int64(v))
		case int32s:
			v = math.Round(v)
			_ = binary.Write(&raw, binary.LittleEndian, int32(v))
		}
		held = append(held, v)
	}
	data := raw.Bytes()
	if h.zipped {
		var to bytes.Buffer
		z := zlib.NewWriter(&to)
		_, _ = z.Write(data)
		_ = z.Close()
		data = to.Bytes()
	}
	return base64.StdEncoding.EncodeToString(data), held
}

func (h habits) describes() string {
	return h.param(h.number, "number", "", "") + h.param(map[bool]string{true: zlibbed, false: plain}[h.zipped], "packing", "", "")
}

func (h habits) array(kind string, values []float64) (xml string, held []float64) {
	text, held := h.packed(values)
	about := h.describes()
	if h.grouped {
		about = `<referenceableParamGroupRef ref="arrays"/>`
	}
	return fmt.Sprintf(`<binaryDataArray encodedLength="%d">%s%s<binary>%s</binary></binaryDataArray>`, len(text), about, h.param(kind, "array", "", ""), text), held
}

// aFile writes scans of one level and a chromatogram by random habits, and gives what is held in it.
func (h habits) aFile() (xml string, scans []spectra.Scan, times, signal []float64) {
	var b strings.Builder
	inUnit := fmt.Sprintf(` unitCvRef="UO" unitAccession="%s" unitName="time"`, h.unit)
	n := 1 + h.rnd.IntN(20)
	fmt.Fprintf(&b, `<spectrumList count="%d" defaultDataProcessingRef="d">`, n)
	for k := range n {
		at := float64(k+1) * 0.5
		size := h.rnd.IntN(30) // some scans hold nothing
		axis, values := make([]float64, size), make([]float64, size)
		mz := 40.0
		for i := range size {
			mz += 1 + math.Floor(h.rnd.Float64()*4)
			axis[i], values[i] = mz, math.Floor(h.rnd.Float64()*1e6)
		}
		x, heldX := h.array(mzArray, axis)
		y, heldY := h.array(intensityArray, values)
		fmt.Fprintf(&b, `<spectrum index="%d" id="scan=%d" defaultArrayLength="%d">%s%s<scanList count="1"><scan>%s</scan></scanList>`, k, k+1, size, h.param(msLevel, "ms level", "1", ""), h.param(centroid, "centroid spectrum", "", ""), h.param(scanTime, "scan start time", fmt.Sprint(at/h.perUnitS), inUnit))
		fmt.Fprintf(&b, `<binaryDataArrayList count="2">%s%s</binaryDataArrayList></spectrum>`, x, y)
		scans = append(scans, spectra.Scan{TimeS: at, Axis: heldX, Values: heldY})
	}
	b.WriteString(`</spectrumList><chromatogramList count="1" defaultDataProcessingRef="d">`)
	for k := range 10 + h.rnd.IntN(30) {
		times, signal = append(times, float64(k)*2), append(signal, math.Floor(h.rnd.Float64()*1000))
	}
	inUnits := make([]float64, len(times))
	for k, at := range times {
		inUnits[k] = at / h.perUnitS
	}
	whole := h
	whole.grouped = false
	if h.number == int32s || h.number == int64s { // times are no whole minutes
		whole.number = float64s
	}
	x, held := whole.array(timeArray, inUnits)
	x = strings.Replace(x, `name="array" value=""/>`, `name="array" value=""`+inUnit+`/>`, 1)
	y, heldY := h.array(intensityArray, signal)
	fmt.Fprintf(&b, `<chromatogram index="0" id="TIC" defaultArrayLength="%d">%s<binaryDataArrayList count="2">%s%s</binaryDataArrayList></chromatogram></chromatogramList>`, len(times), h.param(totalIon, "total ion current chromatogram", "", ""), x, y)
	for k, v := range held {
		times[k] = v * h.perUnitS
	}
	space, end := "", ""
	if h.namespace {
		space = ` xmlns="http://psi.hupo.org/ms/mzml"`
	}
	groups := ""
	if h.grouped {
		groups = `<referenceableParamGroupList count="1"><referenceableParamGroup id="arrays">` + h.describes() + `</referenceableParamGroup></referenceableParamGroupList>`
	}
	xml = `<mzML` + space + ` version="1.1.0">` + groups + `<run id="r">` + b.String() + `</run></mzML>`
	if h.indexed {
		xml, end = `<indexedmzML>`+xml, `<indexList count="0"></indexList><indexListOffset>0</indexListOffset></indexedmzML>`
	}
	return `<?xml version="1.0" encoding="utf-8"?>` + "\n" + xml + end, scans, times, heldY
}

func equalNear(a, b []float64) bool {
	if len(a) != len(b) {
		return false
	}
	for k, v := range a {
		if !near(v, b[k]) {
			return false
		}
	}
	return true
}

// Whatever a program leaves open or chooses of the standard, scans and signal are what was written.
func TestFilesOfAnyHabit(t *testing.T) {
	for seed := range uint64(200) {
		rnd := rand.New(rand.NewPCG(seed, 23))
		h := habits{rnd: rnd, number: []string{float64s, float32s, int64s, int32s}[rnd.IntN(4)], zipped: rnd.IntN(2) == 0, grouped: rnd.IntN(2) == 0, indexed: rnd.IntN(2) == 0, namespace: rnd.IntN(3) > 0, unit: []string{second, minute, millisecond}[rnd.IntN(3)]}
		h.perUnitS = map[string]float64{second: 1, minute: 60, millisecond: 0.001}[h.unit]
		text, scans, times, signal := h.aFile()
		f, err := whole([]byte(text))
		if err != nil {
			t.Fatalf("seed %d, %+v: %v\n%.3000s", seed, h, err, text)
		}
		if len(f.Channels) != 1 || !equalNear(f.Channels[0].TimesS, times) || !equalNear(f.Channels[0].Values, signal) {
			t.Fatalf("seed %d, %+v: the signal is %+v; written were %v at %v", seed, h, f.Channels, signal, times)
		}
		if len(f.Spectra) != 1 || len(f.Spectra[0].Scans) != len(scans) {
			t.Fatalf("seed %d, %+v: %d runs of scans; one of %d was written", seed, h, len(f.Spectra), len(scans))
		}
		for k, s := range f.Spectra[0].Scans {
			if !near(s.TimeS, scans[k].TimeS) || !equalNear(s.Axis, scans[k].Axis) || !equalNear(s.Values, scans[k].Values) {
				t.Fatalf("seed %d, %+v: scan %d is %+v, was %+v", seed, h, k, s, scans[k])
			}
		}
	}
}
