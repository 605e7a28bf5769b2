package lab

import (
	"errors"
	"math"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/formats/contents"
	"yugen/store"
)

// means are those of all samples, by place and compound.
func means(r batch.Result) map[[2]string]float64 {
	out := map[[2]string]float64{}
	for _, s := range r.Samples {
		for id, v := range s.Values {
			if v.Mean != nil {
				out[[2]string{strings.Join(s.InjectionIDs, " "), id}] = *v.Mean
			}
		}
	}
	return out
}

// What another method would make of a batch is what it makes of it once it is saved: the number that is looked at, and how many means move, go and come. Until then
// nothing is written.
func TestATriedMethodIsWhatItBecomes(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	now := must[Processed](t)(l.Process(ctx, id))
	in, compound := now.Result.Samples[3].InjectionIDs[0], now.Result.Curves[0].CompoundID
	for what, change := range map[string]func(*batch.Method){
		"nothing":             func(*batch.Method) {},
		"another weight":      func(m *batch.Method) { m.Curves.Weight = "1/x2" },
		"through the origin":  func(m *batch.Method) { m.Curves.Model = "linear_origin" },
		"another unit":        func(m *batch.Method) { m.Amounts.Unit = "g/kg" },
		"a compound far away": func(m *batch.Method) { m.Compounds[0].ExpectedMin += 3 },
		"a narrower window": func(m *batch.Method) {
			m.Compounds[2].Window = compounds.Window{Kind: compounds.Absolute, Value: 0.001}
		},
	} {
		t.Run(what, func(t *testing.T) {
			m := now.Batch.Version.Method
			m.Compounds = append([]compounds.Compound{}, m.Compounds...)
			change(&m)
			before := must[store.Batch](t)(l.Batch(ctx, id)).Revision
			tried := must[TriedMethod](t)(l.TryMethod(ctx, id, MethodTrial{Method: m, InjectionID: in, CompoundID: compound}))
			if tried.Problem != "" {
				t.Fatal(tried.Problem)
			}
			if b := must[store.Batch](t)(l.Batch(ctx, id)); b.Revision != before {
				t.Fatal("trying it wrote something")
			}
			if what == "nothing" {
				if tried.Moved+tried.Lost+tried.Gained+tried.Curves != 0 {
					t.Errorf("%+v", tried)
				}
				return
			}
			if _, err := l.SaveMethod(ctx, id, 0, m, "tried", who); err != nil {
				t.Fatal(err)
			}
			after := must[Processed](t)(l.Process(ctx, id))
			was, is := means(now.Result), means(after.Result)
			moved, lost, gained := 0, 0, 0
			for key, v := range was {
				if other, there := is[key]; !there {
					lost++
				} else if other != v || tried.Unit != now.Batch.Version.Method.ReportedUnit() {
					moved++
				}
			}
			for key := range is {
				if _, there := was[key]; !there {
					gained++
				}
			}
			if tried.Moved != moved || tried.Lost != lost || tried.Gained != gained || moved+lost == 0 {
				t.Errorf("tried: %d moved, %d lost, %d gained; saved: %d, %d, %d", tried.Moved, tried.Lost, tried.Gained, moved, lost, gained)
			}
			for _, one := range after.Result.Injections {
				if r, there := one.Readings[compound]; one.ID == in && there {
					if !same(tried.Amount, r.Amount) || !same(tried.Concentration, r.Concentration) {
						t.Errorf("tried %v, saved %v", tried.Amount, r.Amount)
					}
				}
			}
			if tried.Percent != nil {
				squares := 0.0
				for _, term := range tried.Terms {
					squares += term.Percent * term.Percent
				}
				if len(tried.Terms) == 0 || math.Abs(math.Sqrt(squares)-*tried.Percent) > 1e-6**tried.Percent {
					t.Errorf("the terms make %.6f %%, together they are said to be %.6f %%", math.Sqrt(squares), *tried.Percent)
				}
			}
			if _, err := l.Undo(ctx, id, 0, "", who); err != nil {
				t.Fatal(err)
			}
		})
	}
	broken := now.Batch.Version.Method
	broken.Channels = nil
	if tried := must[TriedMethod](t)(l.TryMethod(ctx, id, MethodTrial{Method: broken})); !strings.Contains(tried.Problem, "channel") || tried.Working != nil {
		t.Errorf("a method without channels: %+v", tried)
	}
	if _, err := l.TryMethod(ctx, "none", MethodTrial{Method: now.Batch.Version.Method}); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("no batch: %v", err)
	}
}

func same(a, b *float64) bool { return a == nil && b == nil || a != nil && b != nil && *a == *b }

// A pasted table of what standards hold is read against the compounds and levels of the batch, whose levels need not be said; what is no table is refused.
func TestContentsAreReadAgainstTheBatch(t *testing.T) {
	l, id := demo(t)
	levels := levels(must[store.Batch](t)(l.Batch(t.Context(), id)))
	if len(levels) < 4 {
		t.Fatalf("%v", levels)
	}
	table := must[contents.Table](t)(l.ReadContents(t.Context(), id, "compound\tpurity %\tlevel 1\tlevel 2\ncaffeine\t99.1\t10,5\t21\nEGCG\t97\t\t20\n"))
	if len(table.Rows) != 2 || table.Rows[0].Compound != "Caffeine" || *table.Rows[0].Purity != 99.1 || len(table.Rows[1].Amounts) != 1 {
		t.Errorf("%+v", table)
	}
	for _, text := range []string{"", "Dear colleague,\nplease find attached", strings.Repeat("x\t", 100_000)} {
		if _, err := l.ReadContents(t.Context(), id, text); !errors.Is(err, ErrRefused) {
			t.Errorf("%.30q: %v", text, err)
		}
	}
}

// A ladder is held against peaks before it is kept; one that is none, or against too many peaks, is refused at its place.
func TestALadderIsHeldAgainstPeaks(t *testing.T) {
	l := openLab(t)
	ladder := compounds.Ladder{Scale: compounds.LinearScale}
	var apexes []float64
	for carbons := 8; carbons <= 20; carbons++ {
		atMin := 2 + 1.5*float64(carbons-8)
		ladder.Rungs = append(ladder.Rungs, compounds.Rung{Carbons: carbons, TimeMin: atMin})
		apexes = append(apexes, atMin+0.04)
	}
	check := must[compounds.LadderCheck](t)(l.CheckLadder(ladder, apexes))
	if check.Found != 13 || check.Shift == nil || math.Abs(*check.Shift-0.04) > 1e-9 || len(check.Odd) != 0 {
		t.Errorf("%+v", check)
	}
	if _, err := l.CheckLadder(ladder, make([]float64, maxApexes+1)); Pointer(err) != "/apexes_min" {
		t.Errorf("too many peaks: %v", err)
	}
	ladder.Rungs = ladder.Rungs[:1]
	if _, err := l.CheckLadder(ladder, apexes); Pointer(err) != "/ladder" {
		t.Errorf("a ladder of one rung: %v", err)
	}
}
