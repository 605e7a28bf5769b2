// Package ladder reads the retention times of alkanes from a table, as it is pasted from a spreadsheet or kept as a file.
package ladder

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/compounds"
	"yugen/formats"
	"yugen/formats/cells"
)

// A table holds at most so many rows and columns.
const (
	maxRows    = 1000
	maxColumns = 20
)

// Read takes a table with a column of carbons and one of times in minutes, in this order or as their heads say; in seconds where the head says so. Alkanes may be
// missing, and may be written C8 or n-C8. The rungs come in the order of their carbons; whether their times rise is for the ladder to judge.
func Read(text string) ([]compounds.Rung, error) {
	rows, lines, err := cells.Split(text, maxRows, maxColumns)
	if err != nil {
		return nil, err
	}
	carbons, times, per := 0, 1, 1.0
	if len(rows) > 0 && headed(rows[0]) {
		carbons, times, per = columns(rows[0])
		rows, lines = rows[1:], lines[1:]
	}
	if len(rows) == 0 {
		return nil, &formats.Error{Reason: "the ladder is empty: it has no alkane"}
	}
	comma := cells.DecimalComma(rows)
	var list []compounds.Rung
	for k, row := range rows {
		if len(row) <= max(carbons, times) {
			return nil, &formats.Error{Line: lines[k], Reason: "carbons and a time are two columns"}
		}
		n, err := strconv.Atoi(strings.TrimLeft(strings.ToUpper(strings.TrimSpace(row[carbons])), "NC-"))
		if err != nil {
			return nil, &formats.Error{Line: lines[k], Column: carbons + 1, Reason: fmt.Sprintf("%q is no number of carbons", row[carbons])}
		}
		v, _, ok := cells.Number(row[times], comma)
		if !ok || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, &formats.Error{Line: lines[k], Column: times + 1, Reason: fmt.Sprintf("%q is no time", row[times])}
		}
		list = append(list, compounds.Rung{Carbons: n, TimeMin: v * per})
	}
	slices.SortStableFunc(list, func(a, b compounds.Rung) int { return a.Carbons - b.Carbons })
	return list, nil
}

// headed tells whether a row has no number in it.
func headed(row []string) bool {
	for _, c := range row {
		if _, _, ok := cells.Number(c, false); ok {
			return false
		}
	}
	return true
}

// columns finds carbons and times by the words over them.
func columns(head []string) (carbons, times int, per float64) {
	carbons, times, per = 0, 1, 1
	for k, h := range head {
		word := strings.ToLower(h)
		switch {
		case strings.Contains(word, "carbon") || strings.Contains(word, "alkane") || strings.TrimSpace(word) == "n" || strings.TrimSpace(word) == "c":
			carbons = k
			if times == k {
				times = 0
			}
		case strings.Contains(word, "time") || strings.Contains(word, "retention") || strings.Contains(word, "min") || strings.Contains(word, "rt"):
			times = k
		}
	}
	if times >= len(head) {
		return carbons, times, per
	}
	if word := strings.ToLower(head[times]); strings.HasSuffix(word, "_s") || strings.HasSuffix(word, "(s)") || strings.HasSuffix(word, ", s") || strings.Contains(word, "second") {
		per = 1.0 / 60
	}
	return carbons, times, per
}
