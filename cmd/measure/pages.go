package main

import (
	"context"
	"fmt"
	"runtime"
	"time"

	"yugen/core/batch"
	"yugen/lab"
	"yugen/report"
	"yugen/report/layouts"
)

// measurePages measures the drawing of layouts, many reports at once, and fields: demo is the batch of 47, full one of 300 injections.
func measurePages(ctx context.Context, l *lab.Lab, demo, full string, row func(string, time.Duration, time.Duration)) error {
	b, err := l.Batch(ctx, demo)
	if err != nil {
		return err
	}
	one, err := layouts.ShippedLayout("one-page")
	if err != nil {
		return err
	}
	d, err := best(5, func() error {
		_, err := l.DrawLayout(ctx, demo, one.JSON(), b.Injections[20].ID, "")
		return err
	})
	if err != nil {
		return err
	}
	row("redraw a page that is laid out", 150*time.Millisecond, d)
	d, err = best(1, func() error { return makeMany(ctx, l, demo) })
	if err != nil {
		return err
	}
	row("28 reports of one injection as PDF, kept", 3*time.Second, d)
	pages := 0
	d, err = best(1, func() error { pages, err = longReport(); return err })
	if err != nil {
		return err
	}
	row(fmt.Sprintf("one PDF of %d pages", pages), 10*time.Second, d)
	asked := lab.SummaryAsked{Measures: []string{"retention_min", "area_s", "height", "tailing", "plates", "signal_to_noise"}, Of: "all", By: "replicates"}
	if d, err = best(3, func() error { _, err := l.SummaryOf(ctx, full, asked); return err }); err != nil {
		return err
	}
	row("a summary of 300 injections by 6 measures", 300*time.Millisecond, d)
	fields, err := l.ExampleFields(ctx, full)
	if err != nil {
		return err
	}
	d, err = best(3, func() error {
		_, err := l.TryFields(ctx, full, lab.FieldTry{Fields: fields, At: 7, Cursor: -1})
		return err
	})
	if err != nil {
		return err
	}
	row("ten fields over 300 injections while one is written", 150*time.Millisecond, d)
	return nil
}

// makeMany makes the reports of all samples of the demo and waits until they are kept.
func makeMany(ctx context.Context, l *lab.Lab, demo string) error {
	set, err := l.MakeSet(ctx, demo, lab.SetAsked{Layout: "one-page", Formats: []report.FileKind{report.AsPDF}}, "measure")
	for err == nil && set.State == lab.Making {
		var list []lab.ReportSet
		time.Sleep(5 * time.Millisecond)
		if list, err = l.Sets(ctx, demo); err == nil {
			set = list[0]
		}
	}
	return err
}

// longReport draws a run sheet of so many injections that it has some 300 pages.
func longReport() (pages int, err error) {
	in := report.Input{Batch: "Long", Study: "Measure", Method: batch.NewMethod()}
	for k := range 9000 {
		e := batch.Entry{ID: fmt.Sprint(k), Name: fmt.Sprintf("Leaf %d", k), Role: batch.Sample, Dilution: 1, Factor: 1}
		in.Lines = append(in.Lines, report.Line{Entry: e, File: fmt.Sprintf("leaf-%d.cdf", k)})
		in.Result.Injections = append(in.Result.Injections, batch.Injected{ID: e.ID})
	}
	one, err := layouts.ShippedLayout("run-sheet")
	if err != nil {
		return 0, err
	}
	r, err := report.Make(one, in, report.Subject{})
	if err != nil {
		return 0, err
	}
	_, err = r.PDF()
	var memory runtime.MemStats
	runtime.ReadMemStats(&memory)
	if memory.HeapAlloc > 500<<20 {
		return len(r.Pages), fmt.Errorf("%d pages take %d MB", len(r.Pages), memory.HeapAlloc>>20)
	}
	return len(r.Pages), err
}
