package report

import (
	"fmt"
	"math"
	"slices"

	"yugen/report/layouts"
)

// Subject is what pages are made of: one injection by its id, or one sample by its name; neither is the whole batch.
type Subject struct {
	InjectionID string
	Sample      string
}

// Box is where a part of a page stands, mm from its upper left corner: a block, a column of its table, or a value in its words.
type Box struct {
	Block  string  `json:"block"`
	Part   string  `json:"part,omitempty"` // "column:2", "value:7:15" from and to which letter, or "missing:vial"; empty is the block
	Page   int     `json:"page"`           // from 0
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// Missing is a value that a block shows and that is not there.
type Missing struct {
	Block       string `json:"block"`
	Quantity    string `json:"quantity"`
	Words       string `json:"words"`
	InjectionID string `json:"injection_id,omitempty"`
}

// subject is what is being drawn: which lines of the batch.
type subject struct {
	layouts.Each
	lines []int
	name  string
}

func (in Input) subject(each layouts.Each, s Subject) (subject, error) {
	out := subject{Each: each}
	switch each {
	case layouts.EachInjection:
		k := slices.IndexFunc(in.Lines, func(l Line) bool { return l.ID == s.InjectionID })
		if k < 0 {
			return out, fmt.Errorf("report: the batch has no injection %s", s.InjectionID)
		}
		out.lines, out.name = []int{k}, in.Lines[k].Name
	case layouts.EachSample:
		for _, r := range in.Result.Samples {
			if r.Name != s.Sample || len(out.lines) > 0 {
				continue
			}
			for k, l := range in.Lines {
				if slices.Contains(r.InjectionIDs, l.ID) {
					out.lines = append(out.lines, k)
				}
			}
		}
		if out.name = s.Sample; len(out.lines) == 0 {
			return out, fmt.Errorf("report: the batch has no sample %q", s.Sample)
		}
	default:
		out.name = in.Batch
		for k := range in.Lines {
			out.lines = append(out.lines, k)
		}
	}
	return out, nil
}

// sample is the row of means of a subject that is a sample, or the injection of one.
func (w *writer) sample(s subject) int {
	if s.Each == layouts.EachBatch {
		return -1
	}
	for k, r := range w.in.Result.Samples {
		if slices.Contains(r.InjectionIDs, w.in.Lines[s.lines[0]].ID) {
			return k
		}
	}
	return -1
}

// Make draws pages by a layout. The same inputs give the same pages.
func Make(l layouts.Layout, in Input, of Subject) (*Report, error) {
	s, err := in.subject(l.Each, of)
	if err != nil {
		return nil, err
	}
	wide, high := l.SheetMM()
	m := l.MarginMM
	w := newWriter(in, sheet{wide, high, m.Left, wide - m.Right, m.Top, high - m.Bottom})
	w.title = s.name
	w.rows(l, s)
	w.furnish(l, s)
	w.unlocking()
	w.commas()
	return &Report{Title: w.title, Pages: w.pages, Boxes: w.marks, Missing: w.missing, made: in.MadeAt}, nil
}

// between is the room between blocks beside each other, mm.
const between = 5.0

func (w *writer) rows(l layouts.Layout, s subject) {
	for _, row := range l.Rows {
		switch row[0].Kind {
		case layouts.Head, layouts.Foot:
			continue
		case layouts.Break:
			w.block = row[0].ID
			w.mark("", w.left, w.y, w.right-w.left, 4)
			if w.at < len(w.pages)-1 || w.y > w.sheet.top {
				w.newPage()
			}
			continue
		}
		before := w.state()
		w.row(row, s)
		// What would be torn, and need not be, begins on the next page.
		if w.at > before.at && before.y > w.sheet.top && whole(row) {
			w.back(before)
			w.newPage()
			w.row(row, s)
			if w.at > before.at+1 {
				w.back(before)
				w.row(row, s)
			}
		}
	}
	w.left, w.right = w.sheet.left, w.sheet.right
}

// whole tells whether a row should not be torn by the end of a page: several blocks beside each other, or a picture.
func whole(row []layouts.Block) bool {
	return len(row) > 1 || slices.Contains([]layouts.Kind{layouts.Chromatogram, layouts.Curve, layouts.Picture, layouts.Signatures, layouts.Sample, layouts.Heading}, row[0].Kind)
}

// row draws blocks beside each other.
func (w *writer) row(row []layouts.Block, s subject) {
	at, y := w.at, w.y
	endAt, endY := at, y
	total := w.sheet.right - w.sheet.left
	from := 0
	for k, columns := range layouts.Widths(row) {
		w.at, w.y = at, y
		w.left = w.sheet.left + float64(from)/12*total
		from += columns
		w.right = w.sheet.left + float64(from)/12*total
		if k < len(row)-1 {
			w.right -= between / 2
		}
		if k > 0 {
			w.left += between / 2
		}
		w.block = row[k].ID
		w.draw(row[k], s)
		for p := at; p <= w.at; p++ {
			top, bottom := w.sheet.top, w.sheet.bottom
			if p == at {
				top = y
			}
			if p == w.at {
				bottom = w.y
			}
			w.marks = append(w.marks, Box{Block: row[k].ID, Page: p, X: w.left, Y: top - 1, Width: w.right - w.left, Height: math.Max(3, bottom-top)})
		}
		if w.at > endAt || w.at == endAt && w.y > endY {
			endAt, endY = w.at, w.y
		}
	}
	w.at, w.y = endAt, endY
}

// state is where a writer stands, to come back to.
type state struct {
	at, pages, items, marks, missing int
	y                                float64
}

func (w *writer) state() state {
	return state{w.at, len(w.pages), len(w.page().Items), len(w.marks), len(w.missing), w.y}
}

func (w *writer) back(s state) {
	w.pages = w.pages[:s.pages]
	w.at, w.y = s.at, s.y
	w.page().Items = w.page().Items[:s.items]
	w.marks, w.missing = w.marks[:s.marks], w.missing[:s.missing]
}

// mark notes where a part of the block stands that is being drawn.
func (w *writer) mark(part string, x, y, wide, high float64) {
	if w.block != "" {
		w.marks = append(w.marks, Box{w.block, part, w.at, x, y, wide, high})
	}
}

// furnish writes head and foot of all pages, when it is known how many there are.
func (w *writer) furnish(l layouts.Layout, s subject) {
	for _, row := range l.Rows {
		b := row[0]
		if b.Kind != layouts.Head && b.Kind != layouts.Foot {
			continue
		}
		for k := range w.pages {
			w.at, w.block = k, b.ID
			if b.Kind == layouts.Head {
				w.head(b, s)
			} else {
				w.underPage(b, s)
			}
		}
	}
	w.block = ""
}

// headAbove is how far over the content the line of the page's head is, mm.
const headAbove = 8.0

func (w *writer) head(b layouts.Block, s subject) {
	p, y := w.page(), w.sheet.top-headAbove
	l, r := w.sheet.left, w.sheet.right
	right := w.phrase(firstOf(b.Sub, "{subject} · page {page} of {pages}"), b, s)
	p.text(Text{X: r, Y: y - 2.6, Size: 8, Font: Serif, Colour: ink2, Align: end, Text: right})
	most := r - width(right, Serif, 8) - 4
	if b.Text != "" {
		p.text(Text{X: l, Y: y - 2.6, Size: 11, Font: SerifMed, Text: fit(w.phrase(b.Text, b, s), SerifMed, 11, most-l)})
	} else {
		from := l + p.mark(w.in.Mark, l, y-1.2)
		p.text(Text{X: from, Y: y - 2.6, Size: 11, Font: SerifMed, Text: fit(w.in.Laboratory, SerifMed, 11, most-from)})
		if from += width(w.in.Laboratory, SerifMed, 11) + 3; w.in.Address != "" && most > from+10 {
			p.text(Text{X: from, Y: y - 2.6, Size: 8, Font: Serif, Colour: ink2, Text: fit(w.in.Address, Serif, 8, most-from)})
		}
	}
	p.line(l, y, r, y, 0.25, ink)
	w.mark("", l, y-8, r-l, 8.5)
}

func (w *writer) underPage(b layouts.Block, s subject) {
	w.footline(w.page(), w.phrase(firstOf(b.Text, "{source}"), b, s), w.phrase(firstOf(b.Sub, "{inputs}"), b, s))
	w.mark("", w.sheet.left, w.sheet.height-15, w.sheet.right-w.sheet.left, 6)
}

func firstOf(list ...string) string {
	for _, t := range list {
		if t != "" {
			return t
		}
	}
	return ""
}
