package report

import (
	"bytes"
	"cmp"
	"fmt"
	"image/png"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/core/signal"
	"yugen/report/layouts"
)

// draw draws a block. What it has nothing for says so in a sentence where it stands.
func (w *writer) draw(b layouts.Block, s subject) {
	defer w.unknownNames(b.Compounds)
	switch b.Kind {
	case layouts.Heading:
		w.headingBlock(b, s)
	case layouts.Sample:
		w.sampleBlock(b, s)
	case layouts.Conditions:
		w.conditionsBlock(b, s)
	case layouts.Chromatogram:
		w.chromatogramBlock(b, s)
	case layouts.Peaks:
		w.peaksBlock(b, s)
	case layouts.Results:
		w.resultsBlock(b, s)
	case layouts.Groups:
		w.groupsBlock(b, s)
	case layouts.Curve:
		w.curveBlock(b, s)
	case layouts.Summary:
		w.summaryBlock(b, s)
	case layouts.Checks:
		w.checksBlock(b, s)
	case layouts.Screening:
		w.screeningBlock(b, s)
	case layouts.Resolved:
		w.resolvedBlock(b, s)
	case layouts.Notices:
		w.noticesBlock(b, s)
	case layouts.Record:
		w.recordBlock(b, s)
	case layouts.Text:
		w.textBlock(b, s)
	case layouts.Picture:
		w.pictureBlock(b)
	case layouts.Line:
		w.y += 2
		w.page().line(w.left, w.y, w.right, w.y, 0.25, ink2)
		w.y += 4
	case layouts.Signatures:
		w.signatures(b.Roles)
	}
}

// titleOf is what a block has over it.
func (w *writer) titleOf(b layouts.Block, own string, s subject) string {
	if b.Title == nil {
		return own
	}
	return w.phrase(*b.Title, b, s)
}

// sentence says why there is nothing.
func (w *writer) sentence(text string) {
	w.paragraph(text, 8.5, ink2, 0)
	w.y += 2
}

func (w *writer) headingBlock(b layouts.Block, s subject) {
	text, sub := b.Text, b.Sub
	if text == "" {
		text = "{subject}"
	}
	if sub == "" {
		sub = map[layouts.Each]string{layouts.EachBatch: "{study}", layouts.EachSample: "{replicates}", layouts.EachInjection: "injection {injection} of {injections}"}[s.Each]
	}
	size := b.SizePt
	if size == 0 {
		size = 20
	}
	text, sub = w.phrase(text, b, s), w.phrase(sub, b, s)
	w.page().text(Text{X: w.left, Y: w.y + size*0.2, Size: size, Font: Serif, Text: fit(text, Serif, size, w.right-w.left)})
	w.y += size * 0.5
	w.page().text(Text{X: w.left, Y: w.y, Size: size / 2, Font: SerifItal, Colour: ink2, Text: fit(sub, SerifItal, size/2, w.right-w.left)})
	w.y += size * 0.4
}

// sampleBlock lists values of the injection, the sample or the batch.
func (w *writer) sampleBlock(b layouts.Block, s subject) {
	if title := w.titleOf(b, "", s); title != "" {
		w.section(title, "", 10)
	}
	list := b.Values
	if len(list) == 0 {
		list = w.usualValues(s)
	}
	if s.Each == layouts.EachBatch && slices.ContainsFunc(list, w.livesWithInjections) {
		w.runTable(b, s)
		return
	}
	var pairs [][2]string
	for _, v := range list {
		before := len(w.missing)
		name, text, there := w.value(v, s)
		switch {
		case there:
		case len(b.Values) == 0 && !slices.Contains([]string{"sample", "volume"}, v.Quantity):
			w.missing = w.missing[:before] // nothing to say, nothing said
			continue
		default:
			text = firstOf(b.Missing, unsaid)
		}
		pairs = append(pairs, [2]string{name, text})
	}
	w.facts(pairs)
}

func (w *writer) livesWithInjections(v layouts.Value) bool {
	if len(w.in.Lines) == 0 {
		return false
	}
	w.quantityRow(0)
	q, known := w.quantities.Find(v.Quantity)
	return known && q.Lives != quantities.OfBatch
}

