package jcamp

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
)

// Write encodes channels and spectra; several become the blocks of a LINK. Every number is written with all its digits, so that it reads back to the last bit.
func Write(f formats.File) []byte {
	var b bytes.Buffer
	blocks := len(f.Channels) + len(f.Spectra)
	if blocks > 1 {
		record := labels(&b)
		record("TITLE", title(f.Header.SampleName))
		record("JCAMP-DX", "5.01")
		record("DATA TYPE", "LINK")
		record("BLOCKS", strconv.Itoa(blocks))
	}
	for _, c := range f.Channels {
		channel(&b, f.Header, c)
	}
	for _, r := range f.Spectra {
		scans(&b, f.Header, r)
	}
	if blocks > 1 {
		b.WriteString("##END=\n")
	}
	return b.Bytes()
}

// notSaid stands for a record that the standard asks for and the file does not know.
const notSaid = "not said"

// labels writes labelled data records; a value is kept from looking like another record or a remark.
func labels(b *bytes.Buffer) func(label, value string) {
	return func(label, value string) {
		value = strings.NewReplacer("\r", " ", "\n", " ", "##", "# #", "$$", "$ $").Replace(value)
		fmt.Fprintf(b, "##%s= %s\n", label, value)
	}
}

func title(name string) string { return first(name, "untitled") }

func head(b *bytes.Buffer, h formats.Header, name, kind string) func(label, value string) {
	record := labels(b)
	record("TITLE", title(name))
	record("JCAMP-DX", "5.01")
	record("DATA TYPE", kind)
	record("ORIGIN", "Yugen")
	record("OWNER", first(h.Operator, notSaid))
	record("SAMPLE DESCRIPTION", h.SampleName) // also where it is empty, so that no title is taken for it
	if h.AcquiredAt != nil {
		record("LONGDATE", h.AcquiredAt.Format("2006/01/02 15:04:05"))
	}
	return record
}

func exact(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }

func channel(b *bytes.Buffer, h formats.Header, c formats.Channel) {
	record := head(b, h, c.Name, "CHROMATOGRAM")
	record("XUNITS", "SECONDS")
	record("YUNITS", first(c.Unit, "ARBITRARY UNITS"))
	record("XFACTOR", "1")
	record("YFACTOR", "1")
	record("NPOINTS", strconv.Itoa(len(c.Values)))
	if n := len(c.Values); n > 0 {
		record("FIRSTX", exact(c.TimesS[0]))
		record("LASTX", exact(c.TimesS[n-1]))
	}
	record("XYPOINTS", "(XY..XY)")
	writePoints(b, c.TimesS, c.Values)
	b.WriteString("##END=\n")
}

func writePoints(b *bytes.Buffer, xs, ys []float64) {
	for i := range xs {
		fmt.Fprintf(b, "%s,%s\n", exact(xs[i]), exact(ys[i]))
	}
}

func scans(b *bytes.Buffer, h formats.Header, r spectra.Run) {
	kind, axis, symbol, unit := "MASS SPECTRUM", "MASS", "X", "M/Z"
	if r.Kind == spectra.Wavelength {
		kind, axis, unit = "UV/VIS SPECTRUM", "WAVELENGTH", "NANOMETERS"
	}
	record := head(b, h, h.SampleName, kind)
	record("NTUPLES", kind)
	record("VAR_NAME", axis+", INTENSITY, RETENTION TIME")
	record("SYMBOL", symbol+", Y, T")
	record("VAR_TYPE", "INDEPENDENT, DEPENDENT, INDEPENDENT")
	record("VAR_FORM", "AFFN, AFFN, AFFN")
	record("UNITS", unit+", "+first(r.Unit, "ARBITRARY UNITS")+", SECONDS")
	record("FACTOR", "1, 1, 1")
	for _, s := range r.Scans {
		record("PAGE", "T= "+exact(s.TimeS))
		record("NPOINTS", strconv.Itoa(len(s.Axis)))
		record("DATA TABLE", "(XY..XY), PEAKS")
		writePoints(b, s.Axis, s.Values)
	}
	record("END NTUPLES", kind)
	b.WriteString("##END=\n")
}
