package main

import (
	"github.com/spf13/cobra"

	"yugen/core/curves"
)

// curveInput is what curve reads: points, the shape of the curve, and unknowns with their replicate responses.
type curveInput struct {
	Points []struct {
		X       float64 `json:"x"`
		Y       float64 `json:"y"`
		Include *bool   `json:"include"`
	} `json:"points"`
	Model    curves.Model  `json:"model"`
	Weight   curves.Weight `json:"weight"`
	Unknowns []struct {
		Y []float64 `json:"y"`
	} `json:"unknowns"`
}

// curveOutput is the fit with the unknowns read from it.
type curveOutput struct {
	curves.Fit
	Tests    curves.Diagnostics `json:"tests"`
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
			points := make([]curves.Point, len(in.Points))
			for i, p := range in.Points {
				points[i] = curves.Point{X: p.X, Y: p.Y, Out: p.Include != nil && !*p.Include}
			}
			fit, err := curves.New(points, in.Model, in.Weight)
			if err != nil {
				return err
			}
			out := curveOutput{fit, fit.Diagnose(), []unknown{}}
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
