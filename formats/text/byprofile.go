package text

import (
	"encoding/csv"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"yugen/core/signal"
	"yugen/formats"
)

var grouping = regexp.MustCompile(`^[+-]?\d{1,3}(\.\d{3})+$`)

// byLines gives the lines of a text with their fields, as a profile parts them.
func (p Profile) byLines(data []byte) ([]string, error) {
	text, err := p.decoded(data)
	if err != nil {
		return nil, err
	}
	lines := strings.Split(strings.ReplaceAll(string(text), "\r\n", "\n"), "\n")
	for len(lines) > 0 && p.empty(lines[len(lines)-1]) {
		lines = lines[:len(lines)-1]
	}
	if len(lines) > signal.MaxPoints {
		return nil, &formats.Error{Reason: fmt.Sprintf("there are more than %d lines", signal.MaxPoints)}
	}
	return lines, nil
}

// empty tells whether nothing stands in a line, as at the end of a sheet.
func (p Profile) empty(line string) bool { return strings.Trim(line, " \t"+p.Delimiter) == "" }

// Fields parts a line.
func (p Profile) Fields(line string) []string {
	var fields []string
	switch {
	case p.Delimiter == " ":
		fields = strings.Fields(line)
	case strings.Contains(line, `"`):
		r := csv.NewReader(strings.NewReader(line))
		r.Comma, r.LazyQuotes, r.TrimLeadingSpace = []rune(p.Delimiter)[0], true, true
		if quoted, err := r.Read(); err == nil {
			fields = quoted
			break
		}
		fields = strings.Split(line, p.Delimiter)
	default:
		fields = strings.Split(line, p.Delimiter)
	}
	for i := range fields {
		fields[i] = strings.TrimSpace(fields[i])
	}
	return fields
}

// shape is a heading line without case and blanks, by which files of one shape are told.
func shape(line string) string { return strings.ToLower(strings.Join(strings.Fields(line), " ")) }

// Fits says in what a file does not have the shape of the profile; nil where it has.
func (p Profile) Fits(data []byte) error {
	lines, err := p.byLines(data)
	if err != nil {
		return err
	}
	return p.fits(lines)
}

func (p Profile) fits(lines []string) error {
	if len(lines) < p.Data {
		return &formats.Error{Line: max(1, len(lines)), Reason: fmt.Sprintf("the text ends before line %d, where the profile has its first numbers", p.Data)}
	}
	if p.Heading > 0 && p.Shape != "" && shape(lines[p.Heading-1]) != shape(p.Shape) {
		return &formats.Error{Line: p.Heading, Reason: fmt.Sprintf("the names of the columns are %q; the profile has %q", clip(lines[p.Heading-1]), clip(p.Shape))}
	}
	for n := p.Data; n <= min(len(lines), p.Data+2); n++ {
		if p.empty(lines[n-1]) {
			continue
		}
		if at, why := p.misfit(lines[n-1]); why != "" {
			return &formats.Error{Line: n, Column: at, Reason: why}
		}
	}
	// A heading that looks like numbers, or numbers already above: the table begins elsewhere.
	if p.Heading == 0 && p.Data > 1 {
		if _, why := p.misfit(lines[p.Data-2]); why == "" && !p.empty(lines[p.Data-2]) {
			return &formats.Error{Line: p.Data - 1, Reason: fmt.Sprintf("numbers begin above line %d, where the profile has the first", p.Data)}
		}
	}
	return nil
}

// misfit is the first column of a line that is no number where the profile has one.
func (p Profile) misfit(line string) (column int, why string) {
	fields := p.Fields(line)
	for _, c := range p.Columns {
		if c.Column > len(fields) {
			return 0, fmt.Sprintf("there are %d columns; the profile reads column %d", len(fields), c.Column)
		}
		if _, ok := p.number(fields[c.Column-1]); !ok {
			return c.Column, notANumber(fields[c.Column-1])
		}
	}
	return 0, ""
}

// Read decodes a file by the profile. A line that cannot be read refuses the file, with its place.
func (p Profile) Read(data []byte) (formats.File, error) {
	if err := p.Validate(); err != nil {
		return formats.File{}, &formats.Error{Reason: err.Error()}
	}
	lines, err := p.byLines(data)
	if err != nil {
		return formats.File{}, err
	}
	if err := p.fits(lines); err != nil {
		return formats.File{}, err
	}
	file := formats.File{Header: formats.Header{Format: "delimited text"}}
	if err := p.readValues(lines, &file.Header); err != nil {
		return file, err
	}
	blocks, err := p.blocks(lines)
	if err != nil {
		return file, err
	}
	for k, b := range blocks {
		if p.Layout == InColumns && p.Axis != AxisChannels && len(blocks) == 1 {
			if whole, ok, err := p.matrix(b, file); ok || err != nil {
				return whole, err
			}
		}
		if err := p.signals(b, k, len(blocks), &file); err != nil {
			return file, err
		}
	}
	for _, tr := range file.Traces {
		if doubt := formats.Doubt(tr); doubt != "" {
			file.Header.Doubts = append(file.Header.Doubts, doubt)
		}
	}
	return file, nil
}

