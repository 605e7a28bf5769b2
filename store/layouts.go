package store

import (
	"database/sql"
	"errors"
	"time"
)

// Layout is the newest version of a layout of a study; the document is as it was written.
type Layout struct {
	ID       string
	Name     string
	Number   int
	Author   string
	SavedAt  time.Time
	Document string
}

// Layouts lists those of the study of a batch that are not put away, by their names.
func (t *Tx) Layouts(batchID string) ([]Layout, error) {
	list := []Layout{}
	err := t.each(`SELECT l.id, l.name, v.number, v.author, v.saved_at, v.document FROM layouts l JOIN layout_versions v ON v.layout_id = l.id
		WHERE l.away = '' AND l.study_id = (SELECT study_id FROM batches WHERE id = ?) AND v.number = (SELECT max(number) FROM layout_versions WHERE layout_id = l.id) ORDER BY l.name`,
		[]any{batchID}, func(r *sql.Rows) error {
			var l Layout
			var at string
			err := r.Scan(&l.ID, &l.Name, &l.Number, &l.Author, &at, &l.Document)
			l.SavedAt = unstamp(at)
			list = append(list, l)
			return err
		})
	return list, err
}

// PutLayout saves a version of a layout of the study of a batch: the first of a new one where id is empty, else the one after base. One that has gone on
// meanwhile gives ErrStale, a name that is taken ErrTaken.
func (t *Tx) PutLayout(batchID, id, name string, base int, author, document string) (string, int, error) {
	var studyID string
	if err := t.row("SELECT study_id FROM batches WHERE id = ?", []any{batchID}, &studyID); err != nil {
		return "", 0, err
	}
	var other, away string
	err := t.row("SELECT id, away FROM layouts WHERE study_id = ? AND name = ?", []any{studyID, name}, &other, &away)
	switch {
	case err != nil && !errors.Is(err, ErrNotFound):
		return "", 0, err
	case err == nil && other != id && away == "":
		return "", 0, ErrTaken
	case err == nil && other != id: // one of that name was put away: it comes back with a further version
		if id != "" {
			return "", 0, ErrTaken
		}
		id = other
		if err := t.row("SELECT max(number) FROM layout_versions WHERE layout_id = ?", []any{id}, &base); err != nil {
			return "", 0, err
		}
	}
	newest := 0
	if id == "" {
		id = NewID()
		if err := t.exec("INSERT INTO layouts(id, study_id, name) VALUES (?,?,?)", id, studyID, name); err != nil {
			return "", 0, err
		}
	} else if err := t.row("SELECT max(v.number) FROM layout_versions v JOIN layouts l ON l.id = v.layout_id WHERE l.id = ? AND l.study_id = ? GROUP BY l.id", []any{id, studyID}, &newest); err != nil {
		return "", 0, err
	}
	if newest != base {
		return "", 0, ErrStale
	}
	if err := t.exec("UPDATE layouts SET name = ?, away = '' WHERE id = ?", name, id); err != nil {
		return "", 0, err
	}
	return id, newest + 1, t.exec("INSERT INTO layout_versions(id, layout_id, number, author, saved_at, hash, document) VALUES (?,?,?,?,?,?,?)", NewID(), id, newest+1, author, stamp(t.now), Hash([]byte(document)), document)
}

// PutLayoutAway takes a layout off the list of its study; its versions stay.
func (t *Tx) PutLayoutAway(batchID, id string) error {
	var name string
	if err := t.row("SELECT name FROM layouts WHERE id = ? AND study_id = (SELECT study_id FROM batches WHERE id = ?)", []any{id, batchID}, &name); err != nil {
		return err
	}
	return t.exec("UPDATE layouts SET away = ? WHERE id = ?", stamp(t.now), id)
}

// UseLayout notes that a batch was looked at with a layout.
func (t *Tx) UseLayout(batchID, layout string) error {
	return t.exec("INSERT INTO batch_layouts(batch_id, layout, used_at) VALUES (?,?,?) ON CONFLICT (batch_id, layout) DO UPDATE SET used_at = excluded.used_at", batchID, layout, stamp(t.now))
}

// UsedLayouts are those that a batch was looked at with, and when.
func (t *Tx) UsedLayouts(batchID string) (map[string]time.Time, error) {
	used := map[string]time.Time{}
	err := t.each("SELECT layout, used_at FROM batch_layouts WHERE batch_id = ?", []any{batchID}, func(r *sql.Rows) error {
		var layout, at string
		err := r.Scan(&layout, &at)
		used[layout] = unstamp(at)
		return err
	})
	return used, err
}
