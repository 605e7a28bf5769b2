package server

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"yugen/instrument"
	"yugen/instrument/standin"
	"yugen/lab"
)

// What is told of instruments keeps the contract while they rest, get ready, measure and are in trouble, for every kind; what may not be asked is refused in a sentence.
func TestTheBenchKeepsItsContract(t *testing.T) {
	data, err := os.ReadFile("../api/openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	document, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	compiler := jsonschema.NewCompiler()
	if err := compiler.AddResource("contract.json", document); err != nil {
		t.Fatal(err)
	}
	all, live := contractSchema(t, compiler, "/api/bench", "GET"), contractSchema(t, compiler, "/api/bench/{instrument}/live", "GET")
	for _, c := range []struct {
		kind               instrument.Kind
		vial, looks, fault string
		world              string
	}{{instrument.LC, "A5", "bottles", "block", ""}, {instrument.GC, "2", "wash", "flame", "the air valve was opened"}, {instrument.GCMS, "3", "calibrant", "filament", ""}} {
		t.Run(string(c.kind), func(t *testing.T) {
			i, err := standin.New(c.kind, "Bench test", 900, 3, time.Date(2026, time.May, 4, 9, 0, 0, 0, time.UTC))
			if err != nil {
				t.Fatal(err)
			}
			web := httptest.NewServer(i.Handler())
			t.Cleanup(web.Close)
			t.Cleanup(web.CloseClientConnections)
			ctx, stop := context.WithCancel(context.Background())
			t.Cleanup(stop)
			go i.Run(ctx)
			address, _ := serve(t, web.URL)
			keeps := func(s *jsonschema.Schema, path string) []byte {
				t.Helper()
				r, body := request(t, "GET", address+path, "")
				if r.StatusCode != http.StatusOK {
					t.Fatalf("%s: %d %s", path, r.StatusCode, body)
				}
				v, err := jsonschema.UnmarshalJSON(bytes.NewReader(body))
				if err == nil {
					err = s.Validate(v)
				}
				if err != nil {
					t.Errorf("%s: %v", path, err)
				}
				return body
			}
			var posts []lab.BenchPost
			look := func() lab.BenchPost {
				t.Helper()
				if err := json.Unmarshal(keeps(all, "/api/bench"), &posts); err != nil || len(posts) != 1 {
					t.Fatal(err)
				}
				keeps(live, "/api/bench/"+posts[0].ID+"/live")
				return posts[0]
			}
			come := func(phase instrument.Phase) {
				t.Helper()
				for range 600 {
					if p := look(); p.State != nil && p.State.Phase == phase {
						return
					}
					time.Sleep(30 * time.Millisecond)
				}
				t.Fatalf("it is never %s", phase)
			}
			come(instrument.Resting)
			at := address + "/api/bench/" + posts[0].ID
			ask := func(path, body string, want int) {
				t.Helper()
				if r, answer := request(t, "POST", at+path, body); r.StatusCode != want {
					t.Fatalf("%s %s: %d %s", path, body, r.StatusCode, answer)
				}
			}
			_, made := request(t, "POST", address+"/api/batches", `{"study": "Bench", "name": "Runs"}`)
			var batch Made
			if err := json.Unmarshal(made, &batch); err != nil {
				t.Fatal(err)
			}
			list := fmt.Sprintf(`{"batch_id": %q, "start": "when_ready", "ending": "leave_clean", "rows": [{"name": "One", "vial": %q}]}`, batch.ID, c.vial)
			ask("/acts", `{"kind": "begin"}`, 422)
			ask("/list", strings.Replace(list, `"vial": "`+c.vial, `"vial": "`, 1), 422)
			ask("/list", strings.Replace(list, batch.ID, "nobody", 1), 404)
			ask("/list", list, 200)
			come(instrument.Preparing)
			ask("/list", list, 422)
			ask("/acts", `{"kind": "looked", "what": "`+c.looks+`"}`, 200)
			if c.world != "" {
				ask("/acts", `{"kind": "world", "what": "`+c.world+`"}`, 200)
			}
			ask("/acts", `{"kind": "adds", "fields": {"name": "Two", "vial": "`+c.vial+`", "level": "much"}}`, 422)
			ask("/acts", `{"kind": "adds", "fields": {"name": "Two", "vial": "`+c.vial+`"}}`, 200)
			come(instrument.Running)
			ask("/faults", `{"name": "rain"}`, 422)
			ask("/faults", `{"name": "`+c.fault+`"}`, 200)
			come(instrument.Stopped)
			if posts[0].Needs == 0 || posts[0].State.Trouble == nil {
				t.Errorf("%+v", posts[0])
			}
			ask("/acts", `{"kind": "go_on", "choice": "end_here"}`, 200)
			come(instrument.Resting)
			ask("x/acts", `{"kind": "begin"}`, 404)
		})
	}
	address, _ := serve(t, "http://127.0.0.1:1")
	_, body := request(t, "GET", address+"/api/bench", "")
	var posts []lab.BenchPost
	if err := json.Unmarshal(body, &posts); err != nil || len(posts) != 1 || posts[0].State != nil || posts[0].SilentS != nil {
		t.Errorf("one that is not there: %v %s", err, body)
	}
	if r, body := request(t, "POST", address+"/api/bench/"+posts[0].ID+"/acts", `{"kind": "begin"}`); r.StatusCode != http.StatusBadGateway {
		t.Errorf("%d %s", r.StatusCode, body)
	}
}
