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

func matrix(r spectra.Run) ([]byte, error) {
	if len(r.Scans) == 0 {
		return nil, fmt.Errorf("there is no scan to write")
	}
	unit := "m/z "
	if r.Kind == spectra.Wavelength {
		unit = ""
	}
	grid := r.Scans[0].Axis
	head, columns := []string{"time_s"}, [][]float64{r.Times()}
	for i, at := range grid {
		name := unit + strconv.FormatFloat(at, 'g', -1, 64)
		if unit == "" {
			name += " nm"
		}
		head = append(head, name)
		column := make([]float64, len(r.Scans))
		for k, s := range r.Scans {
			if !slices.Equal(s.Axis, grid) {
				return nil, fmt.Errorf("the scans do not stand on one grid, so they cannot be a matrix: choose ions, or write mzml")
			}
			column[k] = s.Values[i]
		}
		columns = append(columns, column)
	}
	return encode(head, columns)
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
