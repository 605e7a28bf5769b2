package lab

import (
	"slices"
	"testing"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/lab/record"
	"yugen/store"
)

// The record reads without a database: what was changed, what stood there, what stands there since.
func TestTheRecordTellsOldAndNew(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	sample := b.Injections[19]
	newest := func() []record.Difference { return must[[]record.Row](t)(l.Record(ctx, id))[0].Differences }
	want := func(what string, all ...record.Difference) {
		t.Helper()
		if got := newest(); !slices.Equal(got, all) {
			t.Errorf("%s: %+v, want %+v", what, got, all)
		}
	}
	must[store.Batch](t)(l.ChangeEntries(ctx, id, 0, []EntryChange{{sample.ID, batch.FieldDilution, "4"}, {sample.ID, batch.FieldSample, ""}}, "", who))
	want("fields", differs("20 "+sample.Name+": dilution", "2", "4"), differs("20 "+sample.Name+": sample", "0.2041", ""))
	must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	want("undo", differs("20 "+sample.Name+": dilution", "4", "2"), differs("20 "+sample.Name+": sample", "", "0.2041"))
	method := b.Version.Method
	method.Compounds = slices.Clone(method.Compounds)
	method.Compounds[4].Window.Value = 0.3
	must[store.Batch](t)(l.SaveMethod(ctx, id, 0, method, "wider", who))
	want("method", differs("method version", "1", "2"), differs("compounds Caffeine window value", "0.2", "0.3"))
	must[store.Batch](t)(l.AddEdit(ctx, id, 0, sample.ID, peaks.Edit{Kind: peaks.Remove, ApexMin: 8.8}, "", who))
	want("edit", differs("20 "+sample.Name+": edit 1 apex min", "", "8.8"), differs("20 "+sample.Name+": edit 1 kind", "", "remove"))
	must[store.Batch](t)(l.Remove(ctx, id, 0, sample.ID, "", who))
	if got := newest(); !slices.Contains(got, differs(sample.Name, "in the batch", "")) {
		t.Errorf("removal: %+v", got)
	}
	first := must[[]record.Row](t)(l.Record(ctx, id))
	if last := first[len(first)-1]; last.Seq >= first[0].Seq || last.Who == "" {
		t.Errorf("the oldest row %+v", last)
	}
}

func differs(what, before, after string) record.Difference {
	return record.Difference{What: what, Before: before, After: after}
}
