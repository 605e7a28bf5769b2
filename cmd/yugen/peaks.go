package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"reflect"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"yugen/core/peaks"
	"yugen/core/signal"
	"yugen/formats"
)

// peaksSettings is the file of settings: those of the method, and edits made by hand.
type peaksSettings struct {
	peaks.Settings
	Edits []peaks.Edit `json:"edits,omitempty"`
}

// integrated is what peaks answers for one trace of one file.
type integrated struct {
	File     string         `json:"file"`
	Trace    string         `json:"trace"`
	Peaks    []peaks.Peak   `json:"peaks"`
	Noise    float64        `json:"noise"`
	Settings peaks.Settings `json:"settings"`
	// Estimated is what the settings left open and the trace itself told: widths and noise.
	Estimated peaks.Estimate `json:"estimated"`
	// Proposals are stretches where drops serve badly, with another way to part peaks there.
	Proposals []peaks.Proposal `json:"proposals"`
	// Dropped are peaks that were found and could not be measured.
	Dropped []peaks.Dropped `json:"dropped"`
	// Unmatched are the edits that were not applied, since their peaks are not there.
	Unmatched []peaks.Edit `json:"unmatched_edits,omitempty"`
}

func peaksCommand() *cobra.Command {
	var settingsFile, format string
	var which selection
	c := &cobra.Command{
		Use: "peaks FILE...", Short: "Integrate chromatograms; - reads standard input", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			var settings peaksSettings
			if settingsFile != "" {
				if err := readJSON(settingsFile, &settings); err != nil {
					return err
				}
			}
			if format != "json" && format != "csv" {
				return fmt.Errorf("the format %q is unknown; it is json or csv", format)
			}
			for _, e := range settings.Edits {
				if err := e.Validate(); err != nil {
					return fmt.Errorf("%s: %w", settingsFile, err)
				}
			}
			var all []integrated
			for _, name := range files {
				list, err := integrateFile(name, which, settings)
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
	which.flags(c)
	return c
}

// tracesOf are those that peaks are looked for in: the one that was chosen, else all detectors and, of spectra, the total; conditions never.
func tracesOf(file formats.File, which selection) ([]signal.Trace, error) {
	if which.any() {
		c, err := which.of(file)
		if err != nil {
			return nil, err
		}
		t, err := c.Trace()
		return []signal.Trace{t}, err
	}
	var list []signal.Trace
	for _, t := range file.Traces {
		if formats.KindOfChannel(t.Name, t.Unit) == formats.Detector {
			list = append(list, t)
		}
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("there is no detector channel in it, only conditions or single spectra")
	}
	return list, nil
}

func integrateFile(name string, which selection, settings peaksSettings) ([]integrated, error) {
	file, err := which.open(name)
	if err != nil {
		return nil, err
	}
	traces, err := tracesOf(file, which)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	var list []integrated
	for _, tr := range traces {
		r, err := peaks.Find(tr, settings.Settings, settings.Edits)
		if err != nil {
			return nil, fmt.Errorf("%s: %s: %w", name, tr.Name, err)
		}
		used := settings.Settings
		if used.WidthMin = r.WidthMin; r.EndWidthMin != r.WidthMin {
			used.EndWidthMin = r.EndWidthMin
		}
		if used.Threshold == 0 {
			used.Threshold = peaks.DefaultThreshold
		}
		if r.Peaks == nil {
			r.Peaks = []peaks.Peak{}
		}
		if r.Dropped == nil {
			r.Dropped = []peaks.Dropped{}
		}
		proposals, err := peaks.Propose(tr, settings.Settings, settings.Edits, nil)
		if err != nil {
			return nil, fmt.Errorf("%s: %s: %w", name, tr.Name, err)
		}
		list = append(list, integrated{
			File: name, Trace: tr.Name, Peaks: r.Peaks, Noise: r.NoiseSD, Settings: used,
			Estimated: peaks.Estimate{WidthMin: r.WidthMin, EndWidthMin: r.EndWidthMin, Noise: r.Noise},
			Proposals: proposals, Dropped: r.Dropped, Unmatched: r.Unmatched,
		})
	}
	return list, nil
}

// readFile reads a file or, for "-", standard input, into memory.
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
	data, err := io.ReadAll(io.LimitReader(in, formats.MaxWhole+1))
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", name, err)
	}
	if len(data) > formats.MaxWhole {
		return nil, fmt.Errorf("%s has more than %d MB", name, formats.MaxWhole>>20)
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
		return fmt.Errorf("%s, byte %d: %s", name, d.InputOffset(), documentProblem(err))
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return fmt.Errorf("%s, byte %d: there is more text after the end of the document", name, d.InputOffset())
	}
	return nil
}

