package lab

import (
	"context"
	"fmt"
	"math"
	"slices"

	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/store"
)

// maxCompared bounds how many batches of a study are looked at together.
const maxCompared = 60

// Day is what one batch of a study says about the limits of a compound.
type Day struct {
	BatchID string         `json:"batch_id"`
	Batch   string         `json:"batch"`
	Limits  []curves.Limit `json:"limits"`
	Problem string         `json:"problem,omitempty"`
}

// LimitTable sets the limits of a compound over all batches of its study side by side.
type LimitTable struct {
	CompoundID string             `json:"compound_id"`
	Days       []Day              `json:"days"`
	Ways       []curves.Spread    `json:"ways"`
	Proposed   *curves.Spread     `json:"proposed"`
	Chosen     *batch.LimitChoice `json:"chosen"`
}

// Limits gathers the limits of every target of a batch, over all batches of its study that calibrate it.
func (l *Lab) Limits(ctx context.Context, batchID string) ([]LimitTable, error) {
	here, all, err := l.ofStudy(ctx, batchID)
	if err != nil {
		return nil, err
	}
	tables := []LimitTable{}
	for _, c := range here.Batch.Version.Method.Targets() {
		t := LimitTable{CompoundID: c.ID, Days: []Day{}, Chosen: here.Batch.Version.Method.Curves.Own[c.ID].Limits}
		var days [][]curves.Limit
		for _, p := range all {
			for _, curve := range p.Result.Curves {
				if curve.CompoundID != c.ID || curve.Fit == nil && p.Batch.ID != batchID {
					continue
				}
				t.Days = append(t.Days, Day{p.Batch.ID, p.Batch.Name, curve.Limits, curve.Problem})
				days = append(days, curve.Limits)
			}
		}
		t.Ways, t.Proposed = curves.OverDays(days)
		tables = append(tables, t)
	}
	return tables, nil
}

// ofStudy are the processed batches of a batch's study, itself among them, in the order they were made.
func (l *Lab) ofStudy(ctx context.Context, batchID string) (here Processed, all []Processed, err error) {
	if here, err = l.Process(ctx, batchID); err != nil {
		return here, nil, err
	}
	studies, err := l.Studies(ctx)
	if err != nil {
		return here, nil, err
	}
	for _, s := range studies {
		if s.ID != here.Batch.StudyID {
			continue
		}
		for _, b := range newestWith(s.Batches, batchID, maxCompared) {
			p := here
			if b.ID != batchID {
				if p, err = l.Process(ctx, b.ID); err != nil {
					return here, nil, fmt.Errorf("batch %s: %w", b.Name, err)
				}
			}
			all = append(all, p)
		}
	}
	return here, all, nil
}

// newestWith are the newest batches of a list, at most so many; where one of them is older, those up to it.
func newestWith(list []store.Listing, batchID string, most int) []store.Listing {
	end := len(list)
	if at := slices.IndexFunc(list, func(b store.Listing) bool { return b.ID == batchID }); at >= 0 && at < end-most {
		end = at + 1
	}
	return list[max(0, end-most):end]
}

// CurveTrial asks what another curve of one compound would give: another shape, or that of an earlier version.
type CurveTrial struct {
	CompoundID string     `json:"compound_id"`
	Own        *batch.Own `json:"own"`
	VersionID  string     `json:"version_id,omitempty"` // takes the curve as that version had it
}

// Effect is what a change does to one reported mean.
type Effect struct {
	Name       string   `json:"name"`
	CompoundID string   `json:"compound_id"`
	Before     *float64 `json:"before"`
	After      *float64 `json:"after"`
	Percent    *float64 `json:"percent"`
}

// TriedCurve is another curve with its effect on the samples.
type TriedCurve struct {
	Curve   batch.Curve `json:"curve"`
	Effects []Effect    `json:"effects"`
}

// TryCurve fits one compound's curve in another way. Nothing is written.
func (l *Lab) TryCurve(ctx context.Context, batchID string, t CurveTrial) (TriedCurve, error) {
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return TriedCurve{}, err
	}
	method := now.Batch.Version.Method
	own := map[string]batch.Own{}
	for id, o := range method.Curves.Own {
		own[id] = o
	}
	switch {
	case t.VersionID != "":
		earlier, err := l.version(ctx, now.Batch, t.VersionID)
		if err != nil {
			return TriedCurve{}, err
		}
		o := earlier.Method.Curves.Own[t.CompoundID]
		if o.Model == "" {
			o.Model = earlier.Method.Curves.Model
		}
		if o.Weight == "" {
			o.Weight = earlier.Method.Curves.Weight
		}
		own[t.CompoundID] = o
	case t.Own != nil:
		own[t.CompoundID] = *t.Own
	}
	method.Curves.Own = own
	r, err := l.with(ctx, now.Batch, method)
	if err != nil {
		return TriedCurve{}, err
	}
	out := TriedCurve{Effects: []Effect{}}
	for _, c := range r.Curves {
		if c.CompoundID == t.CompoundID {
			out.Curve = c
		}
	}
	for _, e := range effects(now.Result, r) {
		if e.CompoundID == t.CompoundID {
			out.Effects = append(out.Effects, e)
		}
	}
	return out, nil
}

