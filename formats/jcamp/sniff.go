package jcamp

import (
	"regexp"

	"yugen/formats"
)

var titleFirst = regexp.MustCompile(`(?i)^##\s*TITLE\s*=`)

// Sniff tells a JCAMP-DX file by its first record, the title.
func Sniff(h formats.Head) bool { return titleFirst.Match(h.Text[:min(len(h.Text), 200)]) }
