// Package bench simulates the instruments and the demo studies: it writes real open files and knows the truth it
// simulated.
package bench

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/signal"
	"yugen/formats"
	"yugen/formats/andi"
	"yugen/formats/jcamp"
	"yugen/formats/text"
)

// Shape is the exponentially modified Gaussian that a compound elutes as: its maximum is close to RetentionMin.
//
// Source: Foley & Dorsey, Anal. Chem. 55 (1983) 730; computed in the overflow-safe form of Delley, Anal. Chem. 57 (1985) 388.
type Shape struct {
	RetentionMin, SigmaMin, TauMin float64
}

// at is the shape of unit area at a time (min), per minute.
func (s Shape) at(tMin float64) float64 {
	mu := s.RetentionMin - 0.72*s.TauMin
	d := tMin - mu
	if d < -9*s.SigmaMin || d > 9*s.SigmaMin+25*s.TauMin {
		return 0
	}
	z := (s.SigmaMin/s.TauMin - d/s.SigmaMin) / math.Sqrt2
	if z < 0 {
		r := s.SigmaMin / s.TauMin
		return math.Exp(r*r/2-d/s.TauMin) * math.Erfc(z) / (2 * s.TauMin)
	}
	gauss := math.Exp(-d * d / (2 * s.SigmaMin * s.SigmaMin))
	return gauss / (2 * s.TauMin) * scaledErfc(z)
}

// scaledErfc is exp(z²) erfc(z) for z of at least 0, which neither overflows nor cancels.
func scaledErfc(z float64) float64 {
	if z < 20 {
		return math.Exp(z*z) * math.Erfc(z)
	}
	return 1 / (z * math.Sqrt(math.Pi)) * (1 - 1/(2*z*z))
}

// Component is one peak of an injection with its true area in signal · s.
type Component struct {
	Compound string // empty for what the method does not know
	Shape
	AreaS float64
}

// File is a simulated injection as its instrument leaves it.
type File struct {
	Name string
	Data []byte
}

// Truth is what the simulation put into one injection.
type Truth struct {
	File       string             `json:"file"`
	Contents   map[string]float64 `json:"contents"`   // in what was injected, mg/L, by compound id
	Components []Component        `json:"components"` // with their true areas
}

// Study is a simulated batch: its files, the run list that belongs to them, a method, and the truth.
type Study struct {
	Name, Batch string
	Files       []File
	Profile     *text.Profile // how its files are read, where they are delimited text
	Alongside   []File        // what other detectors recorded of the same injections; empty where there are none
	RunList     []batch.Entry // in the order of Files; ids are empty
	Method      batch.Method
	Truth       []Truth
	// SampleContents are the true amounts in the samples, mg/g, by sample name and compound id.
	SampleContents map[string]map[string]float64
}

const (
	runMin     = 18.0
	samplingHz = 10.0
)

// detector turns components into the signal of a UV detector: a solvent front, a drifting baseline, correlated noise,
// and the step back at the end of the gradient.
func detector(components []Component, rng *rand.Rand) []float64 {
	n := int(runMin*60*samplingHz) + 1
	y := make([]float64, n)
	slow := 0.0
	for i := range y {
		t := float64(i) / samplingHz / 60
		v := 0.9 + 0.16*math.Sin(t/2.3) + 1.9/(1+math.Exp(-(t-11.5)/1.9)) - 1.4/(1+math.Exp(-(t-16.3)/0.22))
		v += 9*math.Exp(-math.Pow((t-1.52)/0.035, 2)/2) - 3.2*math.Exp(-math.Pow((t-1.40)/0.03, 2)/2)
		for _, c := range components {
			v += c.AreaS / 60 * c.at(t)
		}
		slow = 0.94*slow + 0.06*rng.NormFloat64()
		y[i] = v + 0.03*rng.NormFloat64() + 0.05*slow
	}
	return y
}

// instrument is what a file says of the channel it was recorded on.
type instrument struct {
	channel, unit string
	samplingHz    float64
}

