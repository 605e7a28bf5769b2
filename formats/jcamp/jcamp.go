// Package jcamp reads and writes JCAMP-DX, the text format for spectra and chromatograms.
//
// Sources: R. S. McDonald & P. A. Wilks, Appl. Spectrosc. 42 (1988) 151 (JCAMP-DX 4.24); P. Lampen, H. Hillig, A. N. Davies & M. Linscheid, Appl.
// Spectrosc. 48 (1994) 1545 (5.0, mass spectrometry, NTUPLES); A. N. Davies & P. Lampen, Appl. Spectrosc. 47 (1993) 1093 (LINK).
package jcamp

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"yugen/core/signal"
	"yugen/core/spectra"
	"yugen/formats"
)

const (
	maxPoints = signal.MaxPoints
	maxBlocks = 10_000
	maxInAll  = 40_000_000 // points of all blocks together
)

// record is one labelled data record with the lines that follow it.
type record struct {
	label string // without blanks and signs, in capitals
	value string // on the label's line
	lines []string
	at    int // line of the file, from 1
}

// Read decodes a file; LINK files give all their blocks.
func Read(data []byte) (formats.File, error) {
	file := formats.File{Header: formats.Header{Format: "JCAMP-DX"}}
	var block []record
	blocks := 0
	for _, r := range records(string(data)) {
		if r.label == "TITLE" && len(block) > 0 { // a block within a LINK, whose own records are of all of them
			block = nil
		}
		if r.label != "END" {
			block = append(block, r)
			continue
		}
		if len(block) == 0 {
			continue // the end of the LINK
		}
		if blocks++; blocks > maxBlocks {
			return file, &formats.Error{Line: r.at, Reason: fmt.Sprintf("more than %d blocks", maxBlocks)}
		}
		if err := readBlock(block, &file); err != nil {
			return formats.File{}, err
		}
		if held := points(file); held > maxInAll {
			return formats.File{}, &formats.Error{Line: r.at, Reason: fmt.Sprintf("the blocks hold %d points together; at most %d are read", held, maxInAll)}
		}
		block = nil
	}
	if len(block) > 0 {
		if err := readBlock(block, &file); err != nil {
			return formats.File{}, err
		}
		file.Header.Doubts = append(file.Header.Doubts, "The file has no ##END: it may have been cut off.")
	}
	if len(file.Channels) == 0 && len(file.Spectra) == 0 {
		return formats.File{}, &formats.Error{Reason: "there are no data in it: no XYDATA, XYPOINTS, PEAK TABLE or NTUPLES"}
	}
	for i := range file.Spectra {
		file.Spectra[i].Sort()
	}
	return file, nil
}

// points counts those of all channels and scans.
func points(f formats.File) (n int) {
	for _, c := range f.Channels {
		n += len(c.Values)
	}
	for _, r := range f.Spectra {
		for _, s := range r.Scans {
			n += len(s.Values)
		}
	}
	return n
}

// lineEnds are those of all systems.
var lineEnds = strings.NewReplacer("\r\n", "\n", "\r", "\n")

var notInLabel = strings.NewReplacer(" ", "", "-", "", "/", "", "_", "")

// records parts a file into its labelled data records; remarks after $$ go.
func records(text string) []record {
	var out []record
	for i, l := range strings.Split(lineEnds.Replace(text), "\n") {
		if k := strings.Index(l, "$$"); k >= 0 {
			l = l[:k]
		}
		l = strings.TrimRight(strings.TrimPrefix(l, "\ufeff"), " \t\r")
		if rest, ok := strings.CutPrefix(strings.TrimLeft(l, " \t"), "##"); ok {
			label, value, _ := strings.Cut(rest, "=")
			out = append(out, record{label: strings.ToUpper(notInLabel.Replace(label)), value: strings.TrimSpace(value), at: i + 1})
			continue
		}
		if n := len(out); n > 0 {
			out[n-1].lines = append(out[n-1].lines, l)
		}
	}
	return out
}

// fields are the records of a block by their labels, the last of each.
type fields map[string]record

func (f fields) text(label string) string { return f[label].value }

func (f fields) number(label string, otherwise float64) (float64, error) {
	r, there := f[label]
	if !there || r.value == "" {
		return otherwise, nil
	}
	v, err := strconv.ParseFloat(strings.TrimSpace(r.value), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, &formats.Error{Line: r.at, Reason: fmt.Sprintf("%s is %q, which is no number", label, r.value)}
	}
	return v, nil
}

