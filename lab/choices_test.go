package lab

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

// Two batches by one method version: what one says about its points is nothing to the other, and a new version changes only the batch that took it.
func TestAMethodIsUsedAgain(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	first := must[store.Batch](t)(l.Batch(ctx, id))
	standard := first.Injections[slices.IndexFunc(first.Injections, func(in store.Injection) bool { return in.Role == batch.Standard })]
	c := batch.Choices{LeftOut: map[string][]batch.LeftOut{"caf": {{InjectionID: standard.ID, Reason: "cap"}}}}
	must[store.Batch](t)(l.SaveChoices(ctx, id, 0, c, "a cap leaked", who))
	again := must[string](t)(l.NewBatchBy(ctx, "Another study", "Again", first.Version.ID, false, "", who))
	copied := must[string](t)(l.NewBatchBy(ctx, "Another study", "Copied", first.Version.ID, true, "", who))
	b := must[store.Batch](t)(l.Batch(ctx, again))
	if b.Version.ID != first.Version.ID || len(b.Choices.LeftOut) != 0 || b.StudyName != "Another study" {
		t.Errorf("%+v %+v", b.Version, b.Choices)
	}
	own := must[store.Batch](t)(l.Batch(ctx, copied))
	if own.Version.MethodID == first.Version.MethodID || own.Version.Number != 1 || change.JSON(own.Version.Method) != change.JSON(first.Version.Method) {
		t.Errorf("the copy is %+v", own.Version)
	}
	m := b.Version.Method
	m.Curves.Weight = curves.PerX2
	b = must[store.Batch](t)(l.SaveMethod(ctx, again, b.Revision, m, "heavier low end", who))
	now := must[store.Batch](t)(l.Batch(ctx, id))
	if b.Version.MethodID != first.Version.MethodID || b.Version.Number != first.Version.Number+1 || now.Version.ID != first.Version.ID {
		t.Errorf("version %d of the new batch, the first one stays at %d", b.Version.Number, now.Version.Number)
	}
	listed := must[[]MethodChoice](t)(l.Methods(ctx))
	i := slices.IndexFunc(listed, func(m MethodChoice) bool { return m.ID == first.Version.MethodID })
	if i < 0 || listed[i].Batches != 2 || listed[i].Versions[0].Number != b.Version.Number || listed[i].Study != first.StudyName {
		t.Errorf("%+v", listed)
	}
	if _, err := l.NewBatchBy(ctx, "S", "B", "nothing", false, "", who); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a version that is not there: %v", err)
	}
}

// A later batch without standards of its own is read from the curves of an earlier one, which may change meanwhile without changing it; undo goes back.
func TestALaterBatchIsReadFromEarlierCurves(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	first := must[Processed](t)(l.Process(ctx, id))
	later := must[string](t)(l.NewBatchBy(ctx, first.Batch.StudyName, "Later", first.Batch.Version.ID, false, "", who))
	i := slices.IndexFunc(first.Batch.Injections, func(in store.Injection) bool { return in.Role == batch.Sample && in.Sample != nil })
	sample := first.Batch.Injections[i]
	_, data, err := rawOf(l, id, sample.ID)
	if err != nil {
		t.Fatal(err)
	}
	out := must[taking.Outcome](t)(l.Import(ctx, later, sample.FileName, data, who))
	b := must[store.Batch](t)(l.Batch(ctx, later))
	b = must[store.Batch](t)(l.ChangeEntries(ctx, later, b.Revision, []EntryChange{{out.InjectionID, batch.FieldRole, "sample"}, {out.InjectionID, batch.FieldVolume, "50"}, {out.InjectionID, batch.FieldSample, "0.2"}, {out.InjectionID, batch.FieldDilution, "1"}}, "", who))
	before := resultBytes(t, l, later)
	b = must[store.Batch](t)(l.UseEarlier(ctx, later, b.Revision, id, "the same day", who))
	want := first.Result.Injections[i].Readings["caf"].Concentration
	read := func() *float64 {
		return must[Processed](t)(l.Process(ctx, later)).Result.Injections[0].Readings["caf"].Concentration
	}
	// The peak is integrated with the width expected over one injection rather than over all, so areas may differ a little.
	if got := read(); got == nil || math.Abs(*got/(*want)-1) > 0.005 {
		t.Fatalf("%v, in its own batch %v", got, *want)
	}
	if e := b.Choices.Earlier; e.Batch != first.Batch.Name || e.MeasuredAt == nil {
		t.Errorf("%+v", e)
	}
	held := *read()
	m := first.Batch.Version.Method
	m.Curves.Response = batch.Height
	must[store.Batch](t)(l.SaveMethod(ctx, id, 0, m, "heights", who))
	if *read() != held {
		t.Error("a change of the earlier batch changed the later one")
	}
	if _, err := l.UseEarlier(ctx, must[string](t)(l.NewBatchBy(ctx, "S", "Third", first.Batch.Version.ID, false, "", who)), 0, later, "chain", who); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), "itself read from") {
		t.Errorf("curves of curves: %v", err)
	}
	must[store.Batch](t)(l.Undo(ctx, later, 0, "", who))
	if resultBytes(t, l, later) != before {
		t.Error("undo did not go back to standards of its own")
	}
}

