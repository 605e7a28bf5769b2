package main

import (
	"bytes"
	"flag"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yugen/bench"
)

var litestream = flag.String("litestream", "", "the program that copies databases continuously, for the test of a second machine (make replica)")

// A second machine, as docs/scale.md has it: the raw data and the work database are copied while people work, the first machine dies, the second goes on from the copy.
// Nothing that was confirmed earlier than the last seconds is lost, what stands there checks, and how far it goes is said.
func TestASecondMachineGoesOn(t *testing.T) {
	if *litestream == "" {
		t.Skip("only when asked with -litestream PROGRAM")
	}
	dir := t.TempDir()
	data, replica, second := filepath.Join(dir, "data"), filepath.Join(dir, "replica"), filepath.Join(dir, "second")
	address, server := start(t, data)
	config := filepath.Join(dir, "replica.yml")
	text := fmt.Sprintf("dbs:\n  - dir: %s\n    pattern: \"*.db\"\n    watch: true\n    replica:\n      type: file\n      path: %s\n      sync-interval: 1s\n", data, replica)
	if err := os.WriteFile(config, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	copying := exec.Command(*litestream, "replicate", "-config", config)
	var said bytes.Buffer
	copying.Stdout, copying.Stderr = &said, &said
	if err := copying.Start(); err != nil {
		t.Fatal(err)
	}
	stop := make(chan struct{})
	go func() { // the ends of the record, a small file, every half second
		for {
			select {
			case <-stop:
				return
			case <-time.After(500 * time.Millisecond):
				if text, err := os.ReadFile(filepath.Join(data, "record.heads")); err == nil {
					_ = os.WriteFile(filepath.Join(replica, "record.heads"), text, 0o600)
				}
			}
		}
	}()
	confirmed := work(t, address, 12*time.Second)
	for _, c := range []*exec.Cmd{server, copying} { // the plug is pulled
		_ = c.Process.Kill()
		_ = c.Wait()
	}
	died := time.Now()
	close(stop)
	if len(confirmed) < 10 {
		t.Fatalf("only %d files were confirmed; %s", len(confirmed), said.String())
	}

	if err := os.MkdirAll(second, 0o755); err != nil {
		t.Fatal(err)
	}
	databases, err := filepath.Glob(filepath.Join(replica, "*.db"))
	if err != nil || len(databases) < 2 {
		t.Fatalf("%v were copied, %v\n%s", databases, err, said.String())
	}
	restore := func(name string, more ...string) error {
		to := filepath.Join(second, name)
		for _, tail := range []string{"", "-wal", "-shm", "-txid"} {
			_ = os.Remove(to + tail)
		}
		out, err := exec.Command(*litestream, append(append([]string{"restore", "-o", to}, more...), "file://"+filepath.Join(replica, name))...).CombinedOutput()
		if err != nil {
			return fmt.Errorf("%s %v: %w %s", name, more, err, out)
		}
		return nil
	}
	for _, from := range databases { // the raw data as far as they go
		if name := filepath.Base(from); name != "yugen.db" {
			if err := restore(name); err != nil {
				t.Fatalf("%v\n%s", err, said.String())
			}
		}
	}
	// The work database may be ahead of the raw data by a moment: then it is taken as it was a second earlier.
	whole := false
	for back := range 10 {
		more := []string{}
		if back > 0 {
			more = []string{"-timestamp", died.Add(-time.Duration(back) * time.Second).UTC().Format(time.RFC3339)}
		}
		if err := restore("yugen.db", more...); err != nil {
			t.Logf("%v", err)
			continue
		}
		heads, err := os.ReadFile(filepath.Join(replica, "record.heads"))
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(second, "record.heads"), heads, 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command(program, "recover", second).CombinedOutput()
		if err != nil {
			t.Fatalf("%v %s", err, out)
		}
		t.Logf("%s", out)
		if out, err = exec.Command(program, "check", second).CombinedOutput(); err == nil {
			whole = true
			break
		}
		t.Logf("%d s back: %s", back, out)
	}
	if !whole {
		t.Fatal("no copy of the last ten seconds is whole")
	}
	address, again := start(t, second)
	defer func() { _ = again.Process.Kill(); _ = again.Wait() }()
	there := get(t, address+"/api/find?for=seconds")
	lost, oldest := 0, time.Duration(0)
	for _, c := range confirmed {
		if !strings.Contains(there, c.name) {
			lost++
			oldest = max(oldest, died.Sub(c.at))
		}
	}
	t.Logf("%d files confirmed, %d of them lost, the oldest %s before the end", len(confirmed), lost, oldest.Round(100*time.Millisecond))
	if oldest > 5*time.Second {
		t.Errorf("a file that was confirmed %s before the end is lost", oldest)
	}
}

type confirmation struct {
	name string
	at   time.Time
}

// work brings files into a batch, one after the other, for so long.
func work(t *testing.T, address string, long time.Duration) (confirmed []confirmation) {
	t.Helper()
	study, err := bench.TeaAssay(77)
	if err != nil {
		t.Fatal(err)
	}
	var made struct{ ID string }
	if err := post(address+"/api/batches", `{"study":"Second","name":"Seconds"}`, &made); err != nil {
		t.Fatal(err)
	}
	for end, n := time.Now().Add(long), 0; time.Now().Before(end) && n < len(study.Files); n++ {
		f := study.Files[n]
		r, err := http.Post(address+"/api/batches/"+made.ID+"/files?name=seconds-"+f.Name, "application/octet-stream", bytes.NewReader(f.Data))
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(r.Body)
		r.Body.Close()
		if r.StatusCode == 200 && bytes.Contains(body, []byte(`"added"`)) {
			confirmed = append(confirmed, confirmation{"seconds-" + f.Name, time.Now()})
		}
		time.Sleep(long / time.Duration(len(study.Files)))
	}
	return confirmed
}

func get(t *testing.T, url string) string {
	t.Helper()
	r, err := http.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	text, _ := io.ReadAll(r.Body)
	return string(text)
}
