package store

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"yugen/jobs"
)

// What has ended is remembered for 90 days, the newest last; what is older goes with the next that ends.
func TestWhatHasEndedIsRememberedForNinetyDays(t *testing.T) {
	s := open(t, t.TempDir())
	day := 24 * time.Hour
	for k, ago := range []time.Duration{91 * day, 89 * day, time.Hour} {
		at := time.Now().Add(-ago)
		if err := s.EndJob(jobs.Job{ID: fmt.Sprint("j", k), Kind: jobs.Process, State: jobs.Done, Outcome: "as it was", Ended: &at}); err != nil {
			t.Fatal(err)
		}
	}
	var list []jobs.Job
	ended := func(most int) []jobs.Job {
		if err := s.Read(t.Context(), func(tx *Tx) (err error) {
			list, err = tx.EndedJobs(most)
			return err
		}); err != nil {
			t.Fatal(err)
		}
		return list
	}
	if list := ended(10); len(list) != 2 || list[0].ID != "j1" || list[1].ID != "j2" || list[1].Outcome != "as it was" {
		t.Errorf("%+v", list)
	}
	if list := ended(1); len(list) != 1 || list[0].ID != "j2" {
		t.Errorf("%+v", list)
	}
	write(t, s, func(tx *Tx) error { return tx.PutProcessedAgain("j2", "b", `{"same": 7}`) })
	if err := s.Read(t.Context(), func(tx *Tx) error {
		document, err := tx.ProcessedAgain("j2")
		if err != nil || document != `{"same": 7}` {
			t.Errorf("%s %v", document, err)
		}
		if _, err := tx.ProcessedAgain("j1"); !errors.Is(err, ErrNotFound) {
			t.Errorf("what nobody found is %v", err)
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
}
