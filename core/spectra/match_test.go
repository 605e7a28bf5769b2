package spectra

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
)

func fromFile[T any](t *testing.T, name string) (v T) {
	t.Helper()
	data, err := os.ReadFile("testdata/" + name)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(data, &v); err != nil {
		t.Fatal(err)
	}
	return v
}

func linesOf(t *testing.T, pairs [][2]float64) Lines {
	t.Helper()
	l, err := LinesOf(pairs)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

// Scores of eight queries against forty entries under four weightings, forward and reverse, as they were computed independently.
func TestMatchesAreThoseOfTheReference(t *testing.T) {
	type listed struct {
		ID    string       `json:"id"`
		Peaks [][2]float64 `json:"peaks"`
	}
	library, queries := fromFile[[]listed](t, "library.json"), fromFile[[]listed](t, "queries.json")
	truth := fromFile[struct {
		Weightings map[string]struct{ A, B float64 }
		Queries    []struct {
			Query   string
			Results map[string]struct{ Scores map[string]float64 }
		}
	}](t, "search.truth.json")
	compared := 0
	for _, q := range truth.Queries {
		for name, w := range truth.Weightings {
			weights := Weighting{w.A, w.B}
			for _, query := range queries {
				if query.ID != q.Query {
					continue
				}
				for _, e := range library {
					s := Match(linesOf(t, query.Peaks), linesOf(t, e.Peaks), UsualWithin, weights)
					for way, got := range map[string]float64{"forward": s.Forward, "reverse": s.Reverse} {
						want, ok := q.Results[name+"_"+way].Scores[e.ID]
						if !ok || math.Abs(got-want) > 1e-9 {
							t.Errorf("%s against %s, %s %s: %.12f, want %.12f", q.Query, e.ID, name, way, got, want)
						}
						compared++
					}
				}
			}
		}
	}
	if compared != 8*40*4*2 {
		t.Errorf("%d scores were compared", compared)
	}
}

// Cases worked by hand: lines pair nearest first and once, what is too far does not pair, scale does not matter, nothing matches nothing.
func TestLinesPairOnce(t *testing.T) {
	plain := Weighting{0, 1}
	for what, c := range map[string]struct {
		query, entry     [][2]float64
		within           float64
		forward, reverse float64
		matched          int
	}{
		"two of the query near one of the entry": {[][2]float64{{100, 3}, {100.3, 4}}, [][2]float64{{100.2, 5}}, 0.4, 4.0 / 5, 1, 1},
		"a chain of three":                       {[][2]float64{{100, 1}, {100.5, 1}}, [][2]float64{{100.3, 1}, {100.8, 1}}, 0.4, 0.5, math.Sqrt(0.5), 1}, // 100.5 and 100.3 are the nearest; then 100 and 100.8 are 0.8 apart
		"just within":                            {[][2]float64{{100.4, 1}}, [][2]float64{{100, 1}}, 0.4, 1, 1, 1},
		"just beyond":                            {[][2]float64{{100.41, 1}}, [][2]float64{{100, 1}}, 0.4, 0, 0, 0},
		"half of the entry":                      {[][2]float64{{100, 1}}, [][2]float64{{100, 1}, {200, 1}}, 0.4, math.Sqrt(0.5), math.Sqrt(0.5), 1},
		"more than the entry":                    {[][2]float64{{100, 1}, {200, 1}}, [][2]float64{{100, 1}}, 0.4, math.Sqrt(0.5), 1, 1},
		"an empty query":                         {nil, [][2]float64{{100, 1}}, 0.4, 0, 0, 0},
		"an empty entry":                         {[][2]float64{{100, 1}}, nil, 0.4, 0, 0, 0},
		"heights of another scale":               {[][2]float64{{100, 3e-300}, {200, 4e-300}}, [][2]float64{{100, 3e280}, {200, 4e280}}, 0.4, 1, 1, 2},
		"a line given in two parts":              {[][2]float64{{200, 4}, {100, 1}, {100, 2}}, [][2]float64{{100, 3}, {200, 4}}, 0.4, 1, 1, 2},
	} {
		s := Match(linesOf(t, c.query), linesOf(t, c.entry), c.within, plain)
		if math.Abs(s.Forward-c.forward) > 1e-12 || math.Abs(s.Reverse-c.reverse) > 1e-12 || s.Matched != c.matched {
			t.Errorf("%s: %+v, want %g, %g, %d", what, s, c.forward, c.reverse, c.matched)
		}
	}
	for says, bad := range map[string][2]float64{"no m/z": {0, 1}, "line 1 stands at NaN": {math.NaN(), 1}, "the height -1": {100, -1}, "the height NaN": {100, math.NaN()}} {
		if _, err := LinesOf([][2]float64{bad}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%v: %v", bad, err)
		}
	}
	for _, w := range []Weighting{{-1, 1}, {1, 0}, {math.NaN(), 1}, {1, 11}} {
		if w.Validate() == nil {
			t.Errorf("%+v was taken", w)
		}
	}
}

// made is a library of spectra that are made up: each with lines of its own, and many that are like their neighbours, as of one class of compounds.
func made(n int, seed uint64) []Entry {
	r := rand.New(rand.NewPCG(seed, 1))
	entries := make([]Entry, n)
	var family []float64
	for k := range entries {
		if k%20 == 0 { // a new class, with fragments that all its members have
			family = nil
			for range 6 {
				family = append(family, float64(29+r.IntN(120)))
			}
		}
		heights := map[float64]float64{}
		for _, m := range family {
			heights[m] = 999 * math.Pow(r.Float64(), 0.7)
		}
		for range 10 + r.IntN(60) {
			heights[float64(29+r.IntN(320))] = 999 * math.Pow(r.Float64(), 3)
		}
		var l [][2]float64
		for m, h := range heights {
			l = append(l, [2]float64{m, math.Round(h) + 1})
		}
		lines, _ := LinesOf(l)
		entries[k] = Entry{ID: fmt.Sprint(k), Lines: lines}
	}
	return entries
}

// measuredAs is an entry as an instrument would give it: heights scatter, small lines drown, column bleed and noise stand beside.
func measuredAs(e Entry, r *rand.Rand) Lines {
	var l [][2]float64
	for _, one := range e.Lines {
		if h := one.Height * math.Exp(0.15*r.NormFloat64()); h > 12 {
			l = append(l, [2]float64{one.At, h * 140})
		}
	}
	for _, m := range []float64{44, 73, 147, 207, 281} {
		l = append(l, [2]float64{m, 140 * 150 * r.Float64()})
	}
	for range 12 {
		l = append(l, [2]float64{float64(29 + r.IntN(320)), 140 * 10 * r.Float64()})
	}
	out, _ := LinesOf(l)
	return out
}

// Of a large library the prefilter loses no hit: what a search of every entry ranks first, the search with the index ranks first. `make bench` counts over thousands.
func TestThePrefilterLosesNoHit(t *testing.T) {
	entries := made(12_000, 7)
	for _, w := range []Weighting{Usual, {0, 1}, {3, 0.6}} {
		l := NewLibrary(entries, w)
		r := rand.New(rand.NewPCG(11, 2))
		const queries = 60
		lost, wrong := 0, 0
		for range queries {
			k := r.IntN(len(entries))
			q := measuredAs(entries[k], r)
			best, score := -1, -1.0
			of := w.of(q)
			for i := range entries {
				if s := of.match(l.weighted[i], UsualWithin).Forward; s > score {
					best, score = i, s
				}
			}
			hits := l.Search(q, UsualWithin, 3)
			if len(hits) != 3 || hits[0].Place != best || hits[0].Forward != score {
				lost++
			}
			if best != k {
				wrong++
			}
		}
		if lost > 0 {
			t.Errorf("%+v: %d of %d first hits are lost", w, lost, queries)
		}
		if wrong > queries/10 {
			t.Errorf("%+v: %d of %d queries have another best entry: they are no test", w, wrong, queries)
		}
	}
}

func TestSearchOrdersItsHits(t *testing.T) {
	l := NewLibrary([]Entry{{ID: "a", Lines: Lines{{50, 1}, {60, 1}}}, {ID: "b", Lines: Lines{{50, 1}}}, {ID: "c", Lines: Lines{{50, 1}}}, {ID: "none"}}, Weighting{0, 1})
	hits := l.Search(Lines{{50, 5}}, 0.4, 10)
	order := ""
	for _, h := range hits {
		order += l.Entries[h.Place].ID + " "
	}
	if order != "b c a none " || hits[3].Forward != 0 {
		t.Errorf("the order is %s: %+v", order, hits)
	}
	if got := NewLibrary(nil, Usual).Search(Lines{{50, 1}}, 0.4, 5); len(got) != 0 {
		t.Errorf("an empty library gives %v", got)
	}
}

// Two spectra of wavelengths are compared where both reach, whatever their grids; a straight line between points is read exactly.
func TestLikenessOfWavelengthsOnTwoGrids(t *testing.T) {
	slope := func(from, to, step float64) (l Lines) {
		for at := from; at <= to; at += step {
			l = append(l, Line{at, 3 + 0.02*(at-200)})
		}
		return l
	}
	for _, c := range []struct {
		a, b Lines
		want float64
	}{
		{slope(200, 400, 2), slope(200, 400, 2), 1}, {slope(200, 400, 2), slope(190, 460, 7), 1}, {slope(210, 300, 1), slope(200, 400, 5), 1},
		{slope(200, 300, 2), slope(400, 500, 2), 0}, {nil, slope(200, 300, 2), 0}, {slope(200, 300, 2), nil, 0},
		{Lines{{200, 1}, {210, 0}}, Lines{{200, 0}, {210, 1}}, 0}, {Lines{{200, 1}, {210, 1}}, Lines{{200, 1}, {210, 0}}, math.Sqrt(0.5)},
		{Lines{{200, 1}, {210, -1}}, Lines{{200, -1}, {210, 1}}, 0}, // the opposite is not alike
	} {
		if got := Likeness(Wavelength, c.a, c.b, Usual, UsualWithin); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("%d places against %d: %.12f, want %g", len(c.a), len(c.b), got, c.want)
		}
	}
}
