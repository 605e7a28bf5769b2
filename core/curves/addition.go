package curves

import (
	"errors"
	"fmt"
	"math"
)

// Addition is the outcome of a standard addition: what a sample held before anything was added to it.
type Addition struct {
	Fit           Fit         `json:"fit"`
	X             float64     `json:"x"`
	StandardError *float64    `json:"standard_error"`
	CI95          *[2]float64 `json:"ci95"`
}

// StandardAddition extrapolates responses against what was added to zero response: x = b0/b1, with
// s = (s_y/b1) √(1/Σw + ȳw²/(b1² Σw(x − x̄w)²)), means and sums weighted by w, whose mean is 1, and s_y the weighted residual standard deviation
// (Miller & Miller, Statistics and Chemometrics for Analytical Chemistry, 6th ed.: 5.8 without weights, 5.10 with them). Weights of x have no value
// where nothing was added, so those by x count as none.
func StandardAddition(points []Point, w Weight) (Addition, error) {
	if w == PerX || w == PerX2 {
		w = Unweighted
	}
	fit, err := New(points, Linear, w)
	if err != nil {
		return Addition{}, fmt.Errorf("standard addition: %w", err)
	}
	b0, b1 := fit.Coefficients[0], fit.Coefficients[1]
	if !(b1 > 0) {
		return Addition{}, errors.New("standard addition: the response does not rise with what is added")
	}
	a := Addition{Fit: fit, X: b0 / b1}
	if fit.ResidualSD == nil {
		return a, nil
	}
	sum, meanX, meanY, spread := 0.0, 0.0, 0.0, 0.0
	for _, p := range fit.inUse() {
		sum, meanX, meanY = sum+p.Weight, meanX+p.Weight*p.X, meanY+p.Weight*p.Y
	}
	meanX, meanY = meanX/sum, meanY/sum
	for _, p := range fit.inUse() {
		spread += p.Weight * (p.X - meanX) * (p.X - meanX)
	}
	se := *fit.ResidualSD / b1 * math.Sqrt(1/sum+meanY*meanY/(b1*b1*spread))
	t := fit.student()
	a.StandardError, a.CI95 = &se, &[2]float64{a.X - t*se, a.X + t*se}
	return a, nil
}
