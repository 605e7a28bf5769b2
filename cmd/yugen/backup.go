package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"yugen/store"
)

func backupCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "backup DIR", Short: "Write a checked copy of a data folder, which may be in use, into a new folder below DIR", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if _, err := os.Stat(filepath.Join(data, "yugen.db")); err != nil {
				return fmt.Errorf("there is no Yugen database in %s", data)
			}
			s, err := store.Open(c.Context(), data)
			if err != nil {
				return err
			}
			defer s.Close()
			dir, err := s.Backup(c.Context(), args[0], nil)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "Backed up and checked: %s\n", dir)
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", dataFolder(), "folder of the data, also DATA=")
	return c
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{
		Use: "restore BACKUP DIR", Short: "Copy a backup into a folder that has no database yet, and check it", Args: cobra.ExactArgs(2),
		RunE: func(c *cobra.Command, args []string) error {
			if err := store.Restore(c.Context(), args[0], args[1]); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "Restored and checked: %s\n", args[1])
			return nil
		},
	}
}

// dataFolder is where data are kept unless a flag says otherwise.
func dataFolder() string {
	if dir := os.Getenv("DATA"); dir != "" {
		return dir
	}
	return "data"
}

func recoverCommand() *cobra.Command {
	return &cobra.Command{
		Use: "recover DIR", Short: "Make a copy that was taken while another machine worked into a folder to work in, and say how far it goes", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			r, err := store.Recover(c.Context(), args[0], whoRuns())
			if err != nil {
				return err
			}
			if r.EndsAt == 0 {
				fmt.Fprintln(c.OutOrStdout(), "Nothing was done yet in what was copied.")
			} else {
				fmt.Fprintf(c.OutOrStdout(), "The copy ends at row %d of the record, written %s.\n", r.EndsAt, r.At.Local().Format("2 January 2006, 15:04:05"))
			}
			if r.Lost > 0 {
				fmt.Fprintf(c.OutOrStdout(), "Rows %d to %d were written after it and are lost; their ends are laid aside in record.heads.lost.\n", r.LostFrom, r.EndsAt+r.Lost)
			}
			return nil
		},
	}
}
