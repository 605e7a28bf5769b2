// Package library reads and writes libraries of spectra: JSON, JCAMP-DX, and delimited text.
package library

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/jcamp"
)

// Bounds of a library.
const (
	maxBytes   = 1 << 30
	maxEntries = 1_000_000
	maxLines   = 100_000
)

// entry is how a spectrum stands in JSON. What else stands there is not looked at.
type entry struct {
	ID         json.RawMessage `json:"id"`
	Name       string          `json:"name"`
	Peaks      [][]float64     `json:"peaks"`
	Index      *float64        `json:"retention_index,omitempty"`
	Formula    string          `json:"formula,omitempty"`
	Mass       float64         `json:"mass,omitempty"`
	Source     string          `json:"source,omitempty"`
	Conditions string          `json:"conditions,omitempty"`
	Kind       spectra.Kind    `json:"kind,omitempty"`
}

// Read takes a library as what its first letters say it is.
func Read(data []byte) ([]spectra.Entry, error) {
	if len(data) > maxBytes {
		return nil, &formats.Error{Reason: fmt.Sprintf("a library has at most %d MB", maxBytes>>20)}
	}
	begin := bytes.TrimLeft(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), " \t\r\n")
	switch {
	case len(begin) == 0:
		return nil, &formats.Error{Reason: "the library is empty"}
	case begin[0] == '[' || begin[0] == '{':
		return readJSON(begin)
	case bytes.HasPrefix(begin, []byte("##")):
		return jcamp.Library(data)
	}
	return readCSV(begin)
}

func readJSON(data []byte) ([]spectra.Entry, error) {
	var list []entry
	if data[0] == '{' { // a single spectrum
		list = make([]entry, 1)
		if err := json.Unmarshal(data, &list[0]); err != nil {
			return nil, told(data, err)
		}
	} else if err := json.Unmarshal(data, &list); err != nil {
		return nil, told(data, err)
	}
	if len(list) > maxEntries {
		return nil, &formats.Error{Reason: fmt.Sprintf("more than %d spectra", maxEntries)}
	}
	out := make([]spectra.Entry, len(list))
	for k, e := range list {
		id := strings.Trim(string(e.ID), `"`)
		if len(e.ID) > 0 && e.ID[0] == '"' {
			if err := json.Unmarshal(e.ID, &id); err != nil {
				return nil, &formats.Error{Reason: fmt.Sprintf("spectrum %d: its id cannot be read", k+1)}
			}
		}
		if id == "" || id == "null" {
			id = strconv.Itoa(k + 1)
		}
		lines, err := linesOf(e.Kind, e.Peaks)
		if err != nil {
			return nil, &formats.Error{Reason: fmt.Sprintf("spectrum %d, %s: %s", k+1, first(e.Name, id), err)}
		}
		if e.Index != nil && (math.IsNaN(*e.Index) || *e.Index < 0) {
			return nil, &formats.Error{Reason: fmt.Sprintf("spectrum %d, %s: its retention index is %g", k+1, first(e.Name, id), *e.Index)}
		}
		out[k] = spectra.Entry{ID: id, Name: first(e.Name, id), Kind: e.Kind, Lines: lines, Index: e.Index, Formula: e.Formula, Mass: e.Mass, Source: e.Source, Conditions: e.Conditions}
	}
	return out, nil
}

// told says where JSON is damaged.
func told(data []byte, err error) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		return &formats.Error{Offset: syntax.Offset, Reason: syntax.Error()}
	case errors.As(err, &kind):
		return &formats.Error{Offset: kind.Offset, Reason: fmt.Sprintf("%s is a %s, which is not what a library has there", first(kind.Field, "this"), kind.Value)}
	}
	return &formats.Error{Offset: int64(len(data)), Reason: err.Error()}
}

// Lines takes pairs of m/z and intensity as they stand in JSON.
func Lines(peaks [][]float64) (spectra.Lines, error) { return linesOf(spectra.Mass, peaks) }

func linesOf(kind spectra.Kind, peaks [][]float64) (spectra.Lines, error) {
	if len(peaks) > maxLines {
		return nil, fmt.Errorf("it has %d lines; at most %d are read", len(peaks), maxLines)
	}
	pairs := make([][2]float64, len(peaks))
	for k, p := range peaks {
		if len(p) != 2 {
			return nil, fmt.Errorf("line %d has %d numbers; m/z and intensity are two", k+1, len(p))
		}
		pairs[k] = [2]float64{p[0], p[1]}
	}
	return spectra.SpectrumOf(kind, pairs)
}

func first(texts ...string) string {
	for _, t := range texts {
		if t != "" {
			return t
		}
	}
	return ""
}

