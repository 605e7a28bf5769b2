package lab

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/formats"
	"yugen/formats/mzml"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

// measured is a file of one injection with some signals, each a peak at its own minute; kind is the ending that says the format.
func measured(t *testing.T, at time.Time, signals ...formats.Channel) []byte {
	t.Helper()
	f := formats.File{Header: formats.Header{SampleName: "Oolong", AcquiredAt: &at}}
	for k, c := range signals {
		for i := range 600 {
			v := 0.01 * float64((i*7+k)%5)
			if d := float64(i-100*(k+1)) / 8; d*d < 50 {
				v += 100 * (1 - d*d/50) * (1 - d*d/50)
			}
			c.TimesS, c.Values = append(c.TimesS, float64(i)), append(c.Values, v)
		}
		f.Channels = append(f.Channels, c)
	}
	return must[[]byte](t)(mzml.Write(f))
}

var (
	uv       = formats.Channel{Name: "UV 278 nm", Unit: "mAU", Kind: formats.Detector}
	fid      = formats.Channel{Name: "FID", Unit: "pA", Kind: formats.Detector}
	pressure = formats.Channel{Name: "Pump pressure", Unit: "bar", Kind: formats.Condition}
)

func TestFilesOfOneInjectionAreJoined(t *testing.T) {
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name       string
		first      string
		second     string
		later      time.Duration
		signal     formats.Channel
		injections int
	}{
		{"the same name, another ending", "run-07.mzML", "run-07.mzXX", 0, fid, 1},
		{"the same name up to the last part", "run-07-uv.mzML", "Run-07-FID.mzML", 10 * time.Second, fid, 1},
		{"a part more", "run-07.mzML", "run-07_fid.mzML", time.Second, fid, 1},
		{"letters beyond A to Z", "Öl-ÜBER-UV.mzML", "Öl-ÜBER-fid.mzML", 9500 * time.Millisecond, fid, 1},
		{"just too late", "run-07-uv.mzML", "run-07-fid.mzML", 11 * time.Second, fid, 2},
		{"replicates", "std-001-1.mzML", "std-001-2.mzML", 20 * time.Minute, fid, 2},
		{"another run", "run-07-uv.mzML", "run-08-fid.mzML", 0, fid, 2},
		{"the same signal again", "run-07.mzML", "run-07.mzXX", 0, uv, 2},
	} {
		l := openLab(t)
		id := must[string](t)(l.NewBatch(t.Context(), "S", "B", "M", batch.NewMethod(), who))
		must[taking.Outcome](t)(l.Import(t.Context(), id, c.first, measured(t, noon, uv), who))
		out := must[taking.Outcome](t)(l.Import(t.Context(), id, c.second, measured(t, noon.Add(c.later), c.signal, pressure), who))
		b := must[store.Batch](t)(l.Batch(t.Context(), id))
		if len(b.Injections) != c.injections || (out.Status == taking.Joined) != (c.injections == 1) {
			t.Errorf("%s: %d injections, %+v", c.name, len(b.Injections), out)
		}
	}
}