// documentProblem says in a sentence what is wrong with a JSON document.
func documentProblem(err error) string {
	var wrong *json.UnmarshalTypeError
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &wrong) && strings.HasPrefix(wrong.Value, "number "):
		return fmt.Sprintf("the number %s in %s is too large, or not whole where a whole one is wanted", strings.TrimPrefix(wrong.Value, "number "), orDocument(wrong.Field))
	case errors.As(err, &wrong):
		return fmt.Sprintf("%s holds a %s; %s is wanted", orDocument(wrong.Field), wrong.Value, kindWords[wrong.Type.Kind()])
	case errors.As(err, &syntax):
		return "this is no JSON: " + syntax.Error()
	case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
		return "the document ends too early"
	}
	if _, field, ok := strings.Cut(err.Error(), "unknown field "); ok {
		return "the field " + field + " is unknown"
	}
	return err.Error()
}

var kindWords = map[reflect.Kind]string{
	reflect.Float64: "a number", reflect.Int: "a whole number", reflect.String: "text", reflect.Bool: "true or false", reflect.Slice: "a list",
	reflect.Struct: "an object", reflect.Map: "an object", reflect.Pointer: "another value",
}

func orDocument(field string) string {
	if field == "" {
		return "the document"
	}
	return "the field " + field
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	return e.Encode(v)
}

// peakColumns are the columns of the table, each with what a peak has there.
var peakColumns = []struct {
	name string
	of   func(p peaks.Peak) *float64
}{
	{"start_min", func(p peaks.Peak) *float64 { return &p.StartMin }},
	{"apex_min", func(p peaks.Peak) *float64 { return &p.ApexMin }},
	{"end_min", func(p peaks.Peak) *float64 { return &p.EndMin }},
	{"area_s", func(p peaks.Peak) *float64 { return &p.AreaS }},
	{"area_standard_uncertainty_s", func(p peaks.Peak) *float64 { return &p.AreaSE }},
	{"area_percent", func(p peaks.Peak) *float64 { return &p.AreaPercent }},
	{"height", func(p peaks.Peak) *float64 { return &p.Height }},
	{"height_percent", func(p peaks.Peak) *float64 { return &p.HeightPercent }},
	{"width_half_min", func(p peaks.Peak) *float64 { return p.WidthHalfMin }},
	{"width_10_min", func(p peaks.Peak) *float64 { return p.Width10Min }},
	{"width_5_min", func(p peaks.Peak) *float64 { return p.Width5Min }},
	{"tangent_width_min", func(p peaks.Peak) *float64 { return p.TangentWidthMin }},
	{"tailing", func(p peaks.Peak) *float64 { return p.Tailing }},
	{"asymmetry", func(p peaks.Peak) *float64 { return p.Asymmetry }},
	{"plates", func(p peaks.Peak) *float64 { return p.Plates }},
	{"plates_tangent", func(p peaks.Peak) *float64 { return p.PlatesTangent }},
	{"resolution", func(p peaks.Peak) *float64 { return p.Resolution }},
	{"retention_factor", func(p peaks.Peak) *float64 { return p.RetentionFactor }},
	{"selectivity", func(p peaks.Peak) *float64 { return p.Selectivity }},
	{"peak_to_valley", func(p peaks.Peak) *float64 { return p.PeakToValley }},
	{"centroid_min", func(p peaks.Peak) *float64 { return p.CentroidMin }},
	{"variance_min2", func(p peaks.Peak) *float64 { return p.VarianceMin2 }},
	{"skew", func(p peaks.Peak) *float64 { return p.Skew }},
	{"signal_to_noise", func(p peaks.Peak) *float64 { return p.SignalToNoise }},
	{"signal_to_noise_rms", func(p peaks.Peak) *float64 { return p.SignalToNoiseRMS }},
}

func writePeaksCSV(out io.Writer, all []integrated) error {
	w := csv.NewWriter(out)
	head := []string{"file", "trace", "number"}
	for _, c := range peakColumns {
		head = append(head, c.name)
	}
	rows := [][]string{append(head, "start_kind", "end_kind", "baseline_kind", "flags")}
	for _, t := range all {
		for _, p := range t.Peaks {
			row := []string{t.File, t.Trace, strconv.Itoa(p.Number)}
			for _, c := range peakColumns {
				text := ""
				if v := c.of(p); v != nil {
					text = strconv.FormatFloat(*v, 'g', -1, 64)
				}
				row = append(row, text)
			}
			flags := make([]string, len(p.Flags))
			for i, f := range p.Flags {
				flags[i] = string(f)
			}
			rows = append(rows, append(row, string(p.StartKind), string(p.EndKind), string(p.BaselineKind), strings.Join(flags, " ")))
		}
	}
	return w.WriteAll(rows)
}
