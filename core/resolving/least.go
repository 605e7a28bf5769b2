package resolving

import "math"

// solveRows fits each row of the data by the columns of right, weighted: left is what comes out, where positive is asked not below 0.
func solveRows(x, w, right, left table, positive bool) {
	k := right.p
	each(x.n, func(_, from, to int) {
		s := newSolver(k)
		for i := from; i < to; i++ {
			s.clear()
			weights, values := w.row(i), x.row(i)
			for j, weight := range weights {
				s.add(right.row(j), weight, values[j])
			}
			s.solve(left.row(i), positive)
		}
	})
}

// solveColumns is the same for each column of the data.
func solveColumns(x, w, left, right table, positive bool) {
	k := left.p
	each(x.p, func(_, from, to int) {
		solvers := make([]*solver, to-from)
		for j := range solvers {
			solvers[j] = newSolver(k)
		}
		for i := range x.n {
			u, weights, values := left.row(i), w.row(i), x.row(i)
			for j := from; j < to; j++ {
				solvers[j-from].add(u, weights[j], values[j])
			}
		}
		for j := from; j < to; j++ {
			solvers[j-from].solve(right.row(j), positive)
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
