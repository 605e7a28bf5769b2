package resolving

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/mat"
)

// Tolerant resolves by PARAFAC2, in which profiles of a sample may shift and change their shape as long as they overlap each other alike in all samples (Harshman, UCLA
// Working Papers in Phonetics 22 (1972) 30; Kiers, ten Berge & Bro, J. Chemom. 13 (1999) 275). It is a second opinion on the spectra: where compounds shift each on its
// own they are worse. Amounts are then fitted as for any spectra.
func Tolerant(s Stack, o Options) (Result, error) {
	out := Result{Agree: 1, Components: []Component{}, Doubts: []string{}}
	if o.Compounds < 0 || o.Compounds > Most {
		return out, fmt.Errorf("between 1 and %d compounds are resolved, not %d", Most, o.Compounds)
	}
	if len(s.Samples) < 2 {
		return out, fmt.Errorf("the shift-tolerant model compares samples; one alone is resolved by als")
	}
	p := prepare(s)
	sc := p.scale(Most + 2)
	k := o.Compounds
	out.ChosenBy = "given"
	if k == 0 {
		k, out.Excess = p.number(sc, Most)
		out.ChosenBy = "the largest eigenvalue of what is left, against that of noise"
	}
	out.ExplainedBy = p.explainedBy(sc)
	out.Cells = [2]int{p.x.n, p.x.p}
	if k == 0 {
		out.Doubts = append(out.Doubts, "Nothing stands out of the noise here.")
		return out, nil
	}
	for i := range s.Samples {
		if p.from[i+1]-p.from[i] < k {
			return out, fmt.Errorf("%s has fewer scans than there are components", s.Samples[i].Name)
		}
	}
	p.mendOffset(sc, k)
	start, _ := p.factorsOf(sc, k)
	f := p.tolerant(sc, start)
	f.normalise()
	f.background = p.runsThrough(f.amounts)
	out.NoiseA, out.NoiseB = p.scanA, p.scanB
	p.report(&out, f)
	return out, nil
}

// tolerant fits the model, from factors to begin with.
func (p *prepared) tolerant(s scaled, start factors) factors {
	k, samples := start.k(), len(p.stack.Samples)
	data := make([]*mat.Dense, samples)
	for i := range data {
		n := p.from[i+1] - p.from[i]
		data[i] = mat.NewDense(n, p.x.p, nil)
		for r := range n {
			for j, v := range p.x.row(p.from[i] + r) {
				data[i].Set(r, j, v/s.columns[j])
			}
		}
	}
	spectra := newTable(p.x.p, k)
	for j := range p.x.p {
		for a := range k {
			spectra.row(j)[a] = start.spectra.row(j)[a] / s.columns[j]
		}
	}
	shape, sizes := identity(k), newTable(samples, k)
	for i := range samples {
		for r := p.from[i]; r < p.from[i+1]; r++ {
			for a, v := range start.amounts.row(r) {
				sizes.row(i)[a] += v * v
			}
		}
		for a := range k {
			sizes.row(i)[a] = math.Sqrt(sizes.row(i)[a])
		}
	}
	m := tolerantModel{data: data, spectra: spectra, shape: shape, sizes: sizes, turns: make([]*mat.Dense, samples)}
	m.fit()
	out := factors{amounts: newTable(p.x.n, k), spectra: newTable(p.x.p, k), background: make([]bool, k)}
	for j := range p.x.p {
		for a := range k {
			out.spectra.row(j)[a] = m.spectra.row(j)[a] * s.columns[j]
		}
	}
	for i := range samples {
		var profiles mat.Dense
		profiles.Mul(m.turns[i], m.shape)
		for r := range p.from[i+1] - p.from[i] {
			for a := range k {
				out.amounts.row(p.from[i] + r)[a] = math.Max(0, profiles.At(r, a)*m.sizes.row(i)[a])
			}
		}
	}
	return out
}

func identity(k int) *mat.Dense {
	out := mat.NewDense(k, k, nil)
	for a := range k {
		out.Set(a, a, 1)
	}
	return out
}

