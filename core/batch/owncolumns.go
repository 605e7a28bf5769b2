package batch

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// OwnColumn is a column of the run list that a laboratory has added: lot, project, client, roast.
type OwnColumn struct {
	ID      string     `json:"id"`
	Name    string     `json:"name"`
	Unit    string     `json:"unit,omitempty"`
	Kind    ColumnKind `json:"kind"`
	Options []string   `json:"options,omitempty"` // of a choice
	Hidden  bool       `json:"hidden,omitempty"`
}

// ColumnKind is what a column of the laboratory holds.
type ColumnKind string

// The kinds.
const (
	TextColumn   ColumnKind = "text"
	NumberColumn ColumnKind = "number"
	DateColumn   ColumnKind = "date"
	ChoiceColumn ColumnKind = "choice"
)

// ColumnKinds lists them in the order in which they are offered.
var ColumnKinds = []ColumnKind{TextColumn, NumberColumn, DateColumn, ChoiceColumn}

// The columns of a laboratory are bounded.
const (
	maxOwnColumns = 100
	maxOptions    = 200
)

// OwnPrefix begins the fields of own columns: "own:lot".
const OwnPrefix = "own:"

// Field is the field of the run list that the column is.
func (c OwnColumn) Field() Field { return Field(OwnPrefix + c.ID) }

// ValidateOwnColumns says in a sentence what is wrong with a list of columns.
func ValidateOwnColumns(list []OwnColumn) error {
	if len(list) > maxOwnColumns {
		return fmt.Errorf("columns: there are %d of the laboratory's own; at most %d are kept", len(list), maxOwnColumns)
	}
	ids, names := map[string]bool{}, map[string]bool{}
	for i, c := range list {
		name := strings.ToLower(strings.TrimSpace(c.Name))
		switch {
		case c.ID == "" || len(c.ID) > maxText || ids[c.ID]:
			return fmt.Errorf("columns: number %d needs an id of its own; %q is empty, too long or taken", i+1, c.ID)
		case name == "" || len(name) > maxText || names[name] || slices.Contains(Fields, Field(name)):
			return fmt.Errorf("columns: the name %q is empty, too long or taken", c.Name)
		case !slices.Contains(ColumnKinds, c.Kind):
			return fmt.Errorf("columns: %s has the unknown kind %q; known are %v", c.Name, c.Kind, ColumnKinds)
		case c.Kind == ChoiceColumn && len(c.Options) == 0:
			return fmt.Errorf("columns: %s is a choice, but of nothing", c.Name)
		case len(c.Options) > maxOptions || len(c.Unit) > maxText:
			return fmt.Errorf("columns: %s has %d options; at most %d are kept", c.Name, len(c.Options), maxOptions)
		}
		ids[c.ID], names[name] = true, true
	}
	return nil
}

// Read takes a value as a person or a spreadsheet writes it, and gives it as it is kept: numbers with a point, dates with the year first, a choice as it is spelled.
// Empty text is no value.
func (c OwnColumn) Read(text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" || text == "–" {
		return "", nil
	}
	if len(text) > maxText {
		return "", fmt.Errorf("%s: %d characters; at most %d are kept", c.Name, len(text), maxText)
	}
	switch c.Kind {
	case NumberColumn:
		v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return "", fmt.Errorf("%s: %q is not a number", c.Name, text)
		}
		return strconv.FormatFloat(v, 'g', -1, 64), nil
	case DateColumn:
		for _, layout := range []string{"2006-01-02", "02.01.2006", "2.1.2006", "2006/01/02", "2 Jan 2006", "2 January 2006"} {
			if at, err := time.Parse(layout, text); err == nil {
				return at.Format("2006-01-02"), nil
			}
		}
		return "", fmt.Errorf("%s: %q is no date; write it as 2026-04-30 or 30.04.2026", c.Name, text)
	case ChoiceColumn:
		for _, o := range c.Options {
			if strings.EqualFold(o, text) {
				return o, nil
			}
		}
		return "", fmt.Errorf("%s: %q is none of %s", c.Name, text, strings.Join(c.Options, ", "))
	}
	return text, nil
}

// SetOwn changes the value of an own column.
func (e *Entry) SetOwn(c OwnColumn, text string) error {
	value, err := c.Read(text)
	if err != nil {
		return err
	}
	own := make(map[string]string, len(e.Own)+1)
	for id, v := range e.Own {
		own[id] = v
	}
	if own[c.ID] = value; value == "" {
		delete(own, c.ID)
	}
	if e.Own = own; len(own) == 0 {
		e.Own = nil
	}
	return nil
}

// Pattern finds a value in a name: "oolong_{}C_*" takes 45 from "oolong_45C_2". {} is what is taken, * is anything; case plays no part.
type Pattern struct{ expression *regexp.Regexp }

// ParsePattern reads a pattern.
func ParsePattern(text string) (Pattern, error) {
	if strings.Count(text, "{}") != 1 || len(text) > maxText {
		return Pattern{}, errors.New("a pattern holds {} once, where the value stands, and * for anything, as in oolong_{}C_*")
	}
	var b strings.Builder
	b.WriteString("(?i)^")
	for rest := text; rest != ""; {
		switch {
		case strings.HasPrefix(rest, "{}"):
			b.WriteString("(.+?)")
			rest = rest[2:]
		case rest[0] == '*':
			b.WriteString(".*") // as much as can be, so that the value is what stands next to its surroundings
			rest = rest[1:]
		default:
			next := 1 + strings.IndexAny(rest[1:]+"*", "*{")
			b.WriteString(regexp.QuoteMeta(rest[:next]))
			rest = rest[next:]
		}
	}
	b.WriteString("$")
	e, err := regexp.Compile(b.String())
	return Pattern{e}, err
}

// In is what a name holds where the pattern has {}; ok is false where the name is not of the pattern.
func (p Pattern) In(name string) (value string, ok bool) {
	m := p.expression.FindStringSubmatch(name)
	if m == nil {
		return "", false
	}
	return strings.TrimSpace(m[1]), true
}
