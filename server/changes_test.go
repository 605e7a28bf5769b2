package server

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
)

// anyNotice is the key of a notice of a batch.
func anyNotice(t *testing.T, batch string) string {
	t.Helper()
	_, data := request(t, "GET", batch+"/result", "")
	var r ResultView
	if err := json.Unmarshal(data, &r); err != nil || len(r.Result.Notices) == 0 {
		t.Fatalf("no notice: %v", err)
	}
	return r.Result.Notices[0].Key
}

// change sends a change and gives the batch after it.
func change(t *testing.T, method, url, body string) View {
	t.Helper()
	r, data := request(t, method, url, body)
	if r.StatusCode != http.StatusOK {
		t.Fatalf("%s %s: %d %s", method, url, r.StatusCode, data)
	}
	return view(t, data)
}

// Every change over HTTP does what it says, counts the revision up, and is undone by undo.
func TestEveryChangeAndItsUndo(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	_, data := request(t, "GET", batch, "")
	before := view(t, data)
	in := before.Batch.Injections[20]
	settle := fmt.Sprintf(`{"keys": [%q], "reason": "seen"}`, anyNotice(t, batch))
	method := before.Batch.Version.Method
	method.Checks.Blank = 33
	newMethod, err := json.Marshal(MethodChange{method, "tighter"})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what, verb, path, body string
		done                   func(View) bool
	}{
		{"run list", "PATCH", "/entries", fmt.Sprintf(`{"changes": [{"injection_id": %q, "field": "factor", "value": "1.5"}]}`, in.ID), func(v View) bool { return v.Batch.Injections[20].Factor == 1.5 }},
		{"run order", "POST", "/order", fmt.Sprintf(`{"injection_id": %q, "position": 1}`, in.ID), func(v View) bool { return v.Batch.Injections[0].ID == in.ID }},
		{"remove", "POST", "/removals", fmt.Sprintf(`{"injection_id": %q}`, in.ID), func(v View) bool { return len(v.Batch.Injections) == 46 }},
		{"method", "PUT", "/method", string(newMethod), func(v View) bool { return v.Batch.Version.Number == 2 && v.Batch.Version.Method.Checks.Blank == 33 }},
		{"edit", "POST", "/edits", fmt.Sprintf(`{"injection_id": %q, "edit": {"kind": "remove", "apex_min": 8.79}, "reason": "x"}`, in.ID), func(v View) bool { return len(v.Batch.Injections[20].Edits) == 1 }},
		{"notice", "POST", "/settled", settle, func(v View) bool { return len(v.Batch.Settled) == 1 }},
	} {
		after := change(t, c.verb, batch+c.path, c.body)
		if !c.done(after) || !strings.HasPrefix(after.History.Undo, c.what) {
			t.Errorf("%s was not done: undo would be %q", c.what, after.History.Undo)
		}
		undone := change(t, "POST", batch+"/undo", "{}")
		if c.done(undone) || undone.Batch.Revision != after.Batch.Revision+1 || !strings.HasPrefix(undone.History.Redo, c.what) {
			t.Errorf("%s was not undone: %+v", c.what, undone.History)
		}
		redone := change(t, "POST", batch+"/redo", "{}")
		if !c.done(redone) {
			t.Errorf("%s was not done again", c.what)
		}
		change(t, "POST", batch+"/undo", "{}")
	}
	_, data = request(t, "GET", batch, "")
	after := view(t, data)
	after.Batch.Revision, after.History = before.Batch.Revision, before.History
	if a, b := mustMarshal(t, before), mustMarshal(t, after); a != b {
		t.Errorf("after undoing everything the batch is\n%s\nand was\n%s", b, a)
	}
}

