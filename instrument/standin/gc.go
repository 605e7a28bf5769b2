package standin

import (
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"yugen/bench"
	"yugen/instrument"
)

// gas is what gas chromatographs have in common: helium, inlet, oven, and the syringe above them.
type gas struct {
	rng            *rand.Rand
	oven, inlet    thermal
	programme      bench.Programme
	train          train
	lasts          float64 // min, of a run
	helium         float64 // bar in the cylinder
	volume, washes float64
	strokes        float64
	septum         float64
	syringe        bool // is blocked
	ending         instrument.Ending
}

func newGas(rng *rand.Rand, programme bench.Programme, lasts, deadMin, inlet float64) gas {
	g := gas{rng: rng, programme: programme, lasts: lasts, helium: 64, volume: 1, washes: 3, strokes: 612, septum: 71}
	g.oven = thermal{now: ambient, asked: programme.At(0), rateKPerS: 1.2, coolS: 900, inertiaK: 1, forcedCoolKPS: 0.7}
	g.inlet = thermal{now: ambient, asked: inlet, rateKPerS: 0.62, coolS: 1500, inertiaK: 4}
	g.train = train{column: column{deadMin: deadMin, enthalpy: 48, reference: programme.At(0)}, usual: func(t float64) (float64, float64) { return 0, programme.At(t) }}
	return g
}

func (g *gas) runMin() float64   { return g.lasts }
func (g *gas) betweenS() float64 { return 60 + 10*g.washes }
func (g *gas) back() bool        { return math.Abs(g.oven.now-g.programme.At(0)) < 1 }

func (g *gas) stepGas(inRun float64) {
	if g.oven.on && g.ending == "" {
		g.oven.asked = g.programme.At(math.Max(0, inRun))
	}
	g.oven.step()
	g.inlet.step()
	if g.inlet.on {
		g.helium -= stepS / 3600 * 0.3
	}
	if inRun >= 0 {
		g.train.move(inRun, 0, g.oven.now, 1)
	}
}

func (g *gas) inject(s bench.Solution) {
	g.strokes += 1 + 2*g.washes
	g.septum++
	g.train.inject(s, g.volume*(1+0.006*g.rng.NormFloat64()))
}

func (g *gas) common() []instrument.Condition {
	list := []instrument.Condition{
		reach("helium", "Helium open", g.helium > 5, 0, nil, fmt.Sprintf("%.0f bar in the cylinder", g.helium)),
		warm("oven", "Oven", g.oven, 1), warm("inlet", "Inlet", g.inlet, 1),
	}
	if g.syringe {
		list = append(list, person("syringe", "Syringe", "is blocked", "Take it out and clear it.", "the syringe was cleared"))
	}
	return list
}

func (g *gas) commonSupplies() []supply {
	return []supply{
		{instrument.Supply{ID: "helium", Name: "Helium", Here: round(g.helium, 1), Full: 200, Unit: "bar"}, 0.3 * (g.lasts + g.betweenS()/60) / 60},
		{instrument.Supply{ID: "syringe", Name: "Syringe", Here: 1500 - g.strokes, Full: 1500, Unit: "strokes"}, 1 + 2*g.washes},
		{instrument.Supply{ID: "septum", Name: "Septum", Here: 150 - g.septum, Full: 150, Unit: "injections"}, 1},
	}
}

