package main

import (
	"cmp"
	"fmt"

	"github.com/spf13/cobra"

	"yugen/core/curves"
)

// curveInput is what curve reads: points, the shape of the curve, and unknowns with their replicate responses.
type curveInput struct {
	Points   []pointInput  `json:"points"`
	Model    curves.Model  `json:"model"`
	Weight   curves.Weight `json:"weight"`
	Averaged bool          `json:"averaged"` // fit the means of replicates
	// Way is curve, or standard_addition: x is then what was added.
	Way string `json:"way"`
	// DeviationPercent is the limit on the deviation of a level, for the range that is proposed; 0 means 20.
	DeviationPercent float64   `json:"deviation_percent"`
	LeastLevels      int       `json:"least_levels"` // of the range; 0 means 5
	Blanks           []float64 `json:"blanks"`       // responses, for the limits
	SignalToNoise    []float64 `json:"signal_to_noise"`
	Unknowns         []struct {
		Y []float64 `json:"y"`
	} `json:"unknowns"`
}

// pointInput is one standard.
type pointInput struct {
	X       *float64 `json:"x"`
	Y       *float64 `json:"y"`
	Include *bool    `json:"include"`
}

// points fails where an x or y is missing: it is not zero.
func points(list []pointInput) ([]curves.Point, error) {
	points := make([]curves.Point, len(list))
	for i, p := range list {
		if p.X == nil || p.Y == nil {
			return nil, fmt.Errorf("point %d lacks its %s; give both x and y", i+1, map[bool]string{true: "x", false: "y"}[p.X == nil])
		}
		points[i] = curves.Point{X: *p.X, Y: *p.Y, Out: p.Include != nil && !*p.Include}
	}
	return points, nil
}

// curveOutput is the fit with the unknowns read from it.
type curveOutput struct {
	curves.Fit
	Tests    curves.Diagnostics `json:"tests"`
	Limits   []curves.Limit     `json:"limits"`
	Range    *curves.Range      `json:"range"`
	Unknowns []unknown          `json:"unknowns"`
}

// unknown is a reading, or why there is none.
type unknown struct {
	X             *float64    `json:"x"`
	StandardError *float64    `json:"standard_error"`
	CI95          *[2]float64 `json:"ci95"`
	Problem       string      `json:"problem,omitempty"`
}

func curveCommand() *cobra.Command {
	return &cobra.Command{
		Use: "curve FILE.json", Short: "Fit a calibration curve and read unknowns; - reads standard input", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			in := curveInput{Model: curves.Linear, Weight: curves.Unweighted}
			if err := readJSON(args[0], &in); err != nil {
				return err
			}
			points, err := points(in.Points)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			if in.Way == "standard_addition" {
				a, err := curves.StandardAddition(points, in.Weight)
				if err != nil {
					return err
				}
				return writeJSON(c.OutOrStdout(), a)
			}
			if in.Way != "" && in.Way != "curve" {
				return fmt.Errorf("the way %q is unknown; it is curve or standard_addition", in.Way)
			}
			fit, err := in.fit(points)
			if err != nil {
				return err
			}
			out := curveOutput{Fit: fit, Tests: fit.Diagnose(), Unknowns: []unknown{}}
			out.Limits = fit.Limits(dayInput{Blanks: in.Blanks, SignalToNoise: in.SignalToNoise}.low(fit))
			if r, ok := curves.WidestRange(points, in.Model, in.Weight, cmp.Or(in.LeastLevels, curves.LeastLevels), cmp.Or(in.DeviationPercent, 20)); ok {
				out.Range = &r
			}
			for _, u := range in.Unknowns {
				r, err := fit.Read(u.Y)
				if err != nil {
					out.Unknowns = append(out.Unknowns, unknown{Problem: err.Error()})
					continue
				}
				out.Unknowns = append(out.Unknowns, unknown{&r.X, r.StandardError, r.CI95, ""})
			}
			return writeJSON(c.OutOrStdout(), out)
		},
	}
}

func (in curveInput) fit(points []curves.Point) (curves.Fit, error) {
	if in.Averaged {
		return curves.NewAveraged(points, in.Model, in.Weight)
	}
	return curves.New(points, in.Model, in.Weight)
}
