package lab

import (
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/store"
)

// What a person types finds injections by the words of their names, means by amounts, and what differs in a letter is told as near.
func TestTheShelfFindsOverAllBatches(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	p := must[Processed](t)(l.Process(ctx, id))
	find := func(text string) Found { return must[Found](t)(l.FindOnShelf(ctx, text)) }
	compounds := map[string]string{}
	for _, c := range p.Batch.Version.Method.Targets() {
		compounds[c.ID] = c.Name
	}
	above := 0
	for _, s := range p.Result.Samples {
		for id, v := range s.Values {
			if compounds[id] == "EGCG" && v.Mean != nil && *v.Mean > 60 {
				above++
			}
		}
	}
	got := find("EGCG > 60 mg/g")
	if len(got.Results) != above || above == 0 {
		t.Errorf("%d means above 60, want %d", len(got.Results), above)
	}
	for _, r := range got.Results {
		if r.Compound != "EGCG" || r.Amount == nil || *r.Amount <= 60 || r.Unit != "mg/g" || r.Batch != "Spring teas" {
			t.Errorf("%+v", r)
		}
	}
	if n := len(find("egcg ≥ 1e9").Results) + len(find("EGCG > 60 mg/L").Results); n != 0 {
		t.Errorf("%d means of another unit, or beyond all", n)
	}
	gyokuro := 0
	for _, s := range must[[]store.Study](t)(l.Studies(ctx)) {
		for _, listed := range s.Batches {
			for _, in := range must[store.Batch](t)(l.Batch(ctx, listed.ID)).Injections {
				if strings.Contains(in.Name, "Gyokuro") {
					gyokuro++
				}
			}
		}
	}
	if got := find("gyokuro"); len(got.Results) != gyokuro || got.Results[0].InjectionID == "" || got.Results[gyokuro-1].BatchID != id {
		t.Errorf("%d of %d injections: %+v", len(got.Results), gyokuro, got.Results)
	}
	if got := find("gyokoro"); len(got.Results) != 0 || len(got.Near) == 0 || got.Near[0] != "Gyokuro" {
		t.Errorf("near: %+v", got.Near)
	}
	vial := p.Batch.Injections[20].Vial
	if got := find("vial " + vial); len(got.Results) == 0 || got.Results[0].Vial != vial {
		t.Errorf("vial %s: %+v", vial, got.Results)
	}
	if got := find("Spring pressing"); len(got.Batches) != 1 || got.Batches[0].Study != "Camellia seed oil" {
		t.Errorf("%+v", got.Batches)
	}
	if in, out := find("gyokuro April 2026"), find("gyokuro 2019"); len(in.Results) != gyokuro || len(out.Results) != 0 {
		t.Errorf("%d in its month, %d in another year", len(in.Results), len(out.Results))
	}
	if by, other := find("gyokuro by Okada"), find("gyokuro by Nobody"); len(by.Results) != gyokuro || len(other.Results) != 0 {
		t.Errorf("%d by who was there, %d by nobody", len(by.Results), len(other.Results))
	}
	flagged := 0
	for _, s := range p.Result.Samples {
		for _, v := range s.Values {
			for _, f := range v.Flags {
				if f == batch.AboveRange {
					flagged++
				}
			}
		}
	}
	if got := find("above range"); flagged == 0 || len(got.Results) < flagged {
		t.Errorf("%d above range, at least %d there", len(got.Results), flagged)
	}
	for _, odd := range []string{"", "   ", `"`, "%", "x' OR 1=1 --", "><", "EGCG >", strings.Repeat("ä", maxFindLetters)} {
		if got := find(odd); len(got.Results) != 0 {
			t.Errorf("%q finds %d", odd, len(got.Results))
		}
	}
	if _, err := l.FindOnShelf(ctx, strings.Repeat("a", maxFindLetters+1)); err == nil {
		t.Error("a very long question is answered")
	}
	// It follows what is done: a sample that is called otherwise, a dilution that moves an amount.
	in := p.Batch.Injections[20]
	if _, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{in.ID, batch.FieldName, "Quince blossom"}, {in.ID, batch.FieldDilution, "1000"}}, "", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	must[Processed](t)(l.Process(ctx, id))
	if got := find("quince"); len(got.Results) != 1 || got.Results[0].InjectionID != in.ID {
		t.Errorf("another name: %+v", got.Results)
	}
	if _, err := l.Undo(ctx, id, 0, "", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	must[Processed](t)(l.Process(ctx, id))
	if quince, again := find("quince"), find("EGCG > 60 mg/g"); len(quince.Results) != 0 || len(again.Results) != above {
		t.Errorf("undone: %d, and %d of %d", len(quince.Results), len(again.Results), above)
	}
}

