package resolving

import (
	"math"
	"slices"

	"yugen/core/spectra"
)

// prepared is a stack less its offset, in bins of scans, with its noise.
type prepared struct {
	stack  Stack
	offset []float64
	full   table   // all scans of all samples, one after the other
	x      table   // the same in bins
	width  int     // scans in a bin
	factor float64 // by how much noise that goes on from scan to scan adds to the variance of a bin
	// The variance of a cell of signal F is a + b F: of a bin, and of a scan.
	a, b         float64
	scanA, scanB float64
	least        float64   // that a of a scan cannot be below, as an instrument keeps nothing that is small
	quietA       float64   // a of quiet scans, before any fit
	uneven       []float64 // by how much more, or less, a place has of a than most have
	from         []int     // the first row of each sample in x, and one beyond the last
	fullFrom     []int     // the same in full
	out          []bool    // cells of x that are over the range of the detector; nil where there are none
}

// Of the quiet stretches that offset and noise are taken from.
const (
	quietShare  = 0.2
	quietMean   = 21 // scans
	noiseMean   = 25
	mostBin     = 8
	ofMedian    = 0.4549 // the median of a squared normal deviation
	saturations = 3      // cells in a row at the greatest value
)

func prepare(s Stack) *prepared {
	p := &prepared{stack: s}
	n := 0
	for _, one := range s.Samples {
		p.fullFrom = append(p.fullFrom, n)
		n += len(one.Values)
	}
	p.fullFrom = append(p.fullFrom, n)
	p.full = newTable(n, len(s.Axis))
	at := 0
	for _, one := range s.Samples {
		for _, row := range one.Values {
			copy(p.full.row(at), row)
			at++
		}
	}
	quiet := p.quiet()
	p.takeOffset(quiet)
	p.scanA, p.scanB = p.noise(quiet)
	p.quietA = p.scanA
	p.bin(quiet)
	return p
}

// quiet are the scans with the least signal: a fifth of all, by a running mean of their total within each sample.
func (p *prepared) quiet() []int {
	type scan struct {
		row  int
		mean float64
	}
	var all []scan
	for k := range p.stack.Samples {
		from, to := p.fullFrom[k], p.fullFrom[k+1]
		total := make([]float64, to-from)
		for i := range total {
			for _, v := range p.full.row(from + i) {
				total[i] += v
			}
		}
		for i, m := range running(total, quietMean) {
			all = append(all, scan{from + i, m})
		}
	}
	slices.SortStableFunc(all, func(a, b scan) int {
		switch {
		case a.mean < b.mean:
			return -1
		case a.mean > b.mean:
			return 1
		}
		return 0
	})
	rows := make([]int, max(8, int(quietShare*float64(len(all)))))
	rows = rows[:min(len(rows), len(all))]
	for k := range rows {
		rows[k] = all[k].row
	}
	slices.Sort(rows)
	return rows
}

// running is a mean over so many values, fewer at the ends.
func running(y []float64, wide int) []float64 {
	out := make([]float64, len(y))
	sums := make([]float64, len(y)+1)
	for i, v := range y {
		sums[i+1] = sums[i] + v
	}
	for i := range y {
		from, to := max(0, i-wide/2), min(len(y), i+wide/2+1)
		out[i] = (sums[to] - sums[from]) / float64(to-from)
	}
	return out
}

// takeOffset takes off what there is without any signal. Of wavelengths it is what each place has where it is quiet. Of masses it is one number, the detector's own: what
// some masses have above it all the time is bleed, and stays, to be told apart.
func (p *prepared) takeOffset(quiet []int) {
	p.offset = make([]float64, p.full.p)
	spreads := make([]float64, p.full.p)
	each(p.full.p, func(_, from, to int) {
		values := make([]float64, len(quiet))
		for j := from; j < to; j++ {
			for k, i := range quiet {
				values[k] = p.full.row(i)[j]
			}
			p.offset[j], spreads[j] = lowMean(values)
		}
	})
	if p.stack.Kind != spectra.Wavelength {
		base := commonOffset(p.offset, median(spreads)/math.Sqrt(float64(len(quiet))))
		for j := range p.offset {
			p.offset[j] = base
		}
	}
	each(p.full.n, func(_, from, to int) {
		for i := from; i < to; i++ {
			row := p.full.row(i)
			for j := range row {
				row[j] -= p.offset[j]
			}
		}
	})
}

// commonOffset is the mean of those places that have nothing but it: from the lower quartile up, as far as chance lets them scatter.
func commonOffset(means []float64, error float64) float64 {
	sorted := slices.Sorted(slices.Values(means))
	base := sorted[len(sorted)/4]
	for range 20 {
		sum, n := 0.0, 0
		for _, m := range sorted {
			if math.Abs(m-base) <= 3.5*error {
				sum, n = sum+m, n+1
			}
		}
		if n == 0 || sum/float64(n) == base {
			break
		}
		base = sum / float64(n)
	}
	return base
}

// lowMean is the mean of values without those that stand far above it, and how they scatter.
func lowMean(values []float64) (mean, sd float64) {
	kept := slices.Clone(values)
	mean, sd = meanAndSD(kept)
	for range 5 {
		now := kept[:0]
		for _, v := range kept {
			if v <= mean+4*sd {
				now = append(now, v)
			}
		}
		if len(now) == len(kept) || len(now) < 4 {
			break
		}
		kept = now
		mean, sd = meanAndSD(kept)
	}
	return mean, sd
}

