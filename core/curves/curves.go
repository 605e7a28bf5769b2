// Package curves fits calibration functions and reads unknowns from them.
package curves

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Model is the shape of a curve.
type Model string

// The models, y from x.
const (
	Linear          Model = "linear"           // b0 + b1 x
	LinearOrigin    Model = "linear_origin"    // b1 x
	Quadratic       Model = "quadratic"        // b0 + b1 x + b2 x²
	QuadraticOrigin Model = "quadratic_origin" // b1 x + b2 x²
	LogLog          Model = "loglog"           // log10 y = b0 + b1 log10 x
	Average         Model = "average"          // b1 x with b1 the mean of y/x
)

// Models lists them in the order in which they are offered.
var Models = []Model{Linear, LinearOrigin, Quadratic, QuadraticOrigin, LogLog, Average}

// Weight says how much a point counts.
type Weight string

// The weights.
const (
	Unweighted Weight = "none"
	PerX       Weight = "1/x"
	PerX2      Weight = "1/x2"
	PerY       Weight = "1/y"
	PerY2      Weight = "1/y2"
)

// Weights lists them in the order in which they are offered.
var Weights = []Weight{Unweighted, PerX, PerX2, PerY, PerY2}

// Point is one standard: an amount (or ratio of amounts) and its response.
type Point struct {
	X, Y float64
	Out  bool // left out of the fit; still read back from it
}

// Fitted is a point beside the curve.
type Fitted struct {
	X                float64  `json:"x"`
	Y                float64  `json:"y"`
	Out              bool     `json:"out"`
	Weight           float64  `json:"weight"` // scaled so that the weights of the points in use sum to their number
	Fitted           float64  `json:"fitted"`
	Residual         float64  `json:"residual"`
	RelativeResidual *float64 `json:"relative_residual_percent"` // 100 (y - fitted)/y
	BackCalculated   *float64 `json:"back_calculated"`
	DeviationPercent *float64 `json:"deviation_percent"` // 100 (back-calculated - x)/x
}

// Fit is a fitted curve with its statistics. What cannot be had with the points at hand is nil.
type Fit struct {
	Model            Model       `json:"model"`
	Weight           Weight      `json:"weight"`
	Coefficients     []float64   `json:"coefficients"` // in the order of the model's terms
	StandardErrors   []float64   `json:"standard_errors"`
	Covariance       [][]float64 `json:"covariance"`
	ResidualSD       *float64    `json:"residual_sd"`
	R2               *float64    `json:"r2"`
	R2Uncentred      bool        `json:"r2_uncentred"` // through zero: not comparable with the others
	DegreesOfFreedom int         `json:"degrees_of_freedom"`
	Points           []Fitted    `json:"points"`
	LowX             float64     `json:"low_x"` // the least and greatest x of the points in use
	HighX            float64     `json:"high_x"`

	meanWeight float64
	basis      basis
	scaled     []float64     // coefficients on the scaled basis
	scaledCov  *mat.SymDense // their covariance; nil without degrees of freedom
}

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
	case LinearOrigin, Average:
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

// New fits a model to points by weighted least squares, by QR of the scaled design matrix. Weights are scaled to sum to the
// number of points in use; the residual standard deviation is the root of Σ w r² / (n - p).
func New(points []Point, m Model, w Weight) (Fit, error) {
	if !slices.Contains(Models, m) {
		return Fit{}, fmt.Errorf("curves: the model %q is unknown; known are %v", m, Models)
	}
	if !slices.Contains(Weights, w) {
		return Fit{}, fmt.Errorf("curves: the weight %q is unknown; known are %v", w, Weights)
	}
	if m == Average {
		// The mean of y/x is what least squares through zero gives with weights 1/x².
		w = PerX2
	}
	xs, ys, ws, err := inUse(points, m, w)
	if err != nil {
		return Fit{}, err
	}
	f := Fit{Model: m, Weight: w, basis: newBasis(m, xs), LowX: slices.Min(xs), HighX: slices.Max(xs)}
	if m == LogLog {
		f.LowX, f.HighX = math.Pow(10, f.LowX), math.Pow(10, f.HighX)
	}
	if err := enough(xs, f.basis.powers); err != nil {
		return Fit{}, err
	}
	sum := 0.0
	for _, v := range ws {
		sum += v
	}
	f.meanWeight = sum / float64(len(ws))
	for i := range ws {
		ws[i] /= f.meanWeight
	}
	if err := f.solve(xs, ys, ws); err != nil {
		return Fit{}, err
	}
	f.readBack(points)
	return f, nil
}

