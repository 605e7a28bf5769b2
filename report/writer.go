package report

import (
	"fmt"
	"slices"
	"strings"

	"yugen/core/quantities"
)

// writer fills pages from top to bottom.
type writer struct {
	in    Input
	title string
	sheet sheet
	pages []*Page
	at    int     // the page that is written on
	y     float64 // how far down it is written
	// left and right bound what is being written, mm.
	left, right float64
	marks       []Box
	missing     []Missing
	block       string // the id of what is being written

	// What values are taken from, made when one is asked for.
	batch      *quantities.Batch
	quantities quantities.Register
}

// sheet is the paper, and where on it the content stands, mm.
type sheet struct{ width, height, left, right, top, bottom float64 }

var a4 = sheet{pageWidth, pageHeight, left, right, top + 14, bottom}

func newWriter(in Input, on sheet) *writer {
	w := &writer{in: in, sheet: on, left: on.left, right: on.right, at: -1}
	w.newPage()
	return w
}

func (w *writer) page() *Page { return w.pages[w.at] }

// newPage goes on at the top of the next page, which what stands beside may have begun.
func (w *writer) newPage() {
	w.at++
	if w.at == len(w.pages) {
		w.pages = append(w.pages, &Page{Width: w.sheet.width, Height: w.sheet.height})
	}
	w.y = w.sheet.top
}

// letterhead is the head of every page of the reports that are no layout.
func (w *writer) letterhead(p *Page) {
	from := w.sheet.left + p.mark(w.in.Mark, w.sheet.left, 22.8)
	p.text(Text{X: from, Y: 21.4, Size: 11, Font: SerifMed, Text: w.in.Laboratory})
	if w.in.Address != "" {
		x := from + width(w.in.Laboratory, SerifMed, 11) + 3
		p.text(Text{X: x, Y: 21.4, Size: 8, Font: Serif, Colour: ink2, Text: fit(w.in.Address, Serif, 8, w.sheet.right-60-x)})
	}
	p.line(w.sheet.left, 24, w.sheet.right, 24, 0.25, ink)
}

// room starts a new page where less than h mm are left.
func (w *writer) room(h float64) {
	if w.y+h > w.sheet.bottom {
		w.newPage()
	}
}

func (w *writer) heading(title, sub string) {
	w.page().text(Text{X: w.left, Y: w.y + 4, Size: 20, Font: Serif, Text: title})
	w.y += 10
	w.page().text(Text{X: w.left, Y: w.y, Size: 10, Font: SerifItal, Colour: ink2, Text: sub})
	w.y += 8
}

// section starts a part that needs at least h mm on its page.
func (w *writer) section(title, note string, h float64) {
	w.room(h + 10)
	if title == "" {
		return
	}
	w.y += 4
	w.page().text(Text{X: w.left, Y: w.y, Size: 10.5, Font: SerifMed, Text: title})
	from := w.left + width(title, SerifMed, 10.5) + 2
	w.page().text(Text{X: from, Y: w.y, Size: 8, Font: Sans, Colour: ink3, Text: fit(note, Sans, 8, w.right-from)})
	w.y += 5
}

// facts writes pairs of label and value in two columns; a value too long for its column takes the whole line.
func (w *writer) facts(pairs [][2]string) {
	half := (w.right - w.left) / 2
	if half < 60 {
		half = w.right - w.left // one column
	}
	column := 0
	for _, p := range pairs {
		if p[1] == "" { // nothing to say, nothing said
			continue
		}
		room := half - 30
		if width(p[1], Sans, 8) > room {
			room = w.right - w.left - 30
			if column == 1 {
				column = 0
				w.y += 4.6
			}
		}
		x := w.left + float64(column)*half
		w.page().text(Text{X: x, Y: w.y, Size: 8, Font: Sans, Colour: ink3, Text: p[0]})
		w.page().text(Text{X: x + 28, Y: w.y, Size: 8, Font: Sans, Text: fit(p[1], Sans, 8, room)})
		column++
		if column == 2 || room > half || half == w.right-w.left {
			column = 0
			w.y += 4.6
		}
	}
	w.y += 4.6*float64(column) + 2
}

// fit shortens a text to a width in mm.
func fit(text string, font Font, size, most float64) string {
	if width(text, font, size) <= most {
		return text
	}
	r := []rune(text)
	for len(r) > 1 && width(string(r)+"…", font, size) > most {
		r = r[:len(r)-1]
	}
	return string(r) + "…"
}

