package resolving

import (
	"fmt"
	"math"
	"slices"

	"yugen/core/spectra"
)

// whole fits the scans as they were measured by spectra that are known: amounts, and their variances.
func (p *prepared) whole(f factors) (amounts, variances table) {
	amounts = newTable(p.full.n, f.k())
	p.evenly(f.spectra, amounts)
	n := p.normalsOfScans(amounts, f.spectra)
	n.solve(amounts, nil, true)
	if slices.Contains(f.background, true) {
		smoothBackground(amounts, onesOf(p.full.n), f.background, p.fullFrom)
		n.solve(amounts, f.background, true)
	}
	return amounts, n.variances()
}

// normalsOfScans are those of every scan, weighing as much as what is there says.
func (p *prepared) normalsOfScans(amounts, spectra table) normals {
	k := spectra.p
	n := normals{newTable(p.full.n, k*(k+1)/2), newTable(p.full.n, k)}
	across, byG := spectra.turned(), squares(spectra).turned()
	blocks(p.full.n, func(_, from, to int) {
		x := p.full.rows(from, to)
		w := newTable(x.n, x.p)
		multiplyBy(amounts.rows(from, to), across, w)
		for i := range w.n {
			row := w.row(i)
			for j, f := range row {
				if f < 0 {
					f = 0
				}
				row[j] = 1 / (p.scanA*p.uneven[j] + (p.scanB+modelError*modelError*f)*f)
			}
		}
		multiply(w, byG, n.g.rows(from, to))
		multiply(weighed(x, w), across, n.h.rows(from, to))
	})
	return n
}

// evenly fits every scan as if there were no noise but that of no signal: one small system for all.
func (p *prepared) evenly(spectra, amounts table) {
	k := spectra.p
	weighted, common := newTable(spectra.n, k), newSolver(k)
	for j := range spectra.n {
		weight := 1 / (p.scanA * p.uneven[j])
		for a, v := range spectra.row(j) {
			weighted.row(j)[a] = v * weight
		}
		common.add(spectra.row(j), weight, 0)
	}
	across := weighted.turned()
	blocks(p.full.n, func(_, from, to int) {
		h := newTable(to-from, k)
		multiply(p.full.rows(from, to), across, h)
		s := newSolver(k)
		for i := from; i < to; i++ {
			copy(s.g, common.g)
			copy(s.h, h.row(i-from))
			s.solve(amounts.row(i), true)
		}
	})
}

// variances are those of the answers: what the noise of a scan leaves open, the others fitted too.
func (n normals) variances() table {
	k := n.h.p
	out := newTable(n.h.n, k)
	each(out.n, func(_, from, to int) {
		s := newSolver(k)
		unit := make([]float64, k)
		for i := from; i < to; i++ {
			at := 0
			for a := range k {
				copy(s.g[a*k+a:(a+1)*k], n.g.row(i)[at:])
				at += k - a
			}
			for a := range k {
				clear(s.h)
				s.h[a] = 1
				s.solve(unit, false)
				out.row(i)[a] = math.Max(0, unit[a])
			}
		}
	})
	return out
}

// report writes what the factors say into the result.
func (p *prepared) report(out *Result, f factors) {
	amounts, variances := p.whole(f)
	signal, left := p.signalAndRest(out, amounts, f.spectra)
	out.Explained = 1 - left/math.Max(signal, 1e-300)
	totals := make([]float64, f.k())
	sum := 0.0
	for i := range amounts.n {
		for a, v := range amounts.row(i) {
			totals[a] += v
			sum += v
		}
	}
	bands := p.bands(f)
	for a := range f.k() {
		c := Component{Spectrum: f.spectra.column(a), Background: f.background[a], Explained: totals[a] / math.Max(sum, 1e-300), Band: bands[a], Doubts: []string{}}
		for k := range p.stack.Samples {
			c.Samples = append(c.Samples, p.portion(amounts, variances, a, k))
		}
		c.ApexMin = weightedApex(c.Samples)
		c.BestShare = bestShare(amounts, a, math.Sqrt(p.scanA*float64(p.full.p)))
		out.Components = append(out.Components, c)
	}
	slices.SortStableFunc(out.Components, func(a, b Component) int {
		switch {
		case a.Background != b.Background && b.Background:
			return -1
		case a.Background != b.Background:
			return 1
		case a.ApexMin < b.ApexMin:
			return -1
		}
		return 1
	})
	out.doubt(p.stack.Kind)
}

func (p *prepared) portion(amounts, variances table, a, k int) Portion {
	s := p.stack.Samples[k]
	out := Portion{Sample: s.Name, Profile: make([]float64, len(s.TimesS))}
	variance, best := 0.0, 0
	for i := range out.Profile {
		row := p.fullFrom[k] + i
		out.Profile[i] = amounts.row(row)[a]
		step := stepAt(s.TimesS, i)
		out.AreaS += out.Profile[i] * step
		variance += variances.row(row)[a] * step * step * p.factor
	}
	smooth := running(out.Profile, max(3, p.width|1))
	for i, v := range smooth {
		if v > smooth[best] {
			best = i
		}
	}
	out.SE = math.Sqrt(variance)
	out.ApexMin = parabola(s.TimesS, smooth, best) / 60
	return out
}

