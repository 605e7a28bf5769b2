package formats

import (
	"path"
	"strings"
	"time"
)

// joinedWithin is how far apart the starts of files of one injection may be.
const joinedWithin = 10 * time.Second

// stems are the name of a file without its ending, and that without its last part: "run-07-uv" and "run-07".
func stems(fileName string) (whole, short string) {
	whole = strings.ToLower(strings.TrimSuffix(fileName, path.Ext(fileName)))
	if k := strings.LastIndexAny(whole, "-_. "); k > 0 {
		short = strings.TrimRight(whole[:k], "-_. ")
	}
	return whole, short
}

// SharedStem is what the names of all files begin with that could be of one injection with a file, in lower case.
func SharedStem(fileName string) string {
	whole, short := stems(fileName)
	if short == "" {
		return whole
	}
	return short
}

// OneInjection tells whether two files are of one injection: they have the same name and another ending, and do not contradict it by their starts; or the
// same name up to its last part, and started within seconds of each other.
func OneInjection(nameA string, a Header, nameB string, b Header) bool {
	wholeA, shortA := stems(nameA)
	wholeB, shortB := stems(nameB)
	known := a.AcquiredAt != nil && b.AcquiredAt != nil
	near := known && a.AcquiredAt.Sub(*b.AcquiredAt).Abs() <= joinedWithin
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
