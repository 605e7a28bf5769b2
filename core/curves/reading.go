package curves

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

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

// student is half of Student's 95 % interval at the fit's degrees of freedom.
func (f Fit) student() float64 { return f.t95 }

func student95(freedom int) float64 {
	if freedom < 1 {
		return math.NaN()
	}
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(freedom)}.Quantile(0.975)
}

// Reading is an unknown read from a curve.
type Reading struct {
	X             float64     `json:"x"`
	StandardError *float64    `json:"standard_error"`
	CI95          *[2]float64 `json:"ci95"`
	// SingleSE and CurveSE are the two parts of the standard error: the unknown's own scatter, and what the curve leaves open. Freedom is
	// the degrees of freedom behind both.
	SingleSE float64 `json:"-"`
	CurveSE  float64 `json:"-"`
	Freedom  float64 `json:"-"`
}

// Errors of reading an unknown.
var (
	ErrFlat   = errors.New("the curve is flat: no amount can be read from it")
	ErrNoRoot = errors.New("the curve does not reach this response")
)

// Read finds x for the mean of the given responses of one unknown. Its standard error is, for a line,
// (s/|b1|) √(1/(m w0) + 1/Σw + (ȳ0 - ȳw)²/(b1² Σw(x - x̄w)²)), w0 the weight at the found x; for other models the same by
// the delta method with the whole covariance. The interval is Student's t at n - p degrees of freedom.
func (f Fit) Read(responses []float64) (Reading, error) {
	if len(responses) == 0 {
		return Reading{}, errors.New("an unknown needs at least one response")
	}
	y := 0.0
	for _, v := range responses {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return Reading{}, fmt.Errorf("the response %g of an unknown is not a finite number", v)
		}
		y += v / float64(len(responses))
	}
	x, err := f.root(y)
	if err != nil {
		return Reading{}, fmt.Errorf("response %g: %w", y, err)
	}
	reading := Reading{X: x}
	if f.scaledCov == nil {
		return reading, nil
	}
	at, w0 := x, f.weighting.at(x, y)/f.meanWeight
	if f.Model == LogLog {
		at = math.Log10(x)
	}
	s := *f.ResidualSD
	if f.singleSD != nil {
		s = *f.singleSD
	}
	slope := math.Abs(dot(f.basis.slopeAt(at), f.scaled))
	single, curve := s/math.Sqrt(float64(len(responses))*w0)/slope, math.Sqrt(quadratic(f.basis.at(at), f.scaledCov))/slope
	se := math.Hypot(single, curve)
	if math.IsNaN(se) || math.IsInf(se, 0) { // a weight of 1/x has no value at or below zero
		return reading, nil
	}
	t := f.student()
	reading.SingleSE, reading.CurveSE, reading.Freedom = single, curve, float64(f.DegreesOfFreedom)
	if f.singleSD != nil && se > 0 { // two standard deviations, each with its own degrees of freedom (Welch and Satterthwaite)
		reading.Freedom = math.Pow(se, 4) / (math.Pow(single, 4)/float64(f.singleFreedom) + math.Pow(curve, 4)/float64(f.DegreesOfFreedom))
		t = distuv.StudentsT{Mu: 0, Sigma: 1, Nu: reading.Freedom}.Quantile(0.975)
	}
	if freedom, ok := f.weighting.freedomAt(x); ok && freedom < reading.Freedom {
		reading.Freedom = max(1, freedom)
		t = distuv.StudentsT{Mu: 0, Sigma: 1, Nu: reading.Freedom}.Quantile(0.975)
	}
	ci := [2]float64{x - t*se, x + t*se}
	if f.Model == LogLog {
		ci = [2]float64{math.Pow(10, at-t*se), math.Pow(10, at+t*se)}
		se *= x * math.Ln10
		reading.SingleSE *= x * math.Ln10
		reading.CurveSE *= x * math.Ln10
	}
	reading.StandardError, reading.CI95 = &se, &ci
	return reading, nil
}

// root is the x at which the curve gives y.
func (f Fit) root(y float64) (float64, error) {
	x, err := f.anyRoot(y)
	if err == nil && (math.IsNaN(x) || math.IsInf(x, 0)) {
		return 0, ErrFlat // so nearly that what it reads is beyond all numbers
	}
	return x, err
}

func (f Fit) anyRoot(y float64) (float64, error) {
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

// quadraticRoot is the root on the monotone branch that holds the calibrated range, as far as that branch goes. Where the curve turns within the
// range, the branch of its middle counts.
func (f Fit) quadraticRoot(y float64) (float64, error) {
	c, b, a := -y, f.scaled[len(f.scaled)-2], f.scaled[len(f.scaled)-1]
	if len(f.scaled) == 3 {
		c += f.scaled[0]
	}
	place := func(u float64) float64 { return f.basis.centre + f.basis.scale*u }
	if math.Abs(a) < 1e-13*math.Abs(b) {
		return place(-c / b), nil
	}
	middle := ((f.LowX+f.HighX)/2 - f.basis.centre) / f.basis.scale
	slope := math.Copysign(1, b+2*a*middle)
	turn := -b / (2 * a)
	d := b*b - 4*a*c
	if d < 0 {
		// At the turning point of a calibrated end rounding and noise of the fit meet; what lies there is the turn itself.
		if math.Abs(d) <= 1e-12*b*b {
			return place(turn), nil
		}
		return 0, &BeyondTurn{place(turn), turn > middle}
	}
	root := slope * math.Sqrt(d) // b + 2au on the branch
	if slope*b >= 0 {            // the form without cancellation
		return place(-2 * c / (b + root)), nil
	}
	return place((root - b) / (2 * a)), nil
}

// BeyondTurn is why a response has no amount: a quadratic turns before it reaches it.
type BeyondTurn struct {
	X     float64 // where it turns
	Above bool    // the turn lies above the calibrated range, so that the amount would
}

func (e *BeyondTurn) Error() string {
	side := "below"
	if e.Above {
		side = "above"
	}
	return fmt.Sprintf("the curve turns at %.4g, %s its range, before it reaches this response", e.X, side)
}
