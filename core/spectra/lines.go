package spectra

import (
	"fmt"
	"math"
	"slices"
	"sort"
)

// Line is one place of a spectrum, m/z or nm, with its height.
type Line struct{ At, Height float64 }

// Lines is a spectrum on its own, in the order of its axis. Of masses they are positive.
type Lines []Line

// LinesOf takes lines as they come from elsewhere: put in order, those at one place added up, those of no height left out. A place or height that is no
// positive finite number is told with its number, from 1.
func LinesOf(pairs [][2]float64) (Lines, error) {
	list := make(Lines, 0, len(pairs))
	for k, p := range pairs {
		switch {
		case math.IsNaN(p[0]) || math.IsInf(p[0], 0) || p[0] <= 0:
			return nil, fmt.Errorf("line %d stands at %g, which is no m/z", k+1, p[0])
		case math.IsNaN(p[1]) || math.IsInf(p[1], 0) || p[1] < 0:
			return nil, fmt.Errorf("line %d has the height %g; it must be a finite number, not below 0", k+1, p[1])
		}
		list = append(list, Line{p[0], p[1]})
	}
	sort.SliceStable(list, func(a, b int) bool { return list[a].At < list[b].At })
	out := list[:0]
	for _, l := range list {
		switch {
		case l.Height == 0:
		case len(out) > 0 && out[len(out)-1].At == l.At:
			out[len(out)-1].Height += l.Height
		default:
			out = append(out, l)
		}
	}
	return out, nil
}

// SpectrumOf takes a spectrum of a kind as it comes from elsewhere. Of wavelengths it keeps what is 0 or, less a baseline, below it: that a compound does not absorb
// there is part of what it looks like.
func SpectrumOf(kind Kind, pairs [][2]float64) (Lines, error) {
	if kind != Wavelength {
		return LinesOf(pairs)
	}
	list := make(Lines, 0, len(pairs))
	for k, p := range pairs {
		switch {
		case math.IsNaN(p[0]) || math.IsInf(p[0], 0) || p[0] <= 0:
			return nil, fmt.Errorf("point %d stands at %g, which is no wavelength", k+1, p[0])
		case math.IsNaN(p[1]) || math.IsInf(p[1], 0):
			return nil, fmt.Errorf("point %d has the height %g; it must be a finite number", k+1, p[1])
		}
		list = append(list, Line{p[0], p[1]})
	}
	sort.SliceStable(list, func(a, b int) bool { return list[a].At < list[b].At })
	for k := 1; k < len(list); k++ {
		if list[k].At == list[k-1].At {
			return nil, fmt.Errorf("the wavelength %g is given twice", list[k].At)
		}
	}
	return list, nil
}

// Pairs are lines as they are written.
func (l Lines) Pairs() [][2]float64 {
	pairs := make([][2]float64, len(l))
	for k, one := range l {
		pairs[k] = [2]float64{one.At, one.Height}
	}
	return pairs
}

// Largest is the greatest height; 0 of no lines.
func (l Lines) Largest() float64 {
	largest := 0.0
	for _, one := range l {
		largest = math.Max(largest, one.Height)
	}
	return largest
}

// Normalised are the lines with the largest at a height; without a positive one they stay.
func (l Lines) Normalised(to float64) Lines {
	largest := l.Largest()
	if !(largest > 0) {
		return l
	}
	out := make(Lines, len(l))
	for k, one := range l {
		out[k] = Line{one.At, one.Height / largest * to}
	}
	return out
}

// Lines are the points of a scan.
func (s Scan) Lines() Lines {
	out := make(Lines, len(s.Axis))
	for k := range s.Axis {
		out[k] = Line{s.Axis[k], s.Values[k]}
	}
	return out
}

// widest is the greatest difference at which lines of several scans count as one, where nothing parts them: unit resolution.
const widest = 0.3

// Apart is the distance in m/z within which lines of several scans are one and the same: half the least distance of two lines within a scan, at most 0.3.
// With it no two lines of one scan ever fall together.
func Apart(scans []Scan) float64 {
	least := 2 * widest
	for _, s := range scans {
		for k := 1; k < len(s.Axis); k++ {
			if d := s.Axis[k] - s.Axis[k-1]; d > 0 {
				least = math.Min(least, d)
			}
		}
	}
	return least / 2
}

