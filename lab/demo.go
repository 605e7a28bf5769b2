package lab

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"yugen/bench"
	"yugen/formats/runlist"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/taking"
)

// DemoSeed makes the demo the same everywhere.
const DemoSeed = 20260404

// DemoLaboratory is the tea laboratory of the demo.
var DemoLaboratory = Laboratory{Name: "Kettle & Leaf"}

// DemoAuthor is who set the demo up.
const DemoAuthor = "M. Okada"

// LoadDemo brings the studies of the demo in where they are not there yet: their files are written into the folder as instruments leave
// them, and come in by the same import as a user's. It returns the id of the batch to open first.
func (l *Lab) LoadDemo(ctx context.Context, dir string) (first string, err error) {
	if err := l.loadDemoLibrary(ctx); err != nil {
		return "", err
	}
	for _, demo := range bench.Demos() {
		id, err := l.loadDemo(ctx, demo, filepath.Join(dir, demo.Study, demo.Batch))
		if err != nil {
			return "", err
		}
		if first == "" {
			first = id
		}
	}
	return first, nil
}

func (l *Lab) loadDemo(ctx context.Context, demo bench.Demo, dir string) (string, error) {
	id, there, err := l.demoThere(ctx, demo)
	if err != nil || there {
		return id, err
	}
	study, err := demo.Make(DemoSeed)
	if err != nil {
		return "", err
	}
	if id, err = l.NewBatch(ctx, study.Name, study.Batch, demo.Method, study.Method, DemoAuthor); err != nil {
		return "", err
	}
	if err := WriteStudy(study, dir); err != nil {
		return "", err
	}
	if study.Profile != nil {
		if _, err := l.KeepProfile(ctx, id, *study.Profile, DemoAuthor); err != nil {
			return "", err
		}
	}
	lines := make([]runlist.Line, len(study.Files))
	for i, f := range study.Files {
		data, err := os.ReadFile(filepath.Join(dir, f.Name))
		if err != nil {
			return "", err
		}
		out, err := l.Import(ctx, id, f.Name, data, DemoAuthor)
		if err != nil {
			return "", err
		}
		if out.Status == taking.Refused {
			return "", fmt.Errorf("demo file %s: %s", f.Name, out.Message)
		}
		if len(study.Alongside) > 0 {
			beside := study.Alongside[i]
			if out, err := l.Import(ctx, id, beside.Name, beside.Data, DemoAuthor); err != nil || out.Status == taking.Refused {
				return "", fmt.Errorf("demo file %s: %s %w", beside.Name, out.Message, err)
			}
		}
		lines[i] = runlist.Line{File: f.Name, Entry: study.RunList[i]}
	}
	_, err = l.ApplyRunList(ctx, id, lines, DemoAuthor)
	return id, err
}

// demoThere tells whether a batch of the demo is complete, without simulating it.
func (l *Lab) demoThere(ctx context.Context, demo bench.Demo) (id string, there bool, err error) {
	studies, err := l.Studies(ctx)
	for _, s := range studies {
		for _, b := range s.Batches {
			if s.Name == demo.Study && (b.Name == demo.Batch || b.StartedAs == demo.Batch) {
				if err != nil || b.Injections < demo.Files {
					return b.ID, false, err
				}
				rows, err := l.Record(ctx, b.ID)
				// The run list comes last: a demo that was stopped before it is loaded again.
				listed := slices.ContainsFunc(rows, func(r record.Row) bool { return r.Action == change.RunListAction })
				return b.ID, listed || len(rows) == record.Shown, err
			}
		}
	}
	return "", false, err
}

// WriteStudy writes the files of a simulated study into a folder, with their run list, method and truth.
func WriteStudy(study bench.Study, dir string) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return fmt.Errorf("the folder %s cannot be made: %w", dir, err)
	}
	lines := make([]runlist.Line, len(study.Files))
	for i, f := range study.Files {
		if err := os.WriteFile(filepath.Join(dir, f.Name), f.Data, 0o644); err != nil {
			return fmt.Errorf("%s cannot be written: %w", f.Name, err)
		}
		lines[i] = runlist.Line{File: f.Name, Entry: study.RunList[i]}
	}
	for _, f := range study.Alongside {
		if err := os.WriteFile(filepath.Join(dir, f.Name), f.Data, 0o644); err != nil {
			return fmt.Errorf("%s cannot be written: %w", f.Name, err)
		}
	}
	list, err := runlist.Write(lines)
	if err != nil {
		return err
	}
	method, err := json.MarshalIndent(study.Method, "", "  ")
	if err != nil {
		return err
	}
	truth, err := json.MarshalIndent(study.Truth, "", "  ")
	if err != nil {
		return err
	}
	for name, data := range map[string][]byte{"runlist.csv": list, "method.json": method, "truth.json": truth} {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o644); err != nil {
			return fmt.Errorf("%s cannot be written: %w", name, err)
		}
	}
	return nil
}
