package peaks

import (
	"math"
	"slices"
)

// BaselineKind says how the baseline under a peak came to be.
type BaselineKind string

// The kinds of baseline.
const (
	OnChord       BaselineKind = "chord"        // one straight line under a cluster
	OnValleys     BaselineKind = "valley"       // from valley to valley
	OnFollowed    BaselineKind = "followed"     // a straight line on ground whose bend is followed
	OnHeld        BaselineKind = "held"         // level, by a time rule
	OnForced      BaselineKind = "one_baseline" // straight over a stretch, by a time rule
	OnAnchors     BaselineKind = "anchors"      // through points set by hand
	OnBackground  BaselineKind = "background"   // a modelled background
	OnTangent     BaselineKind = "tangent"      // on a larger peak's flank
	OnExponential BaselineKind = "exponential"  // on a larger peak's tail
	OnFit         BaselineKind = "fit"          // fitted together with the peaks
)

// ground is a baseline: the signal at a time (s).
type ground interface{ at(t float64) float64 }

// line is a straight baseline: the signal at two times (s).
type line struct{ t0, y0, t1, y1 float64 }

func (l line) at(t float64) float64 {
	if l.t1 == l.t0 {
		return l.y0
	}
	return l.y0 + (l.y1-l.y0)*(t-l.t0)/(l.t1-l.t0)
}

// knot is a point of a baseline: time (s) and signal.
type knot struct{ t, y float64 }

// knots is a baseline of straight pieces, in order of time; outside it goes on level.
type knots []knot

func (k knots) at(t float64) float64 {
	i, _ := slices.BinarySearchFunc(k, t, func(a knot, t float64) int {
		if a.t < t {
			return -1
		}
		return 1
	})
	switch {
	case i == 0:
		return k[0].y
	case i == len(k):
		return k[len(k)-1].y
	}
	return line{k[i-1].t, k[i-1].y, k[i].t, k[i].y}.at(t)
}

// decay follows a tail: height · e^(−rate (t − t0)) above another baseline.
type decay struct {
	above            ground
	t0, height, rate float64
}

func (d decay) at(t float64) float64 { return d.above.at(t) + d.height*math.Exp(-d.rate*(t-d.t0)) }

// gaussSide follows a front: height · e^(slope (t − t0) + bend (t − t0)²/2) above another baseline; bend is negative.
type gaussSide struct {
	above                   ground
	t0, height, slope, bend float64
}

func (g gaussSide) at(t float64) float64 {
	d := t - g.t0
	return g.above.at(t) + g.height*math.Exp(d*(g.slope+g.bend*d/2))
}

// sampled is a baseline with a value at every step of an even grid.
type sampled struct {
	startS, stepS float64
	values        []float64
}

func (s sampled) at(t float64) float64 {
	x := (t - s.startS) / s.stepS
	i := max(0, min(len(s.values)-2, int(x)))
	f := max(0, min(1, x-float64(i)))
	return s.values[i]*(1-f) + s.values[i+1]*f
}

// Outline is a curved line for drawing: times (min) and signal, both of the same length.
type Outline struct {
	Min    []float64 `json:"min"`
	Signal []float64 `json:"signal"`
}

// outline samples a curve for drawing.
func outline(at func(t float64) float64, startS, endS float64) *Outline {
	const pieces = 60
	o := &Outline{make([]float64, pieces+1), make([]float64, pieces+1)}
	for i := range pieces + 1 {
		t := startS + (endS-startS)*float64(i)/pieces
		o.Min[i], o.Signal[i] = t/60, at(t)
	}
	return o
}

// outlineOf is the outline of a baseline that is not one straight line.
func outlineOf(g ground, startS, endS float64) *Outline {
	switch b := g.(type) {
	case line:
		return nil
	case knots:
		o := &Outline{Min: []float64{startS / 60}, Signal: []float64{b.at(startS)}}
		for _, k := range b {
			if k.t > startS && k.t < endS {
				o.Min, o.Signal = append(o.Min, k.t/60), append(o.Signal, k.y)
			}
		}
		o.Min, o.Signal = append(o.Min, endS/60), append(o.Signal, b.at(endS))
		return o
	}
	return outline(g.at, startS, endS)
}
