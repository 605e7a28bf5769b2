package lab

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"yugen/bench"
	"yugen/core/spectra"
	"yugen/formats/jcamp"
	"yugen/formats/library"
	"yugen/lab/change"
	"yugen/store"
)

// KeptLibrary is a library of the laboratory.
type KeptLibrary struct {
	Name    string `json:"name"`
	Spectra int    `json:"spectra"`
}

// LibraryTaken says what became of a file that was taken into a library.
type LibraryTaken struct {
	Added int `json:"added"`
	// Twice are names of spectra that are there already, line by line; they are left out.
	Twice []string `json:"twice"`
	Names int      `json:"names"` // of how many the name is there already, with another spectrum; they stand beside each other
}

// LibraryEntry is a spectrum as it is shown and kept.
type LibraryEntry struct {
	ID         string       `json:"id,omitempty"`
	Library    string       `json:"library"`
	Name       string       `json:"name"`
	Formula    string       `json:"formula,omitempty"`
	Mass       float64      `json:"mass,omitempty"`
	Index      *float64     `json:"retention_index,omitempty"`
	Source     string       `json:"source,omitempty"`
	Conditions string       `json:"conditions,omitempty"`
	Kind       spectra.Kind `json:"kind"`
	Peaks      [][2]float64 `json:"peaks"`
	AddedBy    string       `json:"added_by,omitempty"`
	AddedAt    *time.Time   `json:"added_at,omitempty"`
}

// Bounds of libraries.
const (
	maxLibraryName = 80
	maxTold        = 50 // names that are told
)

// libraries holds the spectra of all libraries ready for searching.
type libraries struct {
	mu      sync.Mutex
	entries []LibraryEntry                         // of masses
	light   []LibraryEntry                         // of wavelengths
	ready   map[spectra.Weighting]*spectra.Library // of masses
	stale   bool
}

// Libraries are those of the laboratory.
func (l *Lab) Libraries(ctx context.Context) ([]KeptLibrary, error) {
	list := []KeptLibrary{}
	err := l.store.Read(ctx, func(t *store.Tx) error {
		counts, err := t.Libraries()
		for _, c := range counts {
			list = append(list, KeptLibrary{c.Library, c.Spectra})
		}
		return err
	})
	return list, err
}

func libraryName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if name == "" || utf8.RuneCountInString(name) > maxLibraryName {
		return "", refuseAt("/library", "the name of a library has between 1 and %d letters", maxLibraryName)
	}
	return name, nil
}

// TakeLibrary takes the spectra of a file into a library. Those that are there already are told and left out.
func (l *Lab) TakeLibrary(ctx context.Context, name string, data []byte, who string) (LibraryTaken, error) {
	out := LibraryTaken{Twice: []string{}}
	name, err := libraryName(name)
	if err != nil {
		return out, err
	}
	entries, err := library.Read(data)
	if err != nil {
		return out, refuse("the library cannot be read: %s", err)
	}
	list := make([]LibraryEntry, len(entries))
	for k, e := range entries {
		list[k] = LibraryEntry{Library: name, Name: e.Name, Formula: e.Formula, Mass: e.Mass, Index: e.Index, Source: e.Source, Conditions: e.Conditions, Kind: kindOr(e.Kind), Peaks: e.Lines.Pairs()}
	}
	return l.addSpectra(ctx, name, list, who, fmt.Sprintf("%d spectra", len(list)))
}

func kindOr(k spectra.Kind) spectra.Kind {
	if k == "" {
		return spectra.Mass
	}
	return k
}

