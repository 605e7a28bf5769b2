package main

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"yugen/jobs"
)

// jobsCommand lists what a server works on, or stops one of it.
func jobsCommand() *cobra.Command {
	var at, stop string
	c := &cobra.Command{
		Use: "jobs", Short: "What a server works on: how far it is, how long it still takes; or stop one of it", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if stop != "" {
				if _, err := askServer(c, http.MethodPost, at, "/api/jobs/"+url.PathEscape(stop)+"/stop"); err != nil {
					return err
				}
				fmt.Fprintln(c.OutOrStdout(), "Stopped.")
				return nil
			}
			text, err := askServer(c, http.MethodGet, at, "/api/jobs")
			if err != nil {
				return err
			}
			var list []jobs.Job
			if err := json.Unmarshal(text, &list); err != nil {
				return err
			}
			if len(list) == 0 {
				fmt.Fprintln(c.OutOrStdout(), "Nothing is being worked on.")
			}
			for _, j := range list {
				fmt.Fprintln(c.OutOrStdout(), jobLine(j))
			}
			return nil
		},
	}
	c.Flags().StringVar(&at, "server", "http://127.0.0.1:8787", "where it is served")
	c.Flags().StringVar(&stop, "stop", "", "the id of a job to stop")
	return c
}

// jobLine is a job in a line: what, whose, how far, how long still.
func jobLine(j jobs.Job) string {
	parts := []string{j.ID, string(j.State), string(j.Kind), j.Subject}
	if j.Total > 0 {
		parts = append(parts, fmt.Sprintf("%d of %d", j.Done, j.Total))
	}
	if j.LeftS != nil {
		parts = append(parts, "still "+(time.Duration(*j.LeftS*float64(time.Second))).Round(time.Second).String())
	}
	if j.Message != "" {
		parts = append(parts, j.Message)
	}
	return strings.Join(parts, "  ")
}

// maxAnswer bounds what is read of an answer.
const maxAnswer = 8 << 20

// askServer asks a server, with the token that YUGEN_TOKEN holds where people sign in.
func askServer(c *cobra.Command, method, at, path string) ([]byte, error) {
	q, err := http.NewRequestWithContext(c.Context(), method, strings.TrimSuffix(at, "/")+path, nil)
	if err != nil {
		return nil, err
	}
	if token := os.Getenv("YUGEN_TOKEN"); token != "" {
		q.Header.Set("Authorization", "Bearer "+token)
	}
	r, err := http.DefaultClient.Do(q)
	if err != nil {
		return nil, fmt.Errorf("no Yugen answers at %s: %w; name another with --server", at, err)
	}
	defer r.Body.Close()
	text, err := io.ReadAll(io.LimitReader(r.Body, maxAnswer))
	if err != nil || r.StatusCode == http.StatusOK {
		return text, err
	}
	var problem struct{ Detail string }
	_ = json.Unmarshal(text, &problem) // what is no problem document has no sentence
	return nil, errors.New(cmp.Or(problem.Detail, r.Status))
}