func mustMarshal(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// An edit that is taken back leaves the injection as it came; a preview leaves everything as it is.
func TestTakeBackAndPreview(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	_, data := request(t, "GET", batch, "")
	in := view(t, data).Batch.Injections[20].ID
	edit := fmt.Sprintf(`{"injection_id": %q, "edit": {"kind": "remove", "apex_min": 8.79}, "reason": "x"}`, in)
	change(t, "POST", batch+"/edits", edit)
	v := change(t, "POST", batch+"/edits/take-back", fmt.Sprintf(`{"injection_id": %q, "index": 0}`, in))
	if len(v.Batch.Injections[20].Edits) != 0 {
		t.Error("the edit is still there")
	}
	if r, _ := request(t, "POST", batch+"/edits/take-back", fmt.Sprintf(`{"injection_id": %q, "index": 3}`, in)); r.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("taking back what is not there: %d", r.StatusCode)
	}
	body := fmt.Sprintf(`{"injection_id": %q, "settings": {"width_min": 0.13, "threshold": 5, "least_area": 30}, "edits": null, "whole": true}`, in)
	r, data := request(t, "POST", batch+"/preview", body)
	var preview struct {
		Injection struct{ Peaks []struct{} }
		Batch     struct{ Gone int }
	}
	if err := json.Unmarshal(data, &preview); err != nil || r.StatusCode != 200 || len(preview.Injection.Peaks) >= 13 || preview.Batch.Gone < 20 {
		t.Errorf("%d %s", r.StatusCode, data[:200])
	}
	_, data = request(t, "GET", batch, "")
	if view(t, data).Batch.Revision != v.Batch.Revision {
		t.Error("a preview was written")
	}
}

// A window that listens hears of a change made through another.
func TestEventsTellOfChanges(t *testing.T) {
	address, id := serve(t)
	r, err := http.Get(address + "/api/events")
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	lines := bufio.NewScanner(r.Body)
	if !lines.Scan() || lines.Text() != ": open" {
		t.Fatalf("%q", lines.Text())
	}
	v := change(t, "POST", address+"/api/batches/"+id+"/settled", fmt.Sprintf(`{"keys": [%q], "reason": "because"}`, anyNotice(t, address+"/api/batches/"+id)))
	for lines.Scan() {
		if text, ok := strings.CutPrefix(lines.Text(), "data: "); ok && !strings.Contains(text, `"kind"`) {
			if want := fmt.Sprintf(`{"batch_id":%q,"revision":%d}`, id, v.Batch.Revision); text != want {
				t.Errorf("%s, want %s", text, want)
			}
			return
		}
	}
	t.Error("no event came")
}

// The numbers that the result holds are those of the working and of the table that is exported.
func TestResultWorkingAndTableAgree(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	var result ResultView
	_, data := request(t, "GET", batch+"/result", "")
	if err := json.Unmarshal(data, &result); err != nil {
		t.Fatal(err)
	}
	row := result.Result.Samples[5]
	want := row.Values["caf"].Mean
	_, data = request(t, "GET", batch+"/working?compound=caf&injection="+row.InjectionIDs[0], "")
	var working struct {
		Value *float64
		Unit  string
		Steps []struct{ Title string }
	}
	if err := json.Unmarshal(data, &working); err != nil || working.Value == nil || *working.Value != *want || working.Unit != "mg/g" || len(working.Steps) != 6 {
		t.Errorf("%s", data)
	}
	reading := result.Result.Injections[26].Readings["caf"]
	_, table := request(t, "GET", batch+"/results.csv", "")
	if !strings.Contains(string(table), fmt.Sprintf(",%v,", *reading.Concentration)) {
		t.Errorf("the table lacks %v", *reading.Concentration)
	}
	if r, _ := request(t, "GET", batch+"/working?compound=none&injection="+row.InjectionIDs[0], ""); r.StatusCode != http.StatusNotFound {
		t.Errorf("the working of no compound: %d", r.StatusCode)
	}
}

// The list of all peaks is short; one injection's peaks have every measure, and the reason of each that is absent.
func TestPeaksWithAllTheirMeasures(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	_, data := request(t, "GET", batch+"/result", "")
	if strings.Contains(string(data), `"skew"`) || !strings.Contains(string(data), `"tailing"`) {
		t.Error("the result has measures that nobody looks at in a list")
	}
	var list ResultView
	if err := json.Unmarshal(data, &list); err != nil {
		t.Fatal(err)
	}
	in := list.Result.Injections[20]
	_, data = request(t, "GET", batch+"/injections/"+in.ID+"/peaks", "")
	var peaks []struct {
		AreaS  float64 `json:"area_s"`
		Skew   *float64
		Absent map[string]string
	}
	if err := json.Unmarshal(data, &peaks); err != nil || len(peaks) != len(in.Peaks) {
		t.Fatal(err, len(peaks))
	}
	for i, p := range peaks {
		if p.AreaS != in.Peaks[i].AreaS || p.Skew == nil && p.Absent["skew"] == "" || p.Absent["retention_factor"] == "" {
			t.Errorf("peak %d: %+v", i+1, p)
		}
	}
	if r, _ := request(t, "GET", batch+"/injections/none/peaks", ""); r.StatusCode != http.StatusNotFound {
		t.Errorf("an injection that is not there: %d", r.StatusCode)
	}
}

