package lab

import (
	"bytes"
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/spectra"
	"yugen/store"
)

// aromaOf is the demo's batch of aromas.
func aromaOf(t *testing.T, l *Lab) Processed {
	t.Helper()
	for _, s := range must[[]store.Study](t)(l.Studies(t.Context())) {
		if s.Name == "Tea aroma" {
			return must[Processed](t)(l.Process(t.Context(), s.Batches[0].ID))
		}
	}
	t.Fatal("the demo has no aromas")
	return Processed{}
}

// In the Darjeeling the peak at geraniol's time gives geraniol, though nerol's spectrum is much like it; the background is taken off; the index is by the ladder.
func TestAPeakIsIdentified(t *testing.T) {
	l, first := demo(t)
	ctx := t.Context()
	p := aromaOf(t, l)
	k := slices.IndexFunc(p.Batch.Injections, func(i store.Injection) bool { return strings.HasPrefix(i.Name, "Darjeeling") })
	in := p.Batch.Injections[k]
	apex := 0.0
	for _, q := range p.Result.Injections[k].Peaks {
		if math.Abs(q.ApexMin-15.62) < 0.05 {
			apex = q.ApexMin
		}
	}
	if apex == 0 {
		t.Fatal("the total ion has no peak there")
	}
	got := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: apex}))
	if len(got.Hits) != usualHits || got.Hits[0].Name != "Geraniol" || got.Hits[0].Forward < 95 || got.Hits[0].Off == nil || math.Abs(*got.Hits[0].Off) > 3 || got.Hits[0].Combined == nil {
		t.Errorf("%s: %+v", got.Says, got.Hits[0])
	}
	if got.Scans < 5 || len(got.Stretch) != 2 || got.Index == nil || math.Abs(*got.Index-1255) > 4 || !strings.Contains(got.Says, "Geraniol") {
		t.Errorf("%d scans, %v, index %v: %s", got.Scans, got.Stretch, got.Index, got.Says)
	}
	nerol := slices.IndexFunc(got.Hits, func(h SpectrumHit) bool { return h.Name == "Nerol" })
	if nerol < 0 || *got.Hits[nerol].Combined > *got.Hits[0].Combined-10 {
		t.Errorf("nerol is hit %d", nerol+1)
	}
	// Rejected it is no longer proposed, for that time in all injections; the twin comes next, and the rejection can be taken back.
	must[[]Rejection](t)(l.RejectName(ctx, p.Batch.ID, Rejection{Name: "Geraniol", AtMin: apex + 0.03, Why: "no lot had it"}, who))
	if again := must[Identified](t)(l.Identify(ctx, p.Batch.ID, p.Batch.Injections[k+1].ID, IdentifyAsked{AtMin: apex})); again.Hits[0].Rejected != "no lot had it" || strings.HasPrefix(again.Says, "Geraniol fits best") {
		t.Errorf("rejected: %q, %s", again.Hits[0].Rejected, again.Says)
	}
	must[[]Rejection](t)(l.RejectName(ctx, p.Batch.ID, Rejection{Name: "Geraniol", AtMin: apex}, who))
	if again := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: apex})); again.Hits[0].Rejected != "" {
		t.Errorf("taken back: %q", again.Hits[0].Rejected)
	}
	// The column's bleed is in the raw spectrum and not in the one less its background.
	plain := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: apex, Plain: true}))
	height := func(i Identified, at float64) float64 {
		for _, q := range i.Peaks {
			if q[0] == at {
				return q[1] / 999 * i.Largest
			}
		}
		return 0
	}
	if raw, less := height(plain, 207), height(got, 207); raw < 50 || less > raw/4 {
		t.Errorf("m/z 207 is %g with the background, %g without", raw, less)
	}
	// Where nothing elutes nothing is like it; in a batch without masses there is nothing to look at.
	if none := must[Identified](t)(l.Identify(ctx, p.Batch.ID, p.Batch.Injections[0].ID, IdentifyAsked{AtMin: 13.1})); none.Says == "" || len(none.Hits) > 0 && none.Hits[0].Forward > nothingLike && strings.Contains(none.Says, "fits best.") {
		t.Errorf("of nothing: %s, %+v", none.Says, none.Hits)
	}
	from, to := 16.0, 15.0
	for what, asked := range map[string]IdentifyAsked{"no weights": {AtMin: 5, Weights: &spectra.Weighting{Mass: 1}}, "too many": {AtMin: 5, Hits: 51}, "no moment": {AtMin: math.NaN()}, "no stretch": {AtMin: 5, FromMin: &from, ToMin: &to}} {
		if _, err := l.Identify(ctx, p.Batch.ID, in.ID, asked); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	tea := must[Processed](t)(l.Process(ctx, first))
	if _, err := l.Identify(ctx, tea.Batch.ID, tea.Batch.Injections[3].ID, IdentifyAsked{AtMin: 5}); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("of a batch without masses: %v", err)
	}
}

