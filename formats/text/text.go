// Package text reads chromatograms from delimited text: a time column and one or more signal columns.
package text

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"

	"yugen/core/signal"
	"yugen/formats"
)

// maxColumns bounds a table; a diode array has a thousand.
const maxColumns = 2000

// Read decodes delimited text. The delimiter is a comma, semicolon or tab, the decimal mark a point or comma, and the
// unit of time minutes or seconds as the heading says; without a heading that says so it is minutes when the whole run
// would be below 300, else seconds. Lines before the table are header lines; what looks like a number but is not finite
// is refused with its line.
func Read(data []byte) (formats.File, error) {
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(data) {
		data = latin1(data)
	}
	rows, err := records(data)
	if err != nil {
		return formats.File{}, err
	}
	t, err := findTable(rows)
	if err != nil {
		return formats.File{}, err
	}
	file, err := t.read(rows)
	if err != nil {
		return file, err
	}
	for _, tr := range file.Traces {
		if doubt := formats.Doubt(tr); doubt != "" {
			file.Header.Doubts = append(file.Header.Doubts, doubt)
		}
	}
	if !bytes.HasSuffix(data, []byte("\n")) && t.cutShort(rows) {
		file.Header.Doubts = append(file.Header.Doubts, fmt.Sprintf("Line %d has no end and its last number is shorter than all others: the file may have been cut off there.", rows[len(rows)-1].line))
	}
	return file, nil
}

// cutShort tells whether the last number has fewer decimals than those above it, which all have as many.
func (t *table) cutShort(rows []row) bool {
	decimals := func(r row) int {
		text := r.fields[len(r.fields)-1]
		if k := strings.LastIndexAny(text, ".,"); k >= 0 {
			return len(text) - k - 1
		}
		return 0
	}
	const above = 20
	last := len(rows) - 1
	if last-above < t.first {
		return false
	}
	usual := decimals(rows[last-1])
	for _, r := range rows[last-above : last] {
		if len(r.fields) == 0 || decimals(r) != usual {
			return false
		}
	}
	return decimals(rows[last]) < usual
}

// row is a record with the line it began on.
type row struct {
	line   int
	fields []string
}

// latin1 reads bytes that are no UTF-8 as ISO 8859-1, the other encoding that instruments write.
func latin1(data []byte) []byte {
	out := make([]byte, 0, len(data)+len(data)/8)
	for _, b := range data {
		out = utf8.AppendRune(out, rune(b))
	}
	return out
}

func records(data []byte) ([]row, error) {
	reader := csv.NewReader(bytes.NewReader(data))
	reader.Comma = delimiter(data)
	reader.FieldsPerRecord = -1
	reader.LazyQuotes = true
	reader.TrimLeadingSpace = true
	var rows []row
	for {
		fields, err := reader.Read()
		if errors.Is(err, io.EOF) {
			return rows, nil
		}
		var parse *csv.ParseError
		if errors.As(err, &parse) {
			return nil, &formats.Error{Line: parse.Line, Reason: parse.Err.Error()}
		}
		if err != nil {
			return nil, err
		}
		line, _ := reader.FieldPos(0)
		if len(fields) > maxColumns {
			return nil, &formats.Error{Line: line, Reason: fmt.Sprintf("there are %d columns; at most %d are read", len(fields), maxColumns)}
		}
		if len(rows) > signal.MaxPoints {
			return nil, &formats.Error{Line: line, Reason: fmt.Sprintf("there are more than %d lines", signal.MaxPoints)}
		}
		for i := range fields {
			fields[i] = strings.TrimSpace(fields[i])
		}
		rows = append(rows, row{line, fields})
	}
}

// delimiter is what most of the lines are parted by. A semicolon or tab wins over a comma, which may be the decimal mark.
func delimiter(data []byte) rune {
	lines := bytes.SplitN(data, []byte("\n"), 60)
	for _, d := range []rune{'\t', ';'} {
		n := 0
		for _, l := range lines {
			if bytes.ContainsRune(l, d) {
				n++
			}
		}
		if 2*n > len(lines) {
			return d
		}
	}
	return ','
}

// table is where the numbers are and how to read them.
type table struct {
	first        int // row
	heading      []string
	units        []string
	comma        bool // the decimal mark
	secondsPer   float64
	header       formats.Header
	saysTimeUnit bool
}

// sure is how many rows in a line must be numbers for a table to begin.
const sure = 3

func findTable(rows []row) (table, error) {
	for i := range rows {
		for _, comma := range []bool{false, true} {
			if n := numericRun(rows[i:], comma); n >= sure || (n > 0 && i+n == len(rows)) {
				t := table{first: i, comma: comma}
				t.readHeading(rows[:i])
				return t, nil
			}
		}
	}
	line := 1
	if len(rows) > 0 {
		line = rows[0].line
	}
	return table{}, &formats.Error{Line: line, Reason: "no table of numbers was found: the first column should be a time, the others signals"}
}

func numericRun(rows []row, comma bool) int {
	n := 0
	for n < len(rows) && n < sure && len(rows[n].fields) >= 2 {
		for _, f := range rows[n].fields[:2] {
			if v, err := parse(f, comma); err != nil || math.IsNaN(v) {
				return n
			}
		}
		n++
	}
	return n
}

