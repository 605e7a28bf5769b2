package curves

import (
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

// Outlier is the outcome of a test for one outlier.
type Outlier struct {
	Index     int     `json:"index"`     // of the suspected value
	Statistic float64 `json:"statistic"` // G: its distance from the mean in standard deviations
	Critical  float64 `json:"critical"`  // at 5 %, two-sided
	P         float64 `json:"p"`         // two-sided, at most 1
}

// Grubbs tests the value furthest from the mean (Grubbs, Technometrics 11 (1969) 1). ok is false with fewer than three values or
// without spread.
func Grubbs(values []float64) (o Outlier, ok bool) {
	n := float64(len(values))
	mean, sd := meanSD(values)
	if n < 3 || !(sd > 0) {
		return Outlier{}, false
	}
	for i, v := range values {
		if g := math.Abs(v-mean) / sd; g > o.Statistic {
			o.Index, o.Statistic = i, g
		}
	}
	student := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: n - 2}
	t := student.Quantile(1 - 0.05/(2*n))
	o.Critical = (n - 1) / math.Sqrt(n) * math.Sqrt(t*t/(n-2+t*t))
	g := o.Statistic
	if most := (n - 1) / math.Sqrt(n); g >= most {
		return o, true // P stays 0: nothing lies further out
	}
	tg := math.Sqrt(n * (n - 2) * g * g / ((n-1)*(n-1) - n*g*g))
	o.P = math.Min(1, 2*n*student.CDF(-tg))
	return o, true
}

func meanSD(values []float64) (mean, sd float64) {
	n := float64(len(values))
	for _, v := range values {
		mean += v / n
	}
	for _, v := range values {
		sd += (v - mean) * (v - mean)
	}
	return mean, math.Sqrt(sd / (n - 1))
}

// studentised gives each point in use its externally studentised residual and that residual's two-sided p, corrected for the number
// of points (Cook & Weisberg, Residuals and Influence in Regression (1982), 2.2).
func (f *Fit) studentised() {
	nu := float64(f.DegreesOfFreedom - 1)
	if f.scaledCov == nil || nu < 1 || *f.ResidualSD == 0 {
		return
	}
	s2 := *f.ResidualSD * *f.ResidualSD
	n := float64(f.DegreesOfFreedom + len(f.Coefficients))
	student := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: nu}
	for i := range f.Points {
		p := &f.Points[i]
		if p.Out || p.Weight == 0 {
			continue
		}
		at := p.X
		if f.Model == LogLog {
			at = math.Log10(p.X)
		}
		leverage := p.Weight * quadratic(f.basis.at(at), f.scaledCov) / s2
		if leverage > 1-1e-12 {
			continue
		}
		internal := p.Residual * math.Sqrt(p.Weight) / (*f.ResidualSD * math.Sqrt(1-leverage))
		rest := (nu + 1 - internal*internal) / nu
		if rest <= 0 {
			continue
		}
		t := internal / math.Sqrt(rest)
		prob := math.Min(1, 2*n*student.CDF(-math.Abs(t)))
		p.Studentised, p.OutlierP = &t, &prob
	}
}

// cochran tests whether one level scatters more than the others (Cochran, Ann. Eugen. 11 (1941) 47). All levels must have the same
// number of replicates, at least two.
func cochran(levels [][]Fitted) *Test {
	if len(levels) < 2 {
		return nil
	}
	each := len(levels[0])
	sum, most := 0.0, 0.0
	for _, level := range levels {
		if len(level) != each || each < 2 {
			return nil
		}
		values := make([]float64, each)
		for i, p := range level {
			values[i] = p.Y
		}
		_, sd := meanSD(values)
		sum, most = sum+sd*sd, math.Max(most, sd*sd)
	}
	if sum == 0 {
		return nil
	}
	c, k := most/sum, float64(len(levels))
	df1, df2 := float64(each-1), (k-1)*float64(each-1)
	if c >= 1 {
		return &Test{Statistic: 1, DF1: df1, DF2: df2}
	}
	f := fTest(c*(k-1)/(1-c), df1, df2)
	return &Test{Statistic: c, DF1: df1, DF2: df2, P: math.Min(1, k*f.P)}
}
