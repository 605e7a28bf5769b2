package standin

import (
	"fmt"
	"math"
	"math/rand/v2"

	"yugen/bench"
	"yugen/instrument"
)

// What the mass detector is like.
const (
	massLow        = 35
	massHigh       = 300
	scanEveryS     = 0.7
	delayMin       = 4.5  // filament off while the solvent passes
	vacuumLeast    = 10.0 // mPa
	vacuumBase     = 3.1
	tuneGoodDays   = 7.0
	leastCount     = 36.0
	filamentLasts  = 2000.0 // h
	multiplierMost = 2800.0 // V
)

// gcms is a gas chromatograph with a mass detector.
type gcms struct {
	gas
	source, transfer thermal
	pressure         float64 // mPa
	leak             bool
	filament         bool
	filamentH        float64
	gone             bool // the filament
	tuneDays         float64
	told             bool
	venting          bool
	air              bool    // is let in
	off              bool    // the pump stays off
	pump             float64 // its speed, 1 of 1
	oilH             float64 // of the pump's oil
}

func newGCMS(rng *rand.Rand) *gcms {
	m := &gcms{gas: newGas(rng, bench.AromaOven, 25, 1.6, 250), pressure: 400, filamentH: 1460, tuneDays: 2, pump: 1, oilH: 4100}
	m.source = thermal{now: 120, asked: 230, rateKPerS: 0.3, coolS: 4000, inertiaK: 5}
	m.transfer = thermal{now: 100, asked: 280, rateKPerS: 0.5, coolS: 3000, inertiaK: 5}
	return m
}

func (m *gcms) says() string { return "helium, source 230 °C, m/z 35 to 300" }
func (m *gcms) unit() string { return "counts" }

func (m *gcms) axis() instrument.Axis { return instrument.Masses }

func (m *gcms) on(instrument.List) {
	m.oven.on, m.inlet.on, m.source.on, m.transfer.on, m.ending, m.told, m.off = true, true, true, true, "", false, false
}

func (m *gcms) step(inRun float64) {
	m.stepGas(inRun)
	m.source.step()
	m.transfer.step()
	m.tuneDays += stepS / 86400
	goal, tau := vacuumBase, 150.0
	if m.leak {
		goal, tau = 60, 40
	}
	if inRun > 1.4 && inRun < 2.4 { // the solvent passes
		goal += 1.2
	}
	if m.pumpStep(); m.air || m.off {
		goal, tau = atmosphere, airInS
	}
	// A pump takes away in proportion to what is there; the logarithm falls in a straight line until it is near its end.
	m.pressure += (goal - m.pressure) * stepS / tau
	m.filament = inRun >= delayMin && !m.gone && !m.venting && m.pressure < 4*vacuumLeast
	if m.filament {
		m.filamentH += stepS / 3600
	}
}

func (m *gcms) measure(tMin float64, r recorder) {
	tick := int(math.Round(tMin * 60 / stepS))
	if tick%10 == 0 {
		r.signal("Oven temperature", "°C", 1, tMin, round(m.oven.now+0.02*m.rng.NormFloat64(), 2))
		r.signal("Vacuum", "mPa", 1, tMin, round(m.pressure*(1+0.01*m.rng.NormFloat64()), 2))
	}
	if tick%7 != 0 || !m.filament {
		return
	}
	var heights [massHigh + 1]float64
	for k := range m.train.solutes {
		s := &m.train.solutes[k]
		if h := s.signal(tMin); h > 0.5 {
			for _, l := range s.Lines {
				heights[int(l.At)] += h * l.Height
			}
		}
	}
	bleed := 0.2 + 1.5*math.Exp((m.oven.now-230)/35)
	for k, l := range bench.Bleed() {
		h := l.Height
		switch {
		case k > 1:
			h *= bleed
		case m.leak:
			h *= m.pressure / vacuumBase
		}
		heights[int(l.At)] += h
	}
	for range 3 {
		heights[massLow+m.rng.IntN(massHigh-massLow+1)] += 20
	}
	s := instrument.Scan{AtS: round(tMin*60, 1), Axis: []float64{}, Values: []float64{}}
	for mass, h := range heights {
		if h < leastCount/2 {
			continue
		}
		if h += math.Sqrt(6*h+40) * m.rng.NormFloat64(); h >= leastCount {
			s.Axis, s.Values = append(s.Axis, float64(mass)), append(s.Values, math.Round(h))
		}
	}
	r.scan(s)
}

