package store

import (
	"database/sql"
	"errors"
	"time"
)

// Document is something that a study keeps by name, as it was last saved.
type Document struct {
	Kind    string
	Name    string
	Author  string
	SavedAt time.Time
	Text    string
}

// The kinds of documents.
const (
	FieldSet   = "fields"     // a set of fields
	TrendNotes = "trends"     // marks and limits of trends
	Ladder     = "ladder"     // retention times of alkanes
	Rejections = "rejections" // what peaks are not, though a library says so
	IonList    = "ions"       // ions to look at together
	Resolving  = "resolving"  // what was said of resolving a batch, by its id
)

// DocumentAction marks changes of documents, on which no number of a batch stands.
const DocumentAction = "document"

// Documents lists those of a kind in the study of a batch, by their names.
func (t *Tx) Documents(batchID, kind string) ([]Document, error) {
	list := []Document{}
	err := t.each("SELECT kind, name, author, saved_at, document FROM documents WHERE kind = ? AND study_id = (SELECT study_id FROM batches WHERE id = ?) ORDER BY name",
		[]any{kind, batchID}, func(r *sql.Rows) error {
			var d Document
			var at string
			err := r.Scan(&d.Kind, &d.Name, &d.Author, &at, &d.Text)
			d.SavedAt = unstamp(at)
			list = append(list, d)
			return err
		})
	return list, err
}

// PutDocument saves a document in the study of a batch, in place of one of its kind and name, and says what that was. An empty text takes it away.
func (t *Tx) PutDocument(batchID string, d Document) (before string, err error) {
	var studyID string
	if err := t.row("SELECT study_id FROM batches WHERE id = ?", []any{batchID}, &studyID); err != nil {
		return "", err
	}
	err = t.row("SELECT document FROM documents WHERE study_id = ? AND kind = ? AND name = ?", []any{studyID, d.Kind, d.Name}, &before)
	switch {
	case errors.Is(err, ErrNotFound) && d.Text == "":
		return "", err
	case err != nil && !errors.Is(err, ErrNotFound):
		return "", err
	case d.Text == "":
		return before, t.exec("DELETE FROM documents WHERE study_id = ? AND kind = ? AND name = ?", studyID, d.Kind, d.Name)
	}
	return before, t.exec("INSERT INTO documents(study_id, kind, name, author, saved_at, document) VALUES (?,?,?,?,?,?) ON CONFLICT (study_id, kind, name) DO UPDATE SET author = excluded.author, saved_at = excluded.saved_at, document = excluded.document",
		studyID, d.Kind, d.Name, d.Author, stamp(t.now), d.Text)
}
