package store

import (
	"database/sql"
	"time"
)

// LibrarySpectrum is a spectrum of a library; the document is what it holds.
type LibrarySpectrum struct {
	ID      string
	Library string
	Name    string
	Kind    string
	Hash    string // of the lines
	Text    string
	AddedBy string
	AddedAt time.Time
}

// LibraryAction marks changes of libraries, on which no number of a batch stands.
const LibraryAction = "library"

// LibraryCount says how many spectra a library has.
type LibraryCount struct {
	Library string
	Spectra int
}

// Libraries lists those with spectra, by name.
func (t *Tx) Libraries() ([]LibraryCount, error) {
	list := []LibraryCount{}
	err := t.each("SELECT library, count(*) FROM library_spectra WHERE away = '' GROUP BY library ORDER BY library", nil, func(r *sql.Rows) error {
		var c LibraryCount
		err := r.Scan(&c.Library, &c.Spectra)
		list = append(list, c)
		return err
	})
	return list, err
}

// LibrarySpectra are those of a library that are not put away, in the order in which they came; of all libraries where it is empty.
func (t *Tx) LibrarySpectra(library string) ([]LibrarySpectrum, error) {
	list := []LibrarySpectrum{}
	err := t.each("SELECT id, library, name, kind, hash, document, added_by, added_at FROM library_spectra WHERE away = '' AND (? = '' OR library = ?) ORDER BY rowid", []any{library, library}, func(r *sql.Rows) error {
		var s LibrarySpectrum
		var at string
		err := r.Scan(&s.ID, &s.Library, &s.Name, &s.Kind, &s.Hash, &s.Text, &s.AddedBy, &at)
		s.AddedAt = unstamp(at)
		list = append(list, s)
		return err
	})
	return list, err
}

// AddLibrarySpectrum keeps a spectrum in a library.
func (t *Tx) AddLibrarySpectrum(s LibrarySpectrum) (id string, err error) {
	id = NewID()
	return id, t.exec("INSERT INTO library_spectra(id, library, name, kind, hash, document, added_by, added_at) VALUES (?,?,?,?,?,?,?,?)", id, s.Library, s.Name, s.Kind, s.Hash, s.Text, s.AddedBy, stamp(t.now))
}

// PutSpectrumAway takes a spectrum off its library; what was confirmed by it keeps its name.
func (t *Tx) PutSpectrumAway(id string) error {
	var away string
	if err := t.row("SELECT away FROM library_spectra WHERE id = ? AND away = ''", []any{id}, &away); err != nil {
		return err
	}
	return t.exec("UPDATE library_spectra SET away = ? WHERE id = ?", stamp(t.now), id)
}
