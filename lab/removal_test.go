package lab

import (
	"errors"
	"math"
	"testing"

	"yugen/core/batch"
	"yugen/lab/record"
	"yugen/store"
)

// What a removal is said to do is what it does.
func TestTheConsequencesOfARemoval(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	before := must[Processed](t)(l.Process(ctx, id))
	standard, sample, blank := before.Batch.Injections[3], before.Batch.Injections[15], before.Batch.Injections[0]
	said := must[Consequence](t)(l.TryRemoval(ctx, id, standard.ID))
	if said.Curves != 8 || said.Moved < 100 || said.Most == nil {
		t.Fatalf("%+v", said)
	}
	if c := must[Consequence](t)(l.TryRemoval(ctx, id, sample.ID)); c.Curves != 0 || c.Moved != 0 || c.Lost != 0 || c.Most != nil {
		t.Errorf("a sample: %+v", c)
	}
	if c := must[Consequence](t)(l.TryRemoval(ctx, id, blank.ID)); c.Moved != 0 || c.Most != nil {
		t.Errorf("a blank: %+v", c)
	}
	if _, err := l.TryRemoval(ctx, id, "nobody"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("%v", err)
	}
	must[store.Batch](t)(l.Remove(ctx, id, 0, standard.ID, "", who))
	after := must[Processed](t)(l.Process(ctx, id))
	moved, most := 0, 0.0
	for i, row := range before.Result.Samples {
		for c, v := range row.Values {
			if was, is := mean(v), mean(after.Result.Samples[i].Values[c]); was != nil && is != nil && *was != *is {
				moved++
				most = math.Max(most, 100*math.Abs(*is-*was)/math.Abs(*was))
			}
		}
	}
	if moved != said.Moved || math.Abs(most-math.Abs(*said.Most.Percent)) > 1e-9 {
		t.Errorf("%d means moved by up to %g %%, said %+v", moved, most, said)
	}
	if in := after.Batch.Injections; len(in) != 46 || in[3].Role != batch.Standard {
		t.Errorf("%d injections", len(in))
	}
}

// Notices are settled together or not at all, and one undo opens all of them.
func TestNoticesAreSettledTogether(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	var keys []string
	for _, n := range must[Processed](t)(l.Process(ctx, id)).Result.Notices {
		keys = append(keys, n.Key)
	}
	if _, err := l.Settle(ctx, id, 0, append([]string{"no such notice"}, keys...), "seen", who); !errors.Is(err, ErrRefused) || Pointer(err) != "/keys/0" {
		t.Errorf("%v", err)
	}
	if b := must[store.Batch](t)(l.Batch(ctx, id)); len(b.Settled) != 0 {
		t.Errorf("settled %v", b.Settled)
	}
	if b := must[store.Batch](t)(l.Settle(ctx, id, 0, keys, "seen", who)); len(b.Settled) != len(keys) {
		t.Errorf("settled %d of %d", len(b.Settled), len(keys))
	}
	if b := must[store.Batch](t)(l.Undo(ctx, id, 0, "", who)); len(b.Settled) != 0 {
		t.Errorf("after undo settled %v", b.Settled)
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(v.Wrong) != 0 {
		t.Errorf("%v", v.Wrong)
	}
}