// Results that were kept before there was anything to find are filled in.
func TestTheShelfIsFilledFromKeptResults(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	must[Processed](t)(l.Process(ctx, id))
	want := len(must[Found](t)(l.FindOnShelf(ctx, "caffeine > 0")).Results)
	if err := l.store.Write(ctx, func(tx *store.Tx) error { return tx.ForgetReported() }); err != nil {
		t.Fatal(err)
	}
	if n := len(must[Found](t)(l.FindOnShelf(ctx, "caffeine > 0")).Results); n != 0 {
		t.Fatalf("%d are still found", n)
	}
	if err := l.FillShelf(ctx); err != nil {
		t.Fatal(err)
	}
	if n := len(must[Found](t)(l.FindOnShelf(ctx, "caffeine > 0")).Results); n != want || n == 0 {
		t.Errorf("%d of %d", n, want)
	}
}

func TestDaysAreUnderstood(t *testing.T) {
	day := func(y int, m time.Month, d int) time.Time { return time.Date(y, m, d, 0, 0, 0, 0, time.Local) }
	for text, want := range map[string][2]time.Time{
		"March 2024":              {day(2024, 3, 1), day(2024, 4, 1)},
		"sencha 29 february 2024": {day(2024, 2, 29), day(2024, 3, 1)},
		"2024-12":                 {day(2024, 12, 1), day(2025, 1, 1)},
		"2024-12-31":              {day(2024, 12, 31), day(2025, 1, 1)},
		"2025":                    {day(2025, 1, 1), day(2026, 1, 1)},
	} {
		if from, to, _, ok := dayIn(text); !ok || !from.Equal(want[0]) || !to.Equal(want[1]) {
			t.Errorf("%s: %v to %v, %v", text, from, to, ok)
		}
	}
	for text, want := range map[string]store.WantedResult{
		"gyokuro March 2024 to May 2025": {Words: []string{"gyokuro"}, From: day(2024, 3, 1), To: day(2025, 6, 1)},
		"2023 to 2024":                   {Words: []string{}, From: day(2023, 1, 1), To: day(2025, 1, 1)},
		"May 2024 to March 2024":         {Words: []string{"to", "March", "2024"}, From: day(2024, 5, 1), To: day(2024, 6, 1)},
	} {
		if w, _ := understood(text); !w.From.Equal(want.From) || !w.To.Equal(want.To) || strings.Join(w.Words, " ") != strings.Join(want.Words, " ") {
			t.Errorf("%s: %+v", text, w)
		}
	}
	for _, text := range []string{"30 February 2024", "2024-13", "vial 2", "20256"} {
		if _, _, _, ok := dayIn(text); ok {
			t.Errorf("%s is a day", text)
		}
	}
}

// The record as lines of JSON is signed: the signature is of the hash of all lines before it, and any altered letter shows.
func TestTheRecordIsTakenOutSigned(t *testing.T) {
	l, id := demo(t)
	var out bytes.Buffer
	if err := l.RecordJSON(t.Context(), store.Wanted{BatchID: id}, &out); err != nil {
		t.Fatal(err)
	}
	text := out.String()
	at := strings.LastIndex(strings.TrimSpace(text), "\n") + 1
	var end signedEnd
	if err := json.Unmarshal([]byte(text[at:]), &end); err != nil {
		t.Fatal(err)
	}
	sum := sha256.Sum256([]byte(text[:at]))
	key, signature := must[[]byte](t)(hex.DecodeString(end.Key)), must[[]byte](t)(hex.DecodeString(end.Signature))
	if end.SHA256 != hex.EncodeToString(sum[:]) || !ed25519.Verify(key, []byte(end.SHA256), signature) || int(end.Rows) != strings.Count(text[:at], "\n") || end.Rows < 50 {
		t.Errorf("%+v", end)
	}
	var row store.Change
	if err := json.Unmarshal([]byte(text[:strings.Index(text, "\n")]), &row); err != nil || row.BatchID != id || row.After == "" {
		t.Errorf("%+v, %v", row, err)
	}
}
