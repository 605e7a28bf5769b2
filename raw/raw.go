// Package raw keeps raw files, and the signals and spectra that were read from them, in pieces of bounded size: in database files of their own beside the
// work database, which are only ever added to and closed for good when they are full.
package raw

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"github.com/klauspost/compress/zstd"
	_ "modernc.org/sqlite" // the driver
)

// fullAt is the size from which on a database file is closed for good and the next one begun.
const fullAt = 1 << 30

// pieceBytes is how much of a raw file makes one piece.
const pieceBytes = 1 << 20

var (
	encoder, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest))
	decoder, _ = zstd.NewReader(nil, zstd.WithDecoderMaxMemory(64<<20)) // no piece comes near it
)

// ErrAbsent is returned for a file that is not kept here.
var ErrAbsent = errors.New("these raw data are not here")

// Store is the raw data of a data folder. One process writes to it at a time.
type Store struct {
	dir    string
	fullAt int64
	turn   sync.Mutex // of writers
	mu     sync.RWMutex
	files  []*volume // in the order in which they were begun; the last may take more
}

// volume is one database file.
type volume struct {
	name   string
	db     *sql.DB
	closed bool // it takes nothing more
}

const schema = `
CREATE TABLE IF NOT EXISTS files (hash TEXT PRIMARY KEY, size INTEGER NOT NULL) STRICT;
CREATE TABLE IF NOT EXISTS pieces (hash TEXT NOT NULL, position INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (hash, position)) STRICT;
CREATE TABLE IF NOT EXISTS traces (hash TEXT NOT NULL, trace INTEGER NOT NULL, position INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (hash, trace, position)) STRICT;
CREATE TABLE IF NOT EXISTS runs (hash TEXT NOT NULL, form INTEGER NOT NULL, run INTEGER NOT NULL, outline BLOB NOT NULL, digest TEXT NOT NULL, PRIMARY KEY (hash, form, run)) STRICT;
CREATE TABLE IF NOT EXISTS scans (hash TEXT NOT NULL, form INTEGER NOT NULL, run INTEGER NOT NULL, first INTEGER NOT NULL, last INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY (hash, form, run, first)) STRICT;
CREATE TABLE IF NOT EXISTS slices (hash TEXT NOT NULL, form INTEGER NOT NULL, run INTEGER NOT NULL, block INTEGER NOT NULL, low REAL NOT NULL, high REAL NOT NULL, data BLOB NOT NULL) STRICT;
CREATE INDEX IF NOT EXISTS slices_by_place ON slices (hash, form, run, low, high, block);
CREATE TABLE IF NOT EXISTS closed (at TEXT NOT NULL) STRICT;
CREATE TABLE IF NOT EXISTS flushed (only INTEGER PRIMARY KEY CHECK (only = 1), times INTEGER NOT NULL) STRICT;
`

// guarded are the tables that are only ever added to.
var guarded = []string{"files", "pieces", "traces", "runs", "scans", "slices", "closed"}

func guards() string {
	var b strings.Builder
	for _, table := range guarded {
		for _, verb := range []string{"UPDATE", "DELETE"} {
			fmt.Fprintf(&b, "CREATE TRIGGER IF NOT EXISTS %s_no_%s BEFORE %s ON %s BEGIN SELECT RAISE(ABORT, 'raw data cannot be changed'); END;\n", table, strings.ToLower(verb), verb, table)
		}
		fmt.Fprintf(&b, "CREATE TRIGGER IF NOT EXISTS %s_closed BEFORE INSERT ON %s WHEN EXISTS (SELECT 1 FROM closed) BEGIN SELECT RAISE(ABORT, 'this file is closed'); END;\n", table, table)
	}
	return b.String()
}

// prefix begins the names of the database files.
const prefix = "raw-"

// Open opens what raw data a folder has.
func Open(ctx context.Context, dir string) (*Store, error) { return OpenWith(ctx, dir, nil) }

