package lab

import (
	"errors"
	"strings"
	"testing"

	"yugen/core/compounds"
	"yugen/store"
)

// A pasted table becomes a ladder, kept by name in the study, seen from its other batches, replaced and taken away; one whose times fall is refused.
func TestLaddersAreKeptByName(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	days := daysOf(t, l)
	one := must[compounds.Ladder](t)(l.ReadLadder("Alkane\tmin\nC8\t4,25\nC10\t8,5\n"))
	if len(one.Rungs) != 2 || one.Rungs[1] != (compounds.Rung{Carbons: 10, TimeMin: 8.5}) {
		t.Fatalf("%+v", one)
	}
	must[[]KeptLadder](t)(l.KeepLadder(ctx, days[0], "Slow ramp", one, who))
	one.Rungs = append(one.Rungs, compounds.Rung{Carbons: 11, TimeMin: 11})
	must[[]KeptLadder](t)(l.KeepLadder(ctx, days[1], "Slow ramp", one, who))
	got := must[[]KeptLadder](t)(l.Ladders(ctx, days[2]))
	if len(got) != 1 || len(got[0].Ladder.Rungs) != 3 || got[0].SavedBy != who {
		t.Errorf("%+v", got)
	}
	if left := must[[]KeptLadder](t)(l.PutLadderAway(ctx, days[0], "Slow ramp", who)); len(left) != 0 {
		t.Errorf("%+v", left)
	}
	if _, err := l.PutLadderAway(ctx, days[0], "Slow ramp", who); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("taken away twice: %v", err)
	}
	for text, says := range map[string]string{"": "empty", "8\t4\n9\t4\n": "does not come after", "8,x\n": "no time", "8\t4\n": "2 to 100"} {
		if _, err := l.ReadLadder(text); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
	one.Rungs[2].TimeMin = 3
	if _, err := l.KeepLadder(ctx, days[0], "Falling", one, who); !errors.Is(err, ErrRefused) {
		t.Errorf("times that fall: %v", err)
	}
}
