package main

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"yugen/jobs"
	"yugen/lab"
	"yugen/server"
)

// againCommand processes a batch of a server once more, tells what would change, and takes it where that is asked for.
func againCommand() *cobra.Command {
	var at, reason string
	var asked lab.AskedAgain
	var take bool
	c := &cobra.Command{
		Use: "again BATCH", Short: "Process a batch of a server once more: what another version of its method, or the same, makes of it; take that where asked", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			id, err := batchNamed(c, at, args[0])
			if err != nil {
				return err
			}
			var j jobs.Job
			if err := askServer(c, http.MethodPost, at, "/api/batches/"+url.PathEscape(id)+"/process", asked, &j); err != nil {
				return err
			}
			if err := waitFor(c, at, j.ID); err != nil {
				return err
			}
			job := "/api/jobs/" + url.PathEscape(j.ID)
			var found lab.ProcessedAgain
			if err := askServer(c, http.MethodGet, at, job+"/changes", nil, &found); err != nil {
				return err
			}
			tellFound(c, found)
			if !take {
				return nil
			}
			var after server.View
			if err := askServer(c, http.MethodPost, at, job+"/take", server.Because{Reason: reason}, &after); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s has version %d now.\n", found.Batch, found.To.Number)
			return nil
		},
	}
	c.Flags().StringVar(&at, "server", usualServer, "where it is served")
	c.Flags().StringVar(&asked.Version, "version", lab.NewestVersion, "newest, kept (that of the present results), or the id of a version")
	c.Flags().StringSliceVar(&asked.InjectionIDs, "injection", nil, "the id of an injection whose results are compared; may be given again; all where it is not")
	c.Flags().BoolVar(&take, "take", false, "take that version for the batch")
	c.Flags().StringVar(&reason, "reason", "", "why; asked for where the batch was reported")
	return c
}

// batchNamed is the id of a batch that is named by its id or by a name that no other has.
func batchNamed(c *cobra.Command, at, name string) (string, error) {
	var studies []server.Study
	if err := askServer(c, http.MethodGet, at, "/api/studies", nil, &studies); err != nil {
		return "", err
	}
	var ids []string
	for _, s := range studies {
		for _, b := range s.Batches {
			switch name {
			case b.ID:
				return b.ID, nil
			case b.Name:
				ids = append(ids, b.ID)
			}
		}
	}
	switch len(ids) {
	case 0:
		return "", fmt.Errorf("no batch is called %q there; GET /api/studies lists them", name)
	case 1:
		return ids[0], nil
	}
	return "", fmt.Errorf("%d batches are called %q: name one by its id, which is in its address", len(ids), name)
}

// waitFor waits for the end of a job.
func waitFor(c *cobra.Command, at, id string) error {
	for {
		var list []jobs.Job
		if err := askServer(c, http.MethodGet, at, "/api/jobs", nil, &list); err != nil {
			return err
		}
		if !slices.ContainsFunc(list, func(j jobs.Job) bool { return j.ID == id }) {
			return nil // so many have ended since that it is no longer listed; what it found is asked for all the same
		}
		for _, j := range list {
			switch {
			case j.ID != id || j.Ended == nil:
			case j.State == jobs.Done:
				return nil
			case j.State == jobs.Failed:
				return fmt.Errorf("it failed: %s", j.Message)
			default:
				return errors.New("somebody stopped it")
			}
		}
		select {
		case <-c.Context().Done():
			return c.Context().Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
}

func tellFound(c *cobra.Command, found lab.ProcessedAgain) {
	fmt.Fprintf(c.OutOrStdout(), "%s, %s\n", found.Batch, found.Tell())
	w := tabwriter.NewWriter(c.OutOrStdout(), 0, 0, 2, ' ', 0)
	number := func(v *float64) string {
		if v == nil {
			return "-"
		}
		return strconv.FormatFloat(*v, 'g', 6, 64)
	}
	for _, m := range found.Moved {
		percent := ""
		if m.Percent != nil {
			percent = fmt.Sprintf("%+.3f %%", *m.Percent)
		}
		fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\n", m.Sample, m.Compound, number(m.Before), number(m.After), percent)
	}
	_ = w.Flush() // of the output, whose errors nobody can be told
	for _, n := range found.NewNotices {
		fmt.Fprintln(c.OutOrStdout(), "new:", n)
	}
	for _, n := range found.EndedNotices {
		fmt.Fprintln(c.OutOrStdout(), "gone:", n)
	}
}
