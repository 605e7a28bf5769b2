package main

import (
	"fmt"

	"github.com/spf13/cobra"

	"yugen/core/curves"
)

// dayInput is one day's calibration as limits reads it: that of curve, with what else is known about the lower end.
type dayInput struct {
	Name          string        `json:"name"`
	Points        []pointInput  `json:"points"`
	Model         curves.Model  `json:"model"`
	Weight        curves.Weight `json:"weight"`
	Replicates    []float64     `json:"replicates"` // responses at the lowest level; without them those of the points are taken
	Blanks        []float64     `json:"blanks"`
	SignalToNoise []float64     `json:"signal_to_noise"`
}

// limitsOutput sets the days side by side.
type limitsOutput struct {
	Days     []dayOutput     `json:"days"`
	Ways     []curves.Spread `json:"ways"`
	Proposed *curves.Spread  `json:"proposed"`
}

type dayOutput struct {
	Name   string         `json:"name"`
	Limits []curves.Limit `json:"limits"`
}

func limitsCommand() *cobra.Command {
	return &cobra.Command{
		Use: "limits FILE.json...", Short: "Detection and quantitation limits by every way, over one file for each day", Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			out := limitsOutput{}
			var days [][]curves.Limit
			for _, name := range files {
				in := dayInput{Model: curves.Linear, Weight: curves.Unweighted}
				if err := readJSON(name, &in); err != nil {
					return err
				}
				points, err := points(in.Points)
				if err != nil {
					return fmt.Errorf("%s: %w", name, err)
				}
				fit, err := curves.New(points, in.Model, in.Weight)
				if err != nil {
					return fmt.Errorf("%s: %w", name, err)
				}
				limits := fit.Limits(in.low(fit))
				if in.Name == "" {
					in.Name = name
				}
				out.Days, days = append(out.Days, dayOutput{in.Name, limits}), append(days, limits)
			}
			out.Ways, out.Proposed = curves.OverDays(days)
			return writeJSON(c.OutOrStdout(), out)
		},
	}
}

func (d dayInput) low(fit curves.Fit) curves.LowEvidence {
	low := curves.LowEvidence{Replicates: d.Replicates, Blanks: d.Blanks, SignalToNoise: d.SignalToNoise}
	if low.Replicates == nil {
		for _, p := range fit.Points {
			if !p.Out && p.X == fit.LowX {
				low.Replicates = append(low.Replicates, p.Y)
			}
		}
	}
	return low
}
