package store

import (
	"errors"
	"fmt"
	"syscall"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// ErrDisk is returned when the disk takes nothing more. What was there can still be read.
var ErrDisk = errors.New("the disk takes nothing more")

// refusal is an error with which the disk refuses, as a sentence.
type refusal struct {
	says  string
	cause error
}

func (r refusal) Error() string        { return r.says }
func (r refusal) Unwrap() error        { return r.cause }
func (r refusal) Is(target error) bool { return target == ErrDisk }

// onDisk makes a sentence of an error with which the disk refuses; others stay as they are.
func (s *Store) onDisk(err error) error {
	if err == nil || errors.Is(err, ErrDisk) {
		return err
	}
	var database *sqlite.Error
	code := 0
	if errors.As(err, &database) {
		code = database.Code() & 0xff // without what SQLite adds to its result codes
	}
	switch {
	case code == sqlite3.SQLITE_FULL, errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return refusal{fmt.Sprintf("the disk of %s is full. Nothing was changed; make room and repeat", s.dir), err}
	case code == sqlite3.SQLITE_READONLY, errors.Is(err, syscall.EROFS), errors.Is(err, syscall.EACCES):
		return refusal{fmt.Sprintf("%s cannot be written to. Nothing was changed; see to its rights and its disk and repeat", s.dir), err}
	case code == sqlite3.SQLITE_IOERR, errors.Is(err, syscall.EIO):
		return refusal{fmt.Sprintf("the disk of %s fails. Nothing was changed; look after the disk, and run yugen check", s.dir), err}
	}
	return err
}
