package report

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"

	"github.com/xuri/excelize/v2"
)

// Resolved is a whole batch resolved: compounds against samples.
type Resolved struct {
	Samples  []string
	Rows     []ResolvedRow // in order of time
	Standard int           // the place of the internal standard among the rows; -1 for none
	Left     int           // stretches that are not resolved yet
}

// ResolvedRow is one compound; what does not stand out of noise in a sample is nil.
type ResolvedRow struct {
	ApexMin   float64
	Index     *float64
	Name      string
	Confirmed bool
	Match     *float64
	Doubts    string
	Areas     []*float64
	Uncertain []*float64 // relative standard uncertainties of the areas
}

var resolvedHeads = []string{"retention_min", "index", "compound", "confirmed", "match", "doubts"}

// CSV writes the areas with what is known of each compound.
func (r Resolved) CSV() ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	head := append([]string{}, resolvedHeads...)
	for _, s := range r.Samples {
		head = append(head, Harmless(s))
	}
	for _, s := range r.Samples {
		head = append(head, Harmless(s+", relative standard uncertainty"))
	}
	if err := w.Write(head); err != nil {
		return nil, err
	}
	for _, row := range r.Rows {
		line := []string{strconv.FormatFloat(row.ApexMin, 'f', 4, 64), number(row.Index), Harmless(row.Name), strconv.FormatBool(row.Confirmed), number(row.Match), Harmless(row.Doubts)}
		for _, v := range row.Areas {
			line = append(line, number(v))
		}
		for k := range r.Samples {
			line = append(line, number(at(row.Uncertain, k)))
		}
		if err := w.Write(line); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

func at(list []*float64, k int) *float64 {
	if k < len(list) {
		return list[k]
	}
	return nil
}

func number(v *float64) string {
	if v == nil {
		return ""
	}
	return strconv.FormatFloat(*v, 'g', 8, 64)
}

// XLSX writes the areas, and on a second sheet, as formulas, their shares of the total of each sample.
func (r Resolved) XLSX() ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", "Areas"); err != nil {
		return nil, err
	}
	head := make([]any, 0, len(resolvedHeads)+len(r.Samples))
	for _, h := range resolvedHeads {
		head = append(head, h)
	}
	for _, s := range r.Samples {
		head = append(head, s)
	}
	areas, shares := [][]any{head}, [][]any{append([]any{head[2]}, head[len(resolvedHeads):]...)}
	uncertain := slices.Clone(shares)
	for _, row := range r.Rows {
		line := []any{row.ApexMin, valueOf(row.Index), row.Name, row.Confirmed, valueOf(row.Match), row.Doubts}
		for _, v := range row.Areas {
			line = append(line, valueOf(v))
		}
		areas, shares = append(areas, line), append(shares, []any{row.Name})
		u := []any{row.Name}
		for _, v := range row.Uncertain {
			u = append(u, valueOf(v))
		}
		uncertain = append(uncertain, u)
	}
	if err := write(f, "Areas", areas); err != nil {
		return nil, err
	}
	if err := write(f, "Of the total", shares); err != nil {
		return nil, err
	}
	if err := write(f, "Relative uncertainty", uncertain); err != nil {
		return nil, err
	}
	if err := r.formulas(f); err != nil {
		return nil, err
	}
	out, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func valueOf(v *float64) any {
	if v == nil {
		return nil
	}
	return *v
}

func (r Resolved) formulas(f *excelize.File) error {
	last := len(r.Rows) + 1
	for k, row := range r.Rows {
		for s := range r.Samples {
			if s >= len(row.Areas) || row.Areas[s] == nil {
				continue
			}
			from, err := excelize.ColumnNumberToName(len(resolvedHeads) + 1 + s)
			if err != nil {
				return err
			}
			to, err := excelize.CoordinatesToCellName(2+s, k+2)
			if err != nil {
				return err
			}
			if err := f.SetCellFormula("Of the total", to, fmt.Sprintf("100*Areas!%s%d/SUM(Areas!%s$2:%s$%d)", from, k+2, from, from, last)); err != nil {
				return err
			}
		}
	}
	return nil
}