// inUse are the points that count, with their raw weights, on log axes where the model wants them.
func inUse(points []Point, m Model, w Weight) (xs, ys, ws []float64, err error) {
	for i, p := range points {
		if math.IsNaN(p.X) || math.IsInf(p.X, 0) || math.IsNaN(p.Y) || math.IsInf(p.Y, 0) {
			return nil, nil, nil, fmt.Errorf("curves: point %d (x %g, y %g) is not a finite number; correct it or leave it out", i+1, p.X, p.Y)
		}
		if p.Out {
			continue
		}
		weight := w.at(p.X, p.Y)
		if math.IsInf(weight, 0) || math.IsNaN(weight) || weight < 0 {
			return nil, nil, nil, fmt.Errorf("curves: point %d (x %g, y %g) has no weight %s; leave the point out or choose another weight", i+1, p.X, p.Y, w)
		}
		x, y := p.X, p.Y
		if m == LogLog {
			if x <= 0 || y <= 0 {
				return nil, nil, nil, fmt.Errorf("curves: point %d (x %g, y %g) has no logarithm; leave it out or choose another model", i+1, x, y)
			}
			x, y = math.Log10(x), math.Log10(y)
		}
		xs, ys, ws = append(xs, x), append(ys, y), append(ws, weight)
	}
	return xs, ys, ws, nil
}

func (w Weight) at(x, y float64) float64 {
	switch w {
	case PerX:
		return 1 / x
	case PerX2:
		return 1 / (x * x)
	case PerY:
		return 1 / y
	case PerY2:
		return 1 / (y * y)
	}
	return 1
}

func enough(xs []float64, powers []int) error {
	distinct := slices.Clone(xs)
	slices.Sort(distinct)
	distinct = slices.Compact(distinct)
	if powers[0] > 0 { // a level at zero says nothing about a curve through zero
		distinct = slices.DeleteFunc(distinct, func(x float64) bool { return x == 0 })
	}
	if len(distinct) < len(powers) {
		return fmt.Errorf("curves: there are %d different levels in use; this model needs at least %d", len(distinct), len(powers))
	}
	return nil
}

func (f *Fit) solve(xs, ys, ws []float64) error {
	n, p := len(xs), len(f.basis.powers)
	a, b := mat.NewDense(n, p, nil), mat.NewVecDense(n, nil)
	for i := range xs {
		root := math.Sqrt(ws[i])
		for j, v := range f.basis.at(xs[i]) {
			a.Set(i, j, v*root)
		}
		b.SetVec(i, ys[i]*root)
	}
	var qr mat.QR
	qr.Factorize(a)
	var c mat.VecDense
	if err := qr.SolveVecTo(&c, false, b); err != nil {
		return fmt.Errorf("curves: the levels do not determine the model: %w", err)
	}
	f.scaled = slices.Clone(c.RawVector().Data)
	plain := f.basis.plain()
	var plainC mat.VecDense
	plainC.MulVec(plain, &c)
	f.Coefficients = slices.Clone(plainC.RawVector().Data)

	rss, mean := 0.0, 0.0
	for i := range xs {
		mean += ws[i] * ys[i] / float64(n)
	}
	f.R2Uncentred = f.basis.powers[0] != 0
	if f.R2Uncentred {
		mean = 0
	}
	total := 0.0
	for i := range xs {
		r := ys[i] - dot(f.basis.at(xs[i]), f.scaled)
		rss += ws[i] * r * r
		total += ws[i] * (ys[i] - mean) * (ys[i] - mean)
	}
	if total > 0 {
		r2 := 1 - rss/total
		f.R2 = &r2
	}
	f.DegreesOfFreedom = n - p
	if n == p {
		return nil
	}
	s2 := rss / float64(n-p)
	s := math.Sqrt(s2)
	f.ResidualSD = &s
	var r mat.Dense
	qr.RTo(&r)
	var inverse mat.Dense
	if err := inverse.Inverse(r.Slice(0, p, 0, p)); err != nil {
		return fmt.Errorf("curves: the levels do not determine the model: %w", err)
	}
	f.scaledCov = mat.NewSymDense(p, nil)
	f.scaledCov.SymOuterK(s2, &inverse)
	var half, cov mat.Dense
	half.Mul(plain, f.scaledCov)
	cov.Mul(&half, plain.T())
	f.Covariance = make([][]float64, p)
	f.StandardErrors = make([]float64, p)
	for i := range p {
		f.Covariance[i] = slices.Clone(cov.RawRowView(i))
		f.StandardErrors[i] = math.Sqrt(cov.At(i, i))
	}
	return nil
}

func (f *Fit) readBack(points []Point) {
	f.Points = make([]Fitted, len(points))
	for i, p := range points {
		q := Fitted{X: p.X, Y: p.Y, Out: p.Out}
		if !p.Out {
			q.Weight = f.Weight.at(p.X, p.Y) / f.meanWeight
		}
		y := p.Y
		if f.Model == LogLog {
			y = math.Log10(p.Y)
			q.Fitted = dot(f.basis.at(math.Log10(p.X)), f.scaled)
		} else {
			q.Fitted = f.At(p.X)
		}
		q.Residual = y - q.Fitted
		if y != 0 {
			relative := 100 * q.Residual / y
			q.RelativeResidual = &relative
		}
		if x, err := f.root(p.Y); err == nil {
			q.BackCalculated = &x
			if p.X != 0 {
				d := 100 * (x - p.X) / p.X
				q.DeviationPercent = &d
			}
		}
		f.Points[i] = q
	}
}

