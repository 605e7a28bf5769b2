package peaks

import (
	"cmp"
	"math"
	"slices"

	"yugen/core/signal"
)

// clearPeak is where a peak stands and how wide it is at half height, both in samples.
type clearPeak struct{ at, width float64 }

// estimateWidth finds the width at half height (samples) that the clear peaks of a trace have at its first and last sample. Where that is no
// wider than spikes of one or two samples, the trace is asked again without them. A trace without clear peaks gives a
// hundredth of its length.
func (v *view) estimateWidth() (first, last float64) {
	if first, last, ok := v.clearWidths(); ok {
		return first, last
	}
	return float64(len(v.raw)) / 100, float64(len(v.raw)) / 100
}

// clearWidths is not ok where there is no clear peak.
func (v *view) clearWidths() (first, last float64, ok bool) {
	const spike = 4
	y, noise := v.raw, v.noise
	var sd []float64
	if v.growth != nil {
		sd = make([]float64, len(y))
		for i, value := range signal.Fit(y, 2).Value {
			sd[i] = math.Sqrt(v.growth.variance(noise*noise, value, i))
		}
	}
	clear := clearPeaks(y, noise, sd)
	if len(clear) == 0 {
		return 0, 0, false
	}
	// What would be taken for the ground says nothing of peaks, as long as there is something narrower.
	tooBroad := func(c clearPeak) bool { return c.width > max(broadest, broadestS/v.tr.StepS) }
	if narrower := slices.DeleteFunc(slices.Clone(clear), tooBroad); len(narrower) > 0 {
		clear = narrower
	}
	width := medianWidth(clear)
	if width < spike {
		if wider := clearPeaks(signal.WithoutSpikes(y, 2, spikeHeight*noise), noise, sd); len(wider) > 0 && medianWidth(wider) > 2*spike {
			clear, width = wider, medianWidth(wider)
		}
	}
	if first, last, ok := widening(clear, float64(len(y)-1)); ok {
		return first, last, true
	}
	return width, width, true
}

func medianWidth(clear []clearPeak) float64 {
	widths := make([]float64, len(clear))
	for i, c := range clear {
		widths[i] = c.width
	}
	slices.Sort(widths)
	return widths[(len(widths)-1)/2]
}

// widening is the line through the widths of the clear peaks (the median of the slopes of all pairs: Theil, Proc. Kon. Ned. Akad. v.
// Wetensch. A 53 (1950) 386; Sen, J. Am. Stat. Assoc. 63 (1968) 1379), where it says more than one width does: at isothermal and isocratic
// conditions peaks widen in proportion to their times. It is not ok with fewer than five peaks, where the slopes disagree in sign
// (Kendall's τ below leastTau), where the line does not lower what is left over, or where the widths differ by less than neighbouring scales do.
func widening(clear []clearPeak, end float64) (first, last float64, ok bool) {
	const (
		fewest    = 5
		leastTau  = 0.4
		leastGain = 0.75
		leastSpan = 1.4
	)
	if len(clear) < fewest {
		return 0, 0, false
	}
	var slopes []float64
	tau := 0.0
	for i, a := range clear {
		for _, b := range clear[:i] {
			if a.at != b.at {
				slope := (a.width - b.width) / (a.at - b.at)
				slopes = append(slopes, slope)
				if slope > 0 {
					tau++
				} else if slope < 0 {
					tau--
				}
			}
		}
	}
	tau /= float64(len(slopes))
	slices.Sort(slopes)
	slope := slopes[len(slopes)/2]
	level, rest, flat := make([]float64, len(clear)), make([]float64, len(clear)), make([]float64, len(clear))
	narrowest, widest := math.Inf(1), 0.0
	for i, c := range clear {
		level[i] = c.width - slope*c.at
		narrowest, widest = min(narrowest, c.width), max(widest, c.width)
	}
	slices.Sort(level)
	intercept, middle := level[len(level)/2], medianWidth(clear)
	for i, c := range clear {
		rest[i] = math.Abs(math.Log(max(narrowest/2, intercept+slope*c.at) / c.width))
		flat[i] = math.Abs(math.Log(middle / c.width))
	}
	slices.Sort(rest)
	slices.Sort(flat)
	mean := func(v []float64) float64 { // of the best nine tenths
		sum, n := 0.0, max(1, len(v)*9/10)
		for _, x := range v[:n] {
			sum += x
		}
		return sum / float64(n)
	}
	if math.Abs(tau) < leastTau || mean(rest) > leastGain*mean(flat) {
		return 0, 0, false
	}
	first, last = intercept, intercept+slope*end
	first, last = max(narrowest, min(widest, first)), max(narrowest, min(widest, last))
	return first, last, max(first, last) > leastSpan*min(first, last)
}

