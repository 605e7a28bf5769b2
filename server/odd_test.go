package server

import (
	"encoding/json"
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"
)

// contractOf is the published contract, in which references are followed.
type contractOf map[string]any

func published(t *testing.T) contractOf {
	t.Helper()
	data, err := os.ReadFile("../api/openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	var c contractOf
	if err := json.Unmarshal(data, &c); err != nil {
		t.Fatal(err)
	}
	return c
}

func (c contractOf) at(path ...string) map[string]any {
	v := map[string]any(c)
	for _, key := range path {
		next, is := v[key].(map[string]any)
		if !is {
			return nil
		}
		v = next
	}
	return c.followed(v)
}

func (c contractOf) followed(schema map[string]any) map[string]any {
	for {
		ref, is := schema["$ref"].(string)
		if !is {
			return schema
		}
		schema = c.at(strings.Split(strings.TrimPrefix(ref, "#/"), "/")...)
	}
}

var (
	oddNumbers = []any{0, -1, 1, 2, 3.5, 1e308, -1e308, 5e-324, 1 << 53, math.Copysign(0, -1), 8.8, 1e6}
	oddWords   = []string{"", " ", "x", "egcg", "caf", "Grün \u0000 緑茶", "../../etc", "<b>&", "\u202e", "'; DROP TABLE record; --", strings.Repeat("long ", 3000)}
)

// odd is a value that has the shape of a schema, if an odd one: at the ends of what numbers and words can be, with much or little that may be left out. known are
// words that exist.
func (c contractOf) odd(r *rand.Rand, schema map[string]any, known []string, depth int) any {
	schema = c.followed(schema)
	if r.IntN(60) == 0 {
		return []any{nil, "no object", 7, []any{}, map[string]any{}}[r.IntN(5)] // not what is wanted at all
	}
	if ways, is := schema["anyOf"].([]any); is {
		one, _ := ways[r.IntN(len(ways))].(map[string]any)
		return c.odd(r, one, known, depth)
	}
	if enum, is := schema["enum"].([]any); is && r.IntN(8) > 0 {
		return enum[r.IntN(len(enum))]
	}
	kind, _ := schema["type"].(string)
	if kinds, is := schema["type"].([]any); is {
		kind, _ = kinds[r.IntN(len(kinds))].(string)
	}
	switch kind {
	case "object":
		out := map[string]any{}
		properties, _ := schema["properties"].(map[string]any)
		for _, name := range slices.Sorted(mapKeys(properties)) {
			if r.IntN(5) > 0 && depth < 8 {
				one, _ := properties[name].(map[string]any)
				out[name] = c.odd(r, one, known, depth+1)
			}
		}
		if of, is := schema["additionalProperties"].(map[string]any); is && depth < 8 {
			for range r.IntN(3) {
				out[known[r.IntN(len(known))]] = c.odd(r, of, known, depth+1)
			}
		}
		return out
	case "array":
		list := []any{}
		of, _ := schema["items"].(map[string]any)
		for range []int{0, 1, 1, 2, 5, 40}[r.IntN(6)] {
			if depth < 8 {
				list = append(list, c.odd(r, of, known, depth+1))
			}
		}
		return list
	case "number", "integer":
		return oddNumbers[r.IntN(len(oddNumbers))]
	case "boolean":
		return r.IntN(2) == 0
	case "null":
		return nil
	}
	if r.IntN(2) == 0 {
		return known[r.IntN(len(known))]
	}
	return oddWords[r.IntN(len(oddWords))]
}

func mapKeys(m map[string]any) func(func(string) bool) {
	return func(yield func(string) bool) {
		for key := range m {
			if !yield(key) {
				return
			}
		}
	}
}

var oddRounds = flag.Int("odd-rounds", 8, "bodies that are sent to each operation")

// Whatever is sent to whatever changes something, in the shape that the contract tells or in none, is done or refused with a sentence: nothing goes wrong inside, and
// afterwards all that is kept is whole and can be looked at.
func TestOddRequestsAreRefusedInASentence(t *testing.T) {
	address, id := serve(t)
	contract := published(t)
	batch := view(t, whole(t, address+"/api/batches/"+id)).Batch
	known := []string{id, batch.Injections[0].ID, batch.Injections[20].ID, batch.Version.ID, "egcg", "caf", "Sencha first flush", "name", "dilution", "area_s"}
	kept := map[string]bool{"loadDemo": true, "backup": true, "check": true, "deliver": true, "signIn": true, "signOut": true} // which take no such body, or long
	r := rand.New(rand.NewPCG(20, uint64(*oddRounds)))
	done, refused := 0, 0
	s := &server{}
	for _, op := range s.operations() {
		if op.method == http.MethodGet || kept[op.id] {
			continue
		}
		path := "/api" + op.path
		for _, part := range strings.Split(op.path, "/") {
			if name, is := strings.CutPrefix(part, ":"); is {
				path = strings.Replace(path, ":"+name, "{"+name+"}", 1)
			}
		}
		schema := contract.at("paths", path, strings.ToLower(op.method), "requestBody", "content", "application/json", "schema")
		to := address + strings.NewReplacer("{batch}", id, "{injection}", batch.Injections[20].ID).Replace(path)
		to = strings.NewReplacer("{", "", "}", "").Replace(to)
		bodies := []string{"", "{", "[]", "null", `"x"`, `{"colour": 1}`, `{} {}`, strings.Repeat("[", 20_000), "\xff\xfe{"}
		for range *oddRounds {
			if schema != nil {
				text, err := json.Marshal(contract.odd(r, schema, known, 0))
				if err != nil {
					t.Fatal(err)
				}
				bodies = append(bodies, string(text))
			}
		}
		for _, body := range bodies {
			answer, said := request(t, op.method, to, body)
			switch {
			case answer.StatusCode >= 500 && answer.StatusCode != http.StatusBadGateway:
				t.Errorf("%s %s answers %d to %.400s: %s", op.method, path, answer.StatusCode, body, said)
			case answer.StatusCode < 300:
				done++
			default:
				refused++
				var p problem
				if err := json.Unmarshal(said, &p); err != nil || len(p.Detail) < 5 || len(p.Detail) > 4*maxDetail {
					t.Errorf("%s %s answers %d to %.200s without a sentence: %.300s", op.method, path, answer.StatusCode, body, said)
				}
			}
		}
	}
	t.Logf("%d requests did something, %d were refused", done, refused)
	if done < 50 || refused < 500 {
		t.Errorf("%d requests did something, %d were refused", done, refused)
	}
	for _, path := range []string{"/api/batches/" + id, "/api/batches/" + id + "/result", "/api/studies", "/api/record"} {
		if answer, said := request(t, "GET", address+path, ""); answer.StatusCode != http.StatusOK {
			t.Errorf("afterwards %s answers %d: %.300s", path, answer.StatusCode, said)
		}
	}
	answer, said := request(t, "POST", address+"/api/checks", "{}")
	var found struct {
		Wrong []string `json:"wrong"`
	}
	if err := json.Unmarshal(said, &found); err != nil || answer.StatusCode != http.StatusOK || len(found.Wrong) > 0 {
		t.Errorf("afterwards the check says %d %s", answer.StatusCode, fmt.Sprint(found.Wrong))
	}
}

// oddQueries are values that a question may have behind it.
var oddQueries = []string{"", " ", "-1", "0", "1", "2", "3.5", "1e308", "-1e308", "NaN", "Inf", "99999999999999999999", "egcg", "caf", "egcg,caf", "area_s", "area_s,tailing,amount", ",,,", "all", "batches", "time", "none", "own:x", "group:x", "sum:egcg+caf", "%00", "../..", "Grün", "<b>", "pdf", "batch", "injection", "certificate", strings.Repeat("x,", 3000)}

// Whatever is asked, with whatever behind it, is answered or refused with a sentence.
func TestOddQuestionsAreRefusedInASentence(t *testing.T) {
	address, id := serve(t)
	contract := published(t)
	r := rand.New(rand.NewPCG(26, uint64(*oddRounds)))
	answered, refused := 0, 0
	paths := contract.at("paths")
	for _, path := range slices.Sorted(mapKeys(paths)) {
		get := contract.at("paths", path, "get")
		if get == nil || strings.HasSuffix(path, "/events") {
			continue
		}
		parameters, _ := get["parameters"].([]any)
		var query []string
		for _, p := range parameters {
			if one := p.(map[string]any); one["in"] == "query" {
				query = append(query, one["name"].(string))
			}
		}
		for _, batchID := range []string{id, batchCalled(t, address, "Autumn lots"), "none"} {
			injection := "none"
			if batchID != "none" {
				injection = view(t, whole(t, address+"/api/batches/"+batchID)).Batch.Injections[3].ID
			}
			at := address + strings.NewReplacer("{batch}", batchID, "{injection}", injection).Replace(path)
			at = strings.NewReplacer("{", "", "}", "").Replace(at)
			for range min(1+3*len(query), *oddRounds) {
				values := url.Values{}
				for _, name := range query {
					if r.IntN(4) > 0 {
						values.Set(name, oddQueries[r.IntN(len(oddQueries))])
					}
				}
				answer, said := request(t, "GET", at+"?"+values.Encode(), "")
				switch {
				case answer.StatusCode >= 500 && answer.StatusCode != http.StatusBadGateway:
					t.Errorf("%s?%.300s answers %d: %.300s", path, values.Encode(), answer.StatusCode, said)
				case answer.StatusCode < 300:
					answered++
				default:
					refused++
					var p problem
					if err := json.Unmarshal(said, &p); err != nil || len(p.Detail) < 5 {
						t.Errorf("%s?%.300s answers %d without a sentence: %.200s", path, values.Encode(), answer.StatusCode, said)
					}
				}
			}
		}
	}
	t.Logf("%d questions were answered, %d were refused", answered, refused)
	if answered < 100 || refused < 300 {
		t.Errorf("%d questions were answered, %d were refused", answered, refused)
	}
}
