package batch

import (
	"encoding/json"
	"fmt"
	"math"
	"time"

	"yugen/core/curves"
	"yugen/core/screening"
)

// Choices are what a batch decides about its own curves. They name its injections, or those of an earlier batch, and so are no part of a method,
// which other batches share.
type Choices struct {
	LeftOut map[string][]LeftOut    `json:"left_out,omitempty"` // points, by compound id
	Levels  map[string][]LevelState `json:"levels,omitempty"`   // those that are not simply in use, by compound id
	// Earlier are curves of another batch that this one is read from, instead of from standards of its own.
	Earlier *Earlier `json:"earlier,omitempty"`
	// Agreed are the parts of the method that were proposed and that a person has agreed to.
	Agreed []string `json:"agreed,omitempty"`
	// Screened are what persons said of compounds in samples, by compound id. No number depends on it.
	Screened map[string][]screening.Decision `json:"screened,omitempty"`
}

// LeftOut is a point taken out of a curve by hand.
type LeftOut struct {
	InjectionID string `json:"injection_id"`
	Reason      string `json:"reason"`
}

// LevelState takes a level of one compound out, or keeps it as it was once.
type LevelState struct {
	Level  float64     `json:"level"`
	State  LevelUse    `json:"state"`
	Kept   []KeptPoint `json:"kept,omitempty"` // of a level that is kept
	From   string      `json:"from,omitempty"` // the batch in which a kept level was measured
	Reason string      `json:"reason"`
}

// LevelUse is what becomes of a level.
type LevelUse string

// The uses of a level that is not in use as measured in its batch.
const (
	LevelLeftOut LevelUse = "left_out"
	LevelKept    LevelUse = "kept"
)

// UnmarshalText reads the words of today and those that methods were saved with before; saved versions themselves never change.
func (u *LevelUse) UnmarshalText(text []byte) error {
	switch *u = LevelUse(text); *u {
	case "off":
		*u = LevelLeftOut
	case "frozen":
		*u = LevelKept
	}
	return nil
}

// KeptPoint is a response kept from an earlier measurement.
type KeptPoint struct {
	InjectionID string  `json:"injection_id"`
	X           float64 `json:"x"`
	Response    float64 `json:"response"`
	// Content is what the standard held of the compound, where that is not the level; Measure the area or height behind the response.
	Content *float64 `json:"content,omitempty"`
	Measure float64  `json:"measure,omitempty"`
}

// Earlier are the curves of another batch, as they were when they were taken over.
type Earlier struct {
	BatchID string `json:"batch_id"`
	Batch   string `json:"batch"`
	Study   string `json:"study"`
	// MeasuredAt is when its standards were acquired; nil where no file says so.
	MeasuredAt *time.Time                `json:"measured_at"`
	Response   Response                  `json:"response"`
	Unit       string                    `json:"unit"`
	Curves     map[string][]EarlierPoint `json:"curves"`  // by compound id
	Against    map[string]string         `json:"against"` // the internal standard of each compound's responses, by compound id; absent without one
}

// EarlierPoint is a standard of an earlier curve.
type EarlierPoint struct {
	KeptPoint
	Level   float64 `json:"level"`
	LeftOut string  `json:"left_out,omitempty"` // the reason
}

// EarlierOf are the curves of a processed batch, for another one to be read from.
func EarlierOf(m Method, r Result) (map[string][]EarlierPoint, map[string]string) {
	p := newProcess(Input{Method: m})
	points, against := map[string][]EarlierPoint{}, map[string]string{}
	for _, c := range r.Curves {
		if c.RelativeTo != "" {
			continue
		}
		for _, q := range c.Points {
			k := EarlierPoint{KeptPoint: KeptPoint{q.InjectionID, q.X, q.Response, nil, q.Measure}, Level: q.Level}
			if q.Content != q.Level {
				k.Content = &q.Content
			}
			if q.LeftOut {
				k.LeftOut = q.Reason
				if k.LeftOut == "" {
					k.LeftOut = "left out"
				}
			}
			points[c.CompoundID] = append(points[c.CompoundID], k)
		}
		if is, ok := p.against(c.CompoundID); ok {
			against[c.CompoundID] = is.ID
		}
	}
	return points, against
}

