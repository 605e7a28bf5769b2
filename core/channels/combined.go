package channels

import (
	"errors"
	"math"

	"yugen/core/signal"
)

// leastShare is the share of its greatest value that the lower signal of a ratio must reach, so that noise is not divided by noise.
const leastShare = 0.01

// ErrApart says that two signals have too little time in common.
var ErrApart = errors.New("the two signals have too little time in common")

// RatioOf is one signal over another, at the times of the first at which both were measured; 0 where the other one is below a hundredth of its greatest value.
func RatioOf(over, under signal.Trace) (signal.Trace, error) {
	greatest := 0.0
	for _, v := range under.Values {
		greatest = math.Max(greatest, v)
	}
	out, err := pointwise(over, under, func(a, b float64) float64 {
		if !(b > 0) || b < leastShare*greatest {
			return 0
		}
		return a / b
	})
	out.Unit = ""
	return out, err
}

// LessOf is a signal less that of a blank at the same times, at which both were measured.
func LessOf(of, blank signal.Trace) (signal.Trace, error) {
	out, err := pointwise(of, blank, func(a, b float64) float64 { return a - b })
	out.Unit = of.Unit
	return out, err
}

// pointwise joins two signals at the times of the first; the second is read straight between its points.
func pointwise(a, b signal.Trace, join func(a, b float64) float64) (signal.Trace, error) {
	if a.Len() == 0 || b.Len() == 0 {
		return signal.Trace{}, ErrApart
	}
	from, to := b.TimeS(0), b.EndS()
	const slack = 1e-6 // s; clocks of two files differ by rounding
	var times, values []float64
	for i, v := range a.Values {
		if at := a.TimeS(i); at >= from-slack && at <= to+slack {
			times, values = append(times, at), append(values, join(v, b.ValueAt(at)))
		}
	}
	if len(values) < signal.MinPoints {
		return signal.Trace{}, ErrApart
	}
	return signal.New(times, values)
}
