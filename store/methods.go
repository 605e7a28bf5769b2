package store

import (
	"database/sql"
	"encoding/json"
	"time"

	"yugen/core/batch"
)

// Version is a saved state of a method; it never changes.
type Version struct {
	ID       string       `json:"id"`
	MethodID string       `json:"method_id"`
	Name     string       `json:"name"`
	Number   int          `json:"number"`
	Author   string       `json:"author"`
	Reason   string       `json:"reason"`
	SavedAt  time.Time    `json:"saved_at"`
	Hash     string       `json:"hash"`
	Method   batch.Method `json:"method"`

	lifted batch.Choices // what an early document said of injections
}

// NewMethod starts a method in a study.
func (t *Tx) NewMethod(studyID, name string) (string, error) {
	id := NewID()
	return id, t.exec("INSERT INTO methods(id, study_id, name) VALUES (?,?,?)", id, studyID, name)
}

// SaveVersion saves the next version of a method.
func (t *Tx) SaveVersion(methodID, author, reason string, m batch.Method) (Version, error) {
	document, err := json.Marshal(m)
	if err != nil {
		return Version{}, err
	}
	id, err := t.SaveDocument(methodID, author, reason, document)
	if err != nil {
		return Version{}, err
	}
	return t.Version(id)
}

// SaveDocument saves the next version of a method as it is written, which need not be as methods are written today.
func (t *Tx) SaveDocument(methodID, author, reason string, document []byte) (id string, err error) {
	var number int
	if err := t.row("SELECT (SELECT coalesce(max(number), 0) + 1 FROM method_versions WHERE method_id = methods.id) FROM methods WHERE id = ?", []any{methodID}, &number); err != nil {
		return "", err
	}
	id = NewID()
	return id, t.exec("INSERT INTO method_versions(id, method_id, number, author, reason, saved_at, hash, document) VALUES (?,?,?,?,?,?,?,?)",
		id, methodID, number, author, reason, stamp(t.now), Hash(document), string(document))
}

// Version reads a method version.
func (t *Tx) Version(id string) (Version, error) {
	v := Version{ID: id}
	var at, document string
	err := t.row("SELECT v.method_id, m.name, v.number, v.author, v.reason, v.saved_at, v.hash, v.document FROM method_versions v JOIN methods m ON m.id = v.method_id WHERE v.id = ?", []any{id},
		&v.MethodID, &v.Name, &v.Number, &v.Author, &v.Reason, &at, &v.Hash, &document)
	if err != nil {
		return v, err
	}
	v.SavedAt = unstamp(at)
	if v.lifted, err = batch.LiftChoices([]byte(document)); err != nil {
		return v, err
	}
	v.Method, err = batch.ReadMethod([]byte(document))
	return v, err
}

// Methods lists all methods with their studies, the newest version of each, and how many batches use any.
func (t *Tx) Methods() ([]MethodListing, error) {
	list := []MethodListing{}
	err := t.each("SELECT m.id, m.name, s.name, (SELECT count(*) FROM batches b JOIN method_versions v ON v.id = b.method_version_id WHERE v.method_id = m.id) FROM methods m JOIN studies s ON s.id = m.study_id ORDER BY m.id", nil, func(r *sql.Rows) error {
		var m MethodListing
		err := r.Scan(&m.ID, &m.Name, &m.Study, &m.Batches)
		list = append(list, m)
		return err
	})
	for i := range list {
		if err == nil {
			list[i].Versions, err = t.Versions(list[i].ID)
		}
	}
	return list, err
}

// UsedBy counts the batches that a method version is used by.
func (t *Tx) UsedBy(versionID string) (n int, err error) {
	err = t.row("SELECT count(*) FROM batches WHERE method_version_id = ?", []any{versionID}, &n)
	return n, err
}

// MethodListing is a method in the list of all.
type MethodListing struct {
	ID       string
	Name     string
	Study    string
	Batches  int       // that use a version of it
	Versions []Version // the newest first, without their documents
}

// VersionHashes are the hashes of the documents of all method versions, computed anew, by their ids.
func (t *Tx) VersionHashes() (map[string]string, error) {
	hashes := map[string]string{}
	return hashes, t.each("SELECT id, document FROM method_versions", nil, func(r *sql.Rows) error {
		var id, document string
		err := r.Scan(&id, &document)
		hashes[id] = Hash([]byte(document))
		return err
	})
}

// CompoundNames lists what compounds are called in the newest versions of all methods, in the order of the alphabet; at most so many.
func (t *Tx) CompoundNames(most int) (names []string, err error) {
	err = t.each(`SELECT DISTINCT json_extract(c.value, '$.name') AS name FROM method_versions v, json_each(v.document, '$.compounds') c
		WHERE v.number = (SELECT max(number) FROM method_versions w WHERE w.method_id = v.method_id) AND name != '' ORDER BY name COLLATE NOCASE LIMIT ?`, []any{most}, func(r *sql.Rows) error {
		var name string
		err := r.Scan(&name)
		names = append(names, name)
		return err
	})
	return names, err
}

// Versions lists the versions of a method, the newest first, without their documents.
func (t *Tx) Versions(methodID string) ([]Version, error) {
	list := []Version{}
	err := t.each("SELECT v.id, m.name, v.number, v.author, v.reason, v.saved_at, v.hash FROM method_versions v JOIN methods m ON m.id = v.method_id WHERE v.method_id = ? ORDER BY v.number DESC", []any{methodID}, func(r *sql.Rows) error {
		v := Version{MethodID: methodID}
		var at string
		if err := r.Scan(&v.ID, &v.Name, &v.Number, &v.Author, &v.Reason, &at, &v.Hash); err != nil {
			return err
		}
		v.SavedAt = unstamp(at)
		list = append(list, v)
		return nil
	})
	return list, err
}