// block is one table of numbers: its values by column of the profile, the lines they stood in, and what stands above it.
type block struct {
	values  [][]float64
	lines   []int
	title   string
	heading []string
	units   []string
}

// blocks reads the tables of numbers: one, or of the layout in blocks each after its own heading.
func (p Profile) blocks(lines []string) ([]block, error) {
	line := func(n int) []string {
		if n == 0 {
			return nil
		}
		return p.Fields(lines[n-1])
	}
	b := block{values: make([][]float64, len(p.Columns)), heading: line(p.Heading), units: line(p.Units)}
	if p.Layout == InBlocks {
		b.title = p.titleAbove(lines, p.Data-1, 0)
	}
	var list []block
	last := 0 // the line of the last numbers
	for n := p.Data; n <= len(lines); n++ {
		if p.empty(lines[n-1]) {
			continue
		}
		if at, why := p.misfit(lines[n-1]); why != "" {
			if p.Layout == InColumns {
				return nil, &formats.Error{Line: n, Column: at, Reason: why}
			}
			if len(b.lines) > 0 {
				list = append(list, b)
				b = block{values: make([][]float64, len(p.Columns)), units: b.units}
			}
			continue
		}
		if p.Layout == InBlocks && len(b.lines) == 0 && len(list) > 0 {
			b.title = p.titleAbove(lines, n-1, last)
			if p.Heading > 0 {
				b.heading = p.Fields(lines[n-1-(p.Data-p.Heading)])
			}
		}
		fields := p.Fields(lines[n-1])
		for k, c := range p.Columns {
			v, _ := p.number(fields[c.Column-1])
			b.values[k] = append(b.values[k], v)
		}
		b.lines, last = append(b.lines, n), n
	}
	if len(b.lines) > 0 {
		list = append(list, b)
	}
	if len(list) == 0 {
		return nil, &formats.Error{Line: p.Data, Reason: "there are no numbers"}
	}
	return list, nil
}

// titleAbove is the first line of text between the numbers before and those that follow, without the heading and what a line says before a colon.
func (p Profile) titleAbove(lines []string, end, after int) string {
	if after == 0 { // above the first block: the nearest line to it that is not the heading
		if n := p.titleLine(lines); n > 0 {
			return titleOf(p.Fields(lines[n-1]))
		}
		return ""
	}
	for n := after + 1; n <= end; n++ {
		if strings.TrimSpace(lines[n-1]) != "" {
			return titleOf(p.Fields(lines[n-1]))
		}
	}
	return ""
}

// titleLine is the line above the first block that names it; 0 where there is none.
func (p Profile) titleLine(lines []string) int {
	for n := p.Data - 1; n > 0; n-- {
		if n != p.Heading && n != p.Units && !p.empty(lines[n-1]) {
			return n
		}
	}
	return 0
}

func titleOf(fields []string) string {
	text := strings.Trim(fields[0], "[]# ")
	if _, value, ok := strings.Cut(text, ":"); ok && strings.TrimSpace(value) != "" {
		return strings.TrimSpace(value)
	}
	if len(fields) > 1 && fields[1] != "" && strings.HasSuffix(strings.TrimSpace(fields[0]), ":") || len(fields) == 2 && fields[1] != "" && !timeLike(fields[0]) {
		return fields[1]
	}
	return text
}

// signals makes traces of a table.
func (p Profile) signals(b block, number, of int, file *formats.File) error {
	for k, c := range p.Columns {
		if c.Role != SignalColumn {
			continue
		}
		times := make([]float64, len(b.lines))
		from := p.timeFor(k)
		for i, v := range b.values[from] {
			times[i] = p.seconds(v)
		}
		tr, err := signal.New(times, b.values[k])
		var at *signal.PointError
		if errors.As(err, &at) {
			return &formats.Error{Line: b.lines[min(at.Index, len(b.lines)-1)], Column: c.Column, Reason: at.Reason}
		}
		tr.Name, tr.Unit = b.nameOf(c, of > 1 || p.Layout == InBlocks)
		if tr.Name == "" {
			tr.Name = fmt.Sprintf("signal %d", number+k)
		}
		for n, same := 2, tr.Name; slices.ContainsFunc(file.Traces, func(t signal.Trace) bool { return t.Name == tr.Name && t.Unit == tr.Unit }); n++ {
			tr.Name = fmt.Sprintf("%s (%d)", same, n)
		}
		file.Traces = append(file.Traces, tr)
		file.Channels = append(file.Channels, formats.Channel{Name: tr.Name, Unit: tr.Unit, Kind: formats.KindOfChannel(tr.Name, tr.Unit), TimesS: times, Values: b.values[k]})
	}
	return nil
}

// timeFor is the place among the columns of the time that a signal is against: the nearest to its left, else the first.
func (p Profile) timeFor(k int) int {
	best := -1
	for i, c := range p.Columns {
		if c.Role != TimeColumn {
			continue
		}
		if best < 0 || c.Column < p.Columns[k].Column && (p.Columns[best].Column > p.Columns[k].Column || c.Column > p.Columns[best].Column) {
			best = i
		}
	}
	return best
}

