package lab

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strings"
	"testing"
	"time"

	"yugen/people"
	"yugen/store"
)

// The record is found by person, kind, batch, words and time, piece after piece without a gap; as CSV it is all of it, and no formula.
func TestTheRecordIsFound(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	must[Person](t)(l.AddPerson(ctx, PersonAsked{Name: "L. Ferreira", Roles: []people.Role{people.Keeper}, Password: morning}, "console"))
	id := emptyBatch(t, l)
	if err := l.store.Write(ctx, func(tx *store.Tx) error {
		for k := range 450 {
			if _, err := tx.Record(store.Change{Who: fmt.Sprintf("P%d", k%3), BatchID: id, Action: "notice", Subject: fmt.Sprintf("seen 100%% of %d", k), Why: "=1+1"}); err != nil {
				return err
			}
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	seen, before := map[int64]bool{}, int64(0)
	for pages := 0; ; pages++ {
		page := must[RecordPage](t)(l.FindRecord(ctx, store.Wanted{Action: "notice"}, before))
		for _, r := range page.Rows {
			if seen[r.Seq] || before > 0 && r.Seq >= before {
				t.Fatalf("row %d comes twice, or in the wrong order", r.Seq)
			}
			seen[r.Seq], before = true, r.Seq
		}
		if !page.More {
			if pages != 2 {
				t.Errorf("%d pages", pages+1)
			}
			break
		}
	}
	if len(seen) != 450 {
		t.Errorf("%d rows", len(seen))
	}
	for what, c := range map[string]struct {
		w    store.Wanted
		want int
	}{
		"a person":                {store.Wanted{Who: "P1", Action: "notice"}, 150},
		"words":                   {store.Wanted{Words: "SEEN 449"}, 1},
		"a sign of patterns":      {store.Wanted{Words: "100% 44_"}, 0},
		"a percent sign":          {store.Wanted{Words: "100% 449"}, 1},
		"another kind":            {store.Wanted{Action: store.PersonAction}, 1},
		"a batch that is not":     {store.Wanted{BatchID: "none"}, 0},
		"before all":              {store.Wanted{To: time.Now().Add(-time.Hour)}, 0},
		"since an hour, a person": {store.Wanted{From: time.Now().Add(-time.Hour), Who: "console"}, 1},
	} {
		if got := must[RecordPage](t)(l.FindRecord(ctx, c.w, 0)); len(got.Rows) != c.want {
			t.Errorf("%s: %d rows, want %d", what, len(got.Rows), c.want)
		}
	}
	page := must[RecordPage](t)(l.FindRecord(ctx, store.Wanted{}, 0))
	if strings.Join(page.Who, ",") != "L,P0,P1,P2,Yugen,console" && !strings.Contains(strings.Join(page.Who, ","), "P0,P1,P2") || page.Rows[0].Batch == "" {
		t.Errorf("%v, %q", page.Who, page.Rows[0].Batch)
	}
	var b bytes.Buffer
	if err := l.RecordCSV(ctx, store.Wanted{BatchID: id, Action: "notice"}, &b); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(&b).ReadAll()
	if err != nil || len(rows) != 451 || !strings.HasPrefix(rows[1][10], "'=") {
		t.Errorf("%d rows, %v, %q", len(rows), err, rows[1][10])
	}
}
