package lab

import (
	"context"
	"flag"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/instrument"
	"yugen/store"
)

var (
	dayHours = flag.Float64("day-hours", 0.8, "simulated hours that four instruments work")
	dayStops = flag.Int("day-stops", 2, "how often the program is stopped meanwhile")
)

// Four instruments work for hours at speed 600 while the program is stopped at random moments and started again: every run is in its batch once, with every point that
// was measured.
func TestFourInstrumentsLoseNoPoint(t *testing.T) {
	dir := t.TempDir()
	kinds := []instrument.Kind{instrument.LC, instrument.GC, instrument.GCMS, instrument.LC}
	vials := map[instrument.Kind]string{instrument.LC: "A5", instrument.GC: "2", instrument.GCMS: "3"}
	each := map[instrument.Kind]float64{instrument.LC: 19, instrument.GC: 22, instrument.GCMS: 32} // min from one injection to the next
	var addresses []string
	var stands []*served
	for _, k := range kinds {
		s := serving(t, k, 600, "")
		stands, addresses = append(stands, s), append(addresses, s.address)
	}
	var s *store.Store
	var l *Lab
	open := func() {
		var err error
		if s, err = store.Open(context.Background(), dir); err != nil {
			t.Fatal(err)
		}
		l = New(s)
		if err = l.Resume(t.Context()); err == nil {
			err = l.Attach(context.Background(), addresses)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	shut := func() {
		l.Close()
		if err := s.Close(); err != nil {
			t.Fatal(err)
		}
	}
	open()
	batches, wanted := make([]string, len(kinds)), make([]int, len(kinds))
	for k, kind := range kinds {
		id := l.bench.posts[k].id
		until(t, "it answers", func() bool { return standingOf(t, l, id).Phase != "" })
		batches[k] = must[string](t)(l.NewBatch(t.Context(), "Day", fmt.Sprint(k), "M", batch.NewMethod(), "x"))
		wanted[k] = max(1, int(*dayHours*60/each[kind]))
		var rows []map[batch.Field]string
		for n := range wanted[k] {
			rows = append(rows, map[batch.Field]string{"name": fmt.Sprintf("Run %d", n+1), "vial": vials[kind]})
		}
		must[BenchPost](t)(l.StartList(t.Context(), id, ListAsked{BatchID: batches[k], Rows: rows, Start: instrument.WhenReady, Ending: instrument.StayReady}, "x"))
		for _, c := range standingOf(t, l, id).Conditions {
			if c.Looked {
				act(t, l, id, instrument.Act{Kind: instrument.Looked, What: c.ID})
			}
			if c.World != "" {
				act(t, l, id, instrument.Act{Kind: instrument.World, What: c.World})
			}
		}
	}
	rng := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1))
	for range *dayStops {
		time.Sleep(time.Duration(float64(time.Second) * *dayHours * 3600 / 600 / float64(*dayStops+1) * (0.5 + rng.Float64())))
		shut()
		open()
	}
	for k := range kinds {
		for range 20 * 60 {
			if len(takenOf(t, l, batches[k])) >= wanted[k] && stands[k].State().Phase == instrument.Resting {
				break
			}
			time.Sleep(time.Second / 4)
		}
	}
	for k, kind := range kinds {
		list := takenOf(t, l, batches[k])
		if len(list) != wanted[k] {
			t.Errorf("%s: %d runs of %d are in", kind, len(list), wanted[k])
		}
		for n, in := range list {
			if !strings.HasPrefix(in.FileName, fmt.Sprintf("run-%03d", n+1)) || len(in.Doubts) > 0 {
				t.Errorf("%s %d: %s %+v", kind, n+1, in.FileName, in.Doubts)
			}
			f := wholeFile(t, l, batches[k], in.ID)
			switch kind {
			case instrument.GCMS: // a scan each 0.7 s from 4.5 to 25 min
				if scans := f.Spectra[0].Scans; len(scans) < 1755 || len(scans) > 1759 || !even(scans) {
					t.Errorf("%s %d: %d scans", kind, n+1, len(scans))
				}
			default:
				main := f.Channels[0]
				runMin := map[instrument.Kind]int{instrument.LC: 18, instrument.GC: 16}[kind]
				if kind == instrument.LC && (len(f.Spectra) != 1 || len(f.Spectra[0].Scans) != runMin*60+1) { // of the diode array, each second
					t.Errorf("%s %d: %d scans", kind, n+1, len(f.Spectra[0].Scans))
				}
				if len(main.Values) != runMin*600+1 || main.TimesS[len(main.TimesS)-1] != float64(runMin*60) {
					t.Errorf("%s %d: %d points to %g s", kind, n+1, len(main.Values), main.TimesS[len(main.TimesS)-1])
				}
			}
		}
	}
	if v := must[bool](t)(verified(t, l)); !v {
		t.Error("the check finds something")
	}
	shut()
}

func even(scans []spectra.Scan) bool {
	return !slices.ContainsFunc(scans[1:], func(s spectra.Scan) bool {
		k := slices.IndexFunc(scans, func(o spectra.Scan) bool { return o.TimeS == s.TimeS })
		d := s.TimeS - scans[k-1].TimeS
		return d < 0.69 || d > 0.71
	})
}

func wholeFile(t *testing.T, l *Lab, batchID, injectionID string) formats.File {
	t.Helper()
	_, from, err := l.RawOf(t.Context(), batchID, injectionID)
	if err != nil {
		t.Fatal(err)
	}
	data := make([]byte, from.Size())
	if _, err := from.ReadAt(data, 0); err != nil && from.Size() > 0 && err.Error() != "EOF" {
		t.Fatal(err)
	}
	return must[formats.File](t)(read.File(data))
}

func verified(t *testing.T, l *Lab) (bool, error) {
	v, err := l.VerifyQuickly(t.Context())
	return len(v.Wrong) == 0, err
}
