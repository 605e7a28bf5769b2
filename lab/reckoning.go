package lab

import (
	"context"
	"math"
	"slices"
	"sync"
	"time"

	"yugen/core/batch"
	"yugen/core/signal"
	"yugen/jobs"
	"yugen/lab/review"
)

// reckoned is what a change does, and how it looks.
type reckoned struct {
	effect  *review.Effect
	problem string // why it cannot be said
	drawn   *BeforeAfter
}

// BeforeAfter is a change before and after, to be drawn: a peak over its trace, or a curve.
type BeforeAfter struct {
	X      []float64     `json:"x"` // min, or content
	Y      []float64     `json:"y"`
	Unit   string        `json:"unit"`
	Before *DrawnPeak    `json:"before"`
	After  *DrawnPeak    `json:"after"`
	Points []DrawnPoint  `json:"points,omitempty"` // of a curve
	Lines  [2][2]float64 `json:"lines"`            // responses of the curve at its ends, before and after
}

// DrawnPeak is a peak with its baseline.
type DrawnPeak struct {
	StartMin      float64 `json:"start_min"`
	EndMin        float64 `json:"end_min"`
	BaselineStart float64 `json:"baseline_start"`
	BaselineEnd   float64 `json:"baseline_end"`
	AreaS         float64 `json:"area_s"`
}

// DrawnPoint is a point of a curve.
type DrawnPoint struct {
	X       float64 `json:"x"`
	Y       float64 `json:"y"`
	LeftOut bool    `json:"left_out"`
}

// reckonings holds what changes of batches do, by what their results were made from.
type reckonings struct {
	mu   sync.Mutex
	held map[string]map[string]reckoned
}

// Of reckoning effects.
const (
	maxReckonings = 8
	reckonWait    = 1500 * time.Millisecond // before what is known is shown
)

// of gives the effects of items that are known; the others are worked on, and are there when asked again.
func (r *reckonings) of(ctx context.Context, l *Lab, p Processed, items []review.Item) map[string]reckoned {
	known := r.known(p.InputsHash)
	var missing []review.Item
	for _, i := range items {
		if _, there := known[i.Key]; !there && i.Without != nil {
			missing = append(missing, i)
		}
	}
	if len(missing) == 0 {
		return known
	}
	asked := jobs.Asked{Kind: jobs.Effects, Key: "effects " + p.InputsHash, BatchID: p.Batch.ID, Subject: p.Batch.Name}
	over := l.Jobs.Start(context.WithoutCancel(ctx), asked, func(ctx context.Context, progress *jobs.Progress) (any, error) {
		numbers := review.Reported(p.Batch, p.Result)
		for k, i := range missing {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			progress.Set(k, len(missing))
			r.put(p.InputsHash, i.Key, l.reckon(ctx, p, i, numbers))
		}
		return nil, nil
	})
	select {
	case <-over:
	case <-time.After(reckonWait):
	case <-ctx.Done():
	}
	return r.known(p.InputsHash)
}

func (r *reckonings) known(hash string) map[string]reckoned {
	r.mu.Lock()
	defer r.mu.Unlock()
	out := map[string]reckoned{}
	for key, one := range r.held[hash] {
		out[key] = one
	}
	return out
}

func (r *reckonings) put(hash, key string, one reckoned) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.held == nil || r.held[hash] == nil && len(r.held) >= maxReckonings {
		r.held = map[string]map[string]reckoned{}
	}
	if r.held[hash] == nil {
		r.held[hash] = map[string]reckoned{}
	}
	r.held[hash][key] = one
}

// reckon processes the batch without a change.
func (l *Lab) reckon(ctx context.Context, p Processed, i review.Item, with map[string]review.Number) reckoned {
	without, err := i.Without(p.Batch)
	if err != nil {
		return reckoned{problem: "It stands only together with other changes."}
	}
	r, err := l.with(ctx, without, without.Version.Method)
	if err != nil {
		return reckoned{problem: "Without it the batch cannot be processed: " + Reason(err)}
	}
	out := reckoned{effect: review.EffectOf(review.Reported(without, r), with)}
	switch i.Kind {
	case review.Edited:
		out.drawn = l.drawnPeak(ctx, p, r, i)
	case review.Point:
		out.drawn = drawnCurve(p.Result, r, i.CompoundID)
	}
	return out
}

