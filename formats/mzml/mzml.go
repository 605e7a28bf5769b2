// Package mzml reads and writes mzML, the open format for mass spectra and chromatograms.
//
// Source: mzML 1.1.0, HUPO Proteomics Standards Initiative (Martens et al., Mol. Cell. Proteomics 10 (2011) R110.000133), with the PSI-MS and unit
// vocabularies. The index of indexedmzML is not used, so offsets that lie do no harm. Entities are never resolved.
package mzml

import (
	"bufio"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/encoding/ianaindex"

	"yugen/core/spectra"
	"yugen/formats"
)

// Terms of the vocabularies.
const (
	msLevel, centroid, profile           = "MS:1000511", "MS:1000127", "MS:1000128"
	contactName, sampleNumber            = "MS:1000586", "MS:1000001"
	positive, negative                   = "MS:1000130", "MS:1000129"
	radiation                            = "MS:1000804" // electromagnetic radiation spectrum
	scanTime, selectedMZ                 = "MS:1000016", "MS:1000744"
	mzArray, intensityArray, timeArray   = "MS:1000514", "MS:1000515", "MS:1000595"
	wavelengthArray                      = "MS:1000617"
	flowArray, pressureArray, temperate  = "MS:1000820", "MS:1000821", "MS:1000822"
	float64s, float32s, int64s, int32s   = "MS:1000523", "MS:1000521", "MS:1000522", "MS:1000519"
	zlibbed, plain                       = "MS:1000574", "MS:1000576"
	totalIon, basePeak, absorption       = "MS:1000235", "MS:1000628", "MS:1000812"
	pressureTrace, flowTrace, transition = "MS:1003019", "MS:1003020", "MS:1001473"
	second, minute, millisecond          = "UO:0000010", "UO:0000031", "UO:0000028"
)

// numpress are compressions that are refused by name.
var numpress = map[string]bool{"MS:1002312": true, "MS:1002313": true, "MS:1002314": true, "MS:1002746": true, "MS:1002747": true, "MS:1002748": true}

// param is a cvParam or a userParam.
type param struct{ term, name, value, unit, unitName string }

func attributes(e xml.StartElement) map[string]string {
	out := make(map[string]string, len(e.Attr))
	for _, a := range e.Attr {
		out[a.Name.Local] = a.Value
	}
	return out
}

// reader walks through the document.
type reader struct {
	dec *xml.Decoder
	// bytes are what dec reads, byte by byte and none ahead, so that the long texts of binary arrays can be taken out past it; nil where they cannot.
	bytes   *bufio.Reader
	skipped int64 // how many were
	file    formats.File
	groups  map[string][]param
	points  int
	limits  formats.Limits
	to      spectra.Taker
	scans   int

	group string   // being defined
	cur   *unit    // the spectrum or chromatogram being read
	array *array   // within it
	path  []string // of elements
}

// unit is a spectrum or a chromatogram.
type unit struct {
	chromatogram bool
	id           string
	length       int
	params       []param // its own, and of its scan
	timeS        float64
	level        int
	precursor    float64
	arrays       []array
	scanned      bool
}

// array is a binaryDataArray.
type array struct {
	length int
	params []param
	binary bytes.Buffer
	at     int64
}

func (p param) is(terms ...string) bool { return slices.Contains(terms, p.term) }

func has(list []param, term string) (param, bool) {
	for _, p := range list {
		if p.term == term {
			return p, true
		}
	}
	return param{}, false
}

func (r *reader) fail(reason string, args ...any) error {
	return &formats.Error{Offset: r.offset(), Reason: fmt.Sprintf(reason, args...)}
}

func (r *reader) offset() int64 { return r.dec.InputOffset() + r.skipped }

// binary takes the text of a binary array up to the next markup.
func (r *reader) binary() error {
	if r.bytes == nil || r.array == nil {
		return nil
	}
	for {
		part, err := r.bytes.ReadSlice('<')
		if err == nil {
			part = part[:len(part)-1]
		}
		r.array.binary.Write(part)
		r.skipped += int64(len(part))
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case err == nil:
			return r.bytes.UnreadByte()
		case errors.Is(err, io.EOF):
			return nil // the decoder tells
		}
		return fmt.Errorf("the file cannot be read to its end: %w", err)
	}
}

