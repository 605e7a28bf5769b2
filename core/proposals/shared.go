package proposals

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"yugen/core/batch"
)

// SharedPeak is a peak that stands at one place in every injection, blanks aside.
type SharedPeak struct {
	ApexMin   float64 `json:"apex_min"`   // the mean over the injections
	SpreadMin float64 `json:"spread_min"` // the largest distance from it
	StartMin  float64 `json:"start_min"`  // the earliest foot
	EndMin    float64 `json:"end_min"`    // the latest
	// Fit is the correlation of the areas with the levels of the standards, NaN without at least three levels.
	Fit float64 `json:"-"`
	// Apexes are where it stands in each injection, in their order; NaN where it is not, as in a blank.
	Apexes []float64 `json:"-"`
}

// Shared finds the peaks that all injections share: best first, by how well their areas follow the levels, then by area. wanted tells which injections
// must have the peak; levels are those of the standards, nil for others.
func Shared(peaks [][]batch.NamedPeak, wanted []bool, levels []*float64) []SharedPeak {
	first := slices.Index(wanted, true)
	if first < 0 {
		return nil
	}
	type ranked struct {
		SharedPeak
		area float64
	}
	var found []ranked
	for _, p := range peaks[first] {
		s, area, ok := follow(p, peaks, wanted, levels)
		if ok && !slices.ContainsFunc(found, func(f ranked) bool { return math.Abs(f.ApexMin-s.ApexMin) < 1e-9 }) {
			found = append(found, ranked{s, area})
		}
	}
	fit := func(s ranked) float64 {
		if math.IsNaN(s.Fit) {
			return -1
		}
		return math.Round(s.Fit * 50) // like ones are told apart by their area
	}
	slices.SortStableFunc(found, func(a, b ranked) int {
		if d := fit(b) - fit(a); d != 0 {
			return int(math.Copysign(1, d))
		}
		return int(math.Copysign(1, b.area-a.area))
	})
	out := make([]SharedPeak, len(found))
	for i, f := range found {
		out[i] = f.SharedPeak
	}
	return out
}

// follow looks for a peak of one injection in all others: the nearest apex within half its width at the foot, and no more than 3 % of its time away.
func follow(p batch.NamedPeak, peaks [][]batch.NamedPeak, wanted []bool, levels []*float64) (s SharedPeak, area float64, ok bool) {
	within := min((p.EndMin-p.StartMin)/2, 0.03*p.ApexMin+0.02)
	s.StartMin, s.EndMin = math.Inf(1), math.Inf(-1)
	var xs, ys []float64
	n := 0.0
	for i, list := range peaks {
		s.Apexes = append(s.Apexes, math.NaN())
		best := -1
		for k, q := range list {
			if math.Abs(q.ApexMin-p.ApexMin) <= within && q.AreaS > 0 && (best < 0 || math.Abs(q.ApexMin-p.ApexMin) < math.Abs(list[best].ApexMin-p.ApexMin)) {
				best = k
			}
		}
		if best < 0 {
			if wanted[i] {
				return s, 0, false
			}
			continue
		}
		if !wanted[i] {
			continue
		}
		q := list[best]
		s.Apexes[i] = q.ApexMin
		s.StartMin, s.EndMin = min(s.StartMin, q.StartMin), max(s.EndMin, q.EndMin)
		s.ApexMin += q.ApexMin
		area += q.AreaS
		n++
		if levels[i] != nil {
			xs, ys = append(xs, *levels[i]), append(ys, q.AreaS)
		}
	}
	s.ApexMin /= n
	for _, a := range s.Apexes {
		if d := math.Abs(a - s.ApexMin); d > s.SpreadMin {
			s.SpreadMin = d
		}
	}
	s.Fit = math.NaN()
	if len(xs) >= 3 {
		s.Fit = stat.Correlation(xs, ys, nil)
	}
	return s, area, true
}
