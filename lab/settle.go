package lab

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yugen/core/checks"
	"yugen/lab/change"
	"yugen/store"
)

// maxSettled bounds how many notices are settled together.
const maxSettled = 20_000

// Settle deals with notices, with one reason: all of them or none.
func (l *Lab) Settle(ctx context.Context, batchID string, revision int, keys []string, reason, who string) (store.Batch, error) {
	if reason = strings.TrimSpace(reason); reason == "" || len(reason) > maxReason {
		return store.Batch{}, refuseAt("/reason", "settling a notice needs a reason of at most %d characters", maxReason)
	}
	if len(keys) == 0 || len(keys) > maxSettled {
		return store.Batch{}, refuseAt("/keys", "between 1 and %d notices are settled together, not %d", maxSettled, len(keys))
	}
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return store.Batch{}, err
	}
	there := map[string]checks.Notice{}
	for _, n := range now.Result.Notices {
		there[n.Key] = n
	}
	for i, key := range keys {
		if _, ok := there[key]; !ok {
			return store.Batch{}, refuseAt(fmt.Sprintf("/keys/%d", i), "there is no notice %.100q in this batch; it may have gone with a change", key)
		}
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		before, after, subject := map[string]bool{}, map[string]bool{}, ""
		for _, key := range keys {
			if !slices.Contains(b.Settled, key) {
				before[key], after[key], subject = false, true, key
			}
		}
		switch len(after) {
		case 0: // somebody else was quicker
			return change.Change{}, errNothing
		case 1:
		default:
			subject = fmt.Sprintf("%d notices", len(after))
		}
		return change.Change{Action: "notice", Subject: subject, Why: reason, Before: change.State{Settled: before}, After: change.State{Settled: after}}, nil
	})
}
