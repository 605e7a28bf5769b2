package report

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"image/png"
	"strings"

	"codeberg.org/go-pdf/fpdf"
)

// Bounds of pictures: of a laboratory's mark and of one on a page in bytes, of both in pixels a side; and of the mark in mm on the page.
const (
	maxMarkBytes    = 300 << 10
	maxPictureBytes = 2 << 20
	maxPixels       = 4000
	markHeight      = 7.0
	markWidth       = 40.0
)

// ValidMark refuses what cannot stand on a report as the laboratory's mark.
func ValidMark(data []byte) error { return validPicture("the mark", data, maxMarkBytes) }

// validPicture refuses what is no whole PNG, or too large to be drawn.
func validPicture(what string, data []byte, most int) error {
	if len(data) > most {
		return fmt.Errorf("%s has %d kB; at most %d are taken", what, len(data)>>10, most>>10)
	}
	size, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil || size.Width == 0 || size.Height == 0 {
		return fmt.Errorf("%s is not a PNG picture", what)
	}
	if size.Width > maxPixels || size.Height > maxPixels {
		return fmt.Errorf("%s has %d by %d pixels; at most %d a side are taken", what, size.Width, size.Height, maxPixels)
	}
	if _, err := png.Decode(bytes.NewReader(data)); err != nil {
		return fmt.Errorf("%s is not a whole PNG picture", what)
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
