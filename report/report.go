// Package report lays results out on pages and draws them once: the same pages are SVG on the screen and PDF on paper. It
// also writes results as open tables.
package report

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/quantities"
	"yugen/core/signal"
	"yugen/report/layouts"
)

// Input is what a report is made from.
type Input struct {
	Laboratory string // as the letterhead names it; empty for none
	Address    string
	Mark       []byte // a PNG before the name; empty for none
	Study      string
	Batch      string
	MethodName string
	Version    int
	InputsHash string
	MadeBy     string    // who changed what in the batch
	MadeAt     time.Time // the time of the newest input
	Anchor     string    // the place of that input in the record, with its hash; empty outside of a store
	Method     batch.Method
	Lines      []Line
	OwnColumns []batch.OwnColumn   // of the run list, that the study has added
	Fields     quantities.Register // of the method, compiled over the batch
	Whole      *quantities.Batch   // what they are computed over; nil makes it of the lines
	Result     batch.Result
	Settled    []string
	Screened   *batch.Screened // nil where the method has no rules of a screening
	Resolved   *Resolved       // for a layout that has the table of a resolved batch
	View       *View           // for a report of a view
	Record     []RecordLine    // what was changed by hand, oldest first
	Paper      Paper           // how the laboratory wants paper
	Signed     []Signature     // in the order in which they were given, withdrawn ones, too
}

// Signature is one that somebody gave to the batch, by password or as who works alone.
type Signature struct {
	Meaning, Words, Name string
	At                   time.Time
	Seal                 string // hexadecimal
	Alone                bool   // by who also prepared: not independent
	Proven               bool   // by a password
	// Gone is when it was withdrawn, by whom and why; nil while it stands.
	Gone *Withdrawn
}

// Withdrawn says who took signatures off, when and why.
type Withdrawn struct {
	Who, Why string
	At       time.Time
}

// Line is an injection in run order.
type Line struct {
	batch.Entry
	File       string
	AcquiredAt *time.Time
	Trace      signal.Trace   // only of the injection that a report draws
	Further    []signal.Trace // of the method's further channels, in its order; empty ones where the injection has none
	Settings   []Setting      // what its file says of equipment and conditions
	// Conditions are what was recorded of its run, as pump pressure; only of the injection that a report draws.
	Conditions []signal.Trace
}

// Setting is one thing that was set, with its value.
type Setting struct{ Name, Value, Unit string }

// RecordLine is a change that a person made.
type RecordLine struct {
	Row            int64
	At             time.Time
	Who, What, Why string
}

// Layout names a report's design.
type Layout string

// The layouts that ship with Yugen.
const (
	WholeBatch   Layout = "batch"
	OneInjection Layout = "injection"
)

// Report is a laid-out report.
type Report struct {
	Title string
	Pages []*Page
	// Boxes are where blocks, columns and values stand, for marks that are never printed; Missing is what the pages show and is not there.
	Boxes   []Box
	Missing []Missing
	made    time.Time
}

// New lays out a report of a layout that ships with Yugen, or of a view. injectionID is needed by OneInjection only.
func New(layout Layout, in Input, injectionID string) (*Report, error) {
	if layout == OneInjection {
		for _, l := range in.Lines {
			if l.ID == injectionID && l.Trace.Len() == 0 {
				return nil, fmt.Errorf("report: there is no chromatogram of %s to print, since its reading was typed; the report of the batch has it", l.Name)
			}
		}
	}
	if l, ships := ShippedLayout(layout); ships {
		if in.Paper.Size != "" {
			l.Paper = in.Paper.Size
		}
		return Make(l, in, Subject{InjectionID: injectionID})
	}
	if layout == ViewLayout {
		if in.View == nil || len(in.View.Traces) == 0 {
			return nil, errors.New("report: the view shows nothing that this batch has")
		}
		w := newWriter(in, a4)
		w.title = in.View.Name
		w.view()
		w.footers()
		w.unlocking()
		w.commas()
		return &Report{Title: w.title, Pages: w.pages, made: in.MadeAt}, nil
	}
	return nil, fmt.Errorf("report: the layout %q is unknown; known are batch and injection", layout)
}

// ShippedLayout is the layout that the report of a batch or of one injection is made by.
func ShippedLayout(layout Layout) (layouts.Layout, bool) {
	name := map[Layout]string{WholeBatch: "whole-batch", OneInjection: "one-page"}[layout]
	if name == "" {
		return layouts.Layout{}, false
	}
	l, err := layouts.ShippedLayout(name)
	return l, err == nil
}

// open are the notices that nobody has dealt with.
func (in Input) open() []checks.Notice {
	var list []checks.Notice
	for _, n := range in.Result.Notices {
		if !slices.Contains(in.Settled, n.Key) {
			list = append(list, n)
		}
	}
	return list
}

func (in Input) targets() []compounds.Compound { return in.Method.Targets() }

// replicate is "2 of 3" for an injection that shares name and role with others, else "".
func (in Input) replicate(i int) string {
	return in.replicates()[i]
}

func (in Input) replicates() []string {
	return batch.Replicates(len(in.Lines), func(k int) batch.Entry { return in.Lines[k].Entry })
}
