package lab

import (
	"math"
	"testing"

	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/store"
)

// The five days of the demo stand side by side in each of them.
func TestLimitsStandSideBySide(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	id := ""
	for _, s := range must[[]store.Study](t)(l.Studies(ctx)) {
		if s.Name == "Five days" {
			id = s.Batches[2].ID
		}
	}
	for _, table := range must[[]LimitTable](t)(l.Limits(ctx, id)) {
		if len(table.Days) != 5 || table.Days[3].Batch != "Day 4" || table.Proposed == nil || len(table.Ways) != len(curves.LimitWays) {
			t.Errorf("%s: %d days, %+v", table.CompoundID, len(table.Days), table.Proposed)
			continue
		}
		most := 0.0
		for _, d := range table.Days {
			for _, limit := range d.Limits {
				if limit.Way == table.Proposed.Way {
					most = math.Max(most, *limit.LOQ)
				}
			}
		}
		if *table.Proposed.LOQ != most {
			t.Errorf("proposed %g, the largest is %g", *table.Proposed.LOQ, most)
		}
	}
}

// A trial curve changes nothing; taken up, it does what the trial said; and what changed since is told.
func TestATriedCurveIsWhatItBecomes(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	before := must[Processed](t)(l.Process(ctx, id))
	own := batch.Own{Model: curves.Quadratic, Weight: curves.PerX2}
	tried := must[TriedCurve](t)(l.TryCurve(ctx, id, CurveTrial{CompoundID: "caf", Own: &own}))
	if tried.Curve.Fit.Model != curves.Quadratic || len(tried.Effects) != len(before.Result.Samples) {
		t.Fatalf("%+v", tried.Effects)
	}
	if resultBytes(t, l, id) != mustJSON(before.Result) {
		t.Error("the trial wrote something")
	}
	m := before.Batch.Version.Method
	m.Curves.Own = map[string]batch.Own{"caf": own}
	b := must[store.Batch](t)(l.SaveMethod(ctx, id, before.Batch.Revision, m, "a trial taken up", who))
	after := must[Processed](t)(l.Process(ctx, id))
	for i, e := range tried.Effects {
		if got := mean(after.Result.Samples[i].Values["caf"]); got == nil || *got != *e.After {
			t.Errorf("%s: %v, tried %v", e.Name, got, e.After)
		}
	}
	since := must[Since](t)(l.ChangedSince(ctx, id, ""))
	if since.Version.Number != b.Version.Number-1 || len(since.Effects) == 0 {
		t.Fatalf("%+v", since)
	}
	for _, e := range since.Effects {
		if e.CompoundID != "caf" {
			t.Errorf("%s of %s has moved", e.CompoundID, e.Name)
		}
	}
	// The curve as the first version had it can be taken up again.
	earlier := must[TriedCurve](t)(l.TryCurve(ctx, id, CurveTrial{CompoundID: "caf", VersionID: since.Version.ID}))
	if earlier.Curve.Fit.Model != curves.Linear {
		t.Errorf("%s", earlier.Curve.Fit.Model)
	}
	if _, err := l.TryCurve(ctx, id, CurveTrial{CompoundID: "caf", VersionID: "nothing"}); err == nil {
		t.Error("a version that is not there was tried")
	}
	if first := must[Since](t)(l.ChangedSince(ctx, id, b.Version.ID)); len(first.Effects) != 0 {
		t.Errorf("against itself: %+v", first.Effects)
	}
}

func TestChecksOverAllBatches(t *testing.T) {
	l, id := demo(t)
	points := must[[]ControlPoint](t)(l.Control(t.Context(), id, "egcg"))
	outside := 0
	for _, p := range points {
		if p.Outside {
			outside++
		}
	}
	if len(points) != 4 || outside != 1 || points[3].Name != "Check, end" {
		t.Errorf("%+v", points)
	}
}

// Suggested settings find what the examples show, on the stored traces.
func TestSuggestionsForABatch(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	now := must[Processed](t)(l.Process(ctx, id))
	in := now.Batch.Injections[20]
	var marks []Example
	for _, p := range now.Result.Injections[20].Peaks {
		marks = append(marks, Example{in.ID, p.ApexMin, p.AreaS > 100})
	}
	got, err := l.SuggestPeaks(ctx, id, Examples{Marks: marks})
	if err != nil || len(got.Contradicting) > 0 {
		t.Fatalf("%+v %v", got, err)
	}
	tried := must[Preview](t)(l.TryPeaks(ctx, id, Trial{InjectionID: in.ID, Settings: got.Settings}))
	wanted := 0
	for _, m := range marks {
		if m.Keep {
			wanted++
		}
	}
	if len(tried.Injection.Peaks) != wanted {
		t.Errorf("%d peaks, %d were to be kept", len(tried.Injection.Peaks), wanted)
	}
	if _, err := l.SuggestPeaks(ctx, id, Examples{Marks: []Example{{"nobody", 3, true}}}); err == nil {
		t.Error("a mark on no injection was taken")
	}
}