func (m *gcms) conditions(looked map[string]bool) []instrument.Condition {
	left := 0.0
	if m.pressure > vacuumLeast*0.9 {
		left = 150 * math.Log((m.pressure-vacuumBase)/(vacuumLeast*0.9-vacuumBase))
	}
	vacuum := reach("vacuum", "Vacuum", m.pressure < vacuumLeast, vacuumLeast/m.pressure, &left, fmt.Sprintf("%.1f of %.0f mPa", m.pressure, vacuumLeast))
	if m.leak {
		vacuum = person("vacuum", "Vacuum", fmt.Sprintf("%.1f of %.0f mPa", m.pressure, vacuumLeast), "Look for the leak: the nut at the transfer line first.", "the leak was closed")
	}
	list := append(m.common(), vacuum, warm("source", "Source", m.source, 2), warm("transfer", "Transfer line", m.transfer, 3))
	tuned := instrument.Condition{ID: "tune", Name: "Tuned", Standing: instrument.True, Says: fmt.Sprintf("%.0f days ago, good for %.0f", m.tuneDays, tuneGoodDays)}
	if m.tuneDays > tuneGoodDays {
		tuned = person("tune", "Tune is too old", fmt.Sprintf("%.0f days, good for %.0f", m.tuneDays, tuneGoodDays), "Tune, and look at the widths.", "the detector was tuned")
	}
	list = append(list, tuned, look("calibrant", "Calibrant closed?", "The bench cannot see this. Your name goes into the record.", looked))
	filament := instrument.Condition{ID: "filament", Name: "Filament whole", Standing: instrument.True, Says: fmt.Sprintf("on after %.2f min of each run", delayMin)}
	if m.gone {
		filament = person("filament", "Filament", "burnt through", "Change to the second one.", "the filament was changed")
	}
	return append(list, filament)
}

func (m *gcms) supplies() []supply {
	return append(m.commonSupplies(), supply{instrument.Supply{ID: "filament", Name: "Filament", Here: round(filamentLasts-m.filamentH, 1), Full: filamentLasts, Unit: "h"}, (m.lasts - delayMin) / 60},
		supply{instrument.Supply{ID: "oil", Name: "Pump oil", Here: round(oilLasts-m.oilH, 1), Full: oilLasts, Unit: "h"}, m.lasts / 60})
}

func (m *gcms) settings(float64) []instrument.Setting {
	return append(m.commonSettings("40, then 8 °C/min to 216"),
		instrument.Setting{ID: "source", Name: "Source", Asked: m.source.asked, Says: "230 °C", Now: ptr(round(m.source.now, 1)), Unit: "°C", Change: instrument.Fixed},
		instrument.Setting{ID: "transfer", Name: "Transfer line", Asked: m.transfer.asked, Says: "280 °C", Now: ptr(round(m.transfer.now, 1)), Unit: "°C", Change: instrument.Fixed},
		instrument.Setting{ID: "masses", Name: "Masses", Asked: massHigh, Says: "m/z 35 to 300", Now: ptr(1 / scanEveryS), Unit: "scans a second", Change: instrument.Fixed},
		instrument.Setting{ID: "delay", Name: "Solvent delay", Asked: delayMin, Says: fmt.Sprintf("%.2f min", delayMin), Unit: "min", Change: instrument.Fixed},
	)
}

