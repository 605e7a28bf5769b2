package lab

import (
	"context"
	"math"

	"yugen/core/peaks"
)

// Silhouette is an injection drawn small: its height above the lowest signal nearby, over equal stretches of the run.
type Silhouette struct {
	InjectionID string
	Heights     []float64
}

// Silhouettes are those of all injections of a batch. Stretches that the method leaves out are flat.
func (l *Lab) Silhouettes(ctx context.Context, batchID string, stretches int) ([]Silhouette, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list := make([]Silhouette, len(b.Injections))
	for i, in := range b.Injections {
		if in.Typed != nil {
			list[i] = Silhouette{in.ID, make([]float64, stretches)}
			continue
		}
		s, err := l.signalOf(ctx, in, b.Version.Method.Channels[0].Signal)
		if err != nil {
			return nil, err
		}
		tr := s.Trace
		low, high := make([]float64, stretches), make([]float64, stretches)
		for k := range stretches {
			low[k], high[k] = math.Inf(1), math.Inf(-1)
			for j := k * tr.Len() / stretches; j < max((k+1)*tr.Len()/stretches, k*tr.Len()/stretches+1); j++ {
				low[k], high[k] = math.Min(low[k], tr.Values[j]), math.Max(high[k], tr.Values[j])
			}
		}
		heights := make([]float64, stretches)
		for k := range heights {
			at := (tr.StartS + (float64(k)+0.5)/float64(stretches)*(tr.EndS()-tr.StartS)) / 60
			if !leftOut(at, b.Version.Method.Channels[0].Peaks.TimeRules) {
				base := low[k]
				for n := max(0, k-stretches/8); n < min(stretches, k+stretches/8); n++ {
					base = math.Min(base, low[n])
				}
				heights[k] = math.Round(1000*(high[k]-base)) / 1000
			}
		}
		list[i] = Silhouette{in.ID, heights}
	}
	return list, nil
}

func leftOut(atMin float64, rules []peaks.TimeRule) bool {
	for _, r := range rules {
		if r.Kind == peaks.LeaveOut && atMin >= r.FromMin && atMin <= r.ToMin {
			return true
		}
	}
	return false
}
