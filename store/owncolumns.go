package store

import (
	"encoding/json"
	"errors"

	"yugen/core/batch"
)

// OwnColumns are the columns of the run list that a study has added.
func (t *Tx) OwnColumns(studyID string) ([]batch.OwnColumn, error) {
	list := []batch.OwnColumn{}
	var document string
	err := t.row("SELECT document FROM own_columns WHERE study_id = ?", []any{studyID}, &document)
	if errors.Is(err, ErrNotFound) {
		return list, nil
	}
	if err != nil {
		return nil, err
	}
	return list, json.Unmarshal([]byte(document), &list)
}

// SetOwnColumns says which columns a study has added.
func (t *Tx) SetOwnColumns(studyID string, list []batch.OwnColumn) error {
	document, err := json.Marshal(list)
	if err != nil {
		return err
	}
	return t.exec("INSERT INTO own_columns(study_id, document) VALUES (?, ?) ON CONFLICT (study_id) DO UPDATE SET document = excluded.document", studyID, string(document))
}
