package andi

import (
	"bytes"

	"yugen/core/spectra"
	"yugen/formats"
)

// whole reads a file that lies in memory, with its spectra.
func whole(data []byte) (formats.File, error) {
	return formats.Completed(nil, func(to spectra.Taker) (formats.File, error) {
		return Read(bytes.NewReader(data), int64(len(data)), formats.Usual, to)
	})
}
