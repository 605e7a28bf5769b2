package report

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"image/png"
	"strings"

	"codeberg.org/go-pdf/fpdf"
)

// Bounds of a laboratory's mark: in bytes, in pixels a side, and in mm on the page.
const (
	maxMarkBytes  = 300 << 10
	maxMarkPixels = 4000
	markHeight    = 7.0
	markWidth     = 40.0
)

// ValidMark refuses what cannot stand on a report.
func ValidMark(data []byte) error {
	if len(data) > maxMarkBytes {
		return fmt.Errorf("the mark has %d kB; at most %d are taken", len(data)>>10, maxMarkBytes>>10)
	}
	size, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return errors.New("the mark is not a PNG picture")
	}
	if size.Width > maxMarkPixels || size.Height > maxMarkPixels {
		return fmt.Errorf("the mark has %d by %d pixels; at most %d a side are taken", size.Width, size.Height, maxMarkPixels)
	}
	if _, err := png.Decode(bytes.NewReader(data)); err != nil {
		return errors.New("the mark is not a whole PNG picture")
	}
	return nil
}

// mark puts the laboratory's mark on a page, from x, standing on y, and gives how much room it took, mm.
func (p *Page) mark(data []byte, x, y float64) float64 {
	if len(data) == 0 {
		return 0
	}
	size, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil || size.Height == 0 {
		return 0 // it was checked when it was set
	}
	height := markHeight
	wide := height * float64(size.Width) / float64(size.Height)
	if wide > markWidth {
		wide, height = markWidth, height*markWidth/wide
	}
	p.Items = append(p.Items, Item{Picture: &Picture{x, y - height, wide, height, data}})
	return wide + 3
}

func (i *Picture) pdf(pdf *fpdf.Fpdf) {
	name := fmt.Sprintf("%x", sha256.Sum256(i.PNG))
	options := fpdf.ImageOptions{ImageType: "PNG"}
	if pdf.GetImageInfo(name) == nil {
		pdf.RegisterImageOptionsReader(name, options, bytes.NewReader(i.PNG))
	}
	pdf.ImageOptions(name, i.X, i.Y, i.Width, i.Height, false, options, 0, "")
}

func (i *Picture) svg(b *strings.Builder) {
	fmt.Fprintf(b, `<image preserveAspectRatio="none" x="%.3f" y="%.3f" width="%.3f" height="%.3f" href="data:image/png;base64,%s"/>`, i.X, i.Y, i.Width, i.Height, base64.StdEncoding.EncodeToString(i.PNG))
}
