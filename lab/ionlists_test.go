package lab

import (
	"slices"
	"strings"
	"testing"

	"yugen/lab/record"
)

func TestIonsAreKeptByName(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	id := aromaOf(t, l).Batch.ID
	list := must[[]KeptIons](t)(l.KeepIonList(ctx, id, KeptIons{Name: "Linalool", Class: "terpene alcohols", Ions: []string{"71±0.3", "93 ± 0.3", "71 +- 0.3", "121.1±10ppm"}}, who))
	if len(list) != 1 || !slices.Equal(list[0].Ions, []string{"71±0.3", "93±0.3", "121.1±10 ppm"}) || list[0].SavedBy != who {
		t.Fatalf("%+v", list)
	}
	list = must[[]KeptIons](t)(l.KeepIonList(ctx, id, KeptIons{Name: "Linalool", Ions: list[0].Ions[:1]}, who)) // what was kept can be kept again
	if len(list) != 1 || len(list[0].Ions) != 1 || list[0].Class != "" {
		t.Errorf("kept again: %+v", list)
	}
	for says, odd := range map[string]KeptIons{
		"needs a tolerance":    {Name: "A", Ions: []string{"71"}},
		"no place":             {Name: "A", Ions: []string{"green"}},
		"between 1 and":        {Name: " ", Ions: []string{"71±0.3"}},
		"at most 80 letters":   {Name: "A", Class: strings.Repeat("x", 81), Ions: []string{"71±0.3"}},
		"at most 60 ions, not": {Name: "A", Ions: slices.Repeat([]string{"71±0.3"}, 61)},
	} {
		if _, err := l.KeepIonList(ctx, id, odd, who); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", odd, err)
		}
	}
	if list = must[[]KeptIons](t)(l.KeepIonList(ctx, id, KeptIons{Name: "Linalool"}, who)); len(list) != 0 {
		t.Errorf("taken away: %+v", list)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
}
