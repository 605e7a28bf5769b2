package spectra

import (
	"errors"
	"math"
	"slices"
)

// Purity says whether the spectra across a peak are those of one compound.
type Purity struct {
	// Scans are those across the peak that are strong enough to tell something, in time order.
	Scans []PurityScan `json:"scans"`
	// Apex is the time of the spectrum that they are held against, min.
	ApexMin float64 `json:"apex_min"`
	// Impure tells whether the angle stays over the limit longer than noise alone would keep it there; FromMin and ToMin are that stretch, before or after the
	// apex, where it turns furthest.
	Impure  bool    `json:"impure"`
	FromMin float64 `json:"from_min"`
	ToMin   float64 `json:"to_min"`
	// Largest is the greatest angle of that stretch, or of the peak, in degrees.
	Largest float64 `json:"largest_degrees"`
	// Weak tells that noise alone would turn even the best spectra beside the apex by more than can be told from anything.
	Weak bool `json:"weak"`
}

// PurityScan is one spectrum across the peak.
type PurityScan struct {
	AtMin float64 `json:"at_min"`
	Angle float64 `json:"angle_degrees"`
	Limit float64 `json:"limit_degrees"` // that noise alone exceeds once in a hundred peaks
}

// Of a peak's purity.
const (
	purityRisk = 0.02 // that noise alone calls a pure peak impure, for a whole peak
	lasting    = 3    // so many spectra in a row make a crossing
	tooWeak    = 20.0 // a limit above so many degrees tells nothing
	leastLimit = 0.05 // degrees; what an instrument's own unevenness may turn a spectrum
)

// ErrNoBaseline says that there is no stretch of baseline that the noise and the background could be taken from.
var ErrNoBaseline = errors.New("there are fewer than eight spectra of baseline beside the peak, so its noise is not known")

// PurityOf holds each spectrum across a peak against the mean of those around its apex. The scans are on one grid of wavelengths; peak are those across the peak,
// and before and after are stretches of baseline beside it, whose mean, running straight between them, is taken off and whose scatter is the noise.
func PurityOf(peak, before, after []Scan) (Purity, error) {
	if len(before)+len(after) < 8 || len(peak) < 5 {
		return Purity{}, ErrNoBaseline
	}
	n := len(peak[0].Axis)
	for _, list := range [][]Scan{peak, before, after} {
		for _, s := range list {
			if len(s.Values) != n {
				return Purity{}, errors.New("the spectra of this run are not on one grid of wavelengths")
			}
		}
	}
	base := newBaseline(before, after)
	noise := base.noise(before, after)
	spectra := make([][]float64, len(peak))
	total := make([]float64, len(peak))
	for k, s := range peak {
		spectra[k] = base.less(s)
		total[k] = norm(spectra[k])
	}
	apex := strongest(total)
	from, to := apex, apex
	for from > 0 && total[from-1] > 0.9*total[apex] && apex-from < 2 {
		from--
	}
	for to+1 < len(total) && total[to+1] > 0.9*total[apex] && to-apex < 2 {
		to++
	}
	shape := make([]float64, n)
	for k := from; k <= to; k++ {
		for j := range shape {
			shape[j] += spectra[k][j] / float64(to-from+1)
		}
	}
	p := Purity{ApexMin: peak[apex].TimeS / 60, Scans: []PurityScan{}}
	length := norm(shape)
	// The risk is shared among all runs of so many spectra; their angles are independent but for the background, which all have in common.
	single := math.Pow(purityRisk/float64(len(peak)), 1.0/lasting)
	means := float64(to - from + 1)
	for k := range peak {
		height := total[k] / length
		if !(height > 0) {
			continue
		}
		limit := math.Hypot(leastLimit, AngleLimit(shape, noise, (1+base.share)/(height*height)+(1/means+base.share), single))
		if limit > tooWeak || k >= from && k <= to {
			continue
		}
		p.Scans = append(p.Scans, PurityScan{peak[k].TimeS / 60, Angle(spectra[k], shape), limit})
	}
	p.Weak = len(p.Scans) < 2*lasting
	p.judge()
	return p, nil
}

// judge finds the crossings of the limit that last, on either side of the apex, and tells of the one where the spectrum turns furthest.
func (p *Purity) judge() {
	overall := 0.0
	for from := 0; from < len(p.Scans); {
		to, largest := from, 0.0
		for to < len(p.Scans) && p.Scans[to].Angle > p.Scans[to].Limit && (p.Scans[to].AtMin < p.ApexMin) == (p.Scans[from].AtMin < p.ApexMin) {
			largest = math.Max(largest, p.Scans[to].Angle)
			to++
		}
		if to-from >= lasting && largest > p.Largest {
			p.Impure, p.FromMin, p.ToMin, p.Largest = true, p.Scans[from].AtMin, p.Scans[to-1].AtMin, largest
		}
		overall = math.Max(overall, p.Scans[from].Angle)
		from = max(to, from+1)
	}
	if !p.Impure {
		p.Largest = overall
	}
}

