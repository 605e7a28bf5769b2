package lab

import (
	"fmt"
	"math"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/store"
)

// Another detector of the same files is processed in every injection that has it; edits stay with the signal they were made on, undo brings both back, and
// the record holds.
func TestAnotherSignalIsProcessed(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", batch.NewMethod(), who))
	for k := range 2 {
		must[Outcome](t)(l.Import(ctx, id, fmt.Sprintf("run%d.csv", k), bench.TwoDetectors(k), who))
	}
	single := []byte("time_min,UV 278 nm [mAU]\n")
	for i := range 600 {
		single = fmt.Appendf(single, "%.4f,%.4f\n", float64(i)/100, 0.01*float64(i%7))
	}
	must[Outcome](t)(l.Import(ctx, id, "single.csv", single, who))
	signals := must[[]BatchSignal](t)(l.Signals(ctx, id))
	want := []BatchSignal{{"UV 278 nm", "mAU", "detector", 3, 3}, {"UV 210 nm", "mAU", "detector", 2, 0}, {"Pump pressure", "bar", "condition", 2, 0}}
	if mustJSON(signals) != mustJSON(want) {
		t.Errorf("%+v", signals)
	}
	apex := func(i int) float64 {
		list := must[Processed](t)(l.Process(ctx, id)).Result.Injections[i].Peaks
		if len(list) != 1 {
			t.Fatalf("injection %d has %d peaks", i, len(list))
		}
		return list[0].ApexMin
	}
	if at := apex(0); math.Abs(at-2) > 0.01 {
		t.Errorf("the first detector has its peak at %g", at)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	b = must[store.Batch](t)(l.AddEdit(ctx, id, b.Revision, b.Injections[0].ID, peaks.Edit{Kind: peaks.MoveEnd, ApexMin: 2, ToMin: 2.2}, "a tail", who))
	b = must[store.Batch](t)(l.ChooseSignal(ctx, id, b.Revision, "UV 210 nm", "mAU", "", who))
	if at := apex(1); math.Abs(at-4) > 0.01 {
		t.Errorf("the second detector has its peak at %g", at)
	}
	if len(b.Injections[0].Edits) != 0 || b.Injections[0].Signal != "UV 210 nm" || b.Injections[2].Signal != "UV 278 nm" {
		t.Errorf("%+v", b.Injections)
	}
	if found := must[Verification](t)(l.Check(ctx, who)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
	for _, c := range []struct{ name, unit string }{{"UV 999 nm", "mAU"}, {"UV 210 nm", "mAU"}} {
		if _, err := l.ChooseSignal(ctx, id, 0, c.name, c.unit, "", who); err == nil {
			t.Errorf("%s is chosen", c.name)
		}
	}
	b = must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	if len(b.Injections[0].Edits) != 1 || b.Injections[0].Signal != "UV 278 nm" {
		t.Errorf("undone it is %+v", b.Injections[0])
	}
}
