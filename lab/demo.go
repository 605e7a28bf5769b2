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
	if err := l.loadDemoLibraries(ctx); err != nil {
		return "", err
	}
	demos := bench.Demos()
	ids := make([]string, len(demos))
	var missing []bench.Demo
	for k, demo := range demos {
		id, there, err := l.demoThere(ctx, demo)
		if err != nil {
			return "", err
		}
		if ids[k] = id; !there {
			ids[k] = ""
			missing = append(missing, demo)
		}
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	made := simulate(ctx, missing)
	for k, demo := range demos {
		if ids[k] != "" {
			continue
		}
		next := <-made
		if next.err != nil {
			return "", next.err
		}
		if ids[k], err = l.loadDemo(ctx, demo, next.study, filepath.Join(dir, demo.Study, demo.Batch)); err != nil {
			return "", err
		}
	}
	return ids[0], nil
}

type simulated struct {
	study bench.Study
	err   error
}

// simulate makes the studies in order, the next while the one before is taken in: that is half of the time until the demo is there.
func simulate(ctx context.Context, demos []bench.Demo) <-chan simulated {
	made := make(chan simulated)
	go func() {
		for _, demo := range demos {
			study, err := demo.Make(DemoSeed)
			select {
			case made <- simulated{study, err}:
			case <-ctx.Done():
				return
			}
		}
	}()
	return made
}

func (l *Lab) loadDemo(ctx context.Context, demo bench.Demo, study bench.Study, dir string) (id string, err error) {
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