func (g *gas) commonSettings(says string) []instrument.Setting {
	return []instrument.Setting{
		{ID: "oven", Name: "Oven", Asked: round(g.oven.asked, 1), Says: says, Now: ptr(round(g.oven.now, 1)), Unit: "°C", Change: instrument.Fixed},
		{ID: "inlet", Name: "Inlet", Asked: g.inlet.asked, Says: fmt.Sprintf("%g °C", g.inlet.asked), Now: ptr(round(g.inlet.now, 1)), Unit: "°C", Change: instrument.Fixed, Low: 150, High: 350},
		{ID: "helium", Name: "Helium", Asked: 1.2, Says: "1.20 mL/min", Now: ptr(1.2), Unit: "mL/min", Change: instrument.Fixed},
		{ID: "volume", Name: "Injected", Asked: g.volume, Says: fmt.Sprintf("%g µL", g.volume), Now: ptr(g.volume), Unit: "µL", Change: instrument.Next, Low: 0.2, High: 5},
		{ID: "washes", Name: "Syringe washes", Asked: g.washes, Says: fmt.Sprintf("%g before, %g after", g.washes, g.washes), Now: ptr(g.washes), Change: instrument.Next, Low: 0, High: 10},
	}
}

func (g *gas) setCommon(id string, v float64) (known bool, err error) {
	switch id {
	case "inlet":
		return true, within(id, v, 150, 350, &g.inlet.asked)
	case "volume":
		return true, within(id, v, 0.2, 5, &g.volume)
	case "washes":
		return true, within(id, math.Round(v), 0, 10, &g.washes)
	}
	return false, nil
}

func (g *gas) blockedTrouble() *instrument.Trouble {
	if !g.syringe {
		return nil
	}
	return &instrument.Trouble{Kind: instrument.Blocked, Says: "The syringe is blocked", Happened: happened("the syringe did not draw; nothing was injected, the vial was not touched")}
}

func (g *gas) mendedSyringe() []instrument.Condition {
	if g.syringe {
		return []instrument.Condition{person("syringe", "Syringe", "is blocked", "Take it out and clear it.", "the syringe was cleared")}
	}
	return []instrument.Condition{{ID: "syringe", Name: "Syringe", Standing: instrument.True, Says: "free"}}
}

// What the flame is like.
const (
	flameDetector = 300.0 // °C
	flameLeast    = 150.0 // °C, from which it may be lit
	fuelUsual     = 2.0   // bar
	fuelNotice    = 1.8
	fuelLight     = 1.3 // bar, least to light
	fuelLeast     = 1.02
	airUsual      = 300.0 // mL/min
	settleS       = 75.0
	flameQuiet    = 0.05 // pA a minute
)

// gc is a gas chromatograph with a flame ionisation detector.
type gc struct {
	gas
	detector thermal
	fuel     float64 // hydrogen, bar
	fuelOpen bool
	air      bool
	airFlow  float64
	lit      bool
	litS     float64
	tries    int
	tryS     float64
	leaking  bool
	out      bool // told
	fellMin  float64
	noticed  bool
	account  []instrument.Happening
	clock    func() time.Time
	blown    bool
}

func newGC(rng *rand.Rand, clock func() time.Time) *gc {
	g := &gc{clock: clock, gas: newGas(rng, bench.OilOven, 16, 1.9, 250), fuel: fuelUsual, fuelOpen: true}
	g.detector = thermal{now: ambient, asked: flameDetector, rateKPerS: 0.36, coolS: 2000, inertiaK: 4}
	return g
}

func (g *gc) says() string { return "helium, inlet 250 °C, flame ionisation 300 °C" }
func (g *gc) unit() string { return "pA" }

func (g *gc) axis() instrument.Axis { return "" } // it takes no scans

func (g *gc) on(instrument.List) {
	if g.ending == instrument.Rest {
		g.inlet.asked = 250
	}
	g.oven.on, g.inlet.on, g.detector.on, g.ending = true, true, true, ""
	g.out, g.tries, g.noticed, g.fellMin, g.blown = false, 0, false, 0, false
	g.fuelOpen = true
}

