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
	rows := must[[]store.Change](t)(l.Record(ctx, id))
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

func oldest(rows []store.Change) string { return rows[len(rows)-1].Who }

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

func TestAReportedBatchWantsReasons(t *testing.T) {
	dir, id := workedFolder(t) // with a kept report
	s := must[*store.Store](t)(store.Open(t.Context(), dir))
	defer s.Close()
	l, ctx := New(s), t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	in := b.Injections[1].ID
	if !b.Reported {
		t.Fatal("it is not known that the batch has been reported")
	}
	for what, do := range map[string]func(reason string) error{
		"run list": func(r string) error {
			_, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{in, batch.FieldVial, r + "V"}}, r, who)
			return err
		},
		"run order": func(r string) error { _, err := l.Reorder(ctx, id, 0, in, 3, r, who); return err },
		"edit": func(r string) error {
			_, err := l.AddEdit(ctx, id, 0, in, peaks.Edit{Kind: peaks.Remove, ApexMin: 5}, r, who)
			return err
		},
		"take back": func(r string) error { _, err := l.TakeBack(ctx, id, 0, in, -1, r, who); return err },
	} {
		if err := do(" "); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), "has been reported: say why") {
			t.Errorf("%s without a reason: %v", what, err)
		}
		if err := do("because of " + what); err != nil {
			t.Errorf("%s: %v", what, err)
		}
		if rows := must[[]store.Change](t)(l.Record(ctx, id)); rows[0].Why != "because of "+what {
			t.Errorf("%s: the record says %q", what, rows[0].Why)
		}
	}
	if _, err := l.Remove(ctx, id, 0, in, "", who); !errors.Is(err, ErrRefused) {
		t.Errorf("removing without a reason: %v", err)
	}
	if _, err := l.Remove(ctx, id, 0, in, strings.Repeat("x", 501), who); !errors.Is(err, ErrRefused) {
		t.Errorf("an endless reason: %v", err)
	}
	must[store.Batch](t)(l.Remove(ctx, id, 0, in, "a wrong file", who))
}
