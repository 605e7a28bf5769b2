package batch

import (
	"fmt"
	"math"

	"yugen/core/curves"
)

// verdict says in words over which levels the curve holds and which level breaks it.
func (p *process) verdict(c Curve) Verdict {
	type level struct{ x, sum, n float64 }
	var levels []level
	for i, q := range c.Points {
		d := c.Fit.Points[i].DeviationPercent
		if q.LeftOut || d == nil {
			continue
		}
		if n := len(levels); n == 0 || levels[n-1].x != q.X {
			levels = append(levels, level{x: q.X})
		}
		last := &levels[len(levels)-1]
		last.sum, last.n = last.sum+*d, last.n+1
	}
	unit := p.method.Curves.Unit
	v := Verdict{Good: fmt.Sprintf("%s from %s to %s %s", shapeWord(c.Fit.Model), number(c.Fit.LowX), number(c.Fit.HighX), unit)}
	if c.Fit.Model == curves.OnePoint { // of which a deviation says nothing
		v.Good = fmt.Sprintf("One point at %s %s, the mean of %d; that the response is straight through zero is taken for granted", number(c.Fit.LowX), unit, len(c.Fit.Points))
		return v
	}
	limit := p.method.Checks.Deviation
	worst, beyond := level{}, level{}
	for _, l := range levels {
		mean := l.sum / l.n
		switch {
		case l.x < c.Fit.LowX || l.x > c.Fit.HighX:
			if math.Abs(mean) > math.Abs(beyond.sum) {
				beyond = level{l.x, mean, l.n}
			}
		case math.Abs(mean) > math.Abs(worst.sum):
			worst = level{l.x, mean, l.n}
		}
	}
	if worst.n > 0 {
		largest := worst.sum
		v.Largest = &largest
	}
	switch {
	case limit > 0 && math.Abs(worst.sum) > limit:
		v.Doubt = fmt.Sprintf("the %s %s level reads %s", number(worst.x), unit, lowOrHigh(worst.sum))
	case beyond.n > 0:
		v.Doubt = fmt.Sprintf("outside it, the %s %s level reads %s", number(beyond.x), unit, lowOrHigh(beyond.sum))
	}
	return v
}

func lowOrHigh(percent float64) string {
	if percent < 0 {
		return fmt.Sprintf("%.1f %% low", -percent)
	}
	return fmt.Sprintf("%.1f %% high", percent)
}

func shapeWord(m curves.Model) string {
	switch m {
	case curves.LinearOrigin:
		return "Linear through zero"
	case curves.Quadratic:
		return "Quadratic"
	case curves.QuadraticOrigin:
		return "Quadratic through zero"
	case curves.LogLog:
		return "Linear in logarithms"
	case curves.Average:
		return "Mean response factor"
	case curves.OnePoint:
		return "One point"
	}
	return "Linear"
}
