package report

import (
	"embed"
	"sync"

	"codeberg.org/go-pdf/fpdf"
)

//go:embed fonts/*.ttf
var fontFiles embed.FS

// Font names a face.
type Font string

// The faces of a report.
const (
	Sans       Font = "sans"
	SansMedium Font = "sans-medium"
	Serif      Font = "serif"
	SerifItal  Font = "serif-italic"
	SerifMed   Font = "serif-medium"
)

var faces = []struct {
	font Font
	file string
	css  string // how the page on the screen names it
}{
	{Sans, "IBMPlexSans_400Regular.ttf", "font-family:'IBM Plex Sans'"},
	{SansMedium, "IBMPlexSans_500Medium.ttf", "font-family:'IBM Plex Sans';font-weight:500"},
	{Serif, "Spectral_400Regular.ttf", "font-family:Spectral"},
	{SerifItal, "Spectral_400Regular_Italic.ttf", "font-family:Spectral;font-style:italic"},
	{SerifMed, "Spectral_500Medium.ttf", "font-family:Spectral;font-weight:500"},
}

func newPDF() (*fpdf.Fpdf, error) {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetCatalogSort(true)
	for _, f := range faces {
		data, err := fontFiles.ReadFile("fonts/" + f.file)
		if err != nil {
			return nil, err
		}
		pdf.AddUTF8FontFromBytes(string(f.font), "", data)
	}
	return pdf, pdf.Error()
}

var measuring struct {
	sync.Mutex
	pdf *fpdf.Fpdf
}

// width is the width of a text in mm.
func width(text string, font Font, size float64) float64 {
	font = faceFor(text, font)
	measuring.Lock()
	defer measuring.Unlock()
	if measuring.pdf == nil {
		pdf, err := newPDF()
		if err != nil {
			return 0
		}
		pdf.AddPage()
		measuring.pdf = pdf
	}
	measuring.pdf.SetFont(string(font), "", size)
	return measuring.pdf.GetStringWidth(printable(text, font))
}
