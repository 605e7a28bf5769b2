package batch

import (
	"slices"
	"strings"
	"testing"

	"yugen/core/checks"
	"yugen/core/peaks"
)

// noticed are the notices of a kind, as "subject: text".
func noticed(r Result, kind checks.Kind) []string {
	var list []string
	for _, n := range r.Notices {
		if n.Kind == kind {
			list = append(list, n.Subject+": "+n.Text)
		}
	}
	return list
}

func expectNotice(t *testing.T, r Result, kind checks.Kind, want ...string) {
	t.Helper()
	got := noticed(r, kind)
	if len(got) != len(want) {
		t.Errorf("%s: %q, want %q", kind, got, want)
		return
	}
	for i := range want {
		if !strings.Contains(got[i], want[i]) {
			t.Errorf("%s: %q, want %q", kind, got[i], want[i])
		}
	}
}

func TestNoticesOfTheRunList(t *testing.T) {
	list := run(t)
	list[0].Role, list[1].Level, list[6].Volume = NoRole, nil, nil
	r := processed(t, list, method(), nil)
	expectNotice(t, r, checks.NoName, "Standard 1: no role")
	expectNotice(t, r, checks.NoLevel, "Standard 5: no level")
	expectNotice(t, r, checks.NoSampleAmount, "Leaf 1 of 2: no extract volume")
	if r.Curves[0].Fit.DegreesOfFreedom != 1 {
		t.Errorf("three standards are left for a line: %+v", r.Curves[0].Fit)
	}
}

func TestCarryOverNamesWhereItCameFrom(t *testing.T) {
	list := run(t)
	blank := injection(t, "b1", "Blank", Blank, nil, 0.5, 0, 1)
	list = slices.Insert(list, 5, blank)
	expectNotice(t, processed(t, list, method(), nil), checks.CarryOver, "Blank: A at 50 % of the lowest level, carried over from Standard 100")
	m := method()
	m.Checks.Blank = 60
	expectNotice(t, processed(t, list, m, nil), checks.CarryOver)
}

func TestTheInternalStandardIsWatched(t *testing.T) {
	list := run(t)
	list[7] = injection(t, "u1", "Leaf", Sample, nil, 30.3, 150, 0.85)
	list[7].Dilution, list[7].Volume, list[7].Sample = 2, ptr(50.0), ptr(0.25)
	r := processed(t, list, method(), nil)
	expectNotice(t, r, checks.InternalDrift, "Leaf 2 of 2: internal standard 1")
	near(t, "its amount is right all the same", r.Injections[7].Readings["a"].Concentration, 30.3, 1)
	if p := r.Injections[7].InternalStandards; p["is"] > -10 {
		t.Errorf("deviation %v", p)
	}
}

func TestReplicatesThatDiffer(t *testing.T) {
	list := run(t)
	list[7] = injection(t, "u1", "Leaf", Sample, nil, 36, 150, 1)
	list[7].Dilution, list[7].Volume, list[7].Sample = 2, ptr(50.0), ptr(0.25)
	r := processed(t, list, method(), nil)
	expectNotice(t, r, checks.Spread, "A: replicates of Leaf differ by 12")
}

func TestACompoundMissingInOneStandard(t *testing.T) {
	list := run(t)
	list = append(list, injection(t, "s9", "Standard 20", Standard, ptr(20.0), 20, 0, 1))
	r := processed(t, list, method(), nil)
	expectNotice(t, r, checks.NotFound, "B: not found in Standard 20")
	for _, c := range r.Curves {
		if want := map[string]int{"a": 6, "b": 5}[c.CompoundID]; len(c.Points) != want {
			t.Errorf("%s has %d points", c.CompoundID, len(c.Points))
		}
	}
}

// A mixture that holds only some compounds is no fault: at a level where none has it, nothing is missing.
func TestStandardsMayHoldOnlySomeCompounds(t *testing.T) {
	list := run(t)
	for i := range 5 {
		level := *list[i].Level
		list[i] = injection(t, list[i].ID, list[i].Name, Standard, &level, level, 0, 1)
	}
	list = slices.DeleteFunc(list, func(in Injection) bool { return in.Role == Check })
	r := processed(t, list, method(), nil)
	expectNotice(t, r, checks.NotFound)
	expectNotice(t, r, checks.NoCurve, "B: no curve: No standard holds it yet.")
	if r.Injections[5].Readings["b"].Problem == "" || r.Injections[5].Readings["b"].Concentration != nil {
		t.Errorf("%+v", r.Injections[5].Readings["b"])
	}
}

func TestALevelThatDoesNotLieOnTheCurve(t *testing.T) {
	list := run(t)
	level := 5.0
	list[1] = injection(t, "s1", "Standard 5", Standard, &level, 8, 5, 1)
	r := processed(t, list, method(), nil)
	expectNotice(t, r, checks.LevelOff, "A: the 5 mg/L level reads")
	if !strings.Contains(r.Curves[0].Verdict.Doubt, "high") || r.Curves[1].Verdict.Doubt != "" {
		t.Errorf("%+v %+v", r.Curves[0].Verdict, r.Curves[1].Verdict)
	}
}

func TestAnEditWithoutItsPeakIsANotice(t *testing.T) {
	list := run(t)
	list[6].Edits = []peaks.Edit{{Kind: peaks.Remove, ApexMin: 3}}
	expectNotice(t, processed(t, list, method(), nil), checks.LostEdit, "Leaf 1 of 2: an edit at 3.00 min no longer has its peak")
}

func TestACutOffTopIsANotice(t *testing.T) {
	list := run(t)
	top := slices.Max(list[4].Trace.Values) * 0.8
	for i, v := range list[4].Trace.Values {
		list[4].Trace.Values[i] = min(v, top)
	}
	expectNotice(t, processed(t, list, method(), nil), checks.CutOff, "Standard 100: the detector cut off the top")
}

func TestLowResolutionIsOneNoticeACompound(t *testing.T) {
	m := method()
	m.Compounds[1].MinResolution = 1000
	r := processed(t, run(t), m, nil)
	if got := noticed(r, checks.LowResolution); len(got) != 1 || !strings.Contains(got[0], "in 9 of 9 injections") {
		t.Errorf("%q", got)
	}
}

// Height serves as well as area where peaks do not change their shape.
func TestHeightsInsteadOfAreas(t *testing.T) {
	m := method()
	m.Curves.Response = Height
	r := processed(t, run(t), m, nil)
	near(t, "by height", r.Injections[6].Readings["a"].Concentration, 30, 0.5)
	if p := r.Injections[6].PeakOf("a"); *r.Injections[6].Readings["a"].Response > p.Height {
		t.Error("the response is not a ratio of heights")
	}
}
