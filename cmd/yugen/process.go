package main

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/formats"
	"yugen/formats/runlist"
	"yugen/formats/text"
	"yugen/formula"
	"yugen/lab"
	"yugen/raw"
	"yugen/report"
	"yugen/store"
)

// processing is what a batch on the command line is processed with.
type processing struct {
	method, runList, choices, laboratory string
	reading                              selection
}

func (p *processing) flags(c *cobra.Command) {
	c.Flags().StringVar(&p.method, "method", "", "file of the method, JSON")
	c.Flags().StringVar(&p.runList, "runlist", "", "file of the run list, delimited text")
	c.Flags().StringVar(&p.laboratory, "laboratory", "", "name on the letterhead")
	c.Flags().StringVar(&p.choices, "choices", "", "file of what the batch decides about its curves (points left out, levels kept), JSON; injections are numbered from 1 in run order")
	c.Flags().StringVar(&p.reading.profile, "profile", "", "file of the profile by which delimited texts are read, JSON; other kinds are read as they are")
	for _, name := range []string{"method", "runlist"} {
		_ = c.MarkFlagRequired(name) // fails only for a flag that does not exist
	}
}

// input processes files into what reports are made from.
func (p *processing) input(ctx context.Context, files []string) (report.Input, error) {
	var in report.Input
	method, err := readMethod(p.method)
	if err != nil {
		return in, err
	}
	var choices batch.Choices
	if p.choices != "" {
		if err := readJSON(p.choices, &choices); err != nil {
			return in, err
		}
	}
	data, err := readFile(p.runList)
	if err != nil {
		return in, err
	}
	lines, err := runlist.Read(data)
	if err != nil {
		return in, fmt.Errorf("%s: %w", p.runList, err)
	}
	injections, rows, err := openInRunOrder(files, lines, method, p.reading)
	if err != nil {
		return in, err
	}
	result, err := batch.Process(ctx, batch.Input{Injections: injections, Method: method, Choices: choices}, nil)
	if err != nil {
		return in, err
	}
	in = report.Input{Laboratory: p.laboratory, Study: "From the shell", Batch: filepath.Base(p.runList), MethodName: filepath.Base(p.method), Version: 1,
		InputsHash: hashOf(injections, data), MadeBy: "the shell", MadeAt: newest(rows), Method: method, Lines: rows, Result: result}
	return in, withFields(&in, method)
}

// withFields compiles the fields of the method over a batch and holds them against their limits.
func withFields(in *report.Input, m batch.Method) error {
	in.Whole = in.Rows()
	unit := ""
	for _, i := range in.Result.Injections {
		unit = cmp.Or(unit, i.Unit)
	}
	var names []string
	for _, c := range m.Compounds {
		names = append(names, c.Name)
	}
	set := formula.Compile(m.Fields, quantities.For(m, nil, unit), names)
	for k, problem := range set.Problems {
		if problem != nil {
			return fmt.Errorf("the field %s, letter %d: %s", m.Fields[k].Name, problem.From+1, problem.Says)
		}
	}
	for _, q := range set.Register {
		if q.Field {
			in.Fields = append(in.Fields, q)
		}
	}
	in.Result.Notices = append(in.Result.Notices, set.Judge(in.Whole)...)
	return nil
}

func processCommand() *cobra.Command {
	var p processing
	var out string
	c := &cobra.Command{
		Use: "process --method FILE.json --runlist FILE.csv --out DIR FILE...", Short: "Process a batch into results.json, results.csv and report.pdf", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			in, err := p.input(c.Context(), files)
			if err != nil {
				return err
			}
			return writeAll(out, in)
		},
	}
	p.flags(c)
	c.Flags().StringVar(&out, "out", "", "folder for the results")
	_ = c.MarkFlagRequired("out") // fails only for a flag that does not exist
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
		rows = append(rows, lineOf(injection, line.File, named[n].file, m))
	}
	return injections, rows, nil
}

// lineOf is an injection as reports draw it.
func lineOf(in batch.Injection, name string, f formats.File, m batch.Method) report.Line {
	line := report.Line{Entry: in.Entry, File: name, AcquiredAt: f.Header.AcquiredAt, Trace: in.Trace, Settings: lab.SettingsOf(f.Header)}
	for _, c := range m.Channels[1:] {
		line.Further = append(line.Further, in.Further[c.ID].Trace)
	}
	for _, tr := range f.Traces {
		if formats.KindOfChannel(tr.Name, tr.Unit) == formats.Condition {
			line.Conditions = append(line.Conditions, tr)
		}
	}
	return line
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
