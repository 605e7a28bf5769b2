package main

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"yugen/core/channels"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
)

// readAnswer is what read answers for one file.
type readAnswer struct {
	File       string            `json:"file"`
	Kind       string            `json:"kind"`
	Header     formats.Header    `json:"header"`
	Conditions []formats.Setting `json:"conditions"`
	Channels   []channelAnswer   `json:"channels"`
	Spectra    []spectraAnswer   `json:"spectra"`
	// Peaks are those that the file itself lists.
	Peaks []formats.ListedPeak `json:"peaks,omitempty"`
}

type channelAnswer struct {
	Key      string    `json:"key"`
	Name     string    `json:"name"`
	Kind     string    `json:"kind"`
	Unit     string    `json:"unit"`
	Points   int       `json:"points"`
	StartMin float64   `json:"start_min"`
	EndMin   float64   `json:"end_min"`
	First    []float64 `json:"first"`
	Last     []float64 `json:"last"`
	Min      float64   `json:"min"`
	Max      float64   `json:"max"`
	Sum      float64   `json:"sum"`
}

type spectraAnswer struct {
	Kind     string   `json:"kind"`
	Scans    int      `json:"scans"`
	Level    int      `json:"level"`
	Polarity string   `json:"polarity,omitempty"`
	FirstMin float64  `json:"first_min"`
	LastMin  float64  `json:"last_min"`
	MZMin    *float64 `json:"mz_min,omitempty"`
	MZMax    *float64 `json:"mz_max,omitempty"`
	NMMin    *float64 `json:"nm_min,omitempty"`
	NMMax    *float64 `json:"nm_max,omitempty"`
	TICSum   float64  `json:"tic_sum"`
}

// selection says which signal of a file is meant; without any it is what has peaks.
type selection struct {
	channel, ions, product, wavelength, axis, profile string
}

func (s *selection) flags(c *cobra.Command) {
	c.Flags().StringVar(&s.channel, "channel", "", "the channel of this name or key")
	c.Flags().StringVar(&s.ions, "ions", "", `ions of the spectra, as "71.05±0.3" or "71.05±10ppm"; several with commas are summed`)
	c.Flags().StringVar(&s.product, "product", "", `a product of a precursor in spectra of fragments, as "195.1 → 138.1±0.3", or with > for the arrow`)
	c.Flags().StringVar(&s.wavelength, "wavelength", "", `a wavelength of the spectra, as "278±4" nm`)
	c.Flags().StringVar(&s.profile, "profile", "", "file of the profile by which delimited text is read, JSON")
	c.Flags().StringVar(&s.axis, "axis", "", "what bare numbers as heads of a table are: mz, nm or channels; a guess without")
}

func (s selection) any() bool {
	return s.channel != "" || s.ions != "" || s.product != "" || s.wavelength != ""
}

// open reads a file, or standard input for -.
func (s selection) open(name string) (formats.File, error) {
	axis := text.Axis(s.axis)
	if !slices.Contains([]text.Axis{text.AxisGuessed, text.AxisMZ, text.AxisNM, text.AxisChannels}, axis) {
		return formats.File{}, fmt.Errorf("the axis %q is unknown; it is mz, nm or channels", s.axis)
	}
	from, err := openInput(name)
	if err != nil {
		return formats.File{}, err
	}
	defer from.Close()
	f, err := s.read(from, axis)
	if err != nil {
		return f, fmt.Errorf("%s: %w", name, err)
	}
	return f, nil
}

// input is a file as it lies on the disk, of which a large one need not be in memory, or what came in by standard input.
type input struct {
	io.ReaderAt
	io.Closer
	size int64
}

func openInput(name string) (input, error) {
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return input{}, err
		}
		info, err := f.Stat()
		if err == nil && info.Mode().IsRegular() {
			return input{f, f, info.Size()}, nil
		}
		if err := errors.Join(err, f.Close()); err != nil {
			return input{}, err
		}
	}
	data, err := readFile(name)
	return input{bytes.NewReader(data), io.NopCloser(nil), int64(len(data))}, err
}

func (s selection) read(from input, axis text.Axis) (formats.File, error) {
	if s.profile == "" {
		return read.From(from, from.size, axis, formats.Usual, nil)
	}
	head := make([]byte, min(from.size, formats.HeadBytes))
	if n, err := from.ReadAt(head, 0); n < len(head) {
		return formats.File{}, err
	}
	if kind, err := read.KindOf(head); err != nil || kind != formats.Text || from.size > formats.MaxWhole {
		return read.From(from, from.size, axis, formats.Usual, nil)
	}
	var p text.Profile
	if err := readJSON(s.profile, &p); err != nil {
		return formats.File{}, err
	}
	if axis != text.AxisGuessed {
		p.Axis = axis
	}
	data, err := io.ReadAll(io.NewSectionReader(from, 0, from.size))
	if err != nil {
		return formats.File{}, err
	}
	return read.ByProfile(p, data)
}

