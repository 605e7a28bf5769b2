package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"yugen/bench"
)

// smallDisk is a disk of two megabytes, where the system lets a test make one.
func smallDisk(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, "size=2m"); err != nil {
		t.Skipf("no disk can be made here: %v", err)
	}
	t.Cleanup(func() {
		if err := syscall.Unmount(dir, syscall.MNT_DETACH); err != nil {
			t.Error(err)
		}
	})
	return dir
}

// On a full disk every file that does not fit is refused with a sentence that names the disk, what is there can still be looked at, and it is sound.
func TestAFullDisk(t *testing.T) {
	dir := filepath.Join(smallDisk(t), "data")
	address, c := start(t, dir)
	defer func() { _ = c.Process.Kill(); _ = c.Wait() }()
	var made struct{ ID string }
	if err := post(address+"/api/batches", `{"study": "S", "name": "B"}`, &made); err != nil {
		t.Fatal(err)
	}
	study, err := bench.TeaAssay(5)
	if err != nil {
		t.Fatal(err)
	}
	added, refused := 0, 0
	for _, f := range study.Files {
		r, err := http.Post(address+"/api/batches/"+made.ID+"/files?name="+f.Name, "application/octet-stream", bytes.NewReader(f.Data))
		if err != nil {
			t.Fatal(err)
		}
		answer, err := io.ReadAll(r.Body)
		r.Body.Close()
		if err != nil {
			t.Fatal(err)
		}
		var out struct{ Status, Message, Detail any }
		if err := json.Unmarshal(answer, &out); err != nil {
			t.Fatalf("%s", answer)
		}
		if out.Status == "added" {
			added++
			continue
		}
		refused++
		if says := fmt.Sprint(out.Message, out.Detail); !strings.Contains(says, "is full") || !strings.Contains(says, dir) {
			t.Errorf("refused with %d: %s", r.StatusCode, answer)
		}
	}
	if added == 0 || refused == 0 {
		t.Fatalf("%d in, %d refused", added, refused)
	}
	r, err := http.Get(address + "/api/batches/" + made.ID + "/result")
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	var view struct {
		Result struct{ Injections []struct{} }
	}
	if err := json.NewDecoder(r.Body).Decode(&view); err != nil || r.StatusCode != http.StatusOK || len(view.Result.Injections) != added {
		t.Errorf("%d: %d of %d injections, %v", r.StatusCode, len(view.Result.Injections), added, err)
	}
	if out, errs, code := yugen(t, "", "check", dir); code != 0 {
		t.Errorf("check: %s %s", out, errs)
	}
}