// with processes a batch by another method, without keeping anything.
func (l *Lab) with(ctx context.Context, b store.Batch, m batch.Method) (batch.Result, error) {
	injections, err := l.load(ctx, b)
	if err != nil {
		return batch.Result{}, err
	}
	r, err := batch.Process(ctx, batch.Input{Injections: injections, Method: m, Choices: b.Choices}, &l.peaks)
	if err != nil && ctx.Err() == nil {
		return r, refuse("%s", err)
	}
	return r, err
}

// effects compares the reported means of two results of the same batch, compound by compound.
func effects(before, after batch.Result) []Effect {
	list := []Effect{}
	for i, row := range before.Samples {
		if i >= len(after.Samples) {
			break
		}
		list = append(list, effectsOn(row, after.Samples[i], compoundsOf(after, before))...)
	}
	return list
}

// compoundsOf are the compounds with a curve in one of two results.
func compoundsOf(one, other batch.Result) (ids []string) {
	for _, c := range slices.Concat(one.Curves, other.Curves) {
		if !slices.Contains(ids, c.CompoundID) {
			ids = append(ids, c.CompoundID)
		}
	}
	return ids
}

// effectsOn compares the means of one sample.
func effectsOn(before, after batch.SampleRow, compoundIDs []string) []Effect {
	list := make([]Effect, len(compoundIDs))
	for k, id := range compoundIDs {
		a, b := mean(before.Values[id]), mean(after.Values[id])
		list[k] = Effect{Name: before.Name, CompoundID: id, Before: a, After: b}
		if a != nil && b != nil && *a != 0 {
			percent := 100 * (*b - *a) / math.Abs(*a)
			list[k].Percent = &percent
		}
	}
	return list
}

// mean is the reported mean, or that of the concentrations where no amount can be had.
func mean(v batch.SampleValue) *float64 {
	if v.Mean != nil {
		return v.Mean
	}
	return v.Concentration.Mean
}

// Versions lists the versions of a batch's method, the newest first, without their documents.
func (l *Lab) Versions(ctx context.Context, batchID string) (list []store.Version, err error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		list, err = t.Versions(b.Version.MethodID)
		return err
	})
	return list, err
}

func (l *Lab) version(ctx context.Context, b store.Batch, id string) (v store.Version, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		v, err = t.Version(id)
		if err == nil && v.MethodID != b.Version.MethodID {
			return fmt.Errorf("method version %s: %w", id, store.ErrNotFound)
		}
		return err
	})
	return v, err
}

// Since is what has changed in the results since a method version.
type Since struct {
	Version store.Version `json:"version"`
	Effects []Effect      `json:"effects"` // those that moved
	Same    int           `json:"same"`    // how many did not
}

// ChangedSince compares the results with what an earlier version of the method makes of the same files, run list and edits; versionID
// may be empty for the version before the present one.
func (l *Lab) ChangedSince(ctx context.Context, batchID, versionID string) (Since, error) {
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return Since{}, err
	}
	if versionID == "" {
		list, err := l.Versions(ctx, batchID)
		if err != nil {
			return Since{}, err
		}
		for _, v := range list {
			if v.Number < now.Batch.Version.Number {
				versionID = v.ID
				break
			}
		}
	}
	out := Since{Version: now.Batch.Version, Effects: []Effect{}}
	if versionID == "" {
		return out, nil
	}
	if out.Version, err = l.version(ctx, now.Batch, versionID); err != nil {
		return out, err
	}
	before, err := l.with(ctx, now.Batch, out.Version.Method)
	if err != nil {
		return out, err
	}
	for _, e := range effects(before, now.Result) {
		if e.Percent != nil && math.Abs(*e.Percent) < 1e-9 || e.Before == nil && e.After == nil {
			out.Same++
			continue
		}
		out.Effects = append(out.Effects, e)
	}
	return out, nil
}

// ControlPoint is one check's recovery of a compound, in this batch or an earlier one of the study.
type ControlPoint struct {
	BatchID     string  `json:"batch_id"`
	Batch       string  `json:"batch"`
	InjectionID string  `json:"injection_id"`
	Name        string  `json:"name"`
	Recovery    float64 `json:"recovery_percent"`
	Outside     bool    `json:"outside"`
}

// Control gathers the checks of one compound over all batches of the study, in order.
func (l *Lab) Control(ctx context.Context, batchID, compoundID string) ([]ControlPoint, error) {
	_, all, err := l.ofStudy(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list := []ControlPoint{}
	for _, p := range all {
		names := map[string]string{}
		for _, in := range p.Batch.Injections {
			names[in.ID] = in.Name
		}
		for _, c := range p.Result.Checks {
			if c.CompoundID == compoundID {
				list = append(list, ControlPoint{p.Batch.ID, p.Batch.Name, c.InjectionID, names[c.InjectionID], c.Recovery, c.Outside})
			}
		}
	}
	return list, nil
}
