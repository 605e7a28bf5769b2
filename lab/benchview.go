package lab

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"
	"time"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/formats"
	"yugen/instrument"
	"yugen/lab/running"
	"yugen/store"
)

// BenchPost is an instrument of the bench as it is shown.
type BenchPost struct {
	ID      string          `json:"id"`
	Name    string          `json:"name"` // its address while nobody knows more
	Kind    instrument.Kind `json:"kind"`
	Says    string          `json:"says"`
	Speed   float64         `json:"speed"`
	StandIn bool            `json:"stand_in"`
	// SilentS is for how long it has not answered; null where it never did.
	SilentS *float64          `json:"silent_s"`
	State   *instrument.State `json:"state"`
	// Needs is how many things only a person can do.
	Needs  int        `json:"needs"`
	List   *BenchList `json:"list"`
	Faults []string   `json:"faults"`
	// Outline is the run so far, 0 to 1 in height, evenly over the run; LiveShare is how far it has got.
	Outline   []float64 `json:"outline"`
	LiveShare float64   `json:"live_share"`
}

// BenchList is the list that an instrument has, or had last.
type BenchList struct {
	ID      string     `json:"id"`
	BatchID string     `json:"batch_id"`
	Batch   string     `json:"batch"`
	Study   string     `json:"study"`
	Method  string     `json:"method"`
	Who     string     `json:"who"`
	Begun   time.Time  `json:"begun"`
	Ended   bool       `json:"ended"`
	Rows    []BenchRow `json:"rows"`
}

// BenchRow is what became of a row of the list.
type BenchRow struct {
	ID          string     `json:"id"`
	Name        string     `json:"name"`
	Vial        string     `json:"vial"`
	Role        batch.Role `json:"role"`
	InjectionID string     `json:"injection_id"`
	// Remark is what is to be looked at in it; empty where nothing is.
	Remark   string `json:"remark"`
	Doubtful bool   `json:"doubtful"`
}

