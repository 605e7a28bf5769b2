package store

import (
	"database/sql"
	"encoding/json"

	"yugen/core/batch"
)

// WaitingLine is a line of a run list that came before its file: what it is known by, and the fields that it sets as they were written.
type WaitingLine struct {
	File   string                 `json:"file,omitempty"`
	Vial   string                 `json:"vial,omitempty"`
	Sample string                 `json:"sample,omitempty"` // its name
	Fields map[batch.Field]string `json:"fields"`
	// Doubts are what went wrong while it was measured, where an instrument of the bench measured it.
	Doubts []batch.Doubt `json:"doubts,omitempty"`
}

// WaitingLines lists those of a batch, in their order.
func (t *Tx) WaitingLines(batchID string) ([]WaitingLine, error) {
	list := []WaitingLine{}
	err := t.each("SELECT document FROM waiting_lines WHERE batch_id = ? ORDER BY position", []any{batchID}, func(r *sql.Rows) error {
		var document string
		var w WaitingLine
		if err := r.Scan(&document); err != nil {
			return err
		}
		err := json.Unmarshal([]byte(document), &w)
		list = append(list, w)
		return err
	})
	return list, err
}

// SetWaitingLines says which lines wait for their files.
func (t *Tx) SetWaitingLines(batchID string, list []WaitingLine) error {
	if err := t.exec("DELETE FROM waiting_lines WHERE batch_id = ?", batchID); err != nil {
		return err
	}
	for i, w := range list {
		document, err := json.Marshal(w)
		if err != nil {
			return err
		}
		if err := t.exec("INSERT INTO waiting_lines(batch_id, position, document) VALUES (?,?,?)", batchID, i+1, string(document)); err != nil {
			return err
		}
	}
	return nil
}
