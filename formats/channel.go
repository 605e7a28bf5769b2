package formats

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"yugen/core/channels"
	"yugen/core/signal"
	"yugen/core/spectra"
)

// ChannelKind says what a channel is.
type ChannelKind string

// The kinds of channel that a file holds.
const (
	Detector  ChannelKind = "detector"
	Condition ChannelKind = "condition" // of the run, as a pump's pressure; it has no peaks
)

// Channel is one signal of a file against time, with the very times and values of the file.
type Channel struct {
	Name   string
	Kind   ChannelKind
	Unit   string
	TimesS []float64
	Values []float64
}

// Setting is one line of what a file says of equipment and settings at acquisition.
type Setting struct {
	Group string `json:"group,omitempty"`
	Name  string `json:"name"`
	Value string `json:"value"`
	Unit  string `json:"unit,omitempty"`
}

// The settings that are kept of a file are bounded, as they stand in the record of every injection.
const (
	maxSettings    = 200
	maxSettingText = 300
)

// AddSetting keeps a line of what the file says of its equipment, where it says something and there is room.
func (h *Header) AddSetting(s Setting) {
	s.Name, s.Value = strings.TrimSpace(s.Name), strings.TrimSpace(s.Value)
	if s.Name == "" || s.Value == "" || len(h.Settings) >= maxSettings || len(s.Name) > maxSettingText {
		return
	}
	if r := []rune(s.Value); len(r) > maxSettingText {
		s.Value = string(r[:maxSettingText]) + "…"
	}
	h.Settings = append(h.Settings, s)
}

// Key finds the same signal in every injection of a batch: kind, name and unit without case, blanks and signs.
func (c Channel) Key() string { return string(c.Kind) + ":" + channels.Key(c.Name, c.Unit) }

// Trace is the channel as peaks are looked for in it, or a *signal.PointError that says why not.
func (c Channel) Trace() (signal.Trace, error) {
	tr, err := signal.New(c.TimesS, c.Values)
	tr.Name, tr.Unit = c.Name, c.Unit
	return tr, err
}

// ChannelOf is a trace as a channel.
func ChannelOf(t signal.Trace) Channel {
	c := Channel{Name: t.Name, Unit: t.Unit, Kind: KindOfChannel(t.Name, t.Unit), TimesS: t.TimesS, Values: t.Values}
	if c.TimesS == nil {
		c.TimesS = make([]float64, t.Len())
		for i := range c.TimesS {
			c.TimesS[i] = t.TimeS(i)
		}
	}
	return c
}

var (
	conditionUnits = map[string]bool{"bar": true, "mbar": true, "kpa": true, "mpa": true, "psi": true, "°c": true, "degc": true, "ml/min": true, "µl/min": true, "ul/min": true, "%b": true}
	conditionWords = regexp.MustCompile(`(?i)\b(pressure|flow|gradient|oven|column temp\w*|temperature|druck|débit|pump)\b|^% ?[a-d]$|%\s?b\b`)
)

// KindOfChannel tells a condition from a detector by its unit or its name.
func KindOfChannel(name, unit string) ChannelKind {
	if conditionUnits[strings.ToLower(strings.ReplaceAll(unit, " ", ""))] || conditionWords.MatchString(name) {
		return Condition
	}
	return Detector
}

// Complete gives a file that came as traces its channels, and one that came as channels and spectra its traces: all channels that are long enough, then the
// total signal of spectra by their outlines. Traces that a reader gave keep their places, by which stored batches know them.
func (f *File) Complete() error {
	if len(f.Channels) == 0 {
		for _, t := range f.Traces {
			f.Channels = append(f.Channels, ChannelOf(t))
		}
	}
	for _, r := range f.Outlines {
		if !slices.Contains(f.Header.Spectra, r.Kind) {
			f.Header.Spectra = append(f.Header.Spectra, r.Kind)
		}
	}
	if len(f.Traces) > 0 {
		return nil
	}
	add := func(c Channel) error {
		if len(c.Values) < signal.MinPoints {
			return nil
		}
		t, err := c.Trace()
		if err != nil {
			return &Error{Reason: fmt.Sprintf("%s: %s", c.Name, err)}
		}
		f.Traces = append(f.Traces, t)
		return nil
	}
	for _, c := range f.Channels {
		if err := add(c); err != nil {
			return err
		}
	}
	for _, o := range f.Outlines {
		if o.Level > 1 || f.hasTotal(o.About) {
			continue
		}
		order := o.Order()
		if err := add(Channel{Name: TotalName(o.About), Unit: o.Unit, TimesS: spectra.Sorted(o.TimesS, order), Values: spectra.Sorted(o.Totals, order)}); err != nil {
			return err
		}
	}
	return nil
}

// FirstDetector is the place of the first trace that is no condition, 0 where all are.
func (f *File) FirstDetector() int {
	return max(0, slices.IndexFunc(f.Traces, func(t signal.Trace) bool { return KindOfChannel(t.Name, t.Unit) == Detector }))
}

var totalIon = regexp.MustCompile(`(?i)^(tic|total ion)`)

// hasTotal tells whether the file has the total signal of its spectra as a channel of its own already.
func (f *File) hasTotal(r spectra.About) bool {
	return r.Kind == spectra.Mass && slices.ContainsFunc(f.Channels, func(c Channel) bool { return totalIon.MatchString(c.Name) })
}

// TotalName is what the total signal of spectra is called.
func TotalName(r spectra.About) string {
	if r.Kind == spectra.Wavelength {
		return "sum of wavelengths"
	}
	name := "total ion"
	if r.Level > 1 {
		name += ", MS" + strconv.Itoa(r.Level)
	}
	if r.Precursor > 0 {
		name += " of " + strconv.FormatFloat(r.Precursor, 'f', -1, 64)
	}
	if r.Polarity != spectra.Unsaid {
		name += ", " + string(r.Polarity)
	}
	return name
}

// CheckValues refuses numbers that are not finite, with the place in words.
func CheckValues(where string, values []float64) error {
	for i, v := range values {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return &Error{Reason: fmt.Sprintf("%s: value %d is not a finite number", where, i+1)}
		}
	}
	return nil
}
