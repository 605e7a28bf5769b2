package peaks

import "math"

// EMGShape is an exponentially modified Gaussian: a Gaussian of standard deviation SigmaMin around CentreMin, smeared by an
// exponential decay of time constant TauMin, towards later times where that is positive (Foley & Dorsey, Anal. Chem. 55 (1983) 730).
// A negative one is its mirror image: a peak that fronts.
type EMGShape struct {
	AreaS     float64 `json:"area_s"`
	CentreMin float64 `json:"centre_min"`
	SigmaMin  float64 `json:"sigma_min"`
	TauMin    float64 `json:"tau_min"`
	RSquared  float64 `json:"r_squared"` // of the fit of the whole cluster
}

// emg is the same in seconds.
type emg struct{ area, centre, sigma, tau float64 }

// nearlyGaussian is the ratio of tau to sigma below which the tail cannot be told from a shift.
const nearlyGaussian = 1e-3

// at is the signal at a time (s), in the form that cannot overflow (Delley, Anal. Chem. 57 (1985) 388).
func (e emg) at(t float64) float64 {
	tau, d := e.tau, t-e.centre
	if tau < 0 {
		tau, d = -tau, -d
	}
	if tau < nearlyGaussian*e.sigma {
		z := (d - tau) / e.sigma
		return e.area / (e.sigma * math.Sqrt(2*math.Pi)) * math.Exp(-z*z/2)
	}
	z := (e.sigma/tau - d/e.sigma) / math.Sqrt2
	if z > 0 {
		g := d / e.sigma
		return e.area / (2 * tau) * math.Exp(-g*g/2) * scaledErfc(z)
	}
	return e.area / (2 * tau) * math.Exp(e.sigma*e.sigma/(2*tau*tau)-d/tau) * math.Erfc(z)
}

// scaledErfc is e^(z²) · erfc(z) for z ≥ 0.
func scaledErfc(z float64) float64 {
	if z < 25 {
		return math.Exp(z*z) * math.Erfc(z)
	}
	q := 1 / (2 * z * z)
	return (1 - q*(1-3*q*(1-5*q))) / (z * math.Sqrt(math.Pi))
}

// mean is the centroid (s).
func (e emg) mean() float64 { return e.centre + e.tau }

// reach is the stretch (s) outside which nothing is left.
func (e emg) reach() (from, to float64) {
	from, to = e.centre-7*e.sigma, e.centre+7*e.sigma
	if e.tau > 0 {
		return from, to + 25*e.tau
	}
	return from + 25*e.tau, to
}

// mode is the time (s) of the maximum, by golden section.
func (e emg) mode() float64 {
	const golden = 0.6180339887498949
	a, b := e.centre-e.sigma+min(0, e.tau), e.centre+e.sigma+max(0, e.tau)
	x1, x2 := b-golden*(b-a), a+golden*(b-a)
	y1, y2 := e.at(x1), e.at(x2)
	for b-a > 1e-9*e.sigma {
		if y1 > y2 {
			b, x2, y2 = x2, x1, y1
			x1 = b - golden*(b-a)
			y1 = e.at(x1)
		} else {
			a, x1, y1 = x1, x2, y2
			x2 = a + golden*(b-a)
			y2 = e.at(x2)
		}
	}
	return (a + b) / 2
}

// crossing is where the shape passes a signal level on one side (-1, +1) of its maximum, by halving.
func (e emg) crossing(mode, level, side float64) float64 {
	from, to := e.reach()
	in, out := mode, to
	if side < 0 {
		out = from
	}
	for range 100 {
		middle := (in + out) / 2
		if e.at(middle) > level {
			in = middle
		} else {
			out = middle
		}
	}
	return (in + out) / 2
}
