package formula

import (
	"regexp"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/quantities"
)

// Word is what can stand in a formula, with what it is here.
type Word struct {
	Insert string `json:"insert"`
	Words  string `json:"words"`
	Here   string `json:"here,omitempty"` // its value here, with its unit
	// From is where what is being written begins, in letters.
	From int `json:"from"`
}

// maxWords bounds what is offered at once.
const maxWords = 24

// lists are the words that give a list, or something with quantities of its own, whatever quantity is called like them.
var lists = []string{"injections", "injection", "peaks", "compounds", "traces", "replicates", "run"}

// begun is what stands before the cursor: what it is of, and what of the word is written.
var begun = regexp.MustCompile(`(?:(compound|peak|trace)\("([^"]*)"\)|(injection|batch|#))?(\.)?([A-Za-z_]\w*)?$`)

// names is an open quotation mark in compound("…").
var namesBegun = regexp.MustCompile(`(compound|peak|trace)\("([^"]*)$`)

// Complete offers what can stand at a place of a formula, what begins alike first. Only what exists is offered.
func (s Set) Complete(f batch.LabField, cursor int, here quantities.Row) []Word {
	text := []rune(f.Formula)
	before := string(text[:max(0, min(cursor, len(text)))])
	if m := namesBegun.FindStringSubmatch(before); m != nil {
		return s.names(m[1], m[2], cursor, here)
	}
	m := begun.FindStringSubmatch(before)
	written := strings.ToLower(m[5])
	from := cursor - len([]rune(m[5]))
	if m[4] == "." && m[1] == "trace" {
		var list []Word
		for _, w := range recorded {
			list = append(list, Word{Insert: w, Words: "of what was recorded", From: from})
		}
		return ordered(list, written)
	}
	lives, row := quantities.Lives(f.Lives), here
	switch {
	case m[1] != "":
		lives, row = quantities.OfCompound, named(here, m[2])
	case m[3] == "injection":
		lives = quantities.OfInjection
	case m[3] == "batch":
		lives = quantities.OfBatch
	case m[4] == ".": // of what a list is gone through with
		lives = gonePlace(before)
	}
	var list []Word
	for _, q := range s.Register {
		if slices.Contains(seen[lives], q.Lives) && q.ID != f.Short && q.ID != "batch" && !slices.Contains(lists, q.ID) {
			v := q.Of(row)
			w := Word{Insert: q.ID, Words: q.Words, From: from}
			if !v.Absent() {
				w.Here = strings.TrimSpace(q.Shown(v) + " " + q.Unit)
			}
			list = append(list, w)
		}
	}
	if m[4] == "" {
		for _, w := range lists {
			if f.Lives != "batch" || w == "injections" {
				list = append(list, Word{Insert: w, Words: "a list", From: from})
			}
		}
		for name, fn := range functions {
			if f.Lives == "batch" && slices.Contains([]string{"compound", "peak", "trace"}, name) {
				continue
			}
			list = append(list, Word{Insert: name + "(", Words: fn.Shape + ": " + fn.Does, From: from})
		}
	}
	return ordered(list, written)
}

// gonePlace is of what the nearest list before the cursor is.
func gonePlace(before string) quantities.Lives {
	best, lives := -1, quantities.OfPeak
	for word, l := range map[string]quantities.Lives{"peaks": quantities.OfPeak, "compounds": quantities.OfCompound, "injections": quantities.OfInjection, "replicates": quantities.OfCompound, "run": quantities.OfCompound} {
		if k := strings.LastIndex(before, word); k > best {
			best, lives = k, l
		}
	}
	return lives
}

func named(here quantities.Row, name string) quantities.Row {
	if here.Batch != nil {
		for k := range here.Batch.Method.Compounds {
			if c := &here.Batch.Method.Compounds[k]; strings.EqualFold(c.Name, name) {
				return here.Of(c)
			}
		}
	}
	return here
}

// names offers the names of compounds, or of what was recorded.
func (s Set) names(of, written string, cursor int, here quantities.Row) []Word {
	var list []Word
	from := cursor - len([]rune(written))
	switch {
	case of == "trace":
		for _, r := range here.Recorded {
			list = append(list, Word{Insert: r.Name + `").`, Words: "was recorded", Here: r.Unit, From: from})
		}
	case here.Batch != nil:
		for _, c := range here.Batch.Method.Compounds {
			list = append(list, Word{Insert: c.Name + `").`, Words: "a compound", From: from})
		}
	}
	return ordered(list, strings.ToLower(written))
}

// ordered are those that have what is written in them, those that begin with it first.
func ordered(list []Word, written string) []Word {
	out := []Word{}
	for _, w := range list {
		if strings.Contains(strings.ToLower(w.Insert), written) || strings.Contains(strings.ToLower(w.Words), written) {
			out = append(out, w)
		}
	}
	rank := func(w Word) int {
		switch {
		case strings.HasPrefix(strings.ToLower(w.Insert), written):
			return 0
		case strings.HasPrefix(strings.ToLower(w.Words), written):
			return 1
		}
		return 2
	}
	slices.SortStableFunc(out, func(a, b Word) int {
		if r := rank(a) - rank(b); r != 0 {
			return r
		}
		if (a.Here == "") != (b.Here == "") {
			if a.Here != "" {
				return -1
			}
			return 1
		}
		return strings.Compare(a.Insert, b.Insert)
	})
	return out[:min(len(out), maxWords)]
}
