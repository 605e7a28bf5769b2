package peaks

import (
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
)

var (
	areaRuns      = flag.Int("area-runs", 25, "chromatograms of each kind for the coverage of area intervals")
	writeCoverage = flag.Bool("write-area-coverage", false, "write the table of area intervals into docs/accuracy.md")
)

// kindsOfNoise are the kinds for which an area's interval is to hold the truth.
var kindsOfNoise = []struct {
	name, about string
	tail        float64
	noise       func(*rand.Rand, []float64, float64) []float64
	ground      func(float64) float64
}{
	{"white", "white noise", 0.3, whiteNoise(1), nil},
	{"tail 0.8", "white noise, tails of 0.8 τ/σ", 0.8, whiteNoise(1), nil},
	{"tail 1.5", "white noise, tails of 1.5 τ/σ", 1.5, whiteNoise(1), nil},
	{"fronting", "white noise, fronts of 1.2 τ/σ", -1.2, whiteNoise(1), nil},
	{"1/f", "1/f noise", 0.3, flicker(1), nil},
	{"1/f, tail 0.8", "1/f noise, tails of 0.8 τ/σ", 0.8, flicker(1), nil},
	{"time constant", "detector with a time constant of 0.4 s", 0.3, slowDetector(1, 0.4), nil},
	{"counted", "counted ions: variance grows with the signal", 0.3, counted(1, 0.2), nil},
	{"drift", "white noise on drift and a slow wave", 0.3, whiteNoise(1), func(t float64) float64 { return 0.05*t + 3*math.Sin(t/300) }},
}

// heldIntervals is how many of the peaks' 95 % intervals hold the true area, and the mean width of those intervals over the spread of the errors.
func heldIntervals(t *testing.T, kind int, runs int) (held, peaks int, widthRatio float64) {
	t.Helper()
	k := kindsOfNoise[kind]
	rng := rand.New(rand.NewPCG(20, uint64(kind)))
	var ratios []float64
	for range runs {
		w := world{hz: []float64{5, 10, 20}[rng.IntN(3)], noise: k.noise, ground: k.ground}
		width := 4 + 5*rng.Float64()
		at := 60.0
		for range 4 + rng.IntN(8) {
			at += width * (5 + 5*rng.Float64())
			height := 2.6 * math.Exp(math.Log(8)+rng.Float64()*math.Log(1000.0/8)) // S/N 8 to 1000, the peak-to-peak noise being about 5.2 SD
			w.shapes = append(w.shapes, shaped(at, height, width, k.tail))
		}
		w.endS = at + 100
		found := find(t, w.trace(t, rng), Settings{}).Peaks
		for _, s := range w.shapes {
			for _, p := range found {
				if math.Abs(p.ApexMin*60-s.mode()) < width/2 {
					peaks++
					off := math.Abs(p.AreaS-s.area) / p.AreaSE
					ratios = append(ratios, off)
					if off <= 1.96 {
						held++
					}
				}
			}
		}
	}
	sum := 0.0
	for _, r := range ratios {
		sum += min(r*r, 16)
	}
	return held, peaks, 1 / math.Sqrt(sum/float64(len(ratios)))
}

func TestIntervalsOfAreasHoldTheTruth(t *testing.T) {
	var b strings.Builder
	b.WriteString("\n## Intervals of areas\n\nHow often the 95 % interval of an area holds the true area, for separated peaks of S/N 8 to 1000, and how wide the uncertainty is against the\ntrue spread. `make coverage` writes this table.\n\n| kind | peaks | held, % | uncertainty ÷ spread |\n|---|---:|---:|---:|\n")
	for i, k := range kindsOfNoise {
		held, peaks, ratio := heldIntervals(t, i, *areaRuns)
		share := 100 * float64(held) / float64(peaks)
		t.Logf("%-14s %4d peaks, held %.1f %%, uncertainty over spread %.2f", k.name, peaks, share, ratio)
		fmt.Fprintf(&b, "| %s | %d | %.1f | %.2f |\n", k.about, peaks, share, ratio)
		// 90 to 99 % is wanted; what so few peaks can tell is wider by two standard deviations.
		slack := 200 * math.Sqrt(0.05*0.95/float64(peaks))
		if share < 90-slack/2 || share > 99+slack || ratio > 1.6 {
			t.Errorf("%s: %.1f %% of %d intervals hold the truth, %.2f times as wide as the spread", k.name, share, peaks, ratio)
		}
	}
	if *writeCoverage {
		kept, err := os.ReadFile(accuracyFile)
		if err != nil {
			t.Fatal(err)
		}
		before, rest, _ := strings.Cut(string(kept), "\n## Intervals of areas\n")
		_, after, _ := strings.Cut(rest, "\n## Intervals of amounts\n")
		if after == "" {
			_, after, _ = strings.Cut(string(kept), "\n## Intervals of amounts\n")
			before, _, _ = strings.Cut(before, "\n## Intervals of amounts\n")
		}
		if err := os.WriteFile(accuracyFile, []byte(before+b.String()+"\n## Intervals of amounts\n"+after), 0o644); err != nil {
			t.Fatal(err)
		}
	}
}

// The variance of white noise through the kernel is the plain sum of squares.
func TestKernelOfWhiteNoise(t *testing.T) {
	weights := []float64{-0.5, -0.5, 1, 1, -0.5, -0.5} // vanishes on straight lines
	jumps, last, want := []jump{}, 0.0, 0.0
	for i, w := range weights {
		jumps = append(jumps, jump{float64(i), w - last})
		last, want = w, want+w*w
	}
	jumps = append(jumps, jump{float64(len(weights)), -last})
	if got := (noiseKinds{white: 4}).variance(jumps); math.Abs(got-4*want) > 1e-12 {
		t.Errorf("%g, want %g", got, 4*want)
	}
}

func TestStudentsExpansion(t *testing.T) {
	for degrees, want := range map[float64]float64{6: 2.44691, 10: 2.22814, 30: 2.04227, 1000: 1.96234} { // tables
		if got := student(degrees); math.Abs(got/want-1) > 6e-3 {
			t.Errorf("%g degrees: %g, want %g", degrees, got, want)
		}
	}
}

func TestTermsAddUpToTheUncertainty(t *testing.T) {
	w := world{hz: 10, endS: 300, shapes: []emg{shaped(100, 50, 6, 0.8), shaped(108, 30, 6, 0.8), shaped(200, 80, 6, 0.3)}, noise: whiteNoise(0.5)}
	for _, p := range find(t, w.trace(t, rand.New(rand.NewPCG(3, 4))), Settings{}).Peaks {
		a := p.AreaTerms
		if sum := math.Sqrt(a.NoiseS*a.NoiseS + a.BaselineS*a.BaselineS + a.TailS*a.TailS); a.NoiseS <= 0 || math.Abs(sum/p.AreaSE-1) > 1e-12 {
			t.Errorf("%+v make %g, not %g", *a, sum, p.AreaSE)
		}
	}
}
