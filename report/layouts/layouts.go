// Package layouts is the laboratory's pages as data: rows of blocks on twelve columns, what each block shows, and the paper they stand on.
package layouts

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"
)

// Form is the version of the JSON form.
const Form = 1

// Each says for what a page is made once.
type Each string

// What pages are made for.
const (
	EachInjection Each = "injection"
	EachSample    Each = "sample"
	EachBatch     Each = "batch"
)

// Paper is a size of sheet.
type Paper string

// The papers.
const (
	A4     Paper = "A4"
	Letter Paper = "Letter"
)

// Kind says what a block draws.
type Kind string

// The blocks.
const (
	Heading      Kind = "heading"
	Sample       Kind = "sample"
	Conditions   Kind = "conditions"
	Chromatogram Kind = "chromatogram"
	Curve        Kind = "curve"
	Peaks        Kind = "peaks"
	Results      Kind = "results"
	Groups       Kind = "groups"
	Summary      Kind = "summary"
	Checks       Kind = "checks"
	Screening    Kind = "screening"
	Resolved     Kind = "resolved"
	Notices      Kind = "notices"
	Record       Kind = "record"
	Text         Kind = "text"
	Picture      Kind = "picture"
	Line         Kind = "line"
	Break        Kind = "break"
	Signatures   Kind = "signatures"
	Head         Kind = "head"
	Foot         Kind = "foot"
)

// Kinds are all blocks in the order in which they are offered.
var Kinds = []Kind{Head, Heading, Sample, Conditions, Chromatogram, Peaks, Results, Groups, Curve, Summary, Checks, Screening, Resolved, Notices, Record, Text, Picture, Line, Break, Signatures, Foot}

// Layout is a design of pages.
type Layout struct {
	Form      int    `json:"form"`
	Name      string `json:"name"`
	Each      Each   `json:"each"`
	Paper     Paper  `json:"paper"`
	Landscape bool   `json:"landscape,omitempty"`
	MarginMM  Margin `json:"margin_mm"`
	// Rows are one to three blocks each, beside each other. Head and foot stand on every page, wherever they are in the list.
	Rows [][]Block `json:"rows"`
}

// Margin is what stays empty around a page, mm; head and foot stand in it.
type Margin struct {
	Left   float64 `json:"left"`
	Right  float64 `json:"right"`
	Top    float64 `json:"top"`
	Bottom float64 `json:"bottom"`
}

// Block is one part of a page. What its kind has no use for is left out.
type Block struct {
	ID   string `json:"id"`
	Kind Kind   `json:"kind"`
	// Columns are how many of the twelve it takes, beside others; 0 are its share.
	Columns  int     `json:"columns,omitempty"`
	HeightMM float64 `json:"height_mm,omitempty"` // of a chromatogram, curve or picture
	Title    *string `json:"title,omitempty"`     // over it; absent is its own, empty none
	Text     string  `json:"text,omitempty"`      // words with values in braces
	Sub      string  `json:"sub,omitempty"`       // the smaller line of a heading
	SizePt   float64 `json:"size_pt,omitempty"`
	Align    string  `json:"align,omitempty"`   // of words and pictures: left, middle, right
	Missing  string  `json:"missing,omitempty"` // what stands for a value that is not there; absent is an en dash
	Values   []Value `json:"values,omitempty"`  // of a sample block: which, in their order; of a table: its columns

	Channel    string   `json:"channel,omitempty"`    // whose chromatogram and peaks; absent is the method's first
	Conditions []string `json:"conditions,omitempty"` // names of what is drawn beneath a chromatogram; "*" are all
	FromMin    *float64 `json:"from_min,omitempty"`
	ToMin      *float64 `json:"to_min,omitempty"`
	Whole      bool     `json:"whole,omitempty"` // the whole run, not only where peaks are
	Behind     string   `json:"behind,omitempty"`
	Plain      bool     `json:"plain,omitempty"`  // without baselines and areas
	Labels     []string `json:"labels,omitempty"` // at apexes: name, time, area, amount; absent are name and time
	AngleDeg   *float64 `json:"angle_deg,omitempty"`
	Named      bool     `json:"named,omitempty"`     // only peaks that have a name
	Sum        bool     `json:"sum,omitempty"`       // a last row with the sum
	Compounds  []string `json:"compounds,omitempty"` // names; none are all
	Measures   []string `json:"measures,omitempty"`
	By         string   `json:"by,omitempty"`
	Statistics []string `json:"statistics,omitempty"`
	Of         string   `json:"of,omitempty"`
	Picture    []byte   `json:"picture,omitempty"` // PNG
	Roles      []string `json:"roles,omitempty"`   // of signatures: who signs
}

