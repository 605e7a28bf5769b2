// Package contents reads a table of what standards hold, compound by level, as people copy it from a spreadsheet.
package contents

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"yugen/formats"
	"yugen/formats/cells"
)

// Table is what was read, for the compounds and levels that were asked for.
type Table struct {
	Unit string `json:"unit"` // empty where nothing says it
	Rows []Row  `json:"rows"`
	// Read says in sentences what was taken for what.
	Read []string `json:"read"`
}

// Row is one compound; what is not in the table is nil.
type Row struct {
	Compound string   `json:"compound"`
	Purity   *float64 `json:"purity_percent"`
	PuritySE *float64 `json:"purity_se_percent"`
	Amounts  []Amount `json:"amounts"` // a level without one does not hold the compound
}

// Amount is how much was weighed in for a level.
type Amount struct {
	Level  float64 `json:"level"`
	Amount float64 `json:"amount"`
}

// Bounds of what is read.
const (
	maxBytes   = 1 << 20
	maxRows    = 2001
	maxColumns = 505
)

// column is what a column holds: a level's amounts, or a purity.
type column struct {
	level           float64
	purity, se, off bool
}

var (
	unitIn     = regexp.MustCompile(`(?:[\(\[,/]|^|\s)\s*((?:n|µ|u|μ|m|k)?(?:g|mol|L|l)\s*/\s*[a-zA-Zµμ]+)\s*[\)\]]?`)
	levelIn    = regexp.MustCompile(`([0-9]+(?:[.,][0-9]+)?)\s*$`)
	purityWord = []string{"purity", "pure", "reinheit", "pureté", "pureza", "assay"}
)

// Read takes a table apart: the first column names compounds, the others are levels in the order that is given or as their headings say.
func Read(text string, compounds []string, levels []float64) (Table, error) {
	t := Table{Rows: []Row{}, Read: []string{}}
	if len(text) > maxBytes {
		return t, &formats.Error{Reason: fmt.Sprintf("the table has %d bytes; at most %d are read", len(text), maxBytes)}
	}
	rows, lines, err := cells.Split(text, maxRows, maxColumns)
	if err != nil {
		return t, err
	}
	if len(rows) == 0 {
		return t, &formats.Error{Reason: "there is nothing in it; copy compounds down and levels across"}
	}
	comma := cells.DecimalComma(rows)
	if comma {
		t.Read = append(t.Read, "commas are read as decimal points")
	}
	columns, headed, err := t.columns(rows, compounds, levels)
	if err != nil {
		return t, err
	}
	var strange []string
	for i, cellsOf := range rows {
		if headed && i == 0 {
			continue
		}
		k := slices.IndexFunc(compounds, func(c string) bool { return strings.EqualFold(c, cellsOf[0]) })
		if k < 0 {
			strange = append(strange, cellsOf[0])
			continue
		}
		row, err := readRow(compounds[k], cellsOf, columns, comma)
		if err != nil {
			return t, &formats.Error{Line: lines[i], Reason: err.Error()}
		}
		if slices.ContainsFunc(t.Rows, func(r Row) bool { return r.Compound == row.Compound }) {
			return t, &formats.Error{Line: lines[i], Reason: row.Compound + " stands twice"}
		}
		t.Rows = append(t.Rows, row)
	}
	if len(strange) > 0 {
		t.Read = append(t.Read, "not among the compounds, and left aside: "+strings.Join(strange, ", "))
	}
	if len(t.Rows) == 0 {
		return t, &formats.Error{Reason: "no row begins with the name of a compound of this method"}
	}
	n := 0
	for _, c := range columns {
		if !c.purity && !c.se && !c.off {
			n++
		}
	}
	t.Read = append(t.Read, fmt.Sprintf("%d compounds × %d levels", len(t.Rows), n))
	return t, nil
}

