package lab

import (
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

// A run list that comes before its files waits for them: each line finds its file by the file's name, by the vial or by the sample.
func TestARunListWaitsForItsFiles(t *testing.T) {
	l, id := lookedBatch(t)
	ctx := t.Context()
	must[store.Batch](t)(l.SetOwnColumns(ctx, id, []batch.OwnColumn{{Name: "Lot", Kind: batch.TextColumn}}, who))
	table := "File\tName\tRole\tLevel, mg/L\tVial\tSample, g\tLot\nrun-1\tStandard 5\tstd\t5\tA1\t\tS1\nrun-2.mzML\tPond\tsample\t\tA2\t0,25\tP7\n\tOolong\tsample\t\t\t0,3\tO1\nnever\tLate\tblank\t\t\t\t\n"
	if waits := must[[]store.WaitingLine](t)(l.WaitFor(ctx, id, table, who)); len(waits) != 4 {
		t.Fatalf("%+v", waits)
	}
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	for k, name := range []string{"run-2.mzML", "run-1.mzML", "third.mzML", "fourth.mzML"} { // the sample in each file is called Oolong
		must[taking.Outcome](t)(l.Import(ctx, id, name, measured(t, noon.Add(time.Duration(k)*time.Hour), uv), who))
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	in := b.Injections
	if in[0].Name != "Pond" || in[0].Role != batch.Sample || *in[0].Sample != 0.25 || in[0].Own["lot"] != "P7" || in[1].Role != batch.Standard || *in[1].Level != 5 || in[2].Own["lot"] != "O1" || *in[2].Sample != 0.3 {
		t.Errorf("%+v", in)
	}
	if in[3].Role != batch.NoRole || in[3].Own != nil {
		t.Errorf("a file that nothing waits for: %+v", in[3].Entry)
	}
	if waits := must[[]store.WaitingLine](t)(l.Waiting(ctx, id)); len(waits) != 1 || waits[0].File != "never" {
		t.Errorf("%+v", waits)
	}
	if found := must[record.Verification](t)(l.Check(ctx, who)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
	// A column that went meanwhile keeps no file out.
	must[[]store.WaitingLine](t)(l.WaitFor(ctx, id, "file\tLot\trole\nfifth\tX\tblank\n", who))
	must[store.Batch](t)(l.SetOwnColumns(ctx, id, nil, who))
	if out := must[taking.Outcome](t)(l.Import(ctx, id, "fifth.mzML", measured(t, noon.Add(9*time.Hour), uv), who)); out.Status != taking.Added {
		t.Errorf("%+v", out)
	}
	if b := must[store.Batch](t)(l.Batch(ctx, id)); b.Injections[4].Role != batch.Blank {
		t.Errorf("%+v", b.Injections[4].Entry)
	}
	for table, says := range map[string]string{
		"name\trole":                    "a line of headings",
		"colour\nred":                   "names no column",
		"role\tlevel\nsample\t":         "needs a column file, vial or name",
		"name\trole\nA\tking":           "line 2: role",
		"name\trole\nA\tblank\n\tblank": "line 3 has no file",
	} {
		if _, err := l.WaitFor(ctx, id, table, who); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v, want %q", table, err, says)
		}
	}
	if waits := must[[]store.WaitingLine](t)(l.WaitFor(ctx, id, " ", who)); len(waits) != 0 {
		t.Errorf("%d lines wait on", len(waits))
	}
}
