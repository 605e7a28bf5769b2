package lab

import (
	"context"
	"errors"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/lab/record"
	"yugen/lab/review"
	"yugen/people"
	"yugen/store"
)

// reviewOf is how a batch stands for somebody, its effects reckoned.
func reviewOf(t *testing.T, l *Lab, id string, by people.Actor) Review {
	t.Helper()
	for range 200 {
		r := must[Review](t)(l.Review(t.Context(), id, by))
		if r.Reckoning == 0 {
			return r
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatal("effects are never reckoned")
	return Review{}
}

// item is the only one of a kind.
func item(t *testing.T, r Review, k review.Kind) ReviewItem {
	t.Helper()
	var found []ReviewItem
	for _, i := range r.Items {
		if i.Kind == k {
			found = append(found, i)
		}
	}
	if len(found) != 1 {
		t.Fatalf("%d items of kind %s", len(found), k)
	}
	return found[0]
}

func keysOf(r Review) (keys []string) {
	for _, i := range r.Items {
		keys = append(keys, i.Key)
	}
	return keys
}

var alone = people.Actor{Name: "M. Okada", Alone: true}

// What a person changed stands in the list with what it does to a reported number, which is what processing without it gives; what was undone is not there.
func TestReviewListsWhatPersonsChangedByItsEffect(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	before := must[Processed](t)(l.Process(ctx, id))
	untouched := reviewOf(t, l, id, alone)
	sample := before.Result.Samples[3]
	in := must[store.Injection](t)(injection(before.Batch, sample.InjectionIDs[0]))
	caffeine := before.Batch.Version.Method.Compounds[slices.IndexFunc(before.Batch.Version.Method.Compounds, func(c compounds.Compound) bool { return c.Name == "Caffeine" })].ID
	var peak batch.NamedPeak
	for k := range before.Result.Injections {
		if r := &before.Result.Injections[k]; r.ID == in.ID {
			peak = *r.PeakOf(caffeine)
		}
	}
	moved := peaks.Edit{Kind: peaks.MoveEnd, ApexMin: peak.ApexMin, ToMin: peak.ApexMin + (peak.EndMin-peak.ApexMin)/3}
	if _, err := l.AddEdit(ctx, id, 0, in.ID, moved, "tail was counted", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	if _, err := l.AddEdit(ctx, id, 0, in.ID, peaks.Edit{Kind: peaks.Remove, ApexMin: peak.ApexMin}, "", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	if _, err := l.Undo(ctx, id, 0, "", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	r := reviewOf(t, l, id, alone)
	edit := item(t, r, review.Edited)
	now := must[Processed](t)(l.Process(ctx, id))
	was, is := *sample.Values[caffeine].Mean, *now.Result.Samples[3].Values[caffeine].Mean
	want := 100 * (is - was) / was
	if edit.Effect == nil || edit.Effect.Percent == nil || math.Abs(*edit.Effect.Percent-want) > 1e-9 || edit.Effect.CompoundID != caffeine || edit.Effect.Of != sample.Name || want > -0.1 {
		t.Errorf("%+v, want %.3f %%", edit.Effect, want)
	}
	if edit.Why != "tail was counted" || edit.Who != "M. Okada" || edit.Where != in.Name+" 1 of 2" || edit.Drawn == nil || edit.Drawn.Before == nil || edit.Drawn.After == nil || edit.Drawn.Before.AreaS <= edit.Drawn.After.AreaS {
		t.Errorf("%+v %+v", edit, edit.Drawn)
	}
	if len(edit.Says) != 1 || edit.Says[0] != in.Name+" 2 of 2 stands there as it was found." {
		t.Errorf("what speaks against it: %q", edit.Says)
	}
	if r.Results != untouched.Results || len(untouched.Items) == len(r.Items) {
		t.Errorf("%d results, %d items before, %d after", r.Results, len(untouched.Items), len(r.Items))
	}
	// A point that is left out, with its curve.
	choices := now.Batch.Choices
	point := now.Result.Curves[0].Points[2]
	choices.LeftOut = map[string][]batch.LeftOut{now.Result.Curves[0].CompoundID: {{InjectionID: point.InjectionID, Reason: "bubble"}}}
	if _, err := l.SaveChoices(ctx, id, 0, choices, "bubble", "M. Okada"); err != nil {
		t.Fatal(err)
	}
	out := item(t, reviewOf(t, l, id, alone), review.Point)
	if out.Why != "bubble" || out.Effect == nil || len(out.Effect.Moved) < 10 || out.Drawn == nil || len(out.Drawn.Points) != len(now.Result.Curves[0].Points) {
		t.Errorf("%+v", out)
	}
}

// Settings are compared with the approved version, part by part, and each part's effect is that of it alone.
func TestReviewComparesSettingsWithTheApprovedVersion(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	if v := item(t, reviewOf(t, l, id, alone), review.Version); !strings.Contains(v.What, "is not approved") {
		t.Errorf("%+v", v)
	}
	if _, err := l.Approve(ctx, b.Version.ID, "", alone); err != nil {
		t.Fatal(err)
	}
	if _, err := l.Approve(ctx, b.Version.ID, "", alone); !errors.Is(err, ErrRefused) {
		t.Errorf("a version is approved twice: %v", err)
	}
	for _, i := range reviewOf(t, l, id, alone).Items {
		if i.Kind == review.Version || i.Kind == review.Setting {
			t.Errorf("the approved version is used, and the list has %+v", i)
		}
	}
	m := b.Version.Method
	m.Curves.Weight = "1/x2"
	m.Compounds = append(m.Compounds[:0:0], m.Compounds...)
	m.Compounds[1].Name = "Another name"
	if _, err := l.SaveMethod(ctx, id, 0, m, "low levels matter", "A. Brandt"); err != nil {
		t.Fatal(err)
	}
	r := reviewOf(t, l, id, alone)
	var weight, name *ReviewItem
	for k := range r.Items {
		if i := &r.Items[k]; i.Kind == review.Setting && strings.Contains(i.What, "weight") {
			weight = i
		} else if i.Kind == review.Setting && strings.Contains(i.What, "Another name") {
			name = i
		}
	}
	if weight == nil || weight.After != "1/x2" || weight.Effect == nil || weight.Who != "A. Brandt" || weight.Why != "low levels matter" {
		t.Errorf("the weight: %+v", weight)
	}
	if name == nil || name.Effect != nil || name.After != "Another name" {
		t.Errorf("a name moves no number: %+v", name)
	}
	if v := item(t, r, review.Version); v.Before != "version 1 is" || v.Why != "low levels matter" {
		t.Errorf("%+v", v)
	}
	// A new batch takes the approved version, or somebody says why not.
	now := must[store.Batch](t)(l.Batch(ctx, id))
	if _, err := l.NewBatchBy(ctx, now.StudyName, "Next", now.Version.ID, false, " ", "A. Brandt"); Pointer(err) != "/reason" {
		t.Errorf("an unapproved version without a word: %v", err)
	}
	for version, reason := range map[string]string{b.Version.ID: "", now.Version.ID: "the low levels again"} {
		next := must[string](t)(l.NewBatchBy(ctx, now.StudyName, "Next "+version, version, false, reason, "A. Brandt"))
		used := reviewOf(t, l, next, alone)
		if version == b.Version.ID {
			if len(used.Items) != 0 || used.Approved == nil {
				t.Errorf("%+v", used.Items)
			}
		} else if v := item(t, used, review.Version); !strings.Contains(v.Why, reason) {
			t.Errorf("%+v", v)
		}
	}
}

// actors of a laboratory with people: who prepares, who reviews, who may only look.
func reviewers(t *testing.T, l *Lab) (okada, lindqvist, reader people.Actor) {
	t.Helper()
	actor := func(name string, role people.Role, password string) people.Actor {
		p := must[Person](t)(l.AddPerson(t.Context(), PersonAsked{Name: name, Roles: []people.Role{role}, Password: password}, "console"))
		return people.Actor{ID: p.ID, Name: p.Name, Roles: p.Roles}
	}
	return actor("M. Okada", people.Analyst, evening), actor("R. Lindqvist", people.Reviewer, morning), actor("J. Keller", people.Reader, "a third long password")
}

// The story of a batch: prepared, sent back, mended, reviewed and locked, a change refused, unlocked, and changed again.
func TestABatchIsPreparedSentBackMendedReviewedAndLocked(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	okada, lindqvist, reader := reviewers(t, l)
	why := func(r Review, m review.Meaning) string {
		for _, one := range r.May {
			if one.Meaning == m {
				return one.WhyNot
			}
		}
		return "no such meaning"
	}
	sign := func(m review.Meaning, password string, by people.Actor) error {
		_, err := l.Sign(ctx, id, 0, m, password, by)
		return err
	}
	refused := func(err error, words string) {
		t.Helper()
		if !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), words) {
			t.Errorf("%v, want %q", err, words)
		}
	}
	r := reviewOf(t, l, id, okada)
	refused(sign(review.Reviewed, evening, okada), "may not sign as reviewed")
	refused(sign(review.Prepared, evening, reader), "may not sign")
	refused(sign(review.Reviewed, morning, lindqvist), "has not signed")
	refused(sign(review.Prepared, "something else entirely", okada), "4 more before")
	if err := sign(review.Prepared, evening, okada); err != nil {
		t.Fatal(err)
	}
	refused(sign(review.Reviewed, morning, lindqvist), "to look at")
	if _, err := l.Judge(ctx, id, keysOf(r)[:1], review.Accepted, "", okada); err == nil {
		t.Error("who prepared it says it is right")
	}
	if _, err := l.Judge(ctx, id, keysOf(r)[:1], review.SentBack, " ", lindqvist); Pointer(err) != "/remark" {
		t.Errorf("sent back without a word: %v", err)
	}
	if _, err := l.Judge(ctx, id, keysOf(r)[:1], review.SentBack, "the check holds 50", lindqvist); err != nil {
		t.Fatal(err)
	}
	refused(sign(review.Reviewed, morning, lindqvist), "1 sent back")
	// Mended: what was sent back is another thing now, and to look at once more; the signature of who prepared it does not hold for it.
	b := must[store.Batch](t)(l.Batch(ctx, id))
	check := ""
	for _, in := range b.Injections {
		if in.Role == batch.Check {
			check = in.ID
		}
	}
	if _, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{check, batch.FieldLevel, "50"}}, "as the bottle says", okada.Name); err != nil {
		t.Fatal(err)
	}
	r = reviewOf(t, l, id, lindqvist)
	if r.count(review.SentBack) != 0 || len(r.SentBack) != 1 || r.SentBack[0].There || r.standing(review.Prepared) {
		t.Errorf("after mending: %d sent back, %+v", r.count(review.SentBack), r.SentBack)
	}
	if err := sign(review.Prepared, evening, okada); err != nil {
		t.Fatal(err)
	}
	if _, err := l.Judge(ctx, id, keysOf(r), review.Accepted, "", lindqvist); err != nil {
		t.Fatal(err)
	}
	if err := sign(review.Reviewed, morning, lindqvist); err != nil {
		t.Fatal(err)
	}
	r = reviewOf(t, l, id, okada)
	if !r.Locked || !r.standing(review.Reviewed) || why(r, review.Prepared) == "" || !strings.Contains(r.Judging, "signed") {
		t.Errorf("signed: %+v", r)
	}
	// Locked: nothing on which a number stands is taken, whoever asks and in whatever way; the shelf and reports are.
	_, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{check, batch.FieldLevel, "60"}}, "no", okada.Name)
	_, undone := l.Undo(ctx, id, 0, "no", okada.Name)
	_, settled := l.Settle(ctx, id, 0, []string{must[Processed](t)(l.Process(ctx, id)).Result.Notices[0].Key}, "no", okada.Name)
	_, waits := l.WaitFor(ctx, id, "file\tname\nx.csv\tx", okada.Name)
	name := "Another name"
	_, renamed := l.ChangeShelf(ctx, id, 0, ShelfChange{Name: &name}, lindqvist.Name)
	_, arrived := l.Receive(ctx, id, "late.csv", strings.NewReader("time_min,signal\n0,1\n1,2\n"), okada.Name)
	for what, err := range map[string]error{"a file": arrived, "a level": err, "undo": undone, "a notice": settled, "a run list": waits, "a name": renamed} {
		if !errors.Is(err, store.ErrSigned) || !strings.Contains(err.Error(), "Unlock it first") {
			t.Errorf("%s in a signed batch: %v", what, err)
		}
	}
	away := true
	if _, err := l.ChangeShelf(ctx, id, 0, ShelfChange{Away: &away}, lindqvist.Name); err != nil {
		t.Errorf("a signed batch is put away: %v", err)
	}
	if err := sign(review.Approved, morning, lindqvist); err != nil {
		t.Error(err)
	}
	if _, err := l.Unlock(ctx, id, " ", morning, lindqvist); Pointer(err) != "/reason" {
		t.Errorf("unlocked without a reason: %v", err)
	}
	if _, err := l.Unlock(ctx, id, "the bottle says 60", evening, okada); !errors.Is(err, ErrRefused) {
		t.Errorf("an analyst unlocks: %v", err)
	}
	if _, err := l.Unlock(ctx, id, "the bottle says 60", morning, lindqvist); err != nil {
		t.Fatal(err)
	}
	if _, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{check, batch.FieldLevel, "60"}}, "as the bottle says", okada.Name); err != nil {
		t.Fatal(err)
	}
	r = reviewOf(t, l, id, lindqvist)
	since := 0
	for _, i := range r.Items {
		if i.Since {
			since++
		}
	}
	if r.Locked || r.standing(review.Reviewed) || since != 1 || r.Signatures[len(r.Signatures)-1].Gone == nil || r.Signatures[len(r.Signatures)-1].Gone.Why != "the bottle says 60" {
		t.Errorf("unlocked: locked %v, %d changed since, %+v", r.Locked, since, r.Signatures)
	}
	if wrong := must[record.Verification](t)(l.VerifyQuickly(ctx)).Wrong; len(wrong) != 0 {
		t.Errorf("the check finds %v", wrong)
	}
}

