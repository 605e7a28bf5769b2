package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"yugen/lab"
	"yugen/lab/record"
	"yugen/store"
)

func checkCommand() *cobra.Command {
	var quick bool
	c := &cobra.Command{
		Use: "check DIR", Short: "Verify hashes, record and database of a data folder", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			s, done, err := store.OpenCopy(c.Context(), args[0])
			if err != nil {
				return err
			}
			defer done()
			l := lab.New(s)
			check := func() (record.Verification, error) { return l.Verify(c.Context(), nil) }
			if quick {
				check = func() (record.Verification, error) { return l.VerifyQuickly(c.Context()) }
			}
			v, err := check()
			if err != nil {
				return err
			}
			for _, wrong := range v.Wrong {
				fmt.Fprintln(c.OutOrStdout(), wrong)
			}
			if len(v.Wrong) > 0 {
				return errors.New("something is wrong; restore the folder from a backup")
			}
			fmt.Fprintf(c.OutOrStdout(), "All is well: %d raw files match their hashes, %d rows of the record are in order.\n", v.Files, v.Changes)
			return nil
		},
	}
	c.Flags().BoolVar(&quick, "quick", false, "do not decode the raw files again")
	return c
}
