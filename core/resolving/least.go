package resolving

import (
	"math"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas64"
)

// normals are the normal equations of many small systems, one a row: the upper halves of their squares, and their right sides.
type normals struct{ g, h table }

// blockRows are so many rows that what is made of them stays near the processor.
const blockRows = 64

// blocks does work on few rows at a time, beside each other.
func blocks(n int, work func(part, from, to int)) {
	each(n, func(part, from, to int) {
		for ; from < to; from += blockRows {
			work(part, from, min(from+blockRows, to))
		}
	})
}

// normalsOfRows are those of each row of the data, to be explained by the columns of right.
func normalsOfRows(x, w, right table) normals {
	k := right.p
	n := normals{newTable(x.n, k*(k+1)/2), newTable(x.n, k)}
	byG, byH := squares(right).turned(), right.turned()
	blocks(x.n, func(_, from, to int) {
		weights := w.rows(from, to)
		multiply(weights, byG, n.g.rows(from, to))
		multiply(weighed(x.rows(from, to), weights), byH, n.h.rows(from, to))
	})
	return n
}

// normalsOfColumns are those of each column of the data, to be explained by the columns of left.
func normalsOfColumns(x, w, left table) normals {
	k := left.p
	var pieces [parts]normals
	byG := squares(left)
	blocks(x.n, func(part, from, to int) {
		if pieces[part].g.v == nil {
			pieces[part] = normals{newTable(k*(k+1)/2, x.p), newTable(k, x.p)}
		}
		weights := w.rows(from, to)
		addTurned(byG.rows(from, to), weights, pieces[part].g)
		addTurned(left.rows(from, to), weighed(x.rows(from, to), weights), pieces[part].h)
	})
	sum := normals{newTable(k*(k+1)/2, x.p), newTable(k, x.p)}
	for _, piece := range pieces { // always in this order
		for i, v := range piece.g.v {
			sum.g.v[i] += v
		}
		for i, v := range piece.h.v {
			sum.h.v[i] += v
		}
	}
	return normals{sum.g.turned(), sum.h.turned()}
}

// solve writes the answers, not below 0 where positive is asked. Those that stand are taken as they are in out; nil are none.
func (n normals) solve(out table, stands []bool, positive bool) {
	k := out.p
	var free []int
	for a := range k {
		if stands == nil || !stands[a] {
			free = append(free, a)
		}
	}
	if len(free) == 0 {
		return
	}
	each(out.n, func(_, from, to int) {
		s := newSolver(len(free))
		answer := make([]float64, len(free))
		for i := from; i < to; i++ {
			g, row := n.g.row(i), out.row(i)
			for p, a := range free {
				s.h[p] = n.h.row(i)[a]
				for b, is := range stands {
					if is {
						s.h[p] -= g[upper(k, a, b)] * row[b]
					}
				}
				for q := p; q < len(free); q++ {
					s.g[p*s.k+q] = g[upper(k, a, free[q])]
				}
			}
			s.solve(answer, positive)
			for p, a := range free {
				row[a] = answer[p]
			}
		}
	})
}

// upper is where a pair stands in the upper half of a square of k.
func upper(k, a, b int) int {
	if a > b {
		a, b = b, a
	}
	return a*k - a*(a-1)/2 + b - a
}

// squares are the products of each row's numbers with each other, the upper half of the square.
func squares(t table) table {
	k := t.p
	out := newTable(t.n, k*(k+1)/2)
	for i := range t.n {
		u, row, at := t.row(i), out.row(i), 0
		for a := range k {
			for b := a; b < k; b++ {
				row[at] = u[a] * u[b]
				at++
			}
		}
	}
	return out
}

func weighed(x, w table) table {
	out := newTable(x.n, x.p)
	for i, v := range x.v {
		out.v[i] = v * w.v[i]
	}
	return out
}

// multiply writes a times b, turned: rows that are as long as the sums.
func multiply(a, b, out table) {
	blas64.Gemm(blas.NoTrans, blas.Trans, 1, a.general(), b.general(), 0, out.general())
}

// multiplyBy writes a times b.
func multiplyBy(a, b, out table) {
	blas64.Gemm(blas.NoTrans, blas.NoTrans, 1, a.general(), b.general(), 0, out.general())
}

// addTurned adds a, turned, times b.
func addTurned(a, b, out table) {
	blas64.Gemm(blas.Trans, blas.NoTrans, 1, a.general(), b.general(), 1, out.general())
}

func (t table) general() blas64.General {
	return blas64.General{Rows: t.n, Cols: t.p, Stride: t.p, Data: t.v}
}

