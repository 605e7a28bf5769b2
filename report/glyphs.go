package report

import (
	"sync"

	"golang.org/x/image/font/sfnt"
)

// covered remembers which characters each face has.
var covered struct {
	sync.Mutex
	faces map[Font]*sfnt.Font
	known map[Font]map[rune]bool
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
