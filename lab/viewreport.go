package lab

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/report"
	"yugen/store"
)

// viewOfLayout is the id of the view that a layout draws.
func viewOfLayout(layout string) (id string, is bool) {
	return strings.CutPrefix(layout, report.ViewLayout)
}

// withView adds to a report's inputs the view that its layout draws; other layouts need none.
func (l *Lab) withView(ctx context.Context, p Processed, in *report.Input, layout string) error {
	id, is := viewOfLayout(layout)
	if !is {
		return nil
	}
	list, err := l.Views(ctx, p.Batch.ID)
	if err != nil {
		return err
	}
	k := slices.IndexFunc(list, func(v KeptView) bool { return v.ID == id })
	if k < 0 {
		return fmt.Errorf("view %s: %w", id, store.ErrNotFound)
	}
	in.View, err = l.viewOf(ctx, p, list[k])
	return err
}

// viewOf draws a kept view of a batch together: the traces that it names and the batch has, treated as it says.
func (l *Lab) viewOf(ctx context.Context, p Processed, kept KeptView) (*report.View, error) {
	looked := kept.View.Looked
	v := &report.View{Name: kept.Name, Way: looked["mode"]}
	v.FromMin, _ = strconv.ParseFloat(looked["from"], 64) // what is no number is no stretch
	v.ToMin, _ = strconv.ParseFloat(looked["to"], 64)
	lines := shownLines(p.Batch, kept.View.Shown, v.Way)
	treatment := Treatment{LinedUp: looked["lined"], Heights: looked["heights"]}
	if less := kept.View.Less; less != nil {
		if k := lineNamed(p.Batch, *less); k >= 0 {
			treatment.Less = p.Batch.Injections[k].ID
		}
	}
	if treatment.LinedUp != "" && len(lines) > 0 {
		treatment.To = p.Batch.Injections[lines[0]].ID
	}
	c, err := l.comparison(ctx, p, looked["channel"], treatment)
	if err != nil {
		return nil, err
	}
	for _, k := range lines {
		in := p.Batch.Injections[k]
		s, err := l.signalOf(ctx, in, c.channel.Signal)
		if errors.Is(err, errNoSignal) {
			continue
		}
		if err != nil {
			return nil, err
		}
		tr, _ := c.treat(in, s.Trace)
		v.Unit = tr.Unit
		v.Traces = append(v.Traces, report.ViewTrace{Line: k, Trace: tr})
	}
	v.Done = treatment.words(p.Batch)
	return v, nil
}

// words say what is done to traces.
func (t Treatment) words(b store.Batch) string {
	name := func(id string) string {
		for _, c := range b.Version.Method.Compounds {
			if c.ID == id {
				return c.Name
			}
		}
		return id
	}
	var parts []string
	if t.Less != "" {
		in, err := injection(b, t.Less)
		if err == nil {
			parts = append(parts, "less "+in.Name)
		}
	}
	switch t.LinedUp {
	case "":
	case ByCorrelation:
		parts = append(parts, "lined up by correlation")
	default:
		parts = append(parts, "lined up on "+name(t.LinedUp))
	}
	switch t.Heights {
	case "":
	case ToTallest:
		parts = append(parts, "each to its tallest peak")
	case ToArea:
		parts = append(parts, "each to its area")
	default:
		parts = append(parts, "each to its "+name(t.Heights))
	}
	return strings.Join(parts, ", ")
}

// proposedShown is of how many samples a view that names nothing shows the first.
const proposedShown = 8

// shownLines are the lines of a batch that a view shows: those that it names, else what is proposed when nothing was chosen; from above it is all of them.
func shownLines(b store.Batch, shown []NamedInjection, way string) []int {
	var lines []int
	if way == report.AboveView {
		for k, in := range b.Injections {
			if in.Typed == nil {
				lines = append(lines, k)
			}
		}
		return lines
	}
	for _, n := range shown {
		if k := lineNamed(b, n); k >= 0 {
			lines = append(lines, k)
		}
	}
	if len(shown) > 0 {
		return lines
	}
	var standards []int
	seen := map[string]bool{}
	for k, in := range b.Injections {
		switch {
		case in.Typed != nil:
		case in.Role == batch.Standard:
			standards = append(standards, k)
		case in.Role == batch.Sample && !seen[in.Name] && len(seen) < proposedShown:
			seen[in.Name] = true
			lines = append(lines, k)
		}
	}
	if len(standards) > 0 {
		lines = append([]int{standards[len(standards)/2]}, lines...)
	}
	return lines
}

// lineNamed is the first line of a batch of that name and role, -1 where there is none.
func lineNamed(b store.Batch, n NamedInjection) int {
	return slices.IndexFunc(b.Injections, func(in store.Injection) bool {
		return in.Typed == nil && in.Name == n.Name && string(in.Role) == n.Role
	})
}