// Bench lists the instruments.
func (l *Lab) Bench(ctx context.Context) ([]BenchPost, error) {
	l.bench.mu.Lock()
	posts := slices.Clone(l.bench.posts)
	l.bench.mu.Unlock()
	out := []BenchPost{}
	for _, p := range posts {
		one, err := l.shown(ctx, p)
		if err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	return out, nil
}

const outlinePoints = 160

func (l *Lab) shown(ctx context.Context, p *post) (BenchPost, error) {
	p.mu.Lock()
	out := BenchPost{ID: p.id, Name: p.about.Name, Kind: p.about.Kind, Says: p.about.Says, Speed: p.about.Speed, StandIn: p.about.StandIn, State: p.state, Faults: slices.Clone(p.faults), Outline: []float64{}}
	if out.Name == "" {
		out.Name, out.Kind = p.client.Address, instrument.LC
	}
	if !p.seen.IsZero() {
		s := math.Round(time.Since(p.seen).Seconds())
		out.SilentS = &s
	}
	if out.Faults == nil {
		out.Faults = []string{}
	}
	var list running.List
	if p.journal.List != nil {
		list = *p.journal.List
		list.Rows = slices.Clone(list.Rows)
	}
	if main := mainSignal(p.live); main != nil && p.state != nil && p.state.RunMin > 0 {
		out.LiveShare = math.Min(1, p.live.LastMin/p.state.RunMin)
		out.Outline = outline(*main, p.state.RunMin)
	}
	p.mu.Unlock()
	out.Needs = needs(out.State)
	if list.ID == "" {
		return out, nil
	}
	var err error
	out.List, err = l.benchList(ctx, list)
	return out, err
}

// needs counts what only a person can do.
func needs(s *instrument.State) (n int) {
	if s == nil {
		return 0
	}
	conditions := s.Conditions
	switch {
	case s.Trouble != nil && s.Phase == instrument.Stopped:
		conditions, n = s.Trouble.ToDo, 1 // to say how it goes on
	case s.Phase == instrument.Ready, s.Phase == instrument.Paused:
		return 1
	case s.Phase != instrument.Preparing && s.Phase != instrument.Venting && s.Phase != instrument.Open:
		return 0
	}
	for _, c := range conditions {
		if c.Standing == instrument.Person {
			n++
		}
	}
	return n
}

func (l *Lab) benchList(ctx context.Context, list running.List) (*BenchList, error) {
	out := &BenchList{ID: list.ID, BatchID: list.BatchID, Method: list.Method, Who: list.Who, Begun: list.Begun, Ended: list.Ended, Rows: []BenchRow{}}
	b, err := l.Batch(ctx, list.BatchID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	out.Batch, out.Study = b.Name, b.StudyName
	remarks := l.remarksOf(b)
	for _, r := range list.Rows {
		entry := batch.Entry{Dilution: 1, Factor: 1}
		for field, text := range r.Fields {
			_ = setField(&entry, b.OwnColumns, field, text) // was read when the list began
		}
		row := BenchRow{ID: r.ID, Name: r.Name, Vial: r.Vial, Role: entry.Role, InjectionID: r.InjectionID, Remark: r.Outcome}
		if k := slices.IndexFunc(b.Injections, func(in store.Injection) bool { return in.ID == r.InjectionID }); k >= 0 {
			row.Doubtful = slices.ContainsFunc(b.Injections[k].Doubts, func(d batch.Doubt) bool { return d.Taken == "" })
			row.Remark = remarks[r.InjectionID]
		} else if r.InjectionID != "" {
			row.InjectionID, row.Remark = "", "taken out of the batch"
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// remarksOf are the first open notices of injections, where the results of the batch as it stands are at hand.
func (l *Lab) remarksOf(b store.Batch) map[string]string {
	out := map[string]string{}
	l.results.mu.Lock()
	held, ok := l.results.held[b.ID]
	l.results.mu.Unlock()
	if !ok {
		return out
	}
	for _, n := range held.Result.Notices {
		if n.InjectionID != "" && out[n.InjectionID] == "" && !slices.Contains(b.Settled, n.Key) {
			out[n.InjectionID] = n.Text
		}
	}
	return out
}

// mainSignal is what is looked at first of a run: the first detector, or the total of its scans.
func mainSignal(r running.Recording) *formats.Channel {
	if len(r.Scans) > 0 && r.Axis != instrument.Wavelengths {
		total := formats.Channel{Name: "Total ion", Unit: r.Unit, Kind: formats.Detector}
		for _, s := range r.Scans {
			sum := 0.0
			for _, v := range s.Values {
				sum += v
			}
			total.TimesS, total.Values = append(total.TimesS, s.TimeS), append(total.Values, sum)
		}
		return &total
	}
	for k := range r.Signals {
		if r.Signals[k].Kind == formats.Detector {
			return &r.Signals[k]
		}
	}
	return nil
}

func outline(c formats.Channel, runMin float64) []float64 {
	out := make([]float64, 0, outlinePoints)
	low, high := math.Inf(1), math.Inf(-1)
	next := 0
	for k := range outlinePoints {
		until, most := (float64(k)+1)/outlinePoints*runMin*60, math.Inf(-1)
		for ; next < len(c.Values) && c.TimesS[next] <= until; next++ {
			most = math.Max(most, c.Values[next])
		}
		if math.IsInf(most, -1) {
			if next >= len(c.Values) {
				break
			}
			most = c.Values[next] // before the first
		}
		low, high = math.Min(low, most), math.Max(high, most)
		out = append(out, most)
	}
	for k := range out {
		out[k] = math.Round(1000*(out[k]-low)/math.Max(high-low, 1e-9)) / 1000
	}
	return out
}

// Lane is a quantity of a run against time, min.
type Lane struct {
	Name   string    `json:"name"`
	Unit   string    `json:"unit"`
	Mins   []float64 `json:"mins"`
	Values []float64 `json:"values"`
}

// ExpectedCompound is a compound of the method in the run that is measured.
type ExpectedCompound struct {
	Name     string  `json:"name"`
	Internal bool    `json:"internal"`
	AtMin    float64 `json:"at_min"` // its peak, once that has ended; else where it is expected
	Passed   bool    `json:"passed"`
	Height   float64 `json:"height"`
}

// DoubtedCompounds are those of a run that share what trouble did to them.
type DoubtedCompounds struct {
	Names []string `json:"names"`
	Says  string   `json:"says"`
}

// Live is a run up to now.
type Live struct {
	RowID     string             `json:"row_id"`
	Name      string             `json:"name"`
	Number    int                `json:"number"`
	Begun     *time.Time         `json:"begun"`
	LastMin   float64            `json:"last_min"`
	RunMin    float64            `json:"run_min"`
	Signal    *Lane              `json:"signal"`
	Lanes     []Lane             `json:"lanes"`
	Behind    *Lane              `json:"behind"` // the run before
	Compounds []ExpectedCompound `json:"compounds"`
	// NewestAtMin and Newest are the spectrum that came last; empty where none do.
	NewestAtMin *float64           `json:"newest_at_min"`
	Newest      [][2]float64       `json:"newest"`
	NewestAlong instrument.Axis    `json:"newest_along"` // m/z or nm; empty where there is none
	Doubted     []DoubtedCompounds `json:"doubted"`
}

// maxLivePoints is how many points of a signal are shown.
const maxLivePoints = 1500

// Live gives what an instrument measures, or measured last.
func (l *Lab) Live(ctx context.Context, id string) (Live, error) {
	p, err := l.postOf(id)
	if err != nil {
		return Live{}, err
	}
	out := Live{Lanes: []Lane{}, Compounds: []ExpectedCompound{}, Newest: [][2]float64{}, Doubted: []DoubtedCompounds{}}
	p.mu.Lock()
	r, list, state := p.live, p.journal.List, p.state
	r.Signals, r.Scans = slices.Clone(r.Signals), slices.Clone(r.Scans)
	out.RowID = p.liveRow
	var rows []running.Row
	if list != nil {
		rows = slices.Clone(list.Rows)
	}
	p.mu.Unlock()
	k := slices.IndexFunc(rows, func(k running.Row) bool { return k.ID == out.RowID })
	if k < 0 || state == nil {
		return out, nil
	}
	b, err := l.Batch(ctx, list.BatchID)
	if err != nil {
		return Live{}, err
	}
	out.Name, out.Number, out.RunMin, out.LastMin = rows[k].Name, k+1, state.RunMin, r.LastMin
	if !r.Begun.IsZero() {
		out.Begun = &r.Begun
	}
	for _, c := range r.Signals {
		if c.Kind == formats.Condition {
			out.Lanes = append(out.Lanes, laneOf(c, 400))
		}
	}
	if n := len(r.Scans); n > 0 {
		at := r.Scans[n-1].TimeS / 60
		out.NewestAlong = cmp.Or(r.Axis, instrument.Masses)
		out.NewestAtMin = &at
		for i, m := range r.Scans[n-1].Axis {
			out.Newest = append(out.Newest, [2]float64{m, r.Scans[n-1].Values[i]})
		}
	}
	main := mainSignal(r)
	if main == nil {
		return out, nil
	}
	lane := laneOf(*main, maxLivePoints)
	out.Signal = &lane
	for _, c := range b.Version.Method.Compounds {
		out.Compounds = append(out.Compounds, expected(c, *main, out.LastMin))
	}
	out.Behind, err = l.behind(ctx, b, rows[:k])
	out.Doubted = doubted(rows[k], b.Version.Method)
	return out, err
}

// laneOf is a channel with few enough points to be drawn: of each stretch the lowest and the highest.
func laneOf(c formats.Channel, most int) Lane {
	out := Lane{Name: c.Name, Unit: c.Unit, Mins: []float64{}, Values: []float64{}}
	n := len(c.Values)
	each := max(1, (2*n+most-1)/most)
	for from := 0; from < n; from += each {
		to := min(n, from+each)
		low, high := from, from
		for i := from; i < to; i++ {
			if c.Values[i] < c.Values[low] {
				low = i
			}
			if c.Values[i] > c.Values[high] {
				high = i
			}
		}
		for _, i := range []int{min(low, high), max(low, high)} {
			out.Mins = append(out.Mins, math.Round(c.TimesS[i]/60*1e4)/1e4)
			out.Values = append(out.Values, c.Values[i])
			if low == high {
				break
			}
		}
	}
	return out
}

// halfWindow is how far from its time a compound is looked for, min.
func halfWindow(c compounds.Compound) float64 {
	half := c.Window.Value
	if c.Window.Kind != compounds.Absolute {
		half = c.ExpectedMin * c.Window.Value / 100
	}
	return math.Max(half, 0.02)
}

// expected is where a compound stands in a run that is measured: its highest point in the window, once that is behind.
func expected(c compounds.Compound, main formats.Channel, lastMin float64) ExpectedCompound {
	out := ExpectedCompound{Name: c.Name, Internal: c.Role == compounds.InternalStandard, AtMin: c.ExpectedMin}
	half := halfWindow(c)
	if lastMin < c.ExpectedMin+half+0.1 {
		return out
	}
	low, high, at := math.Inf(1), math.Inf(-1), c.ExpectedMin
	for i, v := range main.Values {
		t := main.TimesS[i] / 60
		if t < c.ExpectedMin-half || t > c.ExpectedMin+half {
			continue
		}
		low = math.Min(low, v)
		if v > high {
			high, at = v, t
		}
	}
	if !math.IsInf(high, -1) {
		out.Passed, out.AtMin, out.Height = true, math.Round(at*1000)/1000, high
	}
	return out
}

// behind is the main signal of the run before, as it was taken in.
func (l *Lab) behind(ctx context.Context, b store.Batch, before []running.Row) (*Lane, error) {
	for _, r := range slices.Backward(before) {
		k := slices.IndexFunc(b.Injections, func(in store.Injection) bool { return in.ID == r.InjectionID })
		if k < 0 {
			continue
		}
		s, err := l.signalOf(ctx, b.Injections[k], b.Version.Method.Channels[0].Signal)
		if errors.Is(err, errNoSignal) {
			continue
		}
		if err != nil {
			return nil, err
		}
		c := formats.ChannelOf(s.Trace)
		c.Name = r.Name
		lane := laneOf(c, maxLivePoints)
		return &lane, nil
	}
	return nil, nil
}

// doubted are the compounds of a run by what trouble did to them.
func doubted(row running.Row, m batch.Method) []DoubtedCompounds {
	out := []DoubtedCompounds{}
	var sound []string
	lists := make([][]string, len(row.Doubts))
	for _, c := range m.Compounds {
		half := halfWindow(c) // a peak that has not ended is not sound
		k := slices.IndexFunc(row.Doubts, func(d batch.Doubt) bool {
			return c.ExpectedMin+half > d.FromMin && c.ExpectedMin-half < d.ToMin
		})
		if k < 0 {
			sound = append(sound, c.Name)
			continue
		}
		lists[k] = append(lists[k], c.Name)
	}
	if len(row.Doubts) > 0 && len(sound) > 0 {
		out = append(out, DoubtedCompounds{sound, "sound"})
	}
	for k, d := range row.Doubts {
		says := "not recorded"
		if k < len(row.Doubts)-1 {
			says = "may read low"
		}
		if row.Trouble == nil {
			says = d.Says
		}
		if len(lists[k]) > 0 {
			out = append(out, DoubtedCompounds{lists[k], says})
		}
	}
	return out
}
