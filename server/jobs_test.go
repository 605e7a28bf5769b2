package server

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"yugen/jobs"
	"yugen/lab"
)

// processedOnceMore processes a batch once more with the version that it has, and gives the id of the job when it has ended.
func processedOnceMore(t *testing.T, address, batch string) string {
	t.Helper()
	r, data := request(t, "POST", address+"/api/batches/"+batch+"/process", `{"version": "kept"}`)
	var j jobs.Job
	if err := json.Unmarshal(data, &j); err != nil || r.StatusCode != http.StatusOK || j.ID == "" {
		t.Fatalf("%d %s", r.StatusCode, data)
	}
	for range 400 {
		_, data := request(t, "GET", address+"/api/jobs", "")
		var list []jobs.Job
		if err := json.Unmarshal(data, &list); err != nil {
			t.Fatal(err)
		}
		for _, other := range list {
			if other.ID == j.ID && other.State == jobs.Done {
				return j.ID
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatal("it has not ended")
	return ""
}

// What processing once more found is asked for by its job; what has ended can no longer be stopped, held, let go on or put first, and what nobody asked for is not there.
func TestWhatHasEndedIsLookedAtAndNothingElse(t *testing.T) {
	address, demo := serve(t)
	job := processedOnceMore(t, address, demo)
	r, data := request(t, "GET", address+"/api/jobs/"+job+"/changes", "")
	var found lab.ProcessedAgain
	if err := json.Unmarshal(data, &found); err != nil || r.StatusCode != http.StatusOK || found.BatchID != demo || found.Same == 0 || found.MovedInAll != 0 {
		t.Errorf("%d %s", r.StatusCode, data)
	}
	for _, what := range []string{"stop", "pause", "continue", "first"} {
		if r, data := request(t, "POST", address+"/api/jobs/"+job+"/"+what, ""); r.StatusCode != http.StatusNotFound || !strings.Contains(string(data), "ended already") {
			t.Errorf("%s: %d %s", what, r.StatusCode, data)
		}
	}
	if r, data := request(t, "GET", address+"/api/jobs/none/changes", ""); r.StatusCode != http.StatusNotFound {
		t.Errorf("%d %s", r.StatusCode, data)
	}
	if r, data := request(t, "POST", address+"/api/jobs/"+job+"/take", `{}`); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(string(data), "nothing to take") {
		t.Errorf("%d %s", r.StatusCode, data)
	}
	if r, data := request(t, "POST", address+"/api/batches/"+demo+"/process", `{"injection_ids": ["none"]}`); r.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(string(data), "/injection_ids/0") {
		t.Errorf("%d %s", r.StatusCode, data)
	}
}