// At is the response that the curve gives for x.
func (f Fit) At(x float64) float64 {
	if f.Model == LogLog {
		return math.Pow(10, dot(f.basis.at(math.Log10(x)), f.scaled))
	}
	return dot(f.basis.at(x), f.scaled)
}

// Band is the half width of the 95 % confidence band of the curve at x, or nil without degrees of freedom.
func (f Fit) Band(x float64) *float64 {
	if f.scaledCov == nil || f.Model == LogLog {
		return nil
	}
	h := f.student() * math.Sqrt(quadratic(f.basis.at(x), f.scaledCov))
	return &h
}

func (f Fit) student() float64 {
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(f.DegreesOfFreedom)}.Quantile(0.975)
}

// Reading is an unknown read from a curve.
type Reading struct {
	X             float64     `json:"x"`
	StandardError *float64    `json:"standard_error"`
	CI95          *[2]float64 `json:"ci95"`
}

// Errors of reading an unknown.
var (
	ErrFlat    = errors.New("the curve is flat: no amount can be read from it")
	ErrNoRoot  = errors.New("the curve does not reach this response inside its range")
	ErrTwoRoot = errors.New("the curve reaches this response twice inside its range")
)

// Read finds x for the mean of the given responses of one unknown. Its standard error is, for a line,
// (s/|b1|) √(1/(m w0) + 1/Σw + (ȳ0 - ȳw)²/(b1² Σw(x - x̄w)²)), w0 the weight at the found x; for other models the same by
// the delta method with the whole covariance. The interval is Student's t at n - p degrees of freedom.
func (f Fit) Read(responses []float64) (Reading, error) {
	if len(responses) == 0 {
		return Reading{}, errors.New("curves: an unknown needs at least one response")
	}
	y := 0.0
	for _, v := range responses {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return Reading{}, fmt.Errorf("curves: the response %g of an unknown is not a finite number", v)
		}
		y += v / float64(len(responses))
	}
	x, err := f.root(y)
	if err != nil {
		return Reading{}, fmt.Errorf("curves: response %g: %w", y, err)
	}
	reading := Reading{X: x}
	if f.scaledCov == nil {
		return reading, nil
	}
	at, w0 := x, f.Weight.at(x, y)/f.meanWeight
	if f.Model == LogLog {
		at = math.Log10(x)
	}
	s := *f.ResidualSD
	variance := s*s/(float64(len(responses))*w0) + quadratic(f.basis.at(at), f.scaledCov)
	se := math.Sqrt(variance) / math.Abs(dot(f.basis.slopeAt(at), f.scaled))
	if math.IsNaN(se) || math.IsInf(se, 0) { // a weight of 1/x has no value at or below zero
		return reading, nil
	}
	t := f.student()
	ci := [2]float64{x - t*se, x + t*se}
	if f.Model == LogLog {
		ci = [2]float64{math.Pow(10, at-t*se), math.Pow(10, at+t*se)}
		se *= x * math.Ln10
	}
	reading.StandardError, reading.CI95 = &se, &ci
	return reading, nil
}

// root is the x at which the curve gives y.
func (f Fit) root(y float64) (float64, error) {
	switch f.Model {
	case Quadratic, QuadraticOrigin:
		return f.quadraticRoot(y)
	case LogLog:
		if y <= 0 {
			return 0, ErrNoRoot
		}
		if f.scaled[1] == 0 {
			return 0, ErrFlat
		}
		u := (math.Log10(y) - f.scaled[0]) / f.scaled[1]
		return math.Pow(10, f.basis.centre+f.basis.scale*u), nil
	}
	intercept, slope := 0.0, f.scaled[len(f.scaled)-1]
	if len(f.scaled) == 2 {
		intercept = f.scaled[0]
	}
	if math.Abs(slope) < 1e-14*math.Abs(intercept) || slope == 0 {
		return 0, ErrFlat
	}
	return f.basis.centre + f.basis.scale*(y-intercept)/slope, nil
}

func (f Fit) quadraticRoot(y float64) (float64, error) {
	c, b, a := -y, f.scaled[len(f.scaled)-2], f.scaled[len(f.scaled)-1]
	if len(f.scaled) == 3 {
		c += f.scaled[0]
	}
	var us []float64
	if math.Abs(a) < 1e-13*math.Abs(b) {
		us = []float64{-c / b}
	} else {
		d := b*b - 4*a*c
		if d < 0 {
			return 0, ErrNoRoot
		}
		q := -(b + math.Copysign(math.Sqrt(d), b)) / 2
		us = []float64{q / a}
		if q != 0 {
			us = append(us, c/q)
		}
	}
	var roots []float64
	margin := 1e-9 * (f.HighX - f.LowX)
	for _, u := range us {
		if x := f.basis.centre + f.basis.scale*u; x >= f.LowX-margin && x <= f.HighX+margin {
			roots = append(roots, x)
		}
	}
	switch {
	case len(roots) == 0:
		return 0, ErrNoRoot
	case len(roots) == 2 && math.Abs(roots[0]-roots[1]) > margin:
		return 0, ErrTwoRoot
	}
	return roots[0], nil
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
