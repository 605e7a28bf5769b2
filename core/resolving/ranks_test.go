package resolving

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// A rank that is found without sorting is the one that sorting finds: of lists in order, in reverse, all the same, few different, or in none.
func TestRanksAreThoseOfSorting(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for n := 1; n <= 60; n++ {
		for kind := range 5 {
			list := make([]float64, n)
			for i := range list {
				list[i] = []float64{float64(i), float64(-i), 7, float64(r.IntN(4)), r.NormFloat64()}[kind]
			}
			sorted := slices.Sorted(slices.Values(list))
			for rank := range n {
				if got := ranked(slices.Clone(list), rank); got != sorted[rank] {
					t.Fatalf("%v: rank %d is %g, want %g", list, rank, got, sorted[rank])
				}
			}
			if got, want := median(list), (sorted[(n-1)/2]+sorted[n/2])/2; got != want {
				t.Fatalf("%v: the median is %g, want %g", list, got, want)
			}
		}
	}
	if median(nil) != 0 {
		t.Error("a median of nothing")
	}
}