// Read decodes a file piece by piece: no more of it lies in memory than its chromatograms and one spectrum. Errors say at which byte.
func Read(from io.ReaderAt, size int64, limits formats.Limits, to spectra.Taker) (formats.File, error) {
	if size > limits.Bytes {
		return formats.File{}, &formats.Error{Reason: fmt.Sprintf("the file has %d MB; at most %d are read", size>>20, limits.Bytes>>20)}
	}
	bytes := bufio.NewReaderSize(io.NewSectionReader(from, 0, size), 256<<10)
	r := &reader{dec: xml.NewDecoder(bytes), bytes: bytes, groups: map[string][]param{}, limits: limits, to: to}
	r.file.Header.Format = "mzML"
	r.dec.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
		r.bytes = nil // from here on the decoder reads ahead
		encoding, err := ianaindex.IANA.Encoding(label)
		if err != nil || encoding == nil {
			return nil, fmt.Errorf("its encoding %q is unknown", label)
		}
		return encoding.NewDecoder().Reader(in), nil
	}
	for {
		token, err := r.dec.RawToken()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			if disk := new(fs.PathError); errors.As(err, &disk) {
				return formats.File{}, fmt.Errorf("the file cannot be read to its end: %w", err)
			}
			return formats.File{}, r.fail("the markup is broken: %s", strings.TrimPrefix(err.Error(), "XML syntax error on "))
		}
		if err := r.take(token); err != nil {
			return formats.File{}, err
		}
	}
	if len(r.path) > 0 {
		return formats.File{}, r.fail("the file ends within <%s>: it was cut off", r.path[len(r.path)-1])
	}
	return r.finished()
}

func (r *reader) take(token xml.Token) error {
	switch t := token.(type) {
	case xml.Directive:
		return r.fail("it declares a document type; entities are never resolved, so this is not read")
	case xml.StartElement:
		r.path = append(r.path, t.Name.Local)
		if len(r.path) > 100 {
			return r.fail("elements stand in each other more than 100 deep")
		}
		return r.open(t)
	case xml.EndElement:
		if n := len(r.path); n == 0 || r.path[n-1] != t.Name.Local {
			return r.fail("</%s> closes nothing", t.Name.Local)
		}
		r.path = r.path[:len(r.path)-1]
		return r.close(t.Name.Local)
	case xml.CharData:
		if r.array != nil && len(r.path) > 0 && r.path[len(r.path)-1] == "binary" {
			r.array.binary.Write(t)
		}
	}
	return nil
}

func (r *reader) open(e xml.StartElement) error {
	a := attributes(e)
	switch e.Name.Local {
	case "referenceableParamGroup":
		r.group = a["id"]
	case "referenceableParamGroupRef":
		for _, p := range r.groups[a["ref"]] {
			r.param(p)
		}
	case "cvParam", "userParam":
		p := param{a["accession"], a["name"], a["value"], a["unitAccession"], a["unitName"]}
		if r.group != "" {
			r.groups[r.group] = append(r.groups[r.group], p)
			return nil
		}
		r.param(p)
	case "sample":
		r.file.Header.SampleName = a["name"]
	case "run":
		if at, err := time.Parse(time.RFC3339, a["startTimeStamp"]); err == nil {
			r.file.Header.AcquiredAt = &at
		}
	case "spectrum", "chromatogram":
		n, err := strconv.Atoi(a["defaultArrayLength"])
		if err != nil || n < 0 {
			return r.fail("the %s %q has no defaultArrayLength", e.Name.Local, a["id"])
		}
		r.cur = &unit{chromatogram: e.Name.Local == "chromatogram", id: a["id"], length: n}
	case "binary":
		return r.binary()
	case "binaryDataArray":
		if r.cur == nil {
			return r.fail("a binaryDataArray stands outside of spectra and chromatograms")
		}
		r.array = &array{length: r.cur.length, at: r.offset()}
		if n, err := strconv.Atoi(a["arrayLength"]); err == nil {
			r.array.length = n
		}
	}
	return nil
}

// param takes a parameter to where it stands.
func (r *reader) param(p param) {
	switch {
	case r.array != nil:
		r.array.params = append(r.array.params, p)
	case r.cur == nil:
		r.describe(p)
	case slices.Contains(r.path, "precursor") || slices.Contains(r.path, "product"):
		if v, err := strconv.ParseFloat(p.value, 64); err == nil && p.is(selectedMZ) {
			r.cur.precursor = v
		}
	case p.is(scanTime):
		if v, err := strconv.ParseFloat(p.value, 64); err == nil && !r.cur.scanned {
			r.cur.timeS, r.cur.scanned = v*perUnit(p.unit), true
		}
	case p.is(msLevel):
		r.cur.level, _ = strconv.Atoi(p.value)
	default:
		r.cur.params = append(r.cur.params, p)
	}
}

