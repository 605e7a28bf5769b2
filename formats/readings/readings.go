// Package readings reads tables of levels, responses and unknowns as people copy them from a spreadsheet.
package readings

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"yugen/formats"
	"yugen/formats/cells"
)

// Table is what was read.
type Table struct {
	Rows []Row  `json:"rows"`
	Unit string `json:"unit"` // of the levels; empty where nothing says it
	// Days are the names of the days, in order; empty where all responses are of one.
	Days []string `json:"days"`
	// Read says in sentences what was taken for what.
	Read []string `json:"read"`
}

// Row is one standard or unknown.
type Row struct {
	Name      string     `json:"name"`
	Level     *float64   `json:"level"` // nil for an unknown
	Responses []Response `json:"responses"`
	Line      int        `json:"line"`
}

// Response is one measured value.
type Response struct {
	Value float64 `json:"value"`
	Day   int     `json:"day"` // index into the table's days; 0 where there is one
}

// Bounds of what is read.
const (
	maxBytes   = 1 << 20
	maxRows    = 5000
	maxColumns = 200
)

// kind is what a column holds.
type kind int

const (
	unknownKind kind = iota
	nameKind
	levelKind
	responseKind
	dayKind
)

// words are how headings begin, in the languages of the trade that are met most; they are compared in lower case.
var words = map[kind][]string{
	levelKind:    {"level", "conc", "content", "nominal", "amount", "standard conc", "x", "gehalt", "konz", "stufe", "teneur", "niveau", "nivel", "contenido", "β", "c"},
	responseKind: {"response", "area", "height", "signal", "absorb", "abs", "intensity", "counts", "ratio", "y", "fläche", "flaeche", "höhe", "aire", "hauteur", "réponse", "señal", "peak", "replicate", "rep", "r", "day", "tag", "jour", "día", "dia", "series", "run"},
	nameKind:     {"name", "sample", "id", "standard", "std", "unknown", "probe", "bezeichnung", "échantillon", "muestra", "solution", "label", "vial"},
	dayKind:      {"date", "datum", "fecha"},
}

// dayWords begin the heading of a column whose values are of a day of their own.
var dayWords = []string{"day", "tag", "jour", "día", "dia", "series"}

var (
	withUnit  = regexp.MustCompile(`^(.*?)\s*[\(\[/,]\s*((?:n|µ|u|μ|m|k)?(?:g|mol|L|l)(?:\s*/\s*[a-zA-Zµμ]+)?|%|ppm|ppb)\s*[\)\]]?$`)
	dayInName = regexp.MustCompile(`^(\pL+)\s*[-_ ]?\s*([0-9]+)`)
)

// Read takes a table apart. The first column that is not a name is the level unless headings say otherwise; a row without a level is an unknown.
func Read(text string) (Table, error) {
	if len(text) > maxBytes {
		return Table{}, &formats.Error{Reason: fmt.Sprintf("the table has %d bytes; at most %d are read", len(text), maxBytes)}
	}
	rows, lines, err := cells.Split(text, maxRows, maxColumns)
	if err != nil {
		return Table{}, err
	}
	if len(rows) == 0 {
		return Table{}, &formats.Error{Reason: "there is nothing in it; paste levels in one column and responses in another"}
	}
	t := Table{Rows: []Row{}, Days: []string{}, Read: []string{}}
	kinds, headed := t.columns(rows)
	if !slices.Contains(kinds, responseKind) {
		return t, &formats.Error{Line: lines[0], Reason: "no column of responses was found; a table needs levels in one column and responses in another"}
	}
	dayOf := t.days(rows, kinds, headed)
	comma := cells.DecimalComma(rows)
	if comma {
		t.Read = append(t.Read, "commas are read as decimal points")
	}
	for i, row := range rows {
		if headed && i == 0 {
			continue
		}
		r, err := t.row(row, kinds, dayOf, comma)
		if err != nil {
			return t, &formats.Error{Line: lines[i], Reason: err.Error()}
		}
		if len(r.Responses) == 0 {
			continue
		}
		r.Line = lines[i]
		t.Rows = append(t.Rows, r)
	}
	return t, t.finish()
}

// finish names what has no name, and refuses a table without standards.
func (t *Table) finish() error {
	standards, unknowns := 0, 0
	for i := range t.Rows {
		r := &t.Rows[i]
		if r.Level != nil {
			standards++
		} else {
			unknowns++
		}
		switch {
		case r.Name != "":
		case r.Level != nil:
			r.Name = "Standard " + strconv.FormatFloat(*r.Level, 'g', -1, 64)
		default:
			r.Name = fmt.Sprintf("Unknown %d", unknowns)
		}
	}
	if standards == 0 {
		return &formats.Error{Reason: "no row has both a level and a response, so there is no standard to make a curve of"}
	}
	t.Read = append(t.Read, fmt.Sprintf("%d %s, %d %s", standards, plural(standards, "row of standards", "rows of standards"), unknowns, plural(unknowns, "unknown", "unknowns")))
	return nil
}

