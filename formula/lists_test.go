package formula

import (
	"fmt"
	"testing"

	"yugen/core/batch"
)

// computed compares what fields come to with what is wanted.
func computed(t *testing.T, cases []computing) {
	t.Helper()
	b, register, names := made()
	for _, c := range cases {
		set := Compile([]batch.LabField{field(c.lives, c.formula)}, register, names)
		if p := set.Problems[0]; p != nil {
			t.Errorf("%s: %s", c.formula, p.Says)
			continue
		}
		q, _ := set.Register.Find("it")
		v := q.Of(row(b, c.lives))
		isWanted(t, c.formula, v, c.want)
		if v.Number != nil && v.Why != c.note {
			t.Errorf("%s says %q beside its number, not %q", c.formula, v.Why, c.note)
		}
	}
}

type computing struct {
	lives, formula string
	want           any
	note           string // what is said beside a number
}

// Whether something is true of all, of any or of none is not known while it may be otherwise for one that has no value: of the five injections two have caffeine,
// 10 and 12 mg/g. What is known to settle it settles it.
func TestWhatIsNotThereLeavesAQuestionOpen(t *testing.T) {
	const amount = `.compound("Caffeine").amount`
	unknown := fmt.Errorf("there is no amount of Caffeine in Blank")
	computed(t, []computing{
		{"batch", `any(injections, ` + amount + ` > 11)`, "pass", ""},
		{"batch", `any(injections, ` + amount + ` > 13)`, unknown, ""},
		{"batch", `none(injections, ` + amount + ` > 13)`, unknown, ""},
		{"batch", `none(injections, ` + amount + ` > 11)`, "fail", ""},
		{"batch", `all(injections, ` + amount + ` < 11)`, "fail", ""},
		{"batch", `all(injections, ` + amount + ` < 13)`, unknown, ""},
		// Of those that are looked at all have a value.
		{"batch", `any(filter(injections, .role == "sample"), ` + amount + ` > 13)`, "fail", ""},
		{"batch", `none(filter(injections, .role == "sample"), ` + amount + ` > 13)`, "pass", ""},
		{"batch", `all(filter(injections, .role == "sample"), ` + amount + ` < 13)`, "pass", ""},
		// Of nothing everything is true, and nothing of any.
		{"batch", `all(filter(injections, .role == "cocoa"), .noise > 1)`, "pass", ""},
		{"batch", `any(filter(injections, .role == "cocoa"), .noise > 1)`, "fail", ""},
		{"batch", `none(filter(injections, .role == "cocoa"), .noise > 1)`, "pass", ""},
		// How many is told with of how many that is known.
		{"batch", `count(injections, ` + amount + ` > 11)`, 1.0, "2 of 5 have a value"},
		{"batch", `count(injections, .role == "sample")`, 2.0, ""},
		{"batch", `sum(map(injections, ` + amount + `))`, 22.0, "2 of 5 have a value"},
		{"batch", `sum(injections, .peaks_found)`, 6.0, ""},
		{"batch", `sum(filter(injections, .role == "cocoa"), .peaks_found)`, 0.0, ""},
	})
}

// One of a list: the first, the last, the first for which something is true, or why there is none.
func TestOneOfAList(t *testing.T) {
	computed(t, []computing{
		{"injection", `find(peaks, .area_s < 50).retention_min`, 10.0, ""},
		{"injection", `find(peaks, .compound == "").area_s`, 10.0, ""},
		{"injection", `find(peaks, .area_s > 1000).area_s`, fmt.Errorf("the list has none of which it is true"), ""},
		{"injection", `first(peaks).area_s - last(peaks).area_s`, 190.0, ""},
		{"injection", `last(filter(peaks, .area_s > 1000)).area_s`, fmt.Errorf("the list is empty"), ""},
		{"injection", `len(filter(peaks, .area_s >= 40))`, 2.0, ""},
		{"batch", `last(injections).name + " of " + first(injections).name`, "Check of Blank", ""},
		{"batch", `min(map(injections, .compound("Caffeine").amount))`, 10.0, "2 of 5 have a value"},
		{"injection", `max(3, 7.5, 2)`, 7.5, ""},
		{"injection", `min(3, 7.5, noise * 0 ?? 1)`, 0.0, ""},
		{"injection", `median(map(peaks, .area_s))`, 40.0, ""},
		{"injection", `round(2.5) + floor(0 - 1.2) + ceil(1.2) + abs(0 - 4)`, 3.0 - 2 + 2 + 4, ""},
		{"injection", `trim("  " + lower(name) + " ")`, "tea", ""},
	})
}
