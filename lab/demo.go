package lab

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"

	"yugen/bench"
	"yugen/formats/runlist"
)

// DemoSeed makes the demo the same everywhere.
const DemoSeed = 20260404

// DemoAuthor is who set the demo up.
const DemoAuthor = "M. Okada"

// LoadDemo brings the demo study in where it is not there yet: its files are written into the folder as instruments leave
// them, and come in by the same import as a user's. It returns the batch's id.
func (l *Lab) LoadDemo(ctx context.Context, dir string) (string, error) {
	study, err := bench.TeaAssay(DemoSeed)
	if err != nil {
		return "", err
	}
	id, err := l.NewBatch(ctx, study.Name, study.Batch, "Tea catechins 278", study.Method, DemoAuthor)
	if err != nil {
		return "", err
	}
	b, err := l.Batch(ctx, id)
	if err != nil || len(b.Injections) >= len(study.Files) {
		return id, err
	}
	if err := WriteStudy(study, dir); err != nil {
		return "", err
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
		if out.Status == Refused {
			return "", fmt.Errorf("demo file %s: %s", f.Name, out.Message)
		}
		lines[i] = runlist.Line{File: f.Name, Entry: study.RunList[i]}
	}
	_, err = l.ApplyRunList(ctx, id, lines, DemoAuthor)
	return id, err
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
