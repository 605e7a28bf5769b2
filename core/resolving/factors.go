package resolving

import (
	"math"
	"slices"
)

// factors are components: how much of each there is in each row, and their spectra, neither below 0.
type factors struct {
	amounts    table // n × k
	spectra    table // p × k
	background []bool
	chi2       float64 // weighted squares that they leave, per cell
}

func (f factors) k() int { return f.amounts.p }

// Alternating least squares, by hierarchical sweeps (Cichocki & Phan, IEICE Trans. E92-A (2009) 708) on the scores of the scaled data.
const (
	mostRounds = 200
	sweeps     = 4
	tolerance  = 1e-7
	enough     = 0.5 // squares of noise, of which each cell has one
)

// starts are two sets of factors to begin with, by successive projection (Araújo et al., Chemom. Intell. Lab. Syst. 57 (2001) 65): the purest scans, and the purest
// places.
func (s scaled) starts(k int) (byScans, byPlaces factors) {
	n, p := s.scores.n, s.vectors.n
	rows := newTable(n, k)
	for i := range n {
		copy(rows.row(i), s.scores.row(i)[:k])
	}
	byScans = factors{amounts: newTable(n, k), spectra: newTable(p, k), background: make([]bool, k)}
	for c, i := range purest(rows, 4*math.Sqrt(float64(k))) {
		for j := range p {
			byScans.spectra.row(j)[c] = math.Max(0, dot(s.scores.row(i)[:k], s.vectors.row(j)[:k]))
		}
	}
	columns := newTable(p, k)
	for j := range p {
		for c := range k {
			columns.row(j)[c] = s.vectors.row(j)[c] * math.Sqrt(math.Max(0, s.values[c]))
		}
	}
	byPlaces = factors{amounts: newTable(n, k), spectra: newTable(p, k), background: make([]bool, k)}
	for c, j := range purest(columns, 8*math.Sqrt(float64(k))) {
		for i := range n {
			byPlaces.amounts.row(i)[c] = math.Max(0, dot(s.scores.row(i)[:k], s.vectors.row(j)[:k]))
		}
	}
	return byScans, byPlaces
}

func dot(a, b []float64) float64 {
	sum := 0.0
	for k, v := range a {
		sum += v * b[k]
	}
	return sum
}

// purest picks the rows that stand furthest apart in direction; noise is the length below which a row has none.
func purest(rows table, noise float64) []int {
	longest := 0.0
	for i := range rows.n {
		longest = math.Max(longest, math.Sqrt(dot(rows.row(i), rows.row(i))))
	}
	u := newTable(rows.n, rows.p)
	for i := range rows.n {
		length := math.Sqrt(dot(rows.row(i), rows.row(i)))
		for c, v := range rows.row(i) {
			u.row(i)[c] = v / (length + math.Max(noise, 0.003*longest))
		}
	}
	var picked []int
	for range rows.p {
		best, most := 0, -1.0
		for i := range u.n {
			if l := dot(u.row(i), u.row(i)); l > most {
				best, most = i, l
			}
		}
		picked = append(picked, best)
		if !(most > 0) {
			continue
		}
		axis := slices.Clone(u.row(best))
		for i := range u.n {
			along := dot(u.row(i), axis) / most
			for c := range axis {
				u.row(i)[c] -= along * axis[c]
			}
		}
	}
	return picked
}

// alternate makes the factors fit, from spectra or from amounts, in the scaled data; those that are background run as smooth curves. They come back unscaled.
func (p *prepared) alternate(s scaled, f factors, fromAmounts bool) factors {
	k := f.k()
	c, t := f.amounts, f.spectra
	before := math.Inf(1)
	for round := range mostRounds {
		if round > 0 || !fromAmounts {
			sweep(c, t, func(numerator table) { s.timesSpectra(t, numerator) })
			smoothBackground(c, s.rows, f.background, p.from)
		}
		sweep(t, c, func(numerator table) { s.timesAmounts(c, numerator) })
		now := s.left(c, t)
		if round > 3 && before-now < math.Max(tolerance*now, enough) {
			break
		}
		before = now
	}
	out := factors{amounts: newTable(c.n, k), spectra: newTable(t.n, k), background: slices.Clone(f.background)}
	for i := range c.n {
		for a := range k {
			out.amounts.row(i)[a] = c.row(i)[a] * s.rows[i]
		}
	}
	for j := range t.n {
		for a := range k {
			out.spectra.row(j)[a] = t.row(j)[a] * s.columns[j]
		}
	}
	return out
}