func (t table) turned() table {
	out := newTable(t.p, t.n)
	for i := range t.n {
		for j, v := range t.row(i) {
			out.row(j)[i] = v
		}
	}
	return out
}

// solver solves small least squares by their normal equations.
type solver struct {
	k      int
	g      []float64 // k × k
	h      []float64
	lower  []float64
	fixed  []bool // at 0
	at, by []float64
	chosen []int
}

func newSolver(k int) *solver {
	return &solver{k: k, g: make([]float64, k*k), h: make([]float64, k), lower: make([]float64, k*k), fixed: make([]bool, k), at: make([]float64, k), by: make([]float64, k), chosen: make([]int, 0, k)}
}

func (s *solver) clear() {
	clear(s.g)
	clear(s.h)
}

// add takes one equation: u · answer = v, with a weight.
func (s *solver) add(u []float64, weight, v float64) {
	for a, ua := range u {
		wa := weight * ua
		if wa == 0 {
			continue
		}
		s.h[a] += wa * v
		for b := a; b < s.k; b++ {
			s.g[a*s.k+b] += wa * u[b]
		}
	}
}

// solve writes the answer. Not below 0 it is by active sets (Lawson and Hanson; Bro and de Jong, J. Chemom. 11 (1997) 393).
func (s *solver) solve(out []float64, positive bool) {
	for a := range s.k {
		for b := range a {
			s.g[a*s.k+b] = s.g[b*s.k+a]
		}
	}
	if !positive {
		s.chosen = s.chosen[:0]
		for a := range s.k {
			s.chosen = append(s.chosen, a)
		}
		s.among(out)
		return
	}
	clear(out)
	for a := range s.fixed {
		s.fixed[a] = true
	}
	scale := 0.0
	for a := range s.k {
		scale = math.Max(scale, math.Abs(s.h[a]))
	}
	for range 5 * s.k {
		best, most := -1, 1e-12*scale
		for a := range s.k {
			if !s.fixed[a] {
				continue
			}
			slope := s.h[a]
			for b := range s.k {
				slope -= s.g[a*s.k+b] * out[b]
			}
			if slope > most && s.g[a*s.k+a] > 0 {
				best, most = a, slope
			}
		}
		if best < 0 {
			return
		}
		s.fixed[best] = false
		s.within(out)
	}
}

// within solves for those that are free, and fixes at 0 what would fall below.
func (s *solver) within(out []float64) {
	for range s.k + 1 {
		s.chosen = s.chosen[:0]
		for a := range s.k {
			if !s.fixed[a] {
				s.chosen = append(s.chosen, a)
			}
		}
		s.among(s.at)
		share := 1.0
		for _, a := range s.chosen {
			if s.at[a] <= 0 && out[a] > s.at[a] {
				share = math.Min(share, out[a]/(out[a]-s.at[a]))
			}
		}
		all := true
		for _, a := range s.chosen {
			out[a] += share * (s.at[a] - out[a])
			if s.at[a] <= 0 && out[a] <= 1e-14*math.Abs(s.at[a]) {
				out[a], s.fixed[a], all = 0, true, false
			}
		}
		if all && share == 1 {
			return
		}
	}
}

// among solves for those that are chosen, by Cholesky; the others stay as they are in out, where they are not read.
func (s *solver) among(out []float64) {
	n, trace := len(s.chosen), 0.0
	for _, a := range s.chosen {
		trace += s.g[a*s.k+a]
	}
	ridge := 1e-13 * trace
	for p := range n {
		for q := range p + 1 {
			v := s.g[s.chosen[p]*s.k+s.chosen[q]]
			if p == q {
				v += ridge
			}
			for r := range q {
				v -= s.lower[p*s.k+r] * s.lower[q*s.k+r]
			}
			if p == q {
				s.lower[p*s.k+p] = math.Sqrt(math.Max(v, 1e-300))
			} else {
				s.lower[p*s.k+q] = v / s.lower[q*s.k+q]
			}
		}
	}
	for p := range n {
		v := s.h[s.chosen[p]]
		for r := range p {
			v -= s.lower[p*s.k+r] * s.by[r]
		}
		s.by[p] = v / s.lower[p*s.k+p]
	}
	for p := n - 1; p >= 0; p-- {
		v := s.by[p]
		for r := p + 1; r < n; r++ {
			v -= s.lower[r*s.k+p] * out[s.chosen[r]]
		}
		out[s.chosen[p]] = v / s.lower[p*s.k+p]
	}
}