// runTable is a row for each injection of a batch.
func (w *writer) runTable(b layouts.Block, s subject) {
	var columns []column
	rows := make([][]cell, len(s.lines))
	for _, v := range b.Values {
		q, _ := w.quantities.Find(v.Quantity)
		columns = append(columns, w.columnOf(v, q))
		for k, line := range s.lines {
			row := w.quantityRow(line)
			if c := compoundNamed(w.in, v.Compound); c != nil {
				row = row.Of(c)
			}
			rows[k] = append(rows[k], w.valueCell(v, q, row, b.Missing))
		}
	}
	w.table(columns, rows, 5)
}

// usualValues are those of a sample block that names none.
func (w *writer) usualValues(s subject) []layouts.Value {
	ids := []string{"injection_count", "method", "first_injection", "last_injection"}
	if s.Each != layouts.EachBatch {
		ids = []string{"acquired_at", "file", "vial", "method", "dilution"}
		line := w.in.Lines[s.lines[0]]
		if line.Role == batch.Sample {
			ids = append(ids, "sample", "volume")
		}
		if line.Level != nil {
			ids = append(ids, "level")
		}
		for _, c := range w.in.OwnColumns {
			if !c.Hidden {
				ids = append(ids, string(c.Field()))
			}
		}
	}
	var list []layouts.Value
	for _, id := range ids {
		list = append(list, layouts.Value{Quantity: id})
	}
	return list
}

func (w *writer) textBlock(b layouts.Block, s subject) {
	size := b.SizePt
	if size == 0 {
		size = 9
	}
	if title := w.titleOf(b, "", s); title != "" {
		w.section(title, "", 10)
	} else {
		w.y += size * mmPerPoint
	}
	for _, part := range strings.Split(b.Text, "\n") {
		if strings.TrimSpace(part) == "" {
			w.y += size * mmPerPoint
			continue
		}
		w.filled(part, size, b, s)
	}
	w.y += 2
}

// word is a word of a text that is set, and the value it is of.
type word struct {
	text  string
	value *layouts.Phrase
	glued bool // no space before it
}

// filled sets a paragraph of words and values, and marks where the values stand.
func (w *writer) filled(text string, size float64, b layouts.Block, s subject) {
	parts, err := layouts.Phrases(text)
	if err != nil { // it was checked when it was read
		return
	}
	var list []word
	glued := true
	for k := range parts {
		p := &parts[k]
		shown := p.Words
		if p.Value != nil {
			var there bool
			if _, shown, there = w.value(*p.Value, s); !there {
				shown = firstOf(b.Missing, unsaid)
			}
		}
		for i, t := range strings.Fields(shown) {
			one := word{text: t, glued: i == 0 && glued && !strings.HasPrefix(shown, " ")}
			if p.Value != nil {
				one.value = p
			}
			list = append(list, one)
		}
		glued = !strings.HasSuffix(shown, " ")
	}
	space := width("n n", Serif, size) - width("nn", Serif, size)
	for len(list) > 0 {
		n, long := 0, 0.0
		for n < len(list) {
			more := width(list[n].text, Serif, size)
			if n > 0 && !list[n].glued {
				more += space
			}
			if n > 0 && long+more > w.right-w.left {
				break
			}
			long += more
			n++
		}
		w.room(5)
		w.setLine(list[:n], long, size, space, b.Align)
		list = list[n:]
		w.y += size * mmPerPoint * 1.45
	}
}

// setLine sets a line in one piece, so that it can be copied as one, and marks its values.
func (w *writer) setLine(list []word, long, size, space float64, align string) {
	from := w.left
	switch align {
	case "middle":
		from += (w.right - w.left - long) / 2
	case "right":
		from = w.right - long
	}
	text, x := "", from
	for k, one := range list {
		if k > 0 && !one.glued {
			text += " "
			x += space
		}
		text += one.text
		wide := width(one.text, Serif, size)
		if one.value != nil {
			w.mark(fmt.Sprintf("value:%d:%d", one.value.From, one.value.To), x, w.y-size*0.28, wide, size*0.38)
		}
		x += wide
	}
	w.page().text(Text{X: from, Y: w.y, Size: size, Font: Serif, Text: text})
}

