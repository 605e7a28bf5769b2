package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/formats"
)

// Study is a folder of work on one question.
type Study struct {
	ID      string    `json:"id"`
	Name    string    `json:"name"`
	Batches []Listing `json:"batches"`
}

// Listing is a batch in its study's list.
type Listing struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Injections int    `json:"injections"`
	Reported   bool   `json:"reported"`
	// ChangedAt and ChangedBy tell of the newest row of the record about it that is no copy taken out.
	ChangedAt time.Time `json:"changed_at"`
	ChangedBy string    `json:"changed_by"`
	Revision  int       `json:"revision"`
	Away      bool      `json:"away"` // it was put away
	Method    string    `json:"method"`
	Version   int       `json:"version"`
	StartedAt time.Time `json:"started_at"`
	// Signing is where its review stands; empty where nobody has signed anything.
	Signing string `json:"signing"`
	// StartedAs is the name it had at first.
	StartedAs string `json:"-"`
}

// Batch is a batch with its run list.
type Batch struct {
	ID         string      `json:"id"`
	StudyID    string      `json:"study_id"`
	StudyName  string      `json:"study_name"`
	Name       string      `json:"name"`
	Revision   int         `json:"revision"`
	Version    Version     `json:"version"`
	Injections []Injection `json:"injections"`
	Settled    []string    `json:"settled"` // keys of notices that were dealt with
	// OwnColumns are the columns of the run list that the study has added.
	OwnColumns []batch.OwnColumn `json:"own_columns"`
	// Choices are what the batch decides about its own curves. OwnChoices tells whether they were set for it, and not lifted from an early method version.
	Choices batch.Choices `json:"choices"`
	// Away tells that it was put away on the shelf.
	Away bool `json:"away"`
	// Reported batches have a kept report; from then on every change needs a reason.
	Reported bool `json:"reported"`
	// Signed tells that a signature locks it, Reviewing that somebody has begun to review or sign it.
	Signed    bool `json:"signed"`
	Reviewing bool `json:"reviewing"`
	// Replicates says of each injection which replicate it is, as "2 of 3"; empty for the only one of its name and role.
	Replicates []string `json:"replicates"`
	OwnChoices bool     `json:"-"`
}

// Injection is one line of a batch with what its file said and the edits made to it.
type Injection struct {
	batch.Entry
	RawHash  string         `json:"raw_hash"`
	Trace    int            `json:"trace"`
	Signal   string         `json:"signal"` // the trace's name and unit
	Unit     string         `json:"unit"`
	FileName string         `json:"file_name"`
	Header   formats.Header `json:"header"`
	// More are the further files of the injection, one a detector. Trace counts the signals of all files.
	More  []FurtherFile `json:"more,omitempty"`
	Edits []peaks.Edit  `json:"edits"`
	// Blank is the blank that its signals may be taken less of: the nearest before it in the run, else the first after; nil for a blank, and without one.
	Blank *Injection `json:"-"`
}

// setBlanks points each injection to its blank.
func setBlanks(list []Injection) {
	for i := range list {
		if list[i].Role == batch.Blank {
			continue
		}
		for k := range list {
			if list[k].Role == batch.Blank && (k < i || list[i].Blank == nil) {
				list[i].Blank = &list[k]
			}
		}
	}
}