// heads are the columns of delimited text; peaks are "m/z:intensity" between blanks.
var heads = []string{"id", "name", "formula", "mass", "retention_index", "source", "conditions", "kind", "peaks"}

func readCSV(data []byte) ([]spectra.Entry, error) {
	r := csv.NewReader(bytes.NewReader(data))
	if line, _, _ := bytes.Cut(data, []byte("\n")); bytes.ContainsRune(line, '\t') {
		r.Comma = '\t'
	} else if bytes.ContainsRune(line, ';') && !bytes.ContainsRune(line, ',') {
		r.Comma = ';'
	}
	head, err := r.Read()
	if err != nil {
		return nil, &formats.Error{Line: 1, Reason: err.Error()}
	}
	at := map[string]int{}
	for k, h := range head {
		at[strings.ToLower(strings.TrimSpace(h))] = k
	}
	if _, ok := at["peaks"]; !ok {
		return nil, &formats.Error{Line: 1, Reason: "it is no library: neither JSON, nor JCAMP-DX, nor a table with a column peaks"}
	}
	var list []spectra.Entry
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return list, nil
		}
		var damaged *csv.ParseError
		switch {
		case errors.As(err, &damaged):
			return nil, &formats.Error{Line: damaged.Line, Column: damaged.Column, Reason: damaged.Err.Error()}
		case err != nil:
			return nil, &formats.Error{Reason: err.Error()}
		}
		line, _ := r.FieldPos(0)
		e, err := csvEntry(row, at)
		if err != nil {
			return nil, &formats.Error{Line: line, Reason: err.Error()}
		}
		if e.ID == "" {
			e.ID = strconv.Itoa(len(list) + 1)
		}
		e.Name = first(e.Name, e.ID)
		if list = append(list, e); len(list) > maxEntries {
			return nil, &formats.Error{Line: line, Reason: fmt.Sprintf("more than %d spectra", maxEntries)}
		}
	}
}

func csvEntry(row []string, at map[string]int) (spectra.Entry, error) {
	cell := func(name string) string {
		k, ok := at[name]
		if !ok || k >= len(row) {
			return ""
		}
		return strings.TrimSpace(row[k])
	}
	e := spectra.Entry{ID: cell("id"), Name: cell("name"), Formula: cell("formula"), Source: cell("source"), Conditions: cell("conditions"), Kind: spectra.Kind(cell("kind"))}
	if text := cell("mass"); text != "" {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return e, fmt.Errorf("the mass %q is no number", text)
		}
		e.Mass = v
	}
	if text := cell("retention_index"); text != "" {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return e, fmt.Errorf("the retention index %q is no number", text)
		}
		e.Index = &v
	}
	var pairs [][]float64
	for _, word := range strings.Fields(cell("peaks")) {
		m, h, ok := strings.Cut(word, ":")
		mz, errM := strconv.ParseFloat(m, 64)
		height, errH := strconv.ParseFloat(h, 64)
		if !ok || errM != nil || errH != nil {
			return e, fmt.Errorf("%q is no line; lines are m/z:intensity between blanks", word)
		}
		pairs = append(pairs, []float64{mz, height})
	}
	var err error
	e.Lines, err = linesOf(e.Kind, pairs)
	return e, err
}

// JSON writes a library.
func JSON(entries []spectra.Entry) ([]byte, error) {
	list := make([]entry, len(entries))
	for k, e := range entries {
		id, err := json.Marshal(e.ID)
		if err != nil {
			return nil, err
		}
		list[k] = entry{ID: id, Name: e.Name, Peaks: [][]float64{}, Index: e.Index, Formula: e.Formula, Mass: e.Mass, Source: e.Source, Conditions: e.Conditions, Kind: e.Kind}
		for _, l := range e.Lines {
			list[k].Peaks = append(list[k].Peaks, []float64{l.At, l.Height})
		}
	}
	data, err := json.Marshal(list)
	return append(data, '\n'), err
}

// CSV writes a library as a table.
func CSV(entries []spectra.Entry) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	rows := [][]string{heads}
	number := func(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
	for _, e := range entries {
		row := []string{e.ID, e.Name, e.Formula, "", "", e.Source, e.Conditions, string(e.Kind), ""}
		if e.Mass > 0 {
			row[3] = number(e.Mass)
		}
		if e.Index != nil {
			row[4] = number(*e.Index)
		}
		words := make([]string, len(e.Lines))
		for k, l := range e.Lines {
			words[k] = number(l.At) + ":" + number(l.Height)
		}
		row[8] = strings.Join(words, " ")
		rows = append(rows, row)
	}
	err := w.WriteAll(rows)
	return b.Bytes(), err
}
