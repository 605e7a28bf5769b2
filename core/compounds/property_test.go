package compounds

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"yugen/core/peaks"
)

// Over random peaks and windows: one peak has at most one name, a name lies in its window, the order of the list has no effect, and
// a compound stays without a peak only when each of its candidates went to a nearer one.
func TestNamingHoldsItsRules(t *testing.T) {
	for seed := range uint64(300) {
		rng := rand.New(rand.NewPCG(seed, 5))
		found := make([]peaks.Peak, rng.IntN(12))
		for i := range found {
			found[i] = at(10*rng.Float64(), 100*rng.Float64())
		}
		slices.SortFunc(found, func(a, b peaks.Peak) int { return int(1e6 * (a.ApexMin - b.ApexMin)) })
		var list []Compound
		for i := range 1 + rng.IntN(8) {
			list = append(list, compound(fmt.Sprintf("c%d", i), 0.1+10*rng.Float64(), 0.05+1.5*rng.Float64(), Rules[rng.IntN(len(Rules))]))
		}
		named := Name(found, list, nil).Peak
		shuffled := slices.Clone(list)
		rng.Shuffle(len(shuffled), func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		if again := Name(found, shuffled, nil).Peak; !maps.Equal(named, again) {
			t.Fatalf("seed %d: %v, in another order %v", seed, named, again)
		}
		owner := map[int]Compound{}
		for _, c := range list {
			peak, ok := named[c.ID]
			if !ok {
				continue
			}
			if _, twice := owner[peak]; twice || distance(found[peak], c.Place()) > 1 {
				t.Fatalf("seed %d: %v", seed, named)
			}
			owner[peak] = c
		}
		for _, c := range list {
			if _, ok := named[c.ID]; ok {
				continue
			}
			for _, peak := range Candidates(found, c.Place(), c.Rule) {
				if other, taken := owner[peak]; !taken || distance(found[peak], other.Place()) > distance(found[peak], c.Place()) {
					t.Fatalf("seed %d: %s has no peak, though peak %d is free or further from its owner", seed, c.ID, peak)
				}
			}
		}
	}
}