// Studies lists all studies with their batches, in the order they were made.
func (t *Tx) Studies() ([]Study, error) {
	list := []Study{}
	err := t.each("SELECT id, name FROM studies ORDER BY id", nil, func(r *sql.Rows) error {
		s := Study{Batches: []Listing{}}
		err := r.Scan(&s.ID, &s.Name)
		list = append(list, s)
		return err
	})
	if err != nil {
		return nil, err
	}
	signing, err := t.signingStates()
	if err != nil {
		return nil, err
	}
	for i := range list {
		err := t.each(`SELECT b.id, b.created_at, m.name, v.number, b.name, coalesce((SELECT subject FROM record c WHERE c.batch_id = b.id AND +action = 'batch' ORDER BY seq LIMIT 1), b.name), b.away, b.revision, (SELECT count(*) FROM injections i WHERE i.batch_id = b.id), EXISTS (SELECT 1 FROM reports r WHERE r.batch_id = b.id),
			coalesce((SELECT at FROM record c WHERE c.batch_id = b.id AND +action != 'export' ORDER BY seq DESC LIMIT 1), b.created_at), coalesce((SELECT who FROM record c WHERE c.batch_id = b.id AND +action != 'export' ORDER BY seq DESC LIMIT 1), '')
			FROM batches b JOIN method_versions v ON v.id = b.method_version_id JOIN methods m ON m.id = v.method_id WHERE b.study_id = ? ORDER BY b.id`, []any{list[i].ID}, func(r *sql.Rows) error {
			var b Listing
			var at, started string
			err := r.Scan(&b.ID, &started, &b.Method, &b.Version, &b.Name, &b.StartedAs, &b.Away, &b.Revision, &b.Injections, &b.Reported, &at, &b.ChangedBy)
			b.ChangedAt, b.StartedAt, b.Signing = unstamp(at), unstamp(started), signing[b.ID]
			list[i].Batches = append(list[i].Batches, b)
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return list, nil
}

// PutStudy gives the id of the study of that name, making it where there is none.
func (t *Tx) PutStudy(name string) (string, error) {
	if err := t.exec("INSERT INTO studies(id, name, created_at) VALUES (?,?,?) ON CONFLICT DO NOTHING", NewID(), name, stamp(t.now)); err != nil {
		return "", err
	}
	var id string
	return id, t.row("SELECT id FROM studies WHERE name = ?", []any{name}, &id)
}

// NewBatch starts an empty batch.
func (t *Tx) NewBatch(studyID, name, versionID string) (string, error) {
	id := NewID()
	return id, t.exec("INSERT INTO batches(id, study_id, name, method_version_id, revision, created_at) VALUES (?,?,?,?,1,?)", id, studyID, name, versionID, stamp(t.now))
}

// FindBatch gives the id of a batch by its names.
func (t *Tx) FindBatch(studyName, name string) (string, error) {
	var id string
	return id, t.row("SELECT b.id FROM batches b JOIN studies s ON s.id = b.study_id WHERE s.name = ? AND b.name = ?", []any{studyName, name}, &id)
}

// Rename gives a batch another name. ErrTaken where another batch of its study has it.
func (t *Tx) Rename(batchID, name string) error {
	var taken bool
	if err := t.row("SELECT EXISTS (SELECT 1 FROM batches o JOIN batches b ON b.study_id = o.study_id WHERE b.id = ? AND o.id != b.id AND o.name = ?)", []any{batchID, name}, &taken); err != nil {
		return err
	}
	if taken {
		return fmt.Errorf("%w: the study has another batch called %s", ErrTaken, name)
	}
	return t.exec("UPDATE batches SET name = ? WHERE id = ?", name, batchID)
}

// ErrTaken marks a name that something else bears already.
var ErrTaken = errors.New("taken")

// PutAway puts a batch away on the shelf, or takes it out again.
func (t *Tx) PutAway(batchID string, away bool) error {
	return t.exec("UPDATE batches SET away = ? WHERE id = ?", away, batchID)
}

// Batch reads a batch with its injections in run order.
func (t *Tx) Batch(id string) (Batch, error) {
	b := Batch{ID: id, Injections: []Injection{}, Settled: []string{}}
	var versionID string
	var choices sql.NullString
	err := t.row("SELECT b.study_id, s.name, b.name, b.revision, b.method_version_id, b.choices, b.away, EXISTS (SELECT 1 FROM reports r WHERE r.batch_id = b.id) FROM batches b JOIN studies s ON s.id = b.study_id WHERE b.id = ?", []any{id},
		&b.StudyID, &b.StudyName, &b.Name, &b.Revision, &versionID, &choices, &b.Away, &b.Reported)
	if err != nil {
		return b, err
	}
	if b.Version, err = t.Version(versionID); err != nil {
		return b, err
	}
	b.Choices, b.OwnChoices = b.Version.lifted, choices.Valid
	if choices.Valid {
		b.Choices = batch.Choices{}
		if err := json.Unmarshal([]byte(choices.String), &b.Choices); err != nil {
			return b, fmt.Errorf("store: the choices of batch %s cannot be read: %w", b.Name, err)
		}
	}
	if b.OwnColumns, err = t.OwnColumns(b.StudyID); err != nil {
		return b, err
	}
	if b.Injections, err = t.injections(id, ""); err != nil {
		return b, err
	}
	setBlanks(b.Injections)
	signing, err := t.SigningRows(id)
	if err != nil {
		return b, err
	}
	b.Reviewing = len(signing) > 0
	for _, c := range signing {
		b.Signed = Locks(c, b.Signed)
	}
	b.Replicates = batch.Replicates(len(b.Injections), func(k int) batch.Entry { return b.Injections[k].Entry })
	err = t.each("SELECT notice FROM settled WHERE batch_id = ? ORDER BY notice", []any{id}, func(r *sql.Rows) error {
		var key string
		err := r.Scan(&key)
		b.Settled = append(b.Settled, key)
		return err
	})
	return b, err
}

// Injection reads one injection of a batch, without the others: it does not know its blank.
func (t *Tx) Injection(batchID, id string) (Injection, error) {
	list, err := t.injections(batchID, id)
	if err == nil && len(list) == 0 {
		err = fmt.Errorf("injection %s: %w", id, ErrNotFound)
	}
	if err != nil {
		return Injection{}, err
	}
	return list[0], nil
}

// injections reads those of a batch in run order, or the one of an id.
func (t *Tx) injections(batchID, only string) ([]Injection, error) {
	list := []Injection{}
	files, err := t.files(batchID, only)
	if err != nil {
		return nil, err
	}
	err = t.each("SELECT i.id, i.raw_hash, i.trace, coalesce(t.name, ''), coalesce(t.unit, ''), i.file_name, i.header, i.entry, i.edits FROM injections i LEFT JOIN traces t ON t.raw_hash = i.raw_hash AND t.position = i.trace WHERE i.batch_id = ?1 AND (?2 = '' OR i.id = ?2) ORDER BY i.position, i.id", []any{batchID, only}, func(r *sql.Rows) error {
		var in Injection
		var header, entry, edits string
		var injectionID string
		if err := r.Scan(&injectionID, &in.RawHash, &in.Trace, &in.Signal, &in.Unit, &in.FileName, &header, &entry, &edits); err != nil {
			return err
		}
		for _, part := range []struct {
			text string
			into any
		}{{header, &in.Header}, {entry, &in.Entry}, {edits, &in.Edits}} {
			if err := json.Unmarshal([]byte(part.text), part.into); err != nil {
				return err
			}
		}
		in.ID, in.More = injectionID, files[injectionID]
		list = append(list, in)
		return nil
	})
	if err != nil {
		return nil, err
	}
	for i := range list {
		if err := t.nameSignal(&list[i]); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// HasBatch fails where there is no such batch, without reading it.
func (t *Tx) HasBatch(id string) error {
	var one int
	return t.row("SELECT 1 FROM batches WHERE id = ?", []any{id}, &one)
}

// MethodOf reads the method that a batch is processed with, without its injections.
func (t *Tx) MethodOf(batchID string) (m batch.Method, err error) {
	var document string
	if err := t.row("SELECT v.document FROM batches b JOIN method_versions v ON v.id = b.method_version_id WHERE b.id = ?", []any{batchID}, &document); err != nil {
		return m, err
	}
	return batch.ReadMethod([]byte(document))
}

// Touch counts the revision of a batch up, from the one that the caller read; 0 takes any. It returns ErrStale when
// another came first.
func (t *Tx) Touch(batchID string, read int) (int, error) {
	var now int
	if err := t.row("SELECT revision FROM batches WHERE id = ?", []any{batchID}, &now); err != nil {
		return 0, err
	}
	if read != 0 && read != now {
		return now, ErrStale
	}
	return now + 1, t.exec("UPDATE batches SET revision = ? WHERE id = ?", now+1, batchID)
}

// SetChoices sets what a batch decides about its curves; nil leaves that to its method's version, as early versions have it.
func (t *Tx) SetChoices(batchID string, c *batch.Choices) error {
	if c == nil {
		return t.exec("UPDATE batches SET choices = NULL WHERE id = ?", batchID)
	}
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	return t.exec("UPDATE batches SET choices = ? WHERE id = ?", string(text), batchID)
}

// UseVersion sets the method version of a batch.
func (t *Tx) UseVersion(batchID, versionID string) error {
	return t.exec("UPDATE batches SET method_version_id = ? WHERE id = ?", versionID, batchID)
}

// AddInjection adds an injection at the end. added is false when the batch already holds that file.
func (t *Tx) AddInjection(batchID string, in Injection) (id string, added bool, err error) {
	if id, there, err := t.FileIn(batchID, in.RawHash); there || err != nil {
		return id, false, err
	}
	in.ID, in.Edits = NewID(), []peaks.Edit{}
	return in.ID, true, t.RestoreInjection(batchID, in)
}

// RemoveInjection takes an injection out of its batch; its raw file stays in the store.
func (t *Tx) RemoveInjection(id string) error {
	if err := t.SetFiles(id, nil); err != nil {
		return err
	}
	return t.exec("DELETE FROM injections WHERE id = ?", id)
}

// RestoreInjection puts a removed injection back under its id, at the end of the run.
func (t *Tx) RestoreInjection(batchID string, in Injection) error {
	texts := make([]string, 3)
	for i, v := range []any{in.Header, in.Entry, in.Edits} {
		text, err := json.Marshal(v)
		if err != nil {
			return err
		}
		texts[i] = string(text)
	}
	if err := t.exec("INSERT INTO injections(id, batch_id, position, raw_hash, trace, file_name, header, entry, edits) VALUES (?,?,(SELECT coalesce(max(position), 0) + 1 FROM injections WHERE batch_id = ?),?,?,?,?,?,?)",
		in.ID, batchID, batchID, in.RawHash, in.Trace, in.FileName, texts[0], texts[1], texts[2]); err != nil {
		return err
	}
	return t.SetFiles(in.ID, in.More)
}

// SetEntry changes a line of the run list.
func (t *Tx) SetEntry(injectionID string, e batch.Entry) error {
	text, err := json.Marshal(e)
	if err != nil {
		return err
	}
	return t.exec("UPDATE injections SET entry = ? WHERE id = ?", string(text), injectionID)
}

// SetEdits changes the list of edits of an injection.
func (t *Tx) SetEdits(injectionID string, edits []peaks.Edit) error {
	if edits == nil {
		edits = []peaks.Edit{}
	}
	text, err := json.Marshal(edits)
	if err != nil {
		return err
	}
	return t.exec("UPDATE injections SET edits = ? WHERE id = ?", string(text), injectionID)
}

// SetOrder puts the injections of a batch into the given run order.
func (t *Tx) SetOrder(ids []string) error {
	for i, id := range ids {
		if err := t.exec("UPDATE injections SET position = ? WHERE id = ?", i+1, id); err != nil {
			return err
		}
	}
	return nil
}

// SetSettled marks a notice as dealt with, or as open again.
func (t *Tx) SetSettled(batchID, notice string, settled bool) error {
	if settled {
		return t.exec("INSERT INTO settled(batch_id, notice) VALUES (?,?) ON CONFLICT DO NOTHING", batchID, notice)
	}
	return t.exec("DELETE FROM settled WHERE batch_id = ? AND notice = ?", batchID, notice)
}
