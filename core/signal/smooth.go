package signal

import "math"

// Local is the least-squares parabola through a sliding window: smoothed value, slope and curvature per sample.
// The value and the curvature equal those of the cubic filter of Savitzky & Golay, Anal. Chem. 36 (1964) 1627.
type Local struct {
	Half      int
	Value     []float64
	Slope     []float64 // per sample step
	Curvature []float64 // per sample step squared
}

// Fit slides a parabola over y with a window of 2·half+1 samples, in time proportional to len(y) whatever the window:
// the moments of the window are carried along and set up anew now and then, so that rounding cannot pile up.
// Within half a window of the ends the parabola of the first or last whole window is continued.
func Fit(y []float64, half int) Local {
	n := len(y)
	half = max(1, min(half, (n-1)/2))
	out := Local{half, make([]float64, n), make([]float64, n), make([]float64, n)}
	h := float64(half)
	count := 2*h + 1
	s2 := h * (h + 1) * count / 3
	s4 := s2 * (3*h*h + 3*h - 1) / 5
	det := count*s4 - s2*s2

	const renew = 1024
	var m0, m1, m2, origin float64
	for c := half; c < n-half; c++ {
		if (c-half)%renew == 0 {
			// Moments are taken of the signal less a nearby value, so that a large offset costs no digits.
			origin, m0, m1, m2 = y[c], 0, 0, 0
			for k := -half; k <= half; k++ {
				v, x := y[c+k]-origin, float64(k)
				m0, m1, m2 = m0+v, m1+x*v, m2+x*x*v
			}
		} else {
			out, in := y[c-half-1]-origin, y[c+half]-origin
			// Move the window's origin by one: x becomes x - 1.
			m0, m1, m2 = m0-out, m1+h*out, m2-h*h*out
			m2 -= 2*m1 - m0
			m1 -= m0
			// The sample that left was at -h before the move; after it, the window lacks only the one at +h.
			m0, m1, m2 = m0+in, m1+h*in, m2+h*h*in
		}
		a := (s4*m0 - s2*m2) / det
		b := m1 / s2
		q := (count*m2 - s2*m0) / det
		out.Value[c], out.Slope[c], out.Curvature[c] = a+origin, b, 2*q
	}
	for k := 1; k <= half; k++ {
		extend(&out, half, half-k, -float64(k))
		extend(&out, n-1-half, n-1-half+k, float64(k))
	}
	return out
}

// Smooth is Fit's value alone, in a third of its memory.
func Smooth(y []float64, half int) []float64 {
	n := len(y)
	half = max(1, min(half, (n-1)/2))
	out := make([]float64, n)
	h := float64(half)
	count := 2*h + 1
	s2 := h * (h + 1) * count / 3
	s4 := s2 * (3*h*h + 3*h - 1) / 5
	det := count*s4 - s2*s2
	byM0, byM2 := s4/det, s2/det

	const renew = 1024
	var m0, m1, m2 float64
	for first := half; first < n-half; first += renew {
		origin := y[first]
		m0, m1, m2 = 0, 0, 0
		for k := -half; k <= half; k++ {
			v, x := y[first+k]-origin, float64(k)
			m0, m1, m2 = m0+v, m1+x*v, m2+x*x*v
		}
		out[first] = byM0*m0 - byM2*m2 + origin
		hh := h * h
		for c := first + 1; c < min(first+renew, n-half); c++ {
			gone, in := y[c-half-1]-origin, y[c+half]-origin
			m0, m1, m2 = m0-gone, m1+h*gone, m2-hh*gone
			m2 -= 2*m1 - m0
			m1 -= m0
			m0, m1, m2 = m0+in, m1+h*in, m2+hh*in
			out[c] = byM0*m0 - byM2*m2 + origin
		}
	}
	// Within half a window of the ends the parabola of the first or last whole window is continued.
	ends := Fit(y[:min(n, 2*half+1)], half)
	copy(out[:half], ends.Value[:half])
	ends = Fit(y[max(0, n-2*half-1):], half)
	copy(out[n-half:], ends.Value[len(ends.Value)-half:])
	return out
}

