package store

import (
	"bufio"
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"yugen/raw"
)

const databaseFile = "yugen.db"

// unfinished is what the folder of a backup is called until it is whole and checked.
const unfinished = ".unfinished"

// Backup writes a consistent copy of a store that may be in use into a new folder named by the time, below the given one, checks it, and gives its path.
// The folder bears that name only once it is whole; what earlier backups left unfinished is taken away. progress is told how many of the raw files are
// checked; it may be nil.
func (s *Store) Backup(ctx context.Context, into string, progress func(done, total int)) (dir string, err error) {
	dir = filepath.Join(into, "yugen-"+time.Now().UTC().Format("2006-01-02T150405.000Z"))
	half := dir + unfinished
	if left, err := filepath.Glob(filepath.Join(into, "yugen-*"+unfinished)); err == nil {
		for _, old := range left {
			if err := os.RemoveAll(old); err != nil {
				return "", fmt.Errorf("the unfinished backup %s cannot be taken away: %w", old, err)
			}
		}
	}
	if err := os.MkdirAll(half, 0o755); err != nil {
		return "", fmt.Errorf("the backup folder %s cannot be made: %w; choose another", into, err)
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.RemoveAll(half))
			dir = ""
		}
	}()
	if err := copyConsistently(ctx, s.db, s.dir, half, newestBackup(into), nil); err != nil {
		return "", fmt.Errorf("the backup to %s failed: %w; is there room on the disk?", dir, err)
	}
	if err := checkFolder(ctx, half, progress); err != nil {
		return "", err
	}
	return dir, os.Rename(half, dir)
}

// databases lists the database files of a folder besides the work database, which raw data may have.
func databases(dir string) ([]string, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return nil, err
	}
	var list []string
	for _, e := range entries {
		if name := e.Name(); e.Type().IsRegular() && strings.HasSuffix(name, ".db") && name != databaseFile {
			list = append(list, name)
		}
	}
	return list, nil
}

// copyConsistently copies the databases of a folder that may be in use, each as it is at one moment, with the ends of the record. The work database comes
// first: what it names in the others was there before it was named. A file that is the same as in the backup before is linked to that one.
// Files in the list of those that stay are not copied.
func copyConsistently(ctx context.Context, db *sql.DB, from, to, before string, stay []string) error {
	headsBefore := int64(0) // how long the file of ends was: what is added from here on may be newer than the copy
	if info, err := os.Stat(filepath.Join(from, headsFile)); err == nil {
		headsBefore = info.Size()
	}
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", filepath.Join(to, databaseFile)); err != nil {
		return err
	}
	if err := copyHeads(ctx, from, to, headsBefore); err != nil {
		return err
	}
	others, err := databases(from)
	if err != nil {
		return err
	}
	for _, name := range others {
		if slices.Contains(stay, filepath.Join(from, name)) {
			continue
		}
		if err := copyDatabase(ctx, filepath.Join(from, name), filepath.Join(to, name), filepath.Join(before, name)); err != nil {
			return err
		}
	}
	return nil
}

// copyDatabase copies one database, or links its copy from the backup before where nothing was written to it since.
func copyDatabase(ctx context.Context, from, to, before string) error {
	if raw.IsVolume(filepath.Base(from)) { // one that was closed when it was copied is the same for ever, and need not be read for that
		if closed, err := raw.Closed(ctx, before); err == nil && closed && os.Link(before, to) == nil {
			return nil
		}
	}
	db, err := sql.Open("sqlite", "file:"+filepath.ToSlash(from)+"?mode=ro&_pragma=busy_timeout(5000)")
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", to); err != nil {
		return err
	}
	same, err := sameFiles(to, before)
	if err != nil || !same {
		return err
	}
	linked := to + ".link"
	if os.Link(before, linked) != nil { // where the disk has no links there are two copies
		return nil
	}
	return os.Rename(linked, to)
}

func sameFiles(a, b string) (bool, error) {
	infoB, err := os.Stat(b)
	if errors.Is(err, os.ErrNotExist) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	infoA, err := os.Stat(a)
	if err != nil || infoA.Size() != infoB.Size() {
		return false, err
	}
	sumA, err := sumOf(a)
	if err != nil {
		return false, err
	}
	sumB, err := sumOf(b)
	return sumA == sumB, err
}

func sumOf(path string) (string, error) {
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	sum := sha256.New()
	if _, err := io.Copy(sum, f); err != nil {
		return "", err
	}
	return string(sum.Sum(nil)), nil
}

// newestBackup is the newest whole backup below a folder; empty where there is none.
func newestBackup(into string) string {
	list, err := filepath.Glob(filepath.Join(into, "yugen-*Z"))
	if err != nil || len(list) == 0 {
		return ""
	}
	return slices.Max(list)
}

