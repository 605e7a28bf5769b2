package lab

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/lab/change"
	"yugen/report"
	"yugen/report/layouts"
	"yugen/store"
)

// KeptLayout is a layout that a batch can be reported by: one that ships, or one of its study.
type KeptLayout struct {
	ID      string         `json:"id"` // of one that ships its name
	Shipped bool           `json:"shipped"`
	Version int            `json:"version"`
	SavedBy string         `json:"saved_by"`
	SavedAt *time.Time     `json:"saved_at"`
	UsedAt  *time.Time     `json:"used_at"` // when this batch was last looked at with it
	Layout  layouts.Layout `json:"layout"`
}

// Layouts lists those of a batch: what it used last first, then those of its study, then those that ship.
func (l *Lab) Layouts(ctx context.Context, batchID string) ([]KeptLayout, error) {
	var kept []store.Layout
	var used map[string]time.Time
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		if err := t.HasBatch(batchID); err != nil {
			return err
		}
		if kept, err = t.Layouts(batchID); err != nil {
			return err
		}
		used, err = t.UsedLayouts(batchID)
		return err
	})
	if err != nil {
		return nil, err
	}
	list := []KeptLayout{}
	for _, k := range kept {
		one, err := readLayout(k)
		if err != nil {
			return nil, err
		}
		list = append(list, one)
	}
	for _, name := range layouts.Shipped {
		one, err := layouts.ShippedLayout(name)
		if err != nil {
			return nil, err
		}
		list = append(list, KeptLayout{ID: name, Shipped: true, Version: 1, Layout: one})
	}
	for k := range list {
		if at, was := used[list[k].ID]; was {
			list[k].UsedAt = &at
		}
	}
	slices.SortStableFunc(list, func(a, b KeptLayout) int {
		switch {
		case a.UsedAt == nil && b.UsedAt == nil:
			return 0
		case a.UsedAt == nil:
			return 1
		case b.UsedAt == nil:
			return -1
		}
		return b.UsedAt.Compare(*a.UsedAt)
	})
	return list, nil
}

func readLayout(k store.Layout) (KeptLayout, error) {
	one, err := layouts.Read([]byte(k.Document))
	if err != nil {
		return KeptLayout{}, fmt.Errorf("the layout %s cannot be read: %w", k.Name, err)
	}
	return KeptLayout{ID: k.ID, Version: k.Number, SavedBy: k.Author, SavedAt: &k.SavedAt, Layout: one}, nil
}

// layout is one that a batch can be reported by.
func (l *Lab) layout(ctx context.Context, batchID, id string) (KeptLayout, error) {
	list, err := l.Layouts(ctx, batchID)
	if err != nil {
		return KeptLayout{}, err
	}
	for _, k := range list {
		if k.ID == id {
			return k, nil
		}
	}
	return KeptLayout{}, fmt.Errorf("layout %s: %w", id, store.ErrNotFound)
}

// KeepLayout saves a layout with the study of a batch: a new one without an id, else the version after base.
func (l *Lab) KeepLayout(ctx context.Context, batchID, id string, base int, document []byte, who string) (KeptLayout, error) {
	one, err := layouts.Read(document)
	if err != nil {
		return KeptLayout{}, refuseAt("/layout", "%s", err)
	}
	if slices.Contains(layouts.Shipped, id) {
		return KeptLayout{}, refuse("a layout that ships with Yugen is not changed, only copied under another name")
	}
	one.Name = strings.TrimSpace(one.Name)
	var kept KeptLayout
	err = l.store.Write(ctx, func(t *store.Tx) error {
		given, number, err := t.PutLayout(batchID, id, one.Name, base, who, string(one.JSON()))
		if errors.Is(err, store.ErrTaken) {
			return refuseAt("/layout/name", "the study has another layout called %s", one.Name)
		}
		if err != nil {
			return err
		}
		if err := t.UseLayout(batchID, given); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: store.LayoutAction, Subject: one.Name, Why: fmt.Sprintf("version %d", number), Before: "{}", After: "{}"})
		kept = KeptLayout{ID: given, Version: number, SavedBy: who, Layout: one}
		return err
	})
	return kept, err
}

// PutLayoutAway takes a layout of the study of a batch off its list. Reports made by it stay, and its versions.
func (l *Lab) PutLayoutAway(ctx context.Context, batchID, id, who string) error {
	k, err := l.layout(ctx, batchID, id)
	if err != nil {
		return err
	}
	if k.Shipped {
		return refuse("a layout that ships with Yugen stays")
	}
	return l.store.Write(ctx, func(t *store.Tx) error {
		if err := t.PutLayoutAway(batchID, id); err != nil {
			return err
		}
		_, err := t.Record(store.Change{Who: who, BatchID: batchID, Action: store.LayoutAction, Subject: k.Layout.Name, Why: "put away", Before: "{}", After: "{}"})
		return err
	})
}

// UseLayout notes that a batch is looked at with a layout.
func (l *Lab) UseLayout(ctx context.Context, batchID, id string) error {
	if _, err := l.layout(ctx, batchID, id); err != nil {
		return err
	}
	return l.store.Write(ctx, func(t *store.Tx) error { return t.UseLayout(batchID, id) })
}

