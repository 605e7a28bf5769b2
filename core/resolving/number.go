package resolving

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// scaled is the binned data with rows and columns divided by the roots of their mean variances, so that noise is about 1 everywhere, with the directions in which it
// stands out.
type scaled struct {
	rows, columns []float64 // what was divided by
	values        []float64 // eigenvalues of the Gram matrix, the greatest first
	vectors       table     // p × most, in columns
	scores        table     // n × most: the scaled data along them
}

// scale divides the data, and finds its directions through the small Gram matrix.
func (p *prepared) scale(most int) scaled {
	x := p.x
	s := scaled{rows: make([]float64, x.n), columns: make([]float64, x.p)}
	var pieces [parts][]float64
	each(x.n, func(part, from, to int) {
		columns := make([]float64, x.p)
		for i := from; i < to; i++ {
			for j, v := range x.row(i) {
				variance := p.a*p.uneven[j] + p.b*max(0, v)
				s.rows[i] += variance / float64(x.p)
				columns[j] += variance / float64(x.n)
			}
		}
		pieces[part] = columns
	})
	mean := 0.0
	for _, columns := range pieces {
		for j, v := range columns {
			s.columns[j] += v
			mean += v / float64(x.p)
		}
	}
	for i := range s.rows {
		s.rows[i] = math.Sqrt(s.rows[i])
	}
	for j := range s.columns {
		s.columns[j] = math.Sqrt(s.columns[j] / mean)
	}
	d := newTable(x.n, x.p)
	each(x.n, func(_, from, to int) {
		for i := from; i < to; i++ {
			row := d.row(i)
			for j, v := range x.row(i) {
				row[j] = v / s.rows[i] / s.columns[j]
			}
		}
	})
	var eigen mat.EigenSym
	eigen.Factorize(gram(d), true)
	values := eigen.Values(nil) // the least first
	var vectors mat.Dense
	eigen.VectorsTo(&vectors)
	most = min(most, x.p, x.n)
	s.vectors, s.scores = newTable(x.p, most), newTable(x.n, most)
	for k := range most {
		s.values = append(s.values, values[x.p-1-k])
		for j := range x.p {
			s.vectors.row(j)[k] = vectors.At(j, x.p-1-k)
		}
	}
	each(x.n, func(_, from, to int) {
		for i := from; i < to; i++ {
			along := s.scores.row(i)
			for j, v := range d.row(i) {
				direction := s.vectors.row(j)
				for k := range along {
					along[k] += v * direction[k]
				}
			}
		}
	})
	return s
}

// gram is the product of a table with itself, over its rows: its upper half, four rows at a time.
func gram(t table) *mat.SymDense {
	var pieces [parts][]float64
	each((t.n+3)/4, func(part, from, to int) {
		sum := make([]float64, t.p*t.p)
		zero := make([]float64, t.p)
		for block := from; block < to; block++ {
			var rows [4][]float64
			for r := range rows {
				rows[r] = zero
				if i := 4*block + r; i < t.n {
					rows[r] = t.row(i)
				}
			}
			for a := range t.p {
				u0, u1, u2, u3 := rows[0][a], rows[1][a], rows[2][a], rows[3][a]
				line := sum[a*t.p+a : (a+1)*t.p]
				v0, v1, v2, v3 := rows[0][a:], rows[1][a:], rows[2][a:], rows[3][a:]
				v0, v1, v2, v3 = v0[:len(line)], v1[:len(line)], v2[:len(line)], v3[:len(line)]
				for b := range line {
					line[b] += u0*v0[b] + u1*v1[b] + u2*v2[b] + u3*v3[b]
				}
			}
		}
		pieces[part] = sum
	})
	total := make([]float64, t.p*t.p)
	for _, sum := range pieces {
		for k, v := range sum {
			total[k] += v
		}
	}
	return mat.NewSymDense(t.p, total)
}

// edge is where the greatest eigenvalue of noise alone lies, and how wide it scatters: μ = (√n + √p)², s = (√n + √p)(1/√n + 1/√p)^⅓, for n × p independent numbers of
// variance 1 (Tracy and Widom; Johnstone, Ann. Stat. 29 (2001) 295).
func edge(n, p int) (mu, s float64) {
	a, b := math.Sqrt(float64(n)), math.Sqrt(float64(p))
	return (a + b) * (a + b), (a + b) * math.Cbrt(1/a+1/b)
}

// What is left by a number of components counts as noise below so many widths of the edge.
const noiseEdge = 6.0

