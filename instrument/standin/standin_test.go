package standin

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/bench"
	"yugen/core/spectra"
	"yugen/instrument"
)

var morning = time.Date(2026, time.April, 4, 9, 0, 0, 0, time.UTC)

func made(t *testing.T, kind instrument.Kind) *Instrument {
	t.Helper()
	i, err := New(kind, "Test 1", 1, 7, morning)
	if err != nil {
		t.Fatal(err)
	}
	return i
}

func rows(vials ...string) (list []instrument.Row) {
	for k, v := range vials {
		list = append(list, instrument.Row{ID: string(rune('a' + k)), Name: "Row " + v, Vial: v})
	}
	return list
}

func take(t *testing.T, i *Instrument, vials ...string) {
	t.Helper()
	if err := i.Take(instrument.List{ID: "1", For: "a test", Rows: rows(vials...), Start: instrument.WhenReady, Ending: instrument.LeaveClean}, "M. Okada"); err != nil {
		t.Fatal(err)
	}
}

func do(t *testing.T, i *Instrument, a instrument.Act) {
	t.Helper()
	if err := i.Do(a); err != nil {
		t.Fatalf("%+v: %v", a, err)
	}
}

// heard is all that was told of rows.
type heard struct {
	values  map[string]map[string][]float64 // by row and channel
	scans   map[string][]instrument.Scan
	ended   map[string]instrument.Row
	trouble map[string]*instrument.Trouble
	says    []string
	last    int64
}

// pass lets time go by until something holds, and hears all of it: numbers have no gap, values no hole.
func (h *heard) pass(t *testing.T, i *Instrument, most time.Duration, until func(instrument.State) bool) instrument.State {
	t.Helper()
	if h.values == nil {
		h.values, h.scans, h.ended, h.trouble = map[string]map[string][]float64{}, map[string][]instrument.Scan{}, map[string]instrument.Row{}, map[string]*instrument.Trouble{}
	}
	for s := 0.0; s < most.Seconds(); s += 5 {
		i.Pass(5)
		list, _ := i.Since(h.last)
		for _, e := range list {
			if e.N != h.last+1 {
				t.Fatalf("event %d after %d", e.N, h.last)
			}
			h.last = e.N
			if e.Says != "" {
				h.says = append(h.says, e.Says)
			}
			if e.Kind == instrument.Finished {
				h.ended[e.RowID], h.trouble[e.RowID] = *e.Row, e.Trouble
			}
			h.scans[e.RowID] = append(h.scans[e.RowID], e.Scans...)
			for _, sig := range e.Signals {
				of := h.values[e.RowID]
				if of == nil {
					of = map[string][]float64{}
					h.values[e.RowID] = of
				}
				if want := float64(len(of[sig.Name])) * sig.EveryS; math.Abs(sig.FromS-want) > 1e-6 {
					t.Fatalf("%s of %s goes on at %g s, where %g is wanted", sig.Name, e.RowID, sig.FromS, want)
				}
				of[sig.Name] = append(of[sig.Name], sig.Values...)
			}
		}
		i.Heard(h.last)
		if state := i.State(); until(state) {
			return state
		}
	}
	t.Fatalf("it did not come to it in %s: %+v", most, i.State().Conditions)
	return instrument.State{}
}

func phase(p instrument.Phase) func(instrument.State) bool {
	return func(s instrument.State) bool { return s.Phase == p }
}

// apex is where the highest value lies between two times, min.
func apex(values []float64, everyS, fromMin, toMin float64) (atMin, height float64) {
	height = math.Inf(-1)
	for k := int(fromMin * 60 / everyS); k < int(toMin*60/everyS) && k < len(values); k++ {
		if values[k] > height {
			atMin, height = float64(k)*everyS/60, values[k]
		}
	}
	return atMin, height
}

