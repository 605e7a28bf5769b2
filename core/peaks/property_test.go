package peaks

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"yugen/core/signal"
)

// randomTrace has a handful of peaks of random place, height, width and tail on a random drift, with noise.
func randomTrace(t *testing.T, seed uint64) []float64 {
	t.Helper()
	rng := rand.New(rand.NewPCG(seed, 77))
	y := make([]float64, 4000)
	slope, bend := 0.002*rng.NormFloat64(), 1e-7*rng.NormFloat64()
	for i := range y {
		x := float64(i)
		y[i] = slope*x + bend*x*x + 0.05*rng.NormFloat64()
	}
	for range 3 + rng.IntN(6) {
		centre, height, sigma, tail := 200+3600*rng.Float64(), math.Pow(10, 0.5+2*rng.Float64()), 12+8*rng.Float64(), 20*rng.Float64()
		for i := range y {
			d := float64(i) - centre
			s := sigma
			if d > 0 {
				s += tail * math.Min(1, d/100)
			}
			y[i] += height * math.Exp(-d*d/(2*s*s))
		}
	}
	return y
}

const randomTraces = 40

var fixedWidth = Settings{WidthMin: 0.06}

func each(t *testing.T, check func(seed uint64, y []float64, found []Peak)) {
	t.Helper()
	for seed := range uint64(randomTraces) {
		y := randomTrace(t, seed)
		found := find(t, uniform(t, y), fixedWidth).Peaks
		if len(found) == 0 {
			t.Fatalf("seed %d: no peaks", seed)
		}
		check(seed, y, found)
	}
}

func changed(y []float64, f func(i int, v float64) float64) []float64 {
	out := slices.Clone(y)
	for i, v := range y {
		out[i] = f(i, v)
	}
	return out
}

func TestIntegratingTwiceGivesTheSameBytes(t *testing.T) {
	each(t, func(seed uint64, y []float64, found []Peak) {
		a, err1 := json.Marshal(found)
		b, err2 := json.Marshal(find(t, uniform(t, y), fixedWidth).Peaks)
		if err1 != nil || err2 != nil || string(a) != string(b) {
			t.Errorf("seed %d", seed)
		}
	})
}

func TestAConstantChangesNoArea(t *testing.T) {
	each(t, func(seed uint64, y []float64, found []Peak) {
		got := find(t, uniform(t, changed(y, func(_ int, v float64) float64 { return v + 4096 })), fixedWidth).Peaks
		if len(got) != len(found) {
			t.Errorf("seed %d: %d peaks, before %d", seed, len(got), len(found))
			return
		}
		for i, p := range found {
			if math.Abs(got[i].AreaS/p.AreaS-1) > 1e-7 {
				t.Errorf("seed %d, peak %d: %g, before %g", seed, i+1, got[i].AreaS, p.AreaS)
			}
		}
	})
}

func TestScalingScalesAreasExactly(t *testing.T) {
	each(t, func(seed uint64, y []float64, found []Peak) {
		got := find(t, uniform(t, changed(y, func(_ int, v float64) float64 { return v * 512 })), fixedWidth).Peaks
		for i, p := range found {
			if got[i].AreaS != 512*p.AreaS || got[i].ApexMin != p.ApexMin {
				t.Errorf("seed %d, peak %d: %g at %g", seed, i+1, got[i].AreaS/512/p.AreaS-1, got[i].ApexMin-p.ApexMin)
			}
		}
	})
}

func TestShiftingTimeShiftsTimesOnly(t *testing.T) {
	each(t, func(seed uint64, y []float64, found []Peak) {
		later, err := signal.NewUniform(3600, 0.1, y)
		if err != nil {
			t.Fatal(err)
		}
		for i, p := range find(t, later, fixedWidth).Peaks {
			if math.Abs(p.ApexMin-60-found[i].ApexMin) > 1e-9 || math.Abs(p.AreaS/found[i].AreaS-1) > 1e-9 {
				t.Errorf("seed %d, peak %d: %g, area %g", seed, i+1, p.ApexMin-60-found[i].ApexMin, p.AreaS/found[i].AreaS-1)
			}
		}
	})
}

