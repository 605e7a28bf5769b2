package lab

import (
	"context"
	"errors"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/store"
)

// Found is what was found over all that is on the shelf.
type Found struct {
	Says    string         `json:"says"` // what was looked for, as it was understood
	Results []FoundResult  `json:"results"`
	Batches []FoundInBatch `json:"batches"`
	More    bool           `json:"more"` // there are more than are listed
	Near    []string       `json:"near"` // names that are near, where nothing was found
}

// FoundResult is an injection, or a mean of a sample.
type FoundResult struct {
	BatchID     string     `json:"batch_id"`
	Batch       string     `json:"batch"`
	Study       string     `json:"study"`
	InjectionID string     `json:"injection_id"`
	Name        string     `json:"name"`
	Vial        string     `json:"vial"`
	File        string     `json:"file"`
	At          *time.Time `json:"at"`
	Compound    string     `json:"compound"`
	Amount      *float64   `json:"amount"`
	Unit        string     `json:"unit"`
	Flags       string     `json:"flags"`
}

// FoundInBatch is a batch whose own name, study or method was looked for.
type FoundInBatch struct {
	BatchID string `json:"batch_id"`
	Batch   string `json:"batch"`
	Study   string `json:"study"`
	Method  string `json:"method"`
}

// Bounds of finding.
const (
	maxFindLetters = 200
	foundShown     = 100
	foundBatches   = 20
	nearShown      = 3
)

var (
	amountAsked = regexp.MustCompile(`^(.+?)\s*(<=|>=|≤|≥|<|>|=)\s*([0-9]+(?:[.,][0-9]+)?(?:[eE][+-]?[0-9]+)?)\s*(\S*)$`)
	vialAsked   = regexp.MustCompile(`(?i)\bvial\s+(\S+)`)
	byAsked     = regexp.MustCompile(`(?i)\bby\s+(\S+(?:\s+\S+)?)$`)
)

// FindOnShelf looks over all batches for what a person typed: words of names; an amount as EGCG > 60 mg/g; by and a person; vial and its place; a day, month or year;
// above range, below range.
func (l *Lab) FindOnShelf(ctx context.Context, text string) (Found, error) {
	out := Found{Results: []FoundResult{}, Batches: []FoundInBatch{}, Near: []string{}}
	text = strings.Join(strings.Fields(text), " ")
	if text == "" {
		return out, nil
	}
	if len([]rune(text)) > maxFindLetters {
		return out, refuse("at most %d letters are looked for", maxFindLetters)
	}
	w, says := understood(text)
	out.Says = says
	err := l.store.Read(ctx, func(t *store.Tx) error {
		if w.Sign == "" && len(w.Words) > 0 && w.Flag == "" && w.Vial == "" { // a compound's name alone finds its amounts
			if known, err := t.CompoundNames(maxNames); err == nil && slices.ContainsFunc(known, func(n string) bool { return strings.EqualFold(n, strings.Join(w.Words, " ")) }) {
				w.Compound, w.Words = strings.Join(w.Words, " "), nil
			}
		}
		list, err := t.FindResults(w, foundShown+1)
		if err != nil {
			return err
		}
		out.More = len(list) > foundShown
		for _, f := range list[:min(foundShown, len(list))] {
			one := FoundResult{f.BatchID, f.Batch, f.Study, f.InjectionID, f.Name, f.Vial, f.File, nil, f.Compound, f.Amount, f.Unit, f.Flags}
			if !f.At.IsZero() {
				one.At = &f.At
			}
			out.Results = append(out.Results, one)
		}
		if len(w.Words) > 0 && w.Sign == "" {
			batches, err := t.FindBatches(w.Words, foundBatches)
			if err != nil {
				return err
			}
			for _, b := range batches {
				out.Batches = append(out.Batches, FoundInBatch(b))
			}
		}
		if len(out.Results)+len(out.Batches) == 0 && len(w.Words) > 0 {
			out.Near, err = nearest(t, strings.Join(w.Words, " "))
		}
		return err
	})
	return out, err
}

// nearest are names that differ from a word in few letters.
func nearest(t *store.Tx, word string) ([]string, error) {
	names, err := t.NearNames(word, foundShown)
	low := strings.ToLower(word)
	off := func(name string) int {
		least := apart(low, strings.ToLower(name))
		for part := range strings.FieldsSeq(strings.ToLower(name)) {
			least = min(least, apart(low, part))
		}
		return least
	}
	names = slices.DeleteFunc(names, func(n string) bool { return off(n) > 1+len([]rune(word))/4 })
	slices.SortStableFunc(names, func(a, b string) int { return off(a) - off(b) })
	return append([]string{}, names[:min(nearShown, len(names))]...), err
}

// apart is how many letters must be put in, taken out or changed to make one word of another (Levenshtein, Sov. Phys. Dokl. 10 (1966) 707).
func apart(a, b string) int {
	from, to := []rune(a), []rune(b)
	row := make([]int, len(to)+1)
	for k := range row {
		row[k] = k
	}
	for i, x := range from {
		before := row[0]
		row[0] = i + 1
		for k, y := range to {
			here := before
			if x != y {
				here = 1 + min(before, row[k], row[k+1])
			}
			before, row[k+1] = row[k+1], here
		}
	}
	return row[len(to)]
}

