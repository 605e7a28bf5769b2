package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"yugen/report"
	"yugen/report/layouts"
	"yugen/store"
)

// outputs say which reports are made of a batch.
type outputs struct {
	layout, each, as, name, out string
}

func reportCommand() *cobra.Command {
	var p processing
	var o outputs
	c := &cobra.Command{
		Use:   "report --layout FILE.json --method FILE.json --runlist FILE.csv --out DIR FILE...",
		Short: "Make reports by a layout: one for each injection, sample or batch, as pdf, html, csv, xlsx or json",
		Long: "Make reports by a layout. A layout is a JSON file, or the name of one that ships: " + strings.Join(layouts.Shipped, ", ") + ".\n" +
			"The same inputs give the same bytes; checksums.txt is written last.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			l, err := readLayout(o.layout)
			if err != nil {
				return err
			}
			if o.each != "" {
				l.Each = layouts.Each(o.each)
				if err := l.Validate(); err != nil {
					return err
				}
			}
			formats, err := formatsOf(o.as)
			if err != nil {
				return err
			}
			in, err := p.input(c.Context(), files)
			if err != nil {
				return err
			}
			return o.write(l, in, formats)
		},
	}
	p.flags(c)
	c.Flags().StringVar(&o.layout, "layout", "", "file of the layout, JSON, or the name of one that ships")
	c.Flags().StringVar(&o.each, "each", "", "make one for each sample, injection or batch; else as the layout says")
	c.Flags().StringVar(&o.as, "as", "pdf", "pdf, html, csv, xlsx, json, or several with commas")
	c.Flags().StringVar(&o.name, "name", "", `names of the files, with values: "{injection} {name}"`)
	c.Flags().StringVar(&o.out, "out", "", "folder for the reports")
	for _, name := range []string{"layout", "out"} {
		_ = c.MarkFlagRequired(name) // fails only for a flag that does not exist
	}
	return c
}

// readLayout reads a layout from its file, or one that ships by its name.
func readLayout(name string) (layouts.Layout, error) {
	if slices.Contains(layouts.Shipped, name) {
		return layouts.ShippedLayout(name)
	}
	data, err := readFile(name)
	if err != nil {
		return layouts.Layout{}, fmt.Errorf("%w; layouts that ship are %s", err, strings.Join(layouts.Shipped, ", "))
	}
	l, err := layouts.Read(data)
	if err != nil {
		return l, fmt.Errorf("%s: %w", name, err)
	}
	return l, nil
}

func formatsOf(list string) (formats []report.FileKind, err error) {
	for _, word := range strings.Split(list, ",") {
		f := report.FileKind(strings.TrimSpace(word))
		if !slices.Contains(report.FileKinds, f) {
			return nil, fmt.Errorf("--as: %q is no format of a report; pdf, html, csv, xlsx and json are", word)
		}
		formats = append(formats, f)
	}
	return formats, nil
}

// write makes all reports, each whole or not at all, and the list of their checksums last.
func (o outputs) write(l layouts.Layout, in report.Input, formats []report.FileKind) error {
	subjects := in.Subjects(l.Each)
	if len(subjects) == 0 {
		return fmt.Errorf("the batch has no %s to make a report of", l.Each)
	}
	names, err := report.FileNames(l, in, subjects, o.name)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(o.out, 0o755); err != nil {
		return fmt.Errorf("the folder %s cannot be made: %w", o.out, err)
	}
	var sums strings.Builder
	for k, s := range subjects {
		for _, as := range formats {
			data, err := report.Write(l, in, s, as)
			if err != nil {
				return fmt.Errorf("%s: %w", names[k], err)
			}
			file := names[k] + "." + string(as)
			if err := writeWhole(filepath.Join(o.out, file), data); err != nil {
				return err
			}
			fmt.Fprintf(&sums, "%s  %s\n", store.Hash(data), file)
		}
	}
	return writeWhole(filepath.Join(o.out, "checksums.txt"), []byte(sums.String()))
}

// writeWhole writes a file under another name first, so that nobody finds a part of it.
func writeWhole(path string, data []byte) error {
	part := path + ".part"
	if err := os.WriteFile(part, data, 0o644); err != nil {
		return errors.Join(err, os.Remove(part))
	}
	return os.Rename(part, path)
}