// drawnPeak is the peak that an edit is about, before and after; nil where neither is there.
func (l *Lab) drawnPeak(ctx context.Context, p Processed, without batch.Result, i review.Item) *BeforeAfter {
	in, err := injection(p.Batch, i.InjectionID)
	if err != nil || i.AtMin == nil {
		return nil
	}
	channel, ok := p.Batch.Version.Method.Channel(i.Channel)
	if !ok {
		return nil
	}
	s, err := l.signalOf(ctx, in, channel.Signal)
	if err != nil {
		return nil
	}
	d := &BeforeAfter{Unit: s.Trace.Unit, Before: peakNear(without, i.InjectionID, channel.ID, *i.AtMin), After: peakNear(p.Result, i.InjectionID, channel.ID, *i.AtMin)}
	from, to := math.Inf(1), math.Inf(-1)
	for _, peak := range []*DrawnPeak{d.Before, d.After} {
		if peak != nil {
			from, to = math.Min(from, peak.StartMin), math.Max(to, peak.EndMin)
		}
	}
	if !(to > from) {
		from, to = *i.AtMin-0.2, *i.AtMin+0.2
	}
	margin := 0.35 * (to - from)
	d.X, d.Y = stretchOf(s.Trace, from-margin, to+margin)
	return d
}

// peakNear is the peak of a result that holds a moment, or whose apex is nearest to it within a tenth of a minute.
func peakNear(r batch.Result, injectionID, channelID string, atMin float64) *DrawnPeak {
	for k := range r.Injections {
		if r.Injections[k].ID != injectionID {
			continue
		}
		for _, c := range r.Injections[k].EachChannel() {
			if c.Channel != channelID {
				continue
			}
			best, least := -1, 0.1
			for n, p := range c.Peaks {
				off := math.Abs(p.ApexMin - atMin)
				if p.StartMin <= atMin && atMin <= p.EndMin {
					off = 0
				}
				if off < least {
					best, least = n, off
				}
			}
			if best >= 0 {
				p := c.Peaks[best]
				return &DrawnPeak{p.StartMin, p.EndMin, p.BaselineStart, p.BaselineEnd, p.AreaS}
			}
		}
	}
	return nil
}

// compoundNear is the compound of the peak that an edit is about; empty where it has no name.
func compoundNear(r batch.Result, i review.Item) string {
	for k := range r.Injections {
		if r.Injections[k].ID != i.InjectionID {
			continue
		}
		for n, c := range r.Injections[k].EachChannel() {
			for _, p := range c.Peaks {
				if (c.Channel == i.Channel || n == 0 && i.Channel == "") && p.StartMin <= *i.AtMin && *i.AtMin <= p.EndMin {
					return p.CompoundID
				}
			}
		}
	}
	return ""
}

// drawnPoints is how many points of a trace are drawn at most.
const drawnPoints = 240

// stretchOf is a part of a trace, thinned to what is drawn: of each step its extreme.
func stretchOf(t signal.Trace, fromMin, toMin float64) (x, y []float64) {
	var at []int
	for i := range t.Values {
		if m := t.TimeS(i) / 60; m >= fromMin && m <= toMin {
			at = append(at, i)
		}
	}
	step := max(1, len(at)/drawnPoints)
	for k := 0; k < len(at); k += step {
		best := at[k]
		for _, i := range at[k:min(k+step, len(at))] {
			if t.Values[i] > t.Values[best] {
				best = i
			}
		}
		x, y = append(x, t.TimeS(best)/60), append(y, t.Values[best])
	}
	return x, y
}

// drawnCurve is a curve with a point left out, and with it.
func drawnCurve(now, without batch.Result, compoundID string) *BeforeAfter {
	of := func(r batch.Result) *batch.Curve {
		k := slices.IndexFunc(r.Curves, func(c batch.Curve) bool { return c.CompoundID == compoundID })
		if k < 0 {
			return nil
		}
		return &r.Curves[k]
	}
	after, before := of(now), of(without)
	if after == nil || before == nil || after.Fit == nil || before.Fit == nil || len(after.Points) == 0 {
		return nil
	}
	d := &BeforeAfter{X: []float64{}, Y: []float64{}, Points: []DrawnPoint{}}
	low, high := math.Inf(1), math.Inf(-1)
	for _, p := range after.Points {
		d.Points = append(d.Points, DrawnPoint{p.X, p.Response, p.LeftOut})
		low, high = math.Min(low, p.X), math.Max(high, p.X)
	}
	d.X = []float64{low, high}
	d.Lines = [2][2]float64{{before.Fit.At(low), before.Fit.At(high)}, {after.Fit.At(low), after.Fit.At(high)}}
	return d
}