func plural(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

// columns says what each column holds, by its heading, or else by what stands in it.
func (t *Table) columns(rows [][]string) (kinds []kind, headed bool) {
	width := 0
	for _, row := range rows {
		width = max(width, len(row))
	}
	kinds = make([]kind, width)
	headed = true
	for _, c := range rows[0] {
		if _, _, ok := cells.Number(c, false); ok && c != "" && !isDay(c) {
			headed = false
		}
	}
	if headed {
		for k, c := range rows[0] {
			kinds[k] = t.heading(c, kinds[:k])
		}
	}
	for k := range kinds {
		if kinds[k] != unknownKind {
			continue
		}
		numbers, texts := 0, 0
		for i, row := range rows {
			if headed && i == 0 || k >= len(row) || row[k] == "" {
				continue
			}
			if _, _, ok := cells.Number(row[k], false); ok {
				numbers++
			} else {
				texts++
			}
		}
		switch {
		case numbers+texts == 0:
		case texts >= numbers && !slices.Contains(kinds, nameKind) && !(slices.Contains(kinds, responseKind) || numbers > 0 && !slices.Contains(kinds, levelKind)):
			kinds[k] = nameKind
		case numbers > 0 && !slices.Contains(kinds, levelKind):
			kinds[k] = levelKind
		case numbers > 0:
			kinds[k] = responseKind
		}
	}
	return kinds, headed
}

// heading is what a heading says of its column; the unit of the levels is kept apart from their numbers.
func (t *Table) heading(text string, before []kind) kind {
	name, unit := text, ""
	if m := withUnit.FindStringSubmatch(text); m != nil {
		name, unit = m[1], strings.ReplaceAll(m[2], " ", "")
	}
	name = strings.ToLower(strings.TrimSpace(name))
	best, found := unknownKind, 0
	for _, k := range []kind{levelKind, responseKind, nameKind, dayKind} {
		for _, w := range words[k] {
			if len(w) <= found || !strings.HasPrefix(name, w) || len([]rune(w)) <= 3 && len(name) > len(w) && isLetter(name[len(w):]) {
				continue
			}
			best, found = k, len(w)
		}
	}
	if best == levelKind && slices.Contains(before, levelKind) {
		best = unknownKind
	}
	if best == levelKind && unit != "" {
		t.Unit = unit
		t.Read = append(t.Read, fmt.Sprintf("levels in %s, from the heading “%s”", unit, text))
	}
	return best
}

func isLetter(rest string) bool {
	for _, r := range rest {
		return r >= 'a' && r <= 'z' || r > 127
	}
	return false
}

func isDay(heading string) bool {
	name := strings.ToLower(heading)
	return slices.ContainsFunc(dayWords, func(w string) bool { return strings.HasPrefix(name, w) })
}

// days gives, by column, the day that its responses are of. Columns called day 1, day 2 … are days; several others are replicates of one day.
func (t *Table) days(rows [][]string, kinds []kind, headed bool) []int {
	of := make([]int, len(kinds))
	columns := 0
	for k := range kinds {
		if kinds[k] != responseKind {
			continue
		}
		columns++
		if !headed || k >= len(rows[0]) || !isDay(rows[0][k]) {
			continue
		}
		name := rows[0][k]
		if m := dayInName.FindStringSubmatch(name); m != nil {
			name = m[1] + " " + m[2]
		}
		i := slices.Index(t.Days, name)
		if i < 0 {
			i, t.Days = len(t.Days), append(t.Days, name)
		}
		of[k] = i
	}
	switch {
	case len(t.Days) > 1:
		t.Read = append(t.Read, fmt.Sprintf("%d days: %s", len(t.Days), strings.Join(t.Days, ", ")))
	case columns > 1:
		t.Days = []string{}
		t.Read = append(t.Read, fmt.Sprintf("%d columns of responses are replicates", columns))
	default:
		t.Days = []string{}
	}
	if len(t.Days) < 2 {
		t.Days = []string{}
		of = make([]int, len(kinds))
	}
	return of
}

func (t *Table) row(row []string, kinds []kind, dayOf []int, comma bool) (Row, error) {
	r := Row{Responses: []Response{}}
	for k, c := range row {
		switch {
		case c == "" || c == "-" || c == "–" || c == "—":
		case kinds[k] == nameKind:
			r.Name = c
			if rs := []rune(c); len(rs) > 100 {
				r.Name = string(rs[:100])
			}
		case kinds[k] == levelKind:
			v, unit, ok := cells.Number(c, comma)
			if !ok {
				if r.Name == "" { // a word where levels stand: the row is an unknown of that name
					r.Name = c
				}
				continue
			}
			if v < 0 {
				return r, fmt.Errorf("the level %g is below 0", v)
			}
			if unit != "" {
				if t.Unit != "" && t.Unit != unit {
					return r, fmt.Errorf("the level %q is in %s, others are in %s; bring them to one unit", c, unit, t.Unit)
				}
				t.Unit = unit
			}
			r.Level = &v
		case kinds[k] == responseKind:
			v, _, ok := cells.Number(c, comma)
			if !ok {
				return r, fmt.Errorf("%q stands where a response should be; write a number or leave the cell empty", c)
			}
			r.Responses = append(r.Responses, Response{v, dayOf[k]})
		}
	}
	return r, nil
}
