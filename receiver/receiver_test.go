package receiver

import (
	"crypto/sha256"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func put(t *testing.T, at, hash, name string, data []byte) int {
	t.Helper()
	q, err := http.NewRequest(http.MethodPut, at+"/documents/"+hash+"?name="+url.QueryEscape(name), strings.NewReader(string(data)))
	if err != nil {
		t.Fatal(err)
	}
	a, err := http.DefaultClient.Do(q)
	if err != nil {
		t.Fatal(err)
	}
	a.Body.Close()
	return a.StatusCode
}

func sum(data []byte) string { return fmt.Sprintf("%x", sha256.Sum256(data)) }

// Sent again changes nothing, also after a new start; what is not what its checksum says is not taken up; a hostile name is no path and no markup.
func TestDocumentsAreTakenUpOnce(t *testing.T) {
	dir := t.TempDir()
	r, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(r)
	defer s.Close()
	data, name := []byte("amounts"), "../../<b>x</b>.json"
	for k, want := range []int{http.StatusCreated, http.StatusOK} {
		if got := put(t, s.URL, sum(data), name, data); got != want {
			t.Errorf("sent %d times: %d, want %d", k+1, got, want)
		}
	}
	for what, got := range map[string]int{
		"another content":       put(t, s.URL, sum(data), "a", []byte("other")),
		"no checksum":           put(t, s.URL, "..", "a", data),
		"a path for a checksum": put(t, s.URL, "../"+sum(data), "a", data),
		"no name":               put(t, s.URL, sum(data), "", data),
		"a name too long":       put(t, s.URL, sum(data), strings.Repeat("n", maxName+1), data),
	} {
		if got < 400 {
			t.Errorf("%s was taken up: %d", what, got)
		}
	}
	if files, _ := filepath.Glob(filepath.Join(dir, "*")); len(files) != 2 {
		t.Errorf("the folder holds %v", files)
	}
	for path, want := range map[string]string{"/documents/" + sum(data): "amounts", "/": "&lt;b&gt;x", "/documents": sum(data)} {
		a, err := http.Get(s.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(a.Body)
		a.Body.Close()
		if !strings.Contains(string(body), want) {
			t.Errorf("%s gives %s", path, body)
		}
	}
	list := filepath.Join(dir, listFile)
	whole, err := os.ReadFile(list)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(list, append(whole, `{"name":"cut o`...), 0o644); err != nil { // the power failed
		t.Fatal(err)
	}
	again, err := Open(dir)
	if err != nil || len(again.Documents()) != 1 || again.Documents()[0].Name != name {
		t.Errorf("after a new start: %+v, %v", again, err)
	}
	if _, err := again.keep(Document{Name: "next", SHA256: sum(nil)}, nil); err != nil {
		t.Fatal(err)
	}
	if last, err := Open(dir); err != nil || len(last.Documents()) != 2 {
		t.Errorf("what came after the power failed is lost: %+v, %v", last, err)
	}
}
