package main

import (
	"fmt"

	"github.com/spf13/cobra"

	"yugen/formats/text"
)

func profileCommand() *cobra.Command {
	return &cobra.Command{
		Use: "profile FILE", Short: "Propose how a delimited text is read, as a profile for read, peaks, convert and process", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			data, err := readFile(files[0])
			if err != nil {
				return err
			}
			p, err := text.Propose(data)
			if err != nil {
				return fmt.Errorf("%s: %w", files[0], err)
			}
			for _, guess := range p.Guesses {
				fmt.Fprintln(c.ErrOrStderr(), guess)
			}
			return writeJSON(c.OutOrStdout(), p.Profile)
		},
	}
}