// What elutes under the usual conditions elutes where the demo's studies have it; all of a run is told, to the last value, and it is left as chosen.
func TestALiquidChromatographRunsAListAndIsLeftClean(t *testing.T) {
	i, h := made(t, instrument.LC), &heard{}
	take(t, i, "A5", "B1")
	s := h.pass(t, i, time.Hour, func(s instrument.State) bool {
		return s.ReadyAt == nil && s.Phase == instrument.Preparing && waitsForPerson(s)
	})
	if !strings.Contains(s.Says, "needs you") {
		t.Error(s.Says)
	}
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles", Who: "M. Okada"})
	h.pass(t, i, time.Hour, phase(instrument.Running))
	s = h.pass(t, i, 2*time.Hour, phase(instrument.Leaving))
	if s.Rows[0].State != instrument.RowDone || s.Rows[1].State != instrument.RowDone {
		t.Errorf("%+v", s.Rows)
	}
	if n := len(h.values["a"]["UV 278 nm"]); n != 10801 {
		t.Errorf("%d values of 18 min at 10 a second", n)
	}
	for name, at := range map[string]float64{"gallic acid": 2.94, "caffeine": 8.80, "ECG": 14.26} {
		if got, _ := apex(h.values["a"]["UV 278 nm"], 0.1, at-0.2, at+0.2); math.Abs(got-at) > 0.03 {
			t.Errorf("%s at %.3f min, %.2f is usual", name, got, at)
		}
	}
	// Caffeine's area per mg/L is that of the demo: 9.2 mAU s, 60 mg/L in the standard.
	area := 0.0
	v := h.values["a"]["UV 278 nm"]
	base := (v[8.4*600] + v[9.6*600]) / 2
	for k := 8.4 * 600; k < 9.6*600; k++ {
		area += (v[int(k)] - base) * 0.1
	}
	if math.Abs(area/(60*9.2)-1) > 0.08 {
		t.Errorf("area %.1f, %.1f is wanted", area, 60*9.2)
	}
	s = h.pass(t, i, time.Hour, phase(instrument.Resting))
	if s.Confirmed != "pump stopped, lamp off" || s.ConfirmedAt == nil {
		t.Errorf("%q", s.Confirmed)
	}
}

// The diode array sees what the detector sees: at its two wavelengths the very signals, and each compound with a spectrum of its own.
func TestTheDiodeArraySeesWhatTheDetectorSees(t *testing.T) {
	i, h := made(t, instrument.LC), &heard{}
	take(t, i, "A7")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	h.pass(t, i, time.Hour, phase(instrument.Running))
	h.pass(t, i, time.Hour, phase(instrument.Leaving))
	scans, v := h.scans["a"], h.values["a"]
	if len(scans) != 18*60+1 {
		t.Fatalf("%d scans of 18 min, one a second", len(scans))
	}
	at := func(s instrument.Scan, nm float64) float64 { return s.Values[slices.Index(s.Axis, nm)] }
	for k, s := range scans {
		if math.Abs(at(s, 278)-v["UV 278 nm"][10*k]) > 0.6 {
			t.Fatalf("%g s: %g and %g mAU", s.AtS, at(s, 278), v["UV 278 nm"][10*k])
		}
	}
	for name, c := range map[string]struct{ atMin, best, second float64 }{"caffeine": {8.80, 273, 0.62}, "ECG": {14.26, 277, 0.69}} {
		top, _ := apex(v["UV 278 nm"], 0.1, c.atMin-0.2, c.atMin+0.2)
		high, low := scans[int(top*60)], scans[int(top*60)-40]
		net := func(nm float64) float64 { return at(high, nm) - at(low, nm) }
		if got := net(254) / net(278); math.Abs(got-c.second) > 0.03 {
			t.Errorf("%s: %.3f of 278 nm at 254 nm, %.2f is wanted", name, got, c.second)
		}
		best := 248.0
		for nm := best; nm <= 320; nm += 6 {
			if net(nm) > net(best) {
				best = nm
			}
		}
		if math.Abs(best-c.best) > 6 {
			t.Errorf("%s absorbs most at %g nm, not %g", name, best, c.best)
		}
	}
}

func waitsForPerson(s instrument.State) bool {
	for _, c := range s.Conditions {
		if c.Standing == instrument.Coming || c.Standing == instrument.After {
			return false
		}
	}
	return true
}

