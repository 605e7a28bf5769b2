package lab

import (
	"fmt"
	"math"
	"slices"

	"yugen/core/resolving"
	"yugen/store"
)

// amounts are the areas of a component, by sample: the mean of its injections; absent where it does not stand out of noise. The uncertainty of a mean is what the noise
// of its injections leaves open or what injections of one sample differ by, pooled over the samples, whichever is more.
func (r *ResolvedRow) amounts(p Processed, w *wholeBatch, c resolving.Component) {
	n := len(p.Result.Samples)
	r.Amounts, r.Uncertain = make([]*float64, n), make([]*float64, n)
	counts, noise := make([]float64, n), make([]float64, n)
	squares, freedom := 0.0, 0.0
	var partly []string
	for k, row := range p.Result.Samples {
		var areas []float64
		variance, of := 0.0, 0
		for _, id := range row.InjectionIDs {
			at := slices.Index(w.ids, id)
			if at < 0 {
				continue
			}
			if of++; standsOut(c.Samples[at]) {
				areas, variance = append(areas, c.Samples[at].AreaS), variance+c.Samples[at].SE*c.Samples[at].SE
			}
		}
		if len(areas) == 0 {
			continue
		}
		mean := 0.0
		for _, v := range areas {
			mean += v / float64(len(areas))
		}
		for _, v := range areas {
			squares += (v/mean - 1) * (v/mean - 1)
		}
		freedom += float64(len(areas) - 1)
		r.Amounts[k], counts[k], noise[k] = &mean, float64(len(areas)), math.Sqrt(variance)/float64(len(areas))/mean
		if len(areas) < of {
			partly = append(partly, row.Name)
		}
	}
	for k, n := range counts {
		if n > 0 {
			u := noise[k]
			if freedom > 0 {
				u = math.Max(u, math.Sqrt(squares/freedom/n))
			}
			r.Uncertain[k] = &u
		}
	}
	if len(partly) > 0 {
		r.Doubts = append(r.Doubts, "Not in all injections of "+listed(partly)+": the mean is of those that have it.")
	}
}

// standsOut tells whether there is more of a component than noise would give.
func standsOut(s resolving.Portion) bool { return s.AreaS > 3*s.SE && s.AreaS > 0 }

// Of what blanks have: the share of the greatest area below which they are as good as empty, and the least cosine between profiles of the same compound. What air or
// bleed leave on a compound's masses runs through, and is no peak of it.
const (
	littleInBlank = 0.01
	sameProfile   = 0.8
)

// inBlanks says that a component is in blanks, too: carried over where only those that come after an injection have it, else from the solvent or the column.
func inBlanks(b store.Batch, w *wholeBatch, stack resolving.Stack, c resolving.Component) string {
	most, strongest := 0.0, 0
	for k, s := range c.Samples[:w.samples] {
		if s.AreaS > most {
			most, strongest = s.AreaS, k
		}
	}
	var with, without []int // places in run order
	greatest := 0.0
	for k := w.samples; k < len(c.Samples); k++ {
		place := slices.IndexFunc(b.Injections, func(in store.Injection) bool { return in.ID == w.ids[k] })
		if standsOut(c.Samples[k]) && c.Samples[k].AreaS > littleInBlank*most && likeProfile(stack, c, k, strongest) > sameProfile {
			with, greatest = append(with, place), math.Max(greatest, c.Samples[k].AreaS)
		} else {
			without = append(without, place)
		}
	}
	if len(with) == 0 {
		return ""
	}
	share := 100 * greatest / math.Max(most, 1e-300)
	first := slices.IndexFunc(b.Injections, func(in store.Injection) bool { return slices.Contains(w.ids[:w.samples], in.ID) })
	if len(without) > 0 && slices.Max(without) < first && slices.Min(with) > first {
		return fmt.Sprintf("Carried over: a blank after samples has %.0f %% of the greatest amount, and one before them has none.", share)
	}
	return fmt.Sprintf("In a blank, too, with %.0f %% of the greatest amount: solvent, column or what was there before.", share)
}

// likeProfile is the cosine between the profiles of a component in two injections, at the times of the first.
func likeProfile(stack resolving.Stack, c resolving.Component, a, b int) float64 {
	times, others := stack.Samples[a].TimesS, stack.Samples[b].TimesS
	at, moved := 0, make([]float64, len(times))
	for i, t := range times {
		for at+1 < len(others) && math.Abs(others[at+1]-t) <= math.Abs(others[at]-t) {
			at++
		}
		moved[i] = c.Samples[b].Profile[at]
	}
	return resolving.Cosine(c.Samples[a].Profile, moved)
}
