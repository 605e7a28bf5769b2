package standin

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yugen/instrument"
)

// Of opening a mass detector to the air.
const (
	coolEnough  = 100.0   // °C, below which air may come in
	atmosphere  = 1.013e8 // mPa
	airInS      = 110.0   // s; the time constant of air that comes in
	pumpSlowsS  = 60.0    // s, from full to half speed
	pumpAirs    = 0.5     // speed at which air may come in
	oilLasts    = 4400.0  // h
	pumpDownMin = 44.0    // from air to a high vacuum
	waterMin    = 240.0   // until air and water are gone
	maxDone     = 60      // lines of what was done that are shown
)

// opened is a device that can be opened to the air.
type opened interface {
	// vent turns off what must be off, shut what then says, and rest goes back while no air is in.
	vent()
	rest()
	shut(then instrument.Then)
	// mayAir tells whether air may come in, letAir lets it, hasAir tells that it is in.
	mayAir() bool
	letAir()
	hasAir() bool
	beforeAir(looked map[string]bool) []instrument.Condition
	coolsS() float64
	// changed begins the count of a supply anew.
	changed(id string) error
}

// ventAct is what is asked about opening it.
func (i *Instrument) ventAct(a instrument.Act) error {
	d, can := i.dev.(opened)
	switch {
	case !can:
		return refuse("%s has no vacuum that could be vented", i.about.Name)
	case a.Kind == instrument.Vent && i.vented != nil:
		return refuse("%s is being vented for %s", i.about.Name, i.vented.For)
	case a.Kind == instrument.Vent:
		return i.vent(d, a)
	case a.Kind == instrument.Looked && a.What == "door" && i.phase == instrument.Open:
		i.ventTell("the door is shut", a.Who)
		d.shut(i.vented.Then)
		i.vented, i.looked = nil, map[string]bool{}
		i.enter(instrument.Resting)
	case a.Kind == instrument.Looked:
		if !slices.ContainsFunc(d.beforeAir(i.looked), func(c instrument.Condition) bool {
			return c.ID == a.What && c.Looked && c.Standing == instrument.Person
		}) {
			return refuse("there is nothing called %q to be looked at now", a.What)
		}
		i.looked[a.What] = true
		says := "looked: " + a.What
		if a.What == "stay" {
			says = "stays with it"
		}
		i.ventTell(says, a.Who)
	case a.Kind == instrument.Ends && slices.Contains(instrument.Thens, instrument.Then(a.Choice)):
		i.vented.Then = instrument.Then(a.Choice)
	case a.Kind == instrument.Back && (i.phase == instrument.Open || d.mayAir() && i.looked["stay"]):
		return refuse("air is coming in; it goes on to the end")
	case a.Kind == instrument.Back:
		i.ventTell("went back to rest; no air was let in", a.Who)
		d.rest()
		i.vented, i.looked = nil, map[string]bool{}
		i.enter(instrument.Resting)
	case a.Kind == instrument.Changed && i.phase == instrument.Open:
		if err := d.changed(a.What); err != nil {
			return err
		}
		i.ventTell("changed: "+a.What, a.Who)
	case a.Kind == instrument.Changed:
		return refuse("nothing is changed before the door may be opened")
	default:
		return refuse("%s is vented for %s; %s is nothing that can be asked of it now", i.about.Name, i.vented.For, strings.ReplaceAll(string(a.Kind), "_", " "))
	}
	return nil
}

func (i *Instrument) vent(d opened, a instrument.Act) error {
	switch {
	case i.list.ID != "" || i.phase != instrument.Resting:
		return refuse("%s is under way on %s; end it first", i.list.For, i.about.Name)
	case strings.TrimSpace(a.What) == "" || len(a.What) > instrument.MaxWords:
		return refuse("say for what it is vented, in at most %d letters", instrument.MaxWords)
	case !slices.Contains(instrument.Thens, instrument.Then(a.Choice)):
		return refuse("afterwards it does one of %v, not %q", instrument.Thens, a.Choice)
	}
	i.vented = &instrument.Vented{For: strings.TrimSpace(a.What), By: a.Who, Then: instrument.Then(a.Choice)}
	i.looked, i.trace, i.preparedS, i.confirmed, i.confirmAt = map[string]bool{}, nil, 0, "", nil
	d.vent()
	i.ventTell("venting for "+i.vented.For, a.Who)
	i.ventTell("filament, multiplier and heaters off", "")
	i.enter(instrument.Venting)
	return nil
}

// ventTell tells something, and keeps it among what was done.
func (i *Instrument) ventTell(says, by string) {
	i.tell(says, by)
	if by == "" {
		by = "bench"
	}
	if n := len(i.vented.Done); n >= maxDone {
		i.vented.Done = slices.Delete(i.vented.Done, 1, 2) // how it began stays; all of it is in the record
	}
	i.vented.Done = append(i.vented.Done, instrument.Happening{At: i.now, By: by, Says: says})
}

// ventStep lets air in once it may be, and opens when all is true.
func (i *Instrument) ventStep() {
	d := i.dev.(opened)
	all := d.beforeAir(i.looked)
	before := func(ids ...string) bool {
		return !slices.ContainsFunc(all, func(c instrument.Condition) bool {
			return slices.Contains(ids, c.ID) && c.Standing != instrument.True
		})
	}
	if !d.hasAir() && d.mayAir() && before("calibrant", "stay") {
		d.letAir()
		i.ventTell("source and transfer line are below 100 °C: the pump slows, air is let in", "")
	}
	if before("filament", "calibrant", "stay", "source", "transfer", "pump", "air") {
		i.ventTell("the door may be opened", "")
		i.enter(instrument.Open)
	}
}