// AtHalf are the spectra at the apex of a peak and where its signal is half as high before and after it, less the baseline.
func AtHalf(peak, before, after []Scan) (axis, apex, front, tail []float64) {
	base := newBaseline(before, after)
	total := make([]float64, len(peak))
	for k, s := range peak {
		total[k] = norm(base.less(s))
	}
	at := strongest(total)
	from, to := at, at
	for from > 0 && total[from] > total[at]/2 {
		from--
	}
	for to+1 < len(total) && total[to] > total[at]/2 {
		to++
	}
	return peak[at].Axis, base.less(peak[at]), base.less(peak[from]), base.less(peak[to])
}

func strongest(total []float64) int {
	best := 0
	for k, v := range total {
		if v > total[best] {
			best = k
		}
	}
	return best
}

// baseline is the spectrum of what elutes all the time, running straight from before a peak to after it.
type baseline struct {
	before, after []float64 // means
	t0, t1        float64   // s, of these means
	share         float64   // how much variance of a single spectrum its own mean has
}

func newBaseline(before, after []Scan) baseline {
	b := baseline{}
	b.before, b.t0 = meanOf(before)
	b.after, b.t1 = meanOf(after)
	switch {
	case b.before == nil:
		b.before, b.t0 = b.after, b.t1-1
	case b.after == nil:
		b.after, b.t1 = b.before, b.t0+1
	}
	b.share = 1 / float64(len(before)+len(after))
	if len(before) > 0 && len(after) > 0 {
		b.share = (1/float64(len(before)) + 1/float64(len(after))) / 4
	}
	return b
}

func meanOf(scans []Scan) (mean []float64, at float64) {
	if len(scans) == 0 {
		return nil, 0
	}
	mean = make([]float64, len(scans[0].Values))
	for _, s := range scans {
		at += s.TimeS / float64(len(scans))
		for k, v := range s.Values {
			mean[k] += v / float64(len(scans))
		}
	}
	return mean, at
}

func (b baseline) less(s Scan) []float64 {
	f := math.Max(0, math.Min(1, (s.TimeS-b.t0)/(b.t1-b.t0)))
	out := make([]float64, len(s.Values))
	for k, v := range s.Values {
		out[k] = v - b.before[k]*(1-f) - b.after[k]*f
	}
	return out
}

// noise is the standard deviation of a single spectrum at each wavelength, by the median of differences from scan to scan over √2 (0.6745 of a normal
// deviation lie within the median). Neighbouring wavelengths are averaged, since few scans tell little of each.
func (b baseline) noise(before, after []Scan) []float64 {
	n := len(b.before)
	own := make([]float64, n)
	for k := range own {
		var differences []float64
		for _, list := range [][]Scan{before, after} {
			for i := 1; i < len(list); i++ {
				differences = append(differences, math.Abs(list[i].Values[k]-list[i-1].Values[k]))
			}
		}
		slices.Sort(differences)
		own[k] = middleOf(differences) / 0.6744897501960817 / math.Sqrt2
	}
	const each = 4
	out := make([]float64, n)
	for k := range out {
		from, to := max(0, k-each), min(n-1, k+each)
		sum := 0.0
		for _, v := range own[from : to+1] {
			sum += v * v
		}
		out[k] = math.Sqrt(sum / float64(to-from+1))
	}
	return out
}

func middleOf(sorted []float64) float64 {
	n := len(sorted)
	switch {
	case n == 0:
		return 0
	case n%2 == 1:
		return sorted[n/2]
	}
	return (sorted[n/2-1] + sorted[n/2]) / 2
}

// Rest is what remains of the mean spectrum where a peak's spectra turn, after as much of the spectrum at its apex is taken off as can be there: so much that nowhere
// less than nothing remains, by more than noise. share is how much of the signal there it is. Nothing is returned for a pure peak, or where nothing remains.
func Rest(peak, before, after []Scan, p Purity) (rest []float64, share float64) {
	if !p.Impure || len(peak) == 0 {
		return nil, 0
	}
	base := newBaseline(before, after)
	noise := base.noise(before, after)
	total := make([]float64, len(peak))
	var turned []float64
	n := 0.0
	for k, s := range peak {
		values := base.less(s)
		total[k] = norm(values)
		if at := s.TimeS / 60; at < p.FromMin || at > p.ToMin {
			continue
		}
		if turned == nil {
			turned = make([]float64, len(values))
		}
		n++
		for j, v := range values {
			turned[j] += v
		}
	}
	if n == 0 {
		return nil, 0
	}
	apex := base.less(peak[strongest(total)])
	highest := 0.0
	for j := range turned {
		turned[j] /= n
		highest = math.Max(highest, apex[j])
	}
	most := math.Inf(1)
	for j, a := range apex {
		if a > 0.05*highest {
			most = math.Min(most, (turned[j]+2*noise[j]/math.Sqrt(n))/a)
		}
	}
	rest = make([]float64, len(turned))
	for j := range rest {
		rest[j] = turned[j] - math.Max(0, most)*apex[j]
	}
	whole := norm(turned)
	if !(whole > 0) {
		return nil, 0
	}
	return rest, norm(rest) / whole
}
