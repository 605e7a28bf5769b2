package report

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"yugen/core/batch"
)

// A table of the results, one row for each compound in each injection.
func (in Input) rows() (heading []string, rows [][]any) {
	heading = []string{"injection", "name", "replicate", "role", "file", "compound", "retention_min", "area_s", "height", "response", "concentration_" + in.Method.Curves.Unit, "concentration_standard_error", "amount_" + in.Method.ReportedUnit(), "amount_standard_error", "recovery_percent", "remarks"}
	replicates := in.replicates()
	for i, l := range in.Lines {
		injected := in.Result.Injections[i]
		for _, c := range in.Method.Compounds {
			row := []any{i + 1, l.Name, replicates[i], string(l.Role), l.File, c.Name, nil, nil, nil, nil, nil, nil, nil, nil, nil, ""}
			if p := peakOf(injected, c.ID); p != nil {
				row[6], row[7], row[8] = p.ApexMin, p.AreaS, p.Height
			}
			if r, ok := injected.Readings[c.ID]; ok {
				for k, v := range map[int]*float64{9: r.Response, 10: r.Concentration, 11: r.ConcentrationSE, 12: r.Amount, 13: r.AmountSE, 14: r.Recovery} {
					if v != nil {
						row[k] = *v
					}
				}
				row[15] = flagWords(r)
			}
			rows = append(rows, row)
		}
	}
	return heading, rows
}

// CSV writes the results as delimited text with full precision. Text that a spreadsheet would take for a formula gets an
// apostrophe before it.
func CSV(in Input) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	heading, rows := in.rows()
	if err := w.Write(heading); err != nil {
		return nil, err
	}
	for _, row := range rows {
		line := make([]string, len(row))
		for i, v := range row {
			switch v := v.(type) {
			case float64:
				line[i] = strconv.FormatFloat(v, 'g', -1, 64)
			case int:
				line[i] = strconv.Itoa(v)
			case string:
				line[i] = harmless(v)
			}
		}
		if err := w.Write(line); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

func harmless(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}

// XLSX writes the same as a workbook: the samples by compounds with the sums of groups, every reading, and, as formulas that can be
// recalculated, the curves and the amounts.
func XLSX(in Input) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", "Samples"); err != nil {
		return nil, err
	}
	names, rows := in.rows()
	first := make([]any, len(names))
	for i, n := range names {
		first[i] = n
	}
	if err := write(f, "Readings", append([][]any{first}, rows...)); err != nil {
		return nil, err
	}
	w := newWorkbook(f, in)
	for _, sheet := range []string{curveSheet, amountSheet, factorSheet} {
		if _, err := f.NewSheet(sheet); err != nil {
			return nil, err
		}
	}
	w.curves()
	w.amounts()
	w.factors()
	if err := w.samples(); err != nil {
		return nil, err
	}
	w.results()
	if w.fail != nil {
		return nil, w.fail
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return numericResults(b.Bytes())
}

// formulaResult is a cell whose formula has a number as its kept result but is marked as text, which is what the writer makes of every formula.
var formulaResult = regexp.MustCompile(`(<c [^>]*?) t="str"([^>]*><f>[^<]*</f><v>-?[0-9][-+0-9.eE]*</v>)`)

// numericResults marks the kept results of formulas as the numbers they are, for readers that do not recalculate.
func numericResults(workbook []byte) ([]byte, error) {
	in, err := zip.NewReader(bytes.NewReader(workbook), int64(len(workbook)))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, part := range in.File {
		if !strings.HasPrefix(part.Name, "xl/worksheets/") {
			if err := w.Copy(part); err != nil {
				return nil, err
			}
			continue
		}
		r, err := part.Open()
		if err != nil {
			return nil, err
		}
		sheet, err := io.ReadAll(r)
		if err != nil {
			return nil, err
		}
		to, err := w.Create(part.Name)
		if err != nil {
			return nil, err
		}
		if _, err := to.Write(formulaResult.ReplaceAll(sheet, []byte("$1$2"))); err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// remarks are a mean's flags in words, how many readings it is of, and what a group lacks.
func remarks(v batch.SampleValue) string {
	var words []string
	for _, f := range v.Flags {
		words = append(words, strings.ReplaceAll(string(f), "_", " "))
	}
	if v.N > 0 && v.N < v.Of {
		words = append(words, fmt.Sprintf("%d of %d", v.N, v.Of))
	}
	if len(v.Absent) > 0 {
		words = append(words, "without "+strings.Join(v.Absent, ", "))
	}
	return strings.Join(words, "; ")
}

// write fills a sheet. Strings are written as text, which no spreadsheet takes for a formula.
func write(f *excelize.File, sheet string, rows [][]any) error {
	if i, _ := f.GetSheetIndex(sheet); i < 0 {
		if _, err := f.NewSheet(sheet); err != nil {
			return err
		}
	}
	for r, row := range rows {
		at, err := excelize.CoordinatesToCellName(1, r+1)
		if err != nil {
			return err
		}
		if err := f.SetSheetRow(sheet, at, &row); err != nil {
			return err
		}
	}
	return freeze(f, sheet)
}

func freeze(f *excelize.File, sheet string) error {
	return f.SetPanes(sheet, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"})
}

// count is a number of things: "1 sample", "2 samples".
func count(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

// shape is how the model or weight of a curve is written: as people write it, not as it is stored.
func shape(stored string) string {
	return strings.NewReplacer("_", " ", "x2", "x²", "y2", "y²", "s2", "s²", "loglog", "log-log").Replace(stored)
}
