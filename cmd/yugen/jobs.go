package main

import (
	"bytes"
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

// jobsCommand lists what a server works on, or holds, lets go on, puts first or stops one of it.
func jobsCommand() *cobra.Command {
	var at string
	asked := map[string]*string{}
	c := &cobra.Command{
		Use: "jobs", Short: "What a server works on: how far it is, how long it still takes; or hold, continue, put first or stop one of it", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			path, method := "/api/jobs", http.MethodGet
			for what, id := range asked {
				if *id != "" {
					path, method = "/api/jobs/"+url.PathEscape(*id)+"/"+what, http.MethodPost
				}
			}
			var list []jobs.Job
			if err := askServer(c, method, at, path, nil, &list); err != nil {
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
	c.Flags().StringVar(&at, "server", usualServer, "where it is served")
	for what, says := range map[string]string{"stop": "stop", "pause": "hold at its next step", "continue": "let go on", "first": "put before others that wait"} {
		asked[what] = c.Flags().String(what, "", "the id of a job to "+says)
	}
	c.MarkFlagsMutuallyExclusive("stop", "pause", "continue", "first")
	return c
}

// usualServer is where a server is found that was started without saying where.
const usualServer = "http://127.0.0.1:8787"

// jobLine is a job in a line: what, whose, how far, how long still.
func jobLine(j jobs.Job) string {
	parts := []string{j.ID, string(j.State), string(j.Kind), j.Subject}
	if j.Total > 0 {
		parts = append(parts, fmt.Sprintf("%d of %d", j.Done, j.Total))
	}
	if j.LeftS != nil {
		parts = append(parts, "still "+(time.Duration(*j.LeftS*float64(time.Second))).Round(time.Second).String())
	}
	for _, more := range []string{j.Message, j.Outcome} {
		if more != "" {
			parts = append(parts, more)
		}
	}
	return strings.Join(parts, "  ")
}

// maxAnswer bounds what is read of an answer.
const maxAnswer = 8 << 20

// askServer asks a server, with the token that YUGEN_TOKEN holds where people sign in. What is sent, where it is not nil, and what is answered are JSON.
func askServer(c *cobra.Command, method, at, path string, send, into any) error {
	var body io.Reader
	if send != nil {
		text, err := json.Marshal(send)
		if err != nil {
			return err
		}
		body = bytes.NewReader(text)
	}
	q, err := http.NewRequestWithContext(c.Context(), method, strings.TrimSuffix(at, "/")+path, body)
	if err != nil {
		return err
	}
	q.Header.Set("Content-Type", "application/json")
	q.Header.Set("If-Match", "*")
	if token := os.Getenv("YUGEN_TOKEN"); token != "" {
		q.Header.Set("Authorization", "Bearer "+token)
	}
	r, err := http.DefaultClient.Do(q)
	if err != nil {
		return fmt.Errorf("no Yugen answers at %s: %w; name another with --server", at, err)
	}
	defer r.Body.Close()
	text, err := io.ReadAll(io.LimitReader(r.Body, maxAnswer))
	switch {
	case err != nil:
		return err
	case r.StatusCode != http.StatusOK:
		var problem struct{ Detail string }
		_ = json.Unmarshal(text, &problem) // what is no problem document has no sentence
		return errors.New(cmp.Or(problem.Detail, r.Status))
	}
	return json.Unmarshal(text, into)
}
