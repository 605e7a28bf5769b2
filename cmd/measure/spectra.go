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

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/mzml"
	"yugen/lab"
	"yugen/lab/taking"
	"yugen/store"
)

// The batch of spectra that is measured: so many injections of so many scans.
const (
	spectraInjections = 300
	spectraScans      = 3600
	spectraLines      = 40
)

// scansRun is a run of mass scans: lines that come and go, with noise; the same seed gives the same.
func scansRun(seed uint64, scans, lines int) spectra.Run {
	r := rand.New(rand.NewPCG(seed, 7))
	run := spectra.Run{About: spectra.About{Kind: spectra.Mass, Level: 1, Unit: "counts"}}
	for i := range scans {
		s := spectra.Scan{TimeS: float64(i) * 0.5, Axis: make([]float64, lines), Values: make([]float64, lines)}
		for k := range lines {
			d := (float64(i) - float64((k*97)%scans)) / 12
			s.Axis[k] = 40 + float64(k)*6 + 0.05*r.Float64()
			s.Values[k] = math.Round(20 + 30*r.Float64() + 1e5*math.Exp(-d*d/2))
		}
		run.Scans = append(run.Scans, s)
	}
	return run
}

// mapRun is a run of a diode array.
func mapRun(scans, wavelengths int) spectra.Run {
	r := rand.New(rand.NewPCG(1, 8))
	run := spectra.Run{About: spectra.About{Kind: spectra.Wavelength, Unit: "mAU"}}
	axis := make([]float64, wavelengths)
	for k := range axis {
		axis[k] = 200 + 2*float64(k)
	}
	for i := range scans {
		s := spectra.Scan{TimeS: float64(i) * 0.2, Axis: axis, Values: make([]float64, wavelengths)}
		for k := range axis {
			d, w := (float64(i)-1800)/30, (float64(k)-60)/20
			s.Values[k] = math.Round(100*(900*math.Exp(-d*d/2-w*w/2)+0.1*r.NormFloat64())) / 100
		}
		run.Scans = append(run.Scans, s)
	}
	return run
}

// measureSpectra measures what is asked of spectra: a large file to the first picture, one ion over a large batch, a map, and the memory that all takes.
func measureSpectra(ctx context.Context, row func(string, time.Duration, time.Duration)) error {
	dir, err := os.MkdirTemp("", "yugen-spectra")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(ctx, filepath.Join(dir, "data"))
	if err != nil {
		return err
	}
	defer s.Close()
	l := lab.New(s)
	defer l.Close()
	if err := measureLargeFile(ctx, l, row); err != nil {
		return err
	}
	if err := measureMap(ctx, l, row); err != nil {
		return err
	}
	id, err := l.NewBatch(ctx, "Spectra", "300 runs", "Ions", batch.NewMethod(), "measure")
	if err != nil {
		return err
	}
	took, err := best(1, func() error {
		for k := range spectraInjections {
			if err := take(ctx, l, id, fmt.Sprintf("run-%03d.mzML", k), scansRun(uint64(k+1), spectraScans, spectraLines)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	row("take in 300 mzML of 3600 scans (and simulate them)", 300*time.Second, took)
	b, err := l.Batch(ctx, id)
	if err != nil {
		return err
	}
	fresh := lab.New(s)
	ion := channels.Signal{Kind: channels.Ions, Places: []channels.Place{{At: 100, Tolerance: 0.3}}}
	all := func() error {
		for _, in := range b.Injections {
			if _, err := fresh.TraceOf(ctx, id, in.ID, lab.Asked{Derived: &ion}); err != nil {
				return err
			}
		}
		return nil
	}
	for _, pass := range []struct {
		what   string
		budget time.Duration
	}{{"an ion over 300 injections × 3600 scans, cold", time.Second}, {"the same, warm", 100 * time.Millisecond}} {
		d, err := best(1, all)
		if err != nil {
			return err
		}
		row(pass.what, pass.budget, d)
	}
	runtime.GC()
	var memory runtime.MemStats
	runtime.ReadMemStats(&memory)
	fmt.Printf("%-58s %7d MB %7d MB\n", "memory that the program holds after all this", 1000, memory.Sys>>20)
	return nil
}

func take(ctx context.Context, l *lab.Lab, id, name string, run spectra.Run) error {
	data, err := mzml.Write(formats.File{Spectra: []spectra.Run{run}})
	if err != nil {
		return err
	}
	out, err := l.Import(ctx, id, name, data, "measure")
	if err != nil || out.Status != taking.Added {
		return fmt.Errorf("import: %v %w", out, err)
	}
	return nil
}

// measureLargeFile looks at an mzML of some 100 MB, up to the silhouette that is its first picture, and takes it in.
func measureLargeFile(ctx context.Context, l *lab.Lab, row func(string, time.Duration, time.Duration)) error {
	id, err := l.NewBatch(ctx, "Spectra", "One large", "Ions", batch.NewMethod(), "measure")
	if err != nil {
		return err
	}
	data, err := mzml.Write(formats.File{Spectra: []spectra.Run{scansRun(9, 9000, 900)}})
	if err != nil {
		return err
	}
	d, err := best(3, func() error {
		seen, err := taking.Glance("large.mzML", taking.InMemory(data), "measure")
		if err == nil && len(taking.SilhouetteOf(seen.Decoded.Traces[0])) == 0 {
			err = fmt.Errorf("there is no picture")
		}
		return err
	})
	if err != nil {
		return err
	}
	row(fmt.Sprintf("an mzML of %d MB to its first picture", len(data)>>20), 2*time.Second, d)
	d, err = best(1, func() error {
		_, err := l.Import(ctx, id, "large.mzML", data, "measure")
		return err
	})
	row("  and until all of it is kept", 10*time.Second, d)
	return err
}

func measureMap(ctx context.Context, l *lab.Lab, row func(string, time.Duration, time.Duration)) error {
	id, err := l.NewBatch(ctx, "Spectra", "Array", "Wavelengths", batch.NewMethod(), "measure")
	if err != nil {
		return err
	}
	if err := take(ctx, l, id, "array.mzML", mapRun(3600, 200)); err != nil {
		return err
	}
	b, err := l.Batch(ctx, id)
	if err != nil {
		return err
	}
	d, err := best(3, func() error { _, err := l.MapOf(ctx, id, b.Injections[0].ID); return err })
	if err != nil {
		return err
	}
	row("a map of 3600 × 200", 200*time.Millisecond, d)
	return nil
}
