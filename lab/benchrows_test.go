package lab

import (
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"yugen/core/batch"
	"yugen/instrument"
	"yugen/lab/running"
	"yugen/lab/taking"
	"yugen/store"
)

// given is a lab whose instrument has a list of so many rows, and does nothing with it yet.
func given(t *testing.T, rows int, handler func(*served) http.Handler) (l *Lab, s *served, id, batchID string) {
	t.Helper()
	l = openLab(t)
	s = standing(t, instrument.LC, 100, "")
	address := s.address
	if handler != nil {
		web := httptest.NewServer(handler(s))
		t.Cleanup(web.Close)
		address = web.URL
	}
	id = attached(t, l, address)
	batchID = must[string](t)(l.NewBatch(t.Context(), "S", "B", "M", batch.NewMethod(), who))
	asked := ListAsked{BatchID: batchID, Rows: slices.Repeat([]map[batch.Field]string{{"name": "One", "vial": "A5"}}, rows), Start: instrument.WhenReady, Ending: instrument.StayReady}
	must[BenchPost](t)(l.StartList(t.Context(), id, asked, who))
	return l, s, id, batchID
}

func waiting(t *testing.T, l *Lab, batchID string) (lines []store.WaitingLine) {
	t.Helper()
	if err := l.store.Read(t.Context(), func(tx *store.Tx) (err error) {
		lines, err = tx.WaitingLines(batchID)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	return lines
}

func rowsOf(l *Lab) []running.Row {
	p := l.bench.posts[0]
	p.mu.Lock()
	defer p.mu.Unlock()
	return slices.Clone(p.journal.List.Rows)
}

// People who add rows at the same time each get theirs, with what they said of it: at the instrument, in the list and in the batch.
func TestRowsAddedAtOnceAreAllThere(t *testing.T) {
	l, s, id, batchID := given(t, 1, nil)
	var all sync.WaitGroup
	for k := range 12 {
		all.Go(func() {
			fields := map[batch.Field]string{"name": fmt.Sprintf("Tea %d", k), "vial": "B1", "dilution": fmt.Sprint(k + 1)}
			if _, err := l.ActAt(t.Context(), id, instrument.Act{Kind: instrument.Adds}, fields, fmt.Sprintf("analyst %d", k)); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	at, lines := s.State().Rows, waiting(t, l, batchID)
	ids, files := map[string]string{}, map[string]bool{}
	for _, r := range rowsOf(l) {
		ids[r.ID] = r.Name
		files[r.File] = true
		if r.Name != "One" && r.Fields["dilution"] == "" {
			t.Errorf("of %s nothing is known but %v", r.Name, r.Fields)
		}
	}
	if len(at) != 13 || len(ids) != 13 || len(files) != 13 || len(lines) != 13 {
		t.Errorf("%d rows at the instrument, %d in the list, %d files, %d lines that wait", len(at), len(ids), len(files), len(lines))
	}
	for _, r := range at {
		if ids[r.ID] != r.Name {
			t.Errorf("%s is %q at the instrument and %q here", r.ID, r.Name, ids[r.ID])
		}
	}
}

// A list for a batch that has injections goes on with their numbers, and so do the rows that are added to it.
func TestRowsAreAddedToABatchThatHasInjections(t *testing.T) {
	l := openLab(t)
	s := standing(t, instrument.LC, 100, "")
	id := attached(t, l, s.address)
	batchID := must[string](t)(l.NewBatch(t.Context(), "S", "B", "M", batch.NewMethod(), who))
	for k := range 3 {
		if out := must[taking.Outcome](t)(l.Import(t.Context(), batchID, fmt.Sprintf("late %d.csv", k), append([]byte(fmt.Sprintf("time_min,signal%d\n", k)), lateFile()[16:]...), who)); out.Status != taking.Added {
			t.Fatal(out)
		}
	}
	rows := slices.Repeat([]map[batch.Field]string{{"name": "One", "vial": "A5"}}, 5)
	must[BenchPost](t)(l.StartList(t.Context(), id, ListAsked{BatchID: batchID, Rows: rows, Start: instrument.WhenReady, Ending: instrument.StayReady}, who))
	files := map[string]bool{}
	for range 4 {
		if _, err := l.ActAt(t.Context(), id, instrument.Act{Kind: instrument.Adds}, map[batch.Field]string{"name": "One", "vial": "B1"}, who); err != nil {
			t.Fatal(err)
		}
	}
	for _, r := range rowsOf(l) {
		files[r.File] = true
	}
	if len(files) != 9 || len(s.State().Rows) != 9 {
		t.Errorf("%d files of 9 rows, %d at the instrument", len(files), len(s.State().Rows))
	}
}

// A row that is refused waits nowhere, and its number is not given again.
func TestARefusedRowWaitsNowhere(t *testing.T) {
	l, s, id, batchID := given(t, instrument.MaxRows-1, nil)
	add := func(name string) error {
		_, err := l.ActAt(t.Context(), id, instrument.Act{Kind: instrument.Adds}, map[batch.Field]string{"name": name, "vial": "B1"}, who)
		return err
	}
	if err := add("The last"); err != nil || len(s.State().Rows) != instrument.MaxRows {
		t.Fatal(err, len(s.State().Rows))
	}
	if err := add("One too many"); !errors.Is(err, ErrRefused) {
		t.Errorf("a row too many: %v", err)
	}
	if rows, lines := rowsOf(l), waiting(t, l, batchID); len(rows) != instrument.MaxRows || len(lines) != instrument.MaxRows {
		t.Errorf("%d rows, %d lines", len(rows), len(lines))
	}
	last := rowsOf(l)[instrument.MaxRows-1].ID
	act(t, l, id, instrument.Act{Kind: instrument.Removes, What: last})
	if err := add("Another"); err != nil {
		t.Fatal(err)
	}
	rows := rowsOf(l)
	if got := rows[len(rows)-1]; got.Name != "Another" || got.ID == last || got.ID == fmt.Sprintf("r%d", instrument.MaxRows+1) {
		t.Errorf("the row after is %+v; %s was taken out, and the next was refused", got, last)
	}
}

// losing is the way to an instrument on which the answers to what is asked of it are lost at times; then what is asked goes where it is said.
func losing(always, then http.Handler, loses *atomic.Bool) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if loses.Load() && (strings.HasSuffix(r.URL.Path, "/list") || strings.HasSuffix(r.URL.Path, "/acts")) {
			then.ServeHTTP(httptest.NewRecorder(), r)
			panic(http.ErrAbortHandler)
		}
		always.ServeHTTP(w, r)
	})
}

// Where the answer to a row is lost, the instrument may have it: it waits, is measured with all that was said of it, and another row does not take its number.
func TestARowWhoseAnswerIsLostIsNotForgotten(t *testing.T) {
	var loses atomic.Bool
	l, s, id, batchID := given(t, 1, func(s *served) http.Handler { return losing(s.Handler(), s.Handler(), &loses) })
	fields := map[batch.Field]string{"name": "Gyokuro", "vial": "B5", "dilution": "4"}
	loses.Store(true)
	if _, err := l.ActAt(t.Context(), id, instrument.Act{Kind: instrument.Adds}, fields, who); !errors.Is(err, ErrSilent) {
		t.Fatalf("an answer that is lost: %v", err)
	}
	loses.Store(false)
	if _, err := l.ActAt(t.Context(), id, instrument.Act{Kind: instrument.Adds}, map[batch.Field]string{"name": "Sencha", "vial": "B1"}, who); err != nil {
		t.Fatal(err)
	}
	at, rows := s.State().Rows, rowsOf(l)
	if len(at) != 3 || len(rows) != 3 || len(waiting(t, l, batchID)) != 3 {
		t.Fatalf("%d rows at the instrument, %d here", len(at), len(rows))
	}
	for k := range at {
		if at[k].ID != rows[k].ID || at[k].Name != rows[k].Name {
			t.Errorf("row %d is %s there and %s here", k, at[k].Name, rows[k].Name)
		}
	}
	if rows[1].Fields["dilution"] != "4" {
		t.Errorf("of %s is known %v", rows[1].Name, rows[1].Fields)
	}
}
