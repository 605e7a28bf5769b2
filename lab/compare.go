package lab

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"

	"yugen/core/batch"
	"yugen/core/compare"
	"yugen/core/signal"
	"yugen/store"
)

// Treatment is what is done to traces for looking at them, in this order: a blank taken off, lined up, heights made alike. Areas and results stay as they are.
type Treatment struct {
	Less    string // the injection that is taken off; empty is none
	LinedUp string // a compound whose peak stands at the reference's, or ByCorrelation; empty is not
	To      string // the injection that is the reference
	Heights string // ToTallest, ToArea, or a compound whose peak becomes 100; empty is as measured
}

// The ways of a treatment that are no compound.
const (
	ByCorrelation = "correlation"
	ToTallest     = "tallest"
	ToArea        = "area"
)

// Treated says what was done to one trace.
type Treated struct {
	ShiftMin float64
	Factor   float64
}

// reachS is how far a trace is moved at most to lie on another one.
const reachS = 60

// comparison treats the traces of one channel of a batch.
type comparison struct {
	l       *Lab
	p       Processed
	channel batch.Channel
	Treatment
	less, reference *signal.Trace
}

func (l *Lab) comparison(ctx context.Context, p Processed, channelID string, t Treatment) (*comparison, error) {
	channel, ok := p.Batch.Version.Method.Channel(channelID)
	if !ok {
		return nil, fmt.Errorf("channel %q: %w", channelID, store.ErrNotFound)
	}
	c := &comparison{l: l, p: p, channel: channel, Treatment: t}
	for _, other := range []struct {
		id   string
		into **signal.Trace
	}{{t.Less, &c.less}, {t.To, &c.reference}} {
		if other.id == "" {
			continue
		}
		in, err := injection(p.Batch, other.id)
		if err != nil {
			return nil, err
		}
		s, err := l.signalOf(ctx, in, channel.Signal)
		if err != nil {
			return nil, err
		}
		*other.into = &s.Trace
	}
	if c.reference != nil && c.less != nil {
		less := compare.Less(*c.reference, *c.less)
		c.reference = &less
	}
	return c, nil
}

// peak is that of a compound in an injection.
func (c *comparison) peak(injectionID, compoundID string) (batch.NamedPeak, bool) {
	for i := range c.p.Result.Injections {
		in := &c.p.Result.Injections[i]
		if in.ID != injectionID {
			continue
		}
		for _, channel := range in.EachChannel() {
			for _, p := range channel.Peaks {
				if p.CompoundID == compoundID {
					return p, true
				}
			}
		}
	}
	return batch.NamedPeak{}, false
}

// treat does to the trace of an injection what the treatment says.
func (c *comparison) treat(in store.Injection, t signal.Trace) (signal.Trace, Treated) {
	done := Treated{Factor: 1}
	if c.less != nil {
		t = compare.Less(t, *c.less)
	}
	switch c.LinedUp {
	case "":
	case ByCorrelation:
		if c.reference != nil {
			done.ShiftMin = compare.Lag(t, *c.reference, reachS) / 60
		}
	default:
		own, here := c.peak(in.ID, c.LinedUp)
		other, there := c.peak(c.To, c.LinedUp)
		if here && there {
			done.ShiftMin = other.ApexMin - own.ApexMin
		}
	}
	t = compare.Shifted(t, 60*done.ShiftMin)
	if c.Heights == "" {
		return t, done
	}
	ground, whole := compare.Ground(t), 0.0
	switch c.Heights {
	case ToTallest:
		whole = slices.Max(t.Values) - ground
	case ToArea:
		whole = c.area(in.ID) / 60 // of peaks, in signal · min, so that a share per minute is drawn
	default:
		if p, found := c.peak(in.ID, c.Heights); found {
			whole = p.Height
		}
	}
	if whole > 0 {
		done.Factor = 100 / whole
		t = compare.Scaled(t, ground, done.Factor)
		t.Unit = "%"
	}
	return t, done
}

// area is that of all peaks of an injection in the channel.
func (c *comparison) area(injectionID string) float64 {
	sum := 0.0
	for _, p := range c.found(injectionID) {
		sum += max(0, p.AreaS)
	}
	return sum
}

func (c *comparison) found(injectionID string) []batch.NamedPeak {
	for i := range c.p.Result.Injections {
		if c.p.Result.Injections[i].ID != injectionID {
			continue
		}
		for _, channel := range c.p.Result.Injections[i].EachChannel() {
			if channel.Channel == c.channel.ID {
				return channel.Peaks
			}
		}
	}
	return nil
}