// write encodes a signal as an ANDI file.
func (i instrument) write(name string, y []float64, h formats.Header) (File, error) {
	for k, v := range y { // as instruments write it
		y[k] = float64(float32(v))
	}
	trace, err := signal.NewUniform(0, 1/i.samplingHz, y)
	if err != nil {
		return File{}, err
	}
	trace.Name, trace.Unit = i.channel, i.unit
	data, err := andi.Write([]formats.Channel{formats.ChannelOf(trace)}, h, nil)
	if err != nil {
		return File{}, fmt.Errorf("bench: %s: %w", name, err)
	}
	return File{name, data}, nil
}

// writeJCAMP encodes a signal as a JCAMP-DX file.
func (i instrument) writeJCAMP(name string, y []float64, h formats.Header) File {
	c := formats.Channel{Name: i.channel, Unit: i.unit, Kind: formats.Detector, Values: y}
	for k := range y {
		c.TimesS = append(c.TimesS, float64(k)/i.samplingHz)
		y[k] = math.Round(1e4*y[k]) / 1e4
	}
	return File{name, jcamp.Write(formats.File{Header: h, Channels: []formats.Channel{c}})}
}

// writeText encodes a signal as an old detector does: text with what it knows above, seconds, and commas for decimals.
func (i instrument) writeText(name string, y []float64, h formats.Header) File {
	var b strings.Builder
	fmt.Fprintf(&b, "Laboratory;Kettle & Leaf\nSample;%s\nAcquired;%s\nVial;%s\nOperator;%s\nColumn temperature;30 °C\n\nt;%s\ns;%s\n", h.SampleName, h.AcquiredAt.Format("02.01.2006 15:04:05"), h.Vial, h.Operator, i.channel, i.unit)
	for k, v := range y {
		line := fmt.Sprintf("%.1f;%.4f\n", float64(k)/i.samplingHz, v)
		b.WriteString(strings.ReplaceAll(line, ".", ","))
	}
	return File{name, []byte(b.String())}
}

// header is what an instrument writes beside the signal.
func header(entry batch.Entry, at time.Time, method, detector string) formats.Header {
	types := map[batch.Role]string{batch.Blank: "blank", batch.Standard: "standard", batch.Check: "control", batch.Sample: "unknown"}
	return formats.Header{
		SampleName: entry.Name, SampleType: types[entry.Role], Vial: entry.Vial, SampleAmount: entry.Sample, Volume: ptr(5.0), AcquiredAt: &at,
		Operator: "M. Okada", MethodName: method, Detector: detector,
	}
}

// quietDetector is the signal of a UV detector at low levels: a gently drifting baseline and correlated noise.
func quietDetector(components []Component, runMin, hz, noise float64, rng *rand.Rand) []float64 {
	y := make([]float64, int(runMin*60*hz)+1)
	slow := 0.0
	for i := range y {
		t := float64(i) / hz / 60
		v := 0.4 + 0.05*math.Sin(t/2.9)
		for _, c := range components {
			v += c.AreaS / 60 * c.at(t)
		}
		slow = 0.94*slow + 0.06*rng.NormFloat64()
		y[i] = v + noise*(0.012*rng.NormFloat64()+0.02*slow)
	}
	return y
}

// flame is the signal of a flame ionisation detector: the solvent, then a baseline that rises with the oven.
func flame(components []Component, runMin, hz float64, rng *rand.Rand) []float64 {
	y := make([]float64, int(runMin*60*hz)+1)
	for i := range y {
		t := float64(i) / hz / 60
		v := 9 + 2.2/(1+math.Exp(-(t-11)/1.4)) + 4000*math.Exp(-math.Pow((t-2.1)/0.05, 2)/2)
		if t > 2.1 {
			v += 900 * math.Exp(-(t-2.1)/0.16)
		}
		for _, c := range components {
			v += c.AreaS / 60 * c.at(t)
		}
		y[i] = v + 0.04*rng.NormFloat64()
	}
	return y
}

func ptr[T any](v T) *T { return &v }

// firstInjection is when the demo's batch began.
var firstInjection = time.Date(2026, time.April, 4, 9, 12, 0, 0, time.UTC)