func parse(field string, comma bool) (float64, error) {
	if comma {
		if strings.Contains(field, ".") && strings.Contains(field, ",") {
			field = strings.ReplaceAll(field, ".", "")
		}
		field = strings.Replace(field, ",", ".", 1)
	}
	return strconv.ParseFloat(field, 64)
}

// readHeading takes names and units from the one or two rows above the table, and what the sample is from those before.
func (t *table) readHeading(above []row) {
	t.secondsPer = 60
	t.header = formats.Header{Format: "delimited text"}
	for i := len(above) - 1; i >= 0 && i >= len(above)-2; i-- {
		if len(above[i].fields) < 2 {
			break
		}
		if t.units == nil && t.heading == nil && isUnits(above[i].fields) {
			t.units = above[i].fields
			continue
		}
		if timeLike(above[i].fields[0]) || i == len(above)-1 {
			t.heading = above[i].fields
			above = above[:i]
		}
		break
	}
	label := ""
	if t.heading != nil {
		label = t.heading[0]
	}
	if t.units != nil {
		label += " " + t.units[0]
	}
	switch label = strings.ToLower(label); {
	case regexp.MustCompile(`(^|[^a-z])(s|sec|second|seconds|sek|sekunden)($|[^a-z])`).MatchString(label):
		t.secondsPer, t.saysTimeUnit = 1, true
	case regexp.MustCompile(`(^|[^a-z])min`).MatchString(label):
		t.saysTimeUnit = true
	}
	for _, r := range above {
		t.readField(r.fields)
	}
}

func isUnits(fields []string) bool {
	switch strings.Trim(strings.ToLower(fields[0]), "[]()") {
	case "min", "s", "sec", "minutes", "seconds":
		return true
	}
	return false
}

func timeLike(label string) bool {
	l := strings.ToLower(label)
	return strings.HasPrefix(l, "time") || strings.HasPrefix(l, "zeit") || strings.HasPrefix(l, "t ") || strings.Contains(l, "min") || strings.HasPrefix(l, "retention")
}

// readField takes "Sample name, Standard 1" and the like.
func (t *table) readField(fields []string) {
	if len(fields) == 0 {
		return
	}
	key, value := strings.ToLower(fields[0]), ""
	if len(fields) > 1 {
		value = fields[1]
	} else if k, v, ok := strings.Cut(fields[0], ":"); ok {
		key, value = strings.ToLower(k), strings.TrimSpace(v)
	}
	switch strings.TrimRight(strings.TrimLeft(key, "# "), ": ") {
	case "sample name", "sample", "name":
		t.header.SampleName = value
	case "sample id":
		t.header.SampleID = value
	case "operator":
		t.header.Operator = value
	case "vial":
		t.header.Vial = value
	case "method":
		t.header.MethodName = value
	}
}

func (t *table) read(rows []row) (formats.File, error) {
	columns := len(rows[t.first].fields)
	times, values := []float64{}, make([][]float64, columns-1)
	lines := []int{}
	for _, r := range rows[t.first:] {
		if blank(r.fields) {
			continue
		}
		if len(r.fields) != columns {
			return formats.File{}, &formats.Error{Line: r.line, Reason: fmt.Sprintf("there are %d columns; the lines before have %d", len(r.fields), columns)}
		}
		for i, f := range r.fields {
			v, err := parse(f, t.comma)
			if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
				return formats.File{}, &formats.Error{Line: r.line, Reason: fmt.Sprintf("column %d holds %q, which is not a finite number", i+1, clip(f))}
			}
			if i == 0 {
				times = append(times, v)
			} else {
				values[i-1] = append(values[i-1], v)
			}
		}
		lines = append(lines, r.line)
	}
	if !t.saysTimeUnit && len(times) > 0 && times[len(times)-1] >= 300 {
		t.secondsPer = 1
	}
	for i := range times {
		times[i] *= t.secondsPer
	}
	file := formats.File{Header: t.header}
	for c := range values {
		trace, err := signal.New(times, values[c])
		var at *signal.PointError
		if errors.As(err, &at) {
			line := 0
			if at.Index < len(lines) {
				line = lines[at.Index]
			}
			return formats.File{}, &formats.Error{Line: line, Reason: at.Reason}
		}
		trace.Name, trace.Unit = t.nameAndUnit(c + 1)
		file.Traces = append(file.Traces, trace)
	}
	return file, nil
}

func blank(fields []string) bool {
	for _, f := range fields {
		if f != "" {
			return false
		}
	}
	return true
}

func clip(s string) string {
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}

var inBrackets = regexp.MustCompile(`^(.*?)\s*[\[(]([^\])]*)[\])]\s*$`)

// nameAndUnit reads "Signal [mAU]" or a name with a unit in the row below it.
func (t *table) nameAndUnit(column int) (name, unit string) {
	if column < len(t.heading) {
		name = t.heading[column]
	}
	if m := inBrackets.FindStringSubmatch(name); m != nil {
		name, unit = m[1], m[2]
	}
	if column < len(t.units) {
		unit = strings.Trim(t.units[column], "[]()")
	}
	if name == "" {
		name = fmt.Sprintf("signal %d", column)
	}
	return name, unit
}