// ventShown is what is shown of it.
func (i *Instrument) ventShown() *instrument.Vented {
	v, d := *i.vented, i.dev.(opened)
	v.Done = slices.Clone(v.Done)
	v.Back = i.phase == instrument.Venting && !d.hasAir()
	v.Ahead = []instrument.Ahead{}
	if i.phase == instrument.Venting {
		at := func(s float64) *time.Time {
			if !i.looked["stay"] || !i.looked["calibrant"] {
				return nil
			}
			t := i.now.Add(seconds(s))
			return &t
		}
		cools, air := d.coolsS(), airInS*7
		if !d.hasAir() {
			v.Ahead = append(v.Ahead, instrument.Ahead{Says: "Pump slows, air let in", Asked: "below 100 °C", By: "bench", At: at(cools), Mins: cools / 60})
		} else {
			air = math.Max(0, airInS*7-i.phaseS)
		}
		v.Ahead = append(v.Ahead, instrument.Ahead{Says: "Door may be opened", Asked: "air inside", By: "you", At: at(cools + air), Mins: (cools + air) / 60})
	}
	v.Return = []instrument.Ahead{
		{Says: "High vacuum", Asked: fmt.Sprintf("below %.0f mPa", vacuumLeast), By: "bench", Mins: pumpDownMin},
		{Says: "Heaters on", Asked: "230, 280 °C", By: "bench", Mins: 30},
		{Says: "Air and water gone", Asked: "below 5 %", By: "bench", Mins: waterMin},
		{Says: "Tune, calibrant opened and closed", Asked: "widths", By: "you"},
		{Says: "Blank, then the ladder", Asked: "2 injections", By: "you"},
	}
	return &v
}

// The mass detector opened.

func (m *gcms) vent() {
	m.venting, m.oven.asked, m.inlet.on, m.source.on, m.transfer.on = true, 40, false, false, false
}

func (m *gcms) rest() { m.venting, m.air = false, false }

func (m *gcms) shut(then instrument.Then) {
	m.venting, m.air, m.off = false, false, then == instrument.StayOff
	m.tuneDays = tuneGoodDays + 1 // what was open is tuned anew
}

func (m *gcms) hot() float64    { return math.Max(m.source.now, m.transfer.now) }
func (m *gcms) mayAir() bool    { return m.hot() < coolEnough }
func (m *gcms) letAir()         { m.air = true }
func (m *gcms) hasAir() bool    { return m.air }
func (m *gcms) coolsS() float64 { return math.Max(m.fallsS(m.source), m.fallsS(m.transfer)) }

// fallsS is how long something that is off takes until air may come to it, by Newton's law of cooling.
func (m *gcms) fallsS(h thermal) float64 {
	if h.now <= coolEnough {
		return 0
	}
	return h.coolS * math.Log((h.now-ambient)/(coolEnough-ambient))
}

// pumpStep is the pump's own: it slows for the air, and its oil ages while it turns.
func (m *gcms) pumpStep() {
	goal := 1.0
	switch {
	case m.off:
		goal = 0
	case m.air:
		goal = pumpAirs
	}
	m.pump += math.Max(-stepS/pumpSlowsS, math.Min(stepS/pumpSlowsS, goal-m.pump))
	if m.pump > 0 {
		m.oilH += stepS / 3600
	}
}

func (m *gcms) beforeAir(looked map[string]bool) []instrument.Condition {
	cool := func(id, name string, h thermal) instrument.Condition {
		left := m.fallsS(h)
		return reach(id, name, h.now < coolEnough, (ambient+206-h.now)/(ambient+206-coolEnough), &left, fmt.Sprintf("%.0f °C", h.now))
	}
	stay := look("stay", "Someone stays", "The bench does not let air in to an empty room. Your name goes into the record.", looked)
	calibrant := look("calibrant", "Calibrant closed?", "The bench cannot see this. Your name goes into the record.", looked)
	stay.Answer = "I stay"
	list := []instrument.Condition{
		{ID: "filament", Name: "Filament, multiplier off", Standing: instrument.True, Says: "0 µA, 0 V"},
		{ID: "list", Name: "Nothing runs or waits", Standing: instrument.True, Says: "no list"},
		calibrant, stay, cool("source", "Source below 100 °C", m.source), cool("transfer", "Transfer line below 100 °C", m.transfer),
	}
	pump := after("pump", "Pump at half speed", fmt.Sprintf("now %.0f %%", 100*m.pump))
	air := after("air", "Air inside", fmt.Sprintf("now %.1f mPa", m.pressure))
	if m.air {
		slow, in := (m.pump-pumpAirs)*pumpSlowsS, airInS*math.Log(math.Max(1, (atmosphere-m.pressure)/(0.002*atmosphere)))
		pump = reach("pump", "Pump at half speed", m.pump <= pumpAirs+1e-6, 2*(1-m.pump), &slow, fmt.Sprintf("%.0f %%", 100*m.pump))
		air = reach("air", "Air inside", m.pressure > 0.998*atmosphere, m.pressure/atmosphere, &in, fmt.Sprintf("%.0f kPa", m.pressure/1e6))
	}
	list = append(list, pump, air)
	if m.air && m.pressure > 0.998*atmosphere {
		door := look("door", "The door is shut again?", "What was changed is ticked below. It pumps down, or stays off, as chosen.", looked)
		door.Answer = "It is shut"
		list = append(list, door)
	}
	return list
}

func (m *gcms) changed(id string) error {
	switch id {
	case "oil":
		m.oilH = 0
	case "filament":
		m.gone, m.filamentH = false, 0
	case "septum":
		m.septum = 0
	case "syringe":
		m.syringe, m.strokes = false, 0
	case "helium":
		m.helium = 200
	default:
		return refuse("there is nothing called %q to be changed", id)
	}
	return nil
}
