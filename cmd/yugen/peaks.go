package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strconv"

	"github.com/spf13/cobra"

	"yugen/core/peaks"
	"yugen/formats"
	"yugen/formats/read"
)

// integrated is what peaks answers for one trace of one file.
type integrated struct {
	File     string         `json:"file"`
	Trace    string         `json:"trace"`
	Peaks    []peaks.Peak   `json:"peaks"`
	Noise    float64        `json:"noise"`
	Settings peaks.Settings `json:"settings"`
}

func peaksCommand() *cobra.Command {
	var settingsFile, format string
	c := &cobra.Command{
		Use: "peaks FILE...", Short: "Integrate chromatograms; - reads standard input", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			var settings peaks.Settings
			if settingsFile != "" {
				if err := readJSON(settingsFile, &settings); err != nil {
					return err
				}
			}
			if format != "json" && format != "csv" {
				return fmt.Errorf("the format %q is unknown; it is json or csv", format)
			}
			var all []integrated
			for _, name := range files {
				list, err := integrateFile(name, settings)
				if err != nil {
					return err
				}
				all = append(all, list...)
			}
			if format == "csv" {
				return writePeaksCSV(c.OutOrStdout(), all)
			}
			return writeJSON(c.OutOrStdout(), all)
		},
	}
	c.Flags().StringVar(&settingsFile, "settings", "", "file of settings, JSON")
	c.Flags().StringVar(&format, "format", "json", "json or csv")
	return c
}

func integrateFile(name string, settings peaks.Settings) ([]integrated, error) {
	data, err := readFile(name)
	if err != nil {
		return nil, err
	}
	file, err := read.File(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	var list []integrated
	for _, tr := range file.Traces {
		r, err := peaks.Find(tr, settings, nil)
		if err != nil {
			return nil, fmt.Errorf("%s: %s: %w", name, tr.Name, err)
		}
		used := settings
		used.WidthMin = r.WidthMin
		if used.Threshold == 0 {
			used.Threshold = peaks.DefaultThreshold
		}
		if r.Peaks == nil {
			r.Peaks = []peaks.Peak{}
		}
		list = append(list, integrated{name, tr.Name, r.Peaks, r.NoiseSD, used})
	}
	return list, nil
}

// readFile reads a file or, for "-", standard input, up to what any reader takes.
func readFile(name string) ([]byte, error) {
	in := io.Reader(os.Stdin)
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return nil, err
		}
		defer f.Close()
		in = f
	}
	data, err := io.ReadAll(io.LimitReader(in, formats.MaxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", name, err)
	}
	if len(data) > formats.MaxBytes {
		return nil, fmt.Errorf("%s has more than %d MB", name, formats.MaxBytes>>20)
	}
	return data, nil
}

// readJSON reads a document of ours and refuses fields it does not know.
func readJSON(name string, into any) error {
	data, err := readFile(name)
	if err != nil {
		return err
	}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return fmt.Errorf("%s, byte %d: %w", name, d.InputOffset(), err)
	}
	return nil
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

func writePeaksCSV(out io.Writer, all []integrated) error {
	w := csv.NewWriter(out)
	rows := [][]string{{"file", "trace", "number", "start_min", "apex_min", "end_min", "area_s", "area_standard_uncertainty_s", "area_percent", "height", "width_half_min", "tailing", "asymmetry", "plates", "resolution", "signal_to_noise", "start_kind", "end_kind", "flags"}}
	number := func(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
	optional := func(v *float64) string {
		if v == nil {
			return ""
		}
		return number(*v)
	}
	for _, t := range all {
		for _, p := range t.Peaks {
			flags := ""
			for i, f := range p.Flags {
				if i > 0 {
					flags += " "
				}
				flags += string(f)
			}
			rows = append(rows, []string{t.File, t.Trace, strconv.Itoa(p.Number), number(p.StartMin), number(p.ApexMin), number(p.EndMin), number(p.AreaS), number(p.AreaSE), number(p.AreaPercent), number(p.Height),
				optional(p.WidthHalfMin), optional(p.Tailing), optional(p.Asymmetry), optional(p.Plates), optional(p.Resolution), optional(p.SignalToNoise), string(p.StartKind), string(p.EndKind), flags})
		}
	}
	return w.WriteAll(rows)
}
