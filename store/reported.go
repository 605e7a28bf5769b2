package store

import (
	"database/sql"
	"errors"
	"strings"
	"time"
)

// Reported is a mean that a batch reports of a sample.
type Reported struct {
	BatchID  string
	Sample   string
	Compound string
	Amount   *float64
	Unit     string
	Flags    string // with blanks between them
}

// PutReported keeps what a batch reports, in place of what it reported before, as made from these inputs.
func (t *Tx) PutReported(batchID, inputsHash string, list []Reported) error {
	if err := t.exec("DELETE FROM reported WHERE batch_id = ?", batchID); err != nil {
		return err
	}
	for _, r := range list {
		if err := t.exec("INSERT INTO reported(batch_id, sample, compound, amount, unit, flags) VALUES (?,?,?,?,?,?)", batchID, r.Sample, r.Compound, r.Amount, r.Unit, r.Flags); err != nil {
			return err
		}
	}
	return t.exec("INSERT INTO reported_of(batch_id, inputs_hash) VALUES (?,?) ON CONFLICT (batch_id) DO UPDATE SET inputs_hash = excluded.inputs_hash", batchID, inputsHash)
}

// ReportedOf is the hash of the inputs that what is kept of a batch was made from; empty where nothing is.
func (t *Tx) ReportedOf(batchID string) (hash string, err error) {
	if err = t.row("SELECT inputs_hash FROM reported_of WHERE batch_id = ?", []any{batchID}, &hash); errors.Is(err, ErrNotFound) {
		return "", nil
	}
	return hash, err
}

// WantedResult is what is looked for among all results; what is empty is anything.
type WantedResult struct {
	Words    []string // in names of samples, vials, files, batches, studies or methods
	Who      string   // did something in the batch
	Vial     string
	From, To time.Time // measured
	Compound string
	Sign     string // <, ≤, =, ≥ or >; empty is whatever amount
	Amount   float64
	Unit     string
	Flag     string
}

// FoundResult is one that was found: an injection, or a mean that is reported.
type FoundResult struct {
	BatchID     string
	Batch       string
	Study       string
	InjectionID string // of an injection
	Name        string // of the injection, or the sample
	Vial        string
	File        string
	At          time.Time
	Compound    string // of a mean
	Amount      *float64
	Unit        string
	Flags       string
}

// trigram is how long a word is at least that the index of words knows.
const trigram = 3

// matched is a word as the index of words takes it, to the letter.
func matched(word string) string { return `"` + strings.ReplaceAll(word, `"`, `""`) + `"` }

// FindResults looks for injections, or where a compound or a flag is wanted for reported means, the newest first.
func (t *Tx) FindResults(w WantedResult, limit int) ([]FoundResult, error) {
	if w.Compound != "" || w.Flag != "" {
		return t.findReported(w, limit)
	}
	from, where, values := "found_injections f", []string{"1"}, []any{}
	var long []string
	for _, word := range w.Words {
		like := "%" + escaped(word) + "%"
		if len([]rune(word)) >= trigram {
			long = append(long, matched(word))
			continue
		}
		where, values = append(where, `(f.name LIKE ? ESCAPE '\' OR f.vial LIKE ? ESCAPE '\')`), append(values, like, like)
	}
	if len(long) > 0 {
		from = "injection_words w JOIN found_injections f ON f.n = w.rowid"
		where, values = append(where, "injection_words MATCH ?"), append(values, strings.Join(long, " AND "))
	}
	if w.Vial != "" {
		where, values = append(where, "f.vial = ? COLLATE NOCASE"), append(values, w.Vial)
	}
	where, values = w.more(where, values, "f.batch_id", "f.at")
	// Joined in this order, so that the first that are found are the newest and nothing is sorted.
	order := "f.n"
	if len(long) > 0 {
		order = "w.rowid"
	}
	list := []FoundResult{}
	err := t.each("SELECT f.batch_id, b.name, s.name, f.injection_id, f.name, f.vial, f.file, f.at FROM "+from+" CROSS JOIN batches b ON b.id = f.batch_id CROSS JOIN studies s ON s.id = b.study_id WHERE "+strings.Join(where, " AND ")+" ORDER BY "+order+" DESC LIMIT ?", append(values, limit), func(r *sql.Rows) error {
		var f FoundResult
		var at string
		err := r.Scan(&f.BatchID, &f.Batch, &f.Study, &f.InjectionID, &f.Name, &f.Vial, &f.File, &at)
		f.At, _ = time.Parse(time.RFC3339, at)
		list = append(list, f)
		return err
	})
	return list, err
}

// more narrows to who worked in a batch, and when was measured.
func (w WantedResult) more(where []string, values []any, batch, at string) ([]string, []any) {
	if w.Who != "" {
		where, values = append(where, batch+` IN (SELECT DISTINCT batch_id FROM record WHERE who IN (SELECT who FROM (WITH RECURSIVE steps(v) AS (SELECT min(who) FROM record UNION ALL SELECT (SELECT min(who) FROM record WHERE who > v) FROM steps WHERE v IS NOT NULL) SELECT v AS who FROM steps WHERE v IS NOT NULL) WHERE who LIKE ? ESCAPE '\'))`), append(values, "%"+escaped(w.Who)+"%")
	}
	if at != "" && !w.From.IsZero() {
		where, values = append(where, at+" >= ?"), append(values, w.From.UTC().Format(time.RFC3339))
	}
	if at != "" && !w.To.IsZero() {
		where, values = append(where, at+" < ? AND "+at+" != ''"), append(values, w.To.UTC().Format(time.RFC3339))
	}
	return where, values
}