// tolerantModel is data of sample i ≈ turns_i · shape · diag(sizes_i) · spectraᵗ, where the columns of turns_i stand at right angles.
type tolerantModel struct {
	data    []*mat.Dense
	turns   []*mat.Dense
	shape   *mat.Dense // k × k
	sizes   table      // samples × k, not below 0
	spectra table      // places × k, not below 0
}

const tolerantRounds = 150

func (m *tolerantModel) fit() {
	k := m.spectra.p
	before := math.Inf(1)
	for round := range tolerantRounds {
		small := make([]*mat.Dense, len(m.data)) // k × places
		a := mat.NewDense(m.spectra.n, k, m.spectra.v)
		each(len(m.data), func(_, from, to int) {
			for i := from; i < to; i++ {
				var along, turned mat.Dense
				along.Mul(m.data[i], a)
				for r := range along.RawMatrix().Rows {
					for c := range k {
						along.Set(r, c, along.At(r, c)*m.sizes.row(i)[c])
					}
				}
				turned.Mul(&along, m.shape.T())
				m.turns[i] = nearestTurn(&turned)
				small[i] = new(mat.Dense)
				small[i].Mul(m.turns[i].T(), m.data[i])
			}
		})
		now := m.inner(small)
		if round > 5 && before-now < 1e-8*math.Max(now, 1e-300) {
			return
		}
		before = now
	}
}

// nearestTurn is the matrix with columns at right angles that is nearest to one.
func nearestTurn(d *mat.Dense) *mat.Dense {
	var svd mat.SVD
	var out mat.Dense
	if !svd.Factorize(d, mat.SVDThin) {
		return d
	}
	var u, v mat.Dense
	svd.UTo(&u)
	svd.VTo(&v)
	out.Mul(&u, v.T())
	return &out
}

// inner improves shape, spectra and sizes for small_i ≈ shape · diag(sizes_i) · spectraᵗ, each in turn, and returns the squares that are left.
func (m *tolerantModel) inner(small []*mat.Dense) float64 {
	k, places := m.spectra.p, m.spectra.n
	// Shape, without sign: each of its rows by all samples and places.
	for r := range k {
		s := newSolver(k)
		u := make([]float64, k)
		for i := range small {
			for j := range places {
				for a := range k {
					u[a] = m.sizes.row(i)[a] * m.spectra.row(j)[a]
				}
				s.add(u, 1, small[i].At(r, j))
			}
		}
		row := make([]float64, k)
		s.solve(row, false)
		m.shape.SetRow(r, row)
	}
	for a := range k { // of length 1: how much there is say the sizes
		length := mat.Norm(m.shape.ColView(a), 2)
		if !(length > 0) {
			continue
		}
		for r := range k {
			m.shape.Set(r, a, m.shape.At(r, a)/length)
		}
		for i := range small {
			m.sizes.row(i)[a] *= length
		}
	}
	each(places, func(_, from, to int) {
		s, u := newSolver(k), make([]float64, k)
		for j := from; j < to; j++ {
			s.clear()
			for i := range small {
				for r := range k {
					for a := range k {
						u[a] = m.shape.At(r, a) * m.sizes.row(i)[a]
					}
					s.add(u, 1, small[i].At(r, j))
				}
			}
			s.solve(m.spectra.row(j), true)
		}
	})
	left := make([]float64, len(small))
	each(len(small), func(_, from, to int) {
		s, u := newSolver(k), make([]float64, k)
		for i := from; i < to; i++ {
			s.clear()
			for j := range places {
				for r := range k {
					for a := range k {
						u[a] = m.shape.At(r, a) * m.spectra.row(j)[a]
					}
					s.add(u, 1, small[i].At(r, j))
				}
			}
			s.solve(m.sizes.row(i), true)
			for j := range places {
				for r := range k {
					d := small[i].At(r, j)
					for a := range k {
						d -= m.shape.At(r, a) * m.sizes.row(i)[a] * m.spectra.row(j)[a]
					}
					left[i] += d * d
				}
			}
		}
	})
	total := 0.0
	for _, v := range left {
		total += v
	}
	return total
}