// A mirrored trace has the same peaks below the line as the trace has above it.
func TestNegativePeaksMirrorPositiveOnes(t *testing.T) {
	each(t, func(seed uint64, y []float64, found []Peak) {
		s := fixedWidth
		s.TimeRules = []TimeRule{{Kind: Negative, FromMin: 0, ToMin: 100}}
		below := map[float64]Peak{}
		for _, p := range find(t, uniform(t, changed(y, func(_ int, v float64) float64 { return -v })), s).Peaks {
			below[p.ApexMin] = p
		}
		for i, p := range found {
			q, ok := below[p.ApexMin]
			if !ok || q.AreaS != -p.AreaS || q.Height != -p.Height || !slices.Contains(q.Flags, Downward) {
				t.Errorf("seed %d, peak %d at %g: %+v", seed, i+1, p.ApexMin, q)
			}
		}
	})
}

// A skim moves area between a small peak and its parent, and changes no others.
func TestASkimKeepsTheSum(t *testing.T) {
	skimmed := 0
	each(t, func(seed uint64, y []float64, found []Peak) {
		s := fixedWidth
		s.SkimPercent = 60
		got := find(t, uniform(t, y), s).Peaks
		if len(got) < len(found) { // of a bump on a flank nothing may be left above the tangent
			return
		}
		before, after := 0.0, 0.0
		for i := range got {
			before, after = before+found[i].AreaS, after+got[i].AreaS
			if got[i].StartKind == Skim {
				skimmed++
				// On a front it keeps its own tail on the large one's side of the valley.
				if onTail := i > 0 && got[i-1].EndMin >= got[i].EndMin; onTail && got[i].AreaS >= found[i].AreaS {
					t.Errorf("seed %d, peak %d: the tangent gave it area", seed, i+1)
				}
			}
		}
		if math.Abs(after/before-1) > 1e-9 {
			t.Errorf("seed %d: %g in all, before %g", seed, after, before)
		}
	})
	if skimmed < 3 {
		t.Errorf("only %d peaks were skimmed", skimmed)
	}
}

// Every peak keeps the order of its own places, its neighbours' and the trace's.
func TestPlacesAreInOrder(t *testing.T) {
	each(t, func(seed uint64, _ []float64, found []Peak) {
		last, share := -1.0, 0.0
		for i, p := range found {
			if !(p.StartMin < p.ApexMin && p.ApexMin < p.EndMin) || p.StartMin < last-1e-9 || p.Number != i+1 {
				t.Errorf("seed %d, peak %d: %g %g %g after %g", seed, i+1, p.StartMin, p.ApexMin, p.EndMin, last)
			}
			last, share = p.EndMin, share+p.AreaPercent
		}
		if math.Abs(share-100) > 1e-9 {
			t.Errorf("seed %d: the shares sum to %g", seed, share)
		}
	})
}

// Shared boundaries neither lose nor count anything twice: the parts of a cluster sum to the whole under its baseline.
func TestPartsOfAClusterSumToTheWhole(t *testing.T) {
	each(t, func(seed uint64, y []float64, found []Peak) {
		tr := uniform(t, y)
		for from := 0; from < len(found); {
			to, sum := from, found[from].AreaS
			for to+1 < len(found) && found[to].EndKind == Drop && found[to+1].StartMin == found[to].EndMin {
				to++
				sum += found[to].AreaS
			}
			first, last := found[from], found[to]
			whole := area(tr, line{first.StartMin * 60, first.BaselineStart, last.EndMin * 60, last.BaselineEnd}, first.StartMin*60, last.EndMin*60)
			if from < to && math.Abs(sum/whole-1) > 1e-9 {
				t.Errorf("seed %d, peaks %d to %d: %g, whole %g", seed, from+1, to+1, sum, whole)
			}
			from = to + 1
		}
	})
}