// OpenWith is Open with closed database files of another folder, which are read where they lie.
func OpenWith(ctx context.Context, dir string, elsewhere []string) (*Store, error) {
	s := &Store{dir: dir, fullAt: fullAt}
	names, err := filepath.Glob(filepath.Join(dir, prefix+"*.db"))
	if err != nil {
		return nil, err
	}
	names = append(names, elsewhere...)
	slices.SortFunc(names, func(a, b string) int { return strings.Compare(filepath.Base(a), filepath.Base(b)) })
	for _, path := range names {
		open := openVolume
		if slices.Contains(elsewhere, path) {
			open = openClosed
		}
		v, err := open(ctx, path)
		if err != nil {
			return nil, errors.Join(fmt.Errorf("the raw data in %s cannot be opened: %w", path, err), s.Close())
		}
		s.files = append(s.files, v)
	}
	return s, nil
}

// openClosed opens a database file that nobody writes to, without leaving a trace beside it.
func openClosed(ctx context.Context, path string) (*volume, error) {
	db, err := sql.Open("sqlite", ReadOnly(path))
	if err != nil {
		return nil, err
	}
	if err := db.PingContext(ctx); err != nil {
		return nil, errors.Join(err, db.Close())
	}
	return &volume{filepath.Base(path), db, true}, nil
}

// ReadOnly is by what name a database file is opened that nobody writes to.
func ReadOnly(path string) string { return "file:" + filepath.ToSlash(path) + "?mode=ro&immutable=1" }

func openVolume(ctx context.Context, path string) (*volume, error) {
	// Commits are not waited for one by one: Flush makes all of them last, before anything refers to what they brought.
	db, err := sql.Open("sqlite", "file:"+filepath.ToSlash(path)+"?_pragma=journal_mode(WAL)&_pragma=synchronous(NORMAL)&_pragma=busy_timeout(5000)&_txlock=immediate")
	if err != nil {
		return nil, err
	}
	if _, err := db.ExecContext(ctx, schema+guards()); err != nil {
		return nil, errors.Join(err, db.Close())
	}
	v := &volume{name: filepath.Base(path), db: db}
	if v.closed, err = v.isClosed(ctx); err != nil {
		return nil, errors.Join(err, db.Close())
	}
	return v, nil
}

// Close closes the database files.
func (s *Store) Close() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	var err error
	for _, v := range s.files {
		err = errors.Join(err, v.db.Close())
	}
	s.files = nil
	return err
}

// writable is the database file that takes more, the next one where the last is full. The caller has the turn.
func (s *Store) writable(ctx context.Context) (*volume, error) {
	s.mu.RLock()
	n := len(s.files)
	var last *volume
	if n > 0 {
		last = s.files[n-1]
	}
	s.mu.RUnlock()
	next := 1
	if last != nil {
		if !last.closed && last.size(ctx) < s.fullAt {
			return last, nil
		}
		if !last.closed {
			if err := last.close(ctx); err != nil {
				return nil, err
			}
		}
		if _, err := fmt.Sscanf(last.name, prefix+"%d.db", &next); err != nil {
			return nil, fmt.Errorf("%s is no name of raw data", last.name)
		}
		next++
	}
	v, err := openVolume(ctx, filepath.Join(s.dir, fmt.Sprintf("%s%04d.db", prefix, next)))
	if err != nil {
		return nil, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.files = append(s.files, v)
	return v, nil
}

func (v *volume) isClosed(ctx context.Context) (closed bool, err error) {
	err = v.db.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM closed)").Scan(&closed)
	return closed, err
}

// size is that of the database without what is not yet written into its file.
func (v *volume) size(ctx context.Context) int64 {
	var pages, each int64
	if err := v.db.QueryRowContext(ctx, "SELECT page_count, page_size FROM pragma_page_count(), pragma_page_size()").Scan(&pages, &each); err != nil {
		return 0
	}
	return pages * each
}

// close lets nothing more into a database file. Whoever copies the folder needs to copy it once.
func (v *volume) close(ctx context.Context) error {
	if err := v.lasting(ctx, "INSERT INTO closed VALUES (datetime())"); err != nil {
		return err
	}
	v.closed = true
	_, err := v.db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)")
	return err
}

// lasting writes so that this, and all that was committed before it, is on disk when it returns.
func (v *volume) lasting(ctx context.Context, query string) error {
	conn, err := v.db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	for _, q := range []string{"PRAGMA synchronous = FULL", query, "PRAGMA synchronous = NORMAL"} {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			return err
		}
	}
	return nil
}

