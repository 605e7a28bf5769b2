// Package store keeps a lab's work in one SQLite database: methods, batches, results, reports and the record; its raw data lie beside.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"github.com/gofrs/flock"
	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver

	"yugen/raw"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database. Writes happen one at a time.
type Store struct {
	db  *sql.DB
	dir string
	raw *raw.Store
	// elsewhere are closed files of raw data that are read where they lie, by a copy.
	elsewhere []string
	// signer signs the record's end and kept results; nil where the installation has no place for a key.
	signer *signer
	turn   chan struct{} // holds one: writers wait for it in turn, instead of for the database's lock and its time limit
}

// Errors that callers tell apart.
var (
	// ErrNotFound is returned for an id that is not in the store.
	ErrNotFound = errors.New("not found")
	// ErrStale is returned when a batch was changed since the revision that the caller read.
	ErrStale = errors.New("changed by someone else meanwhile")
)

// Open opens the database in a folder, makes it where there is none, and brings it to the newest form.
func Open(ctx context.Context, dir string) (*Store, error) { return openWith(ctx, dir, nil) }

// openWith is Open with closed files of raw data that lie elsewhere and are only read.
func openWith(ctx context.Context, dir string, elsewhere []string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w; choose another with DATA= or --data", dir, err)
	}
	path := filepath.Join(dir, databaseFile)
	db, err := sql.Open("sqlite", "file:"+filepath.ToSlash(path)+"?_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=busy_timeout(5000)&_pragma=foreign_keys(1)&_txlock=immediate")
	if err != nil {
		return nil, fmt.Errorf("store: open %s: %w", path, err)
	}
	if err := db.PingContext(ctx); err != nil {
		db.Close()
		return nil, fmt.Errorf("the database %s cannot be opened: %w; is the folder writable?", path, err)
	}
	if err := migrate(ctx, db); err != nil {
		db.Close()
		return nil, err
	}
	s := &Store{db: db, dir: dir, elsewhere: elsewhere, turn: make(chan struct{}, 1)}
	if s.raw, err = raw.OpenWith(ctx, dir, elsewhere); err != nil {
		db.Close()
		return nil, err
	}
	if s.signer, err = loadSigner(); err != nil {
		slog.Warn("the record is kept without signatures", "reason", err)
	}
	return s, nil
}

func migrate(ctx context.Context, db *sql.DB) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	if err != nil {
		return fmt.Errorf("store: migrations: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("the database cannot be brought to this version's form: %w", err)
	}
	return nil
}

// Folder is the data folder.
func (s *Store) Folder() string { return s.dir }

// Lock holds a data folder for one server; a second one is refused. What it returns lets go of it.
func Lock(dir string) (release func(), err error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w; choose another with DATA= or --data", dir, err)
	}
	held := flock.New(filepath.Join(dir, "yugen.lock"))
	got, err := held.TryLock()
	if err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be held: %w; is it writable?", dir, err)
	}
	if !got {
		return nil, fmt.Errorf("another Yugen serves the data folder %s: use that one, stop it, or choose another folder with DATA= or --data", dir)
	}
	return func() { _ = held.Unlock() }, nil
}

// Close closes the databases.
func (s *Store) Close() error { return errors.Join(s.raw.Close(), s.db.Close()) }

// Tx is a transaction: all of it is kept, or nothing.
type Tx struct {
	tx     *sql.Tx
	ctx    context.Context
	now    time.Time
	signer *signer
	end    head // of the record, where this transaction added to it
	raw    *raw.Store
	flush  bool // raw data that this transaction refers to must be on disk before it is
}

// Write runs f in a transaction of its own. What f did is on disk when Write returns nil.
func (s *Store) Write(ctx context.Context, f func(*Tx) error) error {
	select {
	case s.turn <- struct{}{}:
		defer func() { <-s.turn }()
	case <-ctx.Done():
		return ctx.Err()
	}
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return s.onDisk(fmt.Errorf("store: begin: %w", err))
	}
	defer func() { _ = tx.Rollback() }() // does nothing after a commit
	t := &Tx{tx: tx, ctx: ctx, now: time.Now().UTC(), signer: s.signer, raw: s.raw}
	if err := f(t); err != nil {
		return s.onDisk(err)
	}
	if t.flush {
		if err := s.raw.Flush(ctx); err != nil {
			return s.onDisk(err)
		}
	}
	if err := tx.Commit(); err != nil {
		return s.onDisk(fmt.Errorf("store: commit: %w", err))
	}
	if t.end.seq > 0 {
		if err := s.addHead(t.end); err != nil { // the change itself is kept
			slog.Error("the record's end", "error", err)
		}
	}
	return nil
}

// Try runs f as Write does, and keeps nothing of it.
func (s *Store) Try(ctx context.Context, f func(*Tx) error) error {
	tried := errors.New("tried")
	err := s.Write(ctx, func(t *Tx) error {
		if err := f(t); err != nil {
			return err
		}
		return tried
	})
	if errors.Is(err, tried) {
		return nil
	}
	return err
}

// Read runs f on one state of the database.
func (s *Store) Read(ctx context.Context, f func(*Tx) error) error {
	tx, err := s.db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return fmt.Errorf("store: begin: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	return f(&Tx{tx: tx, ctx: ctx, now: time.Now().UTC(), signer: s.signer, raw: s.raw})
}

// NewID is a time-ordered unique id.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

func (t *Tx) exec(query string, args ...any) error {
	_, err := t.tx.ExecContext(t.ctx, query, args...)
	return err
}

func (t *Tx) row(query string, args []any, into ...any) error {
	err := t.tx.QueryRowContext(t.ctx, query, args...).Scan(into...)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// each calls scan for every row of a query.
func (t *Tx) each(query string, args []any, scan func(*sql.Rows) error) error {
	rows, err := t.tx.QueryContext(t.ctx, query, args...)
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
}

func stamp(t time.Time) string { return t.UTC().Format(time.RFC3339Nano) }

func unstamp(s string) time.Time {
	t, err := time.Parse(time.RFC3339Nano, s)
	if err != nil {
		return time.Time{}
	}
	return t
}