// Drawn are the pages of a layout, with where everything stands on them.
type Drawn struct {
	Pages    []string         `json:"pages"` // SVG
	WidthMM  float64          `json:"width_mm"`
	HeightMM float64          `json:"height_mm"`
	Boxes    []report.Box     `json:"boxes"`
	Missing  []report.Missing `json:"missing"`
	Inputs   string           `json:"inputs_hash"`
}

// DrawLayout draws a layout, kept or not, with a batch.
func (l *Lab) DrawLayout(ctx context.Context, batchID string, document []byte, injectionID, sample string) (Drawn, error) {
	of := report.Subject{InjectionID: injectionID, Sample: sample}
	one, err := layouts.Read(document)
	if err != nil {
		return Drawn{}, refuseAt("/layout", "%s", err)
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return Drawn{}, err
	}
	in, err := l.inputFor(ctx, p, one, of)
	if err != nil {
		return Drawn{}, err
	}
	r, err := report.Make(one, in, of)
	if err != nil {
		return Drawn{}, refuse("%s", strings.TrimPrefix(err.Error(), "report: "))
	}
	wide, high := one.SheetMM()
	d := Drawn{Pages: r.SVG(), WidthMM: wide, HeightMM: high, Boxes: r.Boxes, Missing: r.Missing, Inputs: p.InputsHash}
	if d.Missing == nil {
		d.Missing = []report.Missing{}
	}
	return d, nil
}

// inputFor gathers what a layout needs for a subject: traces only of those that it draws, the record only where it stands on the page.
func (l *Lab) inputFor(ctx context.Context, p Processed, one layouts.Layout, of report.Subject) (report.Input, error) {
	in, err := l.reportOf(ctx, p, "", "")
	if err != nil {
		return in, err
	}
	if err := l.withTraces(ctx, p, &in, one, of); err != nil {
		return in, err
	}
	if one.Has(layouts.Resolved) {
		if in.Resolved, err = l.resolvedTable(ctx, p.Batch.ID); err != nil {
			return in, err
		}
	}
	if one.Has(layouts.Record) {
		in.Record, err = l.recordLines(ctx, p.Batch.ID)
	}
	return in, err
}

// withTraces reads the traces and conditions that a layout draws.
func (l *Lab) withTraces(ctx context.Context, p Processed, in *report.Input, one layouts.Layout, of report.Subject) error {
	if !one.Has(layouts.Chromatogram) && !one.Has(layouts.Peaks) {
		return nil
	}
	drawn := map[string]bool{of.InjectionID: true}
	for _, r := range p.Result.Samples {
		if r.Name == of.Sample {
			for _, id := range r.InjectionIDs {
				drawn[id] = true
			}
		}
	}
	lastBlank := ""
	for k, i := range p.Batch.Injections {
		switch {
		case one.Each == layouts.EachBatch:
			drawn[i.ID] = true
		case drawn[i.ID]:
			drawn[lastBlank] = lastBlank != "" && one.Behind("blank") || drawn[lastBlank]
			for _, other := range p.Batch.Injections {
				if one.Behind("replicates") && other.Name == i.Name && other.Role == i.Role {
					drawn[other.ID] = true
				}
			}
		}
		if p.Batch.Injections[k].Role == batch.Blank {
			lastBlank = i.ID
		}
	}
	conditions := one.Each != layouts.EachBatch
	for k, i := range p.Batch.Injections {
		if !drawn[i.ID] || i.Typed != nil {
			continue
		}
		if err := l.traceOf(ctx, i, in.Method, &in.Lines[k], conditions); err != nil {
			return err
		}
	}
	return nil
}

// traceOf reads the traces of a line.
func (l *Lab) traceOf(ctx context.Context, i store.Injection, m batch.Method, line *report.Line, conditions bool) error {
	for k, c := range m.Channels {
		if k > 0 && !conditions { // in little only the first is drawn
			break
		}
		s, err := l.signalOf(ctx, i, c.Signal)
		if err != nil && !errors.Is(err, errNoSignal) {
			return err
		}
		if k == 0 {
			line.Trace = s.Trace
		} else {
			line.Further = append(line.Further, s.Trace)
		}
	}
	if !conditions {
		return nil
	}
	var err error
	line.Conditions, err = l.conditionsOf(ctx, i)
	return err
}

// maxRecordLines bounds the record on a page.
const maxRecordLines = 500

// recordLines are what people changed in a batch, as a page has it.
func (l *Lab) recordLines(ctx context.Context, batchID string) ([]report.RecordLine, error) {
	var rows []store.Change
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		rows, err = t.Changes(batchID, maxRecordLines)
		return err
	})
	var list []report.RecordLine
	for _, r := range slices.Backward(rows) {
		if r.Action == "import" || slices.Contains([]string{change.ReportAction, store.LayoutAction, store.SetAction, store.DocumentAction, store.LibraryAction, store.ReviewAction, store.AwayAction, store.ExportAction, store.RefusedAction, store.BenchAction}, r.Action) {
			continue
		}
		list = append(list, report.RecordLine{Row: r.Seq, At: r.At, Who: r.Who, What: r.Action + ": " + r.Subject, Why: r.Why})
	}
	return list, err
}
