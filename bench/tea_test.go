package bench

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/formats/read"
)

// processed reads the simulated files back by the reader that users' files take and processes them.
func processed(t *testing.T, s Study) ([]batch.Injection, batch.Result) {
	t.Helper()
	injections := make([]batch.Injection, len(s.Files))
	for i, f := range s.Files {
		file, err := read.File(f.Data)
		if err != nil {
			t.Fatal(f.Name, err)
		}
		entry := s.RunList[i]
		entry.ID = fmt.Sprintf("i%d", i)
		injections[i] = batch.Injection{Entry: entry, Trace: file.Traces[0], TraceHash: f.Name}
	}
	r, err := batch.Process(context.Background(), batch.Input{Injections: injections, Method: s.Method}, &batch.Cache{})
	if err != nil {
		t.Fatal(err)
	}
	return injections, r
}

func TestAmountsMeetTheSimulatedTruth(t *testing.T) {
	for seed := range uint64(5) {
		s, err := TeaAssay(seed + 1)
		if err != nil {
			t.Fatal(err)
		}
		injections, r := processed(t, s)
		for i, in := range injections {
			if in.Role != batch.Check && in.Role != batch.Sample {
				continue
			}
			limit := 3.0 // percent, for checks
			if in.Role == batch.Sample {
				limit = 7
			}
			for _, a := range analytes {
				want := s.Truth[i].Contents[a.id]
				got := r.Injections[i].Readings[a.id].Concentration
				if got == nil {
					t.Errorf("seed %d: %s has no %s", seed+1, s.Files[i].Name, a.name)
				} else if d := 100 * math.Abs(*got/want-1); d > limit && math.Abs(*got-want) > 0.25 {
					t.Errorf("seed %d: %s in %s: %.4g, true %.4g mg/L, off by %.1f %%", seed+1, a.name, s.Files[i].Name, *got, want, d)
				}
			}
		}
	}
}

// What was simulated on purpose raises its notice, and nothing else does.
func TestNoticesAreThoseOfTheSimulation(t *testing.T) {
	want := []string{
		"above_range/i15/egcg", "blank/i13/caf", "check/i45/egcg", "internal_standard/i41/is", "no_sample_amount/i24/", "resolution/*/ec",
	}
	for seed := range uint64(5) {
		s, err := TeaAssay(seed + 1)
		if err != nil {
			t.Fatal(err)
		}
		_, r := processed(t, s)
		var got []string
		for _, n := range r.Notices {
			key := n.Key
			if strings.HasPrefix(key, "resolution/") { // on whichever sample it is worst
				key = "resolution/*/ec"
			}
			got = append(got, key)
		}
		slices.Sort(got)
		if !slices.Equal(got, want) {
			t.Errorf("seed %d: notices\n got %v\nwant %v", seed+1, got, want)
			for _, n := range r.Notices {
				t.Log(n.Subject, n.Text)
			}
		}
	}
}

func TestTheSameSeedGivesTheSameBytes(t *testing.T) {
	a, err1 := TeaAssay(7)
	b, err2 := TeaAssay(7)
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	if len(a.Files) < 34 {
		t.Fatalf("%d injections", len(a.Files))
	}
	for i := range a.Files {
		if !bytes.Equal(a.Files[i].Data, b.Files[i].Data) {
			t.Fatalf("%s differs", a.Files[i].Name)
		}
	}
}

func TestShapeHasUnitAreaAndItsApexWhereItSaysSo(t *testing.T) {
	for _, a := range append(analytes, internal) {
		sum, top, best := 0.0, 0.0, 0.0
		const step = 0.0005
		for x := 0.0; x < 20; x += step {
			v := a.shape.at(x)
			sum += v * step
			if v > best {
				top, best = x, v
			}
		}
		if math.Abs(sum-1) > 1e-6 || math.Abs(top-a.shape.RetentionMin) > 0.02 {
			t.Errorf("%s: area %g, apex %g for %g", a.name, sum, top, a.shape.RetentionMin)
		}
	}
}
