package lab

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/store"
)

// stateOfBatch is all of a batch that steps back and forth bring back: its run list, edits, choices, settled notices and method.
func stateOfBatch(t *testing.T, l *Lab, id string) string {
	t.Helper()
	b := must[store.Batch](t)(l.Batch(t.Context(), id))
	b.Revision, b.Version.ID, b.Version.Number = 0, "", 0
	return change.JSON(struct {
		Injections []store.Injection
		Choices    batch.Choices
		Settled    []string
		Method     batch.Method
		Name       string
	}{b.Injections, b.Choices, b.Settled, b.Version.Method, b.Name})
}

// Whatever is done, in whatever order, with steps back and forth between, every step back gives the state before and every step forth the one after, as a stack of
// states has them; a change after a step back ends what could be done again. In the end the record replays to what stands there.
func TestStepsBackAndForthAmongAnyChanges(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	p := must[Processed](t)(l.Process(ctx, id))
	var notices []checks.Notice
	for _, n := range p.Result.Notices {
		if n.Key != "" {
			notices = append(notices, n)
		}
	}
	for seed := range uint64(3) {
		r := rand.New(rand.NewPCG(seed, 17))
		stack, at := []string{stateOfBatch(t, l, id)}, 0
		floor := must[History](t)(l.History(ctx, id)).Undo
		done := map[string]int{}
		for step := range 60 {
			b := must[store.Batch](t)(l.Batch(ctx, id))
			one := b.Injections[r.IntN(len(b.Injections))]
			pick := r.IntN(10)
			var what string
			var err error
			switch {
			case pick < 2 && at > 0:
				what = "undo"
				_, err = l.Undo(ctx, id, 0, "", who)
			case pick < 4 && at < len(stack)-1:
				what = "redo"
				_, err = l.Redo(ctx, id, 0, "", who)
			case pick == 4:
				what = "typed"
				_, err = l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{one.ID, batch.FieldDilution, fmt.Sprint(2 + r.IntN(50))}, {one.ID, batch.FieldVial, fmt.Sprint("V", step)}}, "", who)
			case pick == 5:
				what = "edit"
				found := p.Result.Injections[20].Peaks[r.IntN(5)]
				_, err = l.AddEdit(ctx, id, b.Revision, b.Injections[20].ID, peaks.Edit{Kind: peaks.MoveEnd, ApexMin: found.ApexMin, ToMin: found.EndMin + 0.001*float64(1+step)}, "", who)
			case pick == 6:
				what = "order"
				_, err = l.Reorder(ctx, id, b.Revision, one.ID, 1+r.IntN(len(b.Injections)), "", who)
			case pick == 7 && len(b.Injections) > 40:
				what = "taken out"
				_, err = l.Remove(ctx, id, b.Revision, one.ID, "", who)
			case pick == 8:
				what = "method"
				m := b.Version.Method
				m.Curves.Weight = []curves.Weight{curves.Unweighted, curves.PerX, curves.PerX2}[r.IntN(3)]
				m.Amounts.Unit = []string{"mg/g", "g/kg", "%"}[r.IntN(3)]
				_, err = l.SaveMethod(ctx, id, b.Revision, m, fmt.Sprint("step ", step), who)
			default:
				what = "settled"
				_, err = l.Settle(ctx, id, b.Revision, []string{notices[r.IntN(len(notices))].Key}, "seen", who)
			}
			now := stateOfBatch(t, l, id)
			if err != nil {
				if !errors.Is(err, ErrRefused) || now != stack[at] {
					t.Fatalf("seed %d, step %d, %s: %v; unchanged: %t", seed, step, what, err, now == stack[at])
				}
				continue
			}
			done[what]++
			switch what {
			case "undo":
				at--
			case "redo":
				at++
			default:
				if now == stack[at] && what != "method" { // a version of the method is a step, be it like the one before
					continue // it was so already, and there is no step back to before it
				}
				stack = append(stack[:at+1], now)
				at++
			}
			if now != stack[at] {
				t.Fatalf("seed %d, step %d, %s: state %d is not what it was\n%s", seed, step, what, at, wherePart(now, stack[at]))
			}
		}
		if len(done) < 7 {
			t.Errorf("seed %d: only %v", seed, done)
		}
		for ; at > 0; at-- {
			if _, err := l.Undo(ctx, id, 0, "", who); err != nil {
				t.Fatalf("seed %d: back to the beginning, at %d: %v", seed, at, err)
			}
		}
		if stateOfBatch(t, l, id) != stack[0] || must[History](t)(l.History(ctx, id)).Undo != floor {
			t.Errorf("seed %d: at the beginning it is not as it began", seed)
		}
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(v.Wrong) > 0 {
		t.Errorf("%v", v.Wrong)
	}
}

// What is settled already, and what stands where it is put, is no step: the one before it is what is taken back.
func TestWhatChangesNothingIsNoStep(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	notice := anyNotice(t, l, id)
	b = must[store.Batch](t)(l.Settle(ctx, id, b.Revision, []string{notice}, "seen", who))
	open, rows := b, must[record.Verification](t)(l.VerifyQuickly(ctx)).Changes
	for k, nothing := range []func() (store.Batch, error){
		func() (store.Batch, error) {
			return l.Settle(ctx, id, open.Revision, []string{notice}, "seen by another", "A. Brandt")
		},
		func() (store.Batch, error) {
			return l.Reorder(ctx, id, open.Revision, open.Injections[5].ID, 6, "", who)
		},
	} {
		same, err := nothing()
		if err != nil || same.Revision != open.Revision {
			t.Errorf("%d: revision %d, was %d; %v", k, same.Revision, open.Revision, err)
		}
	}
	if now := must[record.Verification](t)(l.VerifyQuickly(ctx)).Changes; now != rows {
		t.Errorf("%d rows of the record more", now-rows)
	}
	if back := must[store.Batch](t)(l.Undo(ctx, id, 0, "", who)); len(back.Settled) != 0 {
		t.Errorf("a step back left %v settled", back.Settled)
	}
	if _, err := l.Reorder(ctx, id, 0, open.Injections[5].ID, len(open.Injections)+1, "", who); Pointer(err) != "/position" {
		t.Errorf("a place behind the last: %v", err)
	}
}

// wherePart shows where two texts part.
func wherePart(is, was string) string {
	k := 0
	for k < len(is) && k < len(was) && is[k] == was[k] {
		k++
	}
	from := max(0, k-120)
	return fmt.Sprintf("is   …%.400s\nwas  …%.400s", is[from:], was[from:])
}
