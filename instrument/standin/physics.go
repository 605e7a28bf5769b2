package standin

import (
	"math"

	"yugen/bench"
)

const (
	stepS   = 0.1 // what time is cut into, s
	ambient = 24.0
	kelvin  = 273.15
	gasLaw  = 0.0083145 // kJ/(mol K)
)

// thermal is something that is heated and gives its heat to the room: it warms at a rate until it is near what is asked, and cools by Newton's law.
type thermal struct {
	now, asked    float64 // °C
	rateKPerS     float64
	coolS         float64 // time constant
	inertiaK      float64 // how far before the goal it slows
	on            bool
	forcedCoolKPS float64 // by a fan, down to what is asked; 0 where there is none
}

func (h *thermal) goal() float64 {
	if h.on {
		return h.asked
	}
	return ambient
}

func (h *thermal) step() { h.pass(stepS) }

// pass lets a short time pass, s.
func (h *thermal) pass(seconds float64) {
	goal := h.goal()
	switch d := goal - h.now; {
	case d > 0 && h.on:
		h.now += min(d, seconds*h.rateKPerS*min(1, d/h.inertiaK+0.02))
	case d < 0:
		fall := seconds * (h.now - ambient) / h.coolS
		if h.on {
			fall += seconds * h.forcedCoolKPS
		}
		h.now += max(d, -fall)
	}
}

// leftS is how long it takes until it is within a reach of what is asked, by trying.
func (h thermal) leftS(reach float64) float64 {
	for s := 0.0; s < 4*3600; s++ {
		if math.Abs(h.now-h.goal()) <= reach {
			return s
		}
		h.pass(1)
	}
	return math.Inf(1)
}

// column is what moves solutes: how much less of the mobile phase's speed they have follows the mixture and the temperature,
// ln k = a − S φ + H/R (1/T − 1/T₀).
//
// Sources: linear solvent strength, Snyder, Dolan & Gant, J. Chromatogr. 165 (1979) 3; the van 't Hoff equation for the temperature.
type column struct {
	deadMin   float64 // at the usual flow
	perB      float64 // S, by percent B
	enthalpy  float64 // H, kJ/mol
	reference float64 // T₀, °C
}

// speed is how much of the column a solute travels in a minute.
func (c column) speed(a, percentB, celsius, flow float64) float64 {
	k := math.Exp(a - c.perB*percentB + c.enthalpy/gasLaw*(1/(celsius+kelvin)-1/(c.reference+kelvin)))
	return flow / (c.deadMin * (1 + k))
}

// strength is the constant a of a solute that elutes at a time under the usual conditions.
func (c column) strength(retentionMin float64, conditions func(tMin float64) (percentB, celsius float64)) float64 {
	const dt = 0.2 / 60
	low, high := -8.0, 40.0
	for range 40 {
		a, x, t := (low+high)/2, 0.0, 0.0
		for ; x < 1 && t < retentionMin+1; t += dt {
			b, celsius := conditions(t + dt/2)
			v := c.speed(a, b, celsius, 1)
			if x+v*dt >= 1 {
				t += (1 - x) / v
				break
			}
			x += v * dt
		}
		if t < retentionMin {
			low = a
		} else {
			high = a
		}
	}
	return (low + high) / 2
}

// travelling is a solute on its way through the column.
type travelling struct {
	bench.Solute
	a, gone    float64 // gone of 1
	elutesMin  float64 // as it looks; as it was, once gone
	areaFactor float64
}

// move lets it travel for a step that ends at a time.
func (s *travelling) move(tMin, speed float64) {
	if s.gone >= 1 {
		return
	}
	const dt = stepS / 60
	if speed <= 0 {
		s.elutesMin = math.Inf(1)
		return
	}
	s.gone += speed * dt
	s.elutesMin = tMin + (1-s.gone)/speed // behind us by the share of the step, where it is over
}

// signal is what it gives at a time, in the detector's unit.
func (s *travelling) signal(tMin float64) float64 {
	shape := s.Shape
	shape.RetentionMin = s.elutesMin
	if math.IsInf(s.elutesMin, 1) {
		return 0
	}
	return s.AreaS / 60 * s.areaFactor * shape.At(tMin)
}

// train is what is in the column.
type train struct {
	column  column
	usual   func(tMin float64) (percentB, celsius float64)
	solutes []travelling
	known   map[float64]float64 // strengths by retention
}

func (t *train) inject(s bench.Solution, factor float64) {
	if t.known == nil {
		t.known = map[float64]float64{}
	}
	t.solutes = t.solutes[:0]
	for _, solute := range s.Solutes {
		a, ok := t.known[solute.RetentionMin]
		if !ok {
			a = t.column.strength(solute.RetentionMin, t.usual)
			t.known[solute.RetentionMin] = a
		}
		t.solutes = append(t.solutes, travelling{Solute: solute, a: a, elutesMin: math.Inf(1), areaFactor: factor})
	}
}

func (t *train) move(tMin, percentB, celsius, flow float64) {
	for i := range t.solutes {
		s := &t.solutes[i]
		if s.gone < 1 {
			s.move(tMin, t.column.speed(s.a, percentB, celsius, flow))
		}
	}
}
