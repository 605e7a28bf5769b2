// Command measure measures the budgets of the house and prints them beside what was measured, with the time of a plain reference
// loop on the same machine, so that figures of different machines can be compared.
package main

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"time"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/core/signal"
	"yugen/lab"
	"yugen/lab/taking"
	"yugen/report"
	"yugen/store"
)

func main() {
	if err := measure(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// best is the shortest of n runs: the one least disturbed.
func best(n int, f func() error) (time.Duration, error) {
	least := time.Duration(math.MaxInt64)
	for range n {
		start := time.Now()
		if err := f(); err != nil {
			return 0, err
		}
		least = min(least, time.Since(start))
	}
	return least, nil
}

// smoothThrice is a loop that only smooths, by plain means over windows of as many samples as the filters have.
func smoothThrice(y []float64) error {
	for _, half := range []int{37, 75, 150} {
		out := make([]float64, len(y))
		for i := half; i < len(y)-half; i++ {
			sum := 0.0
			for _, v := range y[i-half : i+half+1] {
				sum += v
			}
			out[i] = sum / float64(2*half+1)
		}
		if out[len(out)/2] == 0 {
			return fmt.Errorf("measure: the smoothing loop was not run")
		}
	}
	return nil
}

// reference is a plain loop over 36 000 points, ten times: multiply and add.
func reference() error {
	y := make([]float64, 36000)
	sum := 0.0
	for k := range 10 {
		for i := range y {
			y[i] = float64(i%97)*1.0001 + float64(k)
			sum += y[i] * y[i]
		}
	}
	if sum == 0 {
		return fmt.Errorf("measure: the reference loop was not run")
	}
	return nil
}

func crowded() (signal.Trace, error) {
	rng := rand.New(rand.NewPCG(1, 2))
	y := make([]float64, 36000)
	for k := range 300 {
		c, h := 60+float64(k)*119, math.Pow(10, 1+3*rng.Float64())
		for i := max(0, int(c)-200); i < min(len(y), int(c)+200); i++ {
			d := (float64(i) - c) / 20
			y[i] += h * math.Exp(-d*d/2)
		}
	}
	for i := range y {
		y[i] += 0.5 * rng.NormFloat64()
	}
	return signal.NewUniform(0, 0.1, y)
}

func measure(ctx context.Context) error {
	loop, err := best(50, reference)
	if err != nil {
		return err
	}
	fmt.Printf("reference loop %.3f ms, %d cores\n\n%-58s %10s %10s %12s\n", ms(loop), runtime.GOMAXPROCS(0), "what", "budget", "measured", "× reference")
	row := func(what string, budget, got time.Duration) {
		fmt.Printf("%-58s %7.0f ms %7.1f ms %12.1f\n", what, ms(budget), ms(got), float64(got)/float64(loop))
	}
	tr, err := crowded()
	if err != nil {
		return err
	}
	d, err := best(20, func() error { _, err := peaks.Find(tr, peaks.Settings{WidthMin: 0.078}, nil); return err })
	if err != nil {
		return err
	}
	row("detect, split, measure 36 000 points, 300 peaks", 5*time.Millisecond, d)
	smoothed, err := best(20, func() error { return smoothThrice(tr.Values) })
	if err != nil {
		return err
	}
	fmt.Printf("%-58s %10s %10.1f\n", "  as a ratio to smoothing the trace three times", "2", float64(d)/float64(smoothed))

	injections, m := large()
	d, err = best(1, func() error {
		_, err := batch.Process(ctx, batch.Input{Injections: injections, Method: m}, nil)
		return err
	})
	if err != nil {
		return err
	}
	row("process 300 injections of 18 000 points × 30 compounds, cold", 5*time.Second, d)
	var cache batch.Cache
	if _, err := batch.Process(ctx, batch.Input{Injections: injections, Method: m}, &cache); err != nil {
		return err
	}
	d, err = best(3, func() error {
		m.Curves.Own = map[string]batch.Own{"c0": {Weight: curves.PerX2}}
		_, err := batch.Process(ctx, batch.Input{Injections: injections, Method: m}, &cache)
		return err
	})
	if err != nil {
		return err
	}
	row("the same after a change of one curve's weight", 300*time.Millisecond, d)
	if err := measureLibrary(row); err != nil {
		return err
	}
	if err := measureResolving(row); err != nil {
		return err
	}
	if err := measureSpectra(ctx, row); err != nil {
		return err
	}
	return measureLab(ctx, row)
}

// measureLab measures what needs a database: import, report, start, memory.
func measureLab(ctx context.Context, row func(string, time.Duration, time.Duration)) error {
	dir, err := os.MkdirTemp("", "yugen-measure")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(ctx, filepath.Join(dir, "data"))
	if err != nil {
		return err
	}
	l := lab.New(s)
	id, err := l.NewBatch(ctx, "Measure", "300 files", "Method", bench.TeaMethod(), "measure")
	if err != nil {
		return err
	}
	d, err := best(1, func() error {
		for n := uint64(0); n < 7; n++ {
			study, err := bench.TeaAssay(1000 + n)
			if err != nil {
				return err
			}
			for k, f := range study.Files {
				if int(n)*len(study.Files)+k >= 300 {
					return nil
				}
				if out, err := l.Import(ctx, id, fmt.Sprintf("%d-%s", n, f.Name), f.Data, "measure"); err != nil || out.Status != taking.Added {
					return fmt.Errorf("import: %v %w", out, err)
				}
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	row("import 300 ANDI files of 10 801 points (and simulate them)", 10*time.Second, d)
	if d, err = best(1, func() error { _, err := l.Process(ctx, id); return err }); err != nil {
		return err
	}
	row("open a batch of 300: process and keep the result", time.Second, d)
	if d, err = best(1, func() error { _, err := lab.New(s).Process(ctx, id); return err }); err != nil {
		return err
	}
	row("the same from the kept result", 500*time.Millisecond, d)
	demo, err := l.LoadDemo(ctx, filepath.Join(dir, "demo"))
	if err != nil {
		return err
	}
	d, err = best(3, func() error {
		_, err := l.Document(ctx, demo, "report.pdf", string(report.WholeBatch), "")
		return err
	})
	if err != nil {
		return err
	}
	row("PDF for the demo batch of 47", 3*time.Second, d)
	if err := measurePages(ctx, l, demo, id, row); err != nil {
		return err
	}
	if err := measureCrowd(ctx, l, row); err != nil {
		return err
	}
	s.Close()
	d, err = best(3, func() error {
		again, err := store.Open(ctx, filepath.Join(dir, "data"))
		if err != nil {
			return err
		}
		defer again.Close()
		_, err = lab.New(again).Batch(ctx, demo)
		return err
	})
	if err != nil {
		return err
	}
	row("start to ready with existing data", 500*time.Millisecond, d)
	var memory runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&memory)
	fmt.Printf("%-58s %7d MB %7d MB\n", "memory after all this", 500, memory.HeapAlloc>>20)
	return nil
}

// large is a batch of 300 injections with 30 compounds.
func large() ([]batch.Injection, batch.Method) {
	rng := rand.New(rand.NewPCG(3, 4))
	m := batch.NewMethod()
	m.Channels[0].Peaks.WidthMin = 0.1
	for c := range 30 {
		m.Compounds = append(m.Compounds, compounds.Compound{ID: fmt.Sprintf("c%d", c), Name: fmt.Sprintf("Compound %d", c), ExpectedMin: 2 + float64(c)*0.9, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target})
	}
	var list []batch.Injection
	for n := range 300 {
		level := float64(1 + n%10*10)
		y := make([]float64, 18000)
		for c := range 30 {
			centre := (2 + float64(c)*0.9) * 600
			for i := max(0, int(centre)-200); i < min(len(y), int(centre)+200); i++ {
				d := (float64(i) - centre) / 25
				y[i] += level * math.Exp(-d*d/2)
			}
		}
		for i := range y {
			y[i] += 0.02 * rng.NormFloat64()
		}
		tr, err := signal.NewUniform(0, 0.1, y)
		if err != nil {
			panic(err) // the trace is our own
		}
		role := batch.Standard
		if n >= 60 {
			role = batch.Sample
		}
		list = append(list, batch.Injection{Entry: batch.Entry{ID: fmt.Sprint(n), Name: fmt.Sprint(n), Role: role, Level: &level, Dilution: 1, Factor: 1}, Trace: tr, TraceHash: fmt.Sprint(n)})
	}
	return list, m
}

func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }
