package lab

import (
	"slices"
	"testing"

	"yugen/bench"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/store"
)

// A batch gets another name and is put away, with undo, a clean record, and nothing else changed.
func TestTheShelf(t *testing.T) {
	l, id := practical(t, bench.Practical(3)[:2])
	ctx := t.Context()
	before := must[store.Batch](t)(l.Batch(ctx, id))
	other := must[string](t)(l.NewBatch(ctx, "Practicals", "Other", "M", before.Version.Method, who))
	name, away := "Cola, Monday", true
	b := must[store.Batch](t)(l.ChangeShelf(ctx, id, before.Revision, ShelfChange{Name: &name, Away: &away}, who))
	if b.Name != name || !b.Away || change.JSON(b.Injections) != change.JSON(before.Injections) {
		t.Errorf("%+v", b)
	}
	if _, err := l.ChangeShelf(ctx, other, 0, ShelfChange{Name: &name}, who); err == nil || Pointer(err) != "/name" {
		t.Errorf("a name given twice: %v", err)
	}
	if _, err := l.ChangeShelf(ctx, id, 0, ShelfChange{Name: &name}, who); err == nil {
		t.Error("a change that changes nothing is kept")
	}
	blank := "  "
	if _, err := l.ChangeShelf(ctx, id, 0, ShelfChange{Name: &blank}, who); err == nil {
		t.Error("a batch without a name is kept")
	}
	listed := must[[]store.Study](t)(l.Studies(ctx))[0].Batches
	i := slices.IndexFunc(listed, func(b store.Listing) bool { return b.ID == id })
	if !listed[i].Away || listed[i].Name != name {
		t.Errorf("%+v", listed)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
	if listed[i].StartedAs != before.Name {
		t.Errorf("started as %q", listed[i].StartedAs)
	}
	if b = must[store.Batch](t)(l.Undo(ctx, id, 0, "", who)); b.Name != before.Name || b.Away {
		t.Errorf("undone it is %q, away %v", b.Name, b.Away)
	}
}

// The results of a demo are made without anybody opening its batches: the shelf says what wants eyes.
func TestTheDemoIsProcessedByItself(t *testing.T) {
	l, id := demo(t)
	if opened := must[string](t)(l.OpenDemo(t.Context())); opened != id {
		t.Errorf("opened %s, not %s", opened, id)
	}
	var known []BatchNotices
	until(t, "all of the demo has results", func() bool {
		known = must[[]BatchNotices](t)(l.Notices(t.Context()))
		return len(known) == len(bench.Demos())
	})
	if i := slices.IndexFunc(known, func(n BatchNotices) bool { return n.BatchID == id }); i < 0 || known[i].Open < 5 {
		t.Errorf("of the tea assay there is to look at: %+v", known)
	}
}

// Notices are counted where results are kept as they stand, and without those that were settled; nothing is computed for it.
func TestNoticesOfTheShelf(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	count := func() (int, bool) {
		list := must[[]BatchNotices](t)(l.Notices(ctx))
		i := slices.IndexFunc(list, func(n BatchNotices) bool { return n.BatchID == id })
		if i < 0 {
			return 0, false
		}
		return list[i].Open, true
	}
	if n, known := count(); known {
		t.Errorf("%d are counted of a batch that was not computed", n)
	}
	all := len(must[Processed](t)(l.Process(ctx, id)).Result.Notices)
	if n, known := count(); !known || n != all || all == 0 {
		t.Errorf("%d are counted, there are %d", n, all)
	}
	must[store.Batch](t)(l.Settle(ctx, id, 0, []string{anyNotice(t, l, id)}, "seen", who))
	if n, _ := count(); n != all-1 {
		t.Errorf("%d are counted after one of %d was settled", n, all)
	}
}