func (g *gc) step(inRun float64) {
	g.stepGas(inRun)
	g.detector.step()
	want := 0.0
	if g.air {
		want = airUsual
	}
	g.airFlow += (want - g.airFlow) * stepS / 4
	switch {
	case g.leaking:
		g.fuel += (0.42 - g.fuel) * stepS / 120
	case g.fuel < fuelUsual:
		g.fuel = math.Min(fuelUsual, g.fuel+stepS*0.05)
	}
	if g.leaking && inRun >= 0 && g.fellMin == 0 && g.fuel < 0.95*fuelUsual {
		g.fellMin = math.Max(0.001, inRun)
	}
	if g.lit {
		g.litS += stepS
		if g.fuel < fuelLeast || g.airFlow < airUsual/2 || g.detector.now < flameLeast-10 || g.blown || !g.fuelOpen {
			g.lit, g.litS = false, 0
		}
		return
	}
	// It lights by itself, up to three times, where it may.
	if g.mayLight() && g.tries < 3 {
		if g.tryS += stepS; g.tryS > 5 {
			g.tryS = 0
			g.tries++
			if g.lit = g.rng.Float64() < 0.8 || g.tries == 3; g.lit {
				g.litS, g.tries = 0, 0
			}
		}
	}
}

func (g *gc) mayLight() bool {
	return g.detector.on && g.detector.now >= flameLeast && g.fuelOpen && g.fuel >= fuelLight && g.airFlow > airUsual*0.9 && !g.out
}

func (g *gc) drift() float64 { return 4 * math.Exp(-g.litS/settleS) }

func (g *gc) current(tMin float64) float64 {
	if !g.lit {
		return 0.25 + 0.02*g.rng.NormFloat64()
	}
	v := 6 + g.drift() + 2.5*math.Exp((g.oven.now-240)/40)
	v += 4000 * math.Exp(-math.Pow((tMin-2.1)/0.05, 2)/2)
	if tMin > 2.1 {
		v += 900 * math.Exp(-(tMin-2.1)/0.16)
	}
	for k := range g.train.solutes {
		v += g.train.solutes[k].signal(tMin)
	}
	burns := math.Min(1, math.Max(0.3, 1-0.42*(fuelUsual-g.fuel))) // less fuel ionises less
	return v*burns + 0.04*g.rng.NormFloat64()
}

func (g *gc) measure(tMin float64, r recorder) {
	r.signal("FID", "pA", stepS, tMin, round(g.current(tMin), 4))
	if int(math.Round(tMin*60/stepS))%10 == 0 {
		r.signal("Oven temperature", "°C", 1, tMin, round(g.oven.now+0.02*g.rng.NormFloat64(), 2))
		r.signal("Hydrogen pressure", "bar", 1, tMin, round(g.fuel+0.004*g.rng.NormFloat64(), 3))
		r.signal("Inlet temperature", "°C", 1, tMin, round(g.inlet.now+0.05*g.rng.NormFloat64(), 2))
	}
}

