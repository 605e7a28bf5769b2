package report

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"yugen/core/summary"
)

// Summary is measures × compounds × injections with statistics over groups, in words.
type Summary struct {
	Measures, Compounds, Injections []string
	Groups                          []summary.Group
	summary.Cube
}

// SummaryTable is one table of a summary: injections down, by groups, compounds or measures across.
type SummaryTable struct {
	Title   string
	Columns []string
	Groups  []SummaryGroup
}

// SummaryGroup is a group with the lines of its injections and of its statistics.
type SummaryGroup struct {
	Name       string
	Lines      []SummaryLine
	Statistics []SummaryStatistic
	repeats    bool // its injections stand in other groups already
}

// SummaryLine is an injection.
type SummaryLine struct {
	Name   string
	Values []*float64
}

// SummaryStatistic is one statistic over the columns.
type SummaryStatistic struct {
	statistic
	Values []*float64
}

// statistic is one that can be asked for, with the formula that gives it of a range of cells; an empty formula is the empty cell where too few values stand.
type statistic struct {
	ID, Words string
	of        func(summary.Statistics) *float64
	formula   func(cells string) string
}

func count64(n int) *float64 { v := float64(n); return &v }

var statistics = []statistic{
	{"n", "n", func(s summary.Statistics) *float64 { return count64(s.N) }, func(c string) string { return "COUNT(" + c + ")" }},
	{"mean", "mean", func(s summary.Statistics) *float64 { return s.Mean }, func(c string) string { return "AVERAGE(" + c + ")" }},
	{"sd", "SD", func(s summary.Statistics) *float64 { return s.SD }, func(c string) string { return "STDEV(" + c + ")" }},
	{"rsd", "RSD, %", func(s summary.Statistics) *float64 { return s.RSD }, func(c string) string { return fmt.Sprintf("100*STDEV(%s)/ABS(AVERAGE(%s))", c, c) }},
	{"interval", "95 % interval, ±", func(s summary.Statistics) *float64 { return s.Half }, func(c string) string { return fmt.Sprintf("TINV(0.05,COUNT(%s)-1)*STDEV(%s)/SQRT(COUNT(%s))", c, c, c) }},
	{"least", "minimum", func(s summary.Statistics) *float64 { return s.Least }, func(c string) string { return "MIN(" + c + ")" }},
	{"most", "maximum", func(s summary.Statistics) *float64 { return s.Most }, func(c string) string { return "MAX(" + c + ")" }},
	{"median", "median", func(s summary.Statistics) *float64 { return s.Median }, func(c string) string { return "MEDIAN(" + c + ")" }},
}

// SummaryTables lays a summary out as one table for each measure or for each compound, with the statistics that are asked for.
func SummaryTables(s Summary, each string, asked []string) ([]SummaryTable, error) {
	var wanted []statistic
	for _, st := range statistics {
		if slices.Contains(asked, st.ID) {
			wanted = append(wanted, st)
		}
	}
	if len(wanted) != len(asked) {
		return nil, fmt.Errorf("a statistic of %s is unknown; known are n, mean, sd, rsd, interval, least, most and median", strings.Join(asked, ", "))
	}
	titles, columns := s.Measures, s.Compounds
	at := func(table, column int) (int, int) { return table, column }
	switch each {
	case "measure":
	case "compound":
		titles, columns = s.Compounds, s.Measures
		at = func(table, column int) (int, int) { return column, table }
	default:
		return nil, fmt.Errorf("a table is made for each measure or each compound, not for each %q", each)
	}
	tables := []SummaryTable{}
	for t, title := range titles {
		table := SummaryTable{Title: title, Columns: columns}
		for g, group := range s.Groups {
			one := SummaryGroup{Name: group.Name, repeats: group.Name == summary.All && len(s.Groups) > 1}
			for _, i := range group.Injections {
				line := SummaryLine{Name: s.Injections[i]}
				for c := range columns {
					m, k := at(t, c)
					line.Values = append(line.Values, s.Values[m][k][i])
				}
				one.Lines = append(one.Lines, line)
			}
			for _, st := range wanted {
				row := SummaryStatistic{statistic: st}
				for c := range columns {
					m, k := at(t, c)
					row.Values = append(row.Values, st.of(s.Statistics[m][k][g]))
				}
				one.Statistics = append(one.Statistics, row)
			}
			table.Groups = append(table.Groups, one)
		}
		tables = append(tables, table)
	}
	return tables, nil
}

