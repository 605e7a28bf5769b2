package lab

import (
	"encoding/csv"
	"strconv"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/lab/record"
	"yugen/store"
)

// Own columns belong to the study, are set like the others, and stand in the register with all other quantities: in matrices and in tables.
func TestOwnColumnsAndOtherQuantities(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.SetOwnColumns(ctx, id, []batch.OwnColumn{{Name: "Lot", Kind: batch.TextColumn}, {Name: "Water", Unit: "°C", Kind: batch.NumberColumn}}, who))
	if len(b.OwnColumns) != 2 || b.OwnColumns[0].ID != "lot" {
		t.Fatalf("%+v", b.OwnColumns)
	}
	found := must[[]PatternFound](t)(l.ByPattern(ctx, id, PatternAsked{Pattern: "{}-sencha-*", Field: "own:water", Of: "file"}))
	var changes []EntryChange
	for _, f := range found {
		if f.Value != "" && f.Problem == "" {
			changes = append(changes, EntryChange{f.InjectionID, "own:water", f.Value})
		}
	}
	if len(changes) != 4 || changes[0].Value != "16" && changes[0].Value != "17" {
		t.Fatalf("%+v", changes)
	}
	if f := must[[]PatternFound](t)(l.ByPattern(ctx, id, PatternAsked{Pattern: "*-{}", Field: "own:water", Of: "file"})); f[0].Problem == "" {
		t.Errorf("a word for a number: %+v", f[0])
	}
	changes = append(changes, EntryChange{changes[0].InjectionID, "own:lot", "=A-17"})
	must[store.Batch](t)(l.ChangeEntries(ctx, id, 0, changes, "", who))
	for field, value := range map[batch.Field]string{"own:water": "warm", "own:none": "x", "none": "x"} {
		if _, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{changes[0].InjectionID, field, value}}, "", who); err == nil {
			t.Errorf("%s takes %q", field, value)
		}
	}
	// Another batch of the study has the columns too; one of another study has not.
	other := must[string](t)(l.NewBatch(ctx, "Green tea assay", "Next", "M", batch.NewMethod(), who))
	elsewhere := must[string](t)(l.NewBatch(ctx, "Another", "B", "M", batch.NewMethod(), who))
	if n := len(must[store.Batch](t)(l.Batch(ctx, other)).OwnColumns); n != 2 {
		t.Errorf("%d columns in the next batch", n)
	}
	if n := len(must[store.Batch](t)(l.Batch(ctx, elsewhere)).OwnColumns); n != 0 {
		t.Errorf("%d columns in another study", n)
	}

	p := must[Processed](t)(l.Process(ctx, id))
	m := must[Matrix](t)(l.MatrixOf(ctx, id, "area_s"))
	if len(m.Compounds) != 9 || len(m.Rows) != 47 || m.Quantity.Unit != "mAU·s" {
		t.Fatalf("%d compounds, %d rows, in %s", len(m.Compounds), len(m.Rows), m.Quantity.Unit)
	}
	for i, row := range m.Rows {
		for k, c := range m.Compounds {
			peak := p.Result.Injections[i].PeakOf(c)
			if (peak == nil) != row.Cells[k].Absent() || peak != nil && *row.Cells[k].Number != peak.AreaS {
				t.Errorf("%s in injection %d: %+v", c, i+1, row.Cells[k])
			}
		}
	}
	if m := must[Matrix](t)(l.MatrixOf(ctx, id, "own:water")); len(m.Compounds) != 1 || m.Rows[15].Cells[0].Shown == "" {
		t.Errorf("%+v", m.Rows[15])
	}
	if _, err := l.MatrixOf(ctx, id, "none"); err == nil {
		t.Error("a quantity that is none is shown")
	}
	for _, q := range must[[]quantities.Quantity](t)(l.Quantities(ctx, id)) { // each can be shown over the batch
		must[Matrix](t)(l.MatrixOf(ctx, id, q.ID))
	}
	rows, err := csv.NewReader(strings.NewReader(string(must[[]byte](t)(l.Table(ctx, id, []string{"name", "own:lot", "own:water", "compound", "amount"}))))).ReadAll()
	if err != nil || len(rows) != 1+47*9 || strings.Join(rows[0], " ") != "name Lot Water_°C compound amount_mg/g" {
		t.Fatalf("%v, %d rows, %v", err, len(rows), rows[0])
	}
	for _, r := range rows[1:] {
		if r[1] != "" && r[1] != "'=A-17" {
			t.Errorf("a formula goes out: %q", r[1])
		}
		if _, err := strconv.ParseFloat(r[4], 64); r[4] != "" && err != nil {
			t.Errorf("%q is no number", r[4])
		}
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
}
