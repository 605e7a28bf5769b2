// Package runlist reads and writes the run list of a batch as delimited text: a heading and a line for each injection.
package runlist

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/formats"
)

// Line is one line: the file it is about and what is known of its injection.
type Line struct {
	File  string
	Entry batch.Entry
}

// maxLines bounds a run list.
const maxLines = 100_000

// Read decodes a run list. The heading names the columns: file, and any of the fields of a run list entry. The
// delimiter is a comma, semicolon or tab.
func Read(data []byte) ([]Line, error) {
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	r := csv.NewReader(bytes.NewReader(data))
	first, _, _ := bytes.Cut(data, []byte("\n"))
	for _, d := range []rune{'\t', ';'} {
		if bytes.ContainsRune(first, d) {
			r.Comma = d
			break
		}
	}
	heading, err := r.Read()
	if err != nil {
		return nil, &formats.Error{Line: 1, Reason: "the run list needs a heading: file, name, role, level, vial, dilution, volume, sample, factor, internal, added, mix, preparation"}
	}
	for i, h := range heading {
		heading[i] = strings.ToLower(strings.TrimSpace(h))
		if heading[i] != "file" && !slices.Contains(batch.Fields, batch.Field(heading[i])) {
			return nil, &formats.Error{Line: 1, Reason: fmt.Sprintf("the column %q is unknown; known are file and %v", h, batch.Fields)}
		}
	}
	if !slices.Contains(heading, "file") {
		return nil, &formats.Error{Line: 1, Reason: "the run list needs a column file"}
	}
	var lines []Line
	for {
		fields, err := r.Read()
		if errors.Is(err, io.EOF) {
			return lines, nil
		}
		if err != nil {
			return nil, &formats.Error{Line: len(lines) + 2, Reason: err.Error()}
		}
		at, _ := r.FieldPos(0)
		if len(lines) == maxLines {
			return nil, &formats.Error{Line: at, Reason: fmt.Sprintf("there are more than %d lines", maxLines)}
		}
		line := Line{Entry: batch.Entry{Dilution: 1, Factor: 1}}
		for i, text := range fields {
			if heading[i] == "file" {
				line.File = text
				line.Entry.Name = text
			}
		}
		for i, text := range fields {
			if heading[i] == "file" || text == "" && heading[i] == "name" {
				continue
			}
			if err := line.Entry.Set(batch.Field(heading[i]), text); err != nil {
				return nil, &formats.Error{Line: at, Reason: err.Error()}
			}
		}
		lines = append(lines, line)
	}
}

// Write encodes a run list.
func Write(lines []Line) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	heading := []string{"file"}
	for _, f := range batch.Fields {
		heading = append(heading, string(f))
	}
	rows := [][]string{heading}
	for _, l := range lines {
		e := l.Entry
		rows = append(rows, []string{l.File, e.Name, string(e.Role), text(e.Level), e.Vial, text(&e.Dilution), text(e.Volume), text(e.Sample), text(&e.Factor), e.InternalText(), text(e.Added), e.Mix, e.Preparation})
	}
	if err := w.WriteAll(rows); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func text(v *float64) string {
	if v == nil {
		return ""
	}
	return strconv.FormatFloat(*v, 'g', -1, 64)
}
