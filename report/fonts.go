package report

import (
	"embed"
	"strings"
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
	Hebrew     Font = "hebrew"
	Thai       Font = "thai"
	Han        Font = "han" // and kana
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
	{Hebrew, "IBMPlexSansHebrew_400Regular.ttf", "font-family:'IBM Plex Sans Hebrew'"},
	{Thai, "IBMPlexSansThai_400Regular.ttf", "font-family:'IBM Plex Sans Thai'"},
	{Han, "DroidSansFallbackFull.ttf", "font-family:'Droid Sans Fallback'"},
}

// FontFile is a font as the screen needs it too; nil where there is none of that name.
func FontFile(name string) []byte {
	data, err := fontFiles.ReadFile("fonts/" + name)
	if err != nil || !strings.HasSuffix(name, ".ttf") {
		return nil
	}
	return data
}

// paper is a PDF that takes up fonts as they are needed: the wide ones are large.
type paper struct {
	*fpdf.Fpdf
	loaded map[Font]bool
}

func newPDF() paper {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetCatalogSort(true)
	return paper{pdf, map[Font]bool{}}
}

// use sets the font of what follows. What fails shows in the paper's error.
func (p paper) use(font Font, size float64) {
	if !p.loaded[font] {
		for _, f := range faces {
			if f.font == font {
				p.AddUTF8FontFromBytes(string(font), "", FontFile(f.file))
			}
		}
		p.loaded[font] = true
	}
	p.SetFont(string(font), "", size)
}

var measuring struct {
	sync.Mutex
	pdf *paper
}

// width is the width of a text in mm.
func width(text string, font Font, size float64) float64 {
	total := 0.0
	for _, r := range runsOf(text, font) {
		total += r.width(size)
	}
	return total
}

func (r run) width(size float64) float64 {
	measuring.Lock()
	defer measuring.Unlock()
	if measuring.pdf == nil {
		pdf := newPDF()
		pdf.AddPage()
		measuring.pdf = &pdf
	}
	measuring.pdf.use(r.font, size)
	return measuring.pdf.GetStringWidth(r.text)
}
