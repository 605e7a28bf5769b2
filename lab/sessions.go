package lab

import (
	"context"
	"errors"
	"time"

	"yugen/store"
)

// Sessions keeps what browsers that signed in are known by.
type Sessions struct{ lab *Lab }

// Sessions of this installation.
func (l *Lab) Sessions() Sessions { return Sessions{l} }

// Find gives a session that has not ended.
func (s Sessions) Find(ctx context.Context, token string) (data []byte, there bool, err error) {
	err = s.lab.store.Read(ctx, func(t *store.Tx) error {
		data, err = t.Session(token)
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// Commit keeps a session.
func (s Sessions) Commit(ctx context.Context, token string, data []byte, ends time.Time) error {
	return s.lab.store.Write(ctx, func(t *store.Tx) error { return t.PutSession(token, data, ends) })
}

// Delete lets go of a session.
func (s Sessions) Delete(ctx context.Context, token string) error {
	return s.lab.store.Write(ctx, func(t *store.Tx) error { return t.EndSession(token) })
}
