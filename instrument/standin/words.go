package standin

import (
	"fmt"
	"math"

	"yugen/instrument"
)

func ptr[T any](v T) *T { return &v }

// within takes a value that is asked for, where it lies in its bounds.
func within(id string, v, low, high float64, into *float64) error {
	if !(v >= low && v <= high) {
		return refuse("%s is between %g and %g, not %g", id, low, high, v)
	}
	*into = v
	return nil
}

// reach is a condition that becomes true by itself.
func reach(id, name string, is bool, share float64, leftS *float64, says string) instrument.Condition {
	c := instrument.Condition{ID: id, Name: name, Standing: instrument.Coming, Says: says}
	if is {
		c.Standing = instrument.True
		return c
	}
	c.Share = ptr(math.Max(0, math.Min(1, share)))
	if leftS != nil && !math.IsInf(*leftS, 0) {
		c.LeftS = ptr(math.Max(1, math.Round(*leftS)))
	}
	return c
}

// warm is a temperature that is reached.
func warm(id, name string, h thermal, reachK float64) instrument.Condition {
	is := h.on && math.Abs(h.now-h.asked) <= reachK
	says := fmt.Sprintf("%.1f of %g °C", h.now, round(h.asked, 1))
	if !h.on {
		return instrument.Condition{ID: id, Name: name, Standing: instrument.After, Says: says}
	}
	left := 0.0
	if !is {
		left = h.leftS(reachK)
	}
	share := h.now / math.Max(h.asked, 1)
	if h.now > h.asked {
		share = h.asked / h.now
	}
	return reach(id, name, is, share, &left, says)
}

// person is a condition that somebody must make true, and that can be sensed.
func person(id, name, says, help, world string) instrument.Condition {
	return instrument.Condition{ID: id, Name: name, Standing: instrument.Person, Says: says, Help: help, World: world}
}

// look is a condition that cannot be sensed: somebody says that it is so.
func look(id, name, help string, looked map[string]bool) instrument.Condition {
	c := instrument.Condition{ID: id, Name: name, Standing: instrument.Person, Looked: true, Help: help}
	if looked == nil {
		return c
	}
	if looked[id] {
		c.Standing, c.Says, c.Help = instrument.True, "looked at", ""
	}
	return c
}

// after is a condition that waits for another.
func after(id, name, says string) instrument.Condition {
	return instrument.Condition{ID: id, Name: name, Standing: instrument.After, Says: says}
}

func happened(says ...string) (list []instrument.Happening) {
	for _, s := range says {
		list = append(list, instrument.Happening{By: "bench", Says: s})
	}
	return list
}

// ahead is a temperature with how it will go on, a point a minute.
func ahead(name, unit string, h thermal) instrument.Reading {
	r := instrument.Reading{Name: name, Unit: unit, Asked: h.asked, Values: []float64{round(h.now, 2)}, WillMins: []float64{}, WillValues: []float64{}}
	for s := 0; s <= 60*40; s++ {
		if s%60 == 0 {
			r.WillMins, r.WillValues = append(r.WillMins, float64(s)/60), append(r.WillValues, round(h.now, 1))
			if math.Abs(h.now-h.goal()) < 0.2 {
				break
			}
		}
		h.pass(1)
	}
	return r
}
