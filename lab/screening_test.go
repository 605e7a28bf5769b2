package lab

import (
	"context"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/screening"
	"yugen/store"
)

// The words that the simulated truth asks for: what was put in is told, what was not is not, and a dye with something else under it is looked at.
func TestAddedDyesAreFoundByTheirEvidence(t *testing.T) {
	l, _ := demo(t)
	ctx := context.Background()
	id := coloursOf(t, l)
	s := must[batch.Screened](t)(l.Screening(ctx, id))
	want := map[string]map[string]screening.Word{
		"Online A": {"tartrazine": screening.Proposed, "blue": screening.BelowLimit},
		"Online B": {"tartrazine": screening.LookHere, "yellow": screening.Proposed},
		"Online C": {"blue": screening.Proposed},
	}
	if len(s.Samples) != 5 || len(s.Compounds) != 5 {
		t.Fatalf("%d samples, %d compounds", len(s.Samples), len(s.Compounds))
	}
	for _, sample := range s.Samples {
		for k, c := range s.Compounds {
			expected, there := want[sample.Name][c.ID]
			if !there {
				expected = screening.Nothing
			}
			if cell := sample.Cells[k]; cell.Word != expected || len(cell.Evidence) != 2 {
				t.Errorf("%s in %s: %s, want %s", c.Name, sample.Name, cell.Word, expected)
			}
		}
	}
	cell, in := cellOf(t, s, "Online B", "tartrazine")
	outside := map[screening.Kind]bool{}
	for _, m := range in.Marks {
		outside[m.Kind] = !m.Inside
	}
	if !outside[screening.Spectrum] || outside[screening.Retention] {
		t.Errorf("tartrazine with gardenia under it: %+v", cell)
	}
	e := must[ScreenEvidence](t)(l.ScreenEvidenceOf(ctx, id, in.InjectionID, "tartrazine"))
	if len(e.Own.Values) < 50 || len(e.Standard.Values) < 50 || len(e.Spectrum) != 251 || len(e.Reference) != 251 || len(e.Ions) != 1 || len(e.Ions[0].Expected.Values) == 0 || !strings.Contains(e.Says, "spectrum does not") {
		t.Errorf("evidence of %d points, %d of the standard, %d and %d places, %d ions: %s", len(e.Own.Values), len(e.Standard.Values), len(e.Spectrum), len(e.Reference), len(e.Ions), e.Says)
	}
}

func coloursOf(t *testing.T, l *Lab) string {
	t.Helper()
	for _, s := range must[[]store.Study](t)(l.Studies(context.Background())) {
		for _, b := range s.Batches {
			if b.Name == "Autumn lots" {
				return b.ID
			}
		}
	}
	t.Fatal("no colour screening in the demo")
	return ""
}

func cellOf(t *testing.T, s batch.Screened, sample, compound string) (batch.ScreenedCell, screening.Evidence) {
	t.Helper()
	for _, row := range s.Samples {
		for k, c := range s.Compounds {
			if row.Name == sample && c.ID == compound {
				return row.Cells[k], row.Cells[k].Evidence[row.Cells[k].Shown]
			}
		}
	}
	t.Fatalf("no %s in %s", compound, sample)
	return batch.ScreenedCell{}, screening.Evidence{}
}

// A decision is a person's, needs a reason where evidence is outside, is undone, and holds only for the evidence that was looked at.
func TestDecisionsHoldForWhatWasLookedAt(t *testing.T) {
	l, _ := demo(t)
	ctx := context.Background()
	id := coloursOf(t, l)
	screened := func() batch.Screened { return must[batch.Screened](t)(l.Screening(ctx, id)) }
	s := screened()
	decide := func(sample, compound string, word screening.Word, why, print string) error {
		b := must[store.Batch](t)(l.Batch(ctx, id))
		_, err := l.DecideScreening(ctx, id, b.Revision, []batch.ScreenDecision{{Sample: sample, CompoundID: compound, Word: word, Why: why, Print: print}}, "M. Okada")
		return err
	}
	good, _ := cellOf(t, s, "Online A", "tartrazine")
	odd, _ := cellOf(t, s, "Online B", "tartrazine")
	before := must[Processed](t)(l.Process(ctx, id)).InputsHash
	for _, c := range []struct {
		sample, compound string
		word             screening.Word
		why, print, says string
	}{
		{"Online A", "tartrazine", screening.Present, "", "other", "look again"},
		{"Online B", "tartrazine", screening.Present, "", odd.Print, "say why"},
		{"Online A", "tartrazine", screening.NotPresent, "", good.Print, "say why"},
		{"Nowhere", "tartrazine", screening.Present, "", good.Print, "no sample called"},
		{"Online A", "water", screening.Present, "", good.Print, "no target"},
		{"Online A", "tartrazine", screening.Proposed, "x", good.Print, "cannot be"},
		{"Online B", "tartrazine", screening.Present, strings.Repeat("x", 501), odd.Print, "at most"},
	} {
		if err := decide(c.sample, c.compound, c.word, c.why, c.print); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if err := decide("Online A", "tartrazine", screening.Present, "", good.Print); err != nil {
		t.Fatal(err)
	}
	if err := decide("Online B", "tartrazine", screening.NotPresent, "gardenia under it", odd.Print); err != nil {
		t.Fatal(err)
	}
	// Two at once: who decides on a batch as it no longer is, is told so, and nothing is lost.
	yellow, _ := cellOf(t, s, "Online B", "yellow")
	if _, err := l.DecideScreening(ctx, id, 1, []batch.ScreenDecision{{Sample: "Online B", CompoundID: "yellow", Word: screening.Present, Print: yellow.Print}}, "N. Lind"); err == nil {
		t.Error("a decision on an earlier state of the batch is taken")
	}
	s = screened()
	if c, _ := cellOf(t, s, "Online A", "tartrazine"); c.Word != screening.Present || c.Decision == nil || c.Decision.By != "M. Okada" {
		t.Errorf("confirmed: %+v", c)
	}
	if c, _ := cellOf(t, s, "Online B", "tartrazine"); c.Word != screening.NotPresent || c.Decision.Why == "" {
		t.Errorf("rejected: %+v", c)
	}
	if after := must[Processed](t)(l.Process(ctx, id)).InputsHash; after != before {
		t.Error("a decision makes the numbers be computed anew")
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	m := b.Version.Method
	rules := *m.Screening
	rules.LeastMatch = 100
	m.Screening = &rules
	if _, err := l.SaveMethod(ctx, id, b.Revision, m, "stricter", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	if c, _ := cellOf(t, screened(), "Online A", "tartrazine"); !c.Stale || c.Word != screening.LookHere || c.Decision == nil {
		t.Errorf("with other rules the decision still holds: %+v", c)
	}
	for range 2 { // the rules, and the rejection
		if _, err := l.Undo(ctx, id, must[store.Batch](t)(l.Batch(ctx, id)).Revision, "", "M. Okada"); err != nil {
			t.Fatal(err)
		}
	}
	if c, _ := cellOf(t, screened(), "Online B", "tartrazine"); c.Word != screening.LookHere || c.Decision != nil {
		t.Errorf("undone: %+v", c)
	}
	if c, _ := cellOf(t, screened(), "Online A", "tartrazine"); c.Word != screening.Present {
		t.Errorf("undone too much: %+v", c)
	}
}