// A change after signing that moves no number is told from one that does.
func TestASignatureTellsWhetherNumbersMovedSince(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	okada, _, _ := reviewers(t, l)
	reviewOf(t, l, id, okada)
	if _, err := l.Sign(ctx, id, 0, review.Prepared, evening, okada); err != nil {
		t.Fatal(err)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	sample := b.Injections[slices.IndexFunc(b.Injections, func(in store.Injection) bool { return in.Role == batch.Sample })].ID
	set := func(field batch.Field, value string) GivenSignature {
		if _, err := l.ChangeEntries(ctx, id, 0, []EntryChange{{sample, field, value}}, "", okada.Name); err != nil {
			t.Fatal(err)
		}
		return reviewOf(t, l, id, okada).Signatures[0]
	}
	if g := set(batch.FieldMix, ""); !g.Holds || g.Moved {
		t.Errorf("nothing was changed: %+v", g)
	}
	if g := set(batch.FieldVial, "Z9"); g.Holds || g.Moved {
		t.Errorf("a vial was written down: %+v", g)
	}
	if g := set(batch.FieldDilution, "7"); g.Holds || !g.Moved {
		t.Errorf("another dilution: %+v", g)
	}
}

// Alone, somebody may sign all of it, and every signature says that it is not independent and that no password proves it.
func TestWhoWorksAloneSignsWithoutBeingIndependent(t *testing.T) {
	l, id := demo(t)
	ctx := context.Background()
	r := reviewOf(t, l, id, alone)
	if _, err := l.Judge(ctx, id, keysOf(r), review.Accepted, "", alone); err != nil {
		t.Fatal(err)
	}
	r, err := l.Sign(ctx, id, 0, review.Reviewed, "", alone)
	if err != nil {
		t.Fatal(err)
	}
	if g := r.Signatures[0]; !r.Locked || !g.Alone || g.Proven {
		t.Errorf("%+v", g)
	}
	// A token is nobody who signs.
	token := people.Actor{ID: "x", Name: "M. Okada", Roles: people.Roles, Limits: []people.Right{people.Look, people.Review, people.Work}}
	if _, err := l.Unlock(ctx, id, "because", "", token); !errors.Is(err, ErrRefused) {
		t.Errorf("a token unlocks: %v", err)
	}
}

// Whatever is altered in the database after signing, the guards dropped for it and put back, checking finds it: what was signed, the signature, and the verdicts before it.
func TestWhatIsAlteredAfterSigningIsFound(t *testing.T) {
	dir, id := workedFolder(t)
	s, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	l := New(s)
	r := reviewOf(t, l, id, alone)
	if len(r.Items) > 0 {
		must[Review](t)(l.Judge(t.Context(), id, keysOf(r), review.Accepted, "", alone))
	}
	must[Review](t)(l.Sign(t.Context(), id, 0, review.Reviewed, "", alone))
	must[ApprovedVersion](t)(l.Approve(t.Context(), must[store.Batch](t)(l.Batch(t.Context(), id)).Version.ID, "", alone))
	l.Close()
	s.Close()
	quick := func(dir string) []string {
		s, err := store.Open(t.Context(), dir)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		return must[record.Verification](t)(New(s).VerifyQuickly(t.Context())).Wrong
	}
	if wrong := quick(dir); len(wrong) != 0 {
		t.Fatalf("an untouched folder: %v", wrong)
	}
	for what, c := range map[string][2]string{
		"a level of a standard":     {`UPDATE injections SET entry = replace(entry, '"level":5', '"level":6')`, "is not what M. Okada signed"},
		"an edit":                   {`UPDATE injections SET edits = '[{"kind":"remove","apex_min":5}]' WHERE entry LIKE '%"sample"%'`, "is not what M. Okada signed"},
		"the order of the run":      {"UPDATE injections SET position = 9 - position", "is not what M. Okada signed"},
		"a notice that was settled": {"INSERT INTO settled(batch_id, notice) SELECT id, 'x' FROM batches", "is not what M. Okada signed"},
		"a method":                  {`UPDATE method_versions SET document = replace(document, '"Caffeine"', '"Theine"')`, "is not the one that was saved"},
		"the name of who signed":    {`UPDATE record SET after = replace(after, '"M. Okada"', '"R. Lindqvist"') WHERE action = 'signature'`, "Row"},
		"what it means":             {"UPDATE record SET why = 'only looked' WHERE action = 'signature'", "Row"},
		"a verdict":                 {"UPDATE record SET after = replace(after, 'accepted', 'sent back') WHERE action = 'review'", "Row"},
		"no signature any more":     {"DELETE FROM record WHERE action = 'signature'", ""},
		"an approval":               {"DELETE FROM record WHERE action = 'approval'", ""},
		"a raw file":                {"UPDATE injections SET raw_hash = (SELECT raw_hash FROM injections ORDER BY position DESC LIMIT 1) || 'x' WHERE position = 1", ""},
	} {
		wrong := strings.Join(quick(altered(t, dir, c[0])), "\n")
		if wrong == "" || !strings.Contains(wrong, c[1]) {
			t.Errorf("%s: the check finds %q", what, wrong)
		}
	}
}
