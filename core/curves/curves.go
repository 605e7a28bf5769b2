// Package curves fits calibration functions and reads unknowns from them.
package curves

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
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
	OnePoint        Model = "one_point"        // b1 x with b1 the mean of y/x at one level
)

// Models lists them in the order in which they are offered.
var Models = []Model{Linear, LinearOrigin, Quadratic, QuadraticOrigin, LogLog, Average, OnePoint}

// Weight says how much a point counts.
type Weight string

// The weights.
const (
	Unweighted Weight = "none"
	PerX       Weight = "1/x"
	PerX2      Weight = "1/x2"
	PerY       Weight = "1/y"
	PerY2      Weight = "1/y2"
	// The variance of the replicates: modelled over x, or of each level as it was measured.
	PerVariance         Weight = "1/s2"
	PerMeasuredVariance Weight = "1/s2_measured"
)

// Weights lists them in the order in which they are offered.
var Weights = []Weight{Unweighted, PerX, PerX2, PerY, PerY2, PerVariance, PerMeasuredVariance}

// Point is one standard: an amount (or ratio of amounts) and its response.
type Point struct {
	X, Y float64
	Out  bool // left out of the fit; still read back from it
	// Level is the level that it is a replicate of, where X is that level rescaled; nil means X itself. It tells replicates, never a computed X.
	Level *float64
}

// level is what tells replicates from one another.
func (p Point) level() float64 {
	if p.Level != nil {
		return *p.Level
	}
	return p.X
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
	// Studentised is the residual over its own standard error, from a fit without the point; OutlierP its two-sided p for the furthest
	// of all points.
	Studentised *float64 `json:"studentised"`
	OutlierP    *float64 `json:"outlier_p"`

	level float64
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
	// Variance is that of the responses, where they are weighted by it.
	Variance *VarianceModel `json:"variance,omitempty"`

	weighting weighting
	averaged  bool     // through the means of replicates
	singleSD  *float64 // of single responses about the curve, at weight 1, where that is not the residual SD
	// singleFreedom is the degrees of freedom of singleSD.
	singleFreedom int
	t95           float64
	meanWeight    float64
	basis         basis
	scaled        []float64     // coefficients on the scaled basis
	scaledCov     *mat.SymDense // their covariance; nil without degrees of freedom
}

// New fits a model to points by weighted least squares, by QR of the scaled design matrix. Weights are scaled to sum to the
// number of points in use; the residual standard deviation is the root of Σ w r² / (n - p).
func New(points []Point, m Model, w Weight) (Fit, error) {
	if !slices.Contains(Models, m) {
		return Fit{}, fmt.Errorf("the model %q is unknown; known are %v", m, Models)
	}
	if !slices.Contains(Weights, w) {
		return Fit{}, fmt.Errorf("the weight %q is unknown; known are %v", w, Weights)
	}
	if m == Average || m == OnePoint {
		// The mean of y/x is what least squares through zero gives with weights 1/x².
		w = PerX2
	}
	g, err := newWeighting(points, m, w)
	if err != nil {
		return Fit{}, err
	}
	return weightedBy(points, m, g)
}

