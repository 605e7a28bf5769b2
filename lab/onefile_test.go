package lab

import (
	"bytes"
	"math"
	"testing"

	"yugen/bench"
	"yugen/lab/taking"
)

// One file on a method gives its results at once, by the curves of the batch, and nothing is kept of it.
func TestOneFileGivesItsResults(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	other, err := bench.TeaAssay(77)
	if err != nil {
		t.Fatal(err)
	}
	before := must[Processed](t)(l.Process(ctx, id))
	k := 20 // a tea
	look := must[taking.Looked](t)(l.Look(ctx, id, "new "+other.Files[k].Name, bytes.NewReader(other.Files[k].Data), who))
	one := must[OneFile](t)(l.TryFile(ctx, id, look.ID))
	if len(one.Injection.Peaks) < 9 || one.Unit != "mAU" {
		t.Fatalf("%d peaks in %s", len(one.Injection.Peaks), one.Unit)
	}
	for _, compound := range []string{"caf", "egc", "ecg"} {
		got, want := one.Injection.Readings[compound].Concentration, other.Truth[k].Contents[compound]
		if got == nil || math.Abs(*got/want-1) > 0.05 {
			t.Errorf("%s: %v, true %g mg/L", compound, got, want)
		}
	}
	after := must[Processed](t)(l.Process(ctx, id))
	if after.InputsHash != before.InputsHash || len(after.Result.Injections) != 47 || after.Batch.Revision != before.Batch.Revision {
		t.Error("looking at one file changes the batch")
	}
	bad := must[taking.Looked](t)(l.Look(ctx, id, "letter.txt", bytes.NewReader([]byte("Dear colleague,\n")), who))
	for _, id2 := range []string{bad.ID, "none", ""} {
		if _, err := l.TryFile(ctx, id, id2); err == nil {
			t.Errorf("%q gives results", id2)
		}
	}
	empty := must[string](t)(l.NewBatch(ctx, "S", "Empty", "M", before.Batch.Version.Method, who))
	look = must[taking.Looked](t)(l.Look(ctx, empty, "a.cdf", bytes.NewReader(other.Files[k].Data), who))
	if one := must[OneFile](t)(l.TryFile(ctx, empty, look.ID)); len(one.Injection.Peaks) < 9 || one.Injection.Readings["caf"].Concentration != nil {
		t.Error("a batch without curves gives peaks, and no contents")
	}
}