// Retention follows the temperature: a cooler column holds everything longer, by a van 't Hoff's factor; it does not follow the amount.
func TestRetentionFollowsTheTemperature(t *testing.T) {
	usual, cool := made(t, instrument.LC), made(t, instrument.LC)
	at := func(i *Instrument, celsius float64) float64 {
		h := &heard{}
		if err := i.Take(instrument.List{ID: "1", For: "t", Rows: rows("A7"), Start: instrument.WhenReady, Ending: instrument.StayReady, Settings: map[string]float64{"column": celsius}}, ""); err != nil {
			t.Fatal(err)
		}
		do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles"})
		h.pass(t, i, 3*time.Hour, phase(instrument.Resting))
		got, _ := apex(h.values["a"]["UV 278 nm"], 0.1, 8, 11)
		return got
	}
	if a, b := at(usual, 35), at(cool, 28); b < a+0.1 || b > a+1.2 {
		t.Errorf("caffeine or EGCG at %.2f min at 35 °C, %.2f at 28", a, b)
	}
}

// The flame lights only with air open and above 150 °C; hydrogen that runs out puts it out, and what comes after is no signal.
func TestAFlameGoesOutAndTheListWaits(t *testing.T) {
	i, h := made(t, instrument.GC), &heard{}
	take(t, i, "2", "3", "4")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "wash"})
	s := h.pass(t, i, time.Hour, func(s instrument.State) bool { return standing(s, "detector") == instrument.True })
	if standing(s, "flame") == instrument.True {
		t.Error("the flame burns without air")
	}
	do(t, i, instrument.Act{Kind: instrument.World, What: "the air valve was opened", Who: "K. Adeyemi"})
	h.pass(t, i, time.Hour, phase(instrument.Running))
	h.pass(t, i, time.Hour, func(s instrument.State) bool { return s.Rows[1].State == instrument.RowRuns && *s.AtMin > 3 })
	if err := i.Fault("hydrogen"); err != nil {
		t.Fatal(err)
	}
	s = h.pass(t, i, time.Hour, phase(instrument.Stopped))
	tr := s.Trouble
	if tr == nil || tr.Kind != instrument.FlameOut || tr.RowID != "b" || tr.FromMin >= tr.AtMin || tr.FromMin < 3 || s.Rows[1].State != instrument.RowDoubted || s.Rows[2].State != instrument.RowWaits {
		t.Fatalf("%+v %+v", tr, s.Rows)
	}
	fid := h.values["b"]["FID"]
	if len(fid) != 9601 {
		t.Errorf("the file of the run has %d values; it is recorded to its end", len(fid))
	}
	if v := fid[int(tr.AtMin*600)+20]; v > 1 {
		t.Errorf("%.2f pA without a flame", v)
	}
	if err := i.Do(instrument.Act{Kind: instrument.GoOn, Choice: instrument.AgainAtEnd}); err == nil || !strings.Contains(err.Error(), "Hydrogen") {
		t.Errorf("it goes on without hydrogen: %v", err)
	}
	do(t, i, instrument.Act{Kind: instrument.World, What: "the hydrogen cylinder was changed"})
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "lines"})
	h.pass(t, i, time.Hour, func(s instrument.State) bool { return s.Trouble.ToDo[0].Standing == instrument.True })
	do(t, i, instrument.Act{Kind: instrument.GoOn, Choice: instrument.AgainAtEnd, Who: "K. Adeyemi"})
	s = h.pass(t, i, 3*time.Hour, phase(instrument.Resting))
	if len(s.Rows) != 4 || s.Rows[3].ID != "b-2" || s.Rows[3].State != instrument.RowDone || h.ended["b"].State != instrument.RowDoubted || h.trouble["b"] == nil {
		t.Errorf("%+v", s.Rows)
	}
}

func standing(s instrument.State, id string) instrument.Standing {
	for _, c := range s.Conditions {
		if c.ID == id {
			return c.Standing
		}
	}
	return ""
}

// The filament is off while the solvent passes; then scans come to the end, and the largest line of a standard stands where its library has it.
func TestAMassDetectorWaitsForTheSolvent(t *testing.T) {
	i, h := made(t, instrument.GCMS), &heard{}
	take(t, i, "3")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "calibrant"})
	h.pass(t, i, 4*time.Hour, phase(instrument.Resting))
	scans := h.scans["a"]
	if len(scans) < 1700 || scans[0].AtS < delayMin*60-1 || scans[len(scans)-1].AtS < 25*60-1 {
		t.Fatalf("%d scans from %g s", len(scans), scans[0].AtS)
	}
	var highest instrument.Scan
	top := 0.0
	for _, s := range scans {
		total := 0.0
		for _, v := range s.Values {
			total += v
		}
		if s.AtS > 12.2*60 && s.AtS < 12.4*60 && total > top {
			highest, top = s, total
		}
	}
	largest, at := 0.0, 0.0
	for k, v := range highest.Values {
		if v > largest {
			largest, at = v, highest.Axis[k]
		}
	}
	want := slices.MaxFunc(bench.AromaTray()["3"].Solutes[8].Lines, func(a, b spectra.Line) int { return cmp.Compare(a.Height, b.Height) })
	if at != want.At {
		t.Errorf("the largest line of linalool is %g, %g is wanted", at, want.At)
	}
}