// AddSpectrum keeps one spectrum in a library, as one that was measured of a peak.
func (l *Lab) AddSpectrum(ctx context.Context, e LibraryEntry, who string) (LibraryTaken, error) {
	name, err := libraryName(e.Library)
	if err != nil {
		return LibraryTaken{Twice: []string{}}, err
	}
	e.Name, e.Kind = strings.TrimSpace(e.Name), kindOr(e.Kind)
	if e.Name == "" || utf8.RuneCountInString(e.Name) > 200 {
		return LibraryTaken{Twice: []string{}}, refuseAt("/name", "a spectrum needs a name of at most 200 letters")
	}
	if _, err := spectra.SpectrumOf(e.Kind, e.Peaks); err != nil {
		return LibraryTaken{Twice: []string{}}, refuseAt("/peaks", "%s", err)
	}
	return l.addSpectra(ctx, name, []LibraryEntry{e}, who, e.Name)
}

// linesKey is the same for spectra with the same lines.
func linesKey(e LibraryEntry) string {
	return store.Hash([]byte(change.JSON(e.Peaks)))
}

func (l *Lab) addSpectra(ctx context.Context, name string, list []LibraryEntry, who, what string) (LibraryTaken, error) {
	out := LibraryTaken{Twice: []string{}}
	err := l.store.Write(ctx, func(t *store.Tx) error {
		out = LibraryTaken{Twice: []string{}}
		there, err := t.LibrarySpectra(name)
		if err != nil {
			return err
		}
		lines, names := map[string]bool{}, map[string]bool{}
		for _, s := range there {
			lines[s.Name+" "+s.Hash], names[s.Name] = true, true
		}
		for _, e := range list {
			hash := linesKey(e)
			if lines[e.Name+" "+hash] {
				if len(out.Twice) < maxTold {
					out.Twice = append(out.Twice, e.Name)
				}
				continue
			}
			if names[e.Name] {
				out.Names++
			}
			lines[e.Name+" "+hash], names[e.Name] = true, true
			e.ID, e.Library, e.AddedBy, e.AddedAt = "", name, "", nil
			if _, err := t.AddLibrarySpectrum(store.LibrarySpectrum{Library: name, Name: e.Name, Kind: string(e.Kind), Hash: hash, Text: change.JSON(e), AddedBy: who}); err != nil {
				return err
			}
			out.Added++
		}
		if out.Added == 0 {
			return nil
		}
		_, err = t.Record(store.Change{Who: who, Action: store.LibraryAction, Subject: name + ": " + what, After: change.JSON(map[string]int{"added": out.Added})})
		return err
	})
	l.shelves.forget()
	return out, err
}

func (b *libraries) forget() {
	b.mu.Lock()
	b.stale = true
	b.mu.Unlock()
}

// PutSpectrumAway takes a spectrum out of its library. What was confirmed by it keeps its name.
func (l *Lab) PutSpectrumAway(ctx context.Context, id, who string) error {
	err := l.store.Write(ctx, func(t *store.Tx) error {
		if err := t.PutSpectrumAway(id); err != nil {
			return err
		}
		_, err := t.Record(store.Change{Who: who, Action: store.LibraryAction, Subject: "a spectrum put away", Before: change.JSON(map[string]string{"spectrum": id})})
		return err
	})
	l.shelves.forget()
	return err
}

// LibraryFile is a library as a file.
func (l *Lab) LibraryFile(ctx context.Context, name, as string) ([]byte, error) {
	entries, err := l.spectraOfLibraries(ctx, name)
	if err != nil {
		return nil, err
	}
	if len(entries) == 0 {
		return nil, fmt.Errorf("library %s: %w", name, store.ErrNotFound)
	}
	list := make([]spectra.Entry, len(entries))
	for k, e := range entries {
		list[k] = e.entry()
	}
	switch as {
	case "json":
		return library.JSON(list)
	case "csv":
		return library.CSV(list)
	case "jdx":
		return jcamp.WriteLibrary(name, list), nil
	}
	return nil, refuse("a library is written as json, csv or jdx, not as %q", as)
}

func (e LibraryEntry) entry() spectra.Entry {
	lines, _ := spectra.SpectrumOf(e.Kind, e.Peaks) // which were checked when they came
	return spectra.Entry{ID: e.ID, Name: e.Name, Kind: e.Kind, Lines: lines, Index: e.Index, Formula: e.Formula, Mass: e.Mass, Source: e.Source, Conditions: e.Conditions}
}

