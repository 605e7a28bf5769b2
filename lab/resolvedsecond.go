package lab

import (
	"context"
	"fmt"
	"slices"

	"yugen/core/resolving"
	"yugen/store"
)

// SecondOpinion is a stretch resolved by the shift-tolerant model, held against what is shown.
type SecondOpinion struct {
	Components []SecondComponent `json:"components"` // compounds as they are shown
	Says       string            `json:"says"`
}

// SecondComponent is how far the two ways agree about a compound.
type SecondComponent struct {
	ApexMin     float64 `json:"apex_min"`
	Cosine      float64 `json:"cosine"`      // of the two spectra
	Correlation float64 `json:"correlation"` // of the amounts in the samples
}

// Two ways agree about a compound from here on.
const (
	sameSpectrum = 0.98
	sameAmounts  = 0.99
)

// SecondOpinionOf resolves a stretch by PARAFAC2 into as many components as are shown.
func (l *Lab) SecondOpinionOf(ctx context.Context, batchID string, place int) (SecondOpinion, error) {
	out := SecondOpinion{Components: []SecondComponent{}}
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return out, err
	}
	w, at, err := l.stretchAt(ctx, b, place)
	if err != nil {
		return out, err
	}
	first, err := l.pieceAt(ctx, b, w, at)
	if err != nil {
		return out, err
	}
	if first.err != "" || len(first.result.Components) == 0 {
		return out, fmt.Errorf("stretch %d has no components: %w", place+1, store.ErrNotFound)
	}
	stack, refused, err := l.stack(ctx, b, w, at.Stretch)
	if err != nil {
		return out, err
	}
	var second resolving.Result
	if refused == nil {
		second, refused = resolving.Tolerant(stack, resolving.Options{Compounds: len(first.result.Components)})
	}
	if refused != nil {
		return out, refuse("the shift-tolerant model does not answer here: %s", refused)
	}
	out.compare(first.result.Components, second.Components, w.samples)
	return out, nil
}

func (o *SecondOpinion) compare(shown, other []resolving.Component, samples int) {
	apart, used := 0, make([]bool, len(other))
	for _, c := range shown {
		best, most := -1, -1.0
		for k, d := range other {
			if v := resolving.Cosine(c.Spectrum, d.Spectrum); !used[k] && v > most {
				best, most = k, v
			}
		}
		if best < 0 {
			continue
		}
		used[best] = true
		if c.Background {
			continue
		}
		one := SecondComponent{c.ApexMin, most, correlationOf(c.Samples[:samples], other[best].Samples[:samples])}
		if one.Cosine < sameSpectrum || one.Correlation < sameAmounts {
			apart++
		}
		o.Components = append(o.Components, one)
	}
	switch n := len(o.Components); {
	case apart == 0:
		o.Says = "The shift-tolerant model comes to the same spectra and amounts."
	case apart == n:
		o.Says = "The shift-tolerant model comes to something else. Where compounds shift each on its own, it is the worse of the two."
	default:
		o.Says = fmt.Sprintf("The shift-tolerant model differs in %d of %d. Where compounds shift each on its own, it is the worse of the two.", apart, n)
	}
}

// correlationOf is Pearson's, of areas; 1 where they all are the same twice.
func correlationOf(a, b []resolving.Portion) float64 {
	area := func(list []resolving.Portion) (out []float64) {
		mean := 0.0
		for _, p := range list {
			mean += p.AreaS / float64(len(list))
		}
		for _, p := range list {
			out = append(out, p.AreaS-mean)
		}
		return out
	}
	x, y := area(a), area(b)
	if slices.Equal(x, y) {
		return 1
	}
	return resolving.Cosine(x, y)
}