// roughEdge is the same before the noise is known from what a fit leaves.
const roughEdge = 25.0

// quietHolds is the share of the noise of quiet scans below which that of a fit is not believed.
const quietHolds = 0.85

// number is the least number of components whose residual has no direction that stands out of noise. excess tells, for each number that was tried, by how many widths
// of the edge the residual does.
func (p *prepared) number(s scaled, most int) (k int, excess map[int]float64) {
	most = min(most, len(s.values)-1)
	k0 := 0
	for k0 < most && s.values[k0] > 20*s.values[len(s.values)-1] {
		k0++
	}
	rough := func(k int) bool { return p.excess(p.lowRank(s, k), k) >= roughEdge }
	if rough(k0) {
		for k0 < most && rough(k0) {
			k0++
		}
	} else {
		for k0 > 0 && !rough(k0-1) {
			k0--
		}
	}
	p.estimateAgain(p.lowRank(s, min(k0+1, most)), min(k0+1, most))
	excess = map[int]float64{}
	stands := func(k int) bool {
		if _, done := excess[k]; !done {
			excess[k] = p.excess(p.lowRank(s, k), k)
		}
		return excess[k] >= noiseEdge
	}
	k = k0
	if stands(k) {
		for k < most && stands(k) {
			k++
		}
		return k, excess
	}
	for k > 0 && !stands(k-1) {
		k--
	}
	return k, excess
}

// lowRank is the weighted fit of so many components without any sign, from the directions of the scaled data in two rounds, beside what each place has always: an
// offset that is off by a tenth of a count would else be taken for a compound.
func (p *prepared) lowRank(s scaled, k int) table {
	fit, _, _ := p.lowRankAndOffset(s, k)
	return fit
}

func (p *prepared) lowRankAndOffset(s scaled, k int) (fit, right table, always []float64) {
	x := p.x
	left, w := newTable(x.n, k+1), newTable(x.n, x.p)
	right = newTable(x.p, k+1)
	for i := range x.n {
		row := left.row(i)
		for c := range k {
			row[c] = s.scores.row(i)[c] * s.rows[i]
		}
		row[k] = 1
	}
	for j := range x.p {
		for c := range k {
			right.row(j)[c] = s.vectors.row(j)[c] * s.columns[j]
		}
	}
	offset := make([]bool, k+1)
	offset[k] = true
	for range 2 {
		p.weigh(left, right, w)
		normalsOfRows(x, w, right).solve(left, offset, false)
		normalsOfColumns(x, w, left).solve(right, nil, false)
	}
	return product(left, right), right, right.column(k)
}

// mendOffset takes off what each place has always and no compound could explain: the part of it that stands at right angles to all directions of the fit.
func (p *prepared) mendOffset(s scaled, k int) {
	_, right, always := p.lowRankAndOffset(s, k)
	solve := newSolver(max(1, k))
	along := make([]float64, max(1, k))
	if k > 0 {
		for j, m := range always {
			solve.add(right.row(j)[:k], 1, m)
		}
		solve.solve(along, false)
	}
	for j := range always {
		if k > 0 {
			always[j] -= dot(right.row(j)[:k], along)
		}
		p.offset[j] += always[j] / float64(p.width)
	}
	for i := range p.x.n {
		row := p.x.row(i)
		for j, m := range always {
			row[j] -= m
		}
	}
	for i := range p.full.n {
		row := p.full.row(i)
		for j, m := range always {
			row[j] -= m / float64(p.width)
		}
	}
}

// product is left times right, turned.
func product(left, right table) table {
	out := newTable(left.n, right.n)
	across := right.turned()
	blocks(left.n, func(_, from, to int) { multiplyBy(left.rows(from, to), across, out.rows(from, to)) })
	return out
}

// modelError is the share of a signal by which the model itself may be off.
const modelError = 0.01

// weigh writes one over the variance of each cell of a fit; what is over the range of the detector weighs nothing.
func (p *prepared) weigh(left, right, w table) {
	p.weighEach(left, right, w, func(int, int, []float64, []float64) {})
}

// weighEach does, and tells of each row what fits it and how it weighs.
func (p *prepared) weighEach(left, right, w table, tell func(part, row int, fit, weights []float64)) {
	across := right.turned()
	blocks(w.n, func(part, from, to int) {
		fit := newTable(to-from, w.p)
		multiplyBy(left.rows(from, to), across, fit)
		for i := from; i < to; i++ {
			p.weighRow(i, fit.row(i-from), w.row(i))
			tell(part, i, fit.row(i-from), w.row(i))
		}
	})
}