// Value is a quantity by its id, with how it is shown.
type Value struct {
	Quantity string  `json:"quantity"`
	Compound string  `json:"compound,omitempty"` // by name, where it lives with compounds and none is at hand
	Head     string  `json:"head,omitempty"`     // absent is its own words
	Digits   int     `json:"digits,omitempty"`   // significant ones
	Decimals *int    `json:"decimals,omitempty"`
	Unit     string  `json:"unit,omitempty"` // absent is its own
	WidthMM  float64 `json:"width_mm,omitempty"`
}

// Bounds of what a layout may hold.
const (
	maxUnit    = 40
	maxBytes   = 4 << 20
	maxRows    = 200
	perRow     = 3
	maxText    = 20_000
	gridWidth  = 12
	leastWidth = 2
	maxValues  = 40
	maxNames   = 200
)

// Read decodes and checks a layout. What it does not know it refuses, so that nothing that was meant is left out unseen.
func Read(data []byte) (Layout, error) {
	var l Layout
	if len(data) > maxBytes {
		return l, fmt.Errorf("a layout has at most %d MB", maxBytes>>20)
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&l); err != nil {
		return l, fmt.Errorf("this is no layout: %w", err)
	}
	if _, err := d.Token(); err != io.EOF {
		return l, fmt.Errorf("something follows the layout")
	}
	l.complete()
	return l, l.Validate()
}

// complete fills what a hand-written layout may leave out.
func (l *Layout) complete() {
	if l.Form == 0 {
		l.Form = Form
	}
	if l.Paper == "" {
		l.Paper = A4
	}
	if l.MarginMM == (Margin{}) {
		l.MarginMM = Margin{20, 20, 32, 20}
	}
	used := map[string]bool{}
	for _, row := range l.Rows {
		for _, b := range row {
			used[b.ID] = true
		}
	}
	n := 0
	for _, row := range l.Rows {
		for k := range row {
			for row[k].ID == "" {
				n++
				if id := fmt.Sprintf("b%d", n); !used[id] {
					row[k].ID = id
				}
			}
		}
	}
}

// JSON writes a layout as people read it. The same layout is the same bytes.
func (l Layout) JSON() []byte {
	out, err := json.MarshalIndent(l, "", "  ")
	if err != nil {
		panic(err) // it holds nothing that cannot be written
	}
	return append(out, '\n')
}

// Validate says what keeps pages from being made by a layout, and where.
func (l Layout) Validate() error {
	switch {
	case l.Form > Form:
		return fmt.Errorf("form: this layout is of form %d, which a later version of Yugen wrote; this one reads up to %d", l.Form, Form)
	case l.Form < 1:
		return fmt.Errorf("form: a layout is of form 1, not %d", l.Form)
	case strings.TrimSpace(l.Name) == "":
		return fmt.Errorf("name: a layout needs a name")
	case utf8.RuneCountInString(l.Name) > maxNames:
		return fmt.Errorf("name: a name has at most %d letters", maxNames)
	case !slices.Contains([]Each{EachInjection, EachSample, EachBatch}, l.Each):
		return fmt.Errorf("each: it is made for each injection, sample or batch, not %q", l.Each)
	case l.Paper != A4 && l.Paper != Letter:
		return fmt.Errorf("paper: A4 and Letter are known, not %q", l.Paper)
	case len(l.Rows) > maxRows:
		return fmt.Errorf("rows: a layout has at most %d rows, not %d", maxRows, len(l.Rows))
	}
	if err := l.margins(); err != nil {
		return err
	}
	seen := map[string]bool{}
	for r, row := range l.Rows {
		where := fmt.Sprintf("rows[%d]", r)
		if len(row) == 0 || len(row) > perRow {
			return fmt.Errorf("%s: a row has one to %d blocks, not %d", where, perRow, len(row))
		}
		total := 0
		for k, b := range row {
			where := fmt.Sprintf("%s[%d]", where, k)
			if b.ID == "" || seen[b.ID] || len(b.ID) > maxNames {
				return fmt.Errorf("%s.id: each block needs an id of its own, not %q again", where, b.ID)
			}
			seen[b.ID] = true
			if err := b.validate(len(row) > 1); err != nil {
				return fmt.Errorf("%s.%w", where, err)
			}
			total += b.Columns
		}
		if total > gridWidth {
			return fmt.Errorf("%s: its blocks take %d of %d columns", where, total, gridWidth)
		}
	}
	return nil
}

func (l Layout) margins() error {
	wide, high := l.SheetMM()
	m := l.MarginMM
	for _, v := range []float64{m.Left, m.Right, m.Top, m.Bottom} {
		if !(v >= 5 && v <= 80) {
			return fmt.Errorf("margin_mm: a margin is between 5 and 80 mm, not %g", v)
		}
	}
	if wide-m.Left-m.Right < 60 || high-m.Top-m.Bottom < 60 {
		return fmt.Errorf("margin_mm: the margins leave less than 60 mm of the sheet")
	}
	return nil
}

