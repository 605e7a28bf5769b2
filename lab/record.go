package lab

import (
	"context"

	"yugen/lab/record"
)

// Record lists the newest changes of a batch with what each of them set.
func (l *Lab) Record(ctx context.Context, batchID string) ([]record.Row, error) {
	return record.Rows(ctx, l.store, batchID)
}

// Verify checks everything that is kept; see record.Verify.
func (l *Lab) Verify(ctx context.Context, progress func(done, total int)) (record.Verification, error) {
	return record.Verify(ctx, l.store, progress)
}

// VerifyQuickly checks everything but what the raw files decode to; see record.VerifyQuickly.
func (l *Lab) VerifyQuickly(ctx context.Context) (record.Verification, error) {
	return record.VerifyQuickly(ctx, l.store)
}