// copyHeads copies the ends of the record: all that were there before the database was copied, and later ones as far as the copied record goes, since the
// original may have gone on meanwhile.
func copyHeads(ctx context.Context, fromDir, dir string, before int64) error {
	copied, err := sql.Open("sqlite", "file:"+filepath.ToSlash(filepath.Join(dir, databaseFile))+"?mode=ro")
	if err != nil {
		return err
	}
	defer copied.Close()
	var last int64
	if err := copied.QueryRowContext(ctx, "SELECT coalesce(max(seq), 0) FROM record").Scan(&last); err != nil {
		return err
	}
	from, err := os.Open(filepath.Join(fromDir, headsFile))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer from.Close()
	to, err := os.Create(filepath.Join(dir, headsFile))
	if err != nil {
		return err
	}
	w, lines := bufio.NewWriter(to), bufio.NewReader(from)
	for read := int64(0); ; {
		line, err := lines.ReadString('\n')
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return errors.Join(err, to.Close())
		}
		number, _, _ := strings.Cut(line, " ")
		old := read < before
		read += int64(len(line))
		if seq, err := strconv.ParseInt(number, 10, 64); old || err != nil || seq <= last { // one that cannot be read is for the check to tell
			if _, err := w.WriteString(line); err != nil {
				return errors.Join(err, to.Close())
			}
		}
	}
	return errors.Join(w.Flush(), to.Sync(), to.Close())
}

// CheckFolder checks a data folder or backup by itself, without changing it, and fails with what is wrong.
func CheckFolder(ctx context.Context, dir string) error { return checkFolder(ctx, dir, nil) }

func checkFolder(ctx context.Context, dir string, progress func(done, total int)) error {
	s, done, err := OpenCopy(ctx, dir)
	if err != nil {
		return err
	}
	defer done()
	v, err := s.Verify(ctx, progress)
	if err == nil && len(v.Wrong) > 0 {
		err = fmt.Errorf("%s is not sound: %s", dir, strings.Join(v.Wrong, " "))
	}
	return err
}

// closedIn lists the files of raw data in a folder that take nothing more.
func closedIn(ctx context.Context, dir string) ([]string, error) {
	others, err := databases(dir)
	if err != nil {
		return nil, err
	}
	var list []string
	for _, name := range others {
		path := filepath.Join(dir, name)
		if closed, err := raw.Closed(ctx, path); raw.IsVolume(name) && err == nil && closed { // a damaged one is copied, and told then
			list = append(list, path)
		}
	}
	return list, nil
}

// OpenCopy opens a copy of a data folder or backup, which itself is only read: it may be on a read-only disk, or of an earlier form. Full files of raw data,
// which nobody writes to, are not copied but read where they lie. done takes the copy away.
func OpenCopy(ctx context.Context, dir string) (s *Store, done func(), err error) {
	if _, err := os.Stat(filepath.Join(dir, databaseFile)); err != nil {
		return nil, nil, fmt.Errorf("there is no Yugen database in %s", dir)
	}
	to, err := os.MkdirTemp("", "yugen-copy")
	if err != nil {
		return nil, nil, fmt.Errorf("there is no room for a copy to check: %w", err)
	}
	gone := func() { _ = os.RemoveAll(to) } // a temporary folder
	stay, err := closedIn(ctx, dir)
	if err != nil {
		gone()
		return nil, nil, err
	}
	if err := copyOpen(ctx, dir, to, stay); err != nil { // a read-only disk, or a database too damaged to be read: as it lies there
		if err := emptied(to); err != nil {
			gone()
			return nil, nil, err
		}
		if err := copyFiles(dir, to, stay); err != nil {
			gone()
			return nil, nil, err
		}
	}
	if s, err = openWith(ctx, to, stay); err != nil {
		gone()
		return nil, nil, err
	}
	return s, func() { _ = s.Close(); gone() }, nil
}

// emptied takes away what a copy that failed has left.
func emptied(dir string) error {
	entries, err := os.ReadDir(dir)
	for _, e := range entries {
		err = errors.Join(err, os.Remove(filepath.Join(dir, e.Name())))
	}
	return err
}

// copyOpen copies a database through a connection of its own, so that a server may go on writing to it.
func copyOpen(ctx context.Context, dir, to string, stay []string) error {
	db, err := sql.Open("sqlite", "file:"+filepath.ToSlash(filepath.Join(dir, databaseFile))+"?mode=rw&_pragma=busy_timeout(5000)")
	if err != nil {
		return err
	}
	defer db.Close()
	return copyConsistently(ctx, db, dir, to, "", stay)
}

func copyFiles(dir, to string, stay []string) error {
	others, err := databases(dir)
	if err != nil {
		return err
	}
	names := []string{databaseFile, databaseFile + "-wal", headsFile}
	for _, name := range others {
		if !slices.Contains(stay, filepath.Join(dir, name)) {
			names = append(names, name, name+"-wal")
		}
	}
	for _, name := range names {
		if err := copyFile(filepath.Join(dir, name), filepath.Join(to, name)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return fmt.Errorf("%s cannot be copied for a check: %w", filepath.Join(dir, name), err)
		}
	}
	return nil
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Sync(), out.Close())
}

// Restore copies a backup into a folder that has no database yet, after checking it, and checks what it wrote.
func Restore(ctx context.Context, backup, dir string) error {
	if err := CheckFolder(ctx, backup); err != nil {
		return fmt.Errorf("the backup cannot be restored: %w", err)
	}
	if _, err := os.Stat(filepath.Join(dir, databaseFile)); err == nil {
		return fmt.Errorf("the folder %s has a database already, and nothing is written over it; restore into an empty folder", dir)
	}
	release, err := Lock(dir)
	if err != nil {
		return err
	}
	defer release()
	others, err := databases(backup)
	if err != nil {
		return err
	}
	for _, name := range append(others, headsFile, databaseFile) { // the work database last: a restore that was stopped has none
		if err := copyFile(filepath.Join(backup, name), filepath.Join(dir, name)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return fmt.Errorf("%s cannot be restored: %w", name, err)
		}
	}
	return CheckFolder(ctx, dir)
}
