package report

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/bidi"
)

// run is a stretch of a text that is set in one face.
type run struct {
	text  string // in reading order
	font  Font
	right bool // read from right to left
}

// wide are the faces that are asked, in this order, for characters which the wanted face does not have.
var wide = []Font{Sans, Hebrew, Thai, Han}

// runsOf parts a text by direction and by the faces that have its characters, in the order in which they stand on the line. Characters that none of them
// has, and those that control, are written as their code points: none is lost behind a box that looks like any other.
func runsOf(text string, font Font) []run {
	if uniform(text, font) {
		return []run{{text: text, font: font}}
	}
	text = named(text, font)
	var p bidi.Paragraph
	order := bidi.Ordering{}
	if _, err := p.SetString(text, bidi.DefaultDirection(bidi.LeftToRight)); err == nil {
		if ordered, err := p.Order(); err == nil {
			order = ordered
		}
	}
	if order.NumRuns() == 0 {
		return faceRuns(text, font, false)
	}
	// Runs come in reading order. Those from right to left, with the numbers among them, change places on the line.
	var list, turned []run
	for i := range order.NumRuns() {
		r := order.Run(i)
		right := r.Direction() == bidi.RightToLeft
		parts := faceRuns(r.String(), font, right)
		switch {
		case right:
			slices.Reverse(parts)
			turned = append(parts, turned...)
		case len(turned) > 0 && !strings.ContainsFunc(r.String(), leads):
			turned = append(parts, turned...)
		default:
			list = append(append(list, turned...), parts...)
			turned = nil
		}
	}
	return append(list, turned...)
}

// leads tells whether a character is of a script from left to right, as digits are not.
func leads(r rune) bool {
	p, _ := bidi.LookupRune(r)
	return p.Class() == bidi.L
}

func uniform(text string, font Font) bool {
	for _, r := range text {
		if r >= 0x80 && !has(font, r) || unicode.IsControl(r) {
			return false
		}
	}
	return true
}

// named writes what no face has as its code points, and so what would end a paragraph in the middle of a line.
func named(text string, font Font) string {
	var b strings.Builder
	for _, r := range text {
		if faceFor(r, font) == "" || unicode.In(r, unicode.Zl, unicode.Zp) {
			fmt.Fprintf(&b, "[U+%04X]", r)
		} else {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// faceRuns parts a text of one direction by faces. Marks stay with the letter that bears them, where its face has them.
func faceRuns(text string, font Font, right bool) []run {
	var list []run
	for _, r := range text {
		face := faceFor(r, font)
		last := len(list) - 1
		if last >= 0 && unicode.Is(unicode.M, r) && has(list[last].font, r) {
			face = list[last].font
		}
		if last >= 0 && list[last].font == face {
			list[last].text += string(r)
		} else {
			list = append(list, run{string(r), face, right})
		}
	}
	return list
}

// faceFor is the face that a character is set in: the one that is wanted, the sans of its weight, or the first wide one that has it; empty where none has.
func faceFor(r rune, font Font) Font {
	if unicode.IsControl(r) {
		return ""
	}
	if r < 0x80 || has(font, r) {
		return font
	}
	if font == SerifMed && has(SansMedium, r) {
		return SansMedium
	}
	for _, f := range wide {
		if has(f, r) {
			return f
		}
	}
	return ""
}

// backwards is a text from right to left as it is drawn from left to right: letters in turn, each with the marks that it bears, brackets mirrored.
func backwards(text string) string {
	var letters [][]rune
	for _, r := range text {
		if n := len(letters); n > 0 && unicode.Is(unicode.M, r) {
			letters[n-1] = append(letters[n-1], r)
			continue
		}
		if p, _ := bidi.LookupRune(r); p.IsBracket() {
			r = mirrored(r)
		}
		letters = append(letters, []rune{r})
	}
	slices.Reverse(letters)
	return string(slices.Concat(letters...))
}

func mirrored(r rune) rune {
	const pairs = "()[]{}<>"
	for i, p := range pairs {
		if p == r {
			return rune(pairs[i^1])
		}
	}
	return r
}
