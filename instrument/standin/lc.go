package standin

import (
	"fmt"
	"math"
	"math/rand/v2"

	"yugen/bench"
	"yugen/instrument"
)

// What the liquid chromatograph is like.
const (
	lcRunMin     = 18.0
	lcFlow       = 0.45  // mL/min, usual
	lcColumn     = 35.0  // °C, usual
	lcBar        = 168.0 // at the usual flow and temperature in the first mixture
	lcMostBar    = 400.0
	lcLampWarmS  = 600.0
	lcDwellMin   = 0.6 // from the mixer to the column
	lcQuiet      = 0.1 // mAU a minute
	lcLeastInjs  = 2   // solvent for fewer pauses the list
	lcLowBarS    = 120.0
	lcCarriedMax = 30.0
	lcArrayLow   = 224 // nm; 254 and 278 are on its way
	lcArrayStep  = 6
	lcArrayCount = 30
)

// lc is a liquid chromatograph with two solvents, a column oven and a UV detector.
type lc struct {
	rng       *rand.Rand
	oven      thermal
	train     train
	asked     float64 // flow, mL/min
	flow      float64
	percentB  float64
	bar       float64
	bars      []float64 // each second of the last minute
	tick      int
	lamp      bool
	lampS     float64 // since it was lit
	lampHours float64
	a, b      float64 // mL
	waste     float64 // mL
	wash      float64 // washes
	volume    float64 // µL injected
	washes    float64
	slow      float64
	clean     float64 // s of washing at the end
	ending    instrument.Ending
	leak      float64 // share of the pressure that is lost
	block     float64 // bar a second that it rises
	blocked   float64 // bar that it rose
	syringe   bool    // is blocked
	low       bool    // told that solvent is low
	lowS      float64
	failed    bool // the lamp
	noted     bool
}

func newLC(rng *rand.Rand) *lc {
	c := &lc{rng: rng, oven: thermal{now: ambient, asked: lcColumn, rateKPerS: 0.05, coolS: 1500, inertiaK: 1.5}, asked: lcFlow, lampHours: 812, a: 620, b: 610, waste: 900, wash: 60, volume: 5, washes: 2}
	c.train = train{column: column{deadMin: 1.5, perB: 0.07, enthalpy: 9, reference: lcColumn}, usual: func(t float64) (float64, float64) { return bench.TeaGradient.At(t - lcDwellMin), lcColumn }}
	return c
}

func (c *lc) says() string          { return "UV 278 and 254 nm, diode array" }
func (c *lc) unit() string          { return "mAU" }
func (c *lc) axis() instrument.Axis { return instrument.Wavelengths }
func (c *lc) runMin() float64       { return lcRunMin }
func (c *lc) betweenS() float64     { return 40 + 10*c.washes }
func (c *lc) back() bool            { return true }

func (c *lc) on(instrument.List) {
	c.oven.on, c.lamp, c.ending, c.noted = true, !c.failed, "", false
	c.asked = math.Max(c.asked, 0.1)
	if c.asked == 0.1 {
		c.asked = lcFlow
	}
	c.percentB, c.clean = bench.TeaGradient.At(0), 0
}

func (c *lc) step(inRun float64) {
	c.oven.step()
	c.flow += (c.asked - c.flow) * stepS / 3
	if c.lamp {
		c.lampS += stepS
		c.lampHours += stepS / 3600
	}
	b := bench.TeaGradient.At(0)
	if inRun >= 0 {
		b = bench.TeaGradient.At(inRun - lcDwellMin)
	}
	if c.ending == instrument.LeaveClean && c.clean > 0 {
		b, c.clean = 80, c.clean-stepS
		if c.clean <= 0 {
			c.asked, c.lamp, c.oven.on, c.lampS = 0, false, false, 0
		}
	}
	c.percentB = b
	used := c.flow * stepS / 60
	c.a, c.b, c.waste = math.Max(0, c.a-used*(1-b/100)), math.Max(0, c.b-used*b/100), c.waste+used
	// Darcy: pressure follows flow and viscosity, which falls by about 2 % a degree.
	c.blocked += c.block * stepS
	c.bar = (lcBar*bench.Viscosity(b)*c.flow/lcFlow*math.Exp(-0.02*(c.oven.now-lcColumn)))*(1-c.leak) + c.blocked + 0.3*c.rng.NormFloat64()
	if c.tick++; c.tick%10 == 0 {
		c.bars = append(c.bars, c.bar)
		c.bars = c.bars[max(0, len(c.bars)-60):]
	}
	c.slow = 0.94*c.slow + 0.06*c.rng.NormFloat64()
	if inRun >= 0 {
		c.train.move(inRun, b, c.oven.now, c.flow/lcFlow*(1-c.leak*0.9))
	}
}

