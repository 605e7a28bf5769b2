package curves

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// basis are the terms of a model in u = (x - centre)/scale, so that the design matrix is well conditioned.
type basis struct {
	powers        []int
	centre, scale float64
}

func newBasis(m Model, xs []float64) basis {
	b := basis{scale: 1}
	switch m {
	case Linear, LogLog:
		b.powers = []int{0, 1}
	case LinearOrigin, Average, OnePoint:
		b.powers = []int{1}
	case Quadratic:
		b.powers = []int{0, 1, 2}
	case QuadraticOrigin:
		b.powers = []int{1, 2}
	}
	if b.powers[0] == 0 {
		sum := 0.0
		for _, x := range xs {
			sum += x
		}
		b.centre = sum / float64(len(xs))
	}
	widest := 0.0
	for _, x := range xs {
		widest = math.Max(widest, math.Abs(x-b.centre))
	}
	if widest > 0 {
		b.scale = widest
	}
	return b
}

func (b basis) at(x float64) []float64 {
	u := (x - b.centre) / b.scale
	row := make([]float64, len(b.powers))
	for j, p := range b.powers {
		row[j] = math.Pow(u, float64(p))
	}
	return row
}

func (b basis) slopeAt(x float64) []float64 {
	u := (x - b.centre) / b.scale
	row := make([]float64, len(b.powers))
	for j, p := range b.powers {
		if p > 0 {
			row[j] = float64(p) * math.Pow(u, float64(p-1)) / b.scale
		}
	}
	return row
}

// plain is the matrix that turns coefficients on the scaled basis into those of the plain powers of x.
func (b basis) plain() *mat.Dense {
	n := len(b.powers)
	t := mat.NewDense(n, n, nil)
	for j, p := range b.powers {
		// ((x - c)/s)^p expanded; a centre other than zero comes only with all powers from 0 up.
		for i, q := range b.powers {
			if q > p || (b.centre == 0 && q != p) {
				continue
			}
			t.Set(i, j, binomial(p, q)*math.Pow(-b.centre, float64(p-q))/math.Pow(b.scale, float64(p)))
		}
	}
	return t
}

func binomial(n, k int) float64 {
	b := 1.0
	for i := range k {
		b = b * float64(n-i) / float64(i+1)
	}
	return b
}

func dot(a, b []float64) float64 {
	s := 0.0
	for i := range a {
		s += a[i] * b[i]
	}
	return s
}

func quadratic(g []float64, c *mat.SymDense) float64 {
	v := mat.NewVecDense(len(g), g)
	return mat.Inner(v, c, v)
}