// column is a column of a table: its heading, width in mm, and whether it holds numbers.
type column struct {
	head   string
	width  float64
	number bool
	after  bool // text that follows numbers, which end where it would begin
}

// afterNumbers is the room between numbers and the text that follows them, mm.
const afterNumbers = 2.5

// cell is a value in a table.
type cell struct {
	text   string
	strong bool
	colour Colour
}

func plain(text string) cell { return cell{text: text} }

// table writes rows under a heading, which is repeated on each new page. No row stands alone on the last one.
func (w *writer) table(columns []column, rows [][]cell, height float64) {
	columns, rows, without := roomy(columns, rows, w.right-w.left)
	columns = shared(fitted(columns, w.right-w.left), rows)
	for k := range columns {
		columns[k].after = k > 0 && columns[k-1].number
	}
	head := func() {
		x := w.left
		for k, c := range columns {
			w.put(x, c, w.y, cell{text: c.head, colour: ink3}, headSize(c))
			w.mark(fmt.Sprintf("column:%d", k), x, w.y-3.2, c.width, 4.8)
			x += c.width
		}
		w.y += 1.6
		w.page().line(w.left, w.y, x, w.y, 0.25, ink2)
		w.y += height - 1.2
	}
	w.room(3 * height)
	head()
	for k, row := range rows {
		if more := len(rows) - k; w.y+height > w.sheet.bottom || more == 2 && k > 0 && w.y+2*height > w.sheet.bottom {
			w.page().text(Text{X: w.right, Y: w.y - 0.6, Size: 6.5, Font: SerifItal, Colour: ink3, Align: end, Text: "goes on"})
			w.newPage()
			head()
		}
		x := w.left
		for i, c := range columns {
			w.put(x, c, w.y, row[i], 8)
			x += c.width
		}
		under := w.y + height - 3.6 // a second line of text stands above it
		w.page().line(w.left, under, x, under, 0.12, hair)
		w.y += height
	}
	if len(without) > 0 {
		w.page().text(Text{X: w.left, Y: w.y, Size: 6.5, Font: SerifItal, Colour: kaki, Text: fit("No room here for "+strings.Join(without, ", "), SerifItal, 6.5, w.right-w.left)})
		w.y += 3.4
	}
	w.y += 2
}

// leastText is how narrow a column of words may become, mm; numbers are never cut.
const leastText = 16.0

// roomy leaves the last columns out where all together are too narrow to be read, and says which.
func roomy(columns []column, rows [][]cell, most float64) (kept []column, cells [][]cell, without []string) {
	need := func(k int) float64 {
		if columns[k].number {
			return wanted(columns, rows, k)
		}
		return min(leastText, wanted(columns, rows, k))
	}
	n, total := 0, 0.0
	for n < len(columns) {
		if total += need(n); n > 0 && total > most {
			break
		}
		n++
	}
	if n == len(columns) {
		return columns, rows, nil
	}
	for _, c := range columns[n:] {
		if c.head != "" {
			without = append(without, c.head)
		}
	}
	for _, row := range rows {
		cells = append(cells, row[:n])
	}
	return columns[:n], cells, without
}

// wanted is how wide a column is whose heading and values are not cut, mm.
func wanted(columns []column, rows [][]cell, k int) float64 {
	const gap = 1.5 // mm between the text of neighbouring columns
	c := columns[k]
	wide := width(c.head, Sans, 7.5) + gap
	more := 0.0
	if !c.number && k > 0 && columns[k-1].number {
		more = afterNumbers
	}
	for _, row := range rows {
		for n, line := range strings.Split(row[k].text, "\n") {
			font, size := Sans, 8.0
			if n > 0 {
				size = 6.8
			} else if row[k].strong {
				font = SansMedium
			}
			wide = max(wide, width(line, font, size)+gap)
		}
	}
	return wide + more
}

// fitted are columns that fill no more than the width there is: what is too wide gives way in proportion.
func fitted(columns []column, most float64) []column {
	total := 0.0
	for _, c := range columns {
		total += c.width
	}
	if total <= most {
		return columns
	}
	out := slices.Clone(columns)
	for k := range out {
		out[k].width *= most / total
	}
	return out
}