// told is what a fault leads to.
type told struct {
	kind        instrument.Kind
	fault       string
	want        instrument.TroubleKind
	state       instrument.RowState // of the first row
	world       []string
	looks, vial string
}

func (c told) goOn() string {
	if c.want == instrument.Blocked {
		return instrument.AgainFirst
	}
	return instrument.AsItIs
}

// What happens by itself is what the table of troubles says.
func TestTroubleDoesWhatIsWritten(t *testing.T) {
	for _, c := range []told{
		{instrument.LC, "block", instrument.PressureHigh, instrument.RowCut, []string{"the filter was changed"}, "bottles", "A5"},
		{instrument.LC, "leak", instrument.PressureLow, instrument.RowDoubted, []string{"the fitting was tightened"}, "bottles", "A5"},
		{instrument.LC, "solvent", instrument.SolventLow, instrument.RowDone, []string{"the bottles were filled"}, "bottles", "A5"},
		{instrument.LC, "lamp", instrument.LampFailed, instrument.RowCut, []string{"a new lamp was put in"}, "bottles", "A5"},
		{instrument.LC, "syringe", instrument.Blocked, instrument.RowDone, []string{"the needle was cleared"}, "bottles", "A5"},
		{instrument.GC, "flame", instrument.FlameOut, instrument.RowDoubted, nil, "wash", "2"},
		{instrument.GC, "syringe", instrument.Blocked, instrument.RowDone, []string{"the syringe was cleared"}, "wash", "2"},
		{instrument.GCMS, "leak", instrument.VacuumLost, instrument.RowCut, []string{"the leak was closed"}, "calibrant", "3"},
		{instrument.GCMS, "filament", instrument.FilamentGone, instrument.RowCut, []string{"the filament was changed"}, "calibrant", "3"},
	} {
		t.Run(string(c.kind)+" "+c.fault, func(t *testing.T) {
			i, h := made(t, c.kind), &heard{}
			take(t, i, c.vial, c.vial)
			do(t, i, instrument.Act{Kind: instrument.Looked, What: c.looks})
			if c.kind == instrument.GC {
				do(t, i, instrument.Act{Kind: instrument.World, What: "the air valve was opened"})
			}
			h.pass(t, i, 2*time.Hour, func(s instrument.State) bool { return s.AtMin != nil && *s.AtMin > 6 })
			if err := i.Fault(c.fault); err != nil {
				t.Fatal(err)
			}
			s := h.pass(t, i, 2*time.Hour, phase(instrument.Stopped))
			if s.Trouble.Kind != c.want || s.Rows[0].State != c.state || s.Rows[1].State != instrument.RowWaits || len(s.Trouble.Happened) == 0 {
				t.Fatalf("%+v %+v", s.Trouble, s.Rows)
			}
			for _, w := range c.world {
				do(t, i, instrument.Act{Kind: instrument.World, What: w})
			}
			for _, todo := range i.State().Trouble.ToDo {
				if todo.Looked {
					do(t, i, instrument.Act{Kind: instrument.Looked, What: todo.ID})
				}
			}
			h.pass(t, i, time.Hour, func(s instrument.State) bool {
				for _, todo := range s.Trouble.ToDo {
					if todo.Standing != instrument.True {
						return false
					}
				}
				return true
			})
			do(t, i, instrument.Act{Kind: instrument.GoOn, Choice: c.goOn()})
			s = h.pass(t, i, 4*time.Hour, phase(instrument.Resting))
			if s.Rows[1].State != instrument.RowDone {
				t.Errorf("%+v", s.Rows)
			}
		})
	}
}

