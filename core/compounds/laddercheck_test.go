package compounds

import (
	"math"
	"strings"
	"testing"
)

func ladderOf(time func(carbons float64) float64, from, to int) Ladder {
	l := Ladder{Scale: LinearScale}
	for c := from; c <= to; c++ {
		l.Rungs = append(l.Rungs, Rung{c, time(float64(c))})
	}
	return l
}

func times(l Ladder, shift float64) (list []float64) {
	for _, r := range l.Rungs {
		list = append(list, r.TimeMin+shift)
	}
	return list
}

func TestALadderIsCheckedForOddRungsAndDrift(t *testing.T) {
	even := ladderOf(func(c float64) float64 { return 2*c - 12 }, 8, 17)
	grows := ladderOf(func(c float64) float64 { return 1 + math.Exp(0.4*(c-8)) }, 8, 17) // as without a ramp
	for name, l := range map[string]Ladder{"even": even, "growing": grows} {
		c := l.Check(times(l, 0.004))
		if len(c.Odd) != 0 || c.Found != 10 || c.Shift == nil || math.Abs(*c.Shift-0.004) > 1e-9 || !strings.Contains(c.Says, "stand where the ladder says") {
			t.Errorf("%s: %+v", name, c)
		}
	}
	wrong := ladderOf(func(c float64) float64 { return 2*c - 12 }, 8, 17)
	wrong.Rungs[5].TimeMin += 0.7
	if c := wrong.Check(nil); len(c.Odd) != 1 || c.Odd[0].Carbons != 13 || math.Abs(c.Odd[0].Shift-0.7) > 1e-9 || c.Shift != nil || !strings.HasPrefix(c.Says, "C13 stands 0.70 min after") {
		t.Errorf("a rung out of line: %+v", c)
	}
	missing := Ladder{Scale: LinearScale, Rungs: []Rung{{8, 4}, {9, 6}, {10, 8}, {12, 12}, {13, 14}, {15, 18}, {16, 20}}}
	if c := missing.Check(nil); len(c.Odd) != 0 {
		t.Errorf("missing members are taken for odd ones: %+v", c)
	}
	if c := even.Check(times(even, -0.21)); c.Shift == nil || math.Abs(*c.Shift+0.21) > 1e-9 || !strings.Contains(c.Says, "0.210 min earlier") || !strings.Contains(c.Says, "up to 10.") && !strings.Contains(c.Says, "up to 11.") {
		t.Errorf("a drift: %+v", c)
	}
	for name, apexes := range map[string][]float64{"none": nil, "other peaks": {1, 5.1, 99}, "as many others": {4.3, 5.6, 8.5, 9.8, 12.4, 13.7, 16.1, 18.6, 19.5, 22.3}, "half a step off": times(even, 1)} {
		if c := even.Check(apexes); c.Shift != nil {
			t.Errorf("%s: a shift of %g", name, *c.Shift)
		}
	}
}
