package formula

import (
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/quantities"
)

// offered is what is offered at the bar in a formula.
func offered(t *testing.T, lives, formula string) []Word {
	t.Helper()
	b, register, names := made()
	before, after, _ := strings.Cut(formula, "|")
	f := field(lives, before+after)
	set := Compile([]batch.LabField{f}, register, names)
	return set.Complete(f, len([]rune(before)), row(b, lives))
}

func TestWhatCanStandHereIsOffered(t *testing.T) {
	for _, c := range []struct {
		lives, formula    string
		insert, here      string
		from              int
		never             string // is not offered
		neverBecauseItIsA string
	}{
		{"injection", "nois|", "noise", "0.50000 mAU", 0, "area_s", "peak's"},
		{"injection", "2 * nois|", "noise", "0.50000 mAU", 4, "", ""},
		{"injection", `"grüne Blätter" == name ? nois|`, "noise", "0.50000 mAU", 26, "", ""},
		{"injection", `compound("ca|`, `Caffeine").`, "", 10, `EC").`, "name without what is written"},
		{"injection", `compound("EC").am|`, "amount", "4.000 mg/g", 15, "", ""},
		{"injection", `compound("caffeine").am|`, "amount", "10.00 mg/g", 21, "", ""},
		{"injection", `trace("Pump pressure").m|`, "mean", "", 23, "area_s", "peak's"},
		{"injection", `trace("pu|`, `Pump pressure").`, "bar", 7, "", ""},
		{"injection", "sum(peaks, .area|", "area_s", "", 12, "noise", "detector's"},
		{"compound", "rsd(map(replicates, .amo|", "amount", "", 21, "", ""},
		{"batch", "count(injections, .rol|", "role", "", 19, "area_s", "peak's"},
		{"batch", "inj|", "injections", "", 0, "compound(", "compound of no injection"},
		{"batch", "coun|", "count(", "", 0, "peaks", "list of no injection"},
		{"compound", "amou|", "amount", "10.00 mg/g", 0, "it", "field itself"},
	} {
		list := offered(t, c.lives, c.formula)
		at := slices.IndexFunc(list, func(w Word) bool { return w.Insert == c.insert })
		if at < 0 {
			t.Errorf("%s of a %s: %s is not offered; %+v", c.formula, c.lives, c.insert, list)
			continue
		}
		if w := list[at]; w.From != c.from || c.here != "" && w.Here != c.here {
			t.Errorf("%s: %+v, not %q from %d", c.formula, w, c.here, c.from)
		}
		if c.never != "" && slices.ContainsFunc(list, func(w Word) bool { return w.Insert == c.never }) {
			t.Errorf("%s of a %s: a %s %s is offered", c.formula, c.lives, c.neverBecauseItIsA, c.never)
		}
		if len(list) > maxWords {
			t.Errorf("%s: %d words", c.formula, len(list))
		}
	}
}

// A name that is offered with nothing written is one that a formula may have there.
func TestOnlyWhatIsUnderstoodIsOffered(t *testing.T) {
	b, register, names := made()
	for _, lives := range []string{"batch", "injection", "compound"} {
		for _, first := range "abcdefghijklmnopqrstuvwxyz" {
			for _, w := range offered(t, lives, string(first)+"|") {
				if strings.HasSuffix(w.Insert, "(") || w.Words == "a list" {
					continue // of which something must follow
				}
				if p := Compile([]batch.LabField{field(lives, w.Insert)}, register, names).Problems[0]; p != nil {
					t.Errorf("%s is offered for a %s: %s", w.Insert, lives, p.Says)
				}
			}
		}
	}
	// Wherever the cursor is said to be.
	f := field("injection", "noise")
	for _, cursor := range []int{-7, 0, 3, 5, 6, 1 << 30} {
		Compile([]batch.LabField{f}, register, names).Complete(f, cursor, row(b, "injection"))
	}
	if got := (Set{Register: quantities.Register{}}).Complete(field("injection", "zzz"), 3, quantities.Row{}); len(got) != 0 {
		t.Errorf("%+v", got)
	}
}

// A field that is called otherwise is called so wherever it is used, and words that only look like it stay.
func TestARenamedFieldIsRenamedWhereItIsUsed(t *testing.T) {
	for was, want := range map[string]string{
		`100 * named / whole`:                     `100 * named / all_of_it`,
		`whole * whole+whole`:                     `all_of_it * all_of_it+all_of_it`,
		`mean(map(injections, .whole))`:           `mean(map(injections, .all_of_it))`,
		`name == "whole" ? whole : wholesome`:     `name == "whole" ? all_of_it : wholesome`,
		`name == "grüne Blätter — 緑" ? whole : 0`: `name == "grüne Blätter — 緑" ? all_of_it : 0`,
		`let whole2 = whole; whole2 * 2`:          `let whole2 = all_of_it; whole2 * 2`,
		`compound("whole").whole`:                 `compound("whole").all_of_it`,
		`injections[0].whole ?? whole`:            `injections[0].all_of_it ?? all_of_it`,
		`whole +`:                                 `whole +`, // cannot be read
		``:                                        ``,
	} {
		got := Rename([]batch.LabField{{Short: "other", Formula: was}, {Short: "whole", Formula: "1"}}, "whole", "all_of_it")
		if got[0].Formula != want || got[0].Short != "other" || got[1].Short != "all_of_it" {
			t.Errorf("%q became %q, not %q; %s", was, got[0].Formula, want, got[1].Short)
		}
	}
}
