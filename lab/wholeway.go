package lab

import (
	"context"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/curves"
	"yugen/core/proposals"
	"yugen/store"
)

// The parts of a small batch that can be proposed.
const (
	proposedRoles   = "roles"
	proposedLevels  = "levels"
	proposedPeak    = "peak"
	proposedLine    = "line"
	proposedAmounts = "amounts"
)

// WholeWayAsk is what a person has said so far of what is proposed, without keeping it.
type WholeWayAsk struct {
	Name    string       `json:"name"`     // of the compound whose peak it is
	ApexMin float64      `json:"apex_min"` // another shared peak than the one proposed; 0 is that one
	Unit    string       `json:"unit"`     // of the levels, where their names do not say it
	Model   curves.Model `json:"model"`    // another curve than a line; empty is the line
	Refused []string     `json:"refused"`  // the keys of what is not wanted
}

// WholeWay is a batch of few files as it would be if all that is proposed without doubt were kept. Nothing of it is.
type WholeWay struct {
	Rows      []WayRow              `json:"rows"`
	Unit      string                `json:"unit"` // of the levels; empty where nobody has said
	UnitFrom  string                `json:"unit_from"`
	Proposals []Proposed            `json:"proposals"`
	Asked     []Question            `json:"asked"`
	LookedAt  []LookedAt            `json:"looked_at"`
	Peak      *proposals.SharedPeak `json:"peak"`
	Others    []float64             `json:"others"` // apexes of other peaks that all share, min
	Compound  string                `json:"compound"`
	Offered   string                `json:"offered"` // a name that all files carry
	Curve     *batch.Curve          `json:"curve"`
	Working   *batch.Working        `json:"working"` // of the first sample
	// Concentration is what that sample reads, in Unit, with the half-width of its 95 % interval.
	Concentration *float64 `json:"concentration"`
	HalfWidth     *float64 `json:"half_width"`
}

// WayRow is a file with what is read from its name.
type WayRow struct {
	InjectionID   string     `json:"injection_id"`
	File          string     `json:"file"`
	Role          batch.Role `json:"role"`
	RoleProposed  bool       `json:"role_proposed"`
	Level         *float64   `json:"level"`
	LevelProposed bool       `json:"level_proposed"`
	// From is the stretch of the file's name that was read.
	From    proposals.Span `json:"from"`
	AreaS   *float64       `json:"area_s"` // of the peak that all share
	ApexMin *float64       `json:"apex_min"`
	Doubt   string         `json:"doubt"`
}

// Proposed is one thing that stands ready to be kept.
type Proposed struct {
	Key     string `json:"key"`
	Text    string `json:"text"`
	From    string `json:"from"` // where it was read from
	Station string `json:"station"`
	// Doubt is why it is not kept with the others; empty where it is.
	Doubt string `json:"doubt"`
}

// Question is what only a person knows.
type Question struct {
	Key  string `json:"key"`
	Text string `json:"text"`
	Why  string `json:"why"`
}

// LookedAt is one of the usual mistakes, and whether it was made.
type LookedAt struct {
	Text  string `json:"text"`
	Found string `json:"found"`
	State string `json:"state"` // well, wrong, or open where there is nothing to judge
}

// maxWholeWay is up to how many files a batch is looked at as a whole.
const maxWholeWay = 60

// wayUnderway is a whole way that is being made out.
type wayUnderway struct {
	WholeWay
	b        store.Batch // with the entries that are proposed
	m        batch.Method
	readings []proposals.Reading
	compound string // its id
	refused  []string
	entries  map[string]batch.Entry // that would be set, without those in doubt
	levels   map[string]*float64    // that are proposed, by injection
	result   batch.Result
}

// WholeWay makes out what a batch of few files is likely to be. Nothing is written.
func (l *Lab) WholeWay(ctx context.Context, batchID string, ask WholeWayAsk) (WholeWay, error) {
	w, err := l.wholeWay(ctx, batchID, ask)
	if err != nil {
		return WholeWay{}, err
	}
	return w.WholeWay, nil
}

func (l *Lab) wholeWay(ctx context.Context, batchID string, ask WholeWayAsk) (*wayUnderway, error) {
	if ask.Name = strings.TrimSpace(ask.Name); len(ask.Name) > maxName {
		return nil, refuseAt("/name", "a compound's name has at most %d characters", maxName)
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	if len(p.Batch.Injections) > maxWholeWay {
		return nil, refuse("a batch of %d injections is not looked at as a whole; %d is the most", len(p.Batch.Injections), maxWholeWay)
	}
	w := &wayUnderway{b: p.Batch, m: p.Batch.Version.Method, refused: ask.Refused, entries: map[string]batch.Entry{}, levels: map[string]*float64{}}
	w.Proposals, w.Asked, w.LookedAt, w.Others = []Proposed{}, []Question{}, []LookedAt{}, []float64{}
	w.b.Injections = slices.Clone(w.b.Injections)
	w.readNames()
	w.rolesAndLevels(ask)
	w.sharedPeak(p.Result, ask)
	w.line(ask)
	w.propose(proposedAmounts, "Reported as measured"+inUnit(w.Unit), "nothing is weighed or diluted until somebody says so", "results", "")
	if len(w.m.Compounds) > 0 {
		if w.result, err = l.with(ctx, w.b, w.m); err != nil {
			return nil, err
		}
		w.read()
	}
	w.look()
	return w, nil
}

const maxName = 200

func inUnit(unit string) string {
	if unit == "" {
		return ""
	}
	return ", in " + unit
}

// propose adds a proposal that is neither refused nor agreed to already, and tells whether it holds for what hangs on it.
func (w *wayUnderway) propose(key, text, from, station, doubt string) bool {
	if slices.Contains(w.b.Choices.Agreed, key) {
		return true
	}
	if slices.Contains(w.refused, key) {
		return false
	}
	w.Proposals = append(w.Proposals, Proposed{key, text, from, station, doubt})
	return doubt == ""
}
