package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"time"

	"yugen/lab"
	"yugen/server"
)

// How many people work at once, how often each does something, and for how long they are watched.
const (
	crowdWriters = 25
	crowdReaders = 25
	crowdPause   = 2 * time.Second
	crowdTime    = 60 * time.Second
)

// measureCrowd lets people change and read the batches of the demo at once, over HTTP, and tells how long 99 of 100 changes and reads took.
func measureCrowd(ctx context.Context, l *lab.Lab, row func(string, time.Duration, time.Duration)) error {
	web := httptest.NewUnstartedServer(nil)
	handler, err := server.New(l, server.Entrance{Analyst: "measure", Hosts: []string{web.Listener.Addr().String()}})
	if err != nil {
		return err
	}
	web.Config.Handler = handler
	web.Start()
	defer web.Close()
	type target struct{ batch, injection string }
	var targets []target
	studies, err := l.Studies(ctx)
	if err != nil {
		return err
	}
	for _, s := range studies {
		for _, listed := range s.Batches {
			b, err := l.Batch(ctx, listed.ID)
			if err != nil {
				return err
			}
			if len(b.Injections) < 100 {
				targets = append(targets, target{b.ID, b.Injections[len(b.Injections)/2].ID})
			}
		}
	}
	if len(targets) == 0 {
		return errors.New("measure: there is no batch to work on")
	}
	var mu sync.Mutex
	var changes, reads []time.Duration
	var failed []error
	act := func(n, k int, writer bool) {
		t := targets[n%len(targets)]
		method, path, body := http.MethodGet, "/result", ""
		if writer {
			method, path = http.MethodPatch, "/entries"
			body = fmt.Sprintf(`{"changes": [{"injection_id": %q, "field": "factor", "value": "%d"}]}`, t.injection, 1+(n+k)%9)
		}
		r, err := http.NewRequestWithContext(ctx, method, web.URL+"/api/batches/"+t.batch+path, strings.NewReader(body))
		if err == nil {
			r.Header.Set("If-Match", "*")
			begun := time.Now()
			var answer *http.Response
			if answer, err = http.DefaultClient.Do(r); err == nil {
				_, err = io.Copy(io.Discard, answer.Body)
				answer.Body.Close()
				if answer.StatusCode != http.StatusOK {
					err = fmt.Errorf("%s %s: %s", method, path, answer.Status)
				}
			}
			mu.Lock()
			defer mu.Unlock()
			if writer {
				changes = append(changes, time.Since(begun))
			} else {
				reads = append(reads, time.Since(begun))
			}
		}
		if err != nil {
			failed = append(failed, err)
		}
	}
	var people sync.WaitGroup
	end := time.Now().Add(crowdTime)
	for n := range crowdWriters + crowdReaders {
		people.Go(func() {
			time.Sleep(time.Duration(n) * crowdPause / (crowdWriters + crowdReaders))
			for k := 0; time.Now().Before(end); k++ {
				act(n, k, n < crowdWriters)
				time.Sleep(crowdPause)
			}
		})
	}
	people.Wait()
	if len(failed) > 0 {
		return fmt.Errorf("measure: %d of %d requests failed, the first: %w", len(failed), len(changes)+len(reads), failed[0])
	}
	p99 := func(list []time.Duration) time.Duration {
		slices.Sort(list)
		return list[len(list)*99/100]
	}
	row(fmt.Sprintf("99 of 100 changes, %d people writing and %d reading", crowdWriters, crowdReaders), time.Second, p99(changes))
	row("99 of 100 reads of a result meanwhile", 500*time.Millisecond, p99(reads))
	return nil
}