func meanAndSD(values []float64) (mean, sd float64) {
	for _, v := range values {
		mean += v / float64(len(values))
	}
	for _, v := range values {
		sd += (v - mean) * (v - mean)
	}
	return mean, math.Sqrt(sd / math.Max(1, float64(len(values)-1)))
}

// noise is the variance of a cell without signal, and by how much it grows with the signal.
func (p *prepared) noise(quiet []int) (a, b float64) {
	a = p.floor(quiet)
	type bin struct{ squares, means []float64 }
	highest := 0.0
	for _, v := range p.full.v {
		highest = max(highest, v)
	}
	low := math.Max(3*math.Sqrt(a), highest*1e-5)
	step := math.Log(highest/low) / 12
	if !(step > 0) {
		return a, 0
	}
	stride := max(1, p.full.p*p.full.n/400_000) // of places: a sample is enough for medians
	var pieces [parts][12]bin
	each(len(p.stack.Samples), func(part, first, last int) {
		bins := &pieces[part]
		for k := first; k < last; k++ {
			for i := p.fullFrom[k] + 2; i+2 < p.fullFrom[k+1]; i++ {
				rows := [5][]float64{p.full.row(i - 2), p.full.row(i - 1), p.full.row(i), p.full.row(i + 1), p.full.row(i + 2)}
				for j := i % stride; j < p.full.p; j += stride {
					m := (rows[0][j] + rows[1][j] + rows[2][j] + rows[3][j] + rows[4][j]) / 5
					if m < low {
						continue
					}
					d := rows[0][j] - 4*rows[1][j] + 6*rows[2][j] - 4*rows[3][j] + rows[4][j]
					at := min(len(bins)-1, int(math.Log(m/low)/step))
					bins[at].squares, bins[at].means = append(bins[at].squares, d*d), append(bins[at].means, m)
				}
			}
		}
	})
	var slopes, weights []float64
	for at := range pieces[0] {
		var one bin
		for _, bins := range pieces {
			one.squares, one.means = append(one.squares, bins[at].squares...), append(one.means, bins[at].means...)
		}
		if len(one.squares) < 20 {
			continue
		}
		m := median(one.means)
		slopes = append(slopes, (median(one.squares)/70/ofMedian-a)/m)
		weights = append(weights, math.Sqrt(float64(len(one.squares))))
	}
	return a, math.Max(0, weightedMedian(slopes, weights))
}

// floor is the variance where it is quiet, about the mean of short stretches, as the median over the places.
func (p *prepared) floor(quiet []int) float64 {
	variances, freedoms := make([]float64, p.full.p), make([]float64, p.full.p)
	each(p.full.p, func(_, first, last int) {
		for j := first; j < last; j++ {
			variances[j], freedoms[j] = p.quietVariance(quiet, j)
		}
	})
	a := median(variances) // the quietest places alone would be so by chance
	if !(a > 0) {
		largest := 0.0
		for _, v := range p.full.v {
			largest = math.Max(largest, math.Abs(v))
		}
		a = math.Max(1e-300, largest*largest*1e-12) // no noise at all: what rounding leaves
	}
	if cut := p.threshold(); cut*cut/4 > a {
		a = cut * cut / 4
		p.least = a
		p.uneven = onesOf(p.full.p)
		return a
	}
	// A place whose noise is surely another has its own: bleed is noisy too, and light is weak at the ends of a lamp.
	p.uneven = onesOf(p.full.p)
	for j, v := range variances {
		if off := v/a - 1; math.Abs(off) > 4*math.Sqrt(2/freedoms[j]) && v > 0 {
			p.uneven[j] = v / a
		}
	}
	return a
}

// quietVariance is that of a place about the mean of short stretches of quiet scans, and its degrees of freedom.
func (p *prepared) quietVariance(quiet []int, j int) (variance, freedom float64) {
	sum, n, each := 0.0, 0, float64(noiseMean-1)
	values := make([]float64, noiseMean)
	for from := 0; from+noiseMean <= len(quiet); from += noiseMean {
		if quiet[from+noiseMean-1]-quiet[from] != noiseMean-1 { // of scans one after the other
			continue
		}
		for k := range values {
			values[k] = p.full.row(quiet[from+k])[j]
		}
		_, sd := meanAndSD(values)
		sum, n = sum+sd*sd, n+1
	}
	if n == 0 { // no such stretch: by differences from one quiet scan to the next
		each = 0.5
		for k := 1; k < len(quiet); k++ {
			if quiet[k] == quiet[k-1]+1 {
				d := p.full.row(quiet[k])[j] - p.full.row(quiet[k-1])[j]
				sum, n = sum+d*d/2, n+1
			}
		}
	}
	return sum / math.Max(1, float64(n)), math.Max(1, float64(n)*each)
}

// threshold is what an instrument keeps nothing below: the small end of what there is, where most cells are empty. Anything up to it may have been where nothing stands.
func (p *prepared) threshold() float64 {
	n := 0
	p.eachMeasured(func(v float64) {
		if v > 0 {
			n++
		}
	})
	if 2*n > len(p.full.v) || n == 0 {
		return 0
	}
	there := make([]float64, 0, n)
	p.eachMeasured(func(v float64) {
		if v > 0 {
			there = append(there, v)
		}
	})
	return ranked(there, len(there)/20)
}

func (p *prepared) eachMeasured(tell func(float64)) {
	for i := range p.stack.Samples {
		for _, row := range p.stack.Samples[i].Values {
			for _, v := range row {
				tell(v)
			}
		}
	}
}
