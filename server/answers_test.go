package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

// contractSchema compiles the schema of what an operation answers, from the contract as it is published.
func contractSchema(t *testing.T, c *jsonschema.Compiler, path, method string) *jsonschema.Schema {
	t.Helper()
	pointer := "#/paths/" + strings.ReplaceAll(strings.ReplaceAll(path, "~", "~0"), "/", "~1") + "/" + strings.ToLower(method) + "/responses/200/content/application~1json/schema"
	s, err := c.Compile("contract.json" + pointer)
	if err != nil {
		t.Fatalf("%s %s: %v", method, path, err)
	}
	return s
}

// What every operation that reads answers, for batches of all kinds, is what the contract says: no field missing, none null that may not be.
func TestAnswersKeepTheContract(t *testing.T) {
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
	address, demo := serve(t)
	_, data = request(t, "POST", address+"/api/batches", `{"study": "Empty", "name": "Nothing yet"}`)
	var empty Made
	if err := json.Unmarshal(data, &empty); err != nil {
		t.Fatal(err)
	}
	_, data = request(t, "POST", address+"/api/readings", `{"study": "Typed", "name": "One", "compound": "X", "unit": "mg/L", "text": "1\t10\n2\t20\n5\t50\nPond\t33"}`)
	var typed MadeBatches
	if err := json.Unmarshal(data, &typed); err != nil || len(typed.IDs) != 1 {
		t.Fatalf("%v %s", err, data)
	}
	s := &server{}
	checked := 0
	for _, op := range s.operations() {
		if op.method != http.MethodGet {
			continue
		}
		path := strings.NewReplacer(":batch", "{batch}", ":injection", "{injection}").Replace("/api" + op.path)
		schema := contractSchema(t, compiler, path, op.method)
		for _, id := range []string{demo, empty.ID, typed.IDs[0]} {
			injection := ""
			_, data := request(t, "GET", address+"/api/batches/"+id, "")
			if in := view(t, data).Batch.Injections; len(in) > 0 {
				injection = in[len(in)-1].ID
			}
			if injection == "" && (strings.Contains(path, "{injection}") || op.id == "working") {
				continue
			}
			compound := "caf"
			if id == typed.IDs[0] {
				compound = "typed"
			}
			url := address + strings.NewReplacer("{batch}", id, "{injection}", injection).Replace(path)
			url += fmt.Sprintf("?injection=%s&compound=%s&layout=batch", injection, compound)
			r, body := request(t, "GET", url, "")
			if r.StatusCode != http.StatusOK {
				t.Errorf("%s: %d %.200s", url, r.StatusCode, body)
				continue
			}
			answer, err := jsonschema.UnmarshalJSON(bytes.NewReader(body))
			if err != nil {
				t.Fatal(err)
			}
			if err := schema.Validate(answer); err != nil {
				t.Errorf("%s of %s: %v", op.id, id, err)
			}
			checked++
		}
	}
	if checked < 40 {
		t.Errorf("only %d answers were checked", checked)
	}
}