// understood reads what was typed, and says it back.
func understood(text string) (w store.WantedResult, says string) {
	var said []string
	if m := amountAsked.FindStringSubmatch(text); m != nil {
		v, err := strconv.ParseFloat(strings.Replace(m[3], ",", ".", 1), 64)
		if err == nil {
			sign := map[string]string{"<=": "≤", ">=": "≥"}[m[2]]
			if sign == "" {
				sign = m[2]
			}
			w.Compound, w.Sign, w.Amount, w.Unit = strings.TrimSpace(m[1]), sign, v, m[4]
			return w, strings.TrimSpace("means of " + w.Compound + " " + sign + " " + m[3] + " " + m[4])
		}
	}
	if m := vialAsked.FindStringSubmatch(text); m != nil {
		w.Vial, text = m[1], strings.Replace(text, m[0], "", 1)
		said = append(said, "vial "+w.Vial)
	}
	for phrase, flag := range map[string]batch.Flag{"above range": batch.AboveRange, "below range": batch.BelowRange, "not found": batch.NotFound} {
		if at := strings.Index(strings.ToLower(text), phrase); at >= 0 {
			w.Flag, text = string(flag), text[:at]+text[at+len(phrase):]
			said = append(said, "means that are "+phrase)
		}
	}
	if m := byAsked.FindStringSubmatch(text); m != nil {
		w.Who, text = m[1], strings.Replace(text, m[0], "", 1)
		said = append(said, "where "+w.Who+" did something")
	}
	if from, to, rest, ok := dayIn(text); ok {
		if at := toAsked.FindStringIndex(rest); at != nil {
			if _, until, after, ok := dayIn(rest[at[1]:]); ok && until.After(to) {
				to, rest = until, rest[:at[0]]+" "+after
			}
		}
		w.From, w.To, text = from, to, rest
		said = append(said, "measured "+from.Format("2 January 2006")+" to "+to.AddDate(0, 0, -1).Format("2 January 2006"))
	}
	if w.Words = strings.Fields(text); len(w.Words) > 0 {
		said = append([]string{"“" + strings.Join(w.Words, " ") + "” in names"}, said...)
	}
	return w, strings.Join(said, ", ")
}

var (
	monthAsked = regexp.MustCompile(`(?i)\b(?:(\d{1,2})\s+)?(january|february|march|april|may|june|july|august|september|october|november|december)\s+(\d{4})\b`)
	isoAsked   = regexp.MustCompile(`\b(\d{4})-(\d{2})(?:-(\d{2}))?\b`)
	toAsked    = regexp.MustCompile(`(?i)(?:^|\s)to\s+`)
	yearAsked  = regexp.MustCompile(`\b(20\d{2})\b`)
)

// dayIn finds a day, a month or a year, and gives from when to when it is, and the text without it.
func dayIn(text string) (from, to time.Time, rest string, ok bool) {
	cut := func(m string) string { return strings.TrimSpace(strings.Replace(text, m, "", 1)) }
	of := func(y, month, day int, whole string) (time.Time, time.Time, string, bool) {
		if day > 0 {
			at := time.Date(y, time.Month(month), day, 0, 0, 0, 0, time.Local)
			return at, at.AddDate(0, 0, 1), cut(whole), at.Day() == day
		}
		at := time.Date(y, time.Month(month), 1, 0, 0, 0, 0, time.Local)
		return at, at.AddDate(0, 1, 0), cut(whole), month >= 1 && month <= 12
	}
	number := func(s string) int { n, _ := strconv.Atoi(s); return n }
	if m := monthAsked.FindStringSubmatch(text); m != nil {
		at, err := time.Parse("January", strings.ToUpper(m[2][:1])+strings.ToLower(m[2][1:]))
		if err == nil {
			return of(number(m[3]), int(at.Month()), number(m[1]), m[0])
		}
	}
	if m := isoAsked.FindStringSubmatch(text); m != nil {
		return of(number(m[1]), number(m[2]), number(m[3]), m[0])
	}
	if m := yearAsked.FindStringSubmatch(text); m != nil {
		at := time.Date(number(m[1]), 1, 1, 0, 0, 0, 0, time.Local)
		return at, at.AddDate(1, 0, 0), cut(m[0]), true
	}
	return from, to, text, false
}

// reportedOf are the means that a result reports.
func reportedOf(b store.Batch, r batch.Result) (list []store.Reported) {
	unit := b.Version.Method.ReportedUnit()
	for _, s := range r.Samples {
		for _, c := range b.Version.Method.Targets() {
			v, there := s.Values[c.ID]
			if !there {
				continue
			}
			flags := make([]string, len(v.Flags))
			for k, f := range v.Flags {
				flags[k] = string(f)
			}
			list = append(list, store.Reported{BatchID: b.ID, Sample: s.Name, Compound: c.Name, Amount: v.Mean, Unit: unit, Flags: strings.Join(flags, " ")})
		}
	}
	return list
}

// FillShelf makes what is reported found by amounts, of batches whose results are kept from before that was so.
func (l *Lab) FillShelf(ctx context.Context) error {
	studies, err := l.Studies(ctx)
	if err != nil {
		return err
	}
	for _, s := range studies {
		for _, listed := range s.Batches {
			err := l.store.Write(ctx, func(t *store.Tx) error {
				kept, err := t.ReportedOf(listed.ID)
				if err != nil || kept != "" {
					return err
				}
				b, err := t.Batch(listed.ID)
				if err != nil {
					return err
				}
				hash := inputsHash(b)
				r, err := t.Result(b.ID, hash)
				if errors.Is(err, store.ErrNotFound) {
					return nil
				}
				if err != nil {
					return err
				}
				return t.PutReported(b.ID, hash, reportedOf(b, r))
			})
			if err != nil {
				return err
			}
		}
	}
	return nil
}