func TestAJoinedInjectionHasTheSignalsOfAllItsFiles(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	m := batch.NewMethod()
	m.Channels = append(m.Channels, batch.Channel{ID: "fid", Signal: channels.Signal{Name: "FID", Unit: "pA"}, Peaks: m.Channels[0].Peaks})
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", m, who))
	// The conditions come first: the detector that comes later is processed all the same.
	must[taking.Outcome](t)(l.Import(ctx, id, "run-1-pump.mzML", measured(t, noon, pressure), who))
	must[taking.Outcome](t)(l.Import(ctx, id, "run-1-uv.mzML", measured(t, noon, uv), who))
	data := measured(t, noon.Add(3*time.Second), formats.Channel{Name: "Oven", Unit: "°C", Kind: formats.Condition}, fid)
	must[taking.Outcome](t)(l.Import(ctx, id, "run-1-gas.mzML", data, who))
	if again := must[taking.Outcome](t)(l.Import(ctx, id, "copy.mzML", data, who)); again.Status != taking.Already {
		t.Errorf("the same bytes again: %+v", again)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	if len(b.Injections) != 1 || len(b.Injections[0].More) != 2 || b.Injections[0].Signal != "UV 278 nm" {
		t.Fatalf("%+v", b.Injections)
	}
	in := b.Injections[0].ID
	var names []string
	for _, s := range must[[]InjectionSignal](t)(l.SignalsOf(ctx, id, in)) {
		names = append(names, fmt.Sprintf("%s %v", s.Name, s.Processed))
	}
	if got := strings.Join(names, ", "); got != "Pump pressure false, UV 278 nm true, Oven false, FID true" {
		t.Error(got)
	}
	r := must[Processed](t)(l.Process(ctx, id)).Result.Injections[0]
	if len(r.Peaks) != 1 || r.Peaks[0].ApexMin > 1.7 || len(r.Further[0].Peaks) != 1 || r.Further[0].Peaks[0].ApexMin < 3.2 {
		t.Errorf("%+v", r.Peaks)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
	gone := must[store.Batch](t)(l.Remove(ctx, id, 0, in, "no longer wanted", who))
	back := must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	if len(gone.Injections) != 0 || len(back.Injections[0].More) != 2 {
		t.Error("removing and undoing does not bring the files back")
	}
}

func TestFilesAreJoinedAndPartedByHand(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", batch.NewMethod(), who))
	for k, f := range []struct {
		name   string
		signal formats.Channel
	}{{"a.mzML", uv}, {"b.mzML", fid}, {"c.mzML", uv}} {
		must[taking.Outcome](t)(l.Import(ctx, id, f.name, measured(t, noon.Add(time.Duration(k)*time.Hour), f.signal), who))
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	a, other, third := b.Injections[0].ID, b.Injections[1].ID, b.Injections[2].ID
	for says, pair := range map[string][2]string{"to itself": {a, a}, "a signal of the same name": {a, third}} {
		if _, err := l.Join(ctx, id, 0, pair[0], pair[1], who); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
	b = must[store.Batch](t)(l.Join(ctx, id, 0, a, other, who))
	if len(b.Injections) != 2 || len(b.Injections[0].More) != 1 || b.Injections[1].ID != third {
		t.Fatalf("%+v", b.Injections)
	}
	b = must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	if len(b.Injections) != 3 || b.Injections[1].ID != other || len(b.Injections[0].More) != 0 {
		t.Fatalf("undone: %+v", b.Injections)
	}
	must[store.Batch](t)(l.Redo(ctx, id, 0, "", who))
	b = must[store.Batch](t)(l.ChooseSignal(ctx, id, 0, "FID", "pA", "", who))
	hash := b.Injections[0].More[0].RawHash
	if _, err := l.Part(ctx, id, 0, a, hash, who); err == nil || !strings.Contains(err.Error(), "is processed by a signal of b.mzML") {
		t.Errorf("the file in use is parted: %v", err)
	}
	must[store.Batch](t)(l.ChooseSignal(ctx, id, 0, "UV 278 nm", "mAU", "", who))
	b = must[store.Batch](t)(l.Part(ctx, id, 0, a, hash, who))
	if len(b.Injections) != 3 || b.Injections[1].FileName != "b.mzML" || b.Injections[1].Signal != "FID" {
		t.Errorf("parted: %+v", b.Injections)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
}

// Two injections that a file could belong to: it stands alone, and says so.
func TestAnAmbiguousFileStandsAlone(t *testing.T) {
	l := openLab(t)
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	id := must[string](t)(l.NewBatch(t.Context(), "S", "B", "M", batch.NewMethod(), who))
	must[taking.Outcome](t)(l.Import(t.Context(), id, "run-a.mzML", measured(t, noon, uv), who))
	must[taking.Outcome](t)(l.Import(t.Context(), id, "run-b.mzML", measured(t, noon.Add(time.Second), uv), who))
	out := must[taking.Outcome](t)(l.Import(t.Context(), id, "run-c.mzML", measured(t, noon, fid), who))
	if out.Status != taking.Added || !strings.Contains(out.Message, "run-a.mzML or to run-b.mzML") {
		t.Errorf("%+v", out)
	}
}
