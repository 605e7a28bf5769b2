package mzml

import (
	"bytes"
	"regexp"

	"yugen/formats"
)

var root = regexp.MustCompile(`<(?:indexedmzML|mzML)[\s>]`)

// Sniff tells an mzML document by its root element.
func Sniff(h formats.Head) bool {
	return bytes.HasPrefix(h.Text, []byte("<")) && root.Match(h.Text[:min(len(h.Text), 4096)])
}
