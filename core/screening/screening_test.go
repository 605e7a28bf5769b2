package screening

import (
	"math"
	"testing"
)

func at(v float64) *float64 { return &v }

func TestAValueAtTheEndIsInsideAndOneBeyondIsNot(t *testing.T) {
	for _, c := range []struct {
		value, low, high *float64
		inside           bool
	}{
		{at(7.8), at(7.8), at(7.96), true}, {at(7.96), at(7.8), at(7.96), true},
		{at(math.Nextafter(7.8, 0)), at(7.8), at(7.96), false}, {at(math.Nextafter(7.96, 9)), at(7.8), at(7.96), false},
		{at(95), at(95), nil, true}, {at(94.999), at(95), nil, false}, {at(-1e300), nil, nil, true},
		{nil, nil, nil, false}, {at(math.NaN()), nil, nil, false},
	} {
		if m := NewMark(Retention, c.value, c.low, c.high); m.Inside != c.inside {
			t.Errorf("%v within %v and %v: %v", c.value, c.low, c.high, m.Inside)
		}
	}
}

// evidence has a retention, a spectrum, a ratio and a signal-to-noise, of which some lie outside.
func evidence(found bool, outside ...Kind) Evidence {
	e := Evidence{Found: found}
	for _, k := range Kinds {
		m := Mark{Kind: k, Value: at(1), Inside: true}
		for _, o := range outside {
			m.Inside = m.Inside && o != k
		}
		e.Marks = append(e.Marks, m)
	}
	return e
}

func TestTheWordIsThatOfTheEvidence(t *testing.T) {
	for _, c := range []struct {
		e     Evidence
		below bool
		word  Word
	}{
		{evidence(false), false, Nothing}, {evidence(false), true, Nothing}, {evidence(true), false, Proposed}, {evidence(true), true, BelowLimit},
		{evidence(true, Retention), false, LookHere}, {evidence(true, Spectrum), false, LookHere}, {evidence(true, Ratio), false, LookHere},
		{evidence(true, SignalToNoise), false, BelowLimit}, {evidence(true, Ratio, SignalToNoise), false, BelowLimit},
		{Evidence{Found: true}, false, Proposed}, // where nothing is asked nothing speaks against it
	} {
		if word := c.e.Judge(c.below); word != c.word {
			t.Errorf("%+v, below %v: %s, want %s", c.e, c.below, word, c.word)
		}
	}
}

func TestReplicatesThatDoNotAgreeAreLookedAt(t *testing.T) {
	of := func(words ...Word) (list []Evidence) {
		for _, w := range words {
			list = append(list, Evidence{Word: w})
		}
		return list
	}
	for _, c := range []struct {
		list          []Evidence
		word          Word
		shown, others int
	}{
		{nil, Nothing, 0, 0}, {of(Nothing), Nothing, 0, 0}, {of(Proposed, Proposed), Proposed, 0, 0}, {of(LookHere, LookHere), LookHere, 0, 0},
		{of(Nothing, Proposed), LookHere, 1, 1}, {of(Proposed, LookHere), LookHere, 1, 1}, {of(Nothing, BelowLimit), BelowLimit, 1, 1},
		{of(BelowLimit, Proposed, Proposed), LookHere, 1, 1}, {of(Nothing, Nothing, LookHere), LookHere, 2, 2},
	} {
		if word, shown, others := Together(c.list); word != c.word || shown != c.shown || others != c.others {
			t.Errorf("%+v: %s by %d, %d otherwise; want %s by %d, %d", c.list, word, shown, others, c.word, c.shown, c.others)
		}
	}
}

func TestAPrintChangesWithTheEvidence(t *testing.T) {
	same := Print([]Evidence{evidence(true)})
	if same != Print([]Evidence{evidence(true)}) {
		t.Error("the same evidence has two prints")
	}
	moved := evidence(true)
	moved.Marks[1].Value = at(1.001)
	gone := evidence(true)
	gone.Marks[2].Value = nil
	for _, other := range [][]Evidence{{moved}, {gone}, {evidence(true, Ratio)}, {evidence(true), evidence(true)}, nil} {
		if Print(other) == same {
			t.Errorf("%+v has the print of other evidence", other)
		}
	}
}

func TestOddRulesAndDecisionsAreRefused(t *testing.T) {
	if err := Usual.Validate(); err != nil {
		t.Error(err)
	}
	for _, r := range []Rules{{RetentionMin: -1}, {LeastMatch: 100.1}, {LeastMatch: math.NaN()}, {LeastSignalToNoise: math.Inf(1)}, {Limits: map[string]float64{"a": -1}}, {Limits: map[string]float64{"a": math.NaN()}}} {
		if r.Validate() == nil {
			t.Errorf("%+v is taken", r)
		}
	}
	for _, d := range []Decision{{Word: Proposed}, {Word: ""}, {Word: Present, Why: string(make([]byte, 501))}} {
		if ValidDecisions(map[string][]Decision{"a": {d}}) == nil {
			t.Errorf("%+v is kept", d)
		}
	}
	if err := ValidDecisions(map[string][]Decision{"a": make([]Decision, 5001)}); err == nil {
		t.Error("any number of decisions is kept")
	}
}