func (c *lc) inject(s bench.Solution) {
	c.wash -= c.washes
	c.train.inject(s, c.volume/5*(1+0.004*c.rng.NormFloat64()))
}

// drift is how far the baseline is from where it will stand, mAU: the lamp warms up.
func (c *lc) drift() float64 { return 9 * math.Exp(-c.lampS/170) }

// ground is what reaches the detector besides compounds, mAU at 278 nm: the gradient, the lamp that warms up, the front.
func (c *lc) ground(tMin float64) float64 {
	front := c.train.column.deadMin
	return 0.5 + 0.034*c.percentB + c.drift() + 9*math.Exp(-math.Pow((tMin-front-0.02)/0.035, 2)/2) - 3.2*math.Exp(-math.Pow((tMin-front+0.1)/0.03, 2)/2)
}

// array is a spectrum of the diode array; solvents and front absorb more at short wavelengths.
func (c *lc) array(tMin float64) instrument.Scan {
	s := instrument.Scan{AtS: round(tMin*60, 1), Axis: make([]float64, lcArrayCount), Values: make([]float64, lcArrayCount)}
	ground, old := c.ground(tMin), 1+math.Pow(c.lampHours/1500, 3)
	for k := range s.Axis {
		nm := lcArrayLow + lcArrayStep*float64(k)
		s.Axis[k] = nm
		if c.lamp {
			s.Values[k] = ground*math.Exp((278-nm)/60) + old*0.06*c.rng.NormFloat64()
		}
	}
	for k := range c.train.solutes {
		height := c.train.solutes[k].signal(tMin)
		if height < 1e-4 || !c.lamp {
			continue
		}
		for n, nm := range s.Axis {
			s.Values[n] += height * c.train.solutes[k].Absorbs(nm)
		}
	}
	for k, v := range s.Values {
		s.Values[k] = round(v, 2)
	}
	return s
}

func (c *lc) light(tMin float64, second bool) float64 {
	if !c.lamp {
		return 0.002 * c.rng.NormFloat64()
	}
	v := c.ground(tMin)
	for k := range c.train.solutes {
		s := &c.train.solutes[k]
		part := s.signal(tMin)
		if second {
			part *= s.Second
		}
		v += part
	}
	old := 1 + math.Pow(c.lampHours/1500, 3)
	return v + old*(0.022*c.rng.NormFloat64()+0.05*c.slow)
}

func (c *lc) measure(tMin float64, r recorder) {
	tick := int(math.Round(tMin * 60 / stepS))
	r.signal("UV 278 nm", "mAU", stepS, tMin, round(c.light(tMin, false), 4))
	if tick%4 == 0 {
		r.signal("UV 254 nm", "mAU", 4*stepS, tMin, round(c.light(tMin, true), 4))
	}
	if tick%10 == 0 {
		r.scan(c.array(tMin))
		r.signal("Pump pressure", "bar", 1, tMin, round(c.bar, 1))
		r.signal("Gradient", "% B", 1, tMin, round(bench.TeaGradient.At(tMin), 2))
		r.signal("Column temperature", "°C", 1, tMin, round(c.oven.now+0.01*c.rng.NormFloat64(), 2))
	}
}

func round(v float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(v*p) / p
}

