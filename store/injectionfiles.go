package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"time"
	"unicode/utf8"

	"yugen/formats"
)

// FurtherFile is a further file of an injection, as that of a second detector.
type FurtherFile struct {
	RawHash  string         `json:"raw_hash"`
	FileName string         `json:"file_name"`
	Header   formats.Header `json:"header"`
}

// placesPerFile parts the places of signals by the files of an injection: the first file's come first.
const placesPerFile = 1 << 20

// SignalAt is the raw file and the position in it of a signal of the injection, by its place among those of all its files.
func (in Injection) SignalAt(place int) (rawHash string, position int, ok bool) {
	k := place / placesPerFile
	switch {
	case place < 0 || k > len(in.More):
		return "", 0, false
	case k == 0:
		return in.RawHash, place, true
	}
	return in.More[k-1].RawHash, place % placesPerFile, true
}

// PlaceIn is the place of a signal of one of the injection's files, the first being 0.
func PlaceIn(file, position int) int { return file*placesPerFile + position }

// Hashes are those of all raw files of the injection.
func (in Injection) Hashes() []string {
	list := []string{in.RawHash}
	for _, f := range in.More {
		list = append(list, f.RawHash)
	}
	return list
}

// FileIn finds the injection of a batch that a raw file belongs to.
func (t *Tx) FileIn(batchID, rawHash string) (injectionID string, there bool, err error) {
	err = t.row("SELECT id FROM injections WHERE batch_id = ? AND raw_hash = ? UNION SELECT injection_id FROM injection_files WHERE batch_id = ? AND raw_hash = ?",
		[]any{batchID, rawHash, batchID, rawHash}, &injectionID)
	if errors.Is(err, ErrNotFound) {
		return "", false, nil
	}
	return injectionID, err == nil, err
}

// SetFiles says which further files an injection has.
func (t *Tx) SetFiles(injectionID string, files []FurtherFile) error {
	if err := t.exec("DELETE FROM injection_files WHERE injection_id = ?", injectionID); err != nil {
		return err
	}
	for i, f := range files {
		header, err := json.Marshal(f.Header)
		if err != nil {
			return err
		}
		if err := t.exec("INSERT INTO injection_files(injection_id, batch_id, position, raw_hash, file_name, header) VALUES (?, (SELECT batch_id FROM injections WHERE id = ?), ?, ?, ?, ?)",
			injectionID, injectionID, i+1, f.RawHash, f.FileName, string(header)); err != nil {
			return err
		}
	}
	return nil
}

// nameSignal gives an injection that is processed by a signal of a further file the signal's name and unit.
func (t *Tx) nameSignal(in *Injection) error {
	if in.Trace < placesPerFile {
		return nil
	}
	hash, position, ok := in.SignalAt(in.Trace)
	if !ok {
		return nil
	}
	return t.row("SELECT name, unit FROM traces WHERE raw_hash = ? AND position = ?", []any{hash, position}, &in.Signal, &in.Unit)
}

// InjectionsNear are the injections of a batch that a file could be one with by its name and its start, with what joining files needs of them.
func (t *Tx) InjectionsNear(batchID, fileName string, h formats.Header) (list []Injection, err error) {
	whole, short := formats.Stems(fileName)
	asked, args := "lower(substr(file_name, 1, ?)) = ?", []any{batchID, utf8.RuneCountInString(whole), whole}
	if short != "" && h.AcquiredAt != nil {
		asked += " OR lower(substr(file_name, 1, ?)) = ? AND abs(unixepoch(json_extract(header, '$.acquired_at')) - ?) <= ?"
		args = append(args, utf8.RuneCountInString(short), short, h.AcquiredAt.Unix(), int64(formats.JoinedWithin/time.Second)+1)
	}
	files, err := t.files(batchID, "")
	if err != nil {
		return nil, err
	}
	err = t.each("SELECT id, raw_hash, trace, file_name, header, entry FROM injections WHERE batch_id = ? AND ("+asked+") ORDER BY position", args, func(r *sql.Rows) error {
		var in Injection
		var id, header, entry string
		if err := r.Scan(&id, &in.RawHash, &in.Trace, &in.FileName, &header, &entry); err != nil {
			return err
		}
		if err := json.Unmarshal([]byte(header), &in.Header); err != nil {
			return err
		}
		err := json.Unmarshal([]byte(entry), &in.Entry)
		in.ID, in.More = id, files[id]
		list = append(list, in)
		return err
	})
	return list, err
}

// files reads the further files of all injections of a batch, by injection.
func (t *Tx) files(batchID, only string) (map[string][]FurtherFile, error) {
	of := map[string][]FurtherFile{}
	err := t.each("SELECT injection_id, raw_hash, file_name, header FROM injection_files WHERE batch_id = ?1 AND (?2 = '' OR injection_id = ?2) ORDER BY injection_id, position", []any{batchID, only}, func(r *sql.Rows) error {
		var id, header string
		var f FurtherFile
		if err := r.Scan(&id, &f.RawHash, &f.FileName, &header); err != nil {
			return err
		}
		of[id] = append(of[id], f)
		return json.Unmarshal([]byte(header), &of[id][len(of[id])-1].Header)
	})
	return of, err
}

// Signal is a trace that files of a batch hold under one name and unit.
type Signal struct {
	Name, Unit         string
	Place              int // among those of an injection's files; only where it is of one injection
	Injections, Chosen int // how many hold it, and of how many it is the one that is processed
}

// Signals lists the signals of a batch's files, in the order in which the files hold them.
func (t *Tx) Signals(batchID string) (list []Signal, err error) {
	err = t.each("SELECT s.name, s.unit, count(DISTINCT s.injection_id), sum(i.trace = s.place) FROM injection_signals s JOIN injections i ON i.id = s.injection_id WHERE s.batch_id = ? GROUP BY s.name, s.unit ORDER BY min(s.place), s.name", []any{batchID}, func(r *sql.Rows) error {
		var s Signal
		err := r.Scan(&s.Name, &s.Unit, &s.Injections, &s.Chosen)
		list = append(list, s)
		return err
	})
	return list, err
}

// SignalPlaces tells at which place among the signals of their files the injections of a batch have a signal.
func (t *Tx) SignalPlaces(batchID, name, unit string) (map[string]int, error) {
	places := map[string]int{}
	err := t.each("SELECT injection_id, min(place) FROM injection_signals WHERE batch_id = ? AND name = ? AND unit = ? GROUP BY injection_id", []any{batchID, name, unit}, func(r *sql.Rows) error {
		var id string
		var at int
		err := r.Scan(&id, &at)
		places[id] = at
		return err
	})
	return places, err
}

// SetTrace says which signal of its files an injection is processed by.
func (t *Tx) SetTrace(injectionID string, place int) error {
	return t.exec("UPDATE injections SET trace = ? WHERE id = ?", place, injectionID)
}

// InjectionSignals lists the signals of the files of an injection, in their order.
func (t *Tx) InjectionSignals(injectionID string) (list []Signal, err error) {
	err = t.each("SELECT name, unit, place FROM injection_signals WHERE injection_id = ? ORDER BY place", []any{injectionID}, func(r *sql.Rows) error {
		var s Signal
		err := r.Scan(&s.Name, &s.Unit, &s.Place)
		list = append(list, s)
		return err
	})
	return list, err
}
