package resolving

import (
	"math"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas64"
)

// solveRows fits each row of the data by the columns of right, weighted: left is what comes out, where positive is asked not below 0.
func solveRows(x, w, right, left table, positive bool) {
	solveAll(times(w, squares(right), false), times(weighed(x, w), right, false), left, positive)
}

// solveColumns is the same for each column of the data.
func solveColumns(x, w, left, right table, positive bool) {
	solveAll(times(w, squares(left), true), times(weighed(x, w), left, true), right, positive)
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
	each(len(x.v), func(_, from, to int) {
		for i := from; i < to; i++ {
			out.v[i] = x.v[i] * w.v[i]
		}
	})
	return out
}

// narrow is how many columns a table has at most that is better turned before it is multiplied by: rows are then as long as the sums.
const narrow = 32

// times is the product of two tables, the first turned where that is asked.
func times(a, b table, turned bool) table {
	n, way, wayB, by := a.n, blas.NoTrans, blas.NoTrans, b
	switch {
	case turned:
		n, way = a.p, blas.Trans
	case b.p <= narrow && b.n > b.p:
		wayB, by = blas.Trans, b.turned()
	}
	out := newTable(n, b.p)
	general := func(t table) blas64.General {
		return blas64.General{Rows: t.n, Cols: t.p, Stride: t.p, Data: t.v}
	}
	blas64.Gemm(way, wayB, 1, general(a), general(by), 0, general(out))
	return out
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

// solveAll solves one small system a row: its normal equations stand in g (upper half) and h.
func solveAll(g, h, out table, positive bool) {
	k := out.p
	each(out.n, func(_, from, to int) {
		s := newSolver(k)
		for i := from; i < to; i++ {
			at := 0
			for a := range k {
				copy(s.g[a*k+a:(a+1)*k], g.row(i)[at:])
				at += k - a
			}
			copy(s.h, h.row(i))
			s.solve(out.row(i), positive)
		}
	})
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