// smallGram is the product of the few columns of a table with each other.
func smallGram(t table) []float64 {
	k := t.p
	g := make([]float64, k*k)
	for i := range t.n {
		row := t.row(i)
		for a := range k {
			for b := range k {
				g[a*k+b] += row[a] * row[b]
			}
		}
	}
	return g
}

// sweep improves one side of the factors, component by component, the other standing still.
func sweep(own, other table, product func(table)) {
	k := own.p
	g := smallGram(other)
	numerator := newTable(own.n, k)
	product(numerator)
	each(own.n, func(_, from, to int) {
		for i := from; i < to; i++ {
			row, n := own.row(i), numerator.row(i)
			for range sweeps {
				for a := range k {
					if !(g[a*k+a] > 0) {
						row[a] = 0
						continue
					}
					slope := n[a]
					for b, v := range g[a*k : (a+1)*k] {
						slope -= v * row[b]
					}
					row[a] = max(0, row[a]+slope/g[a*k+a])
				}
			}
		}
	})
}

// timesSpectra is the scaled data times spectra, through the scores.
func (s scaled) timesSpectra(t, out table) { through(s.vectors, t, s.scores, out) }

// timesAmounts is the scaled data, turned, times amounts.
func (s scaled) timesAmounts(c, out table) { through(s.scores, c, s.vectors, out) }

// through is b (aᵗ c), where a and b have as many columns as components are looked for.
func through(a, c, b, out table) {
	k := out.p
	small := make([]float64, a.p*k)
	for i := range a.n {
		u, v := a.row(i), c.row(i)
		for q := range k { // no more directions than components: the rest is noise
			for r := range k {
				small[q*k+r] += u[q] * v[r]
			}
		}
	}
	each(b.n, func(_, from, to int) {
		for i := from; i < to; i++ {
			u, row := b.row(i), out.row(i)
			for r := range row {
				sum := 0.0
				for q := range k {
					sum += u[q] * small[q*k+r]
				}
				row[r] = sum
			}
		}
	})
}

// left are the squares of the scaled data, of rank k, that factors leave.
func (s scaled) left(c, t table) float64 {
	k := c.p
	total := 0.0
	for q := range k {
		total += s.values[q]
	}
	numerator, cross := newTable(t.n, k), 0.0
	s.timesAmounts(c, numerator)
	for j := range t.n {
		cross += dot(t.row(j), numerator.row(j))
	}
	return total - 2*cross + dot(smallGram(c), smallGram(t))
}

// polish fits exactly weighted, in a few rounds; background stays smooth.
func (p *prepared) polish(f factors, rounds int) factors {
	ones, w := onesOf(p.x.n), newTable(p.x.n, p.x.p)
	for range rounds {
		p.weigh(f.amounts, f.spectra, w)
		n := normalsOfRows(p.x, w, f.spectra)
		n.solve(f.amounts, nil, true)
		if slices.Contains(f.background, true) {
			smoothBackground(f.amounts, ones, f.background, p.from)
			n.solve(f.amounts, f.background, true)
		}
		normalsOfColumns(p.x, w, f.amounts).solve(f.spectra, nil, true)
	}
	f.chi2 = p.misfit(f, w)
	f.normalise()
	return f
}

// misfit are the weighted squares that factors leave, per cell; weights are written over.
func (p *prepared) misfit(f factors, w table) float64 {
	var squares, cells [parts]float64
	p.weighEach(f.amounts, f.spectra, w, func(part, i int, fit, weights []float64) {
		x := p.x.row(i)
		for j, v := range weights {
			if v > 0 {
				d := x[j] - fit[j]
				squares[part] += v * d * d
				cells[part]++
			}
		}
	})
	sum, n := 0.0, 0.0
	for part, v := range squares {
		sum, n = sum+v, n+cells[part]
	}
	return sum / math.Max(1, n)
}

// normalise makes every spectrum sum to 1.
func (f factors) normalise() {
	for a := range f.k() {
		sum := 0.0
		for j := range f.spectra.n {
			sum += f.spectra.row(j)[a]
		}
		if !(sum > 0) {
			continue
		}
		for j := range f.spectra.n {
			f.spectra.row(j)[a] /= sum
		}
		for i := range f.amounts.n {
			f.amounts.row(i)[a] *= sum
		}
	}
}

// column is one column of a table.
func (t table) column(a int) []float64 {
	out := make([]float64, t.n)
	for i := range out {
		out[i] = t.row(i)[a]
	}
	return out
}

// Cosine is that of the angle between two lists of one length; 0 where one of them is nothing.
func Cosine(a, b []float64) float64 {
	length := math.Sqrt(dot(a, a) * dot(b, b))
	if !(length > 0) {
		return 0
	}
	return dot(a, b) / length
}

func onesOf(n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = 1
	}
	return out
}
