package resolving

import (
	"math"
	"slices"
)

// bin sums scans, a quarter of the width of a peak together: what elutes is as well described, and there is less of it.
func (p *prepared) bin(quiet []int) {
	p.width = max(1, min(mostBin, int(math.Round(p.peakWidth()/4))))
	w := p.width
	n := 0
	for k := range p.stack.Samples {
		p.from = append(p.from, n)
		n += (p.fullFrom[k+1] - p.fullFrom[k]) / w
	}
	p.from = append(p.from, n)
	p.x = newTable(n, p.full.p)
	each(len(p.stack.Samples), func(_, first, last int) {
		for k := first; k < last; k++ {
			for i := p.from[k]; i < p.from[k+1]; i++ {
				row := p.x.row(i)
				for s := range w {
					for j, v := range p.full.row(p.fullFrom[k] + (i-p.from[k])*w + s) {
						row[j] += v
					}
				}
			}
		}
	})
	f := p.together(quiet)
	p.factor = f
	p.a, p.b = p.scanA*float64(w)*f, p.scanB*f
	p.saturated()
}

// together is by how much the variance of a sum of scans is more than the sum of their variances, as noise of one scan goes on in the next. It is taken about the means of
// short stretches, as the variance itself, over the quieter half of the places: what still elutes in quiet scans goes on, too, and is no noise.
func (p *prepared) together(quiet []int) float64 {
	ofPlace := make([][]float64, p.full.p) // by lags
	each(p.full.p, func(_, first, last int) {
		for j := first; j < last; j++ {
			ofPlace[j] = p.goesOn(quiet, j)
		}
	})
	products := make([][]float64, p.width)
	for _, sums := range ofPlace {
		for lag, v := range sums {
			if sums[0] > 0 {
				products[lag] = append(products[lag], v/sums[0]+1/float64(noiseMean)) // the mean has taken its share
			}
		}
	}
	f := 1.0
	for lag := 1; lag < p.width; lag++ {
		if rho := median(products[lag]); rho > 0.05 { // less is what chance gives
			f += 2 * (1 - float64(lag)/float64(p.width)) * rho
		}
	}
	return f
}

// goesOn are the products of a place's noise with that of so many scans later, 0 and on.
func (p *prepared) goesOn(quiet []int, j int) []float64 {
	sums, values := make([]float64, p.width), make([]float64, noiseMean)
	for from := 0; from+noiseMean <= len(quiet); from += noiseMean {
		if quiet[from+noiseMean-1]-quiet[from] != noiseMean-1 {
			continue
		}
		for k := range values {
			values[k] = p.full.row(quiet[from+k])[j]
		}
		mean, _ := meanAndSD(values)
		for lag := range sums {
			for k := 0; k+lag < noiseMean; k++ {
				sums[lag] += (values[k] - mean) * (values[k+lag] - mean) / float64(noiseMean-lag)
			}
		}
	}
	return sums
}

// peakWidth is a width at half height, in scans: the lower quartile over the strongest places of the samples, since what overlaps is wider.
func (p *prepared) peakWidth() float64 {
	ofSample := make([][]float64, len(p.stack.Samples))
	each(len(ofSample), func(_, first, last int) {
		for k := first; k < last; k++ {
			ofSample[k] = p.widthsOf(k)
		}
	})
	widths := slices.Concat(ofSample...)
	if len(widths) == 0 {
		return 4
	}
	slices.Sort(widths)
	return widths[len(widths)/4]
}

// widthsOf are those of the strongest places of a sample that stand whole in the stretch.
func (p *prepared) widthsOf(sample int) (widths []float64) {
	from, to := p.fullFrom[sample], p.fullFrom[sample+1]
	for _, j := range p.strongest(from, to, 12) {
		best := from
		for i := from; i < to; i++ {
			if p.full.row(i)[j] > p.full.row(best)[j] {
				best = i
			}
		}
		half := p.full.row(best)[j] / 2
		if half < 5*math.Sqrt(p.scanA) {
			continue
		}
		left, right := best, best
		for left > from && p.full.row(left)[j] > half {
			left--
		}
		for right < to-1 && p.full.row(right)[j] > half {
			right++
		}
		if left > from && right < to-1 {
			widths = append(widths, float64(right-left-1))
		}
	}
	return widths
}

// strongest are the places with the greatest values in a stretch of rows.
func (p *prepared) strongest(from, to, most int) []int {
	highest := make([]float64, p.full.p)
	for i := from; i < to; i++ {
		for j, v := range p.full.row(i) {
			highest[j] = max(highest[j], v)
		}
	}
	order := make([]int, len(highest))
	for k := range order {
		order[k] = k
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case highest[a] > highest[b]:
			return -1
		case highest[a] < highest[b]:
			return 1
		}
		return 0
	})
	return order[:min(most, len(order))]
}

// saturated marks cells where the detector was at its end: several in a row at the greatest value of the batch.
func (p *prepared) saturated() {
	highest := math.Inf(-1)
	for i := range p.full.n {
		for j, v := range p.full.row(i) {
			highest = max(highest, v+p.offset[j])
		}
	}
	enough := 30 * math.Sqrt(p.scanA)
	inARow := make([]int, p.full.p)
	for k := range p.stack.Samples {
		clear(inARow)
		for i := p.fullFrom[k]; i < p.fullFrom[k+1]; i++ {
			for j, at := range p.full.row(i) {
				if at+p.offset[j] < highest || at < enough {
					inARow[j] = 0
					continue
				}
				if inARow[j]++; inARow[j] >= saturations {
					p.mark(k, j, i-inARow[j]+1, i)
				}
			}
		}
	}
}

func (p *prepared) mark(sample, place, first, last int) {
	if p.out == nil {
		p.out = make([]bool, len(p.x.v))
	}
	for i := first; i <= last; i++ {
		if bin := p.from[sample] + (i-p.fullFrom[sample])/p.width; bin < p.from[sample+1] {
			p.out[bin*p.x.p+place] = true
		}
	}
}
