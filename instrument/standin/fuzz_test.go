package standin

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"yugen/instrument"
)

// Whatever is sent, an instrument answers: with its state, or with a sentence; it neither stops nor loses the list that it has.
func FuzzProtocol(f *testing.F) {
	for _, s := range []string{
		`{"kind": "begin"}`, `{"kind": "moves", "what": "a", "value": 1e300}`, `{"kind": "sets", "what": "volume", "value": -1}`, `{"kind": "adds", "row": {"id": "a", "vial": ""}}`, `{"kind": "removes", "what": "b"}`,
		`{"list": {"id": "x", "rows": [{"id": "a", "vial": "A5"}], "start": "when_ready", "ending": "rest", "run_min": 1e9}, "who": ""}`, `{"n": -5}`, `{"n": 9223372036854775807}`, `{"name": "block"}`,
		`{"kind": "stop_now"}`, `{"kind": "go_on", "choice": "again_first"}`, `{"kind": "world", "what": "a new lamp was put in"}`, `[]`, ``, `{"kind": "begin"} {}`,
	} {
		for k := range instrument.Operations {
			f.Add(k, s)
		}
	}
	f.Fuzz(func(t *testing.T, which int, body string) {
		for _, kind := range instrument.Kinds {
			i, err := New(kind, "Fuzzed", 1, 1, morning)
			if err != nil {
				t.Fatal(err)
			}
			vial := map[instrument.Kind]string{instrument.LC: "A5", instrument.GC: "2", instrument.GCMS: "3"}[kind]
			if err := i.Take(instrument.List{ID: "1", For: "t", Rows: rows(vial, vial), Start: instrument.WhenReady, Ending: instrument.StayReady}, ""); err != nil {
				t.Fatal(err)
			}
			op := instrument.Operations[((which%len(instrument.Operations))+len(instrument.Operations))%len(instrument.Operations)]
			if op.ID == "events" {
				continue // a stream does not end
			}
			w := httptest.NewRecorder()
			r := httptest.NewRequest(op.Method, "/api"+op.Path, strings.NewReader(body))
			r.Header.Set("Content-Type", "application/json")
			i.Handler().ServeHTTP(w, r)
			if !json.Valid(w.Body.Bytes()) || w.Code != http.StatusOK && w.Code != http.StatusBadRequest && w.Code != http.StatusUnprocessableEntity {
				t.Fatalf("%s %s with %q: %d %q", op.Method, op.Path, body, w.Code, w.Body)
			}
			i.Pass(2)
			if s := i.State(); s.Phase == "" || !json.Valid(must(t, s)) {
				t.Fatalf("%+v", s)
			}
		}
	})
}

func must(t *testing.T, v any) []byte {
	t.Helper()
	data, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return data
}