func (t *Tx) findReported(w WantedResult, limit int) ([]FoundResult, error) {
	where, values := []string{"1"}, []any{}
	if w.Compound != "" {
		where, values = append(where, "r.compound = ? COLLATE NOCASE"), append(values, w.Compound)
	}
	if w.Flag != "" {
		where, values = append(where, `r.flags != '' AND r.flags LIKE ? ESCAPE '\'`), append(values, "%"+escaped(w.Flag)+"%")
	}
	if sign := map[string]string{"<": "<", "≤": "<=", "=": "=", "≥": ">=", ">": ">"}[w.Sign]; sign != "" {
		where, values = append(where, "r.amount "+sign+" ?"), append(values, w.Amount)
	}
	if w.Unit != "" {
		where, values = append(where, "r.unit = ? COLLATE NOCASE"), append(values, w.Unit)
	}
	for _, word := range w.Words {
		where, values = append(where, `(r.sample LIKE ? ESCAPE '\' OR b.name LIKE ? ESCAPE '\')`), append(values, "%"+escaped(word)+"%", "%"+escaped(word)+"%")
	}
	if !w.From.IsZero() || !w.To.IsZero() {
		inner, more := w.more(nil, nil, "", "f.at")
		if len(inner) > 0 {
			where, values = append(where, "EXISTS (SELECT 1 FROM found_injections f WHERE f.batch_id = r.batch_id AND "+strings.Join(inner, " AND ")+")"), append(values, more...)
		}
	}
	where, values = WantedResult{Who: w.Who}.more(where, values, "r.batch_id", "")
	list := []FoundResult{}
	err := t.each("SELECT r.batch_id, b.name, s.name, r.sample, r.compound, r.amount, r.unit, r.flags, b.created_at FROM reported r CROSS JOIN batches b ON b.id = r.batch_id CROSS JOIN studies s ON s.id = b.study_id WHERE "+strings.Join(where, " AND ")+" ORDER BY r.batch_id DESC LIMIT ?", append(values, limit), func(r *sql.Rows) error {
		var f FoundResult
		var amount sql.NullFloat64
		var at string
		err := r.Scan(&f.BatchID, &f.Batch, &f.Study, &f.Name, &f.Compound, &amount, &f.Unit, &f.Flags, &at)
		if amount.Valid {
			f.Amount = &amount.Float64
		}
		f.At = unstamp(at)
		list = append(list, f)
		return err
	})
	return list, err
}

// FoundBatch is one that was found by its name, its study's or its method's.
type FoundBatch struct {
	BatchID, Batch, Study, Method string
}

// FindBatches looks for batches of whose name, study and method every word is a part, the newest first.
func (t *Tx) FindBatches(words []string, limit int) ([]FoundBatch, error) {
	where, values := []string{"1"}, []any{}
	for _, word := range words {
		where, values = append(where, `b.name || ' ' || s.name || ' ' || m.name LIKE ? ESCAPE '\'`), append(values, "%"+escaped(word)+"%")
	}
	list := []FoundBatch{}
	err := t.each("SELECT b.id, b.name, s.name, m.name FROM batches b JOIN studies s ON s.id = b.study_id JOIN method_versions v ON v.id = b.method_version_id JOIN methods m ON m.id = v.method_id WHERE "+strings.Join(where, " AND ")+" ORDER BY b.id DESC LIMIT ?", append(values, limit), func(r *sql.Rows) error {
		var f FoundBatch
		err := r.Scan(&f.BatchID, &f.Batch, &f.Study, &f.Method)
		list = append(list, f)
		return err
	})
	return list, err
}

// NearNames are names of injections that share parts with a word, the nearest by that first.
func (t *Tx) NearNames(word string, limit int) (names []string, err error) {
	var parts []string
	letters := []rune(word)
	for k := 0; k+trigram <= len(letters); k++ {
		parts = append(parts, matched(string(letters[k:k+trigram])))
	}
	if len(parts) == 0 {
		return nil, nil
	}
	err = t.each("SELECT DISTINCT f.name FROM (SELECT rowid FROM injection_words WHERE injection_words MATCH ? ORDER BY rank LIMIT 400) w JOIN found_injections f ON f.n = w.rowid LIMIT ?", []any{"name: (" + strings.Join(parts, " OR ") + ")", limit}, func(r *sql.Rows) error {
		var name string
		err := r.Scan(&name)
		names = append(names, name)
		return err
	})
	return names, err
}

// ForgetReported forgets what all batches report, so that it is made anew from their results.
func (t *Tx) ForgetReported() error {
	if err := t.exec("DELETE FROM reported"); err != nil {
		return err
	}
	return t.exec("DELETE FROM reported_of")
}
