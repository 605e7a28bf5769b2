package batch

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/checks"
)

// What eluted in a stretch that is in doubt counts in no mean and no curve, is flagged and told; what eluted before does. Taken as it is, it counts again.
func TestDoubtfulStretchesStayOutOfMeans(t *testing.T) {
	in := Input{Injections: run(t), Method: method()}
	plain := chosen(t, in, nil)
	sample := slices.IndexFunc(in.Injections, func(i Injection) bool { return i.ID == "u0" })
	standard := slices.IndexFunc(in.Injections, func(i Injection) bool { return i.ID == "s1" })
	second := slices.IndexFunc(in.Injections, func(i Injection) bool { return i.ID == "u1" })
	peak := func(r Result, i int, id string) *NamedPeak { return r.Injections[i].PeakOf(id) }
	b := peak(plain, second, "b")
	a := peak(plain, second, "a")
	if b == nil || a == nil || a.EndMin >= b.StartMin {
		t.Fatalf("%+v %+v", a, b)
	}
	in.Injections[second].Doubts = []Doubt{{FromMin: b.StartMin + 0.01, ToMin: b.EndMin, Says: "the flame went out"}}
	doubted := chosen(t, in, nil)
	row := func(r Result) SampleRow { return r.Samples[0] }
	of := func(r Result, i int, id string) float64 {
		v := r.Injections[i].Readings[id].Amount
		if v == nil {
			return math.NaN()
		}
		return *v
	}
	if got, want := *row(doubted).Values["b"].Mean, of(doubted, sample, "b"); math.Abs(got-want) > 1e-12*want || row(doubted).Values["b"].N != 1 || row(doubted).Values["b"].Of != 2 {
		t.Errorf("mean of b %g, the sound one alone is %g; %+v", got, want, row(doubted).Values["b"])
	}
	if *row(doubted).Values["a"].Mean != *row(plain).Values["a"].Mean {
		t.Error("what eluted before the trouble is left out, too")
	}
	if !slices.Contains(doubted.Injections[second].Readings["b"].Flags, Doubtful) || slices.Contains(doubted.Injections[second].Readings["a"].Flags, Doubtful) {
		t.Errorf("%+v", doubted.Injections[second].Readings)
	}
	told := slices.IndexFunc(doubted.Notices, func(n checks.Notice) bool { return n.Kind == checks.Doubted })
	if told < 0 || !strings.Contains(doubted.Notices[told].Text, "the flame went out") || !strings.Contains(doubted.Notices[told].Text, "stays out of means") {
		t.Errorf("%+v", doubted.Notices)
	}
	// Two stretches of one injection are one notice, and the working of the mean of two has no third in it.
	third := injection(t, "u2", "Leaf", Sample, nil, 30, 150, 0.97)
	third.Dilution, third.Volume, third.Sample = 2, ptr(50.0), ptr(0.25)
	three := in
	three.Injections = append(slices.Clone(in.Injections), third)
	three.Injections[second].Doubts = append(three.Injections[second].Doubts, Doubt{FromMin: 98, ToMin: 99, Says: "and the lamp"})
	r := chosen(t, three, nil)
	if n := len(slices.DeleteFunc(slices.Clone(r.Notices), func(n checks.Notice) bool { return n.Kind != checks.Doubted })); n != 1 {
		t.Errorf("%d notices of one injection", n)
	}
	w, ok := Work(three, r, "u0", "b")
	if sound := fmt.Sprintf("%s + %s", Significant(of(r, sample, "b"), 5), Significant(of(r, len(three.Injections)-1, "b"), 5)); !ok || !strings.Contains(w.text(), sound) || strings.Contains(w.text(), "Mean of 3") {
		t.Errorf("the working is not of %s:\n%s", sound, w.text())
	}
	in.Injections[second].Doubts = in.Injections[second].Doubts[:1]
	in.Injections[second].Doubts[0].Taken = "the tail was over"
	taken := chosen(t, in, nil)
	if *row(taken).Values["b"].Mean != *row(plain).Values["b"].Mean || slices.ContainsFunc(taken.Notices, func(n checks.Notice) bool { return n.Kind == checks.Doubted }) {
		t.Error("taken as it is, it does not count again")
	}
	in.Injections[standard].Doubts = []Doubt{{FromMin: 0, ToMin: 99, Says: "the lamp went out"}}
	curve := chosen(t, in, nil).Curves[0]
	k := slices.IndexFunc(curve.Points, func(q CurvePoint) bool { return q.InjectionID == "s1" })
	if k < 0 || !curve.Points[k].LeftOut || curve.Points[k].Reason != "the lamp went out" {
		t.Errorf("%+v", curve.Points)
	}
}
