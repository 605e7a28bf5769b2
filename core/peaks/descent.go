package peaks

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// descend is the method of Levenberg and Marquardt (Marquardt, J. Soc. Indust. Appl. Math. 11 (1963) 431), with the damping scaled by
// the diagonal. columnOf says which column each parameter moves with. It is not ok where it has not settled.
func (f *fitting) descend(start []float64, columnOf []int, columns int) attempt {
	p, ok := slices.Clone(start), false
	f.bound(p)
	n := len(f.t)
	model, tried := make([]float64, n), make([]float64, n)
	jacobian := make([][]float64, n)
	cells := make([]float64, n*columns)
	for j := range jacobian {
		jacobian[j] = cells[j*columns : (j+1)*columns]
	}
	normal, gradient := mat.NewSymDense(columns, nil), mat.NewVecDense(columns, nil)
	damping := 1e-3
	f.model(p, columnOf, model, jacobian)
	sum := f.squares(model)
	for range fitRounds {
		f.normal(jacobian, model, normal, gradient)
		better := false
		for ; damping < 1e12; damping *= 4 {
			step, solved := dampedStep(normal, gradient, damping)
			if !solved {
				continue
			}
			next := slices.Clone(p)
			for i := range next {
				next[i] += step.AtVec(columnOf[i])
			}
			f.bound(next)
			f.model(next, columnOf, tried, nil)
			if s := f.squares(tried); s < sum {
				better = true
				ok = sum-s < fitSettled*sum
				p, sum = next, s
				break
			}
		}
		if !better {
			ok = true // nothing near is better: this is the place
			break
		}
		f.model(p, columnOf, model, jacobian)
		if ok {
			break
		}
		damping = max(1e-12, damping/10)
	}
	f.model(p, columnOf, model, jacobian)
	f.normal(jacobian, model, normal, gradient)
	cov := mat.NewSymDense(columns, nil)
	ok = inverse(normal, cov) && ok
	for i := range f.peaks { // a shape that has vanished explains nothing
		ok = ok && p[perPeak*i] > f.initial[perPeak*i]-4.9
	}
	return attempt{p, sum, cov, columnOf, columns, ok}
}

func (f *fitting) squares(model []float64) float64 {
	sum := 0.0
	for j, y := range f.y {
		sum += (y - model[j]) * (y - model[j])
	}
	return sum
}

// normal is JᵀJ and Jᵀr; a row has few columns that are not zero.
func (f *fitting) normal(jacobian [][]float64, model []float64, into *mat.SymDense, gradient *mat.VecDense) {
	columns := gradient.Len()
	a, g := make([]float64, columns*columns), make([]float64, columns)
	filled := make([]int, 0, columns)
	for j, row := range jacobian {
		filled = filled[:0]
		for k, x := range row {
			if x != 0 {
				filled = append(filled, k)
			}
		}
		r := f.y[j] - model[j]
		for x, k := range filled {
			g[k] += row[k] * r
			for _, l := range filled[x:] {
				a[k*columns+l] += row[k] * row[l]
			}
		}
	}
	for k := range columns {
		gradient.SetVec(k, g[k])
		for l := k; l < columns; l++ {
			into.SetSym(k, l, a[k*columns+l])
		}
	}
}

func dampedStep(normal *mat.SymDense, gradient *mat.VecDense, damping float64) (*mat.VecDense, bool) {
	damped := mat.NewSymDense(gradient.Len(), nil)
	damped.CopySym(normal)
	for k := range gradient.Len() {
		damped.SetSym(k, k, normal.At(k, k)*(1+damping)+1e-300)
	}
	var c mat.Cholesky
	if !c.Factorize(damped) {
		return nil, false
	}
	step := mat.NewVecDense(gradient.Len(), nil)
	return step, c.SolveVecTo(step, gradient) == nil
}

// inverse scales to a unit diagonal first, since areas and times differ by orders of magnitude.
func inverse(normal, into *mat.SymDense) bool {
	n := normal.SymmetricDim()
	scaled := mat.NewSymDense(n, nil)
	size := make([]float64, n)
	for k := range n {
		size[k] = math.Sqrt(normal.At(k, k))
		if !(size[k] > 0) {
			return false
		}
	}
	for k := range n {
		for l := k; l < n; l++ {
			scaled.SetSym(k, l, normal.At(k, l)/(size[k]*size[l]))
		}
	}
	var c mat.Cholesky
	if !c.Factorize(scaled) || c.InverseTo(into) != nil {
		return false
	}
	for k := range n {
		for l := k; l < n; l++ {
			into.SetSym(k, l, into.At(k, l)/(size[k]*size[l]))
		}
	}
	return true
}