// Flush returns when everything that was committed is on disk. Content is there before anything refers to it.
func (s *Store) Flush(ctx context.Context) error {
	s.turn.Lock()
	defer s.turn.Unlock()
	s.mu.RLock()
	files := slices.Clone(s.files)
	s.mu.RUnlock()
	if len(files) == 0 || files[len(files)-1].closed { // which was on disk when it was closed
		return nil
	}
	return files[len(files)-1].lasting(ctx, "INSERT INTO flushed VALUES (1, 1) ON CONFLICT DO UPDATE SET times = times + 1")
}

// holding is the database file that has a row for a hash.
func (s *Store) holding(ctx context.Context, query string, args ...any) (*volume, error) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	for _, v := range slices.Backward(s.files) {
		var there bool
		if err := v.db.QueryRowContext(ctx, "SELECT EXISTS ("+query+")", args...).Scan(&there); err != nil {
			return nil, fmt.Errorf("the raw data in %s cannot be read: %w", v.name, err)
		}
		if there {
			return v, nil
		}
	}
	return nil, ErrAbsent
}

// HashOf is the address of a file: its SHA-256.
func HashOf(from io.ReaderAt, size int64) (string, error) {
	sum := sha256.New()
	if n, err := io.Copy(sum, io.NewSectionReader(from, 0, size)); err != nil || n != size {
		return "", fmt.Errorf("the file cannot be read to its end: %w", errors.Join(err, io.ErrUnexpectedEOF))
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}

// File is a kept raw file, read piece by piece. It may be used by several at once.
type File struct {
	ctx   context.Context
	in    *volume
	hash  string
	size  int64
	mu    sync.Mutex
	held  []byte
	piece int64
}

// File opens a kept file.
func (s *Store) File(ctx context.Context, hash string) (*File, error) {
	v, err := s.holding(ctx, "SELECT 1 FROM files WHERE hash = ?", hash)
	if err != nil {
		return nil, err
	}
	f := &File{ctx: ctx, in: v, hash: hash, piece: -1}
	return f, v.db.QueryRowContext(ctx, "SELECT size FROM files WHERE hash = ?", hash).Scan(&f.size)
}

// Size is in bytes.
func (f *File) Size() int64 { return f.size }

// ReadAt reads bytes as they came.
func (f *File) ReadAt(p []byte, at int64) (n int, err error) {
	for n < len(p) {
		if at >= f.size {
			return n, io.EOF
		}
		k, err := f.some(p[n:], at)
		if err != nil {
			return n, err
		}
		n, at = n+k, at+int64(k)
	}
	return n, nil
}

// some copies what one piece has.
func (f *File) some(p []byte, at int64) (int, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if k := at / pieceBytes; k != f.piece {
		var packed []byte
		err := f.in.db.QueryRowContext(f.ctx, "SELECT data FROM pieces WHERE hash = ? AND position = ?", f.hash, k).Scan(&packed)
		if errors.Is(err, sql.ErrNoRows) {
			return 0, fmt.Errorf("raw data %.12s: piece %d is missing", f.hash, k+1)
		}
		if err != nil {
			return 0, err
		}
		f.piece = -1
		if f.held, err = decoder.DecodeAll(packed, f.held[:0]); err != nil {
			return 0, fmt.Errorf("raw data %.12s: piece %d cannot be unpacked: %w", f.hash, k+1, err)
		}
		if want := min(pieceBytes, f.size-k*pieceBytes); int64(len(f.held)) != want {
			return 0, fmt.Errorf("raw data %.12s: piece %d has %d bytes instead of %d", f.hash, k+1, len(f.held), want)
		}
		f.piece = k
	}
	return copy(p, f.held[at-f.piece*pieceBytes:]), nil
}

// IsVolume tells by its name whether a file of the data folder is one of raw data.
func IsVolume(name string) bool {
	return strings.HasPrefix(name, prefix) && strings.HasSuffix(name, ".db")
}

// Closed tells whether a database file of raw data takes nothing more, so that a copy of it stays one and it can be read where it lies. What is still beside it
// in the log of the database counts as open.
func Closed(ctx context.Context, path string) (closed bool, err error) {
	if _, err := os.Stat(path); err != nil {
		return false, err
	}
	if log, err := os.Stat(path + "-wal"); err == nil && log.Size() > 0 {
		return false, nil
	}
	db, err := sql.Open("sqlite", ReadOnly(path))
	if err != nil {
		return false, err
	}
	defer db.Close()
	return (&volume{db: db}).isClosed(ctx)
}
