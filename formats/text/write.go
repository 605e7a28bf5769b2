package text

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
)

// Write encodes channels of one time axis as a table, or one run of spectra on one grid as a matrix, in s and with every digit. It says what a table cannot hold.
func Write(f formats.File) ([]byte, error) {
	switch {
	case len(f.Spectra) == 1 && len(f.Channels) == 0:
		return matrix(f.Spectra[0])
	case len(f.Spectra) > 0:
		return nil, fmt.Errorf("a table holds channels or one run of spectra, not %d channels and %d runs: choose a signal", len(f.Channels), len(f.Spectra))
	case len(f.Channels) == 0:
		return nil, fmt.Errorf("there is no channel to write")
	}
	times := f.Channels[0].TimesS
	head := []string{"time_s"}
	columns := [][]float64{times}
	for _, c := range f.Channels {
		if !slices.Equal(c.TimesS, times) {
			return nil, fmt.Errorf("%s has other times than %s, so they cannot stand in one table: choose a channel", c.Name, f.Channels[0].Name)
		}
		name := c.Name
		if c.Unit != "" {
			name += " [" + c.Unit + "]"
		}
		head = append(head, harmless(name))
		columns = append(columns, c.Values)
	}
	return encode(head, columns)
}

// harmless keeps a spreadsheet from taking a name for a formula.
func harmless(name string) string {
	if name != "" && strings.ContainsRune("=+-@\t\r", rune(name[0])) {
		return "'" + name
	}
	return name
}

// matrix is a run with a column for each place that any scan has; a scan without it has 0 there, which is what an ion that is not there is.
func matrix(r spectra.Run) ([]byte, error) {
	var places []float64
	for _, s := range r.Scans {
		if slices.Equal(s.Axis, places) {
			continue
		}
		if r.Kind == spectra.Wavelength && places != nil {
			return nil, fmt.Errorf("the scans do not stand on one grid, so they cannot be a matrix: choose wavelengths, or write mzml")
		}
		places = slices.Concat(places, s.Axis)
		slices.Sort(places)
		if places = slices.Compact(places); len(places) >= maxColumns {
			return nil, fmt.Errorf("the scans have more than %d different m/z, as profiles and exact masses do, which no table suits: choose ions, or write mzml", maxColumns-1)
		}
	}
	if len(places) == 0 {
		return nil, fmt.Errorf("there is no ion in any scan to write")
	}
	columns := [][]float64{r.Times()}
	head := []string{"time_s"}
	for _, at := range places {
		head = append(head, placeName(r.Kind, at))
		columns = append(columns, make([]float64, len(r.Scans)))
	}
	for k, s := range r.Scans {
		for i, at := range s.Axis {
			column, _ := slices.BinarySearch(places, at)
			columns[column+1][k] += s.Values[i]
		}
	}
	return encode(head, columns)
}

func placeName(kind spectra.Kind, at float64) string {
	number := strconv.FormatFloat(at, 'g', -1, 64)
	if kind == spectra.Wavelength {
		return number + " nm"
	}
	return "m/z " + number
}

func encode(head []string, columns [][]float64) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	if err := w.Write(head); err != nil {
		return nil, err
	}
	row := make([]string, len(columns))
	for i := range columns[0] {
		for k, c := range columns {
			row[k] = strconv.FormatFloat(c[i], 'g', -1, 64)
		}
		if err := w.Write(row); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}