func (c *lc) swing() float64 {
	if len(c.bars) < 60 {
		return math.Inf(1)
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, b := range c.bars {
		low, high = math.Min(low, b), math.Max(high, b)
	}
	return (high - low) / 2
}

func (c *lc) conditions(looked map[string]bool) []instrument.Condition {
	list := []instrument.Condition{
		warm("column", "Column", c.oven, 0.5),
		reach("flow", "Flow", math.Abs(c.flow-c.asked) < 0.005, c.flow/math.Max(c.asked, 0.01), ptr(12.0), fmt.Sprintf("%.3f of %.3f mL/min", c.flow, c.asked)),
	}
	swing := c.swing()
	steady := reach("pressure", "Pressure steady", swing < 3 && c.bar < lcMostBar, float64(len(c.bars))/60, ptr(float64(60-min(60, len(c.bars)))), fmt.Sprintf("%.0f bar, ± %.1f in 1 min", c.bar, math.Min(swing, 99)))
	list = append(list, steady)
	lamp := reach("lamp", "Lamp on", c.lamp && c.lampS >= lcLampWarmS, c.lampS/lcLampWarmS, ptr(math.Max(0, lcLampWarmS-c.lampS)), fmt.Sprintf("%.0f of %.0f min", math.Min(c.lampS, lcLampWarmS)/60, lcLampWarmS/60))
	if c.failed {
		lamp = person("lamp", "The lamp does not light", "0 mAU", "Put a new lamp in.", "a new lamp was put in")
	}
	list = append(list, lamp)
	slope := c.drift() * 60 / 170
	quiet := reach("baseline", "Baseline quiet", c.lamp && slope < lcQuiet, lcQuiet/math.Max(slope, lcQuiet), ptr(math.Max(0, 170*math.Log(9*60/170.0/lcQuiet)-c.lampS)), fmt.Sprintf("%.2f of %.2f mAU/min", slope, lcQuiet))
	if !c.lamp {
		quiet.Standing, quiet.LeftS = instrument.After, nil
	}
	list = append(list, quiet)
	if c.syringe {
		list = append(list, person("needle", "Needle", "is blocked", "Take the needle out and clear it.", "the needle was cleared"))
	}
	return append(list, look("bottles", "Bottles and waste right?", "The bench cannot see this. Your name goes into the record.", looked))
}

func (c *lc) supplies() []supply {
	ofB := 0.0
	for t := 0.05; t < lcRunMin; t += 0.1 {
		ofB += bench.TeaGradient.At(t) / 100 * 0.1 * lcFlow
	}
	all := lcFlow * (lcRunMin + c.betweenS()/60)
	return []supply{
		{instrument.Supply{ID: "lamp", Name: "Lamp", Here: round(2000-c.lampHours, 1), Full: 2000, Unit: "h"}, lcRunMin / 60},
		{instrument.Supply{ID: "a", Name: "Solvent A", Here: round(c.a, 1), Full: 1000, Unit: "mL"}, all - ofB},
		{instrument.Supply{ID: "b", Name: "Solvent B", Here: round(c.b, 1), Full: 1000, Unit: "mL"}, ofB},
		{instrument.Supply{ID: "wash", Name: "Needle wash", Here: c.wash, Full: 60, Unit: "washes"}, c.washes},
		{instrument.Supply{ID: "waste", Name: "Waste", Here: round(c.waste, 0), Full: 5000, Unit: "mL", Fills: true}, all},
	}
}

func (c *lc) settings(inRun float64) []instrument.Setting {
	now := func(v float64) *float64 { return &v }
	b := now(round(c.percentB, 1))
	return []instrument.Setting{
		{ID: "column", Name: "Column temperature", Asked: c.oven.asked, Says: fmt.Sprintf("%.1f °C", c.oven.asked), Now: now(round(c.oven.now, 1)), Unit: "°C", Change: instrument.Fixed, Low: 20, High: 60},
		{ID: "flow", Name: "Flow", Asked: c.asked, Says: fmt.Sprintf("%.3f mL/min", c.asked), Now: now(round(c.flow, 3)), Unit: "mL/min", Change: instrument.Fixed, Low: 0.1, High: 1},
		{ID: "gradient", Name: "Gradient", Asked: 60, Says: "5 to 60 % B", Now: b, Unit: "% B", Change: instrument.Fixed},
		{ID: "wavelength", Name: "Wavelengths", Asked: 278, Says: "278, 254, 224–398 nm", Now: now(278), Unit: "nm", Change: instrument.Fixed},
		{ID: "rate", Name: "Points a second", Asked: 10, Says: "10", Now: now(10), Change: instrument.Fixed},
		{ID: "volume", Name: "Injected", Asked: c.volume, Says: fmt.Sprintf("%g µL", c.volume), Now: now(c.volume), Unit: "µL", Change: instrument.Next, Low: 0.5, High: 20},
		{ID: "washes", Name: "Needle washes", Asked: c.washes, Says: fmt.Sprintf("%g", c.washes), Now: now(c.washes), Change: instrument.Next, Low: 0, High: 5},
	}
}

func (c *lc) set(id string, v float64) error {
	switch id {
	case "column":
		return within(id, v, 20, 60, &c.oven.asked)
	case "flow":
		return within(id, v, 0.1, 1, &c.asked)
	case "volume":
		return within(id, v, 0.5, 20, &c.volume)
	case "washes":
		return within(id, math.Round(v), 0, 5, &c.washes)
	}
	return refuse("there is no setting %q to be asked for", id)
}

func (c *lc) readings() []instrument.Reading {
	return []instrument.Reading{
		ahead("Column", "°C", c.oven),
		{Name: "Pressure", Unit: "bar", Asked: lcBar, Values: []float64{round(c.bar, 1)}, WillMins: []float64{}, WillValues: []float64{}},
		{Name: "UV 278 nm", Unit: "mAU", Values: []float64{round(c.light(0, false), 3)}, WillMins: []float64{}, WillValues: []float64{}},
	}
}

func (c *lc) failing(inRun float64) *instrument.Trouble {
	switch {
	case inRun == -2:
		if c.syringe {
			return &instrument.Trouble{Kind: instrument.Blocked, Says: "The needle is blocked", Happened: happened("the needle did not go down; nothing was injected, the vial was not touched")}
		}
		return nil
	case c.noted:
		return nil
	case c.bar > lcMostBar:
		c.asked, c.block, c.noted = 0, 0, true
		return &instrument.Trouble{Kind: instrument.PressureHigh, Says: "The pressure is too high", Quantity: "Pump pressure", Limit: ptr(lcMostBar), FromMin: math.Max(0, inRun-c.blocked/6/60), Happened: happened(fmt.Sprintf("pressure %.0f of %.0f bar", c.bar, lcMostBar), "stopped the pump; valve and lamp as they are")}
	case c.failed && c.lamp:
		c.lamp, c.lampS, c.noted = false, 0, true
		return &instrument.Trouble{Kind: instrument.LampFailed, Says: "The lamp went out", Quantity: "UV 278 nm", Happened: happened("no light reaches the detector")}
	case inRun >= 0 && math.Min(c.b/c.supplies()[2].each, c.a/c.supplies()[1].each) < lcLeastInjs && !c.low:
		c.low = true
		return &instrument.Trouble{Kind: instrument.SolventLow, Says: "Solvent runs low", Happened: happened("solvent for fewer than 2 injections; pauses after this one")}
	}
	if c.leak > 0 && inRun >= 0 && c.flow > 0.9*c.asked {
		if c.lowS += stepS; c.lowS > lcLowBarS {
			c.noted = true
			return &instrument.Trouble{Kind: instrument.PressureLow, Says: "The pressure is too low", Quantity: "Pump pressure", FromMin: math.Max(0.001, inRun-lcLowBarS/60), Happened: happened(fmt.Sprintf("pressure %.0f bar for 2 min; stops after this injection", c.bar))}
		}
	}
	return nil
}

func (c *lc) mended(t instrument.Trouble, looked map[string]bool) []instrument.Condition {
	switch t.Kind {
	case instrument.PressureHigh:
		if c.blocked > 0 {
			return []instrument.Condition{person("block", "Something blocks the way", fmt.Sprintf("%.0f bar too much", c.blocked), "Change the filter before the column.", "the filter was changed")}
		}
		return []instrument.Condition{{ID: "block", Name: "The way is free", Standing: instrument.True, Says: "0 bar, pump stopped"}}
	case instrument.PressureLow:
		if c.leak > 0 {
			return []instrument.Condition{person("leak", "Something leaks", fmt.Sprintf("%.0f bar", c.bar), "Look at the fittings; tighten the one that is wet.", "the fitting was tightened")}
		}
		return []instrument.Condition{{ID: "leak", Name: "Tight", Standing: instrument.True, Says: fmt.Sprintf("%.0f bar", c.bar)}}
	case instrument.SolventLow:
		if c.low {
			return []instrument.Condition{person("solvent", "Solvent", fmt.Sprintf("A %.0f, B %.0f mL", c.a, c.b), "Fill the bottles.", "the bottles were filled")}
		}
		return []instrument.Condition{{ID: "solvent", Name: "Solvent", Standing: instrument.True, Says: fmt.Sprintf("A %.0f, B %.0f mL", c.a, c.b)}}
	case instrument.LampFailed:
		if c.failed {
			return []instrument.Condition{person("lamp", "Lamp", "does not light", "Put a new lamp in.", "a new lamp was put in")}
		}
		return []instrument.Condition{{ID: "lamp", Name: "Lamp", Standing: instrument.True, Says: "new"}}
	case instrument.Blocked:
		if c.syringe {
			return []instrument.Condition{person("needle", "Needle", "is blocked", "Take the needle out and clear it.", "the needle was cleared")}
		}
		return []instrument.Condition{{ID: "needle", Name: "Needle", Standing: instrument.True, Says: "free"}}
	}
	return []instrument.Condition{look("vial", "The vial is in its place?", "The next is taken from the place that the list says.", looked)}
}

func (c *lc) world(what string) error {
	switch what {
	case "the filter was changed":
		c.blocked, c.block = 0, 0
	case "the fitting was tightened":
		c.leak, c.lowS = 0, 0
	case "the bottles were filled":
		c.a, c.b, c.low = 1000, 1000, false
	case "a new lamp was put in":
		c.failed, c.lampHours = false, 0
	case "the needle was cleared":
		c.syringe = false
	case "the waste was emptied":
		c.waste, c.wash = 0, 60
	default:
		return refuse("nothing of this world is %q", what)
	}
	return nil
}

func (c *lc) faults() []string { return []string{"block", "leak", "solvent", "lamp", "syringe"} }

func (c *lc) fault(name string) error {
	switch name {
	case "block":
		c.block = 6
	case "leak":
		c.leak = 0.35
	case "solvent":
		c.b = 1.2 * c.supplies()[2].each
	case "lamp":
		c.failed = true
	case "syringe":
		c.syringe = true
	default:
		return refuse("%q is no fault; known are %v", name, c.faults())
	}
	return nil
}

func (c *lc) endings() []instrument.EndingChoice {
	return []instrument.EndingChoice{
		{ID: instrument.StayReady, Says: "stay ready: all on, 27 mL an hour", Then: "Everything stays on until somebody says otherwise."},
		{ID: instrument.Rest, Says: "rest: 0.1 mL/min, lamp off", Then: "The pump goes on slowly, so that the column does not dry."},
		{ID: instrument.LeaveClean, Says: "leave clean: wash 10 min, pump and lamp off", Then: "Then on: the column oven until it has cooled, nothing else."},
	}
}

func (c *lc) end(e instrument.Ending) {
	c.ending = e
	switch e {
	case instrument.Rest:
		c.asked, c.lamp, c.lampS = 0.1, false, 0
	case instrument.LeaveClean:
		c.clean = 600
		c.asked = math.Max(c.asked, lcFlow)
	}
}

func (c *lc) left(e instrument.Ending) (string, bool) {
	switch e {
	case instrument.StayReady:
		return fmt.Sprintf("all on, %.3f mL/min", c.asked), true
	case instrument.Rest:
		return "flow 0.1 mL/min, lamp off", math.Abs(c.flow-0.1) < 0.01 && !c.lamp
	}
	return "pump stopped, lamp off", c.clean <= 0 && c.flow < 0.005 && !c.lamp
}
