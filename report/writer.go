package report

import (
	"fmt"
	"slices"
	"strings"
)

// writer fills pages from top to bottom.
type writer struct {
	in    Input
	title string
	pages []*Page
	y     float64
}

func newWriter(in Input) *writer {
	w := &writer{in: in}
	w.newPage()
	return w
}

func (w *writer) page() *Page { return w.pages[len(w.pages)-1] }

func (w *writer) newPage() {
	w.pages = append(w.pages, &Page{})
	p := w.page()
	from := left + p.mark(w.in.Mark)
	p.text(Text{X: from, Y: 21.4, Size: 11, Font: SerifMed, Text: w.in.Laboratory})
	if w.in.Address != "" {
		x := from + width(w.in.Laboratory, SerifMed, 11) + 3
		p.text(Text{X: x, Y: 21.4, Size: 8, Font: Serif, Colour: ink2, Text: fit(w.in.Address, Serif, 8, 130-x)})
	}
	p.line(left, 24, right, 24, 0.25, ink)
	w.y = top + 14
}

// room starts a new page where less than h mm are left.
func (w *writer) room(h float64) {
	if w.y+h > bottom {
		w.newPage()
	}
}

func (w *writer) heading(title, sub string) {
	w.page().text(Text{X: left, Y: w.y + 4, Size: 20, Font: Serif, Text: title})
	w.y += 10
	w.page().text(Text{X: left, Y: w.y, Size: 10, Font: SerifItal, Colour: ink2, Text: sub})
	w.y += 8
}

// section starts a part that needs at least h mm on its page.
func (w *writer) section(title, note string, h float64) {
	w.room(h + 10)
	w.y += 4
	w.page().text(Text{X: left, Y: w.y, Size: 10.5, Font: SerifMed, Text: title})
	w.page().text(Text{X: left + width(title, SerifMed, 10.5) + 2, Y: w.y, Size: 8, Font: Sans, Colour: ink3, Text: note})
	w.y += 5
}

// facts writes pairs of label and value in two columns; a value too long for its column takes the whole line.
func (w *writer) facts(pairs [][2]string) {
	half := (right - left) / 2
	column := 0
	for _, p := range pairs {
		if p[1] == "" { // nothing to say, nothing said
			continue
		}
		room := half - 30
		if width(p[1], Sans, 8) > room {
			room = right - left - 30
			if column == 1 {
				column = 0
				w.y += 4.6
			}
		}
		x := left + float64(column)*half
		w.page().text(Text{X: x, Y: w.y, Size: 8, Font: Sans, Colour: ink3, Text: p[0]})
		w.page().text(Text{X: x + 28, Y: w.y, Size: 8, Font: Sans, Text: fit(p[1], Sans, 8, room)})
		column++
		if column == 2 || room > half {
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
}

// cell is a value in a table.
type cell struct {
	text   string
	strong bool
	colour Colour
}

func plain(text string) cell { return cell{text: text} }

// table writes rows under a heading, which is repeated on each new page.
func (w *writer) table(columns []column, rows [][]cell, height float64) {
	columns = shared(columns, rows)
	head := func() {
		x := left
		for _, c := range columns {
			w.put(x, c, w.y, cell{text: c.head, colour: ink3}, headSize(c))
			x += c.width
		}
		w.y += 1.6
		w.page().line(left, w.y, x, w.y, 0.25, ink2)
		w.y += height - 1.2
	}
	w.room(3 * height)
	head()
	for _, row := range rows {
		if w.y+height > bottom {
			w.newPage()
			head()
		}
		x := left
		for i, c := range columns {
			w.put(x, c, w.y, row[i], 8)
			x += c.width
		}
		under := w.y + height - 3.6 // a second line of text stands above it
		w.page().line(left, under, x, under, 0.12, hair)
		w.y += height
	}
	w.y += 2
}

// shared gives columns whose heading or values want more than their width what others have to spare, numbers before text.
func shared(columns []column, rows [][]cell) []column {
	const gap = 1.5 // mm between the text of neighbouring columns
	out := slices.Clone(columns)
	wants := make([]float64, len(columns))
	spare := 0.0
	for i, c := range columns {
		wants[i] = width(c.head, Sans, 7.5) + gap
		for _, row := range rows {
			for k, line := range strings.Split(row[i].text, "\n") {
				font, size := Sans, 8.0
				if k > 0 {
					size = 6.8
				} else if row[i].strong {
					font = SansMedium
				}
				wants[i] = max(wants[i], width(line, font, size)+gap)
			}
		}
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
		w.page().text(Text{X: left + indent, Y: w.y, Size: size, Font: Serif, Colour: colour, Text: line})
		w.y += size * mmPerPoint * 1.45
		line = ""
	}
	for _, word := range strings.Fields(text) {
		if line != "" && width(line+" "+word, Serif, size) > right-left-indent {
			flush()
		}
		line = strings.TrimPrefix(line+" "+word, " ")
	}
	if line != "" {
		flush()
	}
}

func (w *writer) signatures() {
	w.room(24)
	w.y += 14
	for i, who := range []string{strings.TrimSpace("Analysed by " + w.in.MadeBy), "Reviewed by"} {
		x := left + float64(i)*90
		w.page().line(x, w.y, x+78, w.y, 0.25, ink2)
		w.page().text(Text{X: x, Y: w.y + 4, Size: 8, Font: Serif, Colour: ink2, Text: who})
	}
	w.y += 8
}

func (w *writer) footers() {
	for i, p := range w.pages {
		p.text(Text{X: right, Y: 21.4, Size: 8, Font: Serif, Colour: ink2, Align: end, Text: fmt.Sprintf("%s · page %d of %d", w.title, i+1, len(w.pages))})
		p.line(left, 283, right, 283, 0.2, mist)
		foot := w.foot()
		what := fmt.Sprintf("%s, %s · %s, version %d", w.in.Study, w.in.Batch, w.in.MethodName, w.in.Version)
		p.text(Text{X: left, Y: 287, Size: 6.5, Font: Sans, Colour: ink3, Text: fit(what, Sans, 6.5, right-left-width(foot, Sans, 6.5)-3)})
		p.text(Text{X: right, Y: 287, Size: 6.5, Font: Sans, Colour: ink3, Align: end, Text: foot})
	}
}

// foot says what a report stands on: its inputs by their hash, the newest of them, and that one's place in the record, so that a record which was cut or
// rewritten contradicts the paper.
func (w *writer) foot() string {
	text := fmt.Sprintf("Inputs %.12s of %s", w.in.InputsHash, w.in.MadeAt.UTC().Format("2 Jan 2006, 15:04 UTC"))
	if w.in.Anchor != "" {
		text += ", record " + w.in.Anchor
	}
	return text
}
