package jcamp

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
)

// variables are the columns of an NTUPLES block, by symbol.
type variables struct {
	symbols, units, names []string
	factors, firsts       []float64
}

func list(text string) []string {
	var out []string
	for _, s := range strings.Split(text, ",") {
		out = append(out, strings.TrimSpace(s))
	}
	return out
}

func tupleVariables(f fields) (v variables, err error) {
	if v.symbols = list(f.text("SYMBOL")); v.symbols[0] == "" {
		return v, &formats.Error{Line: f["NTUPLES"].at, Reason: "the NTUPLES have no SYMBOL"}
	}
	v.units, v.names = list(f.text("UNITS")), list(f.text("VARNAME"))
	numbers := func(label string, otherwise float64) ([]float64, error) {
		out := make([]float64, len(v.symbols))
		given := list(f.text(label))
		for i := range out {
			out[i] = otherwise
			if i < len(given) && given[i] != "" {
				if out[i], err = strconv.ParseFloat(given[i], 64); err != nil {
					return nil, &formats.Error{Line: f[label].at, Reason: fmt.Sprintf("%s has %q, which is no number", label, given[i])}
				}
			}
		}
		return out, nil
	}
	if v.factors, err = numbers("FACTOR", 1); err != nil {
		return v, err
	}
	v.firsts, err = numbers("FIRST", math.NaN())
	return v, err
}

func (v variables) of(symbol string) int {
	for i, s := range v.symbols {
		if strings.EqualFold(s, symbol) {
			return i
		}
	}
	return -1
}

func (v variables) unit(i int) string {
	if i < 0 || i >= len(v.units) {
		return ""
	}
	return v.units[i]
}

var (
	pageValue = regexp.MustCompile(`^\s*([A-Za-z]\w*)\s*=\s*(.+?)\s*$`)
	tableForm = regexp.MustCompile(`^\s*\(([A-Za-z])(\+\+\(([A-Za-z])\.\.[A-Za-z]\)|([A-Za-z])\.\.[A-Za-z]+)\)`)
)

// readTuples reads pages of tables: a chromatogram's channels, or one spectrum a page.
func readTuples(block []record, f fields, file *formats.File) error {
	v, err := tupleVariables(f)
	if err != nil {
		return err
	}
	var page, points record
	held := 0
	for _, r := range block {
		switch r.label {
		case "PAGE":
			page, points = r, record{}
		case "NPOINTS":
			points = r
		case "DATATABLE":
			n, err := v.table(r, page, points, f, file)
			if err != nil {
				return err
			}
			if held += n; held > maxInAll {
				return &formats.Error{Line: r.at, Reason: fmt.Sprintf("the pages hold more than the %d points that are read", maxInAll)}
			}
		}
	}
	return nil
}

// table reads one page and gives how many points it holds.
func (v variables) table(r, page, points record, f fields, file *formats.File) (int, error) {
	m := tableForm.FindStringSubmatch(r.value)
	if m == nil {
		return 0, &formats.Error{Line: r.at, Reason: fmt.Sprintf("a table of the form %q is not read; (XY..XY) and (X++(Y..Y)) are", r.value)}
	}
	ix, iy := v.of(m[1]), v.of(m[3]+m[4])
	if ix < 0 || iy < 0 {
		return 0, &formats.Error{Line: r.at, Reason: fmt.Sprintf("the table %q names a symbol that SYMBOL does not have", r.value)}
	}
	var xs, ys []float64
	var err error
	if m[3] != "" {
		xs, ys, err = v.even(r, ix, points, f)
	} else {
		xs, ys, err = pairs(r)
	}
	if err != nil {
		return 0, err
	}
	if n, err := strconv.Atoi(points.value); err == nil && n != len(xs) {
		return 0, &formats.Error{Line: r.at, Reason: fmt.Sprintf("there are %d points; NPOINTS says %d", len(xs), n)}
	}
	for i := range xs {
		if m[3] == "" {
			xs[i] *= v.factors[ix]
		}
		ys[i] *= v.factors[iy]
	}
	if err := finite(r, xs, ys); err != nil {
		return 0, err
	}
	if per, isTime := seconds(v.unit(ix)); isTime {
		for i := range xs {
			xs[i] *= per
		}
		name := first(channelName(page), at(v.names, iy), f.text("TITLE"))
		unit := named(v.unit(iy))
		file.Channels = append(file.Channels, formats.Channel{Name: name, Kind: formats.KindOfChannel(name, unit), Unit: unit, TimesS: xs, Values: ys})
		return len(xs), nil
	}
	timeS, err := v.pageTime(page)
	if err != nil {
		return 0, err
	}
	like := spectra.About{Kind: spectra.Mass, Level: 1, Unit: named(v.unit(iy))}
	if u := strings.ToUpper(v.unit(ix)); strings.Contains(u, "NANOMET") || u == "NM" {
		like.Kind, like.Level = spectra.Wavelength, 0
	}
	addScan(file, like, spectra.Scan{TimeS: timeS, Axis: xs, Values: ys})
	return len(xs), nil
}

// even reads (X++(Y..Y)) of a page; the abscissa goes from FIRST to LAST.
func (v variables) even(r record, ix int, points record, f fields) (xs, ys []float64, err error) {
	lasts := list(f.text("LAST"))
	n, errN := strconv.Atoi(first(points.value, at(list(f.text("VARDIM")), ix)))
	last, errL := strconv.ParseFloat(at(lasts, ix), 64)
	if errN != nil || errL != nil || math.IsNaN(v.firsts[ix]) || n < 2 || n > maxPoints {
		return nil, nil, &formats.Error{Line: r.at, Reason: "FIRST, LAST and NPOINTS or VAR_DIM are needed for an evenly spaced page"}
	}
	step := (last - v.firsts[ix]) / float64(n-1)
	if ys, err = ordinates(r, v.firsts[ix], step, v.factors[ix], n); err != nil {
		return nil, nil, err
	}
	xs = make([]float64, n)
	for i := range xs {
		xs[i] = v.firsts[ix] + float64(i)*step
	}
	return xs, ys, nil
}

func at(list []string, i int) string {
	if i < 0 || i >= len(list) {
		return ""
	}
	return list[i]
}

// channelName is that of a page which is told by a name rather than a time.
func channelName(page record) string {
	m := pageValue.FindStringSubmatch(page.value)
	if m == nil {
		return ""
	}
	if _, err := strconv.ParseFloat(m[2], 64); err == nil {
		return ""
	}
	return strings.Trim(m[2], `"`)
}

// pageTime is when the spectrum of a page was taken, s.
func (v variables) pageTime(page record) (float64, error) {
	m := pageValue.FindStringSubmatch(page.value)
	if m == nil {
		return 0, nil
	}
	t, err := strconv.ParseFloat(m[2], 64)
	if err != nil || math.IsNaN(t) || math.IsInf(t, 0) {
		return 0, &formats.Error{Line: page.at, Reason: fmt.Sprintf("the page stands at %q, which is no number", m[2])}
	}
	k := v.of(m[1])
	per, isTime := seconds(v.unit(k))
	if !isTime {
		per = 1
	}
	if k >= 0 {
		t *= v.factors[k]
	}
	return t * per, nil
}
