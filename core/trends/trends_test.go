package trends

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// Limits by hand: of 10, 12 alternately the mean is 11, the mean range 2, the standard deviation 2/1.128.
func TestLimitsFromMovingRanges(t *testing.T) {
	values := []float64{10, 12, 10, 12, 10, 12, 10, 12}
	l, ok := FromMovingRanges(values)
	if !ok || math.Abs(l.Centre-11) > 1e-12 || math.Abs(l.High-(11+3*2/1.1283791670955126)) > 1e-12 || math.Abs(l.Centre-l.Low-(l.High-l.Centre)) > 1e-12 || l.N != 8 {
		t.Errorf("%+v", l)
	}
	if _, ok := FromMovingRanges(values[:7]); ok {
		t.Error("limits of seven values")
	}
	if _, ok := FromMovingRanges(make([]float64, 20)); ok {
		t.Error("limits of values that do not differ")
	}
	// Of normal values three in a thousand lie outside, and a slow drift does not widen them.
	random := rand.New(rand.NewPCG(3, 1))
	outside, all := 0, 0
	for range 300 {
		many, drifting := make([]float64, 200), make([]float64, 200)
		for k := range many {
			many[k] = random.NormFloat64()
			drifting[k] = many[k] + float64(k)/20
		}
		l, _ = FromMovingRanges(many)
		d, _ := FromMovingRanges(drifting)
		if math.Abs(d.Sigma/l.Sigma-1) > 0.05 {
			t.Errorf("a drift makes the standard deviation %g of %g", d.Sigma, l.Sigma)
		}
		for _, v := range many {
			all++
			if v < l.Low || v > l.High {
				outside++
			}
		}
	}
	if share := float64(outside) / float64(all); share < 0.0015 || share > 0.006 {
		t.Errorf("%g of normal values lie outside", share)
	}
}

// The rules by hand, at their last value before and their first value at which they are broken.
func TestRulesOfControlCharts(t *testing.T) {
	centre, low, high := 10.0, 7.0, 13.0
	at := func(values []float64, rule Rule) (places []int) {
		for k, b := range Breaches(values, &centre, &low, &high, Rules) {
			if slices.Contains(b, rule) {
				places = append(places, k)
			}
		}
		return places
	}
	for _, c := range []struct {
		name   string
		values []float64
		rule   Rule
		want   []int
	}{
		{"on the limits", []float64{7, 13}, Beyond, nil},
		{"just beyond them", []float64{6.999, 13.001, 10}, Beyond, []int{0, 1}},
		{"seven above", []float64{11, 11, 12, 11, 12, 11, 11}, Side, nil},
		{"nine above", []float64{11, 11, 12, 11, 12, 11, 11, 12, 11}, Side, []int{7, 8}},
		{"the centre breaks a run", []float64{11, 11, 12, 11, 10, 11, 11, 12, 11}, Side, nil},
		{"eight below", []float64{9, 8, 9, 8, 9, 8, 9, 8}, Side, []int{7}},
		{"five that rise", []float64{8, 9, 10, 11, 12, 11}, Steady, nil},
		{"six that rise", []float64{8, 9, 9.5, 10, 11, 12, 11}, Steady, []int{5}},
		{"six that fall", []float64{12, 11, 10, 9, 8.5, 8}, Steady, []int{5}},
		{"a standstill", []float64{8, 9, 9, 10, 11, 12, 12.5}, Steady, nil},
	} {
		if got := at(c.values, c.rule); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
	if got := Breaches([]float64{20}, nil, nil, nil, Rules); len(got[0]) != 0 {
		t.Errorf("without limits %v", got)
	}
	if got := Breaches([]float64{20}, &centre, &low, &high, []Rule{Side}); len(got[0]) != 0 {
		t.Errorf("a rule that was not chosen: %v", got)
	}
}

// A line by hand (x 1 to 6, y as given): slope and its interval as computed from the normal equations.
func TestALineHasItsInterval(t *testing.T) {
	x, y := []float64{1, 2, 3, 4, 5, 6}, []float64{2.1, 3.9, 6.2, 7.8, 10.1, 11.9}
	l, ok := Fit(x, y)
	slope, residual := 34.6/17.5, 0.0
	meanY := 7.0
	for k := range x {
		d := y[k] - (meanY + slope*(x[k]-3.5))
		residual += d * d
	}
	half := 2.7764451051977934 * math.Sqrt(residual/4/17.5) // t(0.975, 4)
	if !ok || math.Abs(l.Slope-slope) > 1e-12 || math.Abs(l.SlopeHalf-half) > 1e-9 || math.Abs(l.Intercept-(7-3.5*slope)) > 1e-12 || l.R2 < 0.998 {
		t.Errorf("%+v, by hand %g ± %g", l, slope, half)
	}
	if _, ok := Fit(x[:5], y[:5]); ok {
		t.Error("a line through five points")
	}
	if _, ok := Fit([]float64{1, 1, 1, 1, 1, 1}, y); ok {
		t.Error("a line through points at one place")
	}
}