func (w *writer) pictureBlock(b layouts.Block) {
	if len(b.Picture) == 0 {
		w.sentence("There is no picture here yet.")
		return
	}
	if err := validPicture("This picture", b.Picture, maxPictureBytes); err != nil {
		w.sentence(err.Error() + ".")
		return
	}
	size, err := png.DecodeConfig(bytes.NewReader(b.Picture))
	if err != nil { // it was whole just now
		return
	}
	height := b.HeightMM
	if height == 0 {
		height = 40
	}
	wide := height * float64(size.Width) / float64(size.Height)
	if most := w.right - w.left; wide > most {
		wide, height = most, height*most/wide
	}
	w.room(height)
	x := w.left
	switch b.Align {
	case "middle":
		x += (w.right - w.left - wide) / 2
	case "right":
		x = w.right - wide
	}
	w.page().Items = append(w.page().Items, Item{Picture: &Picture{x, w.y, wide, height, b.Picture}})
	w.y += height + 4
}

// conditionsBlock lists what the files say of equipment and conditions, or, of "processing", how the batch was processed.
func (w *writer) conditionsBlock(b layouts.Block, s subject) {
	if b.Of == "processing" {
		w.processing(b, s)
		return
	}
	w.section(w.titleOf(b, "Conditions", s), "as the file says", 14)
	var pairs [][2]string
	for _, c := range w.in.Lines[s.lines[0]].Settings {
		pairs = append(pairs, [2]string{c.Name, strings.TrimSpace(c.Value + " " + c.Unit)})
	}
	if len(pairs) == 0 {
		w.sentence("The file says nothing of equipment or conditions.")
		return
	}
	w.facts(pairs)
}

func (w *writer) chromatogramBlock(b layouts.Block, s subject) {
	if s.Each == layouts.EachBatch {
		w.smallChromatograms(b, s)
		return
	}
	at := s.lines[0]
	line, injected, ok := w.channel(at, b.Channel)
	if !ok || line.Trace.Len() == 0 {
		w.section(w.titleOf(b, "Chromatogram", s), "", 20)
		w.sentence(fmt.Sprintf("There is no chromatogram of %s to print.", firstOf(b.Channel, line.Name)))
		return
	}
	d := usualDrawing
	if b.HeightMM > 0 {
		d.height = b.HeightMM
	}
	d.from, d.to, d.whole, d.plain, d.named = b.FromMin, b.ToMin, b.Whole, b.Plain, b.Named
	if b.Labels != nil {
		d.labels = b.Labels
	}
	if b.AngleDeg != nil {
		d.angle = *b.AngleDeg
	}
	for _, c := range line.Conditions {
		if slices.Contains(b.Conditions, "*") || slices.Contains(b.Conditions, c.Name) {
			d.conditions = append(d.conditions, c)
		}
	}
	d.behind = w.behind(b, at)
	note := strings.Join(slices.DeleteFunc([]string{line.Trace.Name, cmp.Or(line.Trace.Unit, "signal") + " against min"}, func(s string) bool { return s == "" }), ", ")
	switch {
	case b.Behind == "replicates" && len(d.behind) > 0:
		note += "; grey its other replicates"
	case b.Behind == "blank" && len(d.behind) > 0:
		note += "; grey the blank before it"
	}
	w.section(w.titleOf(b, "Chromatogram", s), note, d.height)
	w.chromatogram(line, injected, d)
}

// channel is a line with the trace and the peaks of a channel of the method; without a name that of the first.
func (w *writer) channel(at int, name string) (Line, batch.Injected, bool) {
	line, injected := w.in.Lines[at], w.in.Result.Injections[at]
	if name == "" || strings.EqualFold(line.Trace.Name, name) {
		return line, injected, true
	}
	for k, f := range injected.Further {
		if strings.EqualFold(f.Trace, name) && k < len(line.Further) && line.Further[k].Len() > 0 {
			injected.Integrated = f
			line.Trace = line.Further[k]
			return line, injected, true
		}
	}
	return line, injected, false
}

