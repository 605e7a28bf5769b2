package lab

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/formats/runlist"
	"yugen/lab/change"
	"yugen/lab/taking"
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
	if resultBytes(t, l, id) != change.JSON(before.Result) {
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

// From files with a run list to an amount by standard addition, and on to the workbook.
func TestStandardAdditionFromFilesToTheWorkbook(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	m := batch.NewMethod()
	m.Curves.Way = batch.ByAddition
	m.Compounds = []compounds.Compound{{ID: "x", Name: "Caffeine", ExpectedMin: 5, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.3}, Rule: compounds.Nearest, Role: compounds.Target}}
	id := must[string](t)(l.NewBatch(ctx, "Addition", "First", "Method", m, who))
	var lines []runlist.Line
	for k, added := range []float64{0, 10, 20, 30} {
		var b bytes.Buffer
		b.WriteString("time_min,signal\n")
		for i := range 2000 {
			d := (float64(i)/200 - 5) / 0.06
			fmt.Fprintf(&b, "%g,%g\n", float64(i)/200, (24+added)*2*math.Exp(-d*d/2))
		}
		name := fmt.Sprintf("add-%d.csv", k)
		if out := must[taking.Outcome](t)(l.Import(ctx, id, name, b.Bytes(), who)); out.Status == taking.Refused {
			t.Fatal(out.Message)
		}
		e := batch.Entry{Name: "Leaf", Role: batch.Sample, Dilution: 1, Factor: 1}
		for field, text := range map[batch.Field]string{batch.FieldAdded: fmt.Sprint(added), batch.FieldVolume: "50", batch.FieldSample: "0,25"} {
			if err := e.Set(field, text); err != nil {
				t.Fatal(err)
			}
		}
		lines = append(lines, runlist.Line{File: name, Entry: e})
	}
	written := must[[]byte](t)(runlist.Write(lines))
	again := must[[]runlist.Line](t)(runlist.Read(written))
	if _, err := l.ApplyRunList(ctx, id, again, who); err != nil {
		t.Fatal(err)
	}
	r := must[Processed](t)(l.Process(ctx, id))
	mean := r.Result.Samples[0].Values["x"].Mean
	if mean == nil || math.Abs(*mean-24*0.05/0.25) > 0.02 {
		t.Fatalf("%v mg/g, %+v", mean, r.Result.Curves[0].Additions)
	}
	w := must[batch.Working](t)(l.Working(ctx, id, r.Batch.Injections[1].ID, "x"))
	if !strings.Contains(w.Text, "Standard addition, 4 injections, a straight line without weights: intercept ÷ slope") || w.Value == nil || *w.Value != *mean {
		t.Errorf("%s", w.Text)
	}
	for _, name := range []string{"results.xlsx", "results.csv", "report.pdf"} {
		if _, err := l.Document(ctx, id, name, "batch", ""); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}
