package resolving

import (
	"fmt"
	"math"
	"slices"
	"sync"
)

// Edition names how stretches are resolved. It changes with any change of a number, so that what was kept from before is resolved again.
const Edition = "3"

// Options are what may be said beforehand.
type Options struct {
	Compounds int // so many, not counting background; 0 finds the number
}

// Component is what a stretch holds: a compound, or background.
type Component struct {
	Spectrum   []float64 // on the axis of the stack; sums to 1
	Background bool
	ApexMin    float64 // over the samples, each weighing as much as it has of it
	Samples    []Portion
	Explained  float64 // share of the whole signal
	// Band is the least cosine between the spectrum and any that would fit as well: below 0.98 it may be mixed with its neighbour's.
	Band float64
	// BestShare is the greatest share of the signal that it has at any time.
	BestShare float64
	CutInTwo  bool // its spectrum is that of another one: perhaps one compound
	Doubts    []string
}

// Portion is a component in one sample.
type Portion struct {
	Sample  string
	AreaS   float64 // signal × s
	SE      float64 // of the area, from the noise alone
	ApexMin float64
	Profile []float64 // at the sample's scans, not below 0
}

// Result is a stretch resolved.
type Result struct {
	Components []Component // compounds in order of time, then background
	Explained  float64     // share of the signal's squares, less noise
	ChosenBy   string
	// Excess is, for each number that was tried, by how many widths the greatest direction of what is left lies above the edge of noise.
	Excess map[int]float64
	// Rest is what is left of each scan of each sample, in what noise would leave: about 1 where nothing else is there.
	Rest [][]float64
	// LeftAtMin is where the most is left.
	LeftAtMin float64
	// ExplainedBy is the share that so many components without any sign would explain, from 1 on.
	ExplainedBy []float64
	// Agree is the least cosine between spectra from two starts; 1 with one component.
	Agree float64
	// Apart is the largest share of a component's amounts by which two starts differ; 0 with one component.
	Apart  float64
	Doubts []string
	NoiseA float64 // the variance of a cell is NoiseA + NoiseB × signal
	NoiseB float64
	Cells  [2]int // rows and columns that were fitted
}

// Resolve takes a stretch apart. The same stack gives the same result, to the last bit, on any number of cores.
func Resolve(s Stack, o Options) (Result, error) {
	out := Result{Agree: 1, Components: []Component{}, Doubts: []string{}}
	if o.Compounds < 0 || o.Compounds > Most {
		return out, fmt.Errorf("between 1 and %d compounds are resolved, not %d", Most, o.Compounds)
	}
	p := prepare(s)
	if p.x.n < 4 {
		return out, fmt.Errorf("the stretch has %d scans after summing; choose a longer one", p.x.n)
	}
	sc := p.scale(Most + 2)
	k := o.Compounds
	if k == 0 {
		k, out.Excess = p.number(sc, Most)
		out.ChosenBy = "the largest eigenvalue of what is left, against that of noise"
	} else {
		k = min(k, len(sc.values))
		p.estimateAgain(p.lowRank(sc, min(k+1, len(sc.values))), min(k+1, len(sc.values)))
		out.Excess = map[int]float64{k: p.excess(p.lowRank(sc, k), k)}
		out.ChosenBy = "given"
	}
	out.ExplainedBy = p.explainedBy(sc)
	out.Cells = [2]int{p.x.n, p.x.p}
	if k == 0 {
		out.Doubts = append(out.Doubts, "Nothing stands out of the noise here.")
		return out, nil
	}
	more := o.Compounds > 0 && out.Excess[k] >= noiseEdge && k < len(sc.values) // perhaps for background
	rank := k
	if more {
		rank++
	}
	p.mendOffset(sc, rank)
	f, like := p.factorsOf(sc, rank)
	if more && backgrounds(f) != 1 {
		f, like = p.factorsOf(sc, k)
	}
	for o.Compounds == 0 && f.k() > 1 {
		several := p.severalPeaks(f)
		if len(several) == 0 || len(several) == f.k() {
			break
		}
		f, like = p.factorsOf(sc, f.k()-len(several))
	}
	out.Agree, out.Apart, out.NoiseA, out.NoiseB = like.cosine, like.apart, p.scanA, p.scanB
	p.report(&out, f)
	return out, nil
}