// A parabola of half window h through the top of a Gaussian of width w at half height has a curvature that, times
// h^sharpness, is greatest at h = halfPerWidth · w.
const (
	sharpness    = 1.25
	halfPerWidth = 0.817
)

// clearPeaks are the clearest peaks, each with the width at whose scale the scaled curvature is greatest.
func clearPeaks(y []float64, noise float64, sd []float64) []clearPeak {
	// Noise of long memory bends wide windows more than white noise would: what counts must stand out from what is usual there. Where peaks fill the
	// trace they are what is usual, and white noise alone decides.
	const usual = 5
	if clear := clearerThan(y, noise, sd, usual); len(clear) >= fewestClear {
		return clear
	}
	return clearerThan(y, noise, sd, 0)
}

// clearHere is by how much less a peak must exceed the noise on itself, of which its flanks have little.
const (
	fewestClear = 2
	clearHere   = 0.5
)

// clearerThan are those that exceed ten times what white noise gives (sd is that of each sample where it is not the same everywhere) and so many times what the quieter stretches have.
func clearerThan(y []float64, noise float64, sd []float64, usual float64) []clearPeak {
	type hit struct{ at, width, score float64 }
	var hits []hit
	step := 1.0
	for half := 2.0; half < float64(len(y))/12; half *= math.Sqrt2 {
		if half >= 16 { // a coarse scale needs no fine samples
			y, step, half = halved(y), step*2, half/2
		}
		h := int(math.Round(half))
		bend := signal.Curvature(y, h)
		// White noise of the original samples, averaged in pairs, shrinks with the root of the step.
		white := 10 / math.Sqrt(step) * signal.CurvatureGain(h)
		least := white * noise
		if usual > 0 {
			least = max(least, usual*signal.QuietLevel(bend, 12*h))
		}
		scaled := math.Pow(float64(h)*step, sharpness) / (step * step)
		for i := h; i < len(y)-h; i++ {
			r := -bend[i]
			if r > least && r >= -bend[i-1] && r > -bend[i+1] && (sd == nil || r > clearHere*white*sd[int(float64(i)*step)]) {
				hits = append(hits, hit{(float64(i) + 0.5) * step, float64(h) * step / halfPerWidth, r * scaled})
			}
		}
	}
	slices.SortFunc(hits, func(a, b hit) int {
		return cmp.Or(cmp.Compare(b.score, a.score), cmp.Compare(a.at, b.at))
	})
	var chosen []hit
	for _, h := range hits {
		if h.score < hits[0].score/300 || len(chosen) == 60 {
			break
		}
		if !slices.ContainsFunc(chosen, func(c hit) bool { return math.Abs(c.at-h.at) < 1.2*max(c.width, h.width) }) {
			chosen = append(chosen, h)
		}
	}
	clear := make([]clearPeak, len(chosen))
	for i, c := range chosen {
		clear[i] = clearPeak{c.at, c.width}
	}
	return clear
}

func halved(y []float64) []float64 {
	out := make([]float64, len(y)/2)
	for i := range out {
		out[i] = (y[2*i] + y[2*i+1]) / 2
	}
	return out
}