// Mean is the mean spectrum of scans. Masses of several scans that lie within a distance of each other are one line, at their mean weighted by height; a scan
// without that line counts as 0. Wavelengths are taken where the first scan has them.
func Mean(kind Kind, scans []Scan, within float64) Lines {
	if len(scans) == 0 {
		return nil
	}
	if kind == Wavelength {
		return meanOfGrid(scans)
	}
	type point struct {
		Line
		scan int
	}
	var all []point
	for k, s := range scans {
		for i := range s.Axis {
			if s.Values[i] != 0 {
				all = append(all, point{Line{s.Axis[i], s.Values[i]}, k})
			}
		}
	}
	slices.SortStableFunc(all, func(a, b point) int {
		switch {
		case a.At < b.At:
			return -1
		case a.At > b.At:
			return 1
		}
		return a.scan - b.scan
	})
	var out Lines
	for from := 0; from < len(all); {
		// A line goes on as long as no gap is wider than allowed, it stays narrower than twice that, and no scan would give two points to it.
		to := from + 1
		seen := map[int]bool{all[from].scan: true}
		for to < len(all) && all[to].At-all[to-1].At <= within && all[to].At-all[from].At <= 2*within && !seen[all[to].scan] {
			seen[all[to].scan] = true
			to++
		}
		height, at := 0.0, 0.0
		for _, p := range all[from:to] {
			height, at = height+p.Height, at+p.At*p.Height
		}
		where := all[from].At
		if all[to-1].At != where { // else it is so exactly
			where = at / height
		}
		if height != 0 {
			out = append(out, Line{where, height / float64(len(scans))})
		}
		from = to
	}
	return out
}

func meanOfGrid(scans []Scan) Lines {
	out := make(Lines, len(scans[0].Axis))
	for i, at := range scans[0].Axis {
		total, n := 0.0, 0
		for _, s := range scans {
			if k, found := nearest(s.Axis, at); found {
				total, n = total+s.Values[k], n+1
			}
		}
		out[i] = Line{at, total / float64(max(1, n))}
	}
	return out
}

// Less takes a background off: line by line, those within a distance of each other. Of masses what is not above 0 then is no line; wavelengths keep their sign.
func (l Lines) Less(kind Kind, background Lines, within float64) Lines {
	out := make(Lines, 0, len(l))
	off := make([]float64, len(l))
	for _, p := range pairs(l, background, within) {
		off[p[0]] = background[p[1]].Height
	}
	for k, one := range l {
		one.Height -= off[k]
		if kind == Wavelength || one.Height > 0 {
			out = append(out, one)
		}
	}
	return out
}

// Background is that under a moment: the mean of a stretch, or of two stretches beside a peak, running straight from the middle of one to the middle of the other.
func Background(kind Kind, first, second []Scan, atS, within float64) Lines {
	switch {
	case len(second) == 0:
		return Mean(kind, first, within)
	case len(first) == 0:
		return Mean(kind, second, within)
	}
	t0, t1 := middleTime(first), middleTime(second)
	share := 0.5
	if t0 != t1 {
		share = math.Max(0, math.Min(1, (atS-t0)/(t1-t0)))
	}
	a, b := Mean(kind, first, within), Mean(kind, second, within)
	for k := range a {
		a[k].Height *= 1 - share
	}
	alone := make([]bool, len(b))
	for k := range alone {
		alone[k] = true
	}
	for _, p := range pairs(a, b, within) {
		a[p[0]].Height += share * b[p[1]].Height
		alone[p[1]] = false
	}
	for k, l := range b {
		if alone[k] {
			a = append(a, Line{l.At, share * l.Height})
		}
	}
	sort.SliceStable(a, func(i, j int) bool { return a[i].At < a[j].At })
	return a
}

func middleTime(scans []Scan) float64 {
	sum := 0.0
	for _, s := range scans {
		sum += s.TimeS
	}
	return sum / float64(len(scans))
}

// Centroids are the lines of a profile: one for each maximum, at the mean of the points above half its height, weighted by height, as high as the maximum. What
// is below a share of the largest is noise and no line.
func (l Lines) Centroids(leastShare float64) Lines {
	least := leastShare * l.Largest()
	var out Lines
	for k := range l {
		h := l[k].Height
		if h <= 0 || h < least || k > 0 && l[k-1].Height > h || k+1 < len(l) && l[k+1].Height >= h {
			continue
		}
		from, to := k, k
		for from > 0 && l[from-1].Height > h/2 && l[from-1].Height <= l[from].Height {
			from--
		}
		for to+1 < len(l) && l[to+1].Height > h/2 && l[to+1].Height <= l[to].Height {
			to++
		}
		sum, at := 0.0, 0.0
		for _, p := range l[from : to+1] {
			sum, at = sum+p.Height, at+p.At*p.Height
		}
		out = append(out, Line{at / sum, h})
	}
	return out
}

// Between are the scans from one time to another, s; both ends belong to it.
func Between(scans []Scan, fromS, toS float64) []Scan {
	var out []Scan
	for _, s := range scans {
		if s.TimeS >= fromS && s.TimeS <= toS {
			out = append(out, s)
		}
	}
	return out
}

// AboveHalf are the places of the scans around an apex whose signal stays above half of what it is there, over the lower of the signal's ends; they are the
// stretch over which the spectrum of a peak is taken.
func AboveHalf(signal []float64, apex int, baseline float64) (from, to int) {
	half := baseline + (signal[apex]-baseline)/2
	from, to = apex, apex
	for from > 0 && signal[from-1] > half {
		from--
	}
	for to+1 < len(signal) && signal[to+1] > half {
		to++
	}
	return from, to
}
