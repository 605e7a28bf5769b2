package batch

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
)

// anyBatch puts the injections of these tests into any order, with any roles, levels and preparations.
func anyBatch(rng *rand.Rand, list []Injection) []Injection {
	list = slices.Clone(list)
	rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	maybe := func(v float64) *float64 {
		if rng.IntN(3) == 0 {
			return nil
		}
		return &v
	}
	for i := range list {
		in := &list[i]
		if rng.IntN(2) == 0 {
			in.Role = append([]Role{NoRole}, Roles...)[rng.IntN(len(Roles)+1)]
		}
		if rng.IntN(4) == 0 {
			in.Level = maybe([]float64{0, 1e-9, 5, 5, 1e9}[rng.IntN(5)])
		}
		in.Volume, in.Sample, in.Internal, in.Added = maybe(50), maybe(1e-6), maybe(1e3), maybe(float64(rng.IntN(3)))
		if rng.IntN(6) == 0 {
			in.Internal, in.Internals = nil, []InternalAmount{{"IS", 20}, {"nobody", 1}}
		}
		in.Name, in.Mix = fmt.Sprint("n", rng.IntN(4)), []string{"", "A", "B"}[rng.IntN(3)]
	}
	return list[:rng.IntN(len(list)+1)]
}

// anyMethod is any method that can be saved.
func anyMethod(rng *rand.Rand) Method {
	m := method()
	pick := func() string { return []string{"a", "b"}[rng.IntN(2)] }
	m.Curves.Model, m.Curves.Weight = curves.Models[rng.IntN(len(curves.Models))], curves.Weights[rng.IntN(len(curves.Weights))]
	m.Curves.Averaged = rng.IntN(3) == 0
	m.Curves.Brackets = []Bracketing{"", MeanOfBrackets, BetweenOfBracket}[rng.IntN(3)]
	m.Curves.Way = []Way{"", ByCurve, ByCurve, ByAddition}[rng.IntN(4)]
	m.Amounts.PercentOfTotal = rng.IntN(4) == 0
	m.Amounts.VolumePercent = float64(rng.IntN(3))
	m.Compounds[0].Group, m.Compounds[0].Mix = []string{"", "G"}[rng.IntN(2)], []string{"", "A"}[rng.IntN(2)]
	m.Compounds[1].MinResolution, m.Compounds[1].ResolutionTo = float64(rng.IntN(40)), []string{"", "a"}[rng.IntN(2)]
	m.Compounds[rng.IntN(3)].Reference = rng.IntN(2) == 0
	if rng.IntN(2) == 0 {
		m.Compounds = m.Compounds[:2]
	}
	m.Checks.Suitability = []checks.Suitability{{Measure: checks.Measures[rng.IntN(len(checks.Measures))], High: ptr(2.0)}}
	m.Amounts.TakeOffBlank, m.Amounts.AsMeasured = rng.IntN(3) == 0, !m.Amounts.PercentOfTotal && rng.IntN(4) == 0
	if rng.IntN(5) == 0 { // a second internal standard
		m.Compounds[1].Role, m.Compounds[1].Amount, m.Compounds[1].Group = compounds.InternalStandard, 5, ""
		m.Compounds[0].Against = []string{"", "b", External}[rng.IntN(3)]
		return m
	}
	switch rng.IntN(5) {
	case 0:
		own(&m, "a", Own{RelativeTo: "b", ResponseFactor: 2})
	case 1:
		own(&m, pick(), Own{LowX: ptr(4.0), HighX: ptr(60.0), Limits: &LimitChoice{LOD: 1, LOQ: 3}})
	case 2:
		m.Curves.Contents = &ContentTable{Unit: "µg/mL", Compounds: map[string]ContentRow{pick(): {Purity: 95, PuritySE: 1, Levels: []LevelContent{{Level: 5, Amount: 6}, {Level: 20, Amount: 18}, {Level: 100}}}}}
	}
	return m
}