// Curvature is Fit's curvature alone, in a third of its memory.
func Curvature(y []float64, half int) []float64 {
	n := len(y)
	half = max(1, min(half, (n-1)/2))
	out := make([]float64, n)
	h := float64(half)
	count := 2*h + 1
	s2 := h * (h + 1) * count / 3
	s4 := s2 * (3*h*h + 3*h - 1) / 5
	scale := 2 / (count*s4 - s2*s2)
	byM2, byM0 := count*scale, s2*scale

	const renew = 1024
	for first := half; first < n-half; first += renew {
		origin := y[first]
		var m0, m1, m2 float64
		for k := -half; k <= half; k++ {
			v, x := y[first+k]-origin, float64(k)
			m0, m1, m2 = m0+v, m1+x*v, m2+x*x*v
		}
		out[first] = byM2*m2 - byM0*m0
		last := min(first+renew, n-half)
		leaving, entering := y[first-half:last-1-half], y[first+1+half:last+half]
		entering, bends := entering[:len(leaving)], out[first+1:last]
		bends = bends[:len(leaving)]
		hh := h * h
		for i, gone := range leaving {
			gone -= origin
			in := entering[i] - origin
			m0, m1, m2 = m0-gone, m1+h*gone, m2-hh*gone
			m2 -= 2*m1 - m0
			m1 -= m0
			m0, m1, m2 = m0+in, m1+h*in, m2+hh*in
			bends[i] = byM2*m2 - byM0*m0
		}
	}
	for k := range half {
		out[k], out[n-1-k] = out[half], out[n-1-half]
	}
	return out
}

func extend(l *Local, from, to int, x float64) {
	a, b, q := l.Value[from], l.Slope[from], l.Curvature[from]/2
	l.Value[to], l.Slope[to], l.Curvature[to] = a+b*x+q*x*x, b+2*q*x, 2*q
}

// CurvatureGain is the standard deviation of the curvature that white noise of standard deviation 1 gives in a window
// of 2·half+1 samples.
func CurvatureGain(half int) float64 {
	h := float64(half)
	count := 2*h + 1
	s2 := h * (h + 1) * count / 3
	s4 := s2 * (3*h*h + 3*h - 1) / 5
	return 2 * math.Sqrt(count/(count*s4-s2*s2))
}

// SlopeGain is the same for the slope.
func SlopeGain(half int) float64 {
	h := float64(half)
	return 1 / math.Sqrt(h*(h+1)*(2*h+1)/3)
}

// ValueGain is the same for the smoothed value.
func ValueGain(half int) float64 {
	h := float64(half)
	count := 2*h + 1
	s2 := h * (h + 1) * count / 3
	s4 := s2 * (3*h*h + 3*h - 1) / 5
	return math.Sqrt(s4 / (count*s4 - s2*s2))
}

// WithoutSpikes replaces each sample that lies further than the tolerance from the median of itself and its neighbours (2·reach+1
// samples) by that median (Hampel, J. Am. Stat. Assoc. 69 (1974) 383). It removes what is narrower than reach+1 samples and leaves
// slopes and noise alone: medians throughout would move the mean of a signal that is rounded to a few steps.
func WithoutSpikes(y []float64, reach int, tolerance float64) []float64 {
	out := make([]float64, len(y))
	copy(out, y)
	sorted := make([]float64, 2*reach+1)
	for i := reach; i < len(y)-reach; i++ {
		window, low, high := y[i-reach:i+reach+1], y[i]-tolerance, y[i]+tolerance
		below, above := 0, 0
		for _, v := range window {
			if v < low {
				below++
			} else if v > high {
				above++
			}
		}
		if below > reach || above > reach {
			copy(sorted, window)
			insertionSort(sorted)
			out[i] = sorted[reach]
		}
	}
	return out
}

func insertionSort(v []float64) {
	for i := 1; i < len(v); i++ {
		for j := i; j > 0 && v[j] < v[j-1]; j-- {
			v[j], v[j-1] = v[j-1], v[j]
		}
	}
}
