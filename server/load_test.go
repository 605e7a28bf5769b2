package server

import (
	"bytes"
	"flag"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/lab"
	"yugen/people"
	"yugen/store"
)

var (
	loadPeople  = flag.Int("load-people", 6, "how many people work at once")
	loadSeconds = flag.Int("load-seconds", 2, "for how many seconds")
)

// Many people who have signed in work at once, each in a session of their own: they look, change a batch, and find; nobody is refused, and what each changed stands there.
// make load has 50 of them for a minute.
func TestManyPeopleWorkAtOnce(t *testing.T) {
	address, l, kept := staffedStore(t, Entrance{})
	ctx := t.Context()
	m := batch.NewMethod()
	m.Amounts.AsMeasured = true
	type worker struct {
		client http.Client
		batch  string
		wrote  int
	}
	workers := make([]*worker, *loadPeople)
	for k := range workers {
		name := fmt.Sprintf("Person %d", k+1)
		if _, err := l.AddPerson(ctx, lab.PersonAsked{Name: name, Roles: []people.Role{people.Analyst}, Password: password}, "console"); err != nil {
			t.Fatal(err)
		}
		id, err := l.NewBatch(ctx, "Load", name, "Load", m, name)
		if err != nil {
			t.Fatal(err)
		}
		jar, _ := cookiejar.New(nil)
		workers[k] = &worker{client: http.Client{Jar: jar}, batch: id}
		r, err := workers[k].client.Post(address+"/api/session", "application/json", strings.NewReader(fmt.Sprintf(`{"name":%q,"password":%q}`, name, password)))
		if err != nil || r.StatusCode != 200 {
			t.Fatalf("%s: %v %v", name, r, err)
		}
		r.Body.Close()
	}
	var requests, wrong atomic.Int64
	var slowest atomic.Int64
	until := time.Now().Add(time.Duration(*loadSeconds) * time.Second)
	var all sync.WaitGroup
	for _, w := range workers {
		all.Go(func() {
			ask := func(method, path, body string) bool {
				q, err := http.NewRequestWithContext(ctx, method, address+"/api"+path, bytes.NewReader([]byte(body)))
				if err != nil {
					t.Error(err)
					return false
				}
				if body != "" {
					q.Header.Set("Content-Type", "application/json")
					q.Header.Set("If-Match", "*")
				}
				start := time.Now()
				r, err := w.client.Do(q)
				if err != nil {
					wrong.Add(1)
					t.Error(err)
					return false
				}
				text, _ := io.ReadAll(r.Body)
				r.Body.Close()
				requests.Add(1)
				slowest.Store(max(slowest.Load(), int64(time.Since(start))))
				if r.StatusCode != 200 {
					wrong.Add(1)
					t.Errorf("%s %s: %d %s", method, path, r.StatusCode, text)
				}
				return r.StatusCode == 200
			}
			for n := 0; time.Now().Before(until); n++ {
				ask("GET", "/batches/"+w.batch, "")
				ask("GET", "/studies", "")
				ask("GET", "/find?for=person", "")
				ask("GET", "/record?batch="+w.batch, "")
				if ask("PUT", "/batches/"+w.batch+"/waiting", fmt.Sprintf(`{"text":"file\tname\nf%d.csv\tLeaf %d"}`, n, n)) {
					w.wrote++
				}
			}
		})
	}
	all.Wait()
	t.Logf("%d people, %d requests in %d s, the slowest %s, %d wrong", len(workers), requests.Load(), *loadSeconds, time.Duration(slowest.Load()).Round(time.Millisecond), wrong.Load())
	for _, w := range workers {
		told := 0
		if err := kept.Read(ctx, func(tx *store.Tx) error {
			rows, err := tx.FindChanges(store.Wanted{BatchID: w.batch, Action: "run list waits"}, 0, 1_000_000)
			told = len(rows)
			return err
		}); err != nil {
			t.Fatal(err)
		}
		if told != w.wrote || w.wrote == 0 {
			t.Errorf("%d changes were confirmed, the record tells of %d", w.wrote, told)
		}
	}
}
