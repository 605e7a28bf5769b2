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
	"time"

	"github.com/xuri/excelize/v2"

	"yugen/core/batch"
	"yugen/core/quantities"
)

// rows is the table of all readings, one row for each compound in each injection, as the register of quantities has it.
func (in Input) rows() (heading []string, rows [][]any) {
	columns := append(quantities.For(in.Method, in.OwnColumns, "").Readings(), in.Fields...)
	for _, q := range columns {
		heading = append(heading, q.Heading())
	}
	for _, r := range in.quantityRows() {
		row := make([]any, len(columns))
		for k, q := range columns {
			switch v := q.Of(r); {
			case v.Number != nil && q.Kind == quantities.Count:
				row[k] = int(*v.Number)
			case v.Number != nil:
				row[k] = *v.Number
			case v.At != nil:
				row[k] = v.At.Format(time.RFC3339)
			case q.Kind == quantities.Text:
				row[k] = v.Text
			}
		}
		rows = append(rows, row)
	}
	return heading, rows
}

// quantityRows are what the quantities of all readings are taken from.
func (in Input) quantityRows() []quantities.Row {
	b := in.Rows()
	return b.Rows(b.Injections)
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
				line[i] = Harmless(v)
			}
		}
		if err := w.Write(line); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// Harmless puts an apostrophe before text that a spreadsheet would take for a formula.
func Harmless(text string) string {
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