func (g *gc) conditions(looked map[string]bool) []instrument.Condition {
	list := append(g.common(), reach("fuel", "Hydrogen open", g.fuel >= fuelLight && g.fuelOpen, g.fuel/fuelUsual, nil, fmt.Sprintf("%.1f bar", g.fuel)))
	if g.air {
		list = append(list, reach("air", "Air open", g.airFlow > airUsual*0.9, g.airFlow/airUsual, ptr(6.0), fmt.Sprintf("%.0f of %.0f mL/min", g.airFlow, airUsual)))
	} else {
		list = append(list, person("air", "Air is closed", fmt.Sprintf("%.0f of %.0f mL/min", g.airFlow, airUsual), "Open the left valve on the wall behind the instrument. The bench sees it by itself.", "the air valve was opened"))
	}
	list = append(list, look("wash", "Wash vials filled?", "The bench cannot see this. Your name goes into the record.", looked))
	hot := reach("hot", "Warm enough to light", g.detector.now >= flameLeast, g.detector.now/flameLeast, ptr(math.Max(0, (flameLeast-g.detector.now)/g.detector.rateKPerS)), fmt.Sprintf("%.0f of %.0f °C", g.detector.now, flameLeast))
	if !g.detector.on {
		hot = after("hot", "Warm enough to light", hot.Says)
	}
	list = append(list, hot, warm("detector", "Detector", g.detector, 2))
	flame := after("flame", "Flame lit", "after air and 150 °C")
	switch {
	case g.lit:
		flame = instrument.Condition{ID: "flame", Name: "Flame lit", Standing: instrument.True, Says: fmt.Sprintf("%.0f min", g.litS/60)}
	case g.tries >= 3:
		flame = person("flame", "Flame does not light", "tried 3 times", "Look at the gases and the igniter.", "the igniter was cleaned")
	case g.mayLight():
		flame = reach("flame", "Flame lit", false, float64(g.tries)/3, ptr(5.0), "lights")
	case g.air:
		// It lights by itself when it is warm enough, so that its time is known.
		flame = reach("flame", "Flame lit", false, 0, ptr(math.Max(6, (flameLeast-g.detector.now)/g.detector.rateKPerS+6)), "after 150 °C")
	}
	list = append(list, flame)
	slope := g.drift() * 60 / settleS
	needs := settleS * math.Log(4*60/settleS/flameQuiet)
	quiet := after("baseline", "Baseline quiet", fmt.Sprintf("%.0f min below %.2f pA/min", math.Ceil(needs/60), flameQuiet))
	switch {
	case g.lit:
		quiet = reach("baseline", "Baseline quiet", slope < flameQuiet, g.litS/needs, ptr(needs-g.litS), fmt.Sprintf("%.2f of %.2f pA/min", slope, flameQuiet))
	case flame.LeftS != nil:
		quiet.Standing, quiet.LeftS, quiet.Share = instrument.Coming, ptr(*flame.LeftS+needs), ptr(0.0)
	}
	return append(list, quiet)
}

func (g *gc) supplies() []supply { return g.commonSupplies() }

func (g *gc) settings(float64) []instrument.Setting {
	return append(g.commonSettings("150, then 9 °C/min to 240"),
		instrument.Setting{ID: "detector", Name: "Detector", Asked: g.detector.asked, Says: fmt.Sprintf("%g °C", g.detector.asked), Now: ptr(round(g.detector.now, 1)), Unit: "°C", Change: instrument.Fixed, Low: 200, High: 400},
		instrument.Setting{ID: "gases", Name: "Hydrogen", Asked: fuelUsual, Says: "2.0 bar", Now: ptr(round(g.fuel, 2)), Unit: "bar", Change: instrument.Fixed},
	)
}

func (g *gc) set(id string, v float64) error {
	if id == "detector" {
		return within(id, v, 200, 400, &g.detector.asked)
	}
	if known, err := g.setCommon(id, v); known {
		return err
	}
	return refuse("there is no setting %q to be asked for", id)
}

func (g *gc) readings() []instrument.Reading {
	return []instrument.Reading{ahead("Detector", "°C", g.detector), ahead("Inlet", "°C", g.inlet), ahead("Oven", "°C", g.oven), {Name: "FID", Unit: "pA", Values: []float64{round(g.current(0.3), 3)}, WillMins: []float64{}, WillValues: []float64{}}}
}

func (g *gc) failing(inRun float64) *instrument.Trouble {
	if inRun == -2 {
		return g.blockedTrouble()
	}
	if inRun >= 0 && g.fellMin > 0 && !g.noticed && g.fuel < fuelNotice {
		g.noticed = true
		began := g.clock().Add(-seconds((inRun - g.fellMin) * 60))
		g.account = []instrument.Happening{{At: began, By: "bench", Says: fmt.Sprintf("hydrogen begins to fall from %.1f bar, at %.2f min", fuelUsual, g.fellMin)}, {At: g.clock(), By: "bench", Says: "below 1.8 bar: a notice"}}
	}
	if inRun >= 0 && !g.lit && !g.out {
		g.out = true
		t := &instrument.Trouble{Kind: instrument.FlameOut, Says: "The flame went out", FromMin: g.fellMin}
		t.Happened = append(g.account, happened("flame out; signal to 0.25 pA, flame sensor cold", "closed hydrogen at the detector, left air open")...)
		if g.fuel < fuelLight {
			t.Quantity, t.Limit = "Hydrogen pressure", ptr(fuelLight)
			t.Happened = append(t.Happened, happened("did not try to light: under 1.3 bar it must not")...)
		}
		g.account, g.fuelOpen = nil, false
		t.On, t.Off = "helium, inlet, detector, air", "hydrogen"
		return t
	}
	return nil
}

