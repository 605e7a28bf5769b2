// Package text reads chromatograms from delimited text: a time column and one or more signal columns.
package text

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"yugen/core/signal"
	"yugen/formats"
)

// maxColumns bounds a table; a diode array has a thousand.
const maxColumns = 2000

// Read decodes delimited text. The delimiter is a comma, semicolon or tab, the decimal mark a point or comma, and the
// unit of time minutes or seconds as the heading says; without a heading that says so it is minutes when the whole run
// would be below 300, else seconds. Lines before the table are header lines; what looks like a number but is not finite
// is refused with its line.
func Read(data []byte) (formats.File, error) { return ReadAs(data, AxisGuessed) }

// ReadAs is Read where a person says what bare numbers as heads of the columns are.
func ReadAs(data []byte, axis Axis) (formats.File, error) {
	data = formats.Decoded(data)
	source := newSource(data)
	t, begun, err := findTable(source)
	if err != nil {
		return formats.File{}, err
	}
	t.axis = axis
	c := t.collect(begun, bytes.Count(data, []byte("\n"))+1)
	for _, r := range begun {
		if err := c.add(r); err != nil {
			return formats.File{}, err
		}
	}
	for {
		r, err := source.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return formats.File{}, err
		}
		if err := c.add(r); err != nil {
			return formats.File{}, err
		}
	}
	file, err := c.file()
	if err != nil {
		return file, err
	}
	for _, tr := range file.Traces {
		if doubt := formats.Doubt(tr); doubt != "" {
			file.Header.Doubts = append(file.Header.Doubts, doubt)
		}
	}
	if !bytes.HasSuffix(data, []byte("\n")) && c.cutShort() {
		file.Header.Doubts = append(file.Header.Doubts, fmt.Sprintf("Line %d has no end and its last number is shorter than all others: the file may have been cut off there.", c.lines[len(c.lines)-1]))
	}
	return file, nil
}

// table is how to read the numbers.
type table struct {
	axis         Axis
	heading      []string
	units        []string
	comma        bool // the decimal mark
	secondsPer   float64
	header       formats.Header
	saysTimeUnit bool
}

// sure is how many rows in a line must be numbers for a table to begin; maxAbove bounds the lines before it.
const (
	sure     = 3
	maxAbove = 20_000
)

// findTable reads up to where the numbers begin, and gives the rows of them that it has read.
func findTable(s *source) (table, []row, error) {
	var above []row
	for {
		r, err := s.next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return table{}, nil, err
		}
		above = append(above, row{r.line, slices.Clone(r.fields)})
		if from := len(above) - sure; from >= 0 {
			for _, comma := range []bool{false, true} {
				if numericRun(above[from:], comma) >= sure {
					return tableAt(above, from, comma), above[from:], nil
				}
			}
		}
		if len(above) > maxAbove {
			return table{}, nil, noTable(above)
		}
	}
	for from := range above { // a table of fewer rows than make sure ends the file
		for _, comma := range []bool{false, true} {
			if n := numericRun(above[from:], comma); n > 0 && from+n == len(above) {
				return tableAt(above, from, comma), above[from:], nil
			}
		}
	}
	return table{}, nil, noTable(above)
}

func tableAt(rows []row, from int, comma bool) table {
	t := table{comma: comma}
	t.readHeading(rows[:from])
	return t
}

func noTable(rows []row) error {
	line := 1
	if len(rows) > 0 {
		line = rows[0].line
	}
	return &formats.Error{Line: line, Reason: "no table of numbers was found: the first column should be a time, the others signals"}
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
	if plain(field) { // as most are
		return strconv.ParseFloat(field, 64)
	}
	field = thousands.Replace(field)
	switch {
	case comma:
		if strings.Contains(field, ".") && strings.Contains(field, ",") {
			field = strings.ReplaceAll(field, ".", "")
		}
		field = strings.Replace(field, ",", ".", 1)
	case grouped.MatchString(field):
		field = strings.ReplaceAll(field, ",", "")
	}
	return strconv.ParseFloat(field, 64)
}

// plain tells whether a number needs no thought: it has no mark but a decimal point.
func plain(field string) bool {
	for i := range len(field) {
		switch c := field[i]; {
		case c >= '0' && c <= '9', c == '.', c == '-', c == '+', c == 'e', c == 'E':
		default:
			return false
		}
	}
	return true
}

var (
	// thousands are marks between groups of digits that can be nothing else.
	thousands = strings.NewReplacer("\u00a0", "", "\u202f", "", "\u2009", "", "'", "", "\u2019", "", "\u2212", "-")
	grouped   = regexp.MustCompile(`^[+-]?\d{1,3}(,\d{3})+(\.\d+)?$`)
)

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
	if unit := unitSaid(label); unit != "" {
		t.secondsPer, t.saysTimeUnit = secondsPer[unit], true
	}
	for _, r := range above {
		t.readField(r.fields)
	}
}

// timeWords are what programs call units of time.
var timeWords = []struct {
	unit  TimeUnit
	words string
}{
	{Milliseconds, `ms|msec|milliseconds?|millisekunden?`},
	{Seconds, `s|secs?|seconds?|sek|sekunden?|secondes?|segundos?`},
	{Minutes, `min\pL*`},
	{Hours, `h|hrs?|hours?|stunden?|heures?|horas?`},
}

var (
	unitInLabel = map[TimeUnit]*regexp.Regexp{}
	unitAlone   = map[TimeUnit]*regexp.Regexp{}
)

func init() {
	for _, t := range timeWords {
		unitInLabel[t.unit] = regexp.MustCompile(`(^|[^\pL])(` + t.words + `)($|[^\pL])`)
		unitAlone[t.unit] = regexp.MustCompile(`^(` + t.words + `)$`)
	}
}

