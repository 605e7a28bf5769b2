package resolving

import (
	"math"
	"math/rand/v2"
	"testing"
)

// Cuts stand where nothing elutes in any sample, though peaks shift from one to the next; what overlaps stays together.
func TestStretchesAreCutWhereNothingElutes(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	groups := [][]float64{{60}, {120, 126}, {200, 205, 211}, {300}, {330}, {420, 428}}
	var traces []Trace
	for range 12 {
		shift := 2 * r.NormFloat64()
		tr := Trace{}
		for i := range 2000 {
			at := float64(i) * 0.25
			v := 400 + 0.02*at + 6*r.NormFloat64()
			for _, g := range groups {
				for _, apex := range g {
					d := (at - apex - shift) / 1.7
					v += 3000 * math.Exp(-d*d/2)
				}
			}
			tr.TimesS, tr.Values = append(tr.TimesS, at), append(tr.Values, v)
		}
		traces = append(traces, tr)
	}
	got := Stretches(traces)
	if len(got) != len(groups) {
		t.Fatalf("%d stretches: %v", len(got), got)
	}
	for k, g := range groups {
		if got[k].FromMin*60 > g[0]-6 || got[k].ToMin*60 < g[len(g)-1]+6 || k > 0 && got[k].FromMin < got[k-1].ToMin-1e-9 {
			t.Errorf("stretch %d from %.2f to %.2f min holds not all of %v s", k+1, got[k].FromMin, got[k].ToMin, g)
		}
	}
	if none := Stretches(nil); len(none) != 0 {
		t.Errorf("of nothing: %v", none)
	}
	quiet := Trace{}
	for i := range 500 {
		quiet.TimesS, quiet.Values = append(quiet.TimesS, float64(i)), append(quiet.Values, 100+3*r.NormFloat64())
	}
	if few := Stretches([]Trace{quiet, quiet}); len(few) > 0 {
		t.Errorf("of noise: %v", few)
	}
}
