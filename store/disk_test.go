package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

// A database that may not grow, or not be written, refuses changes with a sentence that names the disk; what was there is read on, and once there is room
// again all goes on.
func TestADiskThatTakesNothingMore(t *testing.T) {
	for what, c := range map[string]struct{ on, off, says string }{
		"full":      {"PRAGMA max_page_count = 1", "PRAGMA max_page_count = 1000000", "is full"},
		"read-only": {"PRAGMA query_only = 1", "PRAGMA query_only = 0", "cannot be written to"},
	} {
		dir := t.TempDir()
		s := open(t, dir)
		s.db.SetMaxOpenConns(1) // these settings are those of a connection
		id := newBatch(t, s)
		if _, err := s.db.Exec(c.on); err != nil {
			t.Fatal(err)
		}
		noise := make([]byte, 1<<20)
		rng := rand.NewChaCha8([32]byte{1})
		_, _ = rng.Read(noise) // never fails
		err := s.Write(t.Context(), func(tx *Tx) error {
			_, err := tx.PutBlob(noise)
			return err
		})
		if !errors.Is(err, ErrDisk) || !strings.Contains(err.Error(), c.says) || !strings.Contains(err.Error(), dir) {
			t.Errorf("%s: %v", what, err)
		}
		if err := s.Read(t.Context(), func(tx *Tx) error {
			b, err := tx.Batch(id)
			if err == nil && b.ID != id {
				err = fmt.Errorf("got %s", b.ID)
			}
			return err
		}); err != nil {
			t.Errorf("%s: reading fails too: %v", what, err)
		}
		if _, err := s.db.Exec(c.off); err != nil {
			t.Fatal(err)
		}
		write(t, s, func(tx *Tx) error {
			hash, err := tx.PutBlob(noise)
			if err != nil {
				return err
			}
			back, err := tx.Blob(hash)
			if err == nil && !bytes.Equal(back, noise) {
				err = errors.New("not what was kept")
			}
			return err
		})
	}
}

func TestOtherErrorsAreNotTheDisks(t *testing.T) {
	s := open(t, t.TempDir())
	for _, err := range []error{ErrStale, ErrNotFound, context.Canceled, s.Write(t.Context(), func(tx *Tx) error { return tx.exec("INSERT INTO nothing VALUES (1)") })} {
		if got := s.onDisk(err); got == nil || errors.Is(got, ErrDisk) {
			t.Errorf("%v became %v", err, got)
		}
	}
}
