package main

import (
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"yugen/core/spectra"
)

// measureLibrary measures the search of a library of 300 000 spectra, and counts how many true hits its prefilter loses.
func measureLibrary(row func(string, time.Duration, time.Duration)) error {
	r := rand.New(rand.NewPCG(3, 9))
	entries := make([]spectra.Entry, 300_000)
	for k := range entries {
		entries[k].Lines = plausible(r, k)
	}
	l := spectra.NewLibrary(entries, spectra.Usual)
	queries, of := make([]spectra.Lines, 5000), make([]int, 5000)
	for k := range queries {
		of[k] = r.IntN(len(entries))
		queries[k] = measured(r, entries[of[k]].Lines)
	}
	at := 0
	d, err := best(20, func() error { l.Search(queries[at], spectra.UsualWithin, 10); at++; return nil })
	if err != nil {
		return err
	}
	row("search a library of 300 000 spectra", 50*time.Millisecond, d)
	lost := 0
	for k, q := range queries { // lost is one that is more like the query than the first hit
		if spectra.Match(q, entries[of[k]].Lines, spectra.UsualWithin, spectra.Usual).Forward > l.Search(q, spectra.UsualWithin, 1)[0].Forward {
			lost++
		}
	}
	fmt.Printf("%-58s %d of %d\n", "  true hits that the index of the largest lines loses", lost, len(queries))
	return nil
}

// plausible is a spectrum of a made-up compound: of its family, with fragments of its own.
func plausible(r *rand.Rand, k int) spectra.Lines {
	heights := map[float64]float64{}
	family := rand.New(rand.NewPCG(uint64(k/25), 4))
	for range 6 {
		heights[float64(29+family.IntN(120))] = 999 * math.Pow(r.Float64(), 0.7)
	}
	for range 10 + r.IntN(60) {
		heights[float64(29+r.IntN(400))] = 999 * math.Pow(r.Float64(), 3)
	}
	var pairs [][2]float64
	for m, h := range heights {
		pairs = append(pairs, [2]float64{m, math.Round(h) + 1})
	}
	lines, _ := spectra.LinesOf(pairs) // which are positive and finite
	return lines
}

// measured is a spectrum as an instrument gives it: heights scatter, small lines drown, bleed and noise stand beside.
func measured(r *rand.Rand, of spectra.Lines) spectra.Lines {
	var pairs [][2]float64
	for _, one := range of {
		if h := one.Height * math.Exp(0.15*r.NormFloat64()); h > 12 {
			pairs = append(pairs, [2]float64{one.At, h * 140})
		}
	}
	for _, m := range []float64{44, 73, 147, 207, 281} {
		pairs = append(pairs, [2]float64{m, 21_000 * r.Float64()})
	}
	for range 12 {
		pairs = append(pairs, [2]float64{float64(29 + r.IntN(400)), 1400 * r.Float64()})
	}
	lines, _ := spectra.LinesOf(pairs)
	return lines
}
