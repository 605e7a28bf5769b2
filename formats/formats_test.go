package formats

import (
	"errors"
	"testing"
)

// What a file is, is told by its content; a name plays no part.
func TestKinds(t *testing.T) {
	for data, want := range map[string]Kind{
		"CDF\x01\x00":                 ANDI,
		"time,signal\n0,1\n":          Text,
		"\xef\xbb\xbfZeit;Signal\n":   Text,
		"":                            Unknown,
		"\x89HDF\r\n":                 Unknown,
		"PK\x03\x04workbook":          Unknown,
		"%PDF-1.7":                    Unknown,
		"<?xml version=\"1.0\"?>":     Unknown,
		"##TITLE= spectrum\n##JCAMP=": JCAMP,
		"\xef\xbb\xbf ## title=x":     JCAMP,
		"## a remark":                 Text,
		"<?xml version=\"1.0\"?>\n<indexedmzML xmlns=": MzML,
		"<mzML version=\"1.1.0\">":                     MzML,
		"<mzMLike>":                                    Unknown,
		"numbers\x00and zeros":                         Unknown,
	} {
		got, err := KindOf([]byte(data))
		if got != want || (err == nil) != (want != Unknown) {
			t.Errorf("%q is %q, %v, want %q", data, got, err, want)
		}
		var e *Error
		if errors.As(err, &e) && e.Unsupported != (data != "") {
			t.Errorf("%q: %+v", data, e)
		}
	}
}

func TestErrorsSayWhere(t *testing.T) {
	for want, e := range map[string]*Error{
		"line 7: odd":           {Line: 7, Reason: "odd"},
		"line 7, column 2: odd": {Line: 7, Column: 2, Reason: "odd"},
		"byte 160: cut":         {Offset: 160, Reason: "cut"},
		"empty":                 {Reason: "empty"},
	} {
		if e.Error() != want {
			t.Errorf("%q, want %q", e.Error(), want)
		}
	}
}
