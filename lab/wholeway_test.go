package lab

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/lab/change"
	"yugen/lab/taking"
	"yugen/store"
)

// practical is a new batch with the files of a practical in it.
func practical(t *testing.T, files []bench.File) (*Lab, string) {
	t.Helper()
	l := openLab(t)
	m := batch.NewMethod()
	m.Amounts.AsMeasured = true
	id := must[string](t)(l.NewBatch(t.Context(), "Practicals", "Practical 4", "Practical 4", m, who))
	for _, f := range files {
		if out := must[taking.Outcome](t)(l.Import(t.Context(), id, f.Name, f.Data, who)); out.Status != taking.Added {
			t.Fatalf("%+v", out)
		}
	}
	return l, id
}

func wayKeys(w WholeWay) string {
	parts := make([]string, len(w.Proposals))
	for i, p := range w.Proposals {
		parts[i] = p.Key
		if p.Doubt != "" {
			parts[i] += "?"
		}
	}
	return strings.Join(parts, " ")
}

func looked(w WholeWay, text string) LookedAt {
	i := slices.IndexFunc(w.LookedAt, func(a LookedAt) bool { return a.Text == text })
	if i < 0 {
		return LookedAt{}
	}
	return w.LookedAt[i]
}

// Seven files whose names say all become one number that is right; nothing is kept until it is kept, and all of it is one step back.
func TestTheWholeWayOfAPractical(t *testing.T) {
	l, id := practical(t, bench.Practical(1))
	ctx := t.Context()
	before := must[store.Batch](t)(l.Batch(ctx, id))
	w := must[WholeWay](t)(l.WholeWay(ctx, id, WholeWayAsk{}))
	if got := wayKeys(w); got != "roles levels peak? line amounts" {
		t.Errorf("proposed are %s", got)
	}
	if len(w.Asked) != 1 || w.Asked[0].Key != "name" || w.Unit != "mg/L" {
		t.Errorf("asked are %+v, unit %q", w.Asked, w.Unit)
	}
	ask := WholeWayAsk{Name: "Caffeine"}
	w = must[WholeWay](t)(l.WholeWay(ctx, id, ask))
	if got := wayKeys(w); got != "roles levels peak line amounts" || len(w.Asked) != 0 {
		t.Errorf("proposed are %s, asked %+v", got, w.Asked)
	}
	if w.Concentration == nil || math.Abs(*w.Concentration/bench.PracticalReads-1) > 0.02 || w.HalfWidth == nil || *w.HalfWidth <= 0 || *w.HalfWidth > 3 {
		t.Fatalf("it reads %v ± %v", w.Concentration, w.HalfWidth)
	}
	for _, a := range w.LookedAt {
		if a.State == "wrong" {
			t.Errorf("%+v", a)
		}
	}
	if now := must[store.Batch](t)(l.Batch(ctx, id)); change.JSON(now) != change.JSON(before) {
		t.Error("looking has changed the batch")
	}
	b := must[store.Batch](t)(l.KeepWay(ctx, id, before.Revision, ask, nil, who))
	if b.Revision != before.Revision+1 || b.Version.Number != 2 || b.Injections[6].Role != batch.Sample || *b.Injections[0].Level != 5 {
		t.Errorf("kept as %+v", b)
	}
	r := must[Processed](t)(l.Process(ctx, id)).Result
	mean := r.Samples[0].Values["caffeine"].Mean
	if mean == nil || math.Abs(*mean-*w.Concentration) > 1e-9 {
		t.Errorf("kept it reads %v, proposed was %g", mean, *w.Concentration)
	}
	if again := must[WholeWay](t)(l.WholeWay(ctx, id, WholeWayAsk{})); len(again.Proposals) != 0 || again.Concentration == nil {
		t.Errorf("after keeping, %s is proposed", wayKeys(again))
	}
	b = must[store.Batch](t)(l.Undo(ctx, id, b.Revision, "", who))
	b.Revision = before.Revision
	if change.JSON(b.Injections) != change.JSON(before.Injections) || b.Version.ID != before.Version.ID || len(b.Choices.Agreed) != 0 {
		t.Errorf("undone it is %+v", b)
	}
}

