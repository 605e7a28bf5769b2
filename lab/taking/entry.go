package taking

import (
	"path"
	"regexp"
	"strconv"
	"strings"

	"yugen/core/amounts"
	"yugen/core/batch"
	"yugen/formats"
)

var contentInName = regexp.MustCompile(`(\d+(?:[.,]\d+)?)\s*((?:g|mg|µg|ug|ng|pg|mmol|µmol|umol|nmol)/[mµu]?[Ll])(?:[^A-Za-z]|$)`)

// ProposedEntry fills a line of the run list from what a file says of its injection; the file name stands in for a sample
// without a name. A level that is written in a standard's name comes with its unit and is turned into that of the levels; where that cannot be, it is left open.
func ProposedEntry(fileName string, h formats.Header, levelUnit string) batch.Entry {
	e := batch.Entry{Name: strings.TrimSpace(h.SampleName), Vial: h.Vial, Dilution: 1, Factor: 1, Sample: h.SampleAmount}
	if e.Name == "" {
		e.Name = strings.TrimSuffix(fileName, path.Ext(fileName))
	}
	if r := []rune(e.Name); len(r) > 100 {
		e.Name = string(r[:100])
	}
	switch strings.ToLower(h.SampleType) {
	case "standard":
		e.Role = batch.Standard
	case "blank":
		e.Role = batch.Blank
	case "control", "check":
		e.Role = batch.Check
	case "unknown", "sample":
		e.Role = batch.Sample
	}
	if m := contentInName.FindStringSubmatch(e.Name); m != nil && e.Role == batch.Standard {
		e.Level = levelIn(m[1], m[2], levelUnit)
	}
	return e
}

// levelIn is a number with its unit, in another unit; nil where one does not become the other.
func levelIn(number, unit, in string) *float64 {
	v, err := strconv.ParseFloat(strings.Replace(number, ",", ".", 1), 64)
	if err != nil {
		return nil
	}
	from, errFrom := amounts.ParseUnit(unit)
	to, errTo := amounts.ParseUnit(in)
	if errFrom != nil || errTo != nil {
		return nil
	}
	q, err := amounts.Quantity{Value: v, Unit: from}.In(to)
	if err != nil {
		return nil
	}
	rounded, err := strconv.ParseFloat(strconv.FormatFloat(q.Value, 'g', 12, 64), 64) // powers of ten leave no dust
	if err != nil {
		return nil
	}
	return &rounded
}
