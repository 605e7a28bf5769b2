package server

import (
	"context"
	"time"

	"yugen/lab"
)

// sessions lets the keeper of sessions use the store of the lab.
type sessions struct{ lab.Sessions }

func (s sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	return s.Sessions.Find(ctx, token)
}

func (s sessions) CommitCtx(ctx context.Context, token string, data []byte, ends time.Time) error {
	return s.Sessions.Commit(ctx, token, data, ends)
}

func (s sessions) DeleteCtx(ctx context.Context, token string) error {
	return s.Sessions.Delete(ctx, token)
}

// Find, Commit and Delete are asked only by what has no context.
func (s sessions) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

func (s sessions) Commit(token string, data []byte, ends time.Time) error {
	return s.CommitCtx(context.Background(), token, data, ends)
}

func (s sessions) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }
