package text

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"yugen/formats"
)

// Profile says how delimited text of one shape is read. What does not fit it is refused, never bent. Lines and columns are counted from 1; 0 is none.
type Profile struct {
	Name string `json:"name"`
	// Encoding is utf-8, utf-16le, utf-16be or windows-1252; empty finds it.
	Encoding  string    `json:"encoding,omitempty"`
	Delimiter string    `json:"delimiter"` // one sign; a blank stands for any number of blanks and tabs
	Decimal   string    `json:"decimal"`   // point or comma
	Layout    Layout    `json:"layout,omitempty"`
	Heading   int       `json:"heading_line,omitempty"` // that holds the names of the columns
	Units     int       `json:"units_line,omitempty"`
	Data      int       `json:"data_line"` // the first of the numbers
	TimeUnit  TimeUnit  `json:"time_unit"`
	Columns   []Column  `json:"columns"`
	Values    []Value   `json:"values,omitempty"`
	DateOrder DateOrder `json:"date_order,omitempty"`
	Axis      Axis      `json:"axis,omitempty"`
	// Shape is the heading line as it was, by which other files of the same shape are found; empty asks nothing of it.
	Shape string `json:"shape,omitempty"`
}

// Layout says where the signals stand.
type Layout string

// The layouts.
const (
	InColumns Layout = ""       // side by side
	InBlocks  Layout = "blocks" // one table after the other, each with a title above it
)

// TimeUnit is that of the time columns.
type TimeUnit string

// The units of time.
const (
	Minutes      TimeUnit = "min"
	Seconds      TimeUnit = "s"
	Milliseconds TimeUnit = "ms"
	Hours        TimeUnit = "h"
)

var secondsPer = map[TimeUnit]float64{Minutes: 60, Seconds: 1, Milliseconds: 1e-3, Hours: 3600}

// Column says what a column is. What is not named here is not read.
type Column struct {
	Column int        `json:"column"`
	Role   ColumnRole `json:"role"`
	// Name and Unit stand in place of those in the file; empty takes the file's.
	Name string `json:"name,omitempty"`
	Unit string `json:"unit,omitempty"`
}

// ColumnRole is what a column holds.
type ColumnRole string

// The roles. A signal is against the nearest time to its left.
const (
	TimeColumn   ColumnRole = "time"
	SignalColumn ColumnRole = "signal"
)

// Value is a line above the numbers that says something of the injection.
type Value struct {
	Line int `json:"line"`
	// Says is which field of the header it fills; a condition keeps the name that stands before it.
	Says Says `json:"says"`
}

// Says names a field of the header.
type Says string

// The fields.
const (
	SaysSample    Says = "sample_name"
	SaysSampleID  Says = "sample_id"
	SaysVial      Says = "vial"
	SaysOperator  Says = "operator"
	SaysMethod    Says = "method"
	SaysAcquired  Says = "acquired_at"
	SaysType      Says = "sample_type"
	SaysCondition Says = "condition"
	SaysNothing   Says = "nothing"
)

// AllSays lists them in the order in which they are offered.
var AllSays = []Says{SaysSample, SaysSampleID, SaysType, SaysVial, SaysAcquired, SaysOperator, SaysMethod, SaysCondition, SaysNothing}

// DateOrder is that of day, month and year in dates of figures alone.
type DateOrder string

// The orders; dates that begin with the year need none.
const (
	YearFirst  DateOrder = ""
	DayFirst   DateOrder = "dmy"
	MonthFirst DateOrder = "mdy"
)

var encodings = []string{"", "utf-8", "utf-16le", "utf-16be", "windows-1252"}

// maxProfile bounds names and lists of a profile.
const maxProfile = 500

// ReadProfile reads a profile as it was exported.
func ReadProfile(document []byte) (Profile, error) {
	var p Profile
	if err := json.Unmarshal(document, &p); err != nil {
		return p, fmt.Errorf("the profile cannot be read: %w", err)
	}
	return p, p.Validate()
}

