package lab

import (
	"context"
	"fmt"
	"slices"

	"yugen/core/resolving"
	"yugen/store"
)

// resolvingAsked is what a person said of the resolving of a batch.
type resolvingAsked struct {
	Numbers map[string]int `json:"numbers,omitempty"` // how many compounds a stretch holds
	// Stretches are those that were set by hand; none are those that are proposed.
	Stretches []resolving.Stretch `json:"stretches,omitempty"`
	// Aside are components that are left out of the table, by stretch and apex.
	Aside []string `json:"aside,omitempty"`
}

// asideKey names a component by its stretch and time, which stay when others come or go.
func asideKey(s resolving.Stretch, c resolving.Component) string {
	return fmt.Sprintf("%s %.2f", stretchKey(s), c.ApexMin)
}

func stretchKey(s resolving.Stretch) string { return fmt.Sprintf("%.3f-%.3f", s.FromMin, s.ToMin) }

func (l *Lab) resolvingAsked(ctx context.Context, b store.Batch) (resolvingAsked, error) {
	list, hold, err := documents[resolvingAsked](ctx, l, b.ID, store.Resolving)
	for k := range list {
		if list[k].Name == b.ID {
			return hold[k], err
		}
	}
	return resolvingAsked{}, err
}

// cuts are the stretches of a batch: those that a person set, else those that are proposed.
func (a resolvingAsked) cuts(w *wholeBatch) []resolving.Stretch {
	if len(a.Stretches) > 0 {
		return a.Stretches
	}
	return w.stretches
}

func pieceKey(s resolving.Stretch, given int) string {
	return fmt.Sprintf("%s %d", stretchKey(s), given)
}

// GiveNumber says how many compounds a stretch holds; 0 lets it be found. The study keeps it.
func (l *Lab) GiveNumber(ctx context.Context, batchID string, place, number int, who string) (ResolvedDetail, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return ResolvedDetail{}, err
	}
	_, at, err := l.stretchAt(ctx, b, place)
	if err != nil {
		return ResolvedDetail{}, err
	}
	if number < 0 || number > resolving.Most {
		return ResolvedDetail{}, refuse("between 1 and %d compounds are resolved in a stretch, not %d", resolving.Most, number)
	}
	key := stretchKey(at.Stretch)
	var now resolvingAsked
	what := fmt.Sprintf("%d compounds from %s min", number, key)
	if number == 0 {
		what = fmt.Sprintf("the number of compounds from %s min is found again", key)
	}
	err = changeDocument(ctx, l, batchID, store.Document{Kind: store.Resolving, Name: batchID, Author: who}, what, &now, func(a *resolvingAsked) error {
		if a.Numbers == nil {
			a.Numbers = map[string]int{}
		}
		a.Numbers[key] = number
		if number == 0 {
			delete(a.Numbers, key)
		}
		return nil
	})
	if err != nil {
		return ResolvedDetail{}, err
	}
	return l.ResolvedStretchOf(ctx, batchID, place)
}

// maxStretches bounds those of a run.
const maxStretches = 400

// SetStretches says where the run is cut: in order of time, none over another. None at all go back to those that are proposed. What was resolved of a stretch that
// stays is not resolved again.
func (l *Lab) SetStretches(ctx context.Context, batchID string, list []resolving.Stretch, who string) (WholeBatch, error) {
	if len(list) > maxStretches {
		return WholeBatch{}, refuse("a run is cut into at most %d stretches, not %d", maxStretches, len(list))
	}
	for k, s := range list {
		switch {
		case !(s.FromMin >= 0 && s.FromMin < s.ToMin && s.ToMin < 1e5):
			return WholeBatch{}, refuse("stretch %d from %g to %g min is none", k+1, s.FromMin, s.ToMin)
		case k > 0 && s.FromMin < list[k-1].ToMin-1e-9:
			return WholeBatch{}, refuse("stretch %d begins at %.3f min, before the one before it ends", k+1, s.FromMin)
		}
	}
	what := fmt.Sprintf("the run is cut into %d stretches", len(list))
	if len(list) == 0 {
		what = "the run is cut as proposed"
	}
	var now resolvingAsked
	err := changeDocument(ctx, l, batchID, store.Document{Kind: store.Resolving, Name: batchID, Author: who}, what, &now, func(a *resolvingAsked) error {
		a.Stretches = list
		return nil
	})
	if err != nil {
		return WholeBatch{}, err
	}
	return l.Resolving(ctx, batchID, 1)
}

// PutComponentAside leaves a component out of the table, or has it back.
func (l *Lab) PutComponentAside(ctx context.Context, batchID string, place, component int, aside bool, who string) (WholeBatch, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return WholeBatch{}, err
	}
	w, at, err := l.stretchAt(ctx, b, place)
	if err != nil {
		return WholeBatch{}, err
	}
	piece, err := l.pieceAt(ctx, b, w, at)
	if err != nil {
		return WholeBatch{}, err
	}
	if component < 0 || component >= len(piece.result.Components) {
		return WholeBatch{}, fmt.Errorf("component %d: %w", component+1, store.ErrNotFound)
	}
	key := asideKey(at.Stretch, piece.result.Components[component])
	what := fmt.Sprintf("the component at %.2f min is left out", piece.result.Components[component].ApexMin)
	if !aside {
		what = fmt.Sprintf("the component at %.2f min is had back", piece.result.Components[component].ApexMin)
	}
	var now resolvingAsked
	err = changeDocument(ctx, l, batchID, store.Document{Kind: store.Resolving, Name: batchID, Author: who}, what, &now, func(a *resolvingAsked) error {
		a.Aside = slices.DeleteFunc(a.Aside, func(k string) bool { return k == key })
		if aside {
			a.Aside = append(a.Aside, key)
		}
		return nil
	})
	if err != nil {
		return WholeBatch{}, err
	}
	return l.Resolving(ctx, batchID, 1)
}