// A table that was pasted becomes a batch for each day, with curve, readings, limits over the days, and a way back.
func TestAPastedTableBecomesBatches(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	table := "Conc. (µg/mL)\tDay 1\tDay 1\tDay 2\tDay 2\tDay 3\tDay 3\n"
	for i, x := range []string{"1", "2", "5", "10", "20"} {
		rows := []string{"10,2\t10,4\t10,1\t10,3\t10,6\t10,2", "20,3\t20,1\t20,5\t20,4\t20,2\t20,6", "50,4\t50,0\t50,6\t50,1\t50,2\t50,9", "100,5\t99,8\t100,1\t100,9\t100,3\t100,6", "200,2\t200,9\t199,5\t200,4\t200,7\t201,1"}
		table += x + "\t" + rows[i] + "\n"
	}
	table += "Pond\t75,3\t75,1\t75,6\t75,2\t75,0\t75,4\n"
	ids := must[[]string](t)(l.NewTyped(ctx, TypedBatch{Study: "Paper", Name: "Exercise", Compound: "Nitrite", Text: table}, who))
	if len(ids) != 3 {
		t.Fatalf("%d batches", len(ids))
	}
	p := must[Processed](t)(l.Process(ctx, ids[1]))
	c := p.Result.Curves[0]
	if p.Batch.Name != "Exercise, Day 2" || c.Fit == nil || len(c.Points) != 10 || p.Batch.Version.Method.Curves.Unit != "µg/mL" || c.Tests.LackOfFit == nil || c.Range == nil {
		t.Fatalf("%s %+v", p.Batch.Name, c)
	}
	if v := p.Result.Samples[0].Values[typedCompound]; v.Mean == nil || math.Abs(*v.Mean-7.5) > 0.05 || v.N != 2 || len(p.Result.Notices) != 0 {
		t.Errorf("%+v %+v", v, p.Result.Notices)
	}
	limits := must[[]LimitTable](t)(l.Limits(ctx, ids[0]))
	if len(limits) != 1 || len(limits[0].Days) != 3 || limits[0].Proposed == nil {
		t.Errorf("%+v", limits)
	}
	for _, name := range []string{"report.pdf", "results.csv", "results.xlsx"} {
		if data, err := l.Document(ctx, ids[0], name, "batch", ""); err != nil || len(data) == 0 {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := l.Silhouettes(ctx, ids[0], 50); err != nil {
		t.Error(err)
	}
	if _, err := l.TraceOf(ctx, ids[0], p.Batch.Injections[0].ID, Asked{}); err == nil {
		t.Error("a trace of what was typed")
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(v.Wrong) != 0 {
		t.Errorf("%v", v.Wrong)
	}
	must[store.Batch](t)(l.Undo(ctx, ids[0], 0, "", who))
	if b := must[store.Batch](t)(l.Batch(ctx, ids[0])); len(b.Injections) != 0 {
		t.Error("undo left readings behind")
	}
	for want, asked := range map[string]TypedBatch{
		"there is a batch Exercise, Day 1": {Study: "Paper", Name: "Exercise", Compound: "Nitrite", Text: table},
		"does not say in which unit":       {Study: "Paper", Name: "New", Compound: "Nitrite", Text: "1\t2\n2\t4"},
		"needs a name":                     {Study: "Paper", Name: "New", Unit: "mg/L", Text: "1\t2\n2\t4"},
		"the unit \"furlong\" is unknown":  {Study: "Paper", Name: "New", Compound: "N", Unit: "furlong", Text: "1\t2\n2\t4"},
		"no row has both":                  {Study: "Paper", Name: "New", Compound: "N", Unit: "mg/L", Text: "level\tarea\n\t4"},
	} {
		if _, err := l.NewTyped(ctx, asked, who); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %q", err, want)
		}
	}
}

// A batch whose method was saved when points left out stood in it: saving a new version takes them along as the batch's own, and undo goes back to the
// version that says them itself.
func TestChoicesOfAnEarlyVersionOutliveIt(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	first := must[store.Batch](t)(l.Batch(ctx, id))
	standard := first.Injections[slices.IndexFunc(first.Injections, func(in store.Injection) bool { return in.Role == batch.Standard })]
	early := strings.Replace(change.JSON(first.Version.Method), `"curves":{`, `"curves":{"own":{"caf":{"left_out":[{"injection_id":"`+standard.ID+`","reason":"cap"}]}},`, 1)
	if err := l.store.Write(ctx, func(tx *store.Tx) error {
		v, err := tx.SaveDocument(first.Version.MethodID, who, "as it was saved then", []byte(early))
		if err != nil {
			return err
		}
		return tx.UseVersion(id, v)
	}); err != nil {
		t.Fatal(err)
	}
	out := func() bool {
		r := must[Processed](t)(l.Process(ctx, id)).Result
		c := r.Curves[slices.IndexFunc(r.Curves, func(c batch.Curve) bool { return c.CompoundID == "caf" })]
		return slices.ContainsFunc(c.Points, func(q batch.CurvePoint) bool { return q.InjectionID == standard.ID && q.LeftOut })
	}
	if !out() {
		t.Fatal("what the early version says is not heard")
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	m := b.Version.Method
	m.Curves.Weight = curves.PerX2
	b = must[store.Batch](t)(l.SaveMethod(ctx, id, b.Revision, m, "heavier low end", who))
	if !out() || !b.OwnChoices {
		t.Error("the point came back in with the new version")
	}
	b = must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	if !out() || b.OwnChoices {
		t.Error("undo did not go back to what the early version says")
	}
	must[store.Batch](t)(l.SaveChoices(ctx, id, b.Revision, batch.Choices{}, "the cap was fine", who))
	if out() {
		t.Error("a point that was taken back in is still out")
	}
}

// The names of all methods are offered, each once.
func TestCompoundNamesOfTheShelf(t *testing.T) {
	l, _ := demo(t)
	names := must[[]string](t)(l.CompoundNames(t.Context()))
	seen := map[string]int{}
	for _, n := range names {
		seen[n]++
	}
	for _, want := range []string{"Caffeine", "EGCG", "8-Chlorotheophylline"} {
		if seen[want] != 1 {
			t.Errorf("%s is offered %d times in %v", want, seen[want], names)
		}
	}
	if empty := must[[]string](t)(openLab(t).CompoundNames(t.Context())); empty == nil || len(empty) != 0 {
		t.Errorf("an empty shelf offers %v", empty)
	}
}
