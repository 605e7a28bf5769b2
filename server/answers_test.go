package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"reflect"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"yugen/core/checks"
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
	// Of spectra only a batch that has some is asked; the others say that they have none.
	spectral := map[string]bool{"spectrum": true, "purity": true, "spectraMap": true, "resolvedStretch": true, "secondOpinion": true}
	colours := batchCalled(t, address, "Autumn lots")
	job := processedOnceMore(t, address, demo)
	s := &server{}
	checked := 0
	for _, op := range s.operations() {
		if op.method != http.MethodGet || strings.Contains(op.path, ":look") || strings.Contains(op.path, ":instrument") { // no file is looked at here, and no instrument is at hand
			continue
		}
		path := strings.NewReplacer(":batch", "{batch}", ":injection", "{injection}", ":job", "{job}").Replace("/api" + op.path)
		schema := contractSchema(t, compiler, path, op.method)
		for _, id := range []string{demo, empty.ID, typed.IDs[0], colours} {
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
			} else if id == colours {
				compound = "tartrazine"
			}
			url := address + strings.NewReplacer("{batch}", id, "{injection}", injection, "{job}", job).Replace(path)
			url += fmt.Sprintf("?injection=%s&compound=%s&layout=batch&quantity=area_s&measures=area_s,retention_min&quantities=area_s,tailing&of=all&along=batches&rules=beyond,side&at=2.79&at_min=2.79&stretch=0", injection, compound)
			r, body := request(t, "GET", url, "")
			if spectral[op.id] && id != colours {
				if r.StatusCode != http.StatusNotFound {
					t.Errorf("%s, where there are no spectra: %d %.200s", url, r.StatusCode, body)
				}
				continue
			}
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

// A refusal says which field of the request it is about.
func TestProblemsPointAtTheirField(t *testing.T) {
	address, demo := serve(t)
	batchAt := address + "/api/batches/" + demo
	_, data := request(t, "GET", batchAt, "")
	in := view(t, data).Batch.Injections[1].ID
	entries := `{"changes": [{"injection_id": "` + in + `", "field": "dilution", "value": "2"}, {"injection_id": "` + in + `", "field": "dilution", "value": "many"}]}`
	long := strings.Repeat("x", 600)
	for _, c := range []struct{ method, at, body, pointer string }{
		{"PATCH", batchAt + "/entries", entries, "/changes/1/value"},
		{"POST", batchAt + "/order", `{"injection_id": "` + in + `", "position": 4000}`, "/position"},
		{"POST", batchAt + "/order", `{"injection_id": "` + in + `", "position": "first"}`, "/position"},
		{"POST", batchAt + "/order", `{"injection_id": "` + in + `", "position": 3, "reason": "` + long + `"}`, "/reason"},
		{"POST", address + "/api/batches", `{"study": "S", "name": ""}`, "/name"},
		{"POST", batchAt + "/edits", `{"injection_id": "` + in + `", "edit": {"kind": "twist", "apex_min": 3}, "reason": "x"}`, "/edit"},
	} {
		r, data := request(t, c.method, c.at, c.body)
		var p struct{ Pointer string }
		if err := json.Unmarshal(data, &p); err != nil || r.StatusCode < 400 || r.StatusCode > 499 || p.Pointer != c.pointer {
			t.Errorf("%s: %d %s, want the pointer %s", c.body[:min(80, len(c.body))], r.StatusCode, data[:min(200, len(data))], c.pointer)
		}
	}
	_, data = request(t, "GET", batchAt, "")
	method, err := json.Marshal(view(t, data).Batch.Version.Method)
	if err != nil {
		t.Fatal(err)
	}
	bad := strings.Replace(string(method), `"unit":"mg/L"`, `"unit":"cups"`, 1)
	r, data := request(t, "PUT", batchAt+"/method", `{"method": `+bad+`, "reason": "x"}`)
	var p struct{ Pointer string }
	if err := json.Unmarshal(data, &p); err != nil || r.StatusCode != http.StatusUnprocessableEntity || !strings.HasPrefix(p.Pointer, "/method/") {
		t.Errorf("a method: %d %s", r.StatusCode, data)
	}
}

// Two types under one name would write one over the other.
func TestNamesInTheContractCannotClash(t *testing.T) {
	type Outcome struct{ Other int }
	s := &schemas{defined: map[string]any{}, types: map[string]reflect.Type{}}
	s.of(reflect.TypeOf(checks.Outcome{}))
	s.of(reflect.TypeOf(checks.Outcome{}))
	if len(s.clashes) != 0 {
		t.Errorf("a type clashes with itself: %v", s.clashes)
	}
	if s.of(reflect.TypeOf(Outcome{})); len(s.clashes) != 1 {
		t.Errorf("clashes: %v", s.clashes)
	}
}

// What is kept and what is said over HTTP have types of their own: no structure of the store stands in the contract, however deep.
func TestTheContractSaysNothingOfTheStoresForm(t *testing.T) {
	s := &server{}
	seen := map[reflect.Type]bool{}
	var walk func(of reflect.Type, from string)
	walk = func(of reflect.Type, from string) {
		switch of.Kind() {
		case reflect.Pointer, reflect.Slice, reflect.Array, reflect.Map:
			walk(of.Elem(), from)
			return
		case reflect.Struct:
		default:
			return
		}
		if seen[of] {
			return
		}
		seen[of] = true
		if strings.HasSuffix(of.PkgPath(), "yugen/store") {
			t.Errorf("%s answers with %s", from, of)
		}
		for i := range of.NumField() {
			if f := of.Field(i); f.IsExported() && f.Tag.Get("json") != "-" {
				walk(f.Type, from)
			}
		}
	}
	for _, o := range s.operations() {
		for _, v := range []any{o.body, o.answer} {
			if v != nil {
				walk(reflect.TypeOf(v), o.id)
			}
		}
	}
	if len(seen) < 80 {
		t.Errorf("only %d types were looked at", len(seen))
	}
}

// batchCalled is the id of the batch of a name.
func batchCalled(t *testing.T, address, name string) string {
	t.Helper()
	_, data := request(t, "GET", address+"/api/studies", "")
	var studies []struct {
		Batches []struct{ ID, Name string }
	}
	if err := json.Unmarshal(data, &studies); err != nil {
		t.Fatal(err)
	}
	for _, s := range studies {
		for _, b := range s.Batches {
			if b.Name == name {
				return b.ID
			}
		}
	}
	t.Fatalf("there is no batch %s", name)
	return ""
}
