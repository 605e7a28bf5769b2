package lab

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/compounds"
	"yugen/core/peaks"
	"yugen/core/signal"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

// Another detector of the same files is processed in every injection that has it; edits stay with the signal they were made on, undo brings both back, and
// the record holds.
func TestAnotherSignalIsProcessed(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", batch.NewMethod(), who))
	for k := range 2 {
		must[taking.Outcome](t)(l.Import(ctx, id, fmt.Sprintf("run%d.csv", k), bench.TwoDetectors(k), who))
	}
	single := []byte("time_min,UV 278 nm [mAU]\n")
	for i := range 600 {
		single = fmt.Appendf(single, "%.4f,%.4f\n", float64(i)/100, 0.01*float64(i%7))
	}
	must[taking.Outcome](t)(l.Import(ctx, id, "single.csv", single, who))
	signals := must[[]BatchSignal](t)(l.Signals(ctx, id))
	want := []BatchSignal{{"UV 278 nm", "mAU", "detector", 3, 3, "first"}, {"UV 210 nm", "mAU", "detector", 2, 0, ""}, {"Pump pressure", "bar", "condition", 2, 0, ""}}
	if change.JSON(signals) != change.JSON(want) {
		t.Errorf("%+v", signals)
	}
	apex := func(i int) float64 {
		list := must[Processed](t)(l.Process(ctx, id)).Result.Injections[i].Peaks
		if len(list) != 1 {
			t.Fatalf("injection %d has %d peaks", i, len(list))
		}
		return list[0].ApexMin
	}
	if at := apex(0); math.Abs(at-2) > 0.01 {
		t.Errorf("the first detector has its peak at %g", at)
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	b = must[store.Batch](t)(l.AddEdit(ctx, id, b.Revision, b.Injections[0].ID, peaks.Edit{Kind: peaks.MoveEnd, ApexMin: 2, ToMin: 2.2}, "a tail", who))
	b = must[store.Batch](t)(l.ChooseSignal(ctx, id, b.Revision, "UV 210 nm", "mAU", "", who))
	if at := apex(1); math.Abs(at-4) > 0.01 {
		t.Errorf("the second detector has its peak at %g", at)
	}
	if len(b.Injections[0].Edits) != 0 || b.Injections[0].Signal != "UV 210 nm" || b.Injections[2].Signal != "UV 278 nm" {
		t.Errorf("%+v", b.Injections)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
	for _, c := range []struct{ name, unit string }{{"UV 999 nm", "mAU"}, {"UV 210 nm", "mAU"}} {
		if _, err := l.ChooseSignal(ctx, id, 0, c.name, c.unit, "", who); err == nil {
			t.Errorf("%s is chosen", c.name)
		}
	}
	b = must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	if len(b.Injections[0].Edits) != 1 || b.Injections[0].Signal != "UV 278 nm" {
		t.Errorf("undone it is %+v", b.Injections[0])
	}
}

// A method of several channels processes a second detector beside the first, with settings, compounds and edits of its own; an injection without it goes on.
func TestSeveralChannelsAreProcessed(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	m := batch.NewMethod()
	m.Channels = append(m.Channels, batch.Channel{ID: "second", Signal: channels.Signal{Name: "uv 210 nm", Unit: "mAU"}, Peaks: m.Channels[0].Peaks})
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", m, who))
	for k := range 2 {
		must[taking.Outcome](t)(l.Import(ctx, id, fmt.Sprintf("run%d.csv", k), bench.TwoDetectors(k), who))
	}
	b := must[store.Batch](t)(l.Batch(ctx, id))
	in := b.Injections[1].ID
	for channel, want := range map[string]float64{"": 2, "first": 2, "second": 4} {
		found := must[[]batch.NamedPeak](t)(l.Peaks(ctx, id, in, channel))
		tr := must[signal.Trace](t)(l.TraceOf(ctx, id, in, Asked{Channel: channel}))
		if len(found) != 1 || math.Abs(found[0].ApexMin-want) > 0.01 || (tr.Name == "UV 210 nm") != (channel == "second") {
			t.Errorf("channel %q: %d peaks, trace %s", channel, len(found), tr.Name)
		}
	}
	signals := must[[]BatchSignal](t)(l.Signals(ctx, id))
	if signals[1].Channel != "second" || signals[1].Processed != 2 || signals[2].Channel != "" {
		t.Errorf("%+v", signals)
	}
	settings := m.Channels[1].Peaks
	settings.LeastHeight = 1e9
	p := must[Preview](t)(l.TryPeaks(ctx, id, Trial{InjectionID: in, Channel: "second", Settings: settings, Whole: true}))
	if len(p.Injection.Peaks) != 1 || len(p.Injection.Further[0].Peaks) != 0 || p.Batch.Gone != 2 {
		t.Errorf("a trial of the second channel: %+v", p.Batch)
	}
	if _, err := l.TryPeaks(ctx, id, Trial{InjectionID: in, Channel: "third", Settings: settings}); err == nil {
		t.Error("a channel that is none is tried")
	}
	must[store.Batch](t)(l.AddEdit(ctx, id, 0, in, peaks.Edit{Kind: peaks.Remove, ApexMin: 4, Channel: "second"}, "no peak", who))
	r := must[Processed](t)(l.Process(ctx, id)).Result
	if len(r.Injections[1].Peaks) != 1 || len(r.Injections[1].Further[0].Peaks) != 0 || len(r.Injections[0].Further[0].Peaks) != 1 {
		t.Error("an edit of the second channel is not of it alone")
	}
}

func TestChannelsAreAddedAndTakenAway(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", batch.NewMethod(), who))
	must[taking.Outcome](t)(l.Import(ctx, id, "run.csv", bench.TwoDetectors(0), who))
	b := must[store.Batch](t)(l.AddChannel(ctx, id, 0, ChannelAsked{Name: "UV 210 nm", Unit: "mAU"}, who))
	if c := b.Version.Method.Channels; len(c) != 2 || c[1].ID != "uv-210-nm" || b.Version.Number != 2 {
		t.Fatalf("%+v", b.Version)
	}
	for says, asked := range map[string]ChannelAsked{
		"is processed already":           {Name: "uv 210 nm", Unit: "mAU"},
		"is the first channel":           {Name: "UV 278 nm", Unit: "mAU"},
		"no file of B has a signal":      {Name: "UV 999 nm"},
		"needs the name":                 {},
		"is no place with a tolerance":   {Kind: channels.Ions, Words: "abc"},
		"the kind \"colour\" is unknown": {Kind: "colour"},
	} {
		if _, err := l.AddChannel(ctx, id, 0, asked, who); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", asked, err)
		}
	}
	m := b.Version.Method
	m.Compounds = append(m.Compounds, compounds.Compound{ID: "a", Name: "A", Channel: "uv-210-nm", ExpectedMin: 4, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target})
	must[store.Batch](t)(l.SaveMethod(ctx, id, 0, m, "a compound there", who))
	for channel, says := range map[string]string{"uv-210-nm": "A is looked for in UV 210 nm", "first": "the first channel stays", "none": "not here"} {
		if _, err := l.RemoveChannel(ctx, id, 0, channel, who); err == nil || !strings.Contains(err.Error(), says) && !errors.Is(err, store.ErrNotFound) {
			t.Errorf("%s: %v", channel, err)
		}
	}
	must[store.Batch](t)(l.Undo(ctx, id, 0, "", who))
	if b = must[store.Batch](t)(l.RemoveChannel(ctx, id, 0, "uv-210-nm", who)); len(b.Version.Method.Channels) != 1 {
		t.Errorf("%+v", b.Version.Method.Channels)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
}

// An ion that the method asks for is derived from the spectra of every injection, and is the same however often it is asked for.
func TestADerivedChannelIsProcessed(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	ions := must[channels.Signal](t)(channels.ParseIons("71.05±0.3"))
	m := batch.NewMethod()
	m.Channels = append(m.Channels, batch.Channel{ID: "ions", Signal: ions, Peaks: m.Channels[0].Peaks})
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", m, who))
	table := []byte("time_min,m/z 57.07,m/z 71.05\n")
	for i := range 600 {
		at := float64(i) / 100
		gauss := func(apex, height float64) float64 { return height * math.Exp(-math.Pow((at-apex)/0.05, 2)/2) }
		table = fmt.Appendf(table, "%.4f,%.4f,%.4f\n", at, 10+gauss(2, 5000)+0.1*float64(i%7), 10+gauss(4, 1000)+0.1*float64(i%5))
	}
	must[taking.Outcome](t)(l.Import(ctx, id, "scan.csv", table, who))
	b := must[store.Batch](t)(l.Batch(ctx, id))
	in := b.Injections[0].ID
	for channel, want := range map[string][]float64{"first": {2, 4}, "ions": {4}} {
		var at []float64
		for _, p := range must[[]batch.NamedPeak](t)(l.Peaks(ctx, id, in, channel)) {
			at = append(at, math.Round(100*p.ApexMin)/100)
		}
		if !slices.Equal(at, want) {
			t.Errorf("%s: peaks at %v, want %v", channel, at, want)
		}
	}
	tr := must[signal.Trace](t)(l.TraceOf(ctx, id, in, Asked{Channel: "ions"}))
	if again := must[signal.Trace](t)(l.TraceOf(ctx, id, in, Asked{Channel: "ions"})); tr.Name != "m/z 71.05 ± 0.3" || &again.Values[0] != &tr.Values[0] {
		t.Errorf("%s is derived twice", tr.Name)
	}
}

// The spectrum at a moment is the one that was measured nearest to it.
func TestTheSpectrumAtAMoment(t *testing.T) {
	l := openLab(t)
	ctx := t.Context()
	id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", batch.NewMethod(), who))
	table := []byte("time_min,m/z 57.07,m/z 71.05\n")
	for i := range 60 {
		table = fmt.Appendf(table, "%.4f,%d,%d\n", float64(i)/10, i, 1000-i)
	}
	must[taking.Outcome](t)(l.Import(ctx, id, "scan.csv", table, who))
	must[taking.Outcome](t)(l.Import(ctx, id, "plain.csv", bench.TwoDetectors(0), who))
	b := must[store.Batch](t)(l.Batch(ctx, id))
	for at, want := range map[float64]float64{2.04: 20, 2.06: 21, -5: 0, 99: 59} {
		s := must[Spectrum](t)(l.SpectrumAt(ctx, id, b.Injections[0].ID, at))
		if s.Kind != "mass" || !slices.Equal(s.Axis, []float64{57.07, 71.05}) || s.Values[0] != want || math.Abs(s.AtMin-want/10) > 1e-9 {
			t.Errorf("at %g: %+v", at, s)
		}
	}
	if _, err := l.SpectrumAt(ctx, id, b.Injections[1].ID, 2); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a file without spectra: %v", err)
	}
}

// A ratio of two wavelengths and a signal less the blank are channels like any other: processed, with peaks, the same definition once.
func TestRatiosAndLessTheBlankAreChannels(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	id := coloursOf(t, l)
	must[store.Batch](t)(l.AddChannel(ctx, id, 0, ChannelAsked{Kind: channels.Ratio, Of: []string{"nm-428", "nm-412"}}, who))
	b := must[store.Batch](t)(l.AddChannel(ctx, id, 0, ChannelAsked{Kind: channels.LessBlank, Of: []string{"nm-428"}}, who))
	for says, asked := range map[string]ChannelAsked{
		"428 ± 3 nm ÷ 412 ± 3 nm is processed already": {Kind: channels.Ratio, Of: []string{"nm-428", "nm-412"}},
		"no channel \"nm-999\"":                        {Kind: channels.LessBlank, Of: []string{"nm-999"}},
		"of 2 signals, not of 1":                       {Kind: channels.Ratio, Of: []string{"nm-428"}},
		"cannot be part of another one":                {Kind: channels.LessBlank, Of: []string{"428-3-nm-less-the-blank"}},
	} {
		if _, err := l.AddChannel(ctx, id, 0, asked, who); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", asked, err)
		}
	}
	r := must[Processed](t)(l.Process(ctx, id)).Result
	further := func(injection int, title string) *batch.Integrated {
		for k := range r.Injections[injection].Further {
			if f := &r.Injections[injection].Further[k]; f.Trace == title {
				return f
			}
		}
		return nil
	}
	plain, less := further(7, "428 ± 3 nm"), further(7, "428 ± 3 nm less the blank")
	if plain == nil || less == nil || len(plain.Peaks) == 0 || len(less.Peaks) != len(plain.Peaks) || math.Abs(less.Peaks[0].AreaS/plain.Peaks[0].AreaS-1) > 0.01 {
		t.Fatalf("%+v, less the blank %+v", plain, less)
	}
	if further(0, "428 ± 3 nm less the blank") != nil {
		t.Error("a blank is taken less itself")
	}
	// At the apex of tartrazine the two wavelengths stand as its spectrum has them.
	ratio := must[signal.Trace](t)(l.TraceOf(ctx, id, b.Injections[7].ID, Asked{Channel: "428-3-nm-412-3-nm"}))
	if v := ratio.ValueAt(60 * 2.055); math.Abs(v-1.08) > 0.03 {
		t.Errorf("428 ÷ 412 nm of tartrazine is %g", v)
	}
}
