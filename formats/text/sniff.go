package text

import (
	"bytes"

	"yugen/formats"
)

// Sniff takes for text what holds no zero byte, or has two bytes a sign.
func Sniff(h formats.Head) bool {
	return h.Wide || bytes.IndexByte(h.Raw[:min(len(h.Raw), 4096)], 0) < 0
}
