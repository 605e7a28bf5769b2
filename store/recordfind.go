package store

import (
	"database/sql"
	"strings"
	"time"
)

// Wanted is what is looked for in the record; what is empty is anything.
type Wanted struct {
	BatchID, Who, Action string
	Words                string // in what was done, or why, or by whom
	From, To             time.Time
}

func (w Wanted) where() (where string, values []any) {
	var list []string
	add := func(condition string, value ...any) {
		list, values = append(list, condition), append(values, value...)
	}
	if w.BatchID != "" {
		add("batch_id = ?", w.BatchID)
	}
	if w.Who != "" {
		add("record.who = ?", w.Who)
	}
	if w.Action != "" {
		add("action = ?", w.Action)
	}
	for _, word := range strings.Fields(w.Words) {
		if len([]rune(word)) >= trigram {
			continue // the index of words finds it
		}
		like := "%" + escaped(word) + "%"
		add(`(record.subject LIKE ? ESCAPE '\' OR record.why LIKE ? ESCAPE '\' OR record.who LIKE ? ESCAPE '\')`, like, like, like)
	}
	if !w.From.IsZero() {
		add("at >= ?", stamp(w.From))
	}
	if !w.To.IsZero() {
		add("at < ?", stamp(w.To))
	}
	if len(list) == 0 {
		return "1", values
	}
	return strings.Join(list, " AND "), values
}

// escaped is a word in which nothing is a pattern.
func escaped(word string) string {
	return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word)
}

// indexed are the words that the index of words knows, as it takes them; empty without any.
func (w Wanted) indexed() string {
	var list []string
	for _, word := range strings.Fields(w.Words) {
		if len([]rune(word)) >= trigram {
			list = append(list, matched(word))
		}
	}
	return strings.Join(list, " AND ")
}

// FindChanges lists rows of the record, the newest first, at most limit of those before a row; 0 begins at the newest.
func (t *Tx) FindChanges(w Wanted, before int64, limit int) ([]Change, error) {
	where, values := w.where()
	if before > 0 {
		where, values = where+" AND seq < ?", append(values, before)
	}
	from, order := "record", "seq"
	if words := w.indexed(); words != "" { // from the index, which knows the newest first
		from, order = "record_words JOIN record ON seq = record_words.rowid", "record_words.rowid"
		where, values = "record_words MATCH ? AND "+where, append([]any{words}, values...)
		if before > 0 {
			where, values = where+" AND record_words.rowid < ?", append(values, before)
		}
	}
	list := []Change{}
	err := t.each("SELECT "+recordColumns+" FROM "+from+" WHERE "+where+" ORDER BY "+order+" DESC LIMIT ?", append(values, limit), func(r *sql.Rows) error {
		c, err := scanChange(r)
		list = append(list, c)
		return err
	})
	return list, err
}

// RecordWords are who and what kinds of changes the record tells of. Each is stepped to by its index, so that a long record takes no longer.
func (t *Tx) RecordWords() (who, actions []string, err error) {
	for column, list := range map[string]*[]string{"who": &who, "action": &actions} {
		*list = []string{}
		err := t.each("WITH RECURSIVE steps(v) AS (SELECT min("+column+") FROM record UNION ALL SELECT (SELECT min("+column+") FROM record WHERE "+column+" > v) FROM steps WHERE v IS NOT NULL) SELECT v FROM steps WHERE v IS NOT NULL", nil, func(r *sql.Rows) error {
			var v string
			err := r.Scan(&v)
			*list = append(*list, v)
			return err
		})
		if err != nil {
			return who, actions, err
		}
	}
	return who, actions, nil
}
