package lab

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/store"
)

func TestReportsAreReproducibleAndKept(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	pdf := func() []byte { return must[[]byte](t)(l.Document(ctx, id, "report.pdf", "batch", "")) }
	first := pdf()
	if !bytes.Equal(first, pdf()) {
		t.Error("the same report has other bytes")
	}
	kept := must[store.Report](t)(l.KeepReport(ctx, id, "batch", "", who))
	b := must[store.Batch](t)(l.Batch(ctx, id))
	m := b.Version.Method
	m.Curves.Weight = curves.Unweighted
	must[store.Batch](t)(l.SaveMethod(ctx, id, b.Revision, m, "compare", who))
	if bytes.Equal(first, pdf()) {
		t.Error("another weight should change the report")
	}
	if data := must[[]byte](t)(l.KeptReport(ctx, id, kept.ID)); !bytes.Equal(data, first) {
		t.Error("the kept report changed")
	}
	if _, err := l.Pages(ctx, id, "poem", ""); !errors.Is(err, ErrRefused) {
		t.Errorf("an unknown layout: %v", err)
	}
}

func TestAReportNamesItsInputs(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	l.Laboratory = Laboratory{Name: "House of Leaves", Address: "1 Garden Lane"}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	must[store.Batch](t)(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{b.Injections[20].ID, batch.FieldDilution, "3"}}, "", "B. Second"))
	rows := must[[]record.Row](t)(l.Record(ctx, id))
	newest := rows[0]
	pages := strings.Join(must[[]string](t)(l.Pages(ctx, id, "batch", "")), "")
	for _, want := range []string{"House of Leaves", "1 Garden Lane", "Analysed by " + oldest(rows) + ", B. Second", newest.At.UTC().Format("2 Jan 2006, 15:04 UTC"), fmt.Sprintf("record row %d, ", newest.Seq)} {
		if !strings.Contains(pages, want) {
			t.Errorf("%q is not on the report", want)
		}
	}
	before := must[[]byte](t)(l.Document(ctx, id, "report.pdf", "batch", ""))
	must[store.Report](t)(l.KeepReport(ctx, id, "batch", "", "C. Third"))
	if !bytes.Equal(before, must[[]byte](t)(l.Document(ctx, id, "report.pdf", "batch", ""))) {
		t.Error("keeping a report changed it")
	}
}

func oldest(rows []record.Row) string { return rows[len(rows)-1].Who }

func TestAKeptReportIsDrawnFromWhatItNames(t *testing.T) {
	l, id := demo(t)
	ctx, stop := context.WithCancel(t.Context())
	b := must[store.Batch](t)(l.Batch(ctx, id))
	done := make(chan struct{})
	go func() {
		defer close(done)
		for k := 0; ctx.Err() == nil; k++ {
			_, _ = l.ChangeEntries(ctx, id, 0, []EntryChange{{b.Injections[20].ID, batch.FieldDilution, fmt.Sprint(2 + k%7)}}, "", who)
		}
	}()
	for range 8 {
		kept := must[store.Report](t)(l.KeepReport(t.Context(), id, "batch", "", who))
		pdf := must[[]byte](t)(l.KeptReport(t.Context(), id, kept.ID))
		if text := pdfText(t, pdf); !strings.Contains(text, kept.InputsHash[:12]) {
			t.Errorf("the report names other inputs than %.12s", kept.InputsHash)
		}
	}
	stop()
	<-done
}

func pdfText(t *testing.T, pdf []byte) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "report.pdf")
	if err := os.WriteFile(file, pdf, 0o644); err != nil {
		t.Fatal(err)
	}
	text, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatalf("pdftotext: %v; install Debian's poppler-utils", err)
	}
	return string(text)
}

// Once a batch has been reported, what moves a number, a flag or a check as it is displayed needs a reason, steps back and forth too; what moves none does not.
func TestAReportedBatchWantsReasonsForWhatMoves(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	must[store.Report](t)(l.KeepReport(ctx, id, "batch", "", who))
	b := must[store.Batch](t)(l.Batch(ctx, id))
	standard, sample := b.Injections[1].ID, b.Injections[19].ID
	if !b.Reported {
		t.Fatal("it is not known that the batch has been reported")
	}
	must[store.Batch](t)(l.ChangeEntries(ctx, id, 0, []EntryChange{{standard, batch.FieldVial, "V9"}}, "", who))
	must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	for _, c := range []struct {
		what string
		do   func(reason string) (store.Batch, error)
		back int // steps to where it began
	}{
		{"dilution", func(r string) (store.Batch, error) {
			return l.ChangeEntries(ctx, id, 0, []EntryChange{{sample, batch.FieldDilution, "3"}}, r, who)
		}, 1},
		{"undo", func(r string) (store.Batch, error) { return l.Undo(ctx, id, 0, r, who) }, 0},
		{"redo", func(r string) (store.Batch, error) { return l.Redo(ctx, id, 0, r, who) }, 1},
		{"edit", func(r string) (store.Batch, error) {
			return l.AddEdit(ctx, id, 0, sample, peaks.Edit{Kind: peaks.Remove, ApexMin: 8.8}, r, who)
		}, 1},
		{"take back", func(r string) (store.Batch, error) { return l.TakeBack(ctx, id, 0, sample, -1, r, who) }, 2},
		{"remove", func(r string) (store.Batch, error) { return l.Remove(ctx, id, 0, standard, r, who) }, 1},
	} {
		what, do := c.what, c.do
		switch what { // each begins with something to step over
		case "undo", "redo":
			must[store.Batch](t)(l.ChangeEntries(ctx, id, 0, []EntryChange{{sample, batch.FieldDilution, "5"}}, "first", who))
			if what == "redo" {
				must[store.Batch](t)(l.Undo(ctx, id, 0, "first", who))
			}
		case "take back":
			must[store.Batch](t)(l.AddEdit(ctx, id, 0, sample, peaks.Edit{Kind: peaks.Remove, ApexMin: 6.4}, "first", who))
		}
		before := must[store.Batch](t)(l.Batch(ctx, id))
		if _, err := do(" "); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), "has been reported, and this changes ") || Pointer(err) != "/reason" {
			t.Errorf("%s without a reason: %v", what, err)
		}
		if after := must[store.Batch](t)(l.Batch(ctx, id)); change.JSON(after) != change.JSON(before) {
			t.Errorf("%s was refused and something is changed", what)
		}
		if _, err := do("because of " + what); err != nil {
			t.Errorf("%s: %v", what, err)
		}
		if rows := must[[]record.Row](t)(l.Record(ctx, id)); rows[0].Why != "because of "+what {
			t.Errorf("%s: the record says %q", what, rows[0].Why)
		}
		for range c.back {
			must[store.Batch](t)(l.Undo(ctx, id, 0, "on to the next", who))
		}
	}
	if _, err := l.Remove(ctx, id, 0, sample, strings.Repeat("x", 501), who); !errors.Is(err, ErrRefused) {
		t.Errorf("an endless reason: %v", err)
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(v.Wrong) != 0 {
		t.Errorf("%v", v.Wrong)
	}
}
