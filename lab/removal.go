package lab

import (
	"context"
	"math"
	"slices"

	"yugen/lab/change"
	"yugen/store"
)

// Consequence is what a removal would do to the results that stay.
type Consequence struct {
	Curves int `json:"curves"` // that would be made of other points, or not at all
	Moved  int `json:"moved"`  // means that would become others
	Lost   int `json:"lost"`   // that would be there no longer
	// Most is the largest change of a mean; null where none moves.
	Most *Effect `json:"most"`
}

// TryRemoval says what taking an injection out of its batch would do to the others. Nothing is written.
func (l *Lab) TryRemoval(ctx context.Context, batchID, injectionID string) (Consequence, error) {
	var out Consequence
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	if _, err := injection(now.Batch, injectionID); err != nil {
		return out, err
	}
	without := now.Batch
	without.Injections = slices.DeleteFunc(slices.Clone(without.Injections), func(in store.Injection) bool { return in.ID == injectionID })
	after, err := l.with(ctx, without, now.Batch.Version.Method)
	if err != nil {
		return out, err
	}
	for i, c := range now.Result.Curves {
		if i >= len(after.Curves) || change.JSON(c.Fit) != change.JSON(after.Curves[i].Fit) {
			out.Curves++
		}
	}
	for _, row := range now.Result.Samples {
		if slices.Contains(row.InjectionIDs, injectionID) {
			continue // it is what is removed
		}
		for _, other := range after.Samples {
			if !slices.Equal(other.InjectionIDs, row.InjectionIDs) {
				continue
			}
			for id, v := range row.Values {
				before, is := mean(v), mean(other.Values[id])
				switch {
				case before == nil:
				case is == nil:
					out.Lost++
				case *is != *before:
					out.Moved++
					out.most(Effect{Name: row.Name, CompoundID: id, Before: before, After: is})
				}
			}
		}
	}
	return out, nil
}

func (c *Consequence) most(e Effect) {
	if *e.Before == 0 {
		return
	}
	percent := 100 * (*e.After - *e.Before) / math.Abs(*e.Before)
	e.Percent = &percent
	if c.Most == nil || math.Abs(percent) > math.Abs(*c.Most.Percent) || math.Abs(percent) == math.Abs(*c.Most.Percent) && e.Name+e.CompoundID < c.Most.Name+c.Most.CompoundID {
		c.Most = &e
	}
}
