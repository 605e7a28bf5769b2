package andi

import (
	"bytes"

	"yugen/formats"
)

// Sniff tells a netCDF classic file by its first bytes.
func Sniff(h formats.Head) bool { return bytes.HasPrefix(h.Raw, []byte("CDF")) }
