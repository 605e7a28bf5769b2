package text

import (
	"fmt"
	"regexp"
	"sort"
	"strconv"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
)

// Axis says what bare numbers as heads of the columns are.
type Axis string

// The axes.
const (
	AxisGuessed  Axis = ""
	AxisMZ       Axis = "mz"
	AxisNM       Axis = "nm"
	AxisChannels Axis = "channels" // no axis: each column is a signal whose name is a number
)

// fewest columns that make a matrix of spectra when their heads are bare numbers; fewer are channels with numbers for names.
const fewest = 6

var headNumber = regexp.MustCompile(`(?i)^\s*(?:(m/z)\s*)?(\d+(?:[.,]\d+)?)\s*(nm|m/z|u|da)?\s*$`)

// matrix tells whether the heads are places on a second axis, which one, and where they are. The kind is empty for a table of channels.
func (c *collected) matrix() (spectra.Kind, []float64) {
	if c.axis == AxisChannels || len(c.heading) != c.columns || c.columns-1 < 2 {
		return "", nil
	}
	places := make([]float64, c.columns-1)
	said := ""
	for k, head := range c.heading[1:] {
		m := headNumber.FindStringSubmatch(head)
		if m == nil {
			return "", nil
		}
		v, err := strconv.ParseFloat(strings.Replace(m[2], ",", ".", 1), 64)
		if err != nil || k > 0 && v == places[k-1] {
			return "", nil
		}
		places[k] = v
		said += strings.ToLower(m[1] + m[3])
	}
	switch {
	case c.axis == AxisMZ:
		return spectra.Mass, places
	case c.axis == AxisNM, strings.Contains(said, "nm"):
		return spectra.Wavelength, places
	case said != "":
		return spectra.Mass, places
	case c.columns-1 < fewest:
		return "", nil
	}
	kind, what := guess(places), "m/z"
	if kind == spectra.Wavelength {
		what = "wavelengths in nm"
	}
	c.header.Doubts = append(c.header.Doubts, fmt.Sprintf("The columns are headed by bare numbers, which were taken for %s.", what))
	return kind, places
}

// guess takes an even grid of ten or more places between 180 and 1100 for wavelengths, anything else for m/z.
func guess(places []float64) spectra.Kind {
	if len(places) < 10 || places[0] < 180 || places[len(places)-1] > 1100 {
		return spectra.Mass
	}
	step := places[1] - places[0]
	for i := 1; i < len(places); i++ {
		if d := places[i] - places[i-1] - step; d > 1e-6 || d < -1e-6 {
			return spectra.Mass
		}
	}
	return spectra.Wavelength
}

// spectra makes one scan of each row.
func (c *collected) spectra(file formats.File, kind spectra.Kind, axis []float64) (formats.File, error) {
	file.Header = c.header
	for i := 1; i < len(c.times); i++ {
		if c.times[i] <= c.times[i-1] {
			return formats.File{}, &formats.Error{Line: c.lines[i], Reason: fmt.Sprintf("the time %.6g min does not come after %.6g min", c.times[i]/60, c.times[i-1]/60)}
		}
	}
	run := spectra.Run{About: spectra.About{Kind: kind}}
	if kind == spectra.Mass {
		run.Level = 1
	}
	ascending := sort.Float64sAreSorted(axis)
	for i, t := range c.times {
		values := make([]float64, len(axis))
		for k := range values {
			values[k] = c.values[k][i]
		}
		places := axis
		if !ascending { // sorting moves both together, so each scan has its own
			places = append([]float64(nil), axis...)
		}
		run.Scans = append(run.Scans, spectra.Scan{TimeS: t, Axis: places, Values: values})
	}
	run.Sort()
	file.Spectra = []spectra.Run{run}
	return file, nil
}