// anyChoices are any choices of a batch.
func anyChoices(rng *rand.Rand) (c Choices) {
	switch rng.IntN(4) {
	case 0:
		c.Levels = map[string][]LevelState{"a": {{Level: 5, State: LevelLeftOut}, {Level: 20, State: LevelKept, Kept: []KeptPoint{{InjectionID: "x", X: 20, Response: 1}}}}}
	case 1:
		c.LeftOut = map[string][]LeftOut{"b": {{InjectionID: "s1"}, {InjectionID: "nobody"}}}
	case 2:
		c.Earlier = &Earlier{Batch: "E", Response: Area, Unit: "mg/L", Against: map[string]string{"a": "is"}, Curves: map[string][]EarlierPoint{"a": {{KeptPoint{"x", 1, 1, nil, 10}, 1, ""}, {KeptPoint{"y", 3, 3, ptr(3.0), 30}, 2, ""}, {KeptPoint{"z", 9, 9, nil, 0}, 9, "out"}}}}
	}
	return c
}

// Whatever the run list and the method: no panic, a result that can be kept, the same one again, and a working for every reading.
func TestAnyBatchByAnyMethodIsProcessed(t *testing.T) {
	all := append(run(t), injection(t, "e1", "Blank", Blank, nil, 0, 0, 0.2), injection(t, "e2", "Blank", Blank, nil, 0.3, 0, 0.2), injection(t, "e3", "Noise", Sample, nil, 0, 0, 0))
	cache := &Cache{}
	for seed := range uint64(500) {
		rng := rand.New(rand.NewPCG(seed, 11))
		list, m := anyBatch(rng, all), anyMethod(rng)
		in := Input{Injections: list, Method: m, Choices: anyChoices(rng)}
		if err := m.Validate(); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		r, err := Process(context.Background(), in, cache)
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		kept, err := json.Marshal(r)
		if err != nil {
			t.Fatalf("seed %d: the result cannot be kept: %v", seed, err)
		}
		if again, err := Process(context.Background(), in, nil); err != nil {
			t.Fatal(err)
		} else if text, _ := json.Marshal(again); string(text) != string(kept) {
			t.Fatalf("seed %d: another result the second time", seed)
		}
		var read Result
		if err := json.Unmarshal(kept, &read); err != nil {
			t.Fatal(err)
		}
		for i, injected := range list {
			for _, c := range read.Curves {
				w, ok := Work(in, read, injected.ID, c.CompoundID)
				if !ok || w.Text == "" {
					t.Fatalf("seed %d: no working of %s in %s", seed, c.CompoundID, injected.ID)
				}
				if want := reported(read, i, injected.Entry, c.CompoundID); (want == nil) != (w.Value == nil) || want != nil && *want != *w.Value {
					t.Fatalf("seed %d: %s in %s is %v, its working comes to %v", seed, c.CompoundID, injected.ID, deref(want), deref(w.Value))
				}
			}
			for _, g := range m.Groups() {
				if _, ok := Work(in, read, injected.ID, GroupPrefix+g); !ok {
					t.Fatalf("seed %d: no working of the group %s", seed, g)
				}
			}
		}
	}
}

// The order in which files came in has no effect on any peak, name or unbracketed amount.
func TestReversingTheFilesChangesNothing(t *testing.T) {
	list, m := run(t), method()
	want := processed(t, list, m, nil)
	backwards := slices.Clone(list)
	slices.Reverse(backwards)
	got := processed(t, backwards, m, nil)
	for i, in := range want.Injections {
		other := got.Injections[len(list)-1-i]
		a, _ := json.Marshal(in.Peaks)
		b, _ := json.Marshal(other.Peaks)
		if in.ID != other.ID || string(a) != string(b) {
			t.Errorf("%s: other peaks", in.ID)
		}
		for id, r := range in.Readings {
			if s := other.Readings[id]; r.Concentration != nil && (s.Concentration == nil || !alike(*r.Concentration, *s.Concentration)) {
				t.Errorf("%s in %s: %v, backwards %v", id, in.ID, *r.Concentration, s.Concentration)
			}
		}
	}
}

func alike(a, b float64) bool { return a == b || (a-b)/(a+b) < 1e-12 && (b-a)/(a+b) < 1e-12 }

// reported is the number of a compound in an injection that a person sees last: the mean of a sample's replicates, its amount, a check's recovery, or what was
// read.
func reported(r Result, i int, e Entry, compoundID string) *float64 {
	own := r.Injections[i].Readings[compoundID]
	for _, row := range r.Samples {
		if v := row.Values[compoundID]; slices.Contains(row.InjectionIDs, e.ID) && v.N > 1 {
			return v.Mean
		}
	}
	for _, v := range []*float64{own.Recovery, own.Amount} {
		if v != nil {
			return v
		}
	}
	return own.Concentration
}