// A library is taken from a file, told of what it has already, added to from a peak, searched at once, handed out, and taken from; the record tells of it.
func TestLibrariesOfTheLaboratory(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	const own = `[{"name": "Ours", "peaks": [[50, 10], [207, 999]], "retention_index": 1234}, {"name": "Ours too", "peaks": [[51, 10]]}, {"name": "Ours", "peaks": [[50, 10], [207, 999]]}]`
	got := must[LibraryTaken](t)(l.TakeLibrary(ctx, " Our own ", []byte(own), who))
	if got.Added != 2 || len(got.Twice) != 1 || got.Twice[0] != "Ours" {
		t.Fatalf("%+v", got)
	}
	if again := must[LibraryTaken](t)(l.TakeLibrary(ctx, "Our own", []byte(own), who)); again.Added != 0 || len(again.Twice) != 3 {
		t.Errorf("again: %+v", again)
	}
	p := aromaOf(t, l)
	in := p.Batch.Injections[0]
	bleed := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: 20, Plain: true}))
	if taken := must[LibraryTaken](t)(l.AddSpectrum(ctx, LibraryEntry{Library: "Our own", Name: "Bleed of the column", Peaks: bleed.Peaks}, who)); taken.Added != 1 {
		t.Errorf("%+v", taken)
	}
	found := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: 20, Plain: true}))
	if h := found.Hits[0]; h.Name != "Bleed of the column" || math.Abs(h.Forward-100) > 1e-9 || h.Library != "Our own" {
		t.Errorf("after it was added the first hit is %s, %g", h.Name, h.Forward)
	}
	for _, as := range []string{"json", "csv", "jdx"} {
		data := must[[]byte](t)(l.LibraryFile(ctx, "Our own", as))
		other := must[LibraryTaken](t)(l.TakeLibrary(ctx, "From "+as, data, who))
		if other.Added != 3 || !bytes.Contains(data, []byte("Bleed of the column")) {
			t.Errorf("%s: %+v", as, other)
		}
	}
	if err := l.PutSpectrumAway(ctx, found.Hits[0].ID, who); err != nil {
		t.Fatal(err)
	}
	if h := must[Identified](t)(l.Identify(ctx, p.Batch.ID, in.ID, IdentifyAsked{AtMin: 20, Plain: true})).Hits[0]; h.Library == "Our own" {
		t.Error("what was taken away is still found")
	}
	if err := l.PutSpectrumAway(ctx, found.Hits[0].ID, who); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("taken away twice: %v", err)
	}
	names := []string{}
	for _, k := range must[[]KeptLibrary](t)(l.Libraries(ctx)) {
		names = append(names, k.Name)
	}
	if !slices.Contains(names, DemoLibrary) || !slices.Contains(names, DemoColours) || !slices.Contains(names, "Our own") || len(names) != 6 {
		t.Errorf("the libraries are %v", names)
	}
	for what, err := range map[string]error{
		"a name that is none": func() error { _, err := l.TakeLibrary(ctx, " ", []byte(own), who); return err }(),
		"a damaged file":      func() error { _, err := l.TakeLibrary(ctx, "A", []byte(`[{"peaks": [[1]]}]`), who); return err }(),
		"a nameless spectrum": func() error { _, err := l.AddSpectrum(ctx, LibraryEntry{Library: "A", Name: " "}, who); return err }(),
		"a bad line": func() error {
			_, err := l.AddSpectrum(ctx, LibraryEntry{Library: "A", Name: "B", Peaks: [][2]float64{{0, 1}}}, who)
			return err
		}(),
	} {
		if !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := l.LibraryFile(ctx, "Nobody's", "json"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a library that is not there: %v", err)
	}
}
