package spectra

import (
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

// Angle is the contrast angle between two spectra on one grid, in degrees: 0 for the same shape whatever the heights, 90 for nothing in common; NaN where one
// of them is nothing. Source: Wan, Vidavsky & Gross, J. Am. Soc. Mass Spectrom. 13 (2002) 85, who compare spectra by it.
func Angle(a, b []float64) float64 {
	na, nb := norm(a), norm(b)
	if len(a) != len(b) || !(na > 0) || !(nb > 0) {
		return math.NaN()
	}
	// By the half angle, which keeps its digits where the cosine is near 1.
	apart, along := 0.0, 0.0
	for k := range a {
		u, v := a[k]/na, b[k]/nb
		apart, along = apart+(u-v)*(u-v), along+(u+v)*(u+v)
	}
	return 2 * math.Atan2(math.Sqrt(apart), math.Sqrt(along)) * 180 / math.Pi
}

func norm(v []float64) float64 {
	largest := 0.0
	for _, x := range v {
		largest = math.Max(largest, math.Abs(x))
	}
	if largest == 0 || math.IsInf(largest, 0) || math.IsNaN(largest) {
		return largest
	}
	sum := 0.0
	for _, x := range v {
		sum += x / largest * (x / largest)
	}
	return largest * math.Sqrt(sum)
}

// AngleLimit is the contrast angle, in degrees, that two spectra of one and the same shape exceed by noise alone with a probability. shape is that shape at the
// height of the weaker one, noiseSD the noise at each place; variances says by how much the noise of either spectrum, relative to its height, adds:
// 1/h² for a single scan of height h (as a share of shape), 1/(n h²) for a mean of n.
//
// To first order noise turns a spectrum s by its part at right angles to s over |s|. Of independent noise with variances v_k this part has the squared length
// Σ v_k e_k², with e at right angles to s: a weighted sum of chi-squares, whose mean is Σ v_k (1 − u_k²) and whose variance is 2 Σ v_k² (1 − u_k²)², with u = s/|s|.
// It is taken as a chi-square of the same mean and variance (Satterthwaite, Biometrics Bulletin 2 (1946) 110).
func AngleLimit(shape, noiseSD []float64, variances, probability float64) float64 {
	length := norm(shape)
	if !(length > 0) {
		return 90
	}
	mean, variance := 0.0, 0.0
	for k := range shape {
		u := shape[k] / length
		v := noiseSD[k] * noiseSD[k] * (1 - u*u)
		mean, variance = mean+v, variance+2*v*v
	}
	if mean == 0 {
		return 0
	}
	freedom := 2 * mean * mean / variance
	quantile := distuv.ChiSquared{K: freedom}.Quantile(1-probability) / freedom * mean
	return math.Min(90, math.Atan(math.Sqrt(quantile*variances)/length)*180/math.Pi)
}