// TreatedTrace is a trace of a channel as a treatment leaves it.
func (l *Lab) TreatedTrace(ctx context.Context, batchID, injectionID, channelID string, t Treatment) (signal.Trace, Treated, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return signal.Trace{}, Treated{}, err
	}
	in, err := injection(p.Batch, injectionID)
	if err != nil {
		return signal.Trace{}, Treated{}, err
	}
	c, err := l.comparison(ctx, p, channelID, t)
	if err != nil {
		return signal.Trace{}, Treated{}, err
	}
	s, err := l.signalOf(ctx, in, c.channel.Signal)
	if errors.Is(err, errNoSignal) {
		err = fmt.Errorf("%s of %s: %w", c.channel.Signal.Title(), in.Name, store.ErrNotFound)
	}
	if err != nil {
		return signal.Trace{}, Treated{}, err
	}
	tr, done := c.treat(in, s.Trace)
	return tr, done, nil
}

// Above is a batch seen from above: a row for each injection in run order, its signal in so many columns of time.
type Above struct {
	FromMin float64    `json:"from_min"`
	ToMin   float64    `json:"to_min"`
	Columns int        `json:"columns"`
	Unit    string     `json:"unit"`
	Rows    []AboveRow `json:"rows"`
	// Values are little-endian float32, row by row; NaN where nothing was measured.
	Values []byte `json:"values"`
}

// AboveRow is one injection seen from above.
type AboveRow struct {
	InjectionID string `json:"injection_id"`
	// Unlike is how much it differs from its kin in percent; absent where there is none.
	Unlike *float64 `json:"unlike_percent"`
	KinID  string   `json:"kin_id,omitempty"`
	// Says is in what it differs, as a sentence; empty where it does not differ by much.
	Says     string  `json:"says,omitempty"`
	ShiftMin float64 `json:"shift_min"`
}

// muchUnlike is from how many percent on a row is odd.
const muchUnlike = 12

// maxAboveColumns bounds the columns of a view from above.
const maxAboveColumns = 4000

// FromAbove gives the whole batch seen from above.
func (l *Lab) FromAbove(ctx context.Context, batchID, channelID string, columns int, t Treatment) (Above, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return Above{}, err
	}
	c, err := l.comparison(ctx, p, channelID, t)
	if err != nil {
		return Above{}, err
	}
	out := Above{Columns: max(1, min(columns, maxAboveColumns)), FromMin: math.Inf(1), ToMin: math.Inf(-1), Rows: []AboveRow{}, Values: []byte{}}
	traces := make([]*signal.Trace, len(p.Batch.Injections))
	for i, in := range p.Batch.Injections {
		row := AboveRow{InjectionID: in.ID}
		if in.Typed == nil {
			s, err := l.signalOf(ctx, in, c.channel.Signal)
			if err != nil && !errors.Is(err, errNoSignal) {
				return Above{}, err
			}
			if err == nil {
				tr, done := c.treat(in, s.Trace)
				traces[i], row.ShiftMin = &tr, done.ShiftMin
				if out.Unit == "" {
					out.Unit = tr.Unit
				}
				out.FromMin, out.ToMin = min(out.FromMin, tr.StartS/60), max(out.ToMin, tr.EndS()/60)
			}
		}
		out.Rows = append(out.Rows, row)
	}
	if out.FromMin >= out.ToMin {
		out.FromMin, out.ToMin = 0, 1
	}
	rows := make([][]float64, len(traces))
	for i, tr := range traces {
		if tr != nil {
			rows[i] = compare.Columns(*tr, 60*out.FromMin, 60*out.ToMin, out.Columns)
		} else {
			rows[i] = slices.Repeat([]float64{math.NaN()}, out.Columns)
		}
		for _, v := range rows[i] {
			out.Values = binary.LittleEndian.AppendUint32(out.Values, math.Float32bits(float32(v)))
		}
	}
	c.unlike(&out, traces)
	return out, nil
}

