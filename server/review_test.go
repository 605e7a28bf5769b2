package server

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"yugen/lab"
)

// Who signs says which state was seen: without it, or with one that is not there any more, nothing is signed; afterwards a change is answered as locked.
func TestWhatIsSignedIsWhatWasSeen(t *testing.T) {
	address, id := serve(t)
	at := address + "/api/batches/" + id
	ask := func(method, path, match, body string) (int, []byte) {
		r, data := request(t, method, at+path, body, "If-Match", match, "Content-Type", "application/json")
		return r.StatusCode, data
	}
	review := func() (r lab.Review) {
		for range 100 {
			_, data := ask("GET", "/review", "", "")
			if err := json.Unmarshal(data, &r); err != nil {
				t.Fatalf("%v %s", err, data)
			}
			if r.Reckoning == 0 {
				return r
			}
		}
		t.Fatal("effects are never reckoned")
		return r
	}
	keys := []string{}
	for _, i := range review().Items {
		keys = append(keys, i.Key)
	}
	list, _ := json.Marshal(keys)
	if status, data := ask("POST", "/review", "", fmt.Sprintf(`{"keys":%s,"verdict":"accepted"}`, list)); status != 200 {
		t.Fatalf("%d %s", status, data)
	}
	for match, want := range map[string]int{"": 428, `"1"`: 412} {
		if status, data := ask("POST", "/signatures", match, `{"meaning":"reviewed"}`); status != want {
			t.Errorf("signing of %q answers %d, want %d: %s", match, status, want, data)
		}
	}
	if len(review().Signatures) != 0 {
		t.Fatal("something is signed")
	}
	_, data := ask("GET", "", "", "")
	seen := view(t, data)
	if status, data := ask("POST", "/signatures", fmt.Sprintf(`"%d"`, seen.Batch.Revision), `{"meaning":"reviewed"}`); status != 200 {
		t.Fatalf("%d %s", status, data)
	}
	if status, data := ask("POST", "/undo", "*", `{}`); status != 423 || !strings.Contains(string(data), "Unlock it first") {
		t.Errorf("a change of a signed batch answers %d %s", status, data)
	}
	if status, data := ask("POST", "/review", "", `{"keys":[],"verdict":"accepted"}`); status != 422 || !strings.Contains(string(data), "/keys") {
		t.Errorf("nothing to judge: %d %s", status, data)
	}
}