// unitSaid is the unit of time that a label names; "" where it names none.
func unitSaid(label string) TimeUnit {
	label = strings.ToLower(label)
	for _, t := range timeWords {
		if unitInLabel[t.unit].MatchString(label) {
			return t.unit
		}
	}
	return ""
}

// isUnits tells whether a line is one of units: it begins with one of time.
func isUnits(fields []string) bool {
	first := strings.Trim(strings.ToLower(fields[0]), "[]()")
	for _, t := range timeWords {
		if unitAlone[t.unit].MatchString(first) {
			return true
		}
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
	given, value := fields[0], ""
	if len(fields) > 1 {
		value = fields[1]
	}
	if k, v, ok := strings.Cut(fields[0], ":"); ok && (len(fields) == 1 || strings.TrimSpace(v) != "") {
		given, value = k, strings.Join(append([]string{strings.TrimSpace(v)}, fields[1:]...), ", ")
	}
	key := strings.ToLower(given)
	says := saysOf(strings.TrimRight(strings.TrimLeft(key, "# "), ": "))
	if at, ok := certainMoment(value); says == SaysAcquired && ok {
		t.header.AcquiredAt = &at
		return
	}
	if says == SaysAcquired {
		says = SaysCondition
	}
	says.into(&t.header, strings.Trim(given, "# :"), value)
}

// certainMoment reads a date that can be read in one way only.
func certainMoment(value string) (at time.Time, ok bool) {
	p, out := Profile{}, Proposal{}
	if !p.order(value, &out) || len(out.Guesses) > 0 {
		return at, false
	}
	at, err := p.moment(value)
	return at, err == nil
}

// collected are the numbers of a table as they come.
type collected struct {
	table
	columns  int
	times    []float64
	values   [][]float64
	lines    []int
	decimals []int // of the last numbers of the last rows
}

// collect prepares for a table of at most so many rows.
func (t table) collect(begun []row, rows int) *collected {
	c := &collected{table: t, columns: columnsOf(begun)}
	c.times, c.lines, c.values = make([]float64, 0, rows), make([]int, 0, rows), make([][]float64, c.columns-1)
	for i := range c.values {
		c.values[i] = make([]float64, 0, rows)
	}
	return c
}

// columnsOf is how many columns the first rows have. A mark that stands behind the last number of each of them begins none.
func columnsOf(begun []row) int {
	n := len(begun[0].fields)
	for n > 2 && !slices.ContainsFunc(begun, func(r row) bool { return len(r.fields) < n || r.fields[n-1] != "" }) {
		n--
	}
	return n
}

// add takes the next row.
func (c *collected) add(r row) error {
	if blank(r.fields) {
		return nil
	}
	for len(r.fields) > c.columns && r.fields[len(r.fields)-1] == "" {
		r.fields = r.fields[:len(r.fields)-1]
	}
	if len(r.fields) != c.columns {
		return &formats.Error{Line: r.line, Reason: fmt.Sprintf("there are %d columns; the lines before have %d", len(r.fields), c.columns)}
	}
	for i, f := range r.fields {
		v, err := parse(f, c.comma)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return &formats.Error{Line: r.line, Column: i + 1, Reason: notANumber(f)}
		}
		if i == 0 {
			c.times = append(c.times, v)
		} else {
			c.values[i-1] = append(c.values[i-1], v)
		}
	}
	c.lines = append(c.lines, r.line)
	if len(c.decimals) > rowsCompared {
		c.decimals = append(c.decimals[:0], c.decimals[1:]...)
	}
	c.decimals = append(c.decimals, decimals(r.fields[c.columns-1]))
	return nil
}

// file makes traces of what was collected.
func (c *collected) file() (formats.File, error) {
	if !c.saysTimeUnit && len(c.times) > 0 && c.times[len(c.times)-1] >= 300 {
		c.secondsPer = 1
	}
	for i := range c.times {
		c.times[i] *= c.secondsPer
	}
	file := formats.File{Header: c.header}
	if kind, axis := c.matrix(); kind != "" {
		return c.spectra(file, kind, axis)
	}
	for k := range c.values {
		trace, err := signal.New(c.times, c.values[k])
		var at *signal.PointError
		if errors.As(err, &at) {
			line := 0
			if at.Index < len(c.lines) {
				line = c.lines[at.Index]
			}
			return formats.File{}, &formats.Error{Line: line, Reason: at.Reason}
		}
		trace.Name, trace.Unit = c.nameAndUnit(k + 1)
		file.Traces = append(file.Traces, trace)
		file.Channels = append(file.Channels, formats.Channel{Name: trace.Name, Unit: trace.Unit, Kind: formats.KindOfChannel(trace.Name, trace.Unit), TimesS: c.times, Values: c.values[k]})
	}
	return file, nil
}

// rowsCompared is how many rows the last one is compared with, to see whether it was cut off.
const rowsCompared = 20

func decimals(text string) int {
	for k := len(text) - 1; k >= 0; k-- {
		if text[k] == '.' || text[k] == ',' {
			return len(text) - k - 1
		}
	}
	return 0
}

// cutShort tells whether the last number has fewer decimals than those above it, which all have as many.
func (c *collected) cutShort() bool {
	last := len(c.decimals) - 1
	if last < rowsCompared {
		return false
	}
	for _, d := range c.decimals[:last] {
		if d != c.decimals[0] {
			return false
		}
	}
	return c.decimals[last] < c.decimals[0]
}

func blank(fields []string) bool {
	for _, f := range fields {
		if f != "" {
			return false
		}
	}
	return true
}

// notANumber says why a field is none.
func notANumber(field string) string {
	if field == "" {
		return "nothing stands there, where a number should"
	}
	return fmt.Sprintf("%q is not a finite number", clip(field))
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