// unlike compares each row with its kin: a duplicate, or another injection of the same role and level; a blank with the lowest standard.
func (c *comparison) unlike(out *Above, traces []*signal.Trace) {
	standing := make([][]float64, len(traces))
	row := func(i int) []float64 {
		if standing[i] == nil {
			standing[i] = c.standing(compare.Columns(*traces[i], 60*out.FromMin, 60*out.ToMin, out.Columns), *out)
		}
		return standing[i]
	}
	for i := range out.Rows {
		if traces[i] == nil {
			continue
		}
		k := c.kin(i, traces)
		if k < 0 {
			continue
		}
		r := &out.Rows[i]
		r.KinID = out.Rows[k].InjectionID
		if c.p.Batch.Injections[i].Role == batch.Blank {
			percent, compound := c.carried(r.InjectionID, r.KinID)
			r.Unlike = &percent
			if percent > muchUnlike {
				r.Says = fmt.Sprintf("%s at %.0f %% of the lowest standard.", compound, percent)
			}
			continue
		}
		lag := compare.Lag(*traces[i], *traces[k], reachS)
		lined := c.standing(compare.Columns(compare.Shifted(*traces[i], lag), 60*out.FromMin, 60*out.ToMin, out.Columns), *out)
		percent := compare.Unlike(lined, row(k))
		r.Unlike = &percent
		if percent > muchUnlike {
			r.Says = says(lined, row(k), *out)
		}
	}
}

// carried is the compound of which a blank holds most, in percent of the area in the lowest standard.
func (c *comparison) carried(blankID, standardID string) (percent float64, name string) {
	for _, compound := range c.p.Batch.Version.Method.Targets() {
		own, here := c.peak(blankID, compound.ID)
		other, there := c.peak(standardID, compound.ID)
		if here && there && other.AreaS > 0 && 100*own.AreaS/other.AreaS > percent {
			percent, name = 100*own.AreaS/other.AreaS, compound.Name
		}
	}
	return percent, name
}

// says in what a row differs from its kin: in the size of all its peaks, or most at one time.
func says(own, kin []float64, a Above) string {
	var sum, sumKin, most float64
	at := 0
	for i := range own {
		if math.IsNaN(own[i]) || math.IsNaN(kin[i]) {
			continue
		}
		sum, sumKin = sum+own[i], sumKin+kin[i]
	}
	if sum == 0 || sumKin == 0 {
		return "One of the two shows nothing at all."
	}
	for i := range own {
		if d := math.Abs(own[i]/sum - kin[i]/sumKin); d > most {
			most, at = d, i
		}
	}
	scaled := make([]float64, len(own))
	for i := range own {
		scaled[i] = own[i] * sumKin / sum
	}
	if compare.Unlike(scaled, kin) < muchUnlike/2 {
		return fmt.Sprintf("All its peaks stand at %.0f %% of its kin.", 100*sum/sumKin)
	}
	return fmt.Sprintf("It differs from its kin most at %.2f min.", a.FromMin+(float64(at)+0.5)*(a.ToMin-a.FromMin)/float64(a.Columns))
}

// standing is what stands above a row's own ground, which may drift: the least of a sixteenth of the run about each column. What the method leaves out is not
// looked at.
func (c *comparison) standing(row []float64, a Above) []float64 {
	n := len(row)
	out := make([]float64, n)
	for i := range row {
		at := a.FromMin + (float64(i)+0.5)*(a.ToMin-a.FromMin)/float64(n)
		if leftOut(at, c.channel.Peaks.TimeRules) {
			out[i] = math.NaN()
			continue
		}
		ground := math.Inf(1)
		for k := max(0, i-n/32); k <= min(n-1, i+n/32); k++ {
			if row[k] < ground {
				ground = row[k]
			}
		}
		out[i] = row[i] - ground
	}
	return out
}

// kin is the injection that a row is compared with; -1 where there is none.
func (c *comparison) kin(i int, traces []*signal.Trace) int {
	list := c.p.Batch.Injections
	own := list[i]
	best := -1
	for k, other := range list {
		if k == i || traces[k] == nil {
			continue
		}
		switch own.Role {
		case batch.Blank:
			if other.Role == batch.Standard && other.Level != nil && (best < 0 || *other.Level < *list[best].Level) {
				best = k
			}
			continue
		case batch.Standard, batch.Check, batch.Suitability:
			if other.Role != own.Role || (own.Level == nil) != (other.Level == nil) || own.Level != nil && *own.Level != *other.Level {
				continue
			}
		default:
			if other.Role != own.Role || other.Name != own.Name {
				continue
			}
		}
		if best < 0 || max(k-i, i-k) < max(best-i, i-best) {
			best = k
		}
	}
	return best
}