func (g *gc) mended(t instrument.Trouble, looked map[string]bool) []instrument.Condition {
	if t.Kind == instrument.Blocked {
		return g.mendedSyringe()
	}
	if t.Kind == instrument.NoVial {
		return []instrument.Condition{look("vial", "The vial is in its place?", "The next is taken from the place that the list says.", looked)}
	}
	list := []instrument.Condition{}
	if g.leaking {
		list = append(list, person("fuel", "Hydrogen", fmt.Sprintf("%.2f of %.1f bar", g.fuel, fuelNotice), "Change the cylinder, or open its valve. The bench sees it rise.", "the hydrogen cylinder was changed"))
	} else {
		list = append(list, reach("fuel", "Hydrogen", g.fuel >= fuelNotice, g.fuel/fuelUsual, ptr(math.Max(0, (fuelNotice-g.fuel)/0.05)), fmt.Sprintf("%.2f of %.1f bar", g.fuel, fuelNotice)))
	}
	list = append(list, look("lines", "Lines free of air?", "Purge for 2 minutes after a change of cylinder.", looked))
	return append(list, reach("hot", "Detector", g.detector.now >= flameLeast, g.detector.now/flameLeast, nil, fmt.Sprintf("%.0f of %.0f °C", g.detector.now, flameLeast)))
}

func (g *gc) world(what string) error {
	switch what {
	case "the air valve was opened":
		g.air = true
	case "the hydrogen cylinder was changed":
		g.leaking = false
	case "the syringe was cleared":
		g.syringe = false
	case "the igniter was cleaned":
		g.tries = 0
	case "helium, syringe and septum were renewed":
		g.helium, g.strokes, g.septum = 200, 0, 0
	default:
		return refuse("nothing of this world is %q", what)
	}
	return nil
}

func (g *gc) faults() []string { return []string{"hydrogen", "flame", "syringe"} }

func (g *gc) fault(name string) error {
	switch name {
	case "hydrogen":
		g.leaking = true
	case "flame":
		g.blown = true
	case "syringe":
		g.syringe = true
	default:
		return refuse("%q is no fault; known are %v", name, g.faults())
	}
	return nil
}

func (g *gc) endings() []instrument.EndingChoice {
	return []instrument.EndingChoice{
		{ID: instrument.StayReady, Says: "stay ready: all hot, flame lit", Then: "Everything stays on until somebody says otherwise."},
		{ID: instrument.Rest, Says: "rest: flame out, inlet 150 °C", Then: "Then on: helium, inlet at 150 °C."},
		{ID: instrument.LeaveClean, Says: "leave clean: flame out, oven 40 °C, gases low", Then: "Then on: helium, until all is cold."},
	}
}

func (g *gc) end(e instrument.Ending) {
	g.ending = e
	switch e {
	case instrument.Rest:
		g.fuelOpen, g.oven.asked, g.inlet.asked = false, 40, 150
	case instrument.LeaveClean:
		g.fuelOpen, g.oven.asked, g.inlet.on, g.detector.on, g.air = false, 40, false, false, false
	}
}

func (g *gc) left(e instrument.Ending) (string, bool) {
	switch e {
	case instrument.StayReady:
		return "all hot, flame lit", true
	case instrument.Rest:
		return "flame out, inlet 150 °C", !g.lit && g.inlet.now < 152 && g.oven.now < 41
	}
	return "flame out, oven 40 °C, gases low", !g.lit && g.oven.now < 41 && g.airFlow < 10
}
