package running

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/formats/read"
	"yugen/instrument"
)

func events(row string, from int64, n int) (list []instrument.Event) {
	at := time.Date(2026, time.May, 4, 9, 0, 0, 0, time.UTC)
	list = append(list, instrument.Event{N: from, At: at, Kind: instrument.Injected, RowID: row, Row: &instrument.Row{ID: row}, Settings: []instrument.Setting{{ID: "volume", Name: "Injected", Asked: 5, Says: "5 µL"}}})
	for k := range n {
		list = append(list, instrument.Event{N: from + int64(k) + 1, At: at, Kind: instrument.Measured, RowID: row, Signals: []instrument.Signal{
			{Name: "UV 278 nm", Unit: "mAU", FromS: float64(k), EveryS: 0.5, Values: []float64{float64(k), float64(k) + 0.5}},
			{Name: "Pump pressure", Unit: "bar", FromS: float64(k), EveryS: 1, Values: []float64{200}},
		}})
	}
	return append(list, instrument.Event{N: from + int64(n) + 1, At: at, Kind: instrument.Finished, RowID: row, Row: &instrument.Row{ID: row, State: instrument.RowDone}})
}

// Wherever the power cuts a journal, what was said to be heard is there, and telling the rest again completes it: no value twice, none missing.
func TestAJournalCutAnywhereIsGoneOnWith(t *testing.T) {
	all := events("r1", 1, 40)
	rng := rand.New(rand.NewPCG(4, 4))
	for range 60 {
		dir := t.TempDir()
		j, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		j.List = &List{ID: "l", Rows: []Row{{ID: "r1", Name: "One", File: "one.mzML"}}}
		if err := j.Save(); err != nil {
			t.Fatal(err)
		}
		kept := 1 + rng.IntN(len(all)-2)
		if err := j.Keep(all[:kept]); err != nil {
			t.Fatal(err)
		}
		heard := j.Heard
		// The next event was being written when the power went.
		line, err := all[kept].Line()
		if err != nil {
			t.Fatal(err)
		}
		name := j.row("r1")
		if all[kept].Kind == instrument.Finished {
			name = filepath.Join(dir, toldFile)
		}
		f, err := os.OpenFile(name, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := f.Write(line[:rng.IntN(len(line))]); err != nil {
			t.Fatal(err)
		}
		if err := f.Close(); err != nil {
			t.Fatal(err)
		}
		again, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		if again.Heard != heard || again.List == nil || again.List.Rows[0].Name != "One" {
			t.Fatalf("heard to %d, %d was on disk", again.Heard, heard)
		}
		after := slices.IndexFunc(all, func(e instrument.Event) bool { return e.N > again.Heard })
		if err := again.Keep(all[after:]); err != nil {
			t.Fatal(err)
		}
		r, there, err := again.Measured("r1")
		if err != nil || !there || len(r.Signals) != 2 || len(r.Signals[0].Values) != 80 || r.Signals[0].Values[79] != 39.5 || r.Signals[0].TimesS[79] != 39.5 {
			t.Fatalf("%v %v %+v", there, err, r.Signals)
		}
		if ended, err := again.Ended(); err != nil || len(ended) != 1 {
			t.Fatalf("%v %v", ended, err)
		}
	}
}

// A run becomes an open file that says what went wrong, and reads back as it was measured.
func TestARunBecomesAnOpenFile(t *testing.T) {
	var r Recording
	for _, e := range events("r1", 1, 40) {
		r.Add(e)
		r.Add(e) // told twice
	}
	row := Row{Name: "Gyokuro", Vial: "B5", Doubts: []batch.Doubt{{FromMin: 0.3, ToMin: 0.6, Says: "The lamp went out"}}}
	data, err := r.File(row, List{Who: "M. Okada", Method: "Tea catechins 278, version 1"}, "LC 1")
	if err != nil {
		t.Fatal(err)
	}
	f, err := read.File(data)
	if err != nil {
		t.Fatal(err)
	}
	if f.Header.SampleName != "Gyokuro" || f.Header.Vial != "B5" || f.Header.Operator != "M. Okada" || len(f.Channels) != 2 || len(f.Channels[0].Values) != 80 || f.Channels[0].Values[79] != 39.5 {
		t.Errorf("%+v", f.Header)
	}
}

// An event of another instrument's boot is no reason to forget what was measured.
func TestAnotherBootKeepsRows(t *testing.T) {
	j, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	if err := j.Keep(events("r1", 1, 3)[:3]); err != nil {
		t.Fatal(err)
	}
	if err := j.Restart("other"); err != nil {
		t.Fatal(err)
	}
	again, err := Open(j.dir)
	if err != nil {
		t.Fatal(err)
	}
	if again.Boot != "other" {
		t.Error(again.Boot)
	}
	if _, there, err := again.Measured("r1"); err != nil || !there {
		t.Errorf("%v %v", there, err)
	}
}
