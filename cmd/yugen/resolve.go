package main

import (
	"errors"
	"fmt"
	"math"
	"strconv"

	"github.com/spf13/cobra"

	"yugen/core/resolving"
	"yugen/core/spectra"
	"yugen/formats"
)

// resolvedAnswer is what resolve answers.
type resolvedAnswer struct {
	Components []resolvedComponent `json:"components"`
	// Explained is the share of the signal's squares, less those of noise.
	Explained float64 `json:"explained_total"`
	ChosenBy  string  `json:"chosen_by"`
	Method    string  `json:"method"`
	// Excess is, by the numbers of components that were tried, by how many widths the largest eigenvalue of what they leave lies above the edge of noise.
	Excess map[string]float64 `json:"excess"`
	Doubts []string           `json:"doubts"`
}

type resolvedComponent struct {
	Spectrum   [][2]float64     `json:"spectrum"` // m/z or nm and intensity; they sum to 1
	Background bool             `json:"background"`
	ApexMin    float64          `json:"apex_min"`
	Samples    []resolvedSample `json:"samples"`
	Explained  float64          `json:"explained"` // share of the signal
	Band       float64          `json:"band"`      // the least cosine with a spectrum that would fit as well
	Doubts     []string         `json:"doubts"`
}

type resolvedSample struct {
	File    string   `json:"file"`
	Area    float64  `json:"area"`     // signal × s
	SE      float64  `json:"area_se"`  // from the noise alone
	ApexMin *float64 `json:"apex_min"` // absent where there is nothing of it
}

type resolveAsked struct {
	from, to    float64
	components  string
	method      string
	wavelengths bool
}

func resolveCommand() *cobra.Command {
	var s selection
	var asked resolveAsked
	var format string
	c := &cobra.Command{
		Use: "resolve FILE...", Short: "Overlapping compounds of a stretch, resolved over all files at once: spectra, profiles, relative amounts", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			if format != "json" {
				return fmt.Errorf("the format %q is unknown; it is json", format)
			}
			a, err := asked.resolve(s, files)
			if err != nil {
				return err
			}
			return writeJSON(c.OutOrStdout(), a)
		},
	}
	c.Flags().Float64Var(&asked.from, "from", 0, "the beginning of the stretch, min")
	c.Flags().Float64Var(&asked.to, "to", math.Inf(1), "its end")
	c.Flags().StringVar(&asked.components, "components", "auto", "how many compounds, not counting background; auto finds out")
	c.Flags().StringVar(&asked.method, "method", "als", "als: least squares on the stacked files; parafac2: the shift-tolerant model")
	c.Flags().BoolVar(&asked.wavelengths, "wavelengths", false, "the spectra of wavelengths, where files have masses too")
	c.Flags().StringVar(&format, "format", "json", "of the answer: json")
	c.Flags().StringVar(&s.axis, "axis", "", "what bare numbers as heads of a table are: mz, nm or channels; a guess without")
	return c
}

func (a resolveAsked) resolve(s selection, files []string) (resolvedAnswer, error) {
	out := resolvedAnswer{Components: []resolvedComponent{}, Excess: map[string]float64{}, Method: a.method}
	if !(a.from < a.to) {
		return out, fmt.Errorf("a stretch from %g to %g min is none", a.from, a.to)
	}
	if a.method != "als" && a.method != "parafac2" {
		return out, fmt.Errorf("the method %q is unknown; it is als or parafac2", a.method)
	}
	options := resolving.Options{}
	if a.components != "auto" {
		n, err := strconv.Atoi(a.components)
		if err != nil || n < 1 {
			return out, fmt.Errorf("%q is no number of compounds; it is auto or 1 to %d", a.components, resolving.Most)
		}
		options.Compounds = n
	}
	stack, err := a.stack(s, files)
	if err != nil {
		return out, err
	}
	var r resolving.Result
	if a.method == "parafac2" {
		r, err = resolving.Tolerant(stack, options)
	} else {
		r, err = resolving.Resolve(stack, options)
	}
	if err != nil {
		return out, err
	}
	out.Explained, out.ChosenBy, out.Doubts = r.Explained, r.ChosenBy, r.Doubts
	for k, v := range r.Excess {
		out.Excess[strconv.Itoa(k)] = v
	}
	for _, c := range r.Components {
		out.Components = append(out.Components, componentOf(stack, c))
	}
	return out, nil
}

func componentOf(stack resolving.Stack, c resolving.Component) resolvedComponent {
	one := resolvedComponent{Spectrum: [][2]float64{}, Background: c.Background, ApexMin: c.ApexMin, Explained: c.Explained, Band: c.Band, Doubts: c.Doubts}
	for j, v := range c.Spectrum {
		if v > 0 {
			one.Spectrum = append(one.Spectrum, [2]float64{stack.Axis[j], v})
		}
	}
	for _, p := range c.Samples {
		s := resolvedSample{File: p.Sample, Area: p.AreaS, SE: p.SE}
		if p.AreaS > 0 {
			s.ApexMin = &p.ApexMin
		}
		one.Samples = append(one.Samples, s)
	}
	return one
}

// stack reads the stretch of all files.
func (a resolveAsked) stack(s selection, files []string) (resolving.Stack, error) {
	var kind spectra.Kind
	runs := make([][]spectra.Scan, len(files))
	for k, name := range files {
		f, err := s.open(name)
		if err != nil {
			return resolving.Stack{}, err
		}
		r, err := a.run(f)
		if err != nil {
			return resolving.Stack{}, fmt.Errorf("%s: %w", name, err)
		}
		if k > 0 && r.Kind != kind {
			return resolving.Stack{}, fmt.Errorf("%s holds spectra of another kind than %s", name, files[0])
		}
		kind = r.Kind
		runs[k] = spectra.Between(r.Scans, 60*a.from, 60*a.to)
	}
	return resolving.NewStack(kind, files, runs)
}

// run is the spectra that are meant: full scans, or wavelengths.
func (a resolveAsked) run(f formats.File) (spectra.Run, error) {
	for _, r := range f.Spectra {
		if r.Kind == spectra.Wavelength && (a.wavelengths || len(f.Spectra) == 1) || r.Kind == spectra.Mass && !a.wavelengths && r.Level <= 1 {
			return r, nil
		}
	}
	return spectra.Run{}, errors.New("there are no spectra in it that could be resolved")
}