// A vial that is not there stops the list before anything is injected.
func TestAVialThatIsNotThere(t *testing.T) {
	i, h := made(t, instrument.LC), &heard{}
	take(t, i, "Z9", "A5")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	s := h.pass(t, i, time.Hour, phase(instrument.Stopped))
	if s.Trouble.Kind != instrument.NoVial || len(h.ended) != 0 {
		t.Errorf("%+v", s.Trouble)
	}
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "vial"})
	do(t, i, instrument.Act{Kind: instrument.GoOn, Choice: instrument.AsItIs})
	s = h.pass(t, i, 2*time.Hour, phase(instrument.Resting))
	if s.Rows[0].State != instrument.RowNot || s.Rows[1].State != instrument.RowDone {
		t.Errorf("%+v", s.Rows)
	}
}

// Rows that have not begun are moved, added and taken out; those that have are not. Stopping at once keeps what is recorded.
func TestTheListWhileItRuns(t *testing.T) {
	i, h := made(t, instrument.LC), &heard{}
	take(t, i, "A5", "B1", "B2")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	h.pass(t, i, time.Hour, func(s instrument.State) bool { return s.AtMin != nil && *s.AtMin > 2 })
	for _, a := range []instrument.Act{
		{Kind: instrument.Removes, What: "a"}, {Kind: instrument.Moves, What: "a"}, {Kind: instrument.Adds, Row: &instrument.Row{ID: "b", Vial: "A1"}}, {Kind: instrument.Adds},
		{Kind: instrument.Sets, What: "flow", Value: 0.5}, {Kind: instrument.Sets, What: "volume", Value: 500}, {Kind: instrument.Sets, What: "volume", Value: math.NaN()},
		{Kind: instrument.Sets, What: "run", Value: 1}, {Kind: instrument.Ends, Choice: "party"}, {Kind: "dance"}, {Kind: instrument.GoOn, Choice: instrument.AsItIs}, {Kind: instrument.World, What: "rain"},
	} {
		if err := i.Do(a); err == nil {
			t.Errorf("%+v is taken", a)
		}
	}
	do(t, i, instrument.Act{Kind: instrument.Adds, Row: &instrument.Row{ID: "d", Name: "Late", Vial: "A8"}})
	do(t, i, instrument.Act{Kind: instrument.Moves, What: "d", Value: 0})
	do(t, i, instrument.Act{Kind: instrument.Removes, What: "c"})
	s := i.State()
	if len(s.Rows) != 3 || s.Rows[1].ID != "d" || s.Rows[2].ID != "b" {
		t.Errorf("%+v", s.Rows)
	}
	do(t, i, instrument.Act{Kind: instrument.PauseAfter})
	s = h.pass(t, i, time.Hour, phase(instrument.Paused))
	if s.Rows[1].Expected == nil {
		t.Error("nobody knows when it would go on")
	}
	do(t, i, instrument.Act{Kind: instrument.Begin})
	h.pass(t, i, time.Hour, func(s instrument.State) bool { return s.AtMin != nil && *s.AtMin > 4 })
	do(t, i, instrument.Act{Kind: instrument.StopNow})
	s = h.pass(t, i, time.Hour, phase(instrument.Resting))
	if h.ended["d"].State != instrument.RowCut || len(h.values["d"]["UV 278 nm"]) < 2300 || s.Rows[2].State != instrument.RowNot {
		t.Errorf("%+v", s.Rows)
	}
}

// Time stands where nobody hears, and nothing that was told is forgotten before it was heard.
func TestTimeWaitsForTheWriter(t *testing.T) {
	i := made(t, instrument.LC)
	take(t, i, "A5", "A5", "A5", "A5", "A5", "A5", "A5")
	do(t, i, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	for range 20_000 {
		if i.Pass(1) < 0.5 {
			break
		}
	}
	if s := i.State(); !s.Waits || s.Last != maxUnheard {
		t.Fatalf("%v after %d", s.Waits, s.Last)
	}
	list, _ := i.Since(0)
	if len(list) == 0 || list[0].N != 1 {
		t.Error("the first is forgotten")
	}
	i.Heard(100)
	if i.Pass(1) < 0.5 {
		t.Error("it does not go on")
	}
	if list, _ = i.Since(0); list[0].N != 101 {
		t.Errorf("%d", list[0].N)
	}
}
