package main

import (
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"yugen/core/resolving"
	"yugen/core/spectra"
)

// crowdedStretch is a stretch of so many samples with four compounds that overlap, and bleed.
func crowdedStretch(samples, scans, places int) resolving.Stack {
	r := rand.New(rand.NewPCG(4, 60))
	const compounds = 4
	pure := make([][]float64, compounds+1)
	for k := range pure {
		pure[k] = make([]float64, places)
		for range 20 {
			pure[k][r.IntN(places)] += math.Pow(r.Float64(), 3)
		}
	}
	s := resolving.Stack{Kind: spectra.Mass}
	for j := range places {
		s.Axis = append(s.Axis, 35+float64(j))
	}
	for n := range samples {
		one := resolving.Sample{Name: fmt.Sprint(n + 1)}
		var amount, at [compounds]float64
		for k := range amount {
			amount[k], at[k] = math.Exp(3*r.Float64()), float64(scans)/2+(float64(k)-1.5)*14+2*r.NormFloat64()
		}
		for i := range scans {
			row := make([]float64, places)
			for j := range row {
				v := 30 * pure[compounds][j] * (0.3 + float64(i)/float64(scans))
				for k := range amount {
					d := (float64(i) - at[k]) / 7
					v += 300 * amount[k] * math.Exp(-d*d/2) * pure[k][j]
				}
				row[j] = math.Max(0, math.Round(v+3+math.Sqrt(v+3)*r.NormFloat64()))
			}
			one.TimesS, one.Values = append(one.TimesS, 300+0.25*float64(i)), append(one.Values, row)
		}
		s.Samples = append(s.Samples, one)
	}
	return s
}

// measureResolving measures one large stretch, with the number of compounds given and found.
func measureResolving(row func(string, time.Duration, time.Duration)) error {
	s := crowdedStretch(60, 200, 266)
	for _, asked := range []struct {
		what   string
		budget time.Duration
		given  int
	}{{"resolve 60 samples × 200 scans × 266 m/z, 4 given", time.Second, 4}, {"the same, the number found", 2500 * time.Millisecond, 0}} {
		d, err := best(2, func() error {
			r, err := resolving.Resolve(s, resolving.Options{Compounds: asked.given})
			if err == nil && len(r.Components) < 4 {
				err = fmt.Errorf("%d components are found", len(r.Components))
			}
			return err
		})
		if err != nil {
			return err
		}
		row(asked.what, asked.budget, d)
	}
	stretch := crowdedStretch(60, 90, 266)
	d, err := best(1, func() error {
		for range 40 {
			if _, err := resolving.Resolve(stretch, resolving.Options{}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	row("resolve 40 stretches of 60 samples × 90 scans × 266 m/z, numbers found", 100*time.Second, d)
	return nil
}
