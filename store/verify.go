package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"sort"
	"strings"

	"github.com/pressly/goose/v3"

	"yugen/raw"
)

// Verified is what checking a store by itself found: its hashes, its record, its guards.
type Verified struct {
	Blobs int
	Rows  int64
	Wrong []string // one sentence each
}

// Verify checks the database, its schema and guards, every raw file against its hash, the chain of the record with its signed ends, method versions and
// kept results. progress is told how many of the raw files are through; it may be nil.
func (s *Store) Verify(ctx context.Context, progress func(done, total int)) (v Verified, err error) {
	blobs := func(t *Tx, v *Verified) error { return s.checkBlobs(t, v, progress) }
	err = s.Read(ctx, func(t *Tx) error {
		for _, check := range []func(*Tx, *Verified) error{s.checkIntegrity, s.checkSchema, blobs, s.checkRecord, s.checkVersions, s.checkLayouts, s.checkLibraries, s.checkResults, s.checkResolved} {
			if err := check(t, &v); err != nil {
				return err
			}
		}
		return nil
	})
	return v, err
}

func (v *Verified) say(format string, args ...any) {
	v.Wrong = append(v.Wrong, fmt.Sprintf(format, args...))
}

func (s *Store) checkIntegrity(t *Tx, v *Verified) error {
	others, err := databases(s.dir)
	if err != nil {
		return err
	}
	for _, name := range others {
		if err := checkOther(t.ctx, "file:"+filepath.ToSlash(filepath.Join(s.dir, name))+"?mode=ro"); err != nil {
			v.say("The database file %s is damaged: %v.", name, err)
		}
	}
	for _, path := range s.elsewhere {
		if err := checkOther(t.ctx, raw.ReadOnly(path)); err != nil {
			v.say("The database file %s is damaged: %v.", filepath.Base(path), err)
		}
	}
	for _, pragma := range []string{"PRAGMA integrity_check", "PRAGMA foreign_key_check"} {
		err := t.each(pragma, nil, func(r *sql.Rows) error {
			columns, err := r.Columns()
			if err != nil {
				return err
			}
			into := make([]any, len(columns))
			for i := range into {
				into[i] = new(sql.NullString)
			}
			if err := r.Scan(into...); err != nil {
				return err
			}
			if line := into[0].(*sql.NullString).String; line != "ok" {
				v.say("The database is damaged: %s.", line)
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// checkOther checks a database file that stands beside the work database, by the name that it is opened with.
func checkOther(ctx context.Context, source string) error {
	db, err := sql.Open("sqlite", source)
	if err != nil {
		return err
	}
	defer db.Close()
	var says string
	if err := db.QueryRowContext(ctx, "PRAGMA integrity_check").Scan(&says); err != nil {
		return err
	}
	if says != "ok" {
		return errors.New(says)
	}
	return nil
}

// checkSchema compares tables, indices and triggers with those of a new database: a guard that was dropped or changed shows.
func (s *Store) checkSchema(t *Tx, v *Verified) error {
	fresh, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		return err
	}
	defer fresh.Close()
	fresh.SetMaxOpenConns(1)
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, fresh, files)
	if err != nil {
		return err
	}
	if _, err := provider.Up(t.ctx); err != nil {
		return err
	}
	const query = "SELECT type || ' ' || name, sql FROM sqlite_master WHERE sql IS NOT NULL AND name NOT LIKE 'sqlite_%' AND name NOT LIKE 'goose_%'"
	read := func(each func(scan func(*sql.Rows) error) error) (map[string]string, error) {
		found := map[string]string{}
		return found, each(func(r *sql.Rows) error {
			var name, text string
			err := r.Scan(&name, &text)
			found[name] = text
			return err
		})
	}
	want, err := read(func(scan func(*sql.Rows) error) error {
		rows, err := fresh.QueryContext(t.ctx, query)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			if err := scan(rows); err != nil {
				return err
			}
		}
		return rows.Err()
	})
	if err != nil {
		return err
	}
	got, err := read(func(scan func(*sql.Rows) error) error { return t.each(query, nil, scan) })
	if err != nil {
		return err
	}
	var wrong []string
	for name, text := range want {
		switch found, there := got[name]; {
		case !there:
			wrong = append(wrong, fmt.Sprintf("The %s is missing from the database.", name))
		case found != text:
			wrong = append(wrong, fmt.Sprintf("The %s of the database is another one than it should be.", name))
		}
	}
	for name := range got {
		if _, known := want[name]; !known {
			wrong = append(wrong, fmt.Sprintf("The %s of the database is none of Yugen's.", name))
		}
	}
	sort.Strings(wrong)
	v.Wrong = append(v.Wrong, wrong...)
	return nil
}

func (s *Store) checkBlobs(t *Tx, v *Verified, progress func(done, total int)) error {
	var hashes []string
	if err := t.each("SELECT hash FROM blobs", nil, func(r *sql.Rows) error {
		var h string
		err := r.Scan(&h)
		hashes = append(hashes, h)
		return err
	}); err != nil {
		return err
	}
	for i, h := range hashes {
		if err := t.ctx.Err(); err != nil {
			return err
		}
		if progress != nil {
			progress(i, len(hashes))
		}
		if err := t.checkRaw(h); err != nil {
			v.say("Raw data %.12s: %v.", h, err)
		}
	}
	v.Blobs = len(hashes)
	return nil
}

// checkRaw reads a file whole, piece by piece, and compares it with its hash.
func (t *Tx) checkRaw(hash string) error {
	f, err := t.OpenRaw(hash)
	if err != nil {
		return err
	}
	got, err := raw.HashOf(f, f.Size)
	if err == nil && got != hash {
		err = errors.New("they are corrupt: their hash does not match")
	}
	return err
}

func (s *Store) checkRecord(t *Tx, v *Verified) error {
	var hashes []string
	told := map[string]bool{} // keys that a row of the record tells of
	previous := ""
	err := t.each("SELECT "+recordColumns+", prev_hash, hash FROM record ORDER BY seq", nil, func(r *sql.Rows) error {
		var before, hash string
		c, err := scanChange(r, &before, &hash)
		if err != nil {
			return err
		}
		v.Rows++
		if c.Seq != v.Rows || before != previous || c.chain(previous) != hash {
			v.say("Row %d of the record was altered or a row before it is missing.", c.Seq)
		}
		if c.Action == keyAction && c.Actor == Program {
			told[c.After] = true
		}
		previous = hash
		hashes = append(hashes, hash)
		return nil
	})
	if err != nil {
		return err
	}
	keys, err := t.keys()
	if err != nil {
		return err
	}
	for public := range keys {
		if !told[public] {
			v.say("The record does not tell of the key %.16s, which signs.", public)
		}
	}
	for public := range told {
		if !keys[public] {
			v.say("The key %.16s, of which the record tells, is missing.", public)
		}
	}
	wrong, err := s.checkHeads(hashes, keys)
	v.Wrong = append(v.Wrong, wrong...)
	return err
}

// keys are the public keys that sign.
func (t *Tx) keys() (map[string]bool, error) {
	keys := map[string]bool{}
	return keys, t.each("SELECT public FROM keys", nil, func(r *sql.Rows) error {
		var public string
		err := r.Scan(&public)
		keys[public] = true
		return err
	})
}

func (s *Store) checkVersions(t *Tx, v *Verified) error {
	return t.each("SELECT v.hash, v.document, m.name, v.number FROM method_versions v JOIN methods m ON m.id = v.method_id ORDER BY v.id", nil, func(r *sql.Rows) error {
		var hash, document, name string
		var number int
		if err := r.Scan(&hash, &document, &name, &number); err != nil {
			return err
		}
		if Hash([]byte(document)) != hash {
			v.say("Version %d of the method %s is not what its hash says.", number, name)
		}
		return nil
	})
}

// checkLayouts compares saved layouts with their hashes, and looks for the reports that were made.
func (s *Store) checkLayouts(t *Tx, v *Verified) error {
	err := t.each("SELECT v.hash, v.document, l.name, v.number FROM layout_versions v JOIN layouts l ON l.id = v.layout_id ORDER BY v.id", nil, func(r *sql.Rows) error {
		var hash, document, name string
		var number int
		if err := r.Scan(&hash, &document, &name, &number); err != nil {
			return err
		}
		if Hash([]byte(document)) != hash {
			v.say("Version %d of the layout %s is not what its hash says.", number, name)
		}
		return nil
	})
	if err != nil {
		return err
	}
	return t.each("SELECT name, format FROM report_files WHERE hash != '' AND hash NOT IN (SELECT hash FROM blobs)", nil, func(r *sql.Rows) error {
		var name, format string
		err := r.Scan(&name, &format)
		v.say("The report %s.%s was made and is not there any more.", name, format)
		return err
	})
}

// checkLibraries compares the lines of spectra with their hashes, and how many each library was given with what the record tells.
func (s *Store) checkLibraries(t *Tx, v *Verified) error {
	held, away := map[string]int{}, 0
	err := t.each("SELECT library, name, kind, hash, document, away FROM library_spectra ORDER BY rowid", nil, func(r *sql.Rows) error {
		var library, name, kind, hash, document, putAway string
		if err := r.Scan(&library, &name, &kind, &hash, &document, &putAway); err != nil {
			return err
		}
		held[library]++
		if putAway != "" {
			away++
		}
		var told struct {
			Name  string          `json:"name"`
			Kind  string          `json:"kind"`
			Peaks json.RawMessage `json:"peaks"`
		}
		if err := json.Unmarshal([]byte(document), &told); err != nil || told.Name != name || told.Kind != kind || Hash(told.Peaks) != hash {
			v.say("The spectrum %s of the library %s is not the one that was kept.", name, library)
		}
		return nil
	})
	if err != nil {
		return err
	}
	err = t.each("SELECT subject, after FROM record WHERE action = ?", []any{LibraryAction}, func(r *sql.Rows) error {
		var subject, after string
		if err := r.Scan(&subject, &after); err != nil {
			return err
		}
		if after == "" {
			away--
			return nil
		}
		var told struct {
			Added int `json:"added"`
		}
		if err := json.Unmarshal([]byte(after), &told); err != nil {
			return fmt.Errorf("what the record tells of %s: %w", subject, err)
		}
		held[libraryOf(subject, held)] -= told.Added
		return nil
	})
	if err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(held)) {
		if n := held[name]; n != 0 {
			v.say("The library %s has %+d spectra beside those that the record tells of.", name, n)
		}
	}
	if away != 0 {
		v.say("%+d spectra of libraries are put away beside those that the record tells of.", away)
	}
	return nil
}

// libraryOf is the library that a row of the record begins with: the longest of the names, as one may hold another, or else what stands before the colon.
func libraryOf(subject string, names map[string]int) string {
	found := ""
	for name := range names {
		if strings.HasPrefix(subject, name+": ") && len(name) > len(found) {
			found = name
		}
	}
	if found == "" {
		found, _, _ = strings.Cut(subject, ": ")
	}
	return found
}

func (s *Store) checkResults(t *Tx, v *Verified) error {
	keys, err := t.keys()
	if err != nil {
		return err
	}
	return t.each("SELECT b.name, r.batch_id, r.inputs_hash, r.document, r.seal FROM results r JOIN batches b ON b.id = r.batch_id", nil, func(r *sql.Rows) error {
		var name, id, hash, seal string
		var document []byte
		if err := r.Scan(&name, &id, &hash, &document, &seal); err != nil {
			return err
		}
		if _, ok := signedBy(resultText(id, hash, document), seal, keys); !ok && seal != "" {
			v.say("A kept result of %s (inputs %.12s) is not what was computed.", name, hash)
		} else if seal == "" && len(keys) > 0 {
			v.say("A kept result of %s (inputs %.12s) bears no seal.", name, hash)
		}
		return nil
	})
}

func (s *Store) checkResolved(t *Tx, v *Verified) error {
	keys, err := t.keys()
	if err != nil {
		return err
	}
	return t.each("SELECT b.name, r.batch_id, r.inputs_hash, r.stretch, r.document, r.seal FROM resolved r JOIN batches b ON b.id = r.batch_id", nil, func(r *sql.Rows) error {
		var name, id, hash, stretch, seal string
		var document []byte
		if err := r.Scan(&name, &id, &hash, &stretch, &document, &seal); err != nil {
			return err
		}
		if _, ok := signedBy(resolvedText(id, hash, stretch, document), seal, keys); !ok && len(keys) > 0 {
			v.say("What was resolved of %s from %s min is not what was computed.", name, stretch)
		}
		return nil
	})
}