// What a person has said is not proposed again, and what is refused takes along what hangs on it.
func TestProposalsGiveWay(t *testing.T) {
	l, id := practical(t, bench.Practical(2))
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	must[store.Batch](t)(l.ChangeEntries(ctx, id, b.Revision, []EntryChange{{b.Injections[0].ID, batch.FieldLevel, "4.9"}, {b.Injections[6].ID, batch.FieldRole, "check"}}, "", who))
	w := must[WholeWay](t)(l.WholeWay(ctx, id, WholeWayAsk{Name: "Caffeine"}))
	if w.Rows[0].LevelProposed || *w.Rows[0].Level != 4.9 || w.Rows[6].RoleProposed || w.Rows[6].Role != batch.Check {
		t.Errorf("%+v %+v", w.Rows[0], w.Rows[6])
	}
	w = must[WholeWay](t)(l.WholeWay(ctx, id, WholeWayAsk{Name: "Caffeine", Refused: []string{"levels"}}))
	if w.Concentration != nil || strings.Contains(wayKeys(w), "levels") {
		t.Errorf("without levels %v is read; proposed are %s", w.Concentration, wayKeys(w))
	}
	if _, err := l.KeepWay(ctx, id, 0, WholeWayAsk{}, []string{"peak"}, who); err == nil || Pointer(err) != "/name" {
		t.Errorf("a peak without a name is kept: %v", err)
	}
	kept := must[store.Batch](t)(l.KeepWay(ctx, id, 0, WholeWayAsk{Name: "Caffeine"}, []string{"peak"}, who))
	if len(kept.Version.Method.Compounds) != 1 || kept.Injections[1].Role != batch.NoRole {
		t.Errorf("more than the peak is kept: %+v", kept)
	}
}

// The usual mistakes: each stops the amount or is pointed at, and says so.
func TestTheUsualMistakesAreSeen(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	file := func(name string, level float64) bench.File { return bench.PracticalFile(name, level, false, rng) }
	standards := func(format string, areas ...float64) (files []bench.File) {
		for _, level := range areas {
			files = append(files, file(fmt.Sprintf(format, level), level))
		}
		return files
	}
	good := func() []bench.File { return standards("std %g mg-L.csv", 5, 10, 20, 40, 80) }
	way := func(ask WholeWayAsk, files ...bench.File) WholeWay {
		t.Helper()
		l, id := practical(t, files)
		ask.Name = "Caffeine"
		return must[WholeWay](t)(l.WholeWay(t.Context(), id, ask))
	}
	bare := append(standards("std %g.csv", 5, 10, 20, 40, 80), file("cola.csv", 30))
	w := way(WholeWayAsk{}, bare...)
	if w.Concentration != nil || looked(w, "Every level has a unit").Found != "of what?" || !slices.ContainsFunc(w.Asked, func(q Question) bool { return q.Key == "unit" }) {
		t.Errorf("levels without a unit: %+v", w)
	}
	if w = way(WholeWayAsk{Unit: "µg/mL"}, bare...); w.Concentration == nil || looked(w, "Every level has a unit").State != "well" {
		t.Errorf("with the unit said: %+v", w.LookedAt)
	}
	w = way(WholeWayAsk{}, append(good(), file("cola.csv", 104))...)
	if a := looked(w, "Samples inside the levels"); a.State != "wrong" || !strings.Contains(a.Found, "cola") {
		t.Errorf("above the levels: %+v", a)
	}
	w = way(WholeWayAsk{}, append(good(), file("std 20 mg-L b.csv", 26), file("cola.csv", 30))...)
	if a := looked(w, "Files of one level agree"); a.State != "wrong" || !strings.Contains(a.Found, "at 20") {
		t.Errorf("two unlike files of a level: %+v", a)
	}
	var bentFiles []bench.File
	for _, level := range []float64{5, 10, 20, 40, 60, 80} {
		bentFiles = append(bentFiles, file(fmt.Sprintf("std %g mg-L.csv", level), level*(1-level/300)))
	}
	bentFiles = append(bentFiles, file("cola.csv", 30))
	if a := looked(way(WholeWayAsk{}, bentFiles...), "The line is straight"); a.State != "wrong" {
		t.Errorf("a bent line: %+v", a)
	}
	w = way(WholeWayAsk{Model: curves.Quadratic}, bentFiles...)
	if a := looked(w, "The curve"); a.State != "well" || w.Curve == nil || w.Curve.Fit.Model != curves.Quadratic {
		t.Errorf("of second order: %+v", a)
	}
	w = way(WholeWayAsk{}, append(good(), bench.File{Name: "cola.csv", Data: []byte("time_min,UV [mAU]\n" + flat())})...)
	if w.Concentration != nil || !slices.ContainsFunc(w.Asked, func(q Question) bool { return q.Key == "peak" }) {
		t.Errorf("a file without the peak: %+v", w.Asked)
	}
	if w = way(WholeWayAsk{}, file("cola.csv", 30)); w.Concentration != nil || wayKeys(w) == "" {
		t.Errorf("one file: %+v", w)
	}
	if w = way(WholeWayAsk{}, append(standards("std %g.csv", 1, 2, 3), file("cola.csv", 2))...); !strings.Contains(wayKeys(w), "levels?") {
		t.Errorf("numbers that may count are %s", wayKeys(w))
	}
}

func flat() string {
	var b strings.Builder
	for i := range 1801 {
		fmt.Fprintf(&b, "%.5f,%.4f\n", float64(i)/300, 0.4+0.01*math.Sin(float64(i*i)))
	}
	return b.String()
}
