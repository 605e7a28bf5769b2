package store

import (
	"database/sql"
	"encoding/json"
	"time"

	"yugen/formats/text"
)

// Profile is how delimited text of one shape is read, kept with a study.
type Profile struct {
	ID      string       `json:"id"`
	MadeBy  string       `json:"made_by"`
	MadeAt  time.Time    `json:"made_at"`
	Profile text.Profile `json:"profile"`
}

// ProfilesOf lists those of the study of a batch, the newest first.
func (t *Tx) ProfilesOf(batchID string) ([]Profile, error) {
	if err := t.HasBatch(batchID); err != nil {
		return nil, err
	}
	list := []Profile{}
	err := t.each("SELECT id, document, made_by, made_at FROM profiles WHERE study_id = (SELECT study_id FROM batches WHERE id = ?) ORDER BY made_at DESC, id DESC", []any{batchID}, func(r *sql.Rows) error {
		var p Profile
		var document, at string
		if err := r.Scan(&p.ID, &document, &p.MadeBy, &at); err != nil {
			return err
		}
		p.MadeAt = unstamp(at)
		list = append(list, p)
		return json.Unmarshal([]byte(document), &list[len(list)-1].Profile)
	})
	return list, err
}

// PutProfile keeps a profile under its name; one of that name gives way to it.
func (t *Tx) PutProfile(studyID, who string, p text.Profile) (id string, err error) {
	document, err := json.Marshal(p)
	if err != nil {
		return "", err
	}
	id = NewID()
	return id, t.exec("INSERT INTO profiles(id, study_id, name, document, made_by, made_at) VALUES (?,?,?,?,?,?) ON CONFLICT (study_id, name) DO UPDATE SET document = excluded.document, made_by = excluded.made_by, made_at = excluded.made_at",
		id, studyID, p.Name, string(document), who, stamp(t.now))
}

// DropProfile takes a profile away. What was read by it keeps it with its file.
func (t *Tx) DropProfile(id string) error {
	return t.exec("DELETE FROM profiles WHERE id = ?", id)
}
