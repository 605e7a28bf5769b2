package resolving

import "math"

// A component runs through where it elutes over most of the stretch and is there at both ends: bleed, solvent, what never stops.
const (
	longShare, longEdge = 0.5, 0.05
	veryLong            = 0.65
	highEdge            = 0.3
	aboveEnvelope       = 0.3 // the share of a compound's area above a single peak, from which on it is none
)

// runsThrough tells which components are background, by their profiles over the samples, each weighing as much as it has of it.
func (p *prepared) runsThrough(amounts table) []bool {
	out := make([]bool, amounts.p)
	for a := range out {
		length, ends, weight := 0.0, 0.0, 0.0
		for k := range p.stack.Samples {
			y := p.profile(amounts, a, k)
			sum, squares, highest := 0.0, 0.0, 0.0
			for _, v := range y {
				sum, squares, highest = sum+v, squares+v*v, math.Max(highest, v)
			}
			if !(squares > 0) {
				continue
			}
			twelfth := max(1, len(y)/12)
			first, last := 0.0, 0.0
			for i := range twelfth {
				first, last = first+y[i]/float64(twelfth), last+y[len(y)-1-i]/float64(twelfth)
			}
			length += sum * sum * sum / (float64(len(y)) * squares)
			ends += sum * math.Min(first, last) / highest
			weight += sum
		}
		if weight > 0 {
			length, ends = length/weight, ends/weight
			out[a] = length > longShare && ends > longEdge || length > veryLong || ends > highEdge
		}
	}
	return out
}

// profile is how a component elutes in a sample, in bins.
func (p *prepared) profile(amounts table, component, sample int) []float64 {
	out := make([]float64, 0, p.from[sample+1]-p.from[sample])
	for i := p.from[sample]; i < p.from[sample+1]; i++ {
		out = append(out, amounts.row(i)[component])
	}
	return out
}

// smoothBackground lets background run as a cubic in each sample that is nowhere below 0: a sum of Bernstein's polynomials with weights not below 0.
// rows are what the amounts were divided by.
// from are the first rows of the samples, and one beyond the last.
func smoothBackground(amounts table, rows []float64, background []bool, from []int) {
	for a, is := range background {
		for k := 0; is && k+1 < len(from); k++ {
			smoothCubic(amounts, rows, a, from[k], from[k+1])
		}
	}
}

func smoothCubic(amounts table, rows []float64, a, from, to int) {
	s := newSolver(4)
	basis := func(i int) [4]float64 {
		t := 0.5
		if to-from > 1 {
			t = float64(i-from) / float64(to-from-1)
		}
		u := 1 - t
		return [4]float64{u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t}
	}
	for i := from; i < to; i++ {
		b := basis(i)
		s.add(b[:], 1/(rows[i]*rows[i]), amounts.row(i)[a]*rows[i])
	}
	var weights [4]float64
	s.solve(weights[:], true)
	for i := from; i < to; i++ {
		b := basis(i)
		amounts.row(i)[a] = dot(b[:], weights[:]) / rows[i]
	}
}

// severalPeaks are the compounds of whose area too much lies above a single peak: leftovers, not compounds.
func (p *prepared) severalPeaks(f factors) (list []int) {
	for a := range f.k() {
		if f.background[a] {
			continue
		}
		above, total := 0.0, 0.0
		for k := range p.stack.Samples {
			y := p.profile(f.amounts, a, k)
			best := 0
			for i, v := range y {
				total += v
				if v > y[best] {
					best = i
				}
			}
			for _, way := range []int{-1, 1} {
				envelope := y[best]
				for i := best + way; i >= 0 && i < len(y); i += way {
					envelope = math.Min(envelope, y[i])
					above += y[i] - envelope
				}
			}
		}
		if total > 0 && above > aboveEnvelope*total {
			list = append(list, a)
		}
	}
	return list
}
