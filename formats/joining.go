package formats

import (
	"path"
	"strings"
	"time"
)

// JoinedWithin is how far apart the starts of files of one injection may be.
const JoinedWithin = 10 * time.Second

// Stems are what the names of files begin with that could be of one injection with a file, in lower case: the name without its ending, and that without its
// last part ("run-07-uv" and "run-07"), which counts only for files that started within JoinedWithin of each other.
func Stems(fileName string) (whole, short string) {
	whole = strings.Map(lower, strings.TrimSuffix(fileName, path.Ext(fileName)))
	if k := strings.LastIndexAny(whole, "-_. "); k > 0 {
		short = strings.TrimRight(whole[:k], "-_. ")
	}
	return whole, short
}

// lower regards the case of A to Z alone, as a database that is searched by such a name does.
func lower(r rune) rune {
	if r >= 'A' && r <= 'Z' {
		return r + 'a' - 'A'
	}
	return r
}

// OneInjection tells whether two files are of one injection: they have the same name and another ending, and do not contradict it by their starts; or the
// same name up to its last part, and started within seconds of each other.
func OneInjection(nameA string, a Header, nameB string, b Header) bool {
	wholeA, shortA := Stems(nameA)
	wholeB, shortB := Stems(nameB)
	known := a.AcquiredAt != nil && b.AcquiredAt != nil
	near := known && a.AcquiredAt.Sub(*b.AcquiredAt).Abs() <= JoinedWithin
	if wholeA == wholeB {
		return (near || !known) && !strings.EqualFold(nameA, nameB)
	}
	return near && (shortA != "" && shortA == shortB || wholeA == shortB || shortA == wholeB)
}

// Join adds the signals of a further file of the same injection.
func (f *File) Join(other File) {
	f.Traces = append(f.Traces, other.Traces...)
	f.Channels = append(f.Channels, other.Channels...)
	f.Spectra = append(f.Spectra, other.Spectra...)
	f.Peaks = append(f.Peaks, other.Peaks...)
	f.Outlines = append(f.Outlines, other.Outlines...)
}