// shared gives columns whose heading or values want more than their width what others have to spare, numbers before text.
func shared(columns []column, rows [][]cell) []column {
	out := slices.Clone(columns)
	wants := make([]float64, len(columns))
	spare := 0.0
	for i, c := range columns {
		wants[i] = wanted(columns, rows, i)
		spare += max(0, c.width-wants[i])
	}
	given := 0.0
	for _, number := range []bool{true, false} {
		for i, c := range columns {
			if lacks := wants[i] - c.width; c.number == number && lacks > 0 {
				more := min(lacks, spare-given)
				out[i].width += more
				given += more
			}
		}
	}
	if spare > 0 {
		for i, c := range columns {
			out[i].width -= max(0, c.width-wants[i]) * given / spare
		}
	}
	for i := range out { // words give way to numbers, which are never cut
		for k := range out {
			if lacks := wants[i] - out[i].width; out[i].number && lacks > 0 && !out[k].number {
				more := max(0, min(lacks, out[k].width-leastText))
				out[i].width += more
				out[k].width -= more
			}
		}
	}
	return out
}

// headSize is the size at which a column's heading fits, down to what can still be read.
func headSize(c column) float64 {
	size := 7.5
	for size > 5.5 && width(c.head, Sans, size) > c.width-1 {
		size -= 0.25
	}
	return size
}

func (w *writer) put(x float64, c column, y float64, v cell, size float64) {
	font := Sans
	if v.strong {
		font = SansMedium
	}
	if c.after && !c.number {
		x, c.width = x+afterNumbers, c.width-afterNumbers
	}
	lines := strings.Split(v.text, "\n")
	for i, line := range lines {
		t := Text{X: x, Y: y + 3.2*float64(i), Size: size, Font: font, Colour: v.colour, Text: fit(line, font, size, c.width-1)}
		if i > 0 {
			t.Size, t.Font, t.Colour = 6.8, Sans, ink3
		}
		if c.number {
			t.X, t.Align = x+c.width-1, end
		}
		w.page().text(t)
	}
}

// paragraph writes text broken to the width of the page.
func (w *writer) paragraph(text string, size float64, colour Colour, indent float64) {
	line := ""
	flush := func() {
		w.room(5)
		w.page().text(Text{X: w.left + indent, Y: w.y, Size: size, Font: Serif, Colour: colour, Text: line})
		w.y += size * mmPerPoint * 1.45
		line = ""
	}
	for _, word := range strings.Fields(text) {
		if line != "" && width(line+" "+word, Serif, size) > w.right-w.left-indent {
			flush()
		}
		line = strings.TrimPrefix(line+" "+word, " ")
	}
	if line != "" {
		flush()
	}
}

// footers write head and foot of every page of a report that is no layout.
func (w *writer) footers() {
	for i, p := range w.pages {
		w.letterhead(p)
		p.text(Text{X: w.sheet.right, Y: 21.4, Size: 8, Font: Serif, Colour: ink2, Align: end, Text: fmt.Sprintf("%s · page %d of %d", w.title, i+1, len(w.pages))})
		w.footline(p, w.source(), w.foot())
	}
}

// footline is the line under a page: what it is of, and what it stands on.
func (w *writer) footline(p *Page, what, foot string) {
	y := w.sheet.height - 14
	p.line(w.sheet.left, y, w.sheet.right, y, 0.2, mist)
	p.text(Text{X: w.sheet.left, Y: y + 4, Size: 6.5, Font: Sans, Colour: ink3, Text: fit(what, Sans, 6.5, w.sheet.right-w.sheet.left-width(foot, Sans, 6.5)-3)})
	p.text(Text{X: w.sheet.right, Y: y + 4, Size: 6.5, Font: Sans, Colour: ink3, Align: end, Text: foot})
}

func (w *writer) source() string {
	return fmt.Sprintf("%s, %s · %s, version %d", w.in.Study, w.in.Batch, w.in.MethodName, w.in.Version)
}

// foot says what a report stands on: its inputs by their hash, the newest of them, and that one's place in the record, so that a record which was cut or
// rewritten contradicts the paper.
func (w *writer) foot() string {
	text := fmt.Sprintf("Inputs %.12s of %s", w.in.InputsHash, w.in.onPaper(w.in.MadeAt, "2 Jan 2006, 15:04 MST"))
	if w.in.Anchor != "" {
		text += ", record " + w.in.Anchor
	}
	return text
}
