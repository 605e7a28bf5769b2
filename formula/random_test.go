package formula

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/quantities"
)

// written is an expression with what it comes to, worked out while it was written, without any of the formula's own code.
type written struct {
	text   string
	binds  int // how tightly: what binds less than what it stands in is put into brackets
	number float64
	truth  bool
	absent bool
}

// How tightly what is written binds, in the order of school and of the docs.
const (
	chooses = iota
	ors
	ands
	compares
	adds
	multiplies
	stands // by itself: a number, a call, brackets
)

func (w written) in(binds int) string {
	if w.binds < binds {
		return "(" + w.text + ")"
	}
	return w.text
}

// author writes expressions at random. names are those that `let` has given a value.
type author struct {
	rnd   *rand.Rand
	names map[string]float64
	whole bool // nothing in it may be absent
}

func (a *author) literal() written {
	v := float64(a.rnd.IntN(4000)) / 8 // exact in both ways of writing
	if len(a.names) > 0 && a.rnd.IntN(3) == 0 {
		name := slices.Sorted(func(yield func(string) bool) {
			for n := range a.names {
				if !yield(n) {
					return
				}
			}
		})[a.rnd.IntN(len(a.names))]
		return written{text: name, binds: stands, number: a.names[name]}
	}
	return written{text: fmt.Sprint(v), binds: stands, number: v}
}

func (a *author) numberOf(depth int) written {
	if depth == 0 {
		return a.literal()
	}
	x, y := func() written { return a.numberOf(depth - 1) }, func() written { return a.numberOf(depth - 1) }
	switch a.rnd.IntN(9) {
	case 0, 1:
		l, r := x(), y()
		if a.rnd.IntN(2) == 0 {
			return written{text: l.in(adds) + " + " + r.in(adds+1), binds: adds, number: l.number + r.number, absent: l.absent || r.absent}
		}
		return written{text: l.in(adds) + " - " + r.in(adds+1), binds: adds, number: l.number - r.number, absent: l.absent || r.absent}
	case 2:
		l, r := x(), y()
		return written{text: l.in(multiplies) + " * " + r.in(multiplies+1), binds: multiplies, number: l.number * r.number, absent: l.absent || r.absent}
	case 3:
		l, r := x(), y()
		if a.whole {
			r = written{text: "4", binds: stands, number: 4}
		} else if a.rnd.IntN(5) == 0 {
			r = written{text: r.in(adds) + " - " + r.in(adds+1), binds: adds, absent: r.absent}
		}
		return written{text: l.in(multiplies) + " / " + r.in(multiplies+1), binds: multiplies, number: l.number / r.number, absent: l.absent || r.absent || r.number == 0}
	case 4:
		l := x()
		return written{text: "abs(" + l.text + ")", binds: stands, number: math.Abs(l.number), absent: l.absent}
	case 5:
		return a.statistic(depth)
	case 6:
		c, l, r := a.truthOf(depth-1), x(), y()
		chosen := r
		if c.truth {
			chosen = l
		}
		return written{text: c.in(ors) + " ? " + l.in(ors) + " : " + r.in(ors), binds: chooses, number: chosen.number, absent: chosen.absent}
	case 7:
		l, r := x(), y()
		number, absent := l.number, false
		if l.absent {
			number, absent = r.number, r.absent
		}
		return written{text: "((" + l.text + ") ?? (" + r.text + "))", binds: stands, number: number, absent: absent}
	}
	l := x()
	return written{text: "-(" + l.text + ")", binds: stands - 1, number: -l.number, absent: l.absent}
}

