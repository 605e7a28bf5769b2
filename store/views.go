package store

import "database/sql"

// View is a way of looking at traces that a study has kept; the document is the application's own.
type View struct {
	ID, Name, Document string
}

// Views lists those of a study by their names.
func (t *Tx) Views(studyID string) ([]View, error) {
	list := []View{}
	err := t.each("SELECT id, name, document FROM views WHERE study_id = ? ORDER BY name", []any{studyID}, func(r *sql.Rows) error {
		var v View
		err := r.Scan(&v.ID, &v.Name, &v.Document)
		list = append(list, v)
		return err
	})
	return list, err
}

// PutView keeps a view under its name; one of that name gives way to it.
func (t *Tx) PutView(studyID, name, document string) error {
	return t.exec("INSERT INTO views(id, study_id, name, document) VALUES (?,?,?,?) ON CONFLICT (study_id, name) DO UPDATE SET document = excluded.document", NewID(), studyID, name, document)
}

// DropView takes a view of a study away.
func (t *Tx) DropView(studyID, id string) error {
	return t.exec("DELETE FROM views WHERE id = ? AND study_id = ?", id, studyID)
}
