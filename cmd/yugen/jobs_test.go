package main

import (
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"yugen/bench"
)

// What a server works on is listed from the shell; a job that is not there, and a server that is not, are sentences.
func TestJobsAreListedFromTheShell(t *testing.T) {
	address, server := start(t, t.TempDir())
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	if out, errs, code := yugen(t, "", "jobs", "--server", address); code != 0 || !strings.Contains(out, "Nothing is being worked on.") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if out, errs, code := yugen(t, "", "jobs", "--server", address, "--stop", "nothing"); code == 0 || !strings.Contains(errs, "has ended already") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if out, errs, code := yugen(t, "", "jobs", "--server", "http://127.0.0.1:1"); code == 0 || !strings.Contains(errs, "o Yugen answers") {
		t.Errorf("%d %s %s", code, out, errs)
	}
}

// The script that takes a folder into a batch, as docs/automation.md has it, takes every file in and says what became of each.
func TestTheScriptTakesAFolderIn(t *testing.T) {
	for _, tool := range []string{"sh", "curl", "sed"} {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skipf("%s is not here", tool)
		}
	}
	address, server := start(t, t.TempDir())
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	study, err := bench.TeaAssay(3)
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	for _, f := range study.Files[:2] {
		if err := os.WriteFile(filepath.Join(folder, f.Name), f.Data, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if err := os.WriteFile(filepath.Join(folder, "a letter & more.txt"), []byte("Dear colleague"), 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.CommandContext(t.Context(), "sh", "../../examples/automation/folder.sh", folder, "Tea", "From a folder", address).CombinedOutput()
	if err != nil || strings.Count(string(out), ": added") != 2 || !strings.Contains(string(out), "a letter & more.txt: refused") {
		t.Errorf("%v\n%s", err, out)
	}
}

// A batch is processed once more from the shell, which tells what came of it; a version that is in use cannot be taken, and a batch that is not there is said.
func TestABatchIsProcessedOnceMoreFromTheShell(t *testing.T) {
	address, server := start(t, t.TempDir())
	defer func() { _ = server.Process.Kill(); _ = server.Wait() }()
	r, err := http.Post(address+"/api/demo", "application/json", strings.NewReader("{}"))
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatal(err, r)
	}
	r.Body.Close()
	out, errs, code := yugen(t, "", "again", "Spring teas", "--server", address, "--version", "kept")
	if code != 0 || !strings.Contains(out, "again: ") || !strings.Contains(out, " results the same") || strings.Contains(out, "moved") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if out, errs, code := yugen(t, "", "again", "Spring teas", "--server", address, "--version", "kept", "--take"); code == 0 || !strings.Contains(errs, "nothing to take") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if out, errs, code := yugen(t, "", "again", "No such batch", "--server", address); code == 0 || !strings.Contains(errs, "o batch is called") {
		t.Errorf("%d %s %s", code, out, errs)
	}
	if out, errs, code := yugen(t, "", "jobs", "--server", address); code != 0 || strings.Count(out, "done  process  Spring teas") != 2 {
		t.Errorf("%d %s %s", code, out, errs)
	}
}