// weightedBy is New with a weighting that is known already, as of the replicates behind means.
func weightedBy(points []Point, m Model, g weighting) (Fit, error) {
	xs, ys, ws, err := inUse(points, m, g)
	if err != nil {
		return Fit{}, err
	}
	if len(xs) == 0 {
		return Fit{}, errors.New("no point is in use; take at least one back in")
	}
	f := Fit{Model: m, Weight: g.weight, weighting: g, Variance: g.told(), basis: newBasis(m, xs), LowX: slices.Min(xs), HighX: slices.Max(xs)}
	if m == LogLog {
		f.LowX, f.HighX = math.Pow(10, f.LowX), math.Pow(10, f.HighX)
	}
	if err := enough(xs, f.basis.powers); err != nil {
		return Fit{}, err
	}
	if m == OnePoint && f.LowX != f.HighX {
		return Fit{}, fmt.Errorf("one point stands on one level, but levels from %g to %g are in use; leave the others out, or choose the mean response factor", f.LowX, f.HighX)
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
	f.studentised()
	return f, nil
}

// NewAveraged fits the means of the replicates of each level, and reads every point back from that curve.
func NewAveraged(points []Point, m Model, w Weight) (Fit, error) {
	var means []Point
	for _, level := range levelsOf(points) {
		x, y, n := 0.0, 0.0, 0.0
		for _, p := range points {
			if !p.Out && p.level() == level {
				x, y, n = x+p.X, y+p.Y, n+1
			}
		}
		mean := Point{X: x / n, Y: y / n, Level: &level}
		if n > 0 && allAt(points, level) {
			mean.X = level
		}
		means = append(means, mean)
	}
	if m == Average || m == OnePoint {
		w = PerX2
	}
	g, err := newWeighting(points, m, w)
	if err != nil {
		return Fit{}, err
	}
	f, err := weightedBy(means, m, g)
	if err != nil {
		return f, err
	}
	f.averaged = true
	f.readBack(points)
	f.spreadOfSingles()
	return f, nil
}

// allAt tells whether the points of a level in use all stand exactly at it.
func allAt(points []Point, level float64) bool {
	return !slices.ContainsFunc(points, func(p Point) bool { return !p.Out && p.level() == level && p.X != level })
}

// spreadOfSingles is for a curve through means: an unknown is read from its own responses, which scatter more than means do.
func (f *Fit) spreadOfSingles() {
	sum, n := 0.0, 0
	for _, p := range f.inUse() {
		sum, n = sum+p.Weight*p.Residual*p.Residual, n+1
	}
	if freedom := n - len(f.Coefficients); freedom > 0 && f.ResidualSD != nil {
		s := math.Sqrt(sum / float64(freedom))
		f.singleSD, f.singleFreedom = &s, freedom
	}
}

// inUse are the points that count, with their raw weights, on log axes where the model wants them.
func inUse(points []Point, m Model, g weighting) (xs, ys, ws []float64, err error) {
	for i, p := range points {
		if math.IsNaN(p.X) || math.IsInf(p.X, 0) || math.IsNaN(p.Y) || math.IsInf(p.Y, 0) {
			return nil, nil, nil, fmt.Errorf("point %d (x %g, y %g) is not a finite number; correct it or leave it out", i+1, p.X, p.Y)
		}
		if p.Out {
			continue
		}
		weight := g.at(p.X, p.Y)
		if math.IsInf(weight, 0) || math.IsNaN(weight) || weight < 0 {
			return nil, nil, nil, fmt.Errorf("point %d (x %g, y %g) has no weight %s; leave the point out or choose another weight", i+1, p.X, p.Y, g.weight)
		}
		x, y := p.X, p.Y
		if m == LogLog {
			if x <= 0 || y <= 0 {
				return nil, nil, nil, fmt.Errorf("point %d (x %g, y %g) has no logarithm; leave it out or choose another model", i+1, x, y)
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
		if x <= 0 {
			return math.NaN() // a square would hide it
		}
		return 1 / (x * x)
	case PerY:
		return 1 / y
	case PerY2:
		if y <= 0 {
			return math.NaN()
		}
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
		return fmt.Errorf("levels in use: %d; this model needs at least %d that differ", len(distinct), len(powers))
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
		return fmt.Errorf("the levels do not determine the model: %w", err)
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
	f.DegreesOfFreedom, f.t95 = n-p, student95(n-p)
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
		return fmt.Errorf("the levels do not determine the model: %w", err)
	}
	f.scaledCov = mat.NewSymDense(p, nil)
	f.scaledCov.SymOuterK(s2, &inverse)
	// As a product with its own transpose the covariance keeps variances at or above 0, however large the levels are.
	var half, cov mat.Dense
	half.Mul(plain, &inverse)
	half.Scale(s, &half)
	cov.Mul(&half, half.T())
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
		q := Fitted{X: p.X, Y: p.Y, Out: p.Out, level: p.level()}
		if !p.Out {
			q.Weight = f.weighting.at(p.X, p.Y) / f.meanWeight
		}
		y := p.Y
		if f.Model == LogLog && (p.X <= 0 || p.Y <= 0) {
			f.Points[i] = q // without a logarithm it has no place beside the curve; it is never in use
			continue
		}
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
