package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yugen/bench"
	"yugen/formats/runlist"
	"yugen/store"
)

var killRounds = flag.Int("kill-rounds", 3, "how often the server is killed")

func runListOf(s bench.Study) []runlist.Line {
	var lines []runlist.Line
	for i, f := range s.Files {
		lines = append(lines, runlist.Line{File: f.Name, Entry: s.RunList[i]})
	}
	return lines
}

// start serves a data folder and gives the address once it is ready.
func start(t *testing.T, dir string, more ...string) (address string, c *exec.Cmd) {
	t.Helper()
	c = exec.CommandContext(t.Context(), program, append([]string{"serve", "--port", "0", "--data", dir}, more...)...)
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	_, address, _ = strings.Cut(strings.TrimSpace(line), "http://")
	return "http://" + strings.TrimSuffix(address, "/"), c
}

func post(address, body string, into any) error {
	r, err := http.Post(address, "application/json", strings.NewReader(body))
	if err != nil {
		return err
	}
	defer r.Body.Close()
	if r.StatusCode != http.StatusOK {
		return fmt.Errorf("%s", r.Status)
	}
	return json.NewDecoder(r.Body).Decode(into)
}

// Killing the process at any moment loses nothing that was answered with success.
func TestKilledAtAnyMomentNothingConfirmedIsLost(t *testing.T) {
	study, err := bench.TeaAssay(5)
	if err != nil {
		t.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(1, 9))
	for round := range *killRounds {
		dir := filepath.Join(t.TempDir(), "data")
		address, c := start(t, dir)
		var made struct{ ID string }
		if err := post(address+"/api/batches", `{"study": "S", "name": "B"}`, &made); err != nil {
			t.Fatal(err)
		}
		go func() {
			time.Sleep(time.Duration(150+rng.IntN(400)) * time.Millisecond)
			_ = c.Process.Kill()
		}()
		confirmed := map[string]bool{}
		for _, f := range study.Files {
			var out struct {
				Status      string
				InjectionID string `json:"injection_id"`
			}
			r, err := http.Post(address+"/api/batches/"+made.ID+"/files?name="+f.Name, "application/octet-stream", bytes.NewReader(f.Data))
			if err != nil {
				break
			}
			err = json.NewDecoder(r.Body).Decode(&out)
			r.Body.Close()
			if err != nil {
				break
			}
			if out.Status == "added" {
				confirmed[out.InjectionID] = true
			}
		}
		_ = c.Wait()
		s, err := store.Open(t.Context(), dir)
		if err != nil {
			t.Fatal(err)
		}
		var held store.Batch
		if err := s.Read(t.Context(), func(tx *store.Tx) error {
			held, err = tx.Batch(made.ID)
			return err
		}); err != nil {
			t.Fatal(err)
		}
		s.Close()
		for _, in := range held.Injections {
			delete(confirmed, in.ID)
		}
		t.Logf("round %d: %d injections held", round+1, len(held.Injections))
		if len(confirmed) > 0 {
			t.Errorf("lost %d confirmed injections", len(confirmed))
		}
		if out, errs, code := yugen(t, "", "check", dir); code != 0 || !strings.Contains(out, "All is well") {
			t.Errorf("check: %s %s", out, errs)
		}
	}
}

func TestAPortInUseIsASentence(t *testing.T) {
	address, c := start(t, filepath.Join(t.TempDir(), "data"))
	defer func() { _ = c.Process.Kill() }()
	port := address[strings.LastIndex(address, ":")+1:]
	_, errs, code := yugen(t, "", "serve", "--port", port, "--data", t.TempDir())
	if code != 1 || !strings.Contains(errs, "is in use") || !strings.Contains(errs, "PORT=") {
		t.Errorf("exit %d: %s", code, errs)
	}
}
