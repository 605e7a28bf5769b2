package jcamp

import (
	"fmt"
	"slices"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
)

// maxEntries bounds the spectra of a library.
const maxEntries = 1_000_000

// Library reads the blocks of a file as entries of a library, one for each spectrum of masses or wavelengths: its title is the name. Blocks of other kinds are
// left out; one that is damaged is told with its line.
func Library(data []byte) ([]spectra.Entry, error) {
	var list []spectra.Entry
	var block []record
	for _, r := range records(string(data)) {
		if r.label == "TITLE" {
			block = nil
		}
		if r.label != "END" {
			block = append(block, r)
			continue
		}
		entry, is, err := entryOf(block)
		if err != nil {
			return nil, err
		}
		block = nil
		if !is {
			continue
		}
		if entry.ID == "" {
			entry.ID = fmt.Sprint(len(list) + 1)
		}
		if list = append(list, entry); len(list) > maxEntries {
			return nil, &formats.Error{Line: r.at, Reason: fmt.Sprintf("more than %d spectra", maxEntries)}
		}
	}
	if len(list) == 0 {
		return nil, &formats.Error{Reason: "there is no spectrum in it: no block with a PEAK TABLE, XYPOINTS, XYDATA or NTUPLES of masses"}
	}
	return list, nil
}

// entryOf is the first spectrum of a block, with what its labels say of the compound.
func entryOf(block []record) (spectra.Entry, bool, error) {
	if !slices.ContainsFunc(block, func(r record) bool {
		return slices.Contains([]string{"NTUPLES", "XYDATA", "XYPOINTS", "PEAKTABLE"}, r.label)
	}) {
		return spectra.Entry{}, false, nil
	}
	var file formats.File
	if err := readBlock(block, &file); err != nil {
		return spectra.Entry{}, false, err
	}
	if len(file.Spectra) == 0 {
		return spectra.Entry{}, false, nil
	}
	f := fields{}
	for _, r := range block {
		f[r.label] = r
	}
	scan := file.Spectra[0].Scans[0]
	pairs := make([][2]float64, len(scan.Axis))
	for k := range pairs {
		pairs[k] = [2]float64{scan.Axis[k], scan.Values[k]}
	}
	lines, err := spectra.SpectrumOf(file.Spectra[0].Kind, pairs)
	if err != nil {
		return spectra.Entry{}, false, &formats.Error{Line: block[0].at, Reason: f.text("TITLE") + ": " + err.Error()}
	}
	e := spectra.Entry{ID: f.text("SPECTRUMID"), Name: first(f.text("NAMES"), f.text("TITLE")), Kind: file.Spectra[0].Kind, Lines: lines, Formula: f.text("MOLFORM"), Source: first(f.text("SOURCEREFERENCE"), f.text("ORIGIN")), Conditions: f.text("$CONDITIONS")}
	if e.Source == notSaid {
		e.Source = ""
	}
	if e.Mass, err = f.number("MW", 0); err != nil {
		return e, false, err
	}
	if text := f.text("$RETENTIONINDEX"); text != "" {
		index, err := f.number("$RETENTIONINDEX", 0)
		if err != nil {
			return e, false, err
		}
		e.Index = &index
	}
	return e, true, nil
}

// WriteLibrary writes entries as the blocks of a LINK, each a peak table.
func WriteLibrary(name string, entries []spectra.Entry) []byte {
	var b strings.Builder
	record := func(label, value string) {
		if value != "" {
			fmt.Fprintf(&b, "##%s=%s\n", label, oneLine.Replace(value))
		}
	}
	record("TITLE", first(name, "library"))
	record("JCAMP-DX", "5.00")
	record("DATA TYPE", "LINK")
	record("BLOCKS", fmt.Sprint(len(entries)+1))
	for _, e := range entries {
		record("TITLE", first(e.Name, "untitled"))
		record("JCAMP-DX", "5.00")
		unit, kind := "M/Z", "MASS SPECTRUM"
		if e.Kind == spectra.Wavelength {
			unit, kind = "NANOMETERS", "UV/VIS SPECTRUM"
		}
		record("DATA TYPE", kind)
		record("DATA CLASS", "PEAK TABLE")
		record("ORIGIN", first(e.Source, notSaid))
		record("OWNER", notSaid)
		record("SPECTRUM ID", e.ID)
		record("NAMES", e.Name)
		record("MOLFORM", e.Formula)
		if e.Mass > 0 {
			record("MW", exact(e.Mass))
		}
		if e.Index != nil {
			record("$RETENTION INDEX", exact(*e.Index))
		}
		record("$CONDITIONS", e.Conditions)
		record("XUNITS", unit)
		record("YUNITS", "RELATIVE ABUNDANCE")
		record("XFACTOR", "1")
		record("YFACTOR", "1")
		record("NPOINTS", fmt.Sprint(len(e.Lines)))
		b.WriteString("##PEAK TABLE=(XY..XY)\n")
		for _, l := range e.Lines {
			fmt.Fprintf(&b, "%s,%s\n", exact(l.At), exact(l.Height))
		}
		b.WriteString("##END=\n")
	}
	b.WriteString("##END=\n")
	return []byte(b.String())
}

// oneLine keeps a text from being taken for further records or remarks.
var oneLine = strings.NewReplacer("\n", " ", "\r", " ", "$$", "$ $")