// describe takes a parameter of the file, its sample or its equipment.
func (r *reader) describe(p param) {
	h := &r.file.Header
	switch {
	case slices.Contains(r.path, "instrumentConfiguration"):
		h.AddSetting(formats.Setting{Group: "instrument", Name: p.name, Value: p.value, Unit: p.unitName})
	case p.is(contactName) && h.Operator == "":
		h.Operator = p.value
	case p.is(sampleNumber):
		h.SampleID = p.value
	case p.term == "" && strings.EqualFold(p.name, "vial") && slices.Contains(r.path, "sample"):
		h.Vial = p.value
	}
}

// perUnit is how many seconds a unit of time has.
func perUnit(term string) float64 {
	switch term {
	case minute:
		return 60
	case millisecond:
		return 1e-3
	}
	return 1
}

func (r *reader) close(name string) error {
	switch name {
	case "referenceableParamGroup":
		r.group = ""
	case "binaryDataArray":
		r.cur.arrays = append(r.cur.arrays, *r.array)
		r.array = nil
	case "spectrum":
		u := r.cur
		r.cur = nil
		return r.spectrum(u)
	case "chromatogram":
		u := r.cur
		r.cur = nil
		return r.chromatogram(u)
	}
	return nil
}

// numbers decodes the array of one of the terms; nil where the unit has none.
func (r *reader) numbers(u *unit, terms ...string) ([]float64, param, error) {
	for i := range u.arrays {
		for _, p := range u.arrays[i].params {
			if !p.is(terms...) {
				continue
			}
			if r.points += u.arrays[i].length; u.arrays[i].length < 0 || r.points > r.limits.Points {
				return nil, p, r.fail("%s: more than %d numbers in one file", u.id, r.limits.Points)
			}
			values, err := u.arrays[i].decode()
			if err != nil {
				return nil, p, &formats.Error{Offset: u.arrays[i].at, Reason: fmt.Sprintf("%s, %s: %s", u.id, p.name, err)}
			}
			return values, p, nil
		}
	}
	return nil, param{}, nil
}

func (r *reader) spectrum(u *unit) error {
	about := spectra.About{Kind: spectra.Mass, Level: max(1, u.level), Precursor: u.precursor}
	axisTerm := mzArray
	if _, ok := has(u.params, radiation); ok {
		about.Kind, about.Level, axisTerm = spectra.Wavelength, 0, wavelengthArray
	}
	axis, _, err := r.numbers(u, axisTerm, wavelengthArray)
	if err != nil {
		return err
	}
	values, p, err := r.numbers(u, intensityArray)
	if err != nil {
		return err
	}
	if len(axis) != len(values) {
		return r.fail("%s: %d places and %d intensities", u.id, len(axis), len(values))
	}
	_, about.Profile = has(u.params, profile)
	if _, ok := has(u.params, positive); ok {
		about.Polarity = spectra.Positive
	} else if _, ok := has(u.params, negative); ok {
		about.Polarity = spectra.Negative
	}
	about.Unit = unitName(p)
	r.scans++
	return r.to.Take(about, spectra.Scan{TimeS: u.timeS, Axis: axis, Values: values, Precursor: u.precursor})
}

func unitName(p param) string {
	switch p.unitName {
	case "number of detector counts":
		return "counts"
	case "absorbance unit":
		return "AU"
	}
	return p.unitName
}

func (r *reader) chromatogram(u *unit) error {
	times, p, err := r.numbers(u, timeArray)
	if err != nil {
		return err
	}
	per := perUnit(p.unit)
	for i := range times {
		times[i] *= per
	}
	values, p, err := r.numbers(u, intensityArray, flowArray, pressureArray, temperate)
	if err != nil {
		return err
	}
	if len(times) != len(values) {
		return r.fail("%s: %d times and %d values", u.id, len(times), len(values))
	}
	c := formats.Channel{Name: u.id, Unit: unitName(p), TimesS: times, Values: values}
	c.Kind = formats.KindOfChannel(c.Name, c.Unit)
	for _, q := range append(slices.Clone(u.params), p) {
		if q.is(pressureTrace, flowTrace, flowArray, pressureArray, temperate) {
			c.Kind = formats.Condition
		}
		if q.is(totalIon, basePeak, absorption, transition) {
			c.Kind = formats.Detector
		}
	}
	r.file.Channels = append(r.file.Channels, c)
	return nil
}

func (r *reader) finished() (formats.File, error) {
	if len(r.file.Channels) == 0 && r.scans == 0 {
		return formats.File{}, &formats.Error{Reason: "there are neither spectra nor chromatograms in it"}
	}
	return r.file, nil
}
