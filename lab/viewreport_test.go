package lab

import (
	"bytes"
	"errors"
	"strings"
	"testing"

	"yugen/lab/record"
	"yugen/store"
)

// A view of the study is a report of any of its batches: every way of looking, with what is done to the traces; what is not there is said.
func TestAViewIsAReport(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	shown := []NamedInjection{{"Sencha first flush", "sample"}, {"Hojicha", "sample"}, {"Nobody's tea", "sample"}}
	for way, want := range map[string][]string{
		"overlay": {"Sencha first flush", "Hojicha", "dashed", "less Blank", "each to its Caffeine", "lined up on Caffeine", "8.00 to 10.00 min"},
		"mirror":  {"Sencha first flush", "Hojicha"},
		"offset":  {"Sencha first flush", "Hojicha"},
		"above":   {"Standard 1 mg/L", "Darjeeling second flush", "47 injections"},
	} {
		looked := map[string]string{"mode": way, "from": "8", "to": "10", "lined": "caf", "heights": "caf"}
		list := must[[]KeptView](t)(l.KeepView(ctx, id, "As "+way, LookingView{Looked: looked, Shown: shown, Less: &NamedInjection{"Blank", "blank"}}))
		layout := "view:" + list[len(list)-1].ID
		for _, v := range list {
			if v.Name == "As "+way {
				layout = "view:" + v.ID
			}
		}
		pages := must[[]string](t)(l.Pages(ctx, id, layout, ""))
		text := strings.Join(pages, "")
		for _, word := range append(want, "As "+way) {
			if !strings.Contains(text, word) {
				t.Errorf("%s: %q does not stand on it", way, word)
			}
		}
		if strings.Contains(text, "Nobody") {
			t.Errorf("%s shows who is not there", way)
		}
		pdf := must[[]byte](t)(l.Document(ctx, id, "report.pdf", layout, ""))
		again := must[[]byte](t)(l.Document(ctx, id, "report.pdf", layout, ""))
		if !bytes.HasPrefix(pdf, []byte("%PDF")) || !bytes.Equal(pdf, again) {
			t.Errorf("%s: the PDF is another one the second time", way)
		}
		kept := must[store.Report](t)(l.KeepReport(ctx, id, layout, "", who))
		if data := must[[]byte](t)(l.KeptReport(ctx, id, kept.ID)); !bytes.HasPrefix(data, []byte("%PDF")) {
			t.Errorf("%s: what was kept is no PDF", way)
		}
	}
	if _, err := l.Pages(ctx, id, "view:none", ""); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a view that is not there: %v", err)
	}
	empty := must[[]KeptView](t)(l.KeepView(ctx, id, "Nobody", LookingView{Shown: shown[2:]}))
	for _, v := range empty {
		if v.Name == "Nobody" {
			if _, err := l.Pages(ctx, id, "view:"+v.ID, ""); err == nil || !strings.Contains(err.Error(), "shows nothing that this batch has") {
				t.Errorf("a view of nobody: %v", err)
			}
		}
	}
	if pages := must[[]string](t)(l.Pages(ctx, id, "view:"+must[[]KeptView](t)(l.KeepView(ctx, id, "All", LookingView{}))[0].ID, "")); len(pages) == 0 {
		t.Error("a view without a choice shows nothing")
	}
	if wrong := must[record.Verification](t)(l.VerifyQuickly(ctx)).Wrong; len(wrong) > 0 {
		t.Error(wrong)
	}
}
