package report

import (
	"fmt"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/image/font/sfnt"
)

// covered remembers which characters each face has.
var covered struct {
	sync.Mutex
	faces map[Font]*sfnt.Font
	known map[Font]map[rune]bool
}

// faceFor is the face that a text is set in: the one that is wanted, or the sans of its weight where that one lacks characters which the sans has.
func faceFor(text string, font Font) Font {
	other := Sans
	if font == SerifMed {
		other = SansMedium
	}
	for _, r := range text {
		if r >= 0x80 && !has(font, r) && has(other, r) {
			return other
		}
	}
	return font
}

// printable writes characters that a face does not have as their code points, so that none is lost behind a box that looks like any other.
func printable(text string, font Font) string {
	odd := func(r rune) bool { return r >= 0x80 && !has(font, r) || unicode.IsControl(r) }
	if !strings.ContainsFunc(text, odd) {
		return text
	}
	var b strings.Builder
	for _, r := range text {
		if odd(r) {
			fmt.Fprintf(&b, "[U+%04X]", r)
		} else {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// has tells whether a face has a character. The writer of PDF knows those of the basic plane only.
func has(font Font, r rune) bool {
	if r > 0xFFFF {
		return false
	}
	covered.Lock()
	defer covered.Unlock()
	if known, ok := covered.known[font][r]; ok {
		return known
	}
	if covered.faces == nil {
		covered.faces, covered.known = map[Font]*sfnt.Font{}, map[Font]map[rune]bool{}
	}
	face := covered.faces[font]
	if face == nil {
		for _, f := range faces {
			if f.font != font {
				continue
			}
			data, err := fontFiles.ReadFile("fonts/" + f.file)
			if err != nil {
				return false
			}
			if face, err = sfnt.Parse(data); err != nil {
				return false
			}
		}
		covered.faces[font], covered.known[font] = face, map[rune]bool{}
	}
	if face == nil {
		return false
	}
	var buffer sfnt.Buffer
	glyph, err := face.GlyphIndex(&buffer, r)
	covered.known[font][r] = err == nil && glyph != 0
	return covered.known[font][r]
}