// stepAt is the time that a scan stands for.
func stepAt(times []float64, i int) float64 {
	switch {
	case len(times) < 2:
		return 0
	case i == 0:
		return times[1] - times[0]
	case i == len(times)-1:
		return times[i] - times[i-1]
	}
	return (times[i+1] - times[i-1]) / 2
}

// parabola is the time of the top of a parabola through the greatest value and its neighbours.
func parabola(times, y []float64, i int) float64 {
	if i == 0 || i == len(y)-1 {
		return times[i]
	}
	bend := y[i-1] - 2*y[i] + y[i+1]
	if !(bend < 0) {
		return times[i]
	}
	return times[i] + math.Max(-0.5, math.Min(0.5, (y[i-1]-y[i+1])/2/bend))*stepAt(times, i)
}

func weightedApex(list []Portion) float64 {
	sum, weight := 0.0, 0.0
	for _, s := range list {
		sum, weight = sum+s.AreaS*s.ApexMin, weight+s.AreaS
	}
	if weight == 0 {
		return 0
	}
	return sum / weight
}

// bestShare is the greatest share of the signal that a component has in any scan with more signal than noise.
func bestShare(amounts table, a int, noise float64) float64 {
	best := 0.0
	for i := range amounts.n {
		total := 0.0
		for _, v := range amounts.row(i) {
			total += v
		}
		if total > 5*noise {
			best = math.Max(best, amounts.row(i)[a]/total)
		}
	}
	return best
}

// signalAndRest are the squares of the signal, and of what a fit leaves of it, both less what noise has on average. What is left of each scan goes into the result.
func (p *prepared) signalAndRest(out *Result, amounts, spectra table) (signal, left float64) {
	across := spectra.turned()
	out.Rest = make([][]float64, len(p.stack.Samples))
	type sums struct{ signal, left, most, mostAt float64 }
	ofSample := make([]sums, len(p.stack.Samples))
	each(len(ofSample), func(_, first, last int) {
		fit := newTable(1, p.full.p)
		for k := first; k < last; k++ {
			times, one := p.stack.Samples[k].TimesS, &ofSample[k]
			rest := make([]float64, len(times))
			for i, at := range times {
				row := p.fullFrom[k] + i
				multiplyBy(amounts.rows(row, row+1), across, fit)
				measured, ofScan := p.full.row(row), 0.0
				for j, f := range fit.v {
					v, f0 := measured[j], max(0, f)
					noise := p.scanA*p.uneven[j] + p.scanB*f0
					one.signal += v*v - noise
					squares := (v - f) * (v - f)
					ofScan += squares - noise
					rest[i] += squares / (noise + modelError*f0*modelError*f0)
				}
				rest[i] = math.Sqrt(rest[i] / float64(fit.p))
				one.left += ofScan
				if ofScan > one.most {
					one.most, one.mostAt = ofScan, at/60
				}
			}
			out.Rest[k] = rest
		}
	})
	most := 0.0
	for _, one := range ofSample {
		signal, left = signal+one.signal, left+one.left
		if one.most > most {
			most, out.LeftAtMin = one.most, one.mostAt
		}
	}
	out.evenRest()
	return signal, math.Max(0, left)
}

// evenRest brings what is usually left to 1 where noise was thought greater than it is, as where most places of a scan hold nothing at all.
func (r *Result) evenRest() {
	usual := min(1, median(slices.Concat(r.Rest...)))
	for _, rest := range r.Rest {
		for i := range rest {
			rest[i] /= math.Max(usual, 1e-300)
		}
	}
}

// Of the doubt about spectra.
const (
	bandLimit    = 0.98
	bandNoise    = 9.0 // noise units of information that a spectrum or a profile may fall below 0
	shareLimit   = 0.3
	tooNear      = 0.6   // cosine of two profiles in time, where spectra of light tell little apart
	nearlyOne    = 0.9   // the same among masses
	something    = 0.02  // of a component's largest area
	cutAlike     = 0.985 // spectra that are so alike may be one compound cut in two
	unexplained  = 0.05
	leastT, topT = 0.001, 30.0
)