// backgrounds is how many components are background.
func backgrounds(f factors) (n int) {
	for _, is := range f.background {
		if is {
			n++
		}
	}
	return n
}

// explainedBy is the share of the scaled squares, less what noise has, that so many directions take.
func (p *prepared) explainedBy(s scaled) []float64 {
	mu, _ := edge(p.x.n, p.x.p)
	total := 0.0
	for _, v := range s.values {
		total += math.Max(0, v-mu)
	}
	var list []float64
	sum := 0.0
	for _, v := range s.values[:min(6, len(s.values))] {
		sum += math.Max(0, v-mu)
		list = append(list, sum/math.Max(total, 1e-300))
	}
	return list
}

// From this cosine on, and up to this share of amounts, two starts have come to the same.
const (
	agreeing = 0.98
	nearly   = 0.03
)

// likeness is how like two sets of factors are: the least cosine between their spectra, and the largest share of a component's amounts by which they differ.
type likeness struct{ cosine, apart float64 }

// factorsOf fits so many components from two starts, and takes the better one.
func (p *prepared) factorsOf(s scaled, k int) (factors, likeness) {
	byScans, byPlaces := s.starts(k)
	if k == 1 {
		return p.polish(p.fitted(s, byScans, false), polishing), likeness{cosine: 1}
	}
	var a, b factors
	var both sync.WaitGroup
	both.Go(func() { a = p.fitted(s, byScans, false) })
	both.Go(func() { b = p.fitted(s, byPlaces, true) })
	both.Wait()
	like := likenessOf(a, b)
	a = p.partings(p.polish(a, polishing))
	if like.cosine > theSame { // both are there already
		return a, likeness{cosine: like.cosine}
	}
	b = p.partings(p.polish(b, polishing))
	if like = likenessOf(a, b); like.cosine > agreeing && b.chi2 < a.chi2 {
		return b, like
	}
	return a, like
}

const (
	polishing = 4 // rounds
	theSame   = 0.9999
)

func (p *prepared) fitted(s scaled, start factors, fromAmounts bool) factors {
	f := p.alternate(s, start, fromAmounts)
	for range 3 {
		background := p.runsThrough(f.amounts)
		if slices.Equal(background, f.background) {
			break
		}
		f.background = background
		again := factors{amounts: newTable(f.amounts.n, f.k()), spectra: newTable(f.spectra.n, f.k()), background: background}
		for i := range f.amounts.n {
			for c := range f.k() {
				again.amounts.row(i)[c] = f.amounts.row(i)[c] / s.rows[i]
			}
		}
		for j := range f.spectra.n {
			for c := range f.k() {
				again.spectra.row(j)[c] = f.spectra.row(j)[c] / s.columns[j]
			}
		}
		f = p.alternate(s, again, false)
	}
	return f
}

// likenessOf pairs each component of a set of factors with that of another whose spectrum is most like its own.
func likenessOf(a, b factors) likeness {
	like, used := likeness{cosine: 1}, make([]bool, b.k())
	for c := range a.k() {
		best, most := -1, -1.0
		for d := range b.k() {
			if v := Cosine(a.spectra.column(c), b.spectra.column(d)); !used[d] && v > most {
				best, most = d, v
			}
		}
		if best >= 0 {
			used[best] = true
			like.apart = math.Max(like.apart, differing(a.amounts.column(c), b.amounts.column(best)))
		}
		like.cosine = math.Min(like.cosine, most)
	}
	return like
}

// differing is the share by which two lists of amounts differ, each scaled to the same sum: a factor is not a difference.
func differing(a, b []float64) float64 {
	sumA, sumB := 0.0, 0.0
	for i, v := range a {
		sumA, sumB = sumA+v, sumB+b[i]
	}
	if !(sumA > 0 && sumB > 0) {
		return 1
	}
	sum := 0.0
	for i, v := range a {
		sum += math.Abs(v/sumA - b[i]/sumB)
	}
	return sum / 2
}
