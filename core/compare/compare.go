// Package compare treats traces for looking at them beside each other: a blank taken off, lined up, heights made alike. Areas and results stay as they are.
package compare

import (
	"math"
	"slices"

	"yugen/core/signal"
)

// Less takes another trace off, point by point at the same time; where the other has nothing, nothing is taken off.
func Less(t, other signal.Trace) signal.Trace {
	out := t
	out.Values = make([]float64, t.Len())
	for i, v := range t.Values {
		if at := t.TimeS(i); at >= other.StartS && at <= other.EndS() {
			v -= other.ValueAt(at)
		}
		out.Values[i] = v
	}
	return out
}

// Shifted moves a trace in time by so many seconds; its values are those of before.
func Shifted(t signal.Trace, byS float64) signal.Trace {
	if byS == 0 {
		return t
	}
	out := t
	out.StartS += byS
	if t.TimesS != nil {
		out.TimesS = make([]float64, t.Len())
		for i, at := range t.TimesS {
			out.TimesS[i] = at + byS
		}
	}
	return out
}

// Scaled stands a trace on a ground and multiplies what is above it.
func Scaled(t signal.Trace, ground, factor float64) signal.Trace {
	out := t
	out.Values = make([]float64, t.Len())
	for i, v := range t.Values {
		out.Values[i] = (v - ground) * factor
	}
	return out
}

// Ground is what a trace stands on where nothing elutes: a tenth of its points lie below, so that the dip of a solvent is no ground.
func Ground(t signal.Trace) float64 {
	sorted := slices.Clone(t.Values)
	slices.Sort(sorted)
	return sorted[len(sorted)/10]
}

// lagPoints is at how many times of the run traces are correlated.
const lagPoints = 4096

// Lag is by how much a trace must be moved (s) to lie best on a reference: where the correlation of the two, each less its mean, is greatest within so much to
// either side, between points by a parabola through the greatest and its neighbours. 0 where nothing correlates.
func Lag(t, reference signal.Trace, mostS float64) float64 {
	start, end := max(t.StartS, reference.StartS), min(t.EndS(), reference.EndS())
	if !(end > start) {
		return 0
	}
	step := (end - start) / (lagPoints - 1)
	a, b := resampled(t, start, step), resampled(reference, start, step)
	most := min(int(mostS/step), lagPoints/4)
	scores := make([]float64, 2*most+1)
	best := most
	for k := range scores {
		lag := k - most // of the reference behind the trace
		for i := max(0, -lag); i < lagPoints-max(0, lag); i++ {
			scores[k] += a[i] * b[i+lag]
		}
		if scores[k] > scores[best] {
			best = k
		}
	}
	if scores[best] <= 0 {
		return 0
	}
	offset := 0.0
	if best > 0 && best < len(scores)-1 {
		l, m, r := scores[best-1], scores[best], scores[best+1]
		if bend := l - 2*m + r; bend < 0 {
			offset = (l - r) / (2 * bend)
		}
	}
	return (float64(best-most) + offset) * step
}

// resampled are the values at even times, less their mean.
func resampled(t signal.Trace, startS, stepS float64) []float64 {
	out := make([]float64, lagPoints)
	mean := 0.0
	for i := range out {
		out[i] = t.ValueAt(startS + float64(i)*stepS)
		mean += out[i] / lagPoints
	}
	for i := range out {
		out[i] -= mean
	}
	return out
}

// Columns reduces a trace to the greatest value in each of so many even stretches of time; NaN where nothing was measured.
func Columns(t signal.Trace, fromS, toS float64, n int) []float64 {
	out := make([]float64, n)
	for k := range out {
		out[k] = math.NaN()
	}
	width := (toS - fromS) / float64(n)
	for i, v := range t.Values {
		k := int((t.TimeS(i) - fromS) / width)
		if t.TimeS(i) == toS {
			k = n - 1
		}
		if k >= 0 && k < n && t.TimeS(i) >= fromS && !(out[k] >= v) {
			out[k] = v
		}
	}
	if t.Len() > 1 && t.StepS > width { // fewer points than columns: those between are on the line
		for k := range out {
			at := fromS + (float64(k)+0.5)*width
			if math.IsNaN(out[k]) && at >= t.StartS && at <= t.EndS() {
				out[k] = t.ValueAt(at)
			}
		}
	}
	return out
}

// Unlike is how much one row of columns differs from another, in percent: 1 less the cosine of what stands above the ground, or the share of the signal that was
// lost or gained, whichever is larger.
func Unlike(row, kin []float64) float64 {
	var own, other, both, sum, sumKin float64
	for i := range min(len(row), len(kin)) {
		a, b := row[i], kin[i]
		if math.IsNaN(a) || math.IsNaN(b) {
			continue
		}
		a, b = max(0, a), max(0, b)
		own, other, both = own+a*a, other+b*b, both+a*b
		sum, sumKin = sum+a, sumKin+b
	}
	if own == 0 && other == 0 {
		return 0
	}
	if own == 0 || other == 0 {
		return 100
	}
	shape := 1 - both/math.Sqrt(own*other)
	size := 1 - min(sum, sumKin)/max(sum, sumKin)
	return 100 * max(shape, size)
}
