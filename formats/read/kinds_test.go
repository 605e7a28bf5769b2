package read

import (
	"bytes"
	"errors"
	"strings"
	"testing"

	"yugen/formats"
	"yugen/formats/text"
)

// What a file is, is told by its content; a name plays no part.
func TestKinds(t *testing.T) {
	for data, want := range map[string]formats.Kind{
		"CDF\x01\x00":                 formats.ANDI,
		"time,signal\n0,1\n":          formats.Text,
		"\xef\xbb\xbfZeit;Signal\n":   formats.Text,
		"":                            formats.Unknown,
		"\x89HDF\r\n":                 formats.Unknown,
		"PK\x03\x04workbook":          formats.Unknown,
		"%PDF-1.7":                    formats.Unknown,
		"<?xml version=\"1.0\"?>":     formats.Unknown,
		"##TITLE= spectrum\n##JCAMP=": formats.JCAMP,
		"\xef\xbb\xbf ## title=x":     formats.JCAMP,
		"## a remark":                 formats.Text,
		"<?xml version=\"1.0\"?>\n<indexedmzML xmlns=": formats.MzML,
		"<mzML version=\"1.1.0\">":                     formats.MzML,
		"<mzMLike>":                                    formats.Unknown,
		"numbers\x00and zeros":                         formats.Unknown,
	} {
		got, err := KindOf([]byte(data))
		if got != want || (err == nil) != (want != formats.Unknown) {
			t.Errorf("%q is %q, %v, want %q", data, got, err, want)
		}
		var e *formats.Error
		if errors.As(err, &e) && e.Unsupported != (data != "") {
			t.Errorf("%q: %+v", data, e)
		}
	}
}

// A file is bounded before it is read, and one that ends before its size says so.
func TestLimitsHoldBeforeReading(t *testing.T) {
	table := "time_min,x\n" + strings.Repeat("1,1\n", 50)
	if _, err := From(strings.NewReader(table), int64(len(table)), text.AxisGuessed, formats.Limits{Bytes: 10}, nil); err == nil || !strings.Contains(err.Error(), "are read") {
		t.Errorf("a file above the limit: %v", err)
	}
	if _, err := From(strings.NewReader(table), int64(len(table))+5, text.AxisGuessed, formats.Usual, nil); err == nil {
		t.Error("a file that is shorter than it says is read")
	}
	good := "time_min,x\n0,1\n1,2\n2,3\n3,4\n4,5\n5,6\n6,7\n7,8\n"
	f, err := From(bytes.NewReader([]byte(good)), int64(len(good)), text.AxisGuessed, formats.Usual, nil)
	if err != nil || len(f.Traces) != 1 {
		t.Errorf("%v", err)
	}
}