// bands are, for each component, the least cosine between its spectrum and one that would fit as well: S_i ∓ t S_j, as long as neither spectra nor profiles fall below
// 0 by more than noise (rotational ambiguity; Lawton & Sylvestre, Technometrics 13 (1971) 617).
func (p *prepared) bands(f factors) []float64 {
	k := f.k()
	w := newTable(p.x.n, p.x.p)
	p.weigh(f.amounts, f.spectra, w)
	// how well each number is known
	ofSpectra, ofAmounts := newTable(k, p.x.p), newTable(p.x.n, k)
	addTurned(squared(f.amounts), w, ofSpectra)
	multiplyBy(w, squared(f.spectra), ofAmounts)
	out := make([]float64, k)
	for a := range k {
		out[a] = 1
		own := f.spectra.column(a)
		for b := range k {
			if a == b {
				continue
			}
			other := f.spectra.column(b)
			less := 0.0
			if p.stack.Kind != spectra.Wavelength { // of light, what would elute where another is alone was taken off
				less = furthest(own, other, ofSpectra.row(a))
			}
			more := furthest(f.amounts.column(b), f.amounts.column(a), ofAmounts.column(b))
			for _, t := range []float64{-less, more} {
				if t == 0 {
					continue
				}
				turned := make([]float64, len(own))
				for j := range own {
					turned[j] = math.Max(0, own[j]+t*other[j])
				}
				out[a] = math.Min(out[a], Cosine(own, turned))
			}
		}
	}
	return out
}

// squared are the squares of numbers.
func squared(t table) table {
	out := newTable(t.n, t.p)
	for i, v := range t.v {
		out.v[i] = v * v
	}
	return out
}

// furthest is the largest t for which own − t other stays above 0 but for noise.
func furthest(own, other, information []float64) float64 {
	fits := func(t float64) bool {
		below := 0.0
		for j, v := range own {
			if d := v - t*other[j]; d < 0 {
				below += d * d * information[j]
			}
		}
		return below <= bandNoise
	}
	if !fits(leastT) {
		return 0
	}
	low, high := leastT, topT
	if fits(high) {
		return high
	}
	for range 40 {
		if middle := math.Sqrt(low * high); fits(middle) {
			low = middle
		} else {
			high = middle
		}
	}
	return low
}

// together is how much two components elute as one: the cosine between their profiles, on average of the samples that have something of both; 1 is as one.
func together(a, b *Component) float64 {
	largest := func(c *Component) (most float64) {
		for _, p := range c.Samples {
			most = max(most, p.AreaS)
		}
		return most
	}
	mostA, mostB := largest(a), largest(b)
	sum, n := 0.0, 0.0
	for k := range a.Samples {
		if a.Samples[k].AreaS > something*mostA && b.Samples[k].AreaS > something*mostB {
			sum, n = sum+Cosine(a.Samples[k].Profile, b.Samples[k].Profile), n+1
		}
	}
	return sum / max(1, n)
}

// MinorsMissed is what holds of every stretch.
const MinorsMissed = "Minors below 1 % may be missed."

// doubt says in words what is not sure.
func (r *Result) doubt(kind spectra.Kind) {
	for i := range r.Components {
		c := &r.Components[i]
		if c.Background {
			continue
		}
		if c.Band < bandLimit {
			c.Doubts = append(c.Doubts, fmt.Sprintf("Its spectrum may be mixed with its neighbour's: one that differs by a cosine of %.2f would fit as well.", c.Band))
		}
		if c.BestShare < shareLimit {
			c.Doubts = append(c.Doubts, fmt.Sprintf("It never has more than %.0f %% of the signal.", 100*c.BestShare))
		}
		for j := range r.Components {
			o := &r.Components[j]
			if j != i && !o.Background {
				switch near := together(c, o); {
				case kind == spectra.Wavelength && near > tooNear:
					c.Doubts = append(c.Doubts, fmt.Sprintf("It elutes almost with the component at %.3f min, and spectra of light are broad: how much is of which is not sure.", o.ApexMin))
				case kind == spectra.Mass && near > nearlyOne:
					c.Doubts = append(c.Doubts, fmt.Sprintf("It elutes as one with the component at %.3f min: how much is of which rests on what they have apart in their spectra.", o.ApexMin))
				}
			}
			if j < i && !o.Background && Cosine(c.Spectrum, o.Spectrum) > cutAlike {
				c.CutInTwo = true
				c.Doubts = append(c.Doubts, fmt.Sprintf("Its spectrum is that of the component at %.3f min: one compound cut in two?", o.ApexMin))
			}
		}
	}
	if r.Agree < agreeing {
		r.Doubts = append(r.Doubts, fmt.Sprintf("Two starts came to different spectra, with a cosine of %.2f.", r.Agree))
	}
	if r.Agree >= agreeing && r.Apart > nearly {
		r.Doubts = append(r.Doubts, fmt.Sprintf("Two starts came to amounts of which %.0f %% differ.", 100*r.Apart))
	}
	if left := 1 - r.Explained; left > unexplained {
		r.Doubts = append(r.Doubts, fmt.Sprintf("%.1f %% of the signal stays unexplained, most of it near %.2f min.", 100*left, r.LeftAtMin))
	}
	if len(r.Components) > 0 {
		r.Doubts = append(r.Doubts, MinorsMissed)
	}
}