func readBlock(block []record, file *formats.File) error {
	f := fields{}
	for _, r := range block {
		f[r.label] = r
	}
	describe(f, &file.Header)
	for _, r := range block {
		var err error
		switch r.label {
		case "NTUPLES":
			return readTuples(block, f, file)
		case "XYDATA":
			err = xydata(r, f, file)
		case "XYPOINTS", "PEAKTABLE":
			err = xypoints(r, f, file)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

var dates = []string{"2006/01/02 15:04:05", "2006/01/02 15:04", "2006/01/02", "2006-01-02T15:04:05Z07:00", "06/01/02 15:04:05", "06/01/02"}

func describe(f fields, h *formats.Header) {
	title := f.text("TITLE")
	if _, described := f["SAMPLEDESCRIPTION"]; described {
		title = ""
	}
	h.SampleName = first(h.SampleName, f.text("SAMPLEDESCRIPTION"), f.text("NAMES"), title)
	if owner := f.text("OWNER"); owner != notSaid {
		h.Operator = first(h.Operator, owner)
	}
	h.MethodName = first(h.MethodName, f.text("METHOD"))
	h.Detector = first(h.Detector, f.text("SPECTROMETERDATASYSTEM"), f.text("DETECTOR"))
	if h.AcquiredAt == nil {
		stamp := first(f.text("LONGDATE"), strings.TrimSpace(f.text("DATE")+" "+f.text("TIME")))
		for _, layout := range dates {
			if at, err := time.Parse(layout, stamp); err == nil {
				h.AcquiredAt = &at
				break
			}
		}
	}
}

func first(texts ...string) string {
	for _, t := range texts {
		if t = strings.TrimSpace(t); t != "" {
			return t
		}
	}
	return ""
}

// seconds is how many seconds the unit of an abscissa has; ok is false for one that is no time.
func seconds(unit string) (per float64, ok bool) {
	u := strings.ToUpper(strings.TrimSpace(unit))
	switch {
	case strings.HasPrefix(u, "SEC"), u == "S", u == "TIME/S", u == "TIME":
		return 1, true
	case strings.HasPrefix(u, "MIN"), u == "TIME/MIN":
		return 60, true
	case strings.HasPrefix(u, "MILLISEC"), u == "MS":
		return 1e-3, true
	}
	return 0, false
}

// xydata reads evenly spaced ordinates, (X++(Y..Y)), with the checks of abscissa and ordinate.
func xydata(r record, f fields, file *formats.File) error {
	if form := strings.ReplaceAll(strings.ToUpper(r.value), " ", ""); form != "(X++(Y..Y))" {
		return &formats.Error{Line: r.at, Reason: fmt.Sprintf("XYDATA has the form %q; (X++(Y..Y)) is read", r.value)}
	}
	var err error
	get := func(label string, otherwise float64) (v float64) {
		if err == nil {
			v, err = f.number(label, otherwise)
		}
		return v
	}
	factorX, factorY := get("XFACTOR", 1), get("YFACTOR", 1)
	firstX, lastX, n := get("FIRSTX", math.NaN()), get("LASTX", math.NaN()), get("NPOINTS", math.NaN())
	if err != nil {
		return err
	}
	if math.IsNaN(firstX) || math.IsNaN(lastX) || math.IsNaN(n) || n < 2 || n != math.Trunc(n) || n > maxPoints {
		return &formats.Error{Line: r.at, Reason: fmt.Sprintf("FIRSTX, LASTX and NPOINTS (2 to %d) are needed for XYDATA", maxPoints)}
	}
	step := (lastX - firstX) / (n - 1)
	ys, err := ordinates(r, firstX, step, factorX, int(n))
	if err != nil {
		return err
	}
	for i := range ys {
		ys[i] *= factorY
	}
	xs := make([]float64, len(ys))
	for i := range xs {
		xs[i] = firstX + float64(i)*step
	}
	return f.keep(r, xs, ys, file)
}

// ordinates decodes the lines of (X++(Y..Y)) and holds each against its abscissa, and the first value after a line of differences against the last of it.
func ordinates(r record, firstX, step, factorX float64, n int) ([]float64, error) {
	var ys []float64
	check := false
	for k, text := range r.lines {
		if strings.TrimSpace(text) == "" {
			continue
		}
		at := r.at + 1 + k
		l, err := decodeLine(text, n)
		if err != nil {
			return nil, &formats.Error{Line: at, Reason: err.Error()}
		}
		place := len(ys)
		if check {
			place--
			if len(l.ys) == 0 || l.ys[0] != ys[len(ys)-1] {
				return nil, &formats.Error{Line: at, Reason: fmt.Sprintf("the check of the ordinate fails: the line before ends in %g, this one begins with %v", ys[len(ys)-1], l.ys[:min(1, len(l.ys))])}
			}
			l.ys = l.ys[1:]
		}
		if want := firstX + float64(place)*step; math.Abs(l.x*factorX-want) > 0.5*math.Abs(step)+math.Abs(factorX) {
			return nil, &formats.Error{Line: at, Reason: fmt.Sprintf("the line stands at %g, its place in the table is %g: points are missing or too many", l.x*factorX, want)}
		}
		ys = append(ys, l.ys...)
		check = l.difference
		if len(ys) > n {
			return nil, &formats.Error{Line: at, Reason: fmt.Sprintf("there are more than the %d points that NPOINTS says", n)}
		}
	}
	if len(ys) != n {
		return nil, &formats.Error{Line: r.at, Reason: fmt.Sprintf("there are %d points; NPOINTS says %d", len(ys), n)}
	}
	return ys, nil
}

// xypoints reads pairs, (XY..XY).
func xypoints(r record, f fields, file *formats.File) error {
	factorX, err := f.number("XFACTOR", 1)
	if err != nil {
		return err
	}
	factorY, err := f.number("YFACTOR", 1)
	if err != nil {
		return err
	}
	xs, ys, err := pairs(r)
	if err != nil {
		return err
	}
	for i := range xs {
		xs[i] *= factorX
		ys[i] *= factorY
	}
	if n, err := f.number("NPOINTS", float64(len(xs))); err != nil {
		return err
	} else if int(n) != len(xs) {
		return &formats.Error{Line: r.at, Reason: fmt.Sprintf("there are %d points; NPOINTS says %g", len(xs), n)}
	}
	return f.keep(r, xs, ys, file)
}

var pairNumber = regexp.MustCompile(`[^\s,;]+`)

func pairs(r record) (xs, ys []float64, err error) {
	n := 0
	for k, text := range r.lines {
		for _, word := range pairNumber.FindAllString(text, -1) {
			v, err := strconv.ParseFloat(word, 64)
			if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
				return nil, nil, &formats.Error{Line: r.at + 1 + k, Reason: fmt.Sprintf("%q is no finite number", word[:min(len(word), 20)])}
			}
			if n%2 == 0 {
				xs = append(xs, v)
			} else {
				ys = append(ys, v)
			}
			if n++; n > 2*maxPoints {
				return nil, nil, &formats.Error{Line: r.at + 1 + k, Reason: fmt.Sprintf("more than %d points", maxPoints)}
			}
		}
	}
	if n%2 != 0 {
		return nil, nil, &formats.Error{Line: r.at, Reason: "the last point has no ordinate"}
	}
	return xs, ys, nil
}

// keep puts points where the units of their abscissa say: a channel against time, or a spectrum.
func (f fields) keep(r record, xs, ys []float64, file *formats.File) error {
	if err := finite(r, xs, ys); err != nil {
		return err
	}
	units := strings.ToUpper(f.text("XUNITS"))
	if per, isTime := seconds(units); isTime {
		for i := range xs {
			xs[i] *= per
		}
		name := f.text("TITLE")
		unit := named(f.text("YUNITS"))
		file.Channels = append(file.Channels, formats.Channel{Name: name, Kind: formats.KindOfChannel(name, unit), Unit: unit, TimesS: xs, Values: ys})
		return nil
	}
	kind := spectra.Mass
	switch {
	case strings.Contains(units, "M/Z"):
	case strings.Contains(units, "NANOMET"), units == "NM":
		kind = spectra.Wavelength
	default:
		return &formats.Error{Line: r.at, Unsupported: true, Reason: fmt.Sprintf("the abscissa is in %q; times, m/z and nanometres are read", f.text("XUNITS"))}
	}
	level := 0
	if kind == spectra.Mass {
		level = 1
	}
	addScan(file, spectra.About{Kind: kind, Level: level, Unit: named(f.text("YUNITS"))}, spectra.Scan{Axis: xs, Values: ys})
	return nil
}

// finite refuses what a factor has taken beyond all numbers.
func finite(r record, lists ...[]float64) error {
	for _, list := range lists {
		if err := formats.CheckValues("the data", list); err != nil {
			return &formats.Error{Line: r.at, Reason: err.Error()}
		}
	}
	return nil
}

// addScan adds a scan to the run of its kind.
func addScan(file *formats.File, about spectra.About, s spectra.Scan) {
	held := spectra.Collected{Runs: file.Spectra}
	_ = held.Take(about, s) // which takes any
	file.Spectra = held.Runs
}

// named leaves out what says nothing.
func named(unit string) string {
	if strings.EqualFold(unit, "ARBITRARY UNITS") {
		return ""
	}
	return unit
}