// unlike says in a sentence why earlier responses of a compound are not what this method measures; empty where they are.
func (p *process) unlike(e *Earlier, compoundID string) string {
	now := ""
	if is, ok := p.against(compoundID); ok {
		now = is.ID
	}
	m := p.method
	switch {
	case e.Response != m.Curves.Response:
		return fmt.Sprintf("The curves of %s are of %ss, this method measures %ss.", e.Batch, e.Response, m.Curves.Response)
	case e.Unit != m.Curves.Unit:
		return fmt.Sprintf("The curves of %s are in %s, the levels of this method in %s.", e.Batch, e.Unit, m.Curves.Unit)
	case e.Against[compoundID] != now:
		return fmt.Sprintf("The curve of %s was not measured against the internal standard of this method.", e.Batch)
	}
	return ""
}

// maxChoices bounds points and levels that one compound has something said about.
const maxChoices = 5000

// Validate says in a sentence what keeps choices from being used.
func (c Choices) Validate() error {
	if err := screening.ValidDecisions(c.Screened); err != nil {
		return err
	}
	for id, list := range c.LeftOut {
		if len(list) > maxChoices {
			return fmt.Errorf("curve of %s: %d points are left out; at most %d are kept", id, len(list), maxChoices)
		}
		for _, out := range list {
			if err := boundedReason(id, out.Reason); err != nil {
				return err
			}
		}
	}
	for id, list := range c.Levels {
		if len(list) > maxChoices {
			return fmt.Errorf("curve of %s: %d levels have a state; at most %d are kept", id, len(list), maxChoices)
		}
		for _, l := range list {
			if l.State != LevelLeftOut && l.State != LevelKept {
				return fmt.Errorf("curve of %s: the level %g cannot be %q; it is left_out or kept", id, l.Level, l.State)
			}
			if err := boundedReason(id, l.Reason); err != nil {
				return err
			}
			if len(l.Kept) > maxChoices || len(l.From) > maxText {
				return fmt.Errorf("curve of %s: the level %g keeps %d points; at most %d are kept, and the name of their batch has at most %d characters", id, l.Level, len(l.Kept), maxChoices, maxText)
			}
			for _, k := range l.Kept {
				if math.IsNaN(k.X+k.Response) || math.IsInf(k.X+k.Response, 0) {
					return fmt.Errorf("curve of %s: a kept point of the level %g is no number", id, l.Level)
				}
			}
		}
	}
	return nil
}

// maxReason bounds the reason of a choice, in bytes.
const maxReason = 500

func boundedReason(compoundID, reason string) error {
	if len(reason) > maxReason {
		return fmt.Errorf("curve of %s: a reason has at most %d characters, this one has %d", compoundID, maxReason, len(reason))
	}
	return nil
}

// LiftChoices reads what methods said, before, about injections of the batch that was processed with them: points left out and states of levels. Saved
// versions never change, so their documents still say it.
func LiftChoices(document []byte) (Choices, error) {
	var earlier struct {
		Curves struct {
			Own map[string]struct {
				LeftOut []LeftOut    `json:"left_out"`
				Levels  []LevelState `json:"levels"`
			} `json:"own"`
		} `json:"curves"`
	}
	var c Choices
	if err := json.Unmarshal(document, &earlier); err != nil {
		return c, err
	}
	for id, own := range earlier.Curves.Own {
		if len(own.LeftOut) > 0 {
			if c.LeftOut == nil {
				c.LeftOut = map[string][]LeftOut{}
			}
			c.LeftOut[id] = own.LeftOut
		}
		if len(own.Levels) > 0 {
			if c.Levels == nil {
				c.Levels = map[string][]LevelState{}
			}
			c.Levels[id] = own.Levels
		}
	}
	return c, nil
}

// LimitChoice is a detection and a quantitation limit chosen by a person, in the unit of the levels.
type LimitChoice struct {
	LOD    float64         `json:"lod"`
	LOQ    float64         `json:"loq"`
	Way    curves.LimitWay `json:"way"`
	Reason string          `json:"reason"`
}