// SheetMM is the size of a sheet as it lies.
func (l Layout) SheetMM() (wide, high float64) {
	wide, high = 210, 297
	if l.Paper == Letter {
		wide, high = 215.9, 279.4
	}
	if l.Landscape {
		wide, high = high, wide
	}
	return wide, high
}

func (b Block) validate(beside bool) error {
	switch {
	case !slices.Contains(Kinds, b.Kind):
		return fmt.Errorf("kind: there is no block %q; known are %s", b.Kind, words(Kinds))
	case beside && slices.Contains([]Kind{Head, Foot, Break}, b.Kind):
		return fmt.Errorf("kind: a %s has a row of its own", b.Kind)
	case b.Columns != 0 && (b.Columns < leastWidth || b.Columns > gridWidth):
		return fmt.Errorf("columns: a block takes %d to %d columns, not %d", leastWidth, gridWidth, b.Columns)
	case b.HeightMM != 0 && !(b.HeightMM >= 10 && b.HeightMM <= 240):
		return fmt.Errorf("height_mm: a height is between 10 and 240 mm, not %g", b.HeightMM)
	case b.SizePt != 0 && !(b.SizePt >= 5 && b.SizePt <= 48):
		return fmt.Errorf("size_pt: letters are of 5 to 48 pt, not %g", b.SizePt)
	case len(b.Text) > maxText || len(b.Sub) > maxText || len(b.Missing) > maxNames || b.Title != nil && len(*b.Title) > maxNames:
		return fmt.Errorf("text: a text has at most %d letters", maxText)
	case !slices.Contains([]string{"", "left", "middle", "right"}, b.Align):
		return fmt.Errorf("align: left, middle and right are known, not %q", b.Align)
	case !slices.Contains([]string{"", "replicates", "blank"}, b.Behind):
		return fmt.Errorf("behind: replicates or blank stand behind a chromatogram, not %q", b.Behind)
	case b.AngleDeg != nil && !(*b.AngleDeg >= 0 && *b.AngleDeg <= 90):
		return fmt.Errorf("angle_deg: labels stand at 0 to 90 degrees, not %g", *b.AngleDeg)
	case b.FromMin != nil && b.ToMin != nil && !(*b.FromMin < *b.ToMin):
		return fmt.Errorf("to_min: it is before from_min")
	case len(b.Values) > maxValues:
		return fmt.Errorf("values: a block shows at most %d, not %d", maxValues, len(b.Values))
	case len(b.Compounds) > maxNames || len(b.Conditions) > maxNames || len(b.Measures) > maxNames || len(b.Roles) > 6 || len(b.Statistics) > 10:
		return fmt.Errorf("%s: this block names too many things", b.Kind)
	}
	for _, label := range b.Labels {
		if !slices.Contains(LabelParts, label) {
			return fmt.Errorf("labels: %s are known, not %q", strings.Join(LabelParts, ", "), label)
		}
	}
	for k, v := range b.Values {
		if v.Quantity == "" {
			return fmt.Errorf("values[%d]: it names no quantity", k)
		}
		if len(v.Unit) > maxUnit {
			return fmt.Errorf("values[%d]: a unit has at most %d letters", k, maxUnit)
		}
		if v.Digits < 0 || v.Digits > 12 || v.Decimals != nil && (*v.Decimals < 0 || *v.Decimals > 9) || v.WidthMM != 0 && !(v.WidthMM >= 5 && v.WidthMM <= 200) {
			return fmt.Errorf("values[%d]: digits are 0 to 12, decimals 0 to 9 and widths 5 to 200 mm", k)
		}
	}
	return b.braces()
}

// LabelParts are what can stand at an apex.
var LabelParts = []string{"name", "time", "area", "amount"}

func words(kinds []Kind) string {
	list := make([]string, len(kinds))
	for k, kind := range kinds {
		list[k] = string(kind)
	}
	return strings.Join(list, ", ")
}

// Widths are how many of the twelve columns each block of a row takes: what it says, the others share what is left.
func Widths(row []Block) []int {
	out := make([]int, len(row))
	left, open := gridWidth, 0
	for k, b := range row {
		out[k] = b.Columns
		left -= b.Columns
		if b.Columns == 0 {
			open++
		}
	}
	for k := range out {
		if out[k] == 0 {
			out[k] = max(1, left/open)
			left -= out[k]
			open--
		}
	}
	return out
}

// Has tells whether a block of a kind is on the page.
func (l Layout) Has(kind Kind) bool {
	return l.any(func(b Block) bool { return b.Kind == kind })
}

// Behind tells whether a chromatogram has something behind it.
func (l Layout) Behind(what string) bool {
	return l.any(func(b Block) bool { return b.Behind == what })
}

func (l Layout) any(is func(Block) bool) bool {
	for _, row := range l.Rows {
		if slices.ContainsFunc(row, is) {
			return true
		}
	}
	return false
}
