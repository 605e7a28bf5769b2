package lab

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gonum.org/v1/gonum/stat"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/quantities"
	"yugen/core/trends"
)

// What trends go along.
const (
	AlongRun     = "run"     // the injections of this batch in their order
	AlongBatches = "batches" // all batches of the study in order
	AlongTime    = "time"    // of acquisition, over all batches
)

// TrendsAsked says what is looked at.
type TrendsAsked struct {
	Quantities []string
	CompoundID string
	Of         string // a role, or "all"
	Along      string // "run", "batches", "time", or the id of a quantity
	Rules      []trends.Rule
}

// Trends are several quantities along one axis.
type Trends struct {
	Along  string       `json:"along"`
	Words  string       `json:"words"` // of the axis
	Unit   string       `json:"unit"`
	Charts []TrendChart `json:"charts"`
	Marks  []TrendAt    `json:"marks"` // what was changed, in the order of the axis
}

// TrendAt is a mark where it stands along the axis: set by a person, or a change of method or equipment.
type TrendAt struct {
	ID   string  `json:"id,omitempty"` // of one that a person set
	X    float64 `json:"x"`
	Says string  `json:"says"`
	By   string  `json:"by,omitempty"`
}

// TrendChart is one quantity along it.
type TrendChart struct {
	Quantity quantities.Quantity `json:"quantity"`
	Points   []TrendPoint        `json:"points"`
	Centre   *float64            `json:"centre"`
	Low      *float64            `json:"low"`
	High     *float64            `json:"high"`
	Source   string              `json:"source"` // of the limits, in words; empty where there are none
	// Line is through the points where they stand against another quantity or time; absent for few.
	Line *trends.Line `json:"line"`
	// Gone is how many injections have no value.
	Gone int `json:"gone"`
}

// TrendPoint is one injection.
type TrendPoint struct {
	BatchID     string        `json:"batch_id"`
	Batch       string        `json:"batch"`
	InjectionID string        `json:"injection_id"`
	Number      int           `json:"number"`
	Name        string        `json:"name"`
	At          *time.Time    `json:"at"`
	Here        bool          `json:"here"` // of the batch that is looked at
	X           float64       `json:"x"`
	Value       float64       `json:"value"`
	Shown       string        `json:"shown"`
	Breaks      []trends.Rule `json:"breaks"`
}

// Bounds of trends.
const (
	maxTrendCharts = 8
	maxTrendPoints = 20_000
)

// placed is a row of a batch that trends are of.
type placed struct {
	row  quantities.Row
	of   Processed
	here bool
}

// TrendsOf gives quantities along an axis, with limits and the rules that are broken. Computed limits are of the batches before the one that is looked at.
func (l *Lab) TrendsOf(ctx context.Context, batchID string, asked TrendsAsked) (Trends, error) {
	out := Trends{Along: asked.Along, Charts: []TrendChart{}, Marks: []TrendAt{}}
	if len(asked.Quantities) == 0 || len(asked.Quantities) > maxTrendCharts {
		return out, refuse("trends are of 1 to %d quantities, not of %d", maxTrendCharts, len(asked.Quantities))
	}
	for _, r := range asked.Rules {
		if !slices.Contains(trends.Rules, r) {
			return out, refuse("there is no rule %q", r)
		}
	}
	here, all, err := l.ofStudy(ctx, batchID)
	if err != nil {
		return out, err
	}
	notes, err := l.TrendNotesOf(ctx, batchID)
	if err != nil {
		return out, err
	}
	name := compoundName(here.Batch.Version.Method, asked.CompoundID)
	var rows []placed
	var registers []quantities.Register
	var list quantities.Register
	for _, p := range all {
		own, of, err := l.register(ctx, p)
		if err != nil {
			return out, err
		}
		if p.Batch.ID == batchID {
			list = own
		}
		registers = append(registers, own)
		for _, r := range chosenRows(p.Batch, of.Injections, "all") {
			if asked.Of == "all" || string(r.Entry.Role) == asked.Of {
				rows = append(rows, placed{withCompound(r, of, asked.CompoundID, name), p, p.Batch.ID == batchID})
			}
		}
	}
	if len(rows) > maxTrendPoints {
		rows = rows[len(rows)-maxTrendPoints:]
	}
	place, err := out.axis(asked.Along, list, rows)
	if err != nil {
		return out, err
	}
	byBatch := map[string]quantities.Register{}
	for k, p := range all {
		byBatch[p.Batch.ID] = registers[k]
	}
	for _, id := range asked.Quantities {
		q, known := list.Find(id)
		if !known {
			return out, unknownQuantity(id)
		}
		if q.Kind == quantities.Text || q.Kind == quantities.Moment || q.Lives == quantities.OfBatch {
			return out, refuse("%s is no number of each injection", q.Words)
		}
		limit, byHand := notes.limitOf(q.ID, name, asked.Of)
		out.Charts = append(out.Charts, chartOf(q, byBatch, rows, place, asked, here, limit, byHand))
	}
	if out.Along == AlongRun || out.Along == AlongBatches || out.Along == AlongTime {
		out.Marks = marksOf(all, rows, place, notes)
	}
	return out, nil
}