func readRow(name string, row []string, columns []column, comma bool) (Row, error) {
	r := Row{Compound: name, Amounts: []Amount{}}
	for k, text := range row[1:] {
		if k >= len(columns) || columns[k].off || text == "" || text == "-" || text == "–" || text == "—" {
			continue
		}
		v, _, ok := cells.Number(strings.TrimPrefix(text, "±"), comma)
		if !ok || v < 0 {
			return r, fmt.Errorf("%q stands where a number of %s should be; leave the cell empty where a standard does not hold it", text, name)
		}
		switch c := columns[k]; {
		case c.purity:
			r.Purity = &v
		case c.se:
			r.PuritySE = &v
		default:
			r.Amounts = append(r.Amounts, Amount{c.level, v})
		}
	}
	return r, nil
}

// columns says what each column after the names holds.
func (t *Table) columns(rows [][]string, compounds []string, levels []float64) (list []column, headed bool, err error) {
	first := rows[0]
	headed = !slices.ContainsFunc(compounds, func(c string) bool { return strings.EqualFold(c, first[0]) })
	width := 0
	for _, row := range rows {
		width = max(width, len(row)-1)
	}
	if !headed {
		if width > len(levels) {
			return nil, false, &formats.Error{Reason: fmt.Sprintf("there are %d columns of amounts for %d levels; put headings above them", width, len(levels))}
		}
		for _, l := range levels[:width] {
			list = append(list, column{level: l})
		}
		return list, false, nil
	}
	var heads []string
	for k := range width {
		text := ""
		if k+1 < len(first) {
			text = first[k+1]
		}
		c := column{off: text == ""}
		lower := strings.ToLower(text)
		switch {
		case slices.ContainsFunc(purityWord, func(w string) bool { return strings.HasPrefix(lower, w) }):
			c.purity = true
		case strings.HasPrefix(text, "±") || strings.HasPrefix(lower, "+/-") || strings.HasPrefix(lower, "uncert"):
			c.se = true
		case !c.off:
			heads = append(heads, text)
		}
		list = append(list, c)
	}
	named, err := headLevels(heads, levels)
	if err != nil {
		return nil, true, err
	}
	for k := range list {
		if c := &list[k]; !c.off && !c.purity && !c.se {
			c.level, named = named[0], named[1:]
		}
	}
	for _, text := range first {
		if m := unitIn.FindStringSubmatch(text); m != nil {
			t.Unit = strings.ReplaceAll(m[1], " ", "")
			t.Read = append(t.Read, fmt.Sprintf("“%s” read from its head", t.Unit))
			break
		}
	}
	return list, true, nil
}

// headLevels are the levels that headings name: all by their values, or else all by which of the levels they are, or by where they stand.
func headLevels(heads []string, levels []float64) ([]float64, error) {
	values, places := []float64{}, []float64{}
	strange := ""
	for _, text := range heads {
		m := levelIn.FindStringSubmatch(strings.TrimSpace(unitIn.ReplaceAllString(text, "")))
		if m == nil {
			continue
		}
		v, _, _ := cells.Number(m[1], strings.Contains(m[1], ","))
		if slices.Contains(levels, v) {
			values = append(values, v)
		}
		if v == float64(int(v)) && v >= 1 && int(v) <= len(levels) {
			places = append(places, levels[int(v)-1])
		} else if !slices.Contains(levels, v) {
			strange = text
		}
	}
	switch {
	case distinct(values) && len(values) == len(heads):
		return values, nil
	case distinct(places) && len(places) == len(heads):
		return places, nil
	case strange != "":
		return nil, &formats.Error{Reason: fmt.Sprintf("the heading %q names a level that no standard has; give it to a standard in the run list first", strange)}
	case len(heads) > len(levels):
		return nil, &formats.Error{Reason: fmt.Sprintf("there are more columns of amounts than the %d levels of the run list", len(levels))}
	}
	return levels[:len(heads)], nil
}

func distinct(list []float64) bool {
	sorted := slices.Sorted(slices.Values(list))
	return len(slices.Compact(sorted)) == len(list)
}
