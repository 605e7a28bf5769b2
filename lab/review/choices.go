package review

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/screening"
	"yugen/lab/change"
	"yugen/store"
)

// choices are points and levels of curves that were left out or kept, curves of another batch, and what was said of a screening.
func (l *looked) choices() {
	c := l.Now.Choices
	for _, id := range slices.Sorted(maps.Keys(c.LeftOut)) {
		for _, p := range c.LeftOut[id] {
			by := l.choosing(func(o batch.Choices) bool {
				return slices.ContainsFunc(o.LeftOut[id], func(q batch.LeftOut) bool { return q == p })
			})
			l.add(Item{Kind: Point, What: l.names[id] + ": point left out", Where: l.injected(p.InjectionID), InjectionID: p.InjectionID, CompoundID: id, Before: "in the curve", After: "left out", Why: p.Reason,
				Without: withChoices(func(o *batch.Choices) {
					o.LeftOut = maps.Clone(o.LeftOut)
					o.LeftOut[id] = slices.DeleteFunc(slices.Clone(o.LeftOut[id]), func(q batch.LeftOut) bool { return q == p })
				})}, by)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(c.Levels)) {
		for _, s := range c.Levels[id] {
			want := change.JSON(s)
			same := func(q batch.LevelState) bool { return change.JSON(q) == want }
			by := l.choosing(func(o batch.Choices) bool { return slices.ContainsFunc(o.Levels[id], same) })
			after := map[batch.LevelUse]string{batch.LevelLeftOut: "left out", batch.LevelKept: "kept as it was once"}[s.State]
			if s.From != "" {
				after += ", from " + s.From
			}
			l.add(Item{Kind: Level, What: fmt.Sprintf("%s: level %g", l.names[id], s.Level), CompoundID: id, Before: "as measured", After: after, Why: s.Reason,
				Without: withChoices(func(o *batch.Choices) {
					o.Levels = maps.Clone(o.Levels)
					o.Levels[id] = slices.DeleteFunc(slices.Clone(o.Levels[id]), same)
				})}, by)
		}
	}
	if c.Earlier != nil {
		by := l.choosing(func(o batch.Choices) bool { return o.Earlier != nil && o.Earlier.BatchID == c.Earlier.BatchID })
		l.add(Item{Kind: Borrowed, What: "Curves of " + c.Earlier.Batch, Before: "own standards", After: c.Earlier.Study + ", " + c.Earlier.Batch,
			Without: withChoices(func(o *batch.Choices) { o.Earlier = nil })}, by)
	}
	for _, id := range slices.Sorted(maps.Keys(c.Screened)) {
		for _, d := range c.Screened[id] {
			want := change.JSON(d)
			by := l.choosing(func(o batch.Choices) bool {
				return slices.ContainsFunc(o.Screened[id], func(q screening.Decision) bool { return change.JSON(q) == want })
			})
			l.add(Item{Kind: Screened, What: fmt.Sprintf("%s in %s", l.names[id], d.Sample), CompoundID: id, Before: "as the evidence says", After: strings.ReplaceAll(string(d.Word), "_", " "), Why: d.Why}, by)
		}
	}
}

// choosing is the newest row from which something holds of the choices of the batch, that did not hold before it.
func (l *looked) choosing(holds func(batch.Choices) bool) *changeOf {
	of := func(c *batch.Choices) batch.Choices {
		if c == nil {
			return batch.Choices{}
		}
		return *c
	}
	return l.newest(func(c changeOf) bool { return holds(of(c.after.Choices)) && !holds(of(c.before.Choices)) })
}

func withChoices(f func(*batch.Choices)) func(store.Batch) (store.Batch, error) {
	return func(b store.Batch) (store.Batch, error) {
		f(&b.Choices)
		return b, nil
	}
}