func compoundName(m batch.Method, id string) string {
	for _, c := range m.Compounds {
		if c.ID == id {
			return c.Name
		}
	}
	return ""
}

// withCompound is a row for a compound, by its id or, in a batch of another method, its name.
func withCompound(r quantities.Row, of *quantities.Batch, id, name string) quantities.Row {
	var called *compounds.Compound
	for k := range of.Method.Compounds {
		c := &of.Method.Compounds[k]
		if c.ID == id {
			return r.Of(c)
		}
		if c.Name == name {
			called = c
		}
	}
	if called != nil {
		return r.Of(called)
	}
	return r
}

// axis says where the rows stand along the axis; a row that has no place there gives nil.
func (t *Trends) axis(along string, list quantities.Register, rows []placed) (func(k int) *float64, error) {
	at := func(v float64) *float64 { return &v }
	switch along {
	case AlongRun, "":
		t.Along, t.Words = AlongRun, "run"
		return func(k int) *float64 {
			if !rows[k].here {
				return nil
			}
			return at(float64(rows[k].row.Number))
		}, nil
	case AlongBatches:
		t.Words = "batches"
		return func(k int) *float64 { return at(float64(k + 1)) }, nil
	case AlongTime:
		t.Words, t.Unit = "time of acquisition", "days"
		return func(k int) *float64 {
			when := rows[k].row.AcquiredAt
			if when == nil {
				return nil
			}
			return at(float64(when.Unix()) / 86400)
		}, nil
	}
	q, known := list.Find(along)
	if !known || q.Kind == quantities.Text || q.Kind == quantities.Moment {
		return nil, refuse("trends go along the run, batches, time or a quantity with numbers, not along %q", along)
	}
	t.Words, t.Unit = q.Words, q.Unit
	return func(k int) *float64 { return q.Of(rows[k].row).Number }, nil
}

func chartOf(q quantities.Quantity, byBatch map[string]quantities.Register, rows []placed, place func(int) *float64, asked TrendsAsked, here Processed, limit TrendLimit, byHand bool) TrendChart {
	c := TrendChart{Quantity: q, Points: []TrendPoint{}}
	var before, values, xs []float64
	reached := false
	for k, r := range rows {
		own, known := byBatch[r.of.Batch.ID].Find(q.ID)
		reached = reached || r.here
		if !known {
			continue
		}
		v := own.Of(r.row)
		if v.Number == nil {
			c.Gone++
			continue
		}
		if !reached { // of a batch before the one that is judged
			before = append(before, *v.Number)
		}
		x := place(k)
		if x == nil {
			continue
		}
		in := r.of.Batch.Injections[r.row.Number-1]
		c.Points = append(c.Points, TrendPoint{BatchID: r.of.Batch.ID, Batch: r.of.Batch.Name, InjectionID: in.ID, Number: r.row.Number, Name: strings.TrimSpace(in.Name + " " + r.row.Replicate), At: r.row.AcquiredAt,
			Here: r.here, X: *x, Value: *v.Number, Shown: strings.TrimSpace(own.Shown(v) + " " + own.Unit), Breaks: []trends.Rule{}})
		values, xs = append(values, *v.Number), append(xs, *x)
	}
	if byHand {
		c.Low, c.High, c.Source = limit.Low, limit.High, "set by "+limit.By
		if len(before) >= trends.LeastForLimits { // a centre is computed, as it is without limits of a person's own
			mean := stat.Mean(before, nil)
			c.Centre = &mean
		}
	} else {
		c.limits(q, before, here, asked.Of)
	}
	for k, broken := range trends.Breaches(values, c.Centre, c.Low, c.High, asked.Rules) {
		c.Points[k].Breaks = append(c.Points[k].Breaks, broken...)
	}
	if asked.Along != AlongBatches {
		if line, ok := trends.Fit(xs, values); ok {
			c.Line = &line
		}
	}
	return c
}

// limits are those of the method where it has some, else those that the batches before keep to.
func (c *TrendChart) limits(q quantities.Quantity, before []float64, here Processed, of string) {
	m := here.Batch.Version.Method
	for k := range m.Fields {
		if f := &m.Fields[k]; f.Short == q.ID && (f.Low != nil || f.High != nil) {
			c.Low, c.High, c.Source = f.Low, f.High, "of the field"
			return
		}
	}
	if q.ID == "recovery_percent" && (of == string(batch.Check) || of == "all") {
		low, high, centre := m.Checks.RecoveryLow, m.Checks.RecoveryHigh, 100.0
		c.Low, c.High, c.Centre, c.Source = &low, &high, &centre, "of the method"
		return
	}
	if l, ok := trends.FromMovingRanges(before); ok {
		c.Centre, c.Low, c.High = &l.Centre, &l.Low, &l.High
		c.Source = fmt.Sprintf("mean ± 3 SD by moving ranges of %d values of batches before", l.N)
	}
}
