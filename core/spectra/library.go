package spectra

import (
	"math"
	"runtime"
	"slices"
	"sync"
)

// Entry is a spectrum of a library.
type Entry struct {
	ID         string
	Name       string
	Kind       Kind // empty is of masses
	Lines      Lines
	Index      *float64 // its retention index; nil where the library does not say
	Formula    string
	Mass       float64 // molar, g/mol; 0 is not known
	Source     string  // where the spectrum comes from
	Conditions string  // under which it was measured
}

// Hit is an entry that is like a query.
type Hit struct {
	Place int // of the entry in the library
	Score
}

// The prefilter: how many of its largest lines an entry stands in the index with, and how many entries are matched as a whole.
const (
	indexed    = 16
	candidates = 3000
)

// Library is a set of entries that can be searched under one weighting.
type Library struct {
	Entries  []Entry
	weights  Weighting
	weighted []weighted
	// postings are, by m/z rounded to a whole number, the entries that have one of their largest lines there, with its share of their norm.
	postings [][]posting
}

type posting struct {
	entry int32
	share float32
}

// NewLibrary prepares entries for searching.
func NewLibrary(entries []Entry, w Weighting) *Library {
	l := &Library{Entries: entries, weights: w, weighted: make([]weighted, len(entries))}
	for k, e := range entries {
		l.weighted[k] = w.of(e.Lines)
		l.post(int32(k), l.weighted[k])
	}
	return l
}

func (l *Library) post(entry int32, of weighted) {
	order := make([]int, len(of.weight))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		switch {
		case of.weight[a] > of.weight[b]:
			return -1
		case of.weight[a] < of.weight[b]:
			return 1
		}
		return a - b
	})
	for _, i := range order[:min(indexed, len(order))] {
		bin := int(math.Round(of.lines[i].At))
		if of.weight[i] == 0 || bin > maxBin {
			continue
		}
		for len(l.postings) <= bin {
			l.postings = append(l.postings, nil)
		}
		l.postings[bin] = append(l.postings[bin], posting{entry, float32(of.weight[i] / math.Sqrt(of.square))})
	}
}

// maxBin bounds the index; an entry with lines beyond it is found by the others.
const maxBin = 100_000

// Search gives the entries that are most like a query by forward match, best first, of equal ones the earlier. Of a large library only those are matched as a
// whole whose largest lines promise most.
func (l *Library) Search(query Lines, within float64, hits int) []Hit {
	q := l.weights.of(query)
	places := l.promising(q, within)
	found := make([]Hit, len(places))
	workers := min(runtime.GOMAXPROCS(0), 1+len(places)/64)
	var all sync.WaitGroup
	for w := range workers {
		all.Go(func() {
			for k := w; k < len(places); k += workers {
				found[k] = Hit{places[k], q.match(l.weighted[places[k]], within)}
			}
		})
	}
	all.Wait()
	slices.SortFunc(found, func(a, b Hit) int {
		switch {
		case a.Forward > b.Forward:
			return -1
		case a.Forward < b.Forward:
			return 1
		}
		return a.Place - b.Place
	})
	return found[:min(hits, len(found))]
}

// promising are the places of the entries that are worth matching: all of a small library.
func (l *Library) promising(q weighted, within float64) []int {
	if len(l.Entries) <= candidates {
		places := make([]int, len(l.Entries))
		for k := range places {
			places[k] = k
		}
		return places
	}
	promise := make([]float32, len(l.Entries))
	for i, line := range q.lines {
		if q.weight[i] == 0 {
			continue
		}
		from, to := int(math.Round(line.At-within)), int(math.Round(line.At+within))
		for bin := max(0, from); bin <= to && bin < len(l.postings); bin++ {
			w := float32(q.weight[i])
			for _, p := range l.postings[bin] {
				promise[p.entry] += w * p.share
			}
		}
	}
	least := threshold(promise, candidates)
	places := make([]int, 0, candidates+1024)
	for k, p := range promise {
		if p >= least && p > 0 {
			places = append(places, k)
		}
	}
	return places
}

// threshold is a value that about n of the values reach, found by counting them in steps.
func threshold(values []float32, n int) float32 {
	top := slices.Max(values)
	if !(top > 0) {
		return 0
	}
	const steps = 4096
	var counts [steps + 1]int
	for _, v := range values {
		counts[int(v/top*steps)]++
	}
	reached := 0
	for k := steps; k > 0; k-- {
		if reached += counts[k]; reached >= n {
			return float32(k) / steps * top
		}
	}
	return 0
}