// SummaryCSV writes the tables one after the other, with every digit.
func SummaryCSV(tables []SummaryTable) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	line := func(group, name string, values []*float64) error {
		fields := []string{Harmless(group), Harmless(name)}
		for _, v := range values {
			if v == nil {
				fields = append(fields, "")
				continue
			}
			fields = append(fields, strconv.FormatFloat(*v, 'g', -1, 64))
		}
		return w.Write(fields)
	}
	for _, t := range tables {
		heading := []string{Harmless(t.Title), ""}
		for _, c := range t.Columns {
			heading = append(heading, Harmless(c))
		}
		if err := w.Write(heading); err != nil {
			return nil, err
		}
		for _, g := range t.Groups {
			for _, l := range g.Lines {
				if g.repeats {
					break
				}
				if err := line(g.Name, l.Name, l.Values); err != nil {
					return nil, err
				}
			}
			for _, st := range g.Statistics {
				if err := line(g.Name, st.Words, st.Values); err != nil {
					return nil, err
				}
			}
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// SummaryXLSX writes a sheet for each table; statistics are formulas over the cells of their injections.
func SummaryXLSX(tables []SummaryTable) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	names := map[string]bool{}
	for k, t := range tables {
		sheet := sheetName(t.Title, names)
		if k == 0 {
			if err := f.SetSheetName("Sheet1", sheet); err != nil {
				return nil, err
			}
		} else if _, err := f.NewSheet(sheet); err != nil {
			return nil, err
		}
		if err := writeSummary(f, sheet, t); err != nil {
			return nil, err
		}
		if err := freeze(f, sheet); err != nil {
			return nil, err
		}
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// sheetName is a title as the format allows it: without signs that it reserves, of at most 31 letters, and once.
func sheetName(title string, taken map[string]bool) string {
	clean := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]'`, r) {
			return ' '
		}
		return r
	}, title)
	letters := []rune(strings.TrimSpace(clean))
	name := string(letters[:min(len(letters), 28)])
	for n := 2; name == "" || taken[strings.ToLower(name)]; n++ {
		name = fmt.Sprintf("%s %d", string(letters[:min(len(letters), 24)]), n)
	}
	taken[strings.ToLower(name)] = true
	return name
}

// maxRanges are as many as a formula of a workbook takes; over more the number stands alone.
const maxRanges = 250

func writeSummary(f *excelize.File, sheet string, t SummaryTable) error {
	w := &workbook{f: f}
	for c, text := range append([]string{t.Title, ""}, t.Columns...) {
		w.set(sheet, c+1, 1, text, "")
	}
	row := 2
	lines := map[string]int{} // the rows of the injections
	for _, g := range t.Groups {
		for _, l := range g.Lines {
			if g.repeats {
				break
			}
			w.set(sheet, 1, row, g.Name, "")
			w.set(sheet, 2, row, l.Name, "")
			for c, v := range l.Values {
				if v != nil {
					w.set(sheet, c+3, row, *v, "")
				}
			}
			lines[l.Name] = row
			row++
		}
		for _, st := range g.Statistics {
			w.set(sheet, 1, row, g.Name, "")
			w.set(sheet, 2, row, st.Words, "")
			for c, v := range st.Values {
				if v == nil {
					continue
				}
				formula := ""
				if cells := cellsOf(c+3, g.Lines, lines); strings.Count(cells, ",") < maxRanges {
					formula = st.formula(cells)
				}
				w.set(sheet, c+3, row, *v, formula)
			}
			row++
		}
	}
	return w.fail
}

// cellsOf are the cells of some injections in a column, as ranges where their rows follow one another.
func cellsOf(column int, lines []SummaryLine, rows map[string]int) string {
	name, err := excelize.ColumnNumberToName(column)
	if err != nil { // no summary has so many columns
		return ""
	}
	var parts []string
	for i := 0; i < len(lines); {
		j := i
		for j+1 < len(lines) && rows[lines[j+1].Name] == rows[lines[j].Name]+1 {
			j++
		}
		parts = append(parts, fmt.Sprintf("%s%d:%s%d", name, rows[lines[i].Name], name, rows[lines[j].Name]))
		i = j + 1
	}
	return strings.Join(parts, ",")
}
