package standin

import (
	"errors"
	"strings"
	"testing"
	"time"

	"yugen/instrument"
)

// resting is a mass detector that has come to its vacuum, hot, with no list.
func resting(t *testing.T) (*Instrument, *heard) {
	t.Helper()
	i, h := made(t, instrument.GCMS), &heard{}
	take(t, i, "3")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "calibrant"})
	h.pass(t, i, 3*time.Hour, phase(instrument.Running))
	do(t, i, instrument.Act{Kind: instrument.Ends, Choice: string(instrument.Rest)})
	do(t, i, instrument.Act{Kind: instrument.StopNow})
	h.pass(t, i, time.Hour, phase(instrument.Resting))
	return i, h
}

// wait lets so much time go by.
func (h *heard) wait(t *testing.T, i *Instrument, d time.Duration) {
	t.Helper()
	until := i.State().At.Add(d)
	h.pass(t, i, d+time.Minute, func(s instrument.State) bool { return !s.At.Before(until) })
}

func refuses(t *testing.T, i *Instrument, a instrument.Act, says string) {
	t.Helper()
	if err := i.Do(a); !errors.Is(err, ErrRefused) || !strings.Contains(err.Error(), says) {
		t.Errorf("%s: %v", a.Kind, err)
	}
}

// A mass detector is opened only cold, with somebody there; what is changed begins its count anew; shut again it pumps down and wants its tune.
func TestAMassDetectorIsOpenedColdAndWithSomebodyThere(t *testing.T) {
	i, h := resting(t)
	oil := func() float64 {
		for _, s := range i.State().Supplies {
			if s.ID == "oil" {
				return s.Here
			}
		}
		return -1
	}
	vent := instrument.Act{Kind: instrument.Vent, What: "an oil change", Choice: string(instrument.PumpDown), Who: "K. Adeyemi"}
	refuses(t, i, instrument.Act{Kind: instrument.Vent, Choice: string(instrument.PumpDown)}, "for what")
	refuses(t, i, instrument.Act{Kind: instrument.Vent, What: "oil", Choice: "whatever"}, "one of")
	do(t, i, vent)
	refuses(t, i, vent, "being vented")
	refuses(t, i, instrument.Act{Kind: instrument.Changed, What: "oil"}, "before the door")
	if err := i.Take(instrument.List{ID: "2", For: "t", Rows: rows("3"), Start: instrument.WhenReady, Ending: instrument.Rest}, ""); !errors.Is(err, ErrRefused) {
		t.Errorf("a list is taken while it is vented: %v", err)
	}
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "calibrant"})
	// Cold enough, and nobody there: no air comes in.
	s := h.pass(t, i, 4*time.Hour, func(s instrument.State) bool {
		return standing(s, "source") == instrument.True && standing(s, "transfer") == instrument.True
	})
	h.wait(t, i, time.Hour/2)
	if s = i.State(); s.Phase != instrument.Venting || !s.Vented.Back || standing(s, "air") != instrument.After || standing(s, "stay") != instrument.Person {
		t.Fatalf("%s %+v", s.Phase, s.Conditions)
	}
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "stay", Who: "K. Adeyemi"})
	h.pass(t, i, time.Minute, func(s instrument.State) bool { return standing(s, "air") == instrument.Coming })
	refuses(t, i, instrument.Act{Kind: instrument.Back}, "air is coming in")
	s = h.pass(t, i, time.Hour, phase(instrument.Open))
	if len(s.Vented.Done) < 6 || len(s.Vented.Ahead) != 0 || len(s.Vented.Return) == 0 {
		t.Errorf("%+v", s.Vented)
	}
	if oil() > 300 {
		t.Errorf("oil for %g h before it is changed", oil())
	}
	do(t, i, instrument.Act{Kind: instrument.Changed, What: "oil", Who: "K. Adeyemi"})
	refuses(t, i, instrument.Act{Kind: instrument.Changed, What: "weather"}, "weather")
	refuses(t, i, instrument.Act{Kind: instrument.Looked, What: "stay"}, "looked at now")
	refuses(t, i, instrument.Act{Kind: instrument.Looked, What: "weather"}, "looked at now")
	for range 3 * maxDone {
		do(t, i, instrument.Act{Kind: instrument.Changed, What: "septum"})
	}
	if list := i.State().Vented.Done; len(list) != maxDone || !strings.HasPrefix(list[0].Says, "venting for") {
		t.Errorf("%d lines of what was done, the first %q", len(list), list[0].Says)
	}
	if oil() < 4399 {
		t.Errorf("oil for %g h after it was changed", oil())
	}
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "door", Who: "K. Adeyemi"})
	if s = i.State(); s.Phase != instrument.Resting || s.Vented != nil {
		t.Fatalf("%s %+v", s.Phase, s.Vented)
	}
	h.pass(t, i, 90*time.Minute, func(s instrument.State) bool { return standing(s, "vacuum") == instrument.True })
	if s = i.State(); standing(s, "tune") != instrument.Person {
		t.Error("it was open to the air and wants no tune")
	}
	if !strings.Contains(strings.Join(h.says, "\n"), "changed: oil") {
		t.Errorf("%v", h.says)
	}
}

// Before the air it goes back to rest; with the pump left off it stays without vacuum until a list wants it; what has no vacuum is not vented.
func TestVentingIsGivenUpAndThePumpLeftOff(t *testing.T) {
	i, h := resting(t)
	vent := instrument.Act{Kind: instrument.Vent, What: "the source", Choice: string(instrument.StayOff), Who: "K. Adeyemi"}
	do(t, i, vent)
	h.wait(t, i, 10*time.Minute)
	do(t, i, instrument.Act{Kind: instrument.Back, Who: "K. Adeyemi"})
	if s := i.State(); s.Phase != instrument.Resting || standing(s, "vacuum") != instrument.True || standing(s, "tune") != instrument.True {
		t.Errorf("%s %+v", s.Phase, s.Conditions)
	}
	do(t, i, vent)
	for _, what := range []string{"calibrant", "stay"} {
		do(t, i, instrument.Act{Kind: instrument.Looked, What: what})
	}
	h.pass(t, i, 5*time.Hour, phase(instrument.Open))
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "door"})
	h.wait(t, i, 2*time.Hour)
	if s := i.State(); standing(s, "vacuum") == instrument.True {
		t.Error("it pumped although it was to stay off")
	}
	lc := made(t, instrument.LC)
	refuses(t, lc, vent, "no vacuum")
}
