// Package cells takes text from a spreadsheet apart into cells and numbers, as it is copied in the languages of the trade.
package cells

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"yugen/formats"
)

var numberIn = regexp.MustCompile(`^([-+−]?[0-9]+(?:[.,' ][0-9]+)*(?:[eE][-+]?[0-9]+)?)\s*([^0-9]*)$`)

// Split cuts text into cells by tab, else semicolon, else comma (where a comma is not the decimal sign), else runs of blanks.
func Split(text string, maxRows, maxColumns int) (rows [][]string, lines []int, err error) {
	text = strings.TrimPrefix(strings.NewReplacer("\r\n", "\n", "\r", "\n", "\u00a0", " ", "\u202f", " ").Replace(text), "\ufeff")
	separator := '\t'
	switch {
	case strings.ContainsRune(text, '\t'):
	case strings.ContainsRune(text, ';'):
		separator = ';'
	case commasSeparate(text):
		separator = ','
	default:
		separator = 0
	}
	add := func(fields []string, line int) error {
		for k := range fields {
			fields[k] = strings.TrimSpace(fields[k])
		}
		if strings.Join(fields, "") == "" {
			return nil
		}
		if len(rows) == maxRows {
			return &formats.Error{Line: line, Reason: fmt.Sprintf("there are more than %d rows", maxRows)}
		}
		if len(fields) > maxColumns {
			return &formats.Error{Line: line, Reason: fmt.Sprintf("there are %d columns; at most %d are read", len(fields), maxColumns)}
		}
		rows, lines = append(rows, fields), append(lines, line)
		return nil
	}
	if separator == 0 {
		for i, line := range strings.Split(text, "\n") {
			if err := add(strings.Fields(line), i+1); err != nil {
				return nil, nil, err
			}
		}
		return rows, lines, nil
	}
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = separator, -1, true, separator != '\t'
	for {
		fields, err := r.Read()
		if errors.Is(err, io.EOF) {
			return rows, lines, nil
		}
		if err != nil {
			return nil, nil, &formats.Error{Reason: err.Error()}
		}
		line, _ := r.FieldPos(0)
		if err := add(fields, line); err != nil {
			return nil, nil, err
		}
	}
}

// commasSeparate tells whether commas part cells: where each is followed by a digit and stands between digits alone in its cell, it is decimal.
func commasSeparate(text string) bool {
	for line := range strings.SplitSeq(text, "\n") {
		fields := strings.Fields(line)
		if strings.ContainsRune(line, ',') && (len(fields) < 2 || strings.Count(line, ",") >= len(fields) || strings.Contains(line, ", ")) {
			return true
		}
	}
	return false
}

// DecimalComma tells whether numbers are written with a comma: some have one, and none a point.
func DecimalComma(rows [][]string) bool {
	comma := false
	for _, row := range rows {
		for _, c := range row {
			m := numberIn.FindStringSubmatch(c)
			if m == nil {
				continue
			}
			if strings.Contains(m[1], ".") {
				return false
			}
			comma = comma || strings.Contains(m[1], ",")
		}
	}
	return comma
}

// Number reads a number and a unit behind it. Blanks and apostrophes between digits part thousands; so does a comma where the point is decimal.
func Number(text string, comma bool) (v float64, unit string, ok bool) {
	m := numberIn.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return 0, "", false
	}
	digits := strings.NewReplacer(" ", "", "'", "", "−", "-").Replace(m[1])
	switch {
	case comma, !strings.Contains(digits, ".") && strings.Count(digits, ",") == 1:
		digits = strings.Replace(digits, ",", ".", 1)
	default:
		digits = strings.ReplaceAll(digits, ",", "")
	}
	v, err := strconv.ParseFloat(digits, 64)
	if err != nil || math.IsInf(v, 0) {
		return 0, "", false
	}
	return v, strings.TrimSpace(m[2]), true
}
