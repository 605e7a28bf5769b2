package batch

import (
	"context"
	"fmt"
	"math"
	"testing"

	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/signal"
)

// BenchmarkOneWeightOf300x30 is what a change of one curve's weight costs in a batch of 300 injections with 30 compounds.
func BenchmarkOneWeightOf300x30(b *testing.B) {
	m := NewMethod()
	m.Channels[0].Peaks.WidthMin = 0.1
	for k := range 30 {
		m.Compounds = append(m.Compounds, compounds.Compound{ID: fmt.Sprint("c", k), Name: fmt.Sprint("C", k), ExpectedMin: 1 + 0.5*float64(k), Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target})
	}
	var list []Injection
	for n := range 300 {
		role, level := Sample, (*float64)(nil)
		if n < 24 {
			role, level = Standard, ptr([]float64{1, 2, 5, 10, 20, 50, 100, 200}[n/3])
		}
		height := 40.0
		if level != nil {
			height = *level * (1 + 0.01*math.Sin(float64(n)))
		}
		y := make([]float64, 5000)
		for i := range y {
			for k := range 30 {
				if d := (float64(i)/300 - 1 - 0.5*float64(k)) / 0.05; math.Abs(d) < 6 {
					y[i] += height * math.Exp(-d*d/2)
				}
			}
		}
		tr, err := signal.NewUniform(0, 0.2, y)
		if err != nil {
			b.Fatal(err)
		}
		list = append(list, Injection{Entry: Entry{ID: fmt.Sprint(n), Name: fmt.Sprint("S", n/2), Role: role, Level: level, Dilution: 1, Factor: 1, Volume: ptr(50.0), Sample: ptr(0.2)}, Trace: tr, TraceHash: fmt.Sprint(n)})
	}
	cache := &Cache{}
	if _, err := Process(context.Background(), Input{Injections: list, Method: m}, cache); err != nil {
		b.Fatal(err)
	}
	n := 0
	for b.Loop() {
		n++
		m.Curves.Own = map[string]Own{"c3": {Weight: curves.Weights[n%3]}}
		if _, err := Process(context.Background(), Input{Injections: list, Method: m}, cache); err != nil {
			b.Fatal(err)
		}
	}
}
