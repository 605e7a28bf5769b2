package report

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"

	"yugen/core/batch"
	"yugen/report/layouts"
)

// FileKind is how a report is written.
type FileKind string

// The formats.
const (
	AsPDF  FileKind = "pdf"
	AsHTML FileKind = "html"
	AsCSV  FileKind = "csv"
	AsXLSX FileKind = "xlsx"
	AsJSON FileKind = "json"
)

// FileKinds are all of them.
var FileKinds = []FileKind{AsPDF, AsHTML, AsCSV, AsXLSX, AsJSON}

// Subjects are what a layout is made for in a batch: each injection with a trace, each sample that was reported, or the batch itself.
func (in Input) Subjects(each layouts.Each) (list []Subject) {
	switch each {
	case layouts.EachInjection:
		for k, l := range in.Lines {
			if len(in.Result.Injections[k].Trace) > 0 || len(in.Result.Injections[k].Peaks) > 0 {
				list = append(list, Subject{InjectionID: l.ID})
			}
		}
	case layouts.EachSample:
		seen := map[string]bool{}
		for _, r := range in.Result.Samples {
			if len(r.InjectionIDs) > 0 && !seen[r.Name] {
				seen[r.Name] = true
				list = append(list, Subject{Sample: r.Name})
			}
		}
	default:
		list = []Subject{{}}
	}
	return list
}

// OnlySamples are those of some injections that are a sample's.
func (in Input) OnlySamples(list []Subject) (out []Subject) {
	for _, s := range list {
		for _, l := range in.Lines {
			if l.ID == s.InjectionID && l.Role == batch.Sample {
				out = append(out, s)
			}
		}
	}
	return out
}

// Write makes one report in one format. The same inputs give the same bytes.
func Write(l layouts.Layout, in Input, of Subject, as FileKind) ([]byte, error) {
	switch as {
	case AsPDF, AsHTML:
		r, err := Make(l, in, of)
		if err != nil {
			return nil, err
		}
		if as == AsHTML {
			return r.HTML(), nil
		}
		return r.PDF()
	case AsJSON:
		return JSON(in, l.Each, of, l.Name)
	}
	own, err := in.Only(l.Each, of)
	if err != nil {
		return nil, err
	}
	switch as {
	case AsCSV:
		return CSV(own)
	case AsXLSX:
		return XLSX(own)
	}
	return nil, fmt.Errorf("%q is no format of a report; pdf, html, csv, xlsx and json are", as)
}

// maxName bounds the names of files, in letters.
const maxName = 120

// FileNames are the names of the files of a set of reports, without their endings, from words with values. A name that is given twice gets a number.
func FileNames(l layouts.Layout, in Input, list []Subject, pattern string) ([]string, error) {
	if _, err := layouts.Phrases(pattern); err != nil {
		return nil, fmt.Errorf("the pattern of names: %w", err)
	}
	if strings.TrimSpace(pattern) == "" {
		pattern = map[layouts.Each]string{layouts.EachInjection: "{injection} {name}", layouts.EachSample: "{subject}", layouts.EachBatch: "{subject}"}[l.Each]
	}
	names := make([]string, len(list))
	seen := map[string]int{}
	for k, of := range list {
		s, err := in.subject(l.Each, of)
		if err != nil {
			return nil, err
		}
		w := &writer{in: in, title: s.name}
		name := FileName(w.phrase(pattern, layouts.Block{}, s))
		lower := strings.ToLower(name) // as file systems see it that do not tell letters by case
		if seen[lower]++; seen[lower] > 1 {
			name += " (" + strconv.Itoa(seen[lower]) + ")"
			seen[strings.ToLower(name)]++
		}
		names[k] = name
	}
	return names, nil
}

// FileName is a name without what no file system takes.
func FileName(name string) string {
	name = strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || !unicode.IsPrint(r) {
			return '-'
		}
		return r
	}, name)
	if r := []rune(name); len(r) > maxName {
		name = string(r[:maxName])
	}
	name = strings.Trim(name, " .")
	if name == "" {
		return "report"
	}
	return name
}
