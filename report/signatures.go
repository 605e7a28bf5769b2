package report

import (
	"fmt"
	"strings"
	"time"
)

// unlocked is when a signature was withdrawn last; nil where none ever was.
func (in Input) unlocked() (gone *Withdrawn) {
	for _, s := range in.Signed {
		if s.Gone != nil && (gone == nil || s.Gone.At.After(gone.At)) {
			gone = s.Gone
		}
	}
	return gone
}

func (in Input) onDay(at time.Time) string { return in.onPaper(at, "2 Jan 2006, 15:04 MST") }

// signatures are those that were given, and below them what was withdrawn. Where nobody signed they are lines to sign on, beside each other.
func (w *writer) signatures(roles []string) {
	if len(w.in.Signed) == 0 {
		w.linesToSign(roles)
		return
	}
	var standing, gone []Signature
	for _, s := range w.in.Signed {
		if s.Gone == nil {
			standing = append(standing, s)
		} else {
			gone = append(gone, s)
		}
	}
	if len(standing) == 0 {
		w.linesToSign(roles)
	}
	const across = 3
	for from := 0; from < len(standing); from += across {
		w.room(26)
		w.y += 6
		each := (w.right - w.left) / across
		for k, s := range standing[from:min(from+across, len(standing))] {
			w.signature(s, w.left+float64(k)*each, each-5)
		}
		w.y += 17
	}
	for _, s := range gone {
		w.paragraph(fmt.Sprintf("Signed as %s by %s, %s; withdrawn %s by %s: %s", s.Meaning, s.Name, w.in.onDay(s.At), w.in.onDay(s.Gone.At), s.Gone.Who, s.Gone.Why), 7.5, ink2, 0)
	}
}

// unlocking writes on every page, whatever its layout, that signatures were withdrawn.
func (w *writer) unlocking() {
	gone := w.in.unlocked()
	if gone == nil {
		return
	}
	text := fmt.Sprintf("Unlocked %s by %s: %s", w.in.onDay(gone.At), gone.Who, gone.Why)
	for _, p := range w.pages {
		p.text(Text{X: w.sheet.left, Y: p.Height - 6, Size: 6.5, Font: SansMedium, Colour: ink2, Text: fit(text, SansMedium, 6.5, w.sheet.right-w.sheet.left)})
	}
}

// signature is one with its mark, its meaning, its moment and the beginning of its seal.
func (w *writer) signature(s Signature, x, wide float64) {
	p, y := w.page(), w.y
	p.seal(x, y-3.2)
	p.text(Text{X: x + 5, Y: y, Size: 10, Font: Serif, Text: fit(s.Name, Serif, 10, wide-5)})
	p.text(Text{X: x + 5, Y: y + 3.8, Size: 7, Font: SansMedium, Colour: ink2, Text: s.Meaning + ", " + w.in.onDay(s.At)})
	p.text(Text{X: x + 5, Y: y + 7.2, Size: 6.5, Font: Sans, Colour: ink3, Text: fit(s.Words, Sans, 6.5, wide-5)})
	p.text(Text{X: x + 5, Y: y + 10.4, Size: 6.5, Font: Sans, Colour: ink3, Text: "seal " + grouped(s.Seal)})
	var not []string
	if s.Alone {
		not = append(not, "not independent")
	}
	if !s.Proven {
		not = append(not, "not proven by a password")
	}
	p.text(Text{X: x + 5, Y: y + 13.4, Size: 6.5, Font: Sans, Colour: ink2, Text: strings.Join(not, ", ")})
}

// seal is the mark of a signature: a filled square with a ridge.
func (p *Page) seal(x, y float64) {
	const size = 3.6
	p.path(Path{Points: [][2]float64{{x, y}, {x + size, y}, {x + size, y + size}, {x, y + size}}, Fill: ink2})
	p.path(Path{Points: [][2]float64{{x + 0.5, y + 2.9}, {x + 1.2, y + 2.6}, {x + 1.8, y + 0.7}, {x + 2.4, y + 2.6}, {x + 3.1, y + 2.9}}, Stroke: "#FFFFFF", Width: 0.3})
}

// grouped are the first signs of a seal in fours, to be compared by eye.
func grouped(seal string) string {
	const groups = 4
	var parts []string
	for k := 0; k+4 <= len(seal) && len(parts) < groups; k += 4 {
		parts = append(parts, seal[k:k+4])
	}
	return strings.Join(parts, " ")
}

// linesToSign are lines to sign on, beside each other.
func (w *writer) linesToSign(roles []string) {
	if len(roles) == 0 {
		roles = []string{strings.TrimSpace("Analysed by " + w.in.MadeBy), "Reviewed by"}
	}
	w.room(24)
	w.y += 14
	each := (w.right - w.left) / float64(max(2, len(roles)))
	for i, who := range roles {
		x := w.left + float64(i)*each
		w.page().line(x, w.y, x+each-7, w.y, 0.25, ink2)
		w.page().text(Text{X: x, Y: w.y + 4, Size: 8, Font: Serif, Colour: ink2, Text: fit(who, Serif, 8, each-7)})
	}
	w.y += 8
}