// of gives the signal that is meant.
func (s selection) of(f formats.File) (formats.Channel, error) {
	switch {
	case s.ions != "":
		return derivedOf(f, channels.ParseIons, s.ions)
	case s.product != "":
		return derivedOf(f, channels.ParseProduct, s.product)
	case s.wavelength != "":
		return derivedOf(f, channels.ParseWavelength, s.wavelength)
	}
	var names []string
	for _, c := range f.Channels {
		if strings.EqualFold(c.Name, s.channel) || c.Key() == s.channel {
			return c, nil
		}
		names = append(names, strconv.Quote(c.Name))
	}
	for _, t := range f.Traces { // the total signals of spectra
		if strings.EqualFold(t.Name, s.channel) {
			return formats.ChannelOf(t), nil
		}
	}
	return formats.Channel{}, fmt.Errorf("there is no channel %q; there are %s", s.channel, strings.Join(names, ", "))
}

// derivedOf is a signal that words define, of the spectra of a file.
func derivedOf(f formats.File, parse func(string) (channels.Signal, error), words string) (formats.Channel, error) {
	def, err := parse(words)
	if err != nil {
		return formats.Channel{}, err
	}
	r, err := def.Source(spectra.Sources(f.Spectra))
	if err != nil {
		return formats.Channel{}, err
	}
	times, values, err := def.Of(r)
	return formats.Channel{Name: def.Title(), Kind: formats.Detector, Unit: r.Describe().Unit, TimesS: times, Values: values}, err
}

func readCommand() *cobra.Command {
	var format string
	var s selection
	c := &cobra.Command{
		Use: "read FILE...", Short: "Tell what open files hold, or one signal of a file", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			if format != "json" && format != "csv" {
				return fmt.Errorf("the format %q is unknown; it is json or csv", format)
			}
			if s.any() {
				if len(files) != 1 {
					return fmt.Errorf("one signal is of one file; there are %d", len(files))
				}
				f, err := s.open(files[0])
				if err != nil {
					return err
				}
				signal, err := s.of(f)
				if err != nil {
					return fmt.Errorf("%s: %w", files[0], err)
				}
				if format == "csv" {
					return writeSignal(c.OutOrStdout(), signal)
				}
				return writeJSON(c.OutOrStdout(), answerChannel(signal))
			}
			if format == "csv" {
				return fmt.Errorf("csv is of one signal: say --channel, --ions or --wavelength")
			}
			answers := []readAnswer{}
			for _, name := range files {
				f, err := s.open(name)
				if err != nil {
					return err
				}
				answers = append(answers, answerFile(name, f))
			}
			return writeJSON(c.OutOrStdout(), answers)
		},
	}
	s.flags(c)
	c.Flags().StringVar(&format, "format", "json", "json, or csv of one signal")
	return c
}

func answerFile(name string, f formats.File) readAnswer {
	a := readAnswer{File: name, Kind: f.Header.Format, Header: f.Header, Conditions: f.Header.Settings, Channels: []channelAnswer{}, Spectra: []spectraAnswer{}, Peaks: f.Peaks}
	a.Header.Settings = nil // they stand under conditions
	if a.Conditions == nil {
		a.Conditions = []formats.Setting{}
	}
	for _, c := range f.Channels {
		a.Channels = append(a.Channels, answerChannel(c))
	}
	for _, r := range f.Spectra {
		a.Spectra = append(a.Spectra, answerSpectra(r))
	}
	return a
}

func answerChannel(c formats.Channel) channelAnswer {
	a := channelAnswer{Key: c.Key(), Name: c.Name, Kind: string(c.Kind), Unit: c.Unit, Points: len(c.Values), First: []float64{}, Last: []float64{}}
	n := len(c.Values)
	if n == 0 {
		return a
	}
	a.StartMin, a.EndMin = c.TimesS[0]/60, c.TimesS[n-1]/60
	a.First, a.Last = c.Values[:min(5, n)], c.Values[max(0, n-5):]
	a.Min, a.Max = slices.Min(c.Values), slices.Max(c.Values)
	for _, v := range c.Values {
		a.Sum += v
	}
	return a
}

func answerSpectra(r spectra.Run) spectraAnswer {
	a := spectraAnswer{Kind: string(r.Kind), Scans: len(r.Scans), Level: r.Level, Polarity: string(r.Polarity)}
	if len(r.Scans) > 0 {
		a.FirstMin, a.LastMin = r.Scans[0].TimeS/60, r.Scans[len(r.Scans)-1].TimeS/60
	}
	if b := r.Range(); b.Low <= b.High {
		if r.Kind == spectra.Wavelength {
			a.NMMin, a.NMMax = &b.Low, &b.High
		} else {
			a.MZMin, a.MZMax = &b.Low, &b.High
		}
	}
	for _, v := range r.Total() {
		a.TICSum += v
	}
	return a
}

// writeSignal writes time_min,signal with every digit.
func writeSignal(out io.Writer, c formats.Channel) error {
	w := csv.NewWriter(out)
	if err := w.Write([]string{"time_min", "signal"}); err != nil {
		return err
	}
	for i, v := range c.Values {
		if err := w.Write([]string{strconv.FormatFloat(c.TimesS[i]/60, 'g', -1, 64), strconv.FormatFloat(v, 'g', -1, 64)}); err != nil {
			return err
		}
	}
	w.Flush()
	return w.Error()
}
