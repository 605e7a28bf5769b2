package bench

import (
	"bytes"
	"math"
	"testing"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
)

// The files of the aroma study hold what was simulated: the areas of the total ion, the spectra at the apexes, and the index that tells two twins apart.
func TestTheAromaMeetsItsTruth(t *testing.T) {
	s, err := TeaAroma(3)
	if err != nil {
		t.Fatal(err)
	}
	again, err := TeaAroma(3)
	if err != nil || len(s.Files) != AromaFiles || !bytes.Equal(s.Files[12].Data, again.Files[12].Data) {
		t.Fatalf("%d files, %v, or not the same again", len(s.Files), err)
	}
	size := 0
	for _, f := range s.Files {
		size += len(f.Data)
	}
	if size > 36<<20 {
		t.Errorf("the files are of %d MB", size>>20)
	}
	library := spectra.NewLibrary(Volatiles(), spectra.Usual)
	found, looked := 0, 0
	for _, k := range []int{2, 19} { // a mix as ANDI, the Darjeeling as mzML
		f, err := read.From(bytes.NewReader(s.Files[k].Data), int64(len(s.Files[k].Data)), text.AxisGuessed, formats.Usual, nil)
		if err != nil {
			t.Fatal(s.Files[k].Name, err)
		}
		run := f.Spectra[0]
		for _, c := range s.Truth[k].Components {
			apex := spectra.Between(run.Scans, 60*c.RetentionMin-1.3, 60*c.RetentionMin+1.3)
			before := spectra.Between(run.Scans, 60*c.RetentionMin-13, 60*c.RetentionMin-9)
			lines := spectra.Mean(spectra.Mass, apex, spectra.Apart(apex)).Less(spectra.Mass, spectra.Mean(spectra.Mass, before, 0.3), 0.3)
			hits := library.Search(lines, spectra.UsualWithin, 3)
			looked++
			for _, h := range hits {
				e := library.Entries[h.Place]
				if e.ID == c.Compound && h.Forward > 0.8 {
					found++
				}
			}
		}
	}
	if float64(found) < 0.9*float64(looked) {
		t.Errorf("%d of %d compounds are among the first three hits", found, looked)
	}
}

// The library of the demo is whole: every entry has lines, an index and a name of its own, and is its own best hit by far; nerol and geraniol are twins on purpose.
func TestTheLibraryOfTheDemo(t *testing.T) {
	entries := Volatiles()
	library := spectra.NewLibrary(entries, spectra.Usual)
	names := map[string]bool{}
	for k, e := range entries {
		if len(e.Lines) < 6 || e.Index == nil || names[e.Name] || e.Lines.Largest() != 999 {
			t.Errorf("%s: %d lines, index %v", e.Name, len(e.Lines), e.Index)
		}
		names[e.Name] = true
		if hits := library.Search(e.Lines, spectra.UsualWithin, 2); hits[0].Place != k || math.Abs(hits[0].Forward-1) > 1e-12 || hits[1].Forward > 0.99 {
			t.Errorf("%s is most like %s, and then %s by %g", e.Name, entries[hits[0].Place].Name, entries[hits[1].Place].Name, hits[1].Forward)
		}
	}
	if len(entries) < 60 {
		t.Errorf("%d entries", len(entries))
	}
}