// behind are the traces that stand behind a chromatogram.
func (w *writer) behind(b layouts.Block, at int) []signal.Trace {
	var list []signal.Trace
	switch b.Behind {
	case "replicates":
		for k, l := range w.in.Lines {
			if own := w.in.Lines[at]; k != at && l.Name == own.Name && l.Role == own.Role && l.Trace.Len() > 0 {
				list = append(list, l.Trace)
			}
		}
	case "blank":
		for k := at - 1; k >= 0 && len(list) == 0; k-- {
			if w.in.Lines[k].Role == batch.Blank && w.in.Lines[k].Trace.Len() > 0 {
				list = append(list, w.in.Lines[k].Trace)
			}
		}
	}
	return list
}

// How the chromatograms of a batch stand, mm.
const (
	smallBeside = 3
	smallHigh   = 24.0
)

// smallChromatograms draws every injection of a batch in little.
func (w *writer) smallChromatograms(b layouts.Block, s subject) {
	var lines []int
	for _, k := range s.lines {
		if w.in.Lines[k].Trace.Len() > 0 {
			lines = append(lines, k)
		}
	}
	w.section(w.titleOf(b, "Chromatograms", s), "each to its own height", smallHigh+10)
	if len(lines) == 0 {
		w.sentence("There is no chromatogram to print.")
		return
	}
	high := smallHigh
	if b.HeightMM > 0 {
		high = b.HeightMM
	}
	wide := (w.right - w.left) / smallBeside
	for from := 0; from < len(lines); from += smallBeside {
		w.room(high + 8)
		for k, line := range lines[from:min(len(lines), from+smallBeside)] {
			w.small(w.left+float64(k)*wide, wide-4, high, line)
		}
		w.y += high + 8
	}
}

func (w *writer) small(x, wide, high float64, line int) {
	tr := w.in.Lines[line].Trace
	f := frame{x0: x, x1: x + wide, y0: w.y + high, y1: w.y + 1, from: tr.StartS / 60, to: tr.EndS() / 60}
	points, low, top := shownOf(f, tr)
	f.low, f.high = low, math.Max(top, low+1e-9)
	w.curve(f, points, 1, 0, ink, 0.18, nil)
	p := w.page()
	p.line(f.x0, f.y0, f.x1, f.y0, 0.1, ink3)
	p.text(Text{X: x, Y: f.y0 + 3.2, Size: 6.5, Font: Sans, Text: fit(strconv.Itoa(line+1)+"  "+w.nameOf(line), Sans, 6.5, wide-16)})
	p.text(Text{X: f.x1, Y: f.y0 + 3.2, Size: 6.5, Font: Sans, Colour: ink3, Align: end, Text: batch.Significant(top, 3) + " " + tr.Unit})
}

func (w *writer) noticesBlock(b layouts.Block, s subject) {
	var list []string
	for _, n := range w.in.open() {
		if s.Each != layouts.EachBatch && !slices.ContainsFunc(s.lines, func(k int) bool { return w.in.Lines[k].ID == n.InjectionID }) {
			continue
		}
		list = append(list, fmt.Sprintf("%d  %s: %s.", len(list)+1, n.Subject, n.Text))
	}
	w.section(w.titleOf(b, "Remarks", s), "what the checks point at", 12)
	if len(list) == 0 {
		list = []string{"None."}
	}
	for _, t := range list {
		w.paragraph(t, 9, ink, 0)
	}
	w.y += 2
}

func (w *writer) recordBlock(b layouts.Block, s subject) {
	w.section(w.titleOf(b, "Record", s), "who changed what", 14)
	if len(w.in.Record) == 0 {
		w.sentence("Nothing was changed by hand, or there is no record beside these files.")
		return
	}
	var rows [][]cell
	for _, r := range w.in.Record {
		rows = append(rows, []cell{plain(strconv.FormatInt(r.Row, 10)), plain(w.in.onPaper(r.At, "2 Jan 2006, 15:04")), plain(r.Who), plain(r.What), plain(r.Why)})
	}
	w.table([]column{{head: "#", width: 10}, {head: "When, UTC", width: 28}, {head: "Who", width: 24}, {head: "What", width: 60}, {head: "Why", width: 48}}, rows, 5)
}
