package mzml

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/xml"
	"fmt"
	"math"
	"strconv"
	"time"

	"yugen/core/spectra"
	"yugen/formats"

	"github.com/klauspost/compress/zlib"
)

// Write encodes channels and spectra as mzML 1.1.0 with 64-bit numbers, packed by zlib, so that every number reads back to the last bit.
func Write(f formats.File) ([]byte, error) {
	w := &writer{}
	w.line(`<?xml version="1.0" encoding="UTF-8"?>`)
	w.line(`<mzML xmlns="http://psi.hupo.org/ms/mzml" version="1.1.0">`)
	w.line(`<cvList count="2"><cv id="MS" fullName="Proteomics Standards Initiative Mass Spectrometry Ontology" URI="psi-ms.obo"/><cv id="UO" fullName="Unit Ontology" URI="unit.obo"/></cvList>`)
	w.line(`<fileDescription><fileContent/>`)
	if f.Header.Operator != "" {
		w.line(`<contact>`)
		w.cv(contactName, "contact name", f.Header.Operator, "")
		w.line(`</contact>`)
	}
	w.line(`</fileDescription>`)
	w.line(`<sampleList count="1"><sample id="sample" name=%s>`, quoted(f.Header.SampleName))
	if f.Header.SampleID != "" {
		w.cv(sampleNumber, "sample number", f.Header.SampleID, "")
	}
	if f.Header.Vial != "" {
		w.line(`<userParam name="vial" value=%s/>`, quoted(f.Header.Vial))
	}
	w.line(`</sample></sampleList>`)
	w.line(`<softwareList count="1"><software id="Yugen" version="1"/></softwareList>`)
	w.line(`<instrumentConfigurationList count="1"><instrumentConfiguration id="IC1"/></instrumentConfigurationList>`)
	w.line(`<dataProcessingList count="1"><dataProcessing id="DP1"><processingMethod order="0" softwareRef="Yugen"/></dataProcessing></dataProcessingList>`)
	start := ""
	if f.Header.AcquiredAt != nil {
		start = ` startTimeStamp="` + f.Header.AcquiredAt.Format(time.RFC3339) + `"`
	}
	w.line(`<run id="run" defaultInstrumentConfigurationRef="IC1" sampleRef="sample"%s>`, start)
	w.spectra(f.Spectra)
	w.chromatograms(f.Channels)
	w.line(`</run>`)
	w.line(`</mzML>`)
	return w.Bytes(), w.err
}

type writer struct {
	bytes.Buffer
	packed bytes.Buffer
	zipped *zlib.Writer
	err    error
}

func (w *writer) line(format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }

func quoted(text string) string {
	var b bytes.Buffer
	b.WriteByte('"')
	_ = xml.EscapeText(&b, []byte(text)) // a buffer takes everything
	b.WriteByte('"')
	return b.String()
}

func (w *writer) cv(term, name, value, more string) {
	w.line(`<cvParam cvRef="MS" accession="%s" name=%s value=%s%s/>`, term, quoted(name), quoted(value), more)
}

const inSeconds = ` unitCvRef="UO" unitAccession="UO:0000010" unitName="second"`

func (w *writer) spectra(runs []spectra.Run) {
	n := 0
	for _, r := range runs {
		n += len(r.Scans)
	}
	if n == 0 {
		return
	}
	w.line(`<spectrumList count="%d" defaultDataProcessingRef="DP1">`, n)
	n = 0
	for _, r := range runs {
		for _, s := range r.Scans {
			w.spectrum(n, r, s)
			n++
		}
	}
	w.line(`</spectrumList>`)
}

func (w *writer) spectrum(n int, r spectra.Run, s spectra.Scan) {
	w.line(`<spectrum index="%d" id="scan=%d" defaultArrayLength="%d">`, n, n+1, len(s.Axis))
	axis, name := mzArray, "m/z array"
	if r.Kind == spectra.Wavelength {
		axis, name = wavelengthArray, "wavelength array"
		w.cv(radiation, "electromagnetic radiation spectrum", "", "")
	} else {
		w.cv(msLevel, "ms level", strconv.Itoa(r.Level), "")
		if r.Profile {
			w.cv(profile, "profile spectrum", "", "")
		} else {
			w.cv(centroid, "centroid spectrum", "", "")
		}
	}
	switch r.Polarity {
	case spectra.Positive:
		w.cv(positive, "positive scan", "", "")
	case spectra.Negative:
		w.cv(negative, "negative scan", "", "")
	}
	w.line(`<scanList count="1"><scan>`)
	w.cv(scanTime, "scan start time", strconv.FormatFloat(s.TimeS, 'g', -1, 64), inSeconds)
	w.line(`</scan></scanList>`)
	if s.Precursor > 0 {
		w.line(`<precursorList count="1"><precursor><selectedIonList count="1"><selectedIon>`)
		w.cv(selectedMZ, "selected ion m/z", strconv.FormatFloat(s.Precursor, 'g', -1, 64), "")
		w.line(`</selectedIon></selectedIonList></precursor></precursorList>`)
	}
	w.line(`<binaryDataArrayList count="2">`)
	w.array(axis, name, "", s.Axis)
	w.array(intensityArray, "intensity array", r.Unit, s.Values)
	w.line(`</binaryDataArrayList></spectrum>`)
}

func (w *writer) chromatograms(channels []formats.Channel) {
	if len(channels) == 0 {
		return
	}
	w.line(`<chromatogramList count="%d" defaultDataProcessingRef="DP1">`, len(channels))
	for i, c := range channels {
		w.line(`<chromatogram index="%d" id=%s defaultArrayLength="%d">`, i, quoted(c.Name), len(c.Values))
		if c.Kind == formats.Condition {
			w.cv(pressureTrace, "pressure chromatogram", "", "")
		}
		w.line(`<binaryDataArrayList count="2">`)
		w.array(timeArray, "time array", "second", c.TimesS)
		w.array(intensityArray, "intensity array", c.Unit, c.Values)
		w.line(`</binaryDataArrayList></chromatogram>`)
	}
	w.line(`</chromatogramList>`)
}

func (w *writer) array(term, name, unit string, values []float64) {
	raw := make([]byte, 0, 8*len(values))
	for _, v := range values {
		raw = binary.LittleEndian.AppendUint64(raw, math.Float64bits(v))
	}
	w.packed.Reset()
	if w.zipped == nil { // one for all arrays: it takes more memory than most of them
		w.zipped, _ = zlib.NewWriterLevel(&w.packed, zlib.BestSpeed) // fails only for a level that is none
	} else {
		w.zipped.Reset(&w.packed)
	}
	if _, err := w.zipped.Write(raw); err != nil && w.err == nil {
		w.err = err
	}
	if err := w.zipped.Close(); err != nil && w.err == nil {
		w.err = err
	}
	text := base64.StdEncoding.EncodeToString(w.packed.Bytes())
	more := ""
	switch {
	case unit == "second":
		more = inSeconds
	case unit != "":
		more = ` unitName=` + quoted(unit)
	}
	w.line(`<binaryDataArray encodedLength="%d">`, len(text))
	w.cv(float64s, "64-bit float", "", "")
	w.cv(zlibbed, "zlib compression", "", "")
	w.cv(term, name, "", more)
	w.line(`<binary>%s</binary></binaryDataArray>`, text)
}
