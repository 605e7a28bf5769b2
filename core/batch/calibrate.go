package batch

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"

	"yugen/core/compounds"
	"yugen/core/curves"
)

// calibrate makes a curve for each target from the standards in which it was found.
func (p *process) calibrate() {
	p.result.Curves = []Curve{}
	for _, c := range p.method.Targets() {
		p.result.Curves = append(p.result.Curves, p.curve(c))
	}
}

func (p *process) curve(c compounds.Compound) Curve {
	own := p.method.shape(c.ID)
	curve := Curve{CompoundID: c.ID, Points: p.points(c.ID, own), Line: []LinePoint{}}
	points := make([]curves.Point, len(curve.Points))
	for i, q := range curve.Points {
		points[i] = curves.Point{X: q.Level, Y: q.Response, Out: q.LeftOut || !q.InRange}
	}
	if len(points) == 0 {
		curve.Problem = "No standard holds it yet."
		return curve
	}
	fit, err := curves.New(points, own.Model, own.Weight)
	if err != nil {
		curve.Problem = err.Error()
		return curve
	}
	curve.Fit, curve.Tests = &fit, fit.Diagnose()
	curve.Line = line(fit, curve.Points[len(curve.Points)-1].Level)
	loq := fit.LowX
	curve.LOQ = &loq
	if fit.Model == curves.Linear && fit.StandardErrors != nil && fit.Coefficients[1] != 0 {
		lod := 3.3 * fit.StandardErrors[0] / math.Abs(fit.Coefficients[1])
		curve.LOD = &lod
	}
	curve.Verdict = p.verdict(curve)
	return curve
}

// line samples a curve for drawing, denser near zero, where straight pieces would show.
func line(fit curves.Fit, highest float64) []LinePoint {
	const pieces = 80
	var list []LinePoint
	for i := range pieces + 1 {
		f := float64(i) / pieces
		x := 1.1 * highest * f * f
		if fit.Model == curves.LogLog && x == 0 {
			continue
		}
		p := LinePoint{X: x, Y: fit.At(x)}
		if x >= fit.LowX && x <= fit.HighX {
			p.Band = fit.Band(x)
		}
		list = append(list, p)
	}
	return list
}

// points are the standards that hold the compound, by level and then in run order.
func (p *process) points(compoundID string, own Own) []CurvePoint {
	list := []CurvePoint{}
	for i, in := range p.injections {
		if in.Role != Standard || in.Level == nil {
			continue
		}
		response, _ := p.response(&p.result.Injections[i], compoundID)
		if response == nil {
			continue
		}
		q := CurvePoint{InjectionID: in.ID, Level: *in.Level, Response: *response}
		q.InRange = (own.LowX == nil || q.Level >= *own.LowX) && (own.HighX == nil || q.Level <= *own.HighX)
		for _, out := range own.LeftOut {
			if out.InjectionID == in.ID {
				q.LeftOut, q.Reason = true, out.Reason
			}
		}
		list = append(list, q)
	}
	slices.SortStableFunc(list, func(a, b CurvePoint) int { return cmp.Compare(a.Level, b.Level) })
	return list
}

// response is the area or height of a compound, over that of the internal standard where the method has one. Where it
// cannot be had the second value says why.
func (p *process) response(in *Injected, compoundID string) (*float64, string) {
	peak := in.peak(compoundID)
	if peak == nil {
		return nil, ""
	}
	r := p.measure(peak)
	if is, ok := p.method.InternalStandard(); ok {
		standard := in.peak(is.ID)
		if standard == nil {
			return nil, fmt.Sprintf("The internal standard %s was not found in this injection.", is.Name)
		}
		r /= p.measure(standard)
	}
	return &r, ""
}

func (p *process) measure(peak *NamedPeak) float64 {
	if p.method.Curves.Response == Height {
		return peak.Height
	}
	return peak.AreaS
}

// verdict says in words over which levels the curve holds and which level breaks it.
func (p *process) verdict(c Curve) Verdict {
	type level struct{ x, sum, n float64 }
	var levels []level
	for i, q := range c.Points {
		d := c.Fit.Points[i].DeviationPercent
		if q.LeftOut || d == nil {
			continue
		}
		if n := len(levels); n == 0 || levels[n-1].x != q.Level {
			levels = append(levels, level{x: q.Level})
		}
		last := &levels[len(levels)-1]
		last.sum, last.n = last.sum+*d, last.n+1
	}
	unit := p.method.Curves.Unit
	v := Verdict{Good: fmt.Sprintf("%s from %s to %s %s", shapeWord(c.Fit.Model), number(c.Fit.LowX), number(c.Fit.HighX), unit)}
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
	}
	return "Linear"
}

func number(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
