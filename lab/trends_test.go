package lab

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/trends"
	"yugen/store"
)

// Over the batches of a study: points in order with those of this batch marked, limits of the batches before and never of this one, recovery by the method's
// limits, and a line only against what is no order.
func TestTrendsOverBatches(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	var id, compound string
	studies, err := l.Studies(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range studies {
		if s.Name == "Five days" {
			id = s.Batches[len(s.Batches)-1].ID
		}
	}
	p := must[Processed](t)(l.Process(ctx, id))
	compound = p.Batch.Version.Method.Compounds[0].ID
	asked := TrendsAsked{Quantities: []string{"retention_min", "area_s"}, CompoundID: compound, Of: string(batch.Standard), Along: AlongBatches, Rules: trends.Rules}
	got := must[Trends](t)(l.TrendsOf(ctx, id, asked))
	here, before := 0, []float64{}
	for _, point := range got.Charts[0].Points {
		if point.Here {
			here++
		} else {
			before = append(before, point.Value)
		}
	}
	limits, ok := trends.FromMovingRanges(before)
	c := got.Charts[0]
	if here == 0 || !ok || c.High == nil || math.Abs(*c.High-limits.High) > 1e-12 || !strings.Contains(c.Source, "of batches before") || c.Line != nil {
		t.Errorf("%d points here, limits %v by %q, by hand %g", here, c.High, c.Source, limits.High)
	}
	asked.Along = AlongTime
	if c := must[Trends](t)(l.TrendsOf(ctx, id, asked)).Charts[0]; c.Line == nil && len(c.Points) >= trends.LeastForLine {
		t.Error("against time there is no line")
	}
	asked.Along, asked.Quantities = "area_s", []string{"height"}
	if c := must[Trends](t)(l.TrendsOf(ctx, id, asked)).Charts[0]; c.Line == nil || c.Line.R2 < 0.9 {
		t.Errorf("height against area: %+v", c.Line)
	}
	for _, wrong := range []TrendsAsked{{}, {Quantities: []string{"name"}, Along: AlongRun}, {Quantities: []string{"area_s"}, Along: "mood"}, {Quantities: []string{"area_s"}, Along: AlongRun, Rules: []trends.Rule{"mood"}}, {Quantities: make([]string, 9), Along: AlongRun}} {
		if _, err := l.TrendsOf(ctx, id, wrong); !errors.Is(err, ErrRefused) {
			t.Errorf("%+v: %v", wrong, err)
		}
	}
}

// In one run the checks of the demo show the one that drifts, beyond the method's limits.
func TestTrendsOfTheRun(t *testing.T) {
	l, id := demo(t)
	p := must[Processed](t)(l.Process(t.Context(), id))
	drifting := ""
	for _, c := range p.Result.Checks {
		if c.Outside {
			drifting = c.CompoundID
		}
	}
	got := must[Trends](t)(l.TrendsOf(t.Context(), id, TrendsAsked{Quantities: []string{"recovery_percent"}, CompoundID: drifting, Of: string(batch.Check), Along: AlongRun, Rules: trends.Rules}))
	c := got.Charts[0]
	last := c.Points[len(c.Points)-1]
	if c.Source != "of the method" || len(last.Breaks) == 0 || last.Breaks[0] != trends.Beyond || !last.Here {
		t.Errorf("%s, the last check %+v", c.Source, last)
	}
}

// A batch that is older than the newest which are compared stands among those up to it: its own trends and limits never go without it.
func TestAnOldBatchIsComparedWithThoseBeforeIt(t *testing.T) {
	var list []store.Listing
	for k := range 10 {
		list = append(list, store.Listing{ID: fmt.Sprint(k)})
	}
	for id, want := range map[string]string{"9": "6789", "6": "6789", "5": "2345", "0": "0", "gone": "6789"} {
		got := ""
		for _, b := range newestWith(list, id, 4) {
			got += b.ID
		}
		if got != want {
			t.Errorf("with %s: %s, want %s", id, got, want)
		}
	}
	if got := newestWith(list[:2], "1", 4); len(got) != 2 {
		t.Errorf("of two: %v", got)
	}
}
