package server

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"

	"yugen/lab"
	"yugen/store"
	"yugen/store/storetest"
)

// serve starts a server with the demo batch and gives its address and the batch's id.
func serve(t *testing.T, instruments ...string) (address, batchID string) {
	t.Helper()
	s, err := store.Open(t.Context(), loaded(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	l := lab.New(s)
	web := httptest.NewUnstartedServer(nil)
	host := web.Listener.Addr().String()
	if web.Config.Handler, err = New(l, Entrance{Analyst: "T. Ester", Hosts: []string{host}}); err != nil {
		t.Fatal(err)
	}
	web.Start()
	t.Cleanup(web.Close)
	if len(instruments) > 0 {
		if err := l.Attach(context.Background(), instruments); err != nil {
			t.Fatal(err)
		}
		t.Cleanup(l.Close)
	}
	return web.URL, firstBatch
}

var firstBatch string // of the demo

var loaded = storetest.Copies(func(dir string) error {
	ctx := context.Background()
	s, err := store.Open(ctx, dir)
	if err != nil {
		return err
	}
	l := lab.New(s)
	files, err := os.MkdirTemp("", "yugen-demo") // beside the data, so that they are not copied for every test
	if err != nil {
		return err
	}
	defer os.RemoveAll(files)
	firstBatch, err = l.LoadDemo(ctx, files)
	l.Close()
	return errors.Join(err, s.Close())
})

func request(t *testing.T, method, url, body string, headers ...string) (*http.Response, []byte) {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), method, url, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("If-Match", "*")
	for i := 0; i+1 < len(headers); i += 2 {
		r.Header.Set(headers[i], headers[i+1])
		if headers[i] == "Host" {
			r.Host = headers[i+1]
		}
	}
	response, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer response.Body.Close()
	data, err := io.ReadAll(response.Body)
	if err != nil {
		t.Fatal(err)
	}
	return response, data
}

func view(t *testing.T, data []byte) View {
	t.Helper()
	var v View
	if err := json.Unmarshal(data, &v); err != nil {
		t.Fatal(err, string(data))
	}
	return v
}

func TestTheContractIsCurrent(t *testing.T) {
	want, err := Contract()
	if err != nil {
		t.Fatal(err)
	}
	have, err := os.ReadFile("../api/openapi.json")
	if err != nil || !bytes.Equal(have, want) {
		t.Errorf("api/openapi.json is not current (%v); run make generate", err)
	}
}

func TestOtherHostsAndSitesAreRefused(t *testing.T) {
	address, _ := serve(t)
	for what, headers := range map[string][]string{"host": {"Host", "tea.example"}, "origin": {"Origin", "http://tea.example"}} {
		if r, _ := request(t, "GET", address+"/api/studies", "", headers...); r.StatusCode != http.StatusForbidden {
			t.Errorf("another %s: %d", what, r.StatusCode)
		}
	}
	if r, _ := request(t, "GET", address+"/api/studies", "", "Origin", address); r.StatusCode != http.StatusOK {
		t.Errorf("own origin: %d", r.StatusCode)
	}
}

func TestErrorsAreProblemDocuments(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	for _, c := range []struct {
		method, url, body string
		status            int
		says              string
	}{
		{"GET", address + "/api/batches/none", "", 404, "not here"},
		{"GET", address + "/api/nothing", "", 404, ""},
		{"PATCH", batch + "/entries", `{"changes": [`, 400, "cannot be read"},
		{"PATCH", batch + "/entries", `{"changes": [], "colour": 1}`, 400, "unknown field"},
		{"PATCH", batch + "/entries", `{"changes": []}`, 422, "between 1 and"},
		{"PUT", batch + "/method", `{"method": {}, "reason": "x"}`, 422, "channels"},
		{"GET", batch + "/pages?layout=poem", "", 422, "unknown"},
		{"GET", batch + "/injections/none/trace", "", 404, "not here"},
		{"POST", batch + "/redo", "{}", 422, "nothing to redo"},
	} {
		r, data := request(t, c.method, c.url, c.body)
		var p struct {
			Status int
			Detail string
		}
		if err := json.Unmarshal(data, &p); err != nil || r.StatusCode != c.status || p.Status != c.status || !strings.Contains(p.Detail, c.says) || r.Header.Get("Content-Type") != "application/problem+json" {
			t.Errorf("%s %s: %d %s %s", c.method, c.url, r.StatusCode, r.Header.Get("Content-Type"), data)
		}
	}
}

func TestAnOldRevisionAnswers412(t *testing.T) {
	address, id := serve(t)
	r, data := request(t, "GET", address+"/api/batches/"+id, "")
	tag, v := r.Header.Get("ETag"), view(t, data)
	change := fmt.Sprintf(`{"changes": [{"injection_id": %q, "field": "vial", "value": "Z1"}]}`, v.Batch.Injections[0].ID)
	r, data = request(t, "PATCH", address+"/api/batches/"+id+"/entries", change, "If-Match", tag, "Yugen-Analyst", "A.%20N.%20Other")
	if r.StatusCode != http.StatusOK || view(t, data).Batch.Injections[0].Vial != "Z1" || r.Header.Get("ETag") == tag {
		t.Fatalf("first: %d %s", r.StatusCode, r.Header.Get("ETag"))
	}
	if r, _ = request(t, "PATCH", address+"/api/batches/"+id+"/entries", change, "If-Match", tag); r.StatusCode != http.StatusPreconditionFailed {
		t.Errorf("second: %d", r.StatusCode)
	}
	_, data = request(t, "GET", address+"/api/batches/"+id+"/record", "")
	if !bytes.Contains(data, []byte(`"who":"A. N. Other"`)) {
		t.Error("the record does not name the analyst of the request")
	}
}

func TestTracesTravelAsDoubles(t *testing.T) {
	address, id := serve(t)
	_, data := request(t, "GET", address+"/api/batches/"+id, "")
	in := view(t, data).Batch.Injections[12].ID
	_, data = request(t, "GET", fmt.Sprintf("%s/api/batches/%s/injections/%s/trace?from=600&to=660&columns=5000", address, id, in), "")
	n := len(data) / 16
	if n < 600 || n > 604 {
		t.Fatalf("%d points in a minute at 10 Hz", n)
	}
	last := -1.0
	for i := range n {
		at := math.Float64frombits(binary.LittleEndian.Uint64(data[16*i:]))
		value := math.Float64frombits(binary.LittleEndian.Uint64(data[16*i+8:]))
		if at <= last || at < 599 || at > 661 || value < 0 || value > 500 {
			t.Fatalf("point %d: %g at %g s", i, value, at)
		}
		last = at
	}
	_, data = request(t, "GET", fmt.Sprintf("%s/api/batches/%s/injections/%s/trace?columns=100", address, id, in), "")
	if len(data) != 200*16 {
		t.Errorf("%d points for 100 columns", len(data)/16)
	}
}

func TestDocumentsComeAsFiles(t *testing.T) {
	address, id := serve(t)
	for path, start := range map[string]string{"report.pdf?layout=batch": "%PDF-", "results.csv": "injection,name,", "results.xlsx": "PK\x03\x04"} {
		r, data := request(t, "GET", address+"/api/batches/"+id+"/"+path, "")
		if r.StatusCode != 200 || !bytes.HasPrefix(data, []byte(start)) || !strings.HasPrefix(r.Header.Get("Content-Disposition"), "attachment") {
			t.Errorf("%s: %d %.20s", path, r.StatusCode, data)
		}
	}
	_, data := request(t, "GET", address+"/api/record?kind=export&batch="+id, "")
	for _, what := range []string{"report.pdf?layout=batch", "results.csv", "results.xlsx"} {
		if strings.Count(string(data), `"`+what+`"`) != 1 {
			t.Errorf("the record does not tell that %s was taken out: %s", what, data)
		}
	}
}

func TestImportOverHTTP(t *testing.T) {
	address, id := serve(t)
	r, data := request(t, "POST", address+"/api/batches/"+id+"/files?name=letter.txt", "Dear colleague")
	if r.StatusCode != 200 || !bytes.Contains(data, []byte(`"status":"refused"`)) {
		t.Errorf("%d %s", r.StatusCode, data)
	}
}

func TestPagesAndAssets(t *testing.T) {
	address, id := serve(t)
	for _, path := range []string{"/", "/" + id + "/peaks?i=x"} {
		r, data := request(t, "GET", address+path, "")
		if r.StatusCode != 200 || !bytes.Contains(data, []byte("<!doctype html>")) || r.Header.Get("Content-Security-Policy") == "" {
			t.Errorf("%s: %d", path, r.StatusCode)
		}
	}
	if r, _ := request(t, "GET", address+"/assets/missing.js", ""); r.StatusCode != 404 {
		t.Errorf("a missing asset: %d", r.StatusCode)
	}
}