func (l *Lab) spectraOfLibraries(ctx context.Context, name string) ([]LibraryEntry, error) {
	var kept []store.LibrarySpectrum
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		kept, err = t.LibrarySpectra(name)
		return err
	})
	if err != nil {
		return nil, err
	}
	list := make([]LibraryEntry, len(kept))
	for k, s := range kept {
		if err := json.Unmarshal([]byte(s.Text), &list[k]); err != nil {
			return nil, fmt.Errorf("spectrum %s of %s cannot be read: %w", s.Name, s.Library, err)
		}
		at := s.AddedAt
		list[k].ID, list[k].Library, list[k].AddedBy, list[k].AddedAt = s.ID, s.Library, s.AddedBy, &at
	}
	return list, nil
}

// searched is all spectra of masses, ready for searching.
func (l *Lab) searched(ctx context.Context, w spectra.Weighting) (*spectra.Library, []LibraryEntry, error) {
	b := &l.shelves
	b.mu.Lock()
	defer b.mu.Unlock()
	if err := l.readShelves(ctx, b); err != nil {
		return nil, nil, err
	}
	if b.ready[w] == nil {
		list := make([]spectra.Entry, len(b.entries))
		for k, e := range b.entries {
			list[k] = e.entry()
		}
		b.ready[w] = spectra.NewLibrary(list, w)
	}
	return b.ready[w], b.entries, nil
}

// readShelves reads the libraries anew where they were changed; b is locked.
func (l *Lab) readShelves(ctx context.Context, b *libraries) error {
	if b.ready != nil && !b.stale {
		return nil
	}
	all, err := l.spectraOfLibraries(ctx, "")
	if err != nil {
		return err
	}
	b.entries, b.light, b.ready, b.stale = nil, nil, map[spectra.Weighting]*spectra.Library{}, false
	for _, e := range all {
		if e.Kind == spectra.Mass {
			b.entries = append(b.entries, e)
		} else {
			b.light = append(b.light, e)
		}
	}
	return nil
}

// ofKind is all spectra of a kind in all libraries.
func (l *Lab) ofKind(ctx context.Context, kind spectra.Kind) ([]LibraryEntry, error) {
	b := &l.shelves
	b.mu.Lock()
	defer b.mu.Unlock()
	if err := l.readShelves(ctx, b); err != nil {
		return nil, err
	}
	if kind == spectra.Mass {
		return b.entries, nil
	}
	return b.light, nil
}

// named are the spectra of a kind that bear a name.
func (l *Lab) named(ctx context.Context, kind spectra.Kind, name string) (list []LibraryEntry, err error) {
	all, err := l.ofKind(ctx, kind)
	for _, e := range all {
		if strings.EqualFold(e.Name, name) {
			list = append(list, e)
		}
	}
	return list, err
}

// The open libraries that the demo brings with it.
const (
	DemoLibrary = "Open volatiles"
	DemoColours = "Open colours"
)

// loadDemoLibraries keeps the libraries of the demo where they are not there yet.
func (l *Lab) loadDemoLibraries(ctx context.Context) error {
	there, err := l.Libraries(ctx)
	if err != nil {
		return err
	}
	for _, demo := range []struct {
		name    string
		entries []spectra.Entry
	}{{DemoLibrary, bench.Volatiles()}, {DemoColours, bench.Colours()}} {
		if slices.ContainsFunc(there, func(k KeptLibrary) bool { return k.Name == demo.name }) {
			continue
		}
		data, err := library.JSON(demo.entries)
		if err != nil {
			return err
		}
		if _, err = l.TakeLibrary(ctx, demo.name, bytes.TrimSpace(data), DemoAuthor); err != nil {
			return err
		}
	}
	return nil
}
