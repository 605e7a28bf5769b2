package read

import (
	"bytes"

	"yugen/formats"
)

// unsupported are kinds that are told by their first bytes and are not read, with what to do.
var unsupported = []struct{ magic, what, instead string }{
	{"\x89HDF", "a file of the HDF5 family, as netCDF 4 is", "write it as netCDF classic, or as text with a time and a signal column"},
	{"PK\x03\x04", "a packed file or a workbook", "unpack it, or save the sheet as text with a time and a signal column"},
	{"\x1f\x8b", "a packed file", "unpack it first"},
	{"%PDF", "a PDF, which holds pictures of numbers", "take the chromatogram out of its source as ANDI or text"},
	{"\x89PNG", "a picture", "take the chromatogram out of its source as ANDI or text"},
	{"\xff\xd8\xff", "a picture", "take the chromatogram out of its source as ANDI or text"},
	{"<", "a file of markup, such as XML or a web page", "write it as ANDI or as text with a time and a signal column"},
	{"{", "a JSON document", "write it as text with a time and a signal column"},
}

// unsupportedBy says what a file looks like that is not read; nil where it looks like none of these.
func unsupportedBy(h formats.Head) error {
	for _, u := range unsupported {
		if bytes.HasPrefix(h.Text, []byte(u.magic)) {
			return &formats.Error{Unsupported: true, Reason: "this looks like " + u.what + ", which is not read; " + u.instead}
		}
	}
	return nil
}