// What asks and writes nothing: each answers as its contract says, and bad questions are refused with a sentence.
func TestQuestionsThatWriteNothing(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	_, data := request(t, "GET", batch, "")
	before := view(t, data)
	in := before.Batch.Injections[20].ID
	for _, c := range []struct {
		method, path, body string
		status             int
		holds              string
	}{
		{"GET", "/limits", "", 200, `"way":"blanks"`},
		{"GET", "/versions", "", 200, `"number":1`},
		{"GET", "/since", "", 200, `"effects":[]`},
		{"GET", "/control?compound=egcg", "", 200, `"outside":true`},
		{"POST", "/curve-trials", `{"compound_id": "caf", "own": {"model": "quadratic", "weight": "1/x2"}}`, 200, `"model":"quadratic"`},
		{"POST", "/curve-trials", `{"compound_id": "caf", "own": {"model": "cubic"}}`, 422, "cubic"},
		{"POST", "/curve-trials", `{"compound_id": "caf", "own": null, "version_id": "none"}`, 404, ""},
		{"POST", "/suggestions", fmt.Sprintf(`{"marks": [{"injection_id": %q, "at_min": 8.8, "keep": true}]}`, in), 200, `"satisfied":[true]`},
		{"POST", "/suggestions", `{"marks": []}`, 422, "from 1 to 60"},
		{"POST", "/preview", fmt.Sprintf(`{"injection_id": %q, "settings": {"width_min": 0.1, "split": "axe"}}`, in), 422, "it is drop, valley or fit"},
		{"GET", "/working?compound=group:none&injection=" + in, "", 404, ""},
	} {
		r, data := request(t, c.method, batch+c.path, c.body)
		if r.StatusCode != c.status || !strings.Contains(string(data), c.holds) {
			t.Errorf("%s %s %s: %d %.300s", c.method, c.path, c.body, r.StatusCode, data)
		}
	}
	_, data = request(t, "GET", batch, "")
	if after := view(t, data); after.Batch.Revision != before.Batch.Revision {
		t.Error("a question has changed the batch")
	}
}

// A change says which revision it is of; without saying so, or of an older one, it is refused and nothing is written.
func TestChangesSayOfWhat(t *testing.T) {
	address, id := serve(t)
	batch := address + "/api/batches/" + id
	v := change(t, "POST", batch+"/settled", fmt.Sprintf(`{"keys": [%q], "reason": "seen"}`, anyNotice(t, batch)))
	for what, c := range map[string]struct {
		tag  string
		want int
	}{
		"nothing":        {"", http.StatusPreconditionRequired},
		"an older one":   {fmt.Sprintf(`"%d"`, v.Batch.Revision-1), http.StatusPreconditionFailed},
		"without quotes": {"5", http.StatusBadRequest},
		"nonsense":       {`"x"`, http.StatusBadRequest},
	} {
		if r, data := request(t, "POST", batch+"/undo", "{}", "If-Match", c.tag); r.StatusCode != c.want {
			t.Errorf("undo with %s: %d %s", what, r.StatusCode, data)
		}
	}
	if r, _ := request(t, "POST", batch+"/undo", "{}", "If-Match", fmt.Sprintf(`"%d"`, v.Batch.Revision)); r.StatusCode != http.StatusOK {
		t.Errorf("undo of what was read: %d", r.StatusCode)
	}
}

// Bodies are one JSON value within bounds.
func TestBodiesAreReadWhole(t *testing.T) {
	address, _ := serve(t)
	for what, c := range map[string]struct {
		body string
		want int
	}{
		"junk behind it":    {`{"study": "S", "name": "B"} x`, http.StatusBadRequest},
		"a second value":    {`{"study": "S", "name": "B"}{}`, http.StatusBadRequest},
		"nothing":           {``, http.StatusBadRequest},
		"half of it":        {`{"study": "S"`, http.StatusBadRequest},
		"the wrong kind":    {`{"study": 5}`, http.StatusBadRequest},
		"more than is read": {`{"study": "` + strings.Repeat("x", maxJSON) + `"}`, http.StatusRequestEntityTooLarge},
	} {
		if r, data := request(t, "POST", address+"/api/batches", c.body); r.StatusCode != c.want {
			t.Errorf("%s: %d %.200s", what, r.StatusCode, data)
		}
	}
}