// nameOf is what a column is called: as the profile says, else as the block's title or the heading does.
func (b block) nameOf(c Column, titled bool) (name, unit string) {
	t := table{heading: b.heading, units: b.units}
	name, unit = t.nameAndUnit(c.Column - 1)
	if c.Column > len(b.heading) || b.heading[c.Column-1] == "" {
		name = ""
	}
	if titled && b.title != "" {
		name = b.title
		if m := inBrackets.FindStringSubmatch(name); m != nil {
			name, unit = m[1], m[2]
		}
	}
	if c.Name != "" {
		name = c.Name
	}
	if c.Unit != "" {
		unit = c.Unit
	}
	return name, unit
}

// matrix reads a table whose heads are places on a second axis as spectra.
func (p Profile) matrix(b block, file formats.File) (formats.File, bool, error) {
	if len(p.Columns) < 3 || p.Columns[0].Role != TimeColumn || len(b.heading) == 0 {
		return file, false, nil
	}
	c := collected{table: table{axis: p.Axis, header: file.Header, heading: []string{b.heading[min(len(b.heading), p.Columns[0].Column)-1]}}, columns: len(p.Columns), lines: b.lines}
	for k, col := range p.Columns[1:] {
		if col.Role != SignalColumn || col.Column > len(b.heading) {
			return file, false, nil
		}
		head := b.heading[col.Column-1]
		if col.Name != "" {
			head = col.Name
		}
		c.heading = append(c.heading, head)
		c.values = append(c.values, b.values[k+1])
	}
	for _, v := range b.values[0] {
		c.times = append(c.times, p.seconds(v))
	}
	kind, axis := c.matrix()
	if kind == "" {
		return file, false, nil
	}
	whole, err := c.spectra(formats.File{Header: c.header}, kind, axis)
	return whole, true, err
}

// readValues takes what the lines above the numbers say.
func (p Profile) readValues(lines []string, h *formats.Header) error {
	for _, v := range p.Values {
		name, value := p.said(lines[v.Line-1])
		if value == "" {
			continue
		}
		if v.Says == SaysAcquired {
			at, err := p.moment(value)
			if err != nil {
				return &formats.Error{Line: v.Line, Reason: err.Error()}
			}
			h.AcquiredAt = &at
			continue
		}
		v.Says.into(h, name, value)
	}
	return nil
}

// into fills a field of the header; a condition keeps the name that stands before it.
func (s Says) into(h *formats.Header, name, value string) {
	switch s {
	case SaysSample:
		h.SampleName = value
	case SaysSampleID:
		h.SampleID = value
	case SaysVial:
		h.Vial = value
	case SaysOperator:
		h.Operator = value
	case SaysMethod:
		h.MethodName = value
	case SaysType:
		h.SampleType = strings.ToLower(value)
	case SaysCondition:
		h.AddSetting(formats.Setting{Name: name, Value: value})
	}
}

// said parts a line into what it is about and what it says: "Vial: B7", or two fields.
func (p Profile) said(line string) (name, value string) {
	fields := p.Fields(line)
	if k, v, ok := strings.Cut(fields[0], ":"); ok && strings.TrimSpace(v) != "" {
		rest := append([]string{strings.TrimSpace(v)}, fields[1:]...)
		return strings.Trim(k, "# "), strings.TrimSpace(strings.Join(rest, p.Delimiter+" "))
	}
	if len(fields) == 1 {
		return "", strings.Trim(fields[0], "# ")
	}
	value = strings.TrimSpace(strings.Join(fields[1:], " "))
	return strings.Trim(fields[0], "#: "), value
}

var dateLayouts = map[DateOrder][]string{
	YearFirst:  {"2006-01-02", "2006/01/02", "2006.01.02", "20060102"},
	DayFirst:   {"02.01.2006", "2.1.2006", "02/01/2006", "2/1/2006", "02-01-2006", "2 Jan 2006", "2 January 2006", "02-Jan-2006"},
	MonthFirst: {"01/02/2006", "1/2/2006", "01-02-2006", "Jan 2, 2006", "January 2, 2006"},
}

var timeLayouts = []string{"", " 15:04", " 15:04:05", "T15:04:05", "T15:04:05Z07:00", " 15:04:05 -0700", " 3:04 PM", " 3:04:05 PM", ", 15:04", ", 15:04:05"}

// moment reads a date with or without a time of day; without a zone it is taken as it stands.
func (p Profile) moment(text string) (time.Time, error) {
	text = strings.Join(strings.Fields(text), " ")
	for _, date := range dateLayouts[p.DateOrder] {
		for _, clock := range timeLayouts {
			if at, err := time.Parse(date+clock, text); err == nil {
				return at, nil
			}
		}
	}
	return time.Time{}, fmt.Errorf("%q is no date in the order of the profile", clip(text))
}