func (p *prepared) weighRow(i int, fit, weights []float64) {
	for j, f := range fit {
		if f < 0 {
			f = 0
		}
		weights[j] = 1 / (p.a*p.uneven[j] + (p.b+modelError*modelError*f)*f)
	}
	if p.out == nil {
		return
	}
	for j, is := range p.out[i*len(fit) : (i+1)*len(fit)] {
		if is {
			weights[j] = 0
		}
	}
}

// excess is by how many widths the greatest direction of the weighted residual of k components lies above the edge of noise.
func (p *prepared) excess(fit table, k int) float64 {
	z := newTable(fit.n, fit.p)
	each(fit.n, func(_, from, to int) {
		weights := make([]float64, fit.p)
		for i := from; i < to; i++ {
			f, x, row := fit.row(i), p.x.row(i), z.row(i)
			p.weighRow(i, f, weights)
			for j, w := range weights {
				row[j] = (x[j] - f[j]) * math.Sqrt(w)
			}
		}
	})
	mu, s := edge(fit.n-k-1, fit.p-k) // the fit has taken its share of the noise
	return (greatest(gram(z)) - mu) / s
}

// greatest is the largest eigenvalue of a Gram matrix, by powers of it: what is missing of it falls with the square of what is missing of its direction.
func greatest(g *mat.SymDense) float64 {
	n := g.SymmetricDim()
	raw := g.RawSymmetric()
	v, next := make([]float64, n), make([]float64, n)
	for i := range v {
		v[i] = 1 + 0.5*math.Sin(float64(3*i+1)) // no direction in particular
	}
	value := 0.0
	for round := range 400 {
		clear(next)
		for i := range n {
			row := raw.Data[i*raw.Stride+i : i*raw.Stride+n]
			sum := row[0] * v[i]
			for k := 1; k < len(row); k++ {
				sum += row[k] * v[i+k]
				next[i+k] += row[k] * v[i]
			}
			next[i] += sum
		}
		before := value
		value = dot(v, next) / dot(v, v)
		length := math.Sqrt(dot(next, next))
		if !(length > 0) {
			return 0
		}
		for i := range v {
			v[i] = next[i] / length
		}
		if round > 20 && value-before < 1e-7*value {
			break
		}
	}
	return value
}

// estimateAgain takes the noise from what a fit of k components, surely rich enough, leaves; the fit has taken its share of it.
func (p *prepared) estimateAgain(fit table, k int) {
	share := (1 - float64(k)/float64(fit.n)) * (1 - float64(k)/float64(fit.p))
	type bin struct{ squares, means []float64 }
	bins := make([]bin, 16)
	highest := 0.0
	for _, f := range fit.v {
		highest = math.Max(highest, f)
	}
	low := math.Sqrt(p.a)
	step := math.Log(math.Max(highest, 2*low)/low) / float64(len(bins)-1)
	stride := max(1, len(fit.v)/250_000) // a sample is enough for medians
	for stride > 1 && fit.p%stride == 0 {
		stride++ // of all places
	}
	for i := 0; i < len(fit.v); i += stride {
		f, at := fit.v[i], 0
		if f > low {
			at = min(len(bins)-1, 1+int(math.Log(f/low)/step))
		}
		d := p.x.v[i] - f
		if at == 0 {
			d /= math.Sqrt(p.uneven[i%fit.p])
		}
		bins[at].squares, bins[at].means = append(bins[at].squares, d*d), append(bins[at].means, math.Max(0, f))
	}
	for range 4 { // each needs the other
		if len(bins[0].squares) > 200 {
			if a := median(bins[0].squares)/ofMedian/share - p.b*median(bins[0].means); a > 0 {
				p.a = a
			}
		}
		var slopes, weights []float64
		for _, one := range bins[1:] {
			if m := median(one.means); len(one.squares) >= 40 && m > 2*low {
				slopes = append(slopes, (median(one.squares)/ofMedian/share-p.a)/m)
				weights = append(weights, math.Sqrt(float64(len(one.squares))))
			}
		}
		if len(slopes) > 0 {
			p.b = math.Max(0, weightedMedian(slopes, weights))
		}
	}
	// What a fit leaves of places without signal is little, as they weigh most in it: what was quiet before any fit holds it up.
	p.a = math.Max(p.a, quietHolds*p.quietA*float64(p.width))
	p.a = math.Max(p.a, p.least*float64(p.width)*p.factor)
	p.scanA, p.scanB = p.a/float64(p.width)/p.factor, p.b/p.factor
}