// statistic is one of a list of which nothing is missing.
func (a *author) statistic(depth int) written {
	was := a.whole
	a.whole = true
	var texts []string
	var list []float64
	for range 1 + a.rnd.IntN(4) {
		w := a.numberOf(depth - 1)
		texts, list = append(texts, w.in(ors)), append(list, w.number)
	}
	a.whole = was
	sum := 0.0
	for _, v := range list {
		sum += v
	}
	sorted := slices.Sorted(slices.Values(list))
	n := len(list)
	of := map[string]float64{"sum": sum, "mean": sum / float64(n), "min": sorted[0], "max": sorted[n-1], "len": float64(n), "first": list[0], "last": list[n-1], "median": (sorted[(n-1)/2] + sorted[n/2]) / 2}
	names := []string{"sum", "mean", "min", "max", "len", "first", "last", "median"}
	name := names[a.rnd.IntN(len(names))]
	return written{text: name + "([" + strings.Join(texts, ", ") + "])", binds: stands, number: of[name]}
}

func (a *author) truthOf(depth int) written {
	was := a.whole
	a.whole = true
	defer func() { a.whole = was }()
	if depth <= 0 || a.rnd.IntN(3) == 0 {
		l, r := a.numberOf(max(0, depth-1)), a.numberOf(max(0, depth-1))
		signs := map[string]bool{"<": l.number < r.number, "<=": l.number <= r.number, ">": l.number > r.number, ">=": l.number >= r.number, "==": l.number == r.number, "!=": l.number != r.number}
		sign := []string{"<", "<=", ">", ">=", "==", "!="}[a.rnd.IntN(6)]
		return written{text: l.in(adds) + " " + sign + " " + r.in(adds), binds: compares, truth: signs[sign]}
	}
	l, r := a.truthOf(depth-1), a.truthOf(depth-1)
	switch a.rnd.IntN(3) {
	case 0:
		return written{text: l.in(ands) + " and " + r.in(ands), binds: ands, truth: l.truth && r.truth}
	case 1:
		return written{text: l.in(ors) + " or " + r.in(ors), binds: ors, truth: l.truth || r.truth}
	}
	return written{text: "not (" + l.text + ")", binds: stands - 1, truth: !l.truth}
}

// Whatever is written, with as few brackets as the order of operations allows, comes to what it was when it was written; what is divided by zero is absent, and
// stays so until `??` puts something in its place.
func TestWhateverIsWrittenComesToWhatItIs(t *testing.T) {
	b, register, names := made()
	here := row(b, "injection")
	absent, chosen := 0, 0
	for seed := range uint64(4000) {
		a := &author{rnd: rand.New(rand.NewPCG(seed, 17)), names: map[string]float64{}}
		text := ""
		for k := range a.rnd.IntN(3) {
			a.whole = true
			w := a.numberOf(1)
			a.whole = false
			name := fmt.Sprintf("v%d", k)
			a.names[name], text = w.number, text+"let "+name+" = "+w.text+"; "
		}
		w := a.numberOf(1 + a.rnd.IntN(4))
		text += w.text
		if math.IsInf(w.number, 0) && !w.absent || math.IsNaN(w.number) && !w.absent || math.Abs(w.number) > 1e12 || len(text) > 3500 {
			continue
		}
		set := Compile([]batch.LabField{field("injection", text)}, register, names)
		if p := set.Problems[0]; p != nil {
			if strings.Contains(p.Says, "parts") { // longer than a formula may be
				continue
			}
			t.Fatalf("%s: %s", text, p.Says)
		}
		q, _ := set.Register.Find("it")
		v := q.Of(here)
		switch {
		case w.absent && !v.Absent():
			t.Fatalf("%s is %v; something in it is divided by zero", text, *v.Number)
		case !w.absent && (v.Absent() || math.Abs(*v.Number-w.number) > 1e-9*math.Max(1, math.Abs(w.number))):
			t.Fatalf("%s is %s, not %g", text, told(v), w.number)
		}
		if w.absent {
			absent++
		}
		if strings.Contains(text, "?") {
			chosen++
		}
	}
	if absent < 20 || chosen < 500 {
		t.Errorf("%d were absent, %d chose", absent, chosen)
	}
}

func told(v quantities.Value) string {
	if v.Absent() {
		return "absent: " + v.Why
	}
	return fmt.Sprint(*v.Number)
}
