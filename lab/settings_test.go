package lab

import (
	"bytes"
	"strings"
	"testing"

	"yugen/lab/record"
	"yugen/lab/review"
	"yugen/report/layouts"
	"yugen/store"
)

// What an installation decides of itself is on its paper and in its signatures, told in the record, bounded, and found where it is altered by hand.
func TestAnInstallationDecidesOfItself(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	l.Laboratory = Laboratory{Name: "As started", Address: "Somewhere"}
	head, paper, err := l.Letterhead(ctx)
	if err != nil || head.Name != "As started" || paper.Zone != nil || paper.Size != "" {
		t.Fatalf("%+v %+v %v", head, paper, err)
	}
	wanted := Settings{Name: " Kettle & Leaf ", Zone: "Europe/Paris", Paper: layouts.Letter, Comma: true, Meanings: map[review.Meaning]string{review.Reviewed: "Each change was looked at"}}
	must[Settings](t)(l.ChangeSettings(ctx, wanted, "L. Ferreira"))
	must[Settings](t)(l.ChangeSettings(ctx, wanted, "L. Ferreira"))
	head, paper, err = l.Letterhead(ctx)
	if err != nil || head.Name != "Kettle & Leaf" || head.Address != "Somewhere" || paper.Zone.String() != "Europe/Paris" || !paper.Comma || paper.Size != layouts.Letter {
		t.Errorf("%+v %+v %v", head, paper, err)
	}
	if rows := must[RecordPage](t)(l.FindRecord(ctx, store.Wanted{Action: store.SettingsAction}, 0)).Rows; len(rows) != 1 || rows[0].Who != "L. Ferreira" {
		t.Errorf("%+v", rows)
	}
	for _, m := range reviewOf(t, l, id, alone).May {
		if m.Meaning == review.Reviewed && m.Words != "Each change was looked at" || m.Words == "" {
			t.Errorf("%+v", m)
		}
	}
	for where, s := range map[string]Settings{
		"/zone":     {Zone: "Middle/Earth"},
		"/paper":    {Paper: "A5"},
		"/mark":     {Mark: []byte("no picture")},
		"/address":  {Address: strings.Repeat("a", maxAddress+1)},
		"/name":     {Name: strings.Repeat("a", maxName+1)},
		"/meanings": {Meanings: map[review.Meaning]string{"seen": "x"}},
	} {
		if _, err := l.ChangeSettings(ctx, s, "L. Ferreira"); Pointer(err) != where {
			t.Errorf("%s: %v", where, err)
		}
	}
	if _, err := l.ChangeSettings(ctx, Settings{Mark: bytes.Repeat([]byte{1}, maxMark+1)}, "x"); Pointer(err) != "/mark" {
		t.Errorf("a mark beyond its bound: %v", err)
	}
	if wrong := must[record.Verification](t)(l.VerifyQuickly(ctx)).Wrong; len(wrong) != 0 {
		t.Errorf("%v", wrong)
	}
	if err := l.store.Write(ctx, func(tx *store.Tx) error { return tx.PutSetting(store.InstallationSetting, `{"name":"Another"}`) }); err != nil {
		t.Fatal(err)
	}
	if wrong := must[record.Verification](t)(l.VerifyQuickly(ctx)).Wrong; len(wrong) != 1 || !strings.Contains(wrong[0], "settings of the installation") {
		t.Errorf("settings changed past the record: %v", wrong)
	}
}
