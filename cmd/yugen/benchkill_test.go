package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yugen/formats/read"
	"yugen/store"
)

// standIn starts an instrument of its own, and gives its address.
func standIn(t *testing.T, kind, speed string) string {
	t.Helper()
	c := exec.CommandContext(t.Context(), program, "instrument", "--kind", kind, "--port", "0", "--speed", speed)
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	_, address, _ := strings.Cut(strings.TrimSpace(line), "http://")
	return "http://" + strings.TrimSuffix(address, "/")
}

func getJSON(t *testing.T, address string, into any) error {
	t.Helper()
	r, err := http.Get(address)
	if err != nil {
		return err
	}
	defer r.Body.Close()
	return json.NewDecoder(r.Body).Decode(into)
}

// The power is cut at any moment while an instrument measures: after each start the list goes on, and of every run every point of every signal and every spectrum is there.
func TestKilledWhileAnInstrumentMeasuresNoPointIsLost(t *testing.T) {
	rows := 4 + *killRounds/4 // so that it measures to the last one
	dir, at := filepath.Join(t.TempDir(), "data"), standIn(t, "lc", "500")
	address, c := start(t, dir, "--instrument", at)
	var made struct{ ID string }
	if err := post(address+"/api/batches", `{"study": "Tea", "name": "Under fire"}`, &made); err != nil {
		t.Fatal(err)
	}
	var posts []struct {
		ID    string
		State *struct{ Phase string }
	}
	until := func(what string, is func() bool) {
		t.Helper()
		for range 1200 {
			if is() {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
		t.Fatalf("it did not come to it that %s", what)
	}
	until("the instrument answers", func() bool {
		return getJSON(t, address+"/api/bench", &posts) == nil && len(posts) == 1 && posts[0].State != nil
	})
	var list []string
	for k := range rows {
		list = append(list, fmt.Sprintf(`{"name": "Tea %d", "vial": "B%d", "role": "sample"}`, k+1, k%8+1))
	}
	asked := fmt.Sprintf(`{"batch_id": %q, "start": "when_ready", "ending": "leave_clean", "rows": [%s]}`, made.ID, strings.Join(list, ","))
	var out any
	if err := post(address+"/api/bench/"+posts[0].ID+"/list", asked, &out); err != nil {
		t.Fatal(err)
	}
	if err := post(address+"/api/bench/"+posts[0].ID+"/acts", `{"kind": "looked", "what": "bottles"}`, &out); err != nil {
		t.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 3))
	for range *killRounds {
		time.Sleep(time.Duration(300+rng.IntN(1500)) * time.Millisecond)
		_ = c.Process.Kill()
		_ = c.Wait()
		address, c = start(t, dir, "--instrument", at)
	}
	var held struct {
		Batch struct{ Injections []struct{ ID string } }
	}
	until("all runs are in their batch", func() bool {
		return getJSON(t, address+"/api/batches/"+made.ID, &held) == nil && len(held.Batch.Injections) == rows
	})
	_ = c.Process.Kill()
	_ = c.Wait()
	s, err := store.Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Read(t.Context(), func(tx *store.Tx) error {
		b, err := tx.Batch(made.ID)
		if err != nil {
			return err
		}
		for k, in := range b.Injections {
			from, err := tx.OpenRaw(in.RawHash)
			if err != nil {
				return err
			}
			data, err := io.ReadAll(io.NewSectionReader(from, 0, from.Size))
			if err != nil {
				return err
			}
			f, err := read.File(data)
			if err != nil {
				return err
			}
			if n := len(f.Channels[0].Values); n != 18*600+1 || len(f.Spectra) != 1 || len(f.Spectra[0].Scans) != 18*60+1 || len(in.Doubts) > 0 {
				t.Errorf("run %d: %d points, %+v", k+1, n, in.Doubts)
			}
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if out, errs, code := yugen(t, "", "check", dir); code != 0 || !strings.Contains(out, "All is well") {
		t.Errorf("check: %s %s", out, errs)
	}
}
