package lab

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/spectra"
	"yugen/store"
)

// In the lot whose flavonol hides a yellow dye the spectra across that peak say so, and where; in honest lots they do not. The map of the run shows both.
func TestAHiddenDyeIsSeen(t *testing.T) {
	l, first := demo(t)
	ctx := t.Context()
	var p Processed
	for _, s := range must[[]store.Study](t)(l.Studies(ctx)) {
		if s.Name == "Matcha colour screening" {
			p = must[Processed](t)(l.Process(ctx, s.Batches[0].ID))
		}
	}
	of := func(name string) store.Injection {
		return p.Batch.Injections[slices.IndexFunc(p.Batch.Injections, func(i store.Injection) bool { return i.Name == name })]
	}
	for name, impure := range map[string]bool{"Hill garden": false, "Valley": false, "Online A": false, "Online C": true} {
		got := must[PeakPurity](t)(l.PurityAt(ctx, p.Batch.ID, of(name).ID, "", 2.79))
		if got.Impure != impure || got.Weak || len(got.Scans) < 8 || len(got.Axis) != 251 || len(got.Apex) != 251 {
			t.Errorf("%s: %s (%d spectra)", name, got.Says, len(got.Scans))
		}
		if impure && (!strings.Contains(got.Says, "after the apex") || got.FromMin < got.ApexMin) {
			t.Errorf("%s: %s", name, got.Says)
		}
		// What remains under the tail is the dye that was put there, and nothing remains where there is none.
		switch {
		case impure && (len(got.RestLike) == 0 || got.RestLike[0].Name != "Quinoline yellow" || got.RestLike[0].Forward < 98 || got.RestPercent < 2 || got.RestPercent > 60):
			t.Errorf("%s: %.1f %% remain, like %+v", name, got.RestPercent, got.RestLike)
		case !impure && len(got.Rest)+len(got.RestLike) > 0:
			t.Errorf("%s: %.1f %% remain", name, got.RestPercent)
		}
	}
	// In the mix every dye is alone, though others elute close by: what elutes before a peak is no part of its background.
	for _, name := range []string{"Caffeine", "Tartrazine", "Flavonol glycoside", "Quinoline yellow", "Brilliant blue", "Chlorophyllin"} {
		for _, c := range p.Batch.Version.Method.Compounds {
			if c.Name != name {
				continue
			}
			if got := must[PeakPurity](t)(l.PurityAt(ctx, p.Batch.ID, of("Dyes 10 mg/L").ID, "", c.ExpectedMin)); got.Impure || got.Weak {
				t.Errorf("%s in the mix: %s", name, got.Says)
			}
		}
	}
	c := of("Online C")
	if none := must[PeakPurity](t)(l.PurityAt(ctx, p.Batch.ID, c.ID, "", 0.5)); !strings.Contains(none.Says, "no peak") {
		t.Errorf("where there is no peak: %s", none.Says)
	}
	m := must[SpectraMap](t)(l.MapOf(ctx, p.Batch.ID, of("Online A").ID))
	if len(m.Values) != len(m.Axis) || len(m.Values[0]) != len(m.Times) || len(m.Axis) != mapRows {
		t.Fatalf("%d rows, %d columns", len(m.Values), len(m.Times))
	}
	// Tartrazine stands yellow, at 427 nm and 2.05 min, and nowhere else as high there.
	at := func(nm, min float64) float64 {
		near := func(list []float64, v float64) (best int) {
			for k := range list {
				if math.Abs(list[k]-v) < math.Abs(list[best]-v) {
					best = k
				}
			}
			return best
		}
		return m.Values[near(m.Axis, nm)][near(m.Times, min)]
	}
	if yellow, beside := at(427, 2.05), at(427, 1.3); yellow < 25 || beside > 3 {
		t.Errorf("at 427 nm the map is %g at the dye and %g beside it", yellow, beside)
	}
	tea := must[Processed](t)(l.Process(ctx, first))
	if _, err := l.MapOf(ctx, first, tea.Batch.Injections[2].ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("of a run without spectra: %v", err)
	}
	if _, err := l.PurityAt(ctx, first, tea.Batch.Injections[2].ID, "", 5); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("of a run without wavelengths: %v", err)
	}
}

// A peak is looked for in the library of wavelengths by its own channel's peak; the dye is found, and a plain sentence says so.
func TestAColourIsFoundInTheLibrary(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	p := must[Processed](t)(l.Process(ctx, coloursOf(t, l)))
	in := p.Batch.Injections[slices.IndexFunc(p.Batch.Injections, func(i store.Injection) bool { return i.Name == "Online A" })]
	for _, channel := range []string{"", "nm-428", "nowhere"} {
		found := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: 2.05, Channel: channel}))
		if found.Kind != spectra.Wavelength || len(found.Peaks) != 251 || len(found.Hits) == 0 || found.Hits[0].Name != "Tartrazine" || found.Hits[0].Forward < 99.9 || !strings.HasPrefix(found.Says, "Tartrazine fits best") {
			t.Errorf("%s: %s, %d points, %d hits, the best %.2f", channel, found.Says, len(found.Peaks), len(found.Hits), found.Hits[0].Forward)
		}
	}
	if none := must[Identified](t)(l.Identify(ctx, p.Batch.ID, p.Batch.Injections[0].ID, IdentifyAsked{AtMin: 2.05})); !strings.HasPrefix(none.Says, "Nothing like it") && !strings.HasPrefix(none.Says, "There is no signal") {
		t.Errorf("in the blank: %s", none.Says)
	}
}