// Validate says in a sentence what keeps a profile from being used.
func (p Profile) Validate() error {
	times, signals := 0, 0
	seen := map[int]bool{}
	for _, c := range p.Columns {
		switch {
		case c.Column < 1 || c.Column > maxColumns || seen[c.Column]:
			return fmt.Errorf("profile: column %d is none, or is named twice", c.Column)
		case c.Role == TimeColumn:
			times++
		case c.Role == SignalColumn:
			signals++
		default:
			return fmt.Errorf("profile: column %d has the unknown role %q; it is time or signal", c.Column, c.Role)
		}
		if len(c.Name) > maxProfile || len(c.Unit) > maxProfile {
			return fmt.Errorf("profile: the name of column %d has more than %d characters", c.Column, maxProfile)
		}
		seen[c.Column] = true
	}
	switch {
	case len(p.Name) > maxProfile || len(p.Values) > maxProfile || len(p.Columns) > maxColumns || len(p.Shape) > 20*maxProfile:
		return fmt.Errorf("profile: its name has at most %d characters, and it has at most %d lines that say something", maxProfile, maxProfile)
	case !slices.Contains(encodings, p.Encoding):
		return fmt.Errorf("profile: the encoding %q is unknown; known are %s", p.Encoding, strings.Join(encodings[1:], ", "))
	case utf8.RuneCountInString(p.Delimiter) != 1 || strings.ContainsAny(p.Delimiter, "\r\n\"") || strings.ContainsAny(p.Delimiter, "0123456789.-+eE"):
		return fmt.Errorf("profile: the delimiter %q is not one sign that numbers are without", p.Delimiter)
	case p.Decimal != "." && p.Decimal != ",":
		return fmt.Errorf("profile: the decimal mark %q is neither a point nor a comma", p.Decimal)
	case p.Decimal == p.Delimiter:
		return errors.New("profile: the delimiter and the decimal mark are the same")
	case secondsPer[p.TimeUnit] == 0:
		return fmt.Errorf("profile: the unit of time %q is unknown; it is min, s, ms or h", p.TimeUnit)
	case p.Layout != InColumns && p.Layout != InBlocks:
		return fmt.Errorf("profile: the layout %q is unknown; it is blocks, or empty for columns", p.Layout)
	case p.DateOrder != YearFirst && p.DateOrder != DayFirst && p.DateOrder != MonthFirst:
		return fmt.Errorf("profile: the order of dates %q is unknown; it is dmy, mdy, or empty for the year first", p.DateOrder)
	case p.Data < 1 || p.Heading < 0 || p.Units < 0 || p.Heading >= p.Data || p.Units >= p.Data:
		return fmt.Errorf("profile: the numbers begin at line %d; the lines of names (%d) and units (%d) must stand above it", p.Data, p.Heading, p.Units)
	case times == 0 || signals == 0:
		return fmt.Errorf("profile: it has %d columns of time and %d of signals; at least one of each is needed", times, signals)
	}
	for _, v := range p.Values {
		if v.Line < 1 || v.Line >= p.Data || !slices.Contains(AllSays, v.Says) {
			return fmt.Errorf("profile: line %d, which says %q, does not stand above the numbers or says something unknown", v.Line, v.Says)
		}
	}
	return nil
}

// decoded is the text as the profile says it is encoded.
func (p Profile) decoded(data []byte) ([]byte, error) {
	var out []byte
	var err error
	switch p.Encoding {
	case "utf-16le":
		out, err = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(data)
	case "utf-16be":
		out, err = unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewDecoder().Bytes(data)
	case "windows-1252":
		out, err = charmap.Windows1252.NewDecoder().Bytes(data)
	case "utf-8":
		if !utf8.Valid(data) {
			return nil, &formats.Error{Reason: "it is not text in UTF-8, as the profile has it"}
		}
		out = []byte(strings.TrimPrefix(string(data), "\ufeff"))
	default:
		out = formats.Decoded(data)
	}
	if err != nil {
		return nil, &formats.Error{Reason: "it cannot be decoded as " + p.Encoding + ": " + err.Error()}
	}
	return out, nil
}

// seconds is a time in s.
func (p Profile) seconds(v float64) float64 {
	if p.TimeUnit == Milliseconds {
		return v / 1000 // exactly, which a thousandth is not
	}
	return v * secondsPer[p.TimeUnit]
}

// number reads a field as the profile has numbers.
func (p Profile) number(field string) (float64, bool) {
	field = strings.TrimSpace(field)
	if p.Decimal == "," && strings.Contains(field, ".") && !strings.Contains(field, ",") && !grouping.MatchString(field) {
		return 0, false // a point where only a mark of thousands could be
	}
	v, err := parse(field, p.Decimal == ",")
	return v, err == nil && !math.IsNaN(v) && !math.IsInf(v, 0)
}
