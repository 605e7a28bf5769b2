package main

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"yugen/core/batch"
	"yugen/formats"
	"yugen/formats/runlist"
	"yugen/formats/text"
	"yugen/lab"
	"yugen/raw"
	"yugen/report"
	"yugen/store"
)

func processCommand() *cobra.Command {
	var methodFile, runListFile, choicesFile, laboratory, out string
	var reading selection
	c := &cobra.Command{
		Use: "process --method FILE.json --runlist FILE.csv --out DIR FILE...", Short: "Process a batch into results.json, results.csv and report.pdf", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			method, err := readMethod(methodFile)
			if err != nil {
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
			injections, rows, err := openInRunOrder(files, lines, method, reading)
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
	c.Flags().StringVar(&reading.profile, "profile", "", "file of the profile by which delimited texts are read, JSON; other kinds are read as they are")
	c.Flags().StringVar(&out, "out", "", "folder for the results")
	for _, name := range []string{"method", "runlist", "out"} {
		_ = c.MarkFlagRequired(name) // fails only for a flag that does not exist
	}
	return c
}

// readMethod reads a method as it is written today or was earlier; what it does not say is as in a new one.
func readMethod(name string) (batch.Method, error) {
	m := batch.NewMethod()
	usual := m.Channels
	m.Channels = nil
	if err := readJSON(name, &m); err != nil {
		return m, err
	}
	if m = m.Today(); len(m.Channels) == 0 && m.Earlier == nil {
		m.Channels = usual
	}
	return m, nil
}

// given is a file of the command line.
type given struct {
	path, hash string
	file       formats.File
}

func openGiven(path string, reading selection) (given, error) {
	from, err := openInput(path)
	if err != nil {
		return given{}, err
	}
	defer from.Close()
	file, err := reading.read(from, text.AxisGuessed)
	if err != nil {
		return given{}, fmt.Errorf("%s: %w", path, err)
	}
	hash, err := raw.HashOf(from, from.size)
	return given{path, hash, file}, err
}

// openInRunOrder reads the files in the order of the run list; the order on the command line has no effect. Files that the run list does not name belong to
// one that it does, as that of a second detector.
func openInRunOrder(files []string, lines []runlist.Line, m batch.Method, reading selection) ([]batch.Injection, []report.Line, error) {
	var named []given
	for _, line := range lines {
		i := slices.IndexFunc(files, func(f string) bool { return filepath.Base(f) == line.File })
		if i < 0 {
			return nil, nil, fmt.Errorf("the run list names %s, which is not among the files", line.File)
		}
		g, err := openGiven(files[i], reading)
		if err != nil {
			return nil, nil, err
		}
		named = append(named, g)
	}
	if err := joinOthers(files, named, reading); err != nil {
		return nil, nil, err
	}
	var injections []batch.Injection
	var rows []report.Line
	for n, line := range lines {
		injection, err := lab.InjectionOf(named[n].file, named[n].hash, m)
		if err != nil {
			return nil, nil, fmt.Errorf("%s: %w", named[n].path, err)
		}
		injection.Entry = line.Entry
		injection.ID = fmt.Sprint(n + 1)
		line.Entry.ID = injection.ID
		injections = append(injections, injection)
		rows = append(rows, report.Line{Entry: line.Entry, File: line.File, AcquiredAt: named[n].file.Header.AcquiredAt})
	}
	return injections, rows, nil
}

// joinOthers adds the signals of files that no line names to the injection that they belong to.
func joinOthers(files []string, named []given, reading selection) error {
	for _, path := range files {
		if slices.ContainsFunc(named, func(g given) bool { return g.path == path }) {
			continue
		}
		other, err := openGiven(path, reading)
		if err != nil {
			return err
		}
		var of []int
		for k, g := range named {
			if formats.OneInjection(filepath.Base(g.path), g.file.Header, filepath.Base(path), other.file.Header) {
				of = append(of, k)
			}
		}
		if len(of) != 1 {
			return fmt.Errorf("the run list does not name %s, and it belongs to %d of the injections that it names", path, len(of))
		}
		named[of[0]].file.Join(other.file)
		named[of[0]].hash += "+" + other.hash
	}
	return nil
}

func hashOf(injections []batch.Injection, more []byte) string {
	for _, in := range injections {
		more = append(more, in.TraceHash...)
		for _, id := range slices.Sorted(maps.Keys(in.Further)) {
			more = append(more, in.Further[id].Hash...)
		}
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