func (m *gcms) set(id string, v float64) error {
	if known, err := m.setCommon(id, v); known {
		return err
	}
	return refuse("there is no setting %q to be asked for", id)
}

func (m *gcms) readings() []instrument.Reading {
	return []instrument.Reading{ahead("Source", "°C", m.source), ahead("Transfer line", "°C", m.transfer), ahead("Inlet", "°C", m.inlet), ahead("Oven", "°C", m.oven), {Name: "Vacuum", Unit: "mPa", Asked: vacuumLeast, Values: []float64{round(m.pressure, 2)}, WillMins: []float64{}, WillValues: []float64{}}}
}

func (m *gcms) failing(inRun float64) *instrument.Trouble {
	switch {
	case inRun == -2:
		return m.blockedTrouble()
	case m.told:
		return nil
	case inRun >= 0 && m.leak && m.pressure > vacuumLeast:
		m.told = true
		return &instrument.Trouble{Kind: instrument.VacuumLost, Says: "The vacuum was lost", Quantity: "Vacuum", Limit: ptr(vacuumLeast), FromMin: math.Max(0.001, inRun-0.2), Happened: happened(fmt.Sprintf("%.1f mPa, more than %.0f", m.pressure, vacuumLeast), "filament off")}
	case inRun >= delayMin && m.gone:
		m.told = true
		return &instrument.Trouble{Kind: instrument.FilamentGone, Says: "The filament burnt through", Happened: happened("no emission")}
	}
	return nil
}

func (m *gcms) mended(t instrument.Trouble, looked map[string]bool) []instrument.Condition {
	switch t.Kind {
	case instrument.Blocked:
		return m.mendedSyringe()
	case instrument.NoVial:
		return []instrument.Condition{look("vial", "The vial is in its place?", "The next is taken from the place that the list says.", looked)}
	}
	var list []instrument.Condition
	for _, c := range m.conditions(looked) {
		if c.ID == "vacuum" || c.ID == "filament" {
			list = append(list, c)
		}
	}
	return list
}

func (m *gcms) world(what string) error {
	switch what {
	case "the leak was closed":
		m.leak = false
	case "the filament was changed":
		m.gone, m.filamentH = false, 0
	case "the detector was tuned":
		m.tuneDays = 0
	case "the syringe was cleared":
		m.syringe = false
	default:
		return refuse("nothing of this world is %q", what)
	}
	return nil
}

func (m *gcms) faults() []string { return []string{"leak", "filament", "syringe", "tune"} }

func (m *gcms) fault(name string) error {
	switch name {
	case "leak":
		m.leak = true
	case "filament":
		m.gone = true
	case "syringe":
		m.syringe = true
	case "tune":
		m.tuneDays = tuneGoodDays + 2
	default:
		return refuse("%q is no fault; known are %v", name, m.faults())
	}
	return nil
}

func (m *gcms) endings() []instrument.EndingChoice {
	return []instrument.EndingChoice{
		{ID: instrument.StayReady, Says: "stay ready: all hot, filament off", Then: "Everything stays hot until somebody says otherwise."},
		{ID: instrument.Rest, Says: "rest: vacuum on, inlet 150 °C", Then: "Then on: helium, vacuum, source."},
		{ID: instrument.LeaveClean, Says: "leave clean: filament off, source cooled, vacuum on", Then: "Venting is a person's act, at the instrument."},
	}
}

func (m *gcms) end(e instrument.Ending) {
	m.ending = e
	switch e {
	case instrument.Rest:
		m.oven.asked = 40
	case instrument.LeaveClean:
		m.oven.asked, m.inlet.on, m.source.on, m.transfer.on = 40, false, false, false
	}
}

func (m *gcms) left(e instrument.Ending) (string, bool) {
	if e == instrument.LeaveClean {
		return "filament off, source cools, vacuum on", m.oven.now < 42 && m.source.now < m.source.asked-20
	}
	return "filament off, vacuum on", m.oven.now < 42
}
