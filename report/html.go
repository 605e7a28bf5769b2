package report

import (
	"encoding/base64"
	"fmt"
	"html"
	"strings"
)

// HTML is the report as one file with the same drawing, which needs nothing beside it.
func (r *Report) HTML() []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "<!doctype html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>%s</title>\n<style>\n", html.EscapeString(r.Title))
	b.WriteString(r.faceRules())
	b.WriteString("body{margin:0;background:#e9e6df}svg{display:block;margin:0 auto 8mm;background:#fff}\n")
	for k, p := range r.Pages {
		fmt.Fprintf(&b, "@page p%d{size:%gmm %gmm;margin:0}svg.p%d{page:p%d;width:%gmm;height:%gmm}\n", k, p.Width, p.Height, k, k, p.Width, p.Height)
	}
	b.WriteString("@media print{body{background:none}svg{margin:0;break-after:page}}\n</style>\n</head>\n<body>\n")
	for k, page := range r.SVG() {
		b.WriteString(strings.Replace(page, "<svg ", fmt.Sprintf("<svg class=\"p%d\" role=\"img\" aria-label=\"page %d of %d\" ", k, k+1, len(r.Pages)), 1))
		b.WriteString("\n")
	}
	b.WriteString("</body>\n</html>\n")
	return []byte(b.String())
}

// faceRules are the faces that the pages are set in, each within its rule.
func (r *Report) faceRules() string {
	var b strings.Builder
	used := r.fonts()
	for _, f := range faces {
		if used[f.font] {
			fmt.Fprintf(&b, "@font-face{%s;src:url(data:font/ttf;base64,%s)}\n", f.css, base64.StdEncoding.EncodeToString(FontFile(f.file)))
		}
	}
	return b.String()
}

// fonts are those that the pages are set in.
func (r *Report) fonts() map[Font]bool {
	used := map[Font]bool{}
	for _, p := range r.Pages {
		for _, it := range p.Items {
			if it.Text != nil {
				used[it.Text.Font] = true
			}
		}
	}
	return used
}
