package store

import (
	"database/sql"
	"time"
)

// ReportSet are many reports of a batch that are made together, by a layout as it was then.
type ReportSet struct {
	ID            string
	BatchID       string
	Layout        string // its id, or the name of one that ships
	LayoutName    string
	LayoutVersion int
	Document      string // the layout itself
	Asked         string // what was asked for, JSON
	InputsHash    string
	State         string
	MadeBy        string
	MadeAt        time.Time
}

// ReportFile is one of them. Its content is a blob once it is made.
type ReportFile struct {
	Position    int
	InjectionID string
	Sample      string
	Name        string
	Format      string
	State       string
	Says        string // why it is held back, or failed
	Hash        string
	Size        int64
}

// Delivery is a file that is to be sent somewhere.
type Delivery struct {
	SetID    string
	Position int
	Target   string
	State    string
	Says     string
	Tries    int
	At       time.Time
}

// PutReportSet begins a set with its files.
func (t *Tx) PutReportSet(s ReportSet, files []ReportFile) (ReportSet, error) {
	s.ID, s.MadeAt = NewID(), t.now
	if err := t.exec("INSERT INTO report_sets(id, batch_id, layout, layout_name, layout_version, document, asked, inputs_hash, state, made_by, made_at) VALUES (?,?,?,?,?,?,?,?,?,?,?)",
		s.ID, s.BatchID, s.Layout, s.LayoutName, s.LayoutVersion, s.Document, s.Asked, s.InputsHash, s.State, s.MadeBy, stamp(t.now)); err != nil {
		return s, err
	}
	for _, f := range files {
		if err := t.exec("INSERT INTO report_files(set_id, position, injection_id, sample, name, format, state, says, hash, size) VALUES (?,?,?,?,?,?,?,?,?,?)",
			s.ID, f.Position, f.InjectionID, f.Sample, f.Name, f.Format, f.State, f.Says, f.Hash, f.Size); err != nil {
			return s, err
		}
	}
	return s, nil
}

// ReportSets lists those of a batch, the newest first.
func (t *Tx) ReportSets(batchID string) ([]ReportSet, error) {
	list := []ReportSet{}
	err := t.each("SELECT id, batch_id, layout, layout_name, layout_version, document, asked, inputs_hash, state, made_by, made_at FROM report_sets WHERE batch_id = ? ORDER BY id DESC", []any{batchID}, func(r *sql.Rows) error {
		var s ReportSet
		var at string
		err := r.Scan(&s.ID, &s.BatchID, &s.Layout, &s.LayoutName, &s.LayoutVersion, &s.Document, &s.Asked, &s.InputsHash, &s.State, &s.MadeBy, &at)
		s.MadeAt = unstamp(at)
		list = append(list, s)
		return err
	})
	return list, err
}

// ReportFiles lists the files of a set in their order.
func (t *Tx) ReportFiles(setID string) ([]ReportFile, error) {
	list := []ReportFile{}
	err := t.each("SELECT position, injection_id, sample, name, format, state, says, hash, size FROM report_files WHERE set_id = ? ORDER BY position", []any{setID}, func(r *sql.Rows) error {
		var f ReportFile
		err := r.Scan(&f.Position, &f.InjectionID, &f.Sample, &f.Name, &f.Format, &f.State, &f.Says, &f.Hash, &f.Size)
		list = append(list, f)
		return err
	})
	return list, err
}

// SetReportFile says what became of a file of a set.
func (t *Tx) SetReportFile(setID string, f ReportFile) error {
	return t.exec("UPDATE report_files SET state = ?, says = ?, hash = ?, size = ? WHERE set_id = ? AND position = ?", f.State, f.Says, f.Hash, f.Size, setID, f.Position)
}

// SetReportSet says how far a set is.
func (t *Tx) SetReportSet(setID, state string) error {
	return t.exec("UPDATE report_sets SET state = ? WHERE id = ?", state, setID)
}

// PutDelivery says what is to be sent, or what became of it.
func (t *Tx) PutDelivery(d Delivery) error {
	return t.exec("INSERT INTO deliveries(set_id, position, target, state, says, tries, at) VALUES (?,?,?,?,?,?,?) ON CONFLICT (set_id, position, target) DO UPDATE SET state = excluded.state, says = excluded.says, tries = excluded.tries, at = excluded.at",
		d.SetID, d.Position, d.Target, d.State, d.Says, d.Tries, stamp(t.now))
}

// Deliveries lists those in a state, of all sets where none is named, in the order of their sets.
func (t *Tx) Deliveries(setID, state string) ([]Delivery, error) {
	list := []Delivery{}
	err := t.each("SELECT set_id, position, target, state, says, tries, at FROM deliveries WHERE (?1 = '' OR set_id = ?1) AND (?2 = '' OR state = ?2) ORDER BY set_id, target, position", []any{setID, state}, func(r *sql.Rows) error {
		var d Delivery
		var at string
		err := r.Scan(&d.SetID, &d.Position, &d.Target, &d.State, &d.Says, &d.Tries, &at)
		d.At = unstamp(at)
		list = append(list, d)
		return err
	})
	return list, err
}

// ReportSet is one of all batches.
func (t *Tx) ReportSet(id string) (ReportSet, error) {
	var batchID string
	if err := t.row("SELECT batch_id FROM report_sets WHERE id = ?", []any{id}, &batchID); err != nil {
		return ReportSet{}, err
	}
	list, err := t.ReportSets(batchID)
	for _, s := range list {
		if s.ID == id {
			return s, err
		}
	}
	return ReportSet{}, err
}
