package bench

import (
	"bytes"
	"math"
	"strings"
	"testing"

	"yugen/core/checks"
	"yugen/core/curves"
)

// The shares of each oil come within a few tenths of a percent of what was simulated, whatever the split did.
func TestSharesOfTheOilsMeetTheTruth(t *testing.T) {
	for seed := range uint64(3) {
		s, err := CamelliaOil(seed + 1)
		if err != nil {
			t.Fatal(err)
		}
		if len(s.Files) != OilFiles {
			t.Fatalf("%d files, %d announced", len(s.Files), OilFiles)
		}
		_, r := processed(t, s)
		for _, row := range r.Samples {
			total := 0.0
			for _, e := range esters {
				v, want := row.Values[e.id], s.SampleContents[row.Name][e.id]
				if v.Mean == nil || math.Abs(*v.Mean-want) > math.Max(0.05, 0.01*want) {
					t.Errorf("seed %d: %s in %s: %v %%, true %g", seed+1, e.name, row.Name, v.Mean, want)
					continue
				}
				total += *v.Mean
			}
			if math.Abs(total-100) > 1e-6 || row.Groups["Unsaturated"].Mean == nil {
				t.Errorf("%s: %g %% in all", row.Name, total)
			}
		}
		if v := r.Curves[0].Verdict; !strings.HasPrefix(v.Good, "One point at 200 mg/L, the mean of 3") || v.Largest != nil {
			t.Errorf("%+v", v)
		}
		closing := 0
		for _, c := range r.Checks {
			closing++
			if c.Outside || math.Abs(c.Recovery-100) > 8 {
				t.Errorf("seed %d: the closing check reads %g %%", seed+1, c.Recovery)
			}
		}
		if closing != len(esters) {
			t.Errorf("%d checks", closing)
		}
		for _, n := range r.Notices {
			t.Errorf("seed %d: %s %s", seed+1, n.Subject, n.Text)
		}
	}
}

// Each day gives limits by every way, and the noisy fourth day the largest by noise.
func TestLimitsOfTheFiveDays(t *testing.T) {
	byWay := map[curves.LimitWay][]float64{}
	var days [][]curves.Limit
	for day := range fiveDays {
		s, err := FiveDays(7, day)
		if err != nil {
			t.Fatal(err)
		}
		if len(s.Files) != DayFiles {
			t.Fatalf("%d files, %d announced", len(s.Files), DayFiles)
		}
		_, r := processed(t, s)
		caffeine := r.Curves[1]
		if caffeine.Fit == nil || len(caffeine.Points) != len(lowLevels)*dayReplicates {
			t.Fatalf("day %d: %s, %d points", day+1, caffeine.Problem, len(caffeine.Points))
		}
		days = append(days, caffeine.Limits)
		for _, l := range caffeine.Limits {
			if l.LOQ == nil || *l.LOQ <= 0 || *l.LOQ > 3 {
				t.Errorf("day %d by %s: %v, %s", day+1, l.Way, l.LOQ, l.Problem)
				continue
			}
			byWay[l.Way] = append(byWay[l.Way], *l.LOQ)
		}
		for _, n := range r.Notices {
			if n.Kind != checks.LevelOff {
				t.Errorf("day %d: %s %s", day+1, n.Subject, n.Text)
			}
		}
	}
	noisy := byWay[curves.BySignalNoise]
	for day, loq := range noisy {
		if day != 3 && loq >= noisy[3] {
			t.Errorf("day %d needs %g, the noisy day %g", day+1, loq, noisy[3])
		}
	}
	if _, proposed := curves.OverDays(days); proposed == nil || *proposed.LOQ < noisy[3] {
		t.Errorf("%+v", proposed)
	}
}

func TestTheStudiesAreTheSameBytesEachTime(t *testing.T) {
	for _, d := range Demos() {
		a, err1 := d.Make(3)
		b, err2 := d.Make(3)
		if err1 != nil || err2 != nil || len(a.Files) != d.Files || a.Name != d.Study || a.Batch != d.Batch {
			t.Fatalf("%s, %s: %d files, %d announced, %v %v", d.Study, d.Batch, len(a.Files), d.Files, err1, err2)
		}
		for i := range a.Files {
			if !bytes.Equal(a.Files[i].Data, b.Files[i].Data) {
				t.Fatalf("%s: %s differs", d.Study, a.Files[i].Name)
			}
		}
	}
}
