package main

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"yugen/core/batch"
	"yugen/formats/read"
	"yugen/formats/runlist"
	"yugen/report"
	"yugen/store"
)

func processCommand() *cobra.Command {
	var methodFile, runListFile, choicesFile, laboratory, out string
	c := &cobra.Command{
		Use: "process --method FILE.json --runlist FILE.csv --out DIR FILE...", Short: "Process a batch into results.json, results.csv and report.pdf", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			method := batch.NewMethod()
			if err := readJSON(methodFile, &method); err != nil {
				return err
			}
			var choices batch.Choices
			if choicesFile != "" {
				if err := readJSON(choicesFile, &choices); err != nil {
					return err
				}
			}
			data, err := readFile(runListFile)
			if err != nil {
				return err
			}
			lines, err := runlist.Read(data)
			if err != nil {
				return fmt.Errorf("%s: %w", runListFile, err)
			}
			injections, rows, err := openInRunOrder(files, lines)
			if err != nil {
				return err
			}
			result, err := batch.Process(c.Context(), batch.Input{Injections: injections, Method: method, Choices: choices}, nil)
			if err != nil {
				return err
			}
			in := report.Input{Laboratory: laboratory, Study: "From the shell", Batch: filepath.Base(runListFile), MethodName: filepath.Base(methodFile), Version: 1,
				InputsHash: hashOf(injections, data), MadeBy: "the shell", MadeAt: newest(rows), Method: method, Lines: rows, Result: result}
			return writeAll(out, in)
		},
	}
	c.Flags().StringVar(&methodFile, "method", "", "file of the method, JSON")
	c.Flags().StringVar(&runListFile, "runlist", "", "file of the run list, delimited text")
	c.Flags().StringVar(&laboratory, "laboratory", "", "name on the letterhead")
	c.Flags().StringVar(&choicesFile, "choices", "", "file of what the batch decides about its curves (points left out, levels kept), JSON; injections are numbered from 1 in run order")
	c.Flags().StringVar(&out, "out", "", "folder for the results")
	for _, name := range []string{"method", "runlist", "out"} {
		_ = c.MarkFlagRequired(name) // fails only for a flag that does not exist
	}
	return c
}

// openInRunOrder reads the files in the order of the run list; the order on the command line has no effect.
func openInRunOrder(files []string, lines []runlist.Line) ([]batch.Injection, []report.Line, error) {
	var injections []batch.Injection
	var rows []report.Line
	for n, line := range lines {
		i := slices.IndexFunc(files, func(f string) bool { return filepath.Base(f) == line.File })
		if i < 0 {
			return nil, nil, fmt.Errorf("the run list names %s, which is not among the files", line.File)
		}
		data, err := readFile(files[i])
		if err != nil {
			return nil, nil, err
		}
		file, err := read.File(data)
		if err != nil {
			return nil, nil, fmt.Errorf("%s: %w", files[i], err)
		}
		line.Entry.ID = fmt.Sprintf("%d", n+1)
		if len(file.Traces) == 0 {
			return nil, nil, fmt.Errorf("%s: it holds no signal against time, only single spectra", files[i])
		}
		k := file.FirstDetector()
		injections = append(injections, batch.Injection{Entry: line.Entry, Trace: file.Traces[k], TraceHash: fmt.Sprintf("%s/%d", store.Hash(data), k)})
		rows = append(rows, report.Line{Entry: line.Entry, File: line.File, AcquiredAt: file.Header.AcquiredAt})
	}
	if len(injections) < len(files) {
		return nil, nil, fmt.Errorf("%d files are given, but the run list names %d", len(files), len(injections))
	}
	return injections, rows, nil
}

func hashOf(injections []batch.Injection, more []byte) string {
	for _, in := range injections {
		more = append(more, in.TraceHash...)
	}
	return store.Hash(more)
}

// newest is the time of the last injection, so that the same inputs give the same report.
func newest(rows []report.Line) time.Time {
	var at time.Time
	for _, r := range rows {
		if r.AcquiredAt != nil && r.AcquiredAt.After(at) {
			at = *r.AcquiredAt
		}
	}
	return at
}

func writeAll(dir string, in report.Input) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return fmt.Errorf("the folder %s cannot be made: %w", dir, err)
	}
	f, err := os.Create(filepath.Join(dir, "results.json"))
	if err != nil {
		return err
	}
	if err := writeJSON(f, in.Result); err != nil {
		f.Close()
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	table, err := report.CSV(in)
	if err != nil {
		return err
	}
	r, err := report.New(report.WholeBatch, in, "")
	if err != nil {
		return err
	}
	pdf, err := r.PDF()
	if err != nil {
		return err
	}
	for name, data := range map[string][]byte{"results.csv": table, "report.pdf": pdf} {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o644); err != nil {
			return err
		}
	}
	return nil
}
