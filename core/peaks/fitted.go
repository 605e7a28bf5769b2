package peaks

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// fitted is one shape of a fitted cluster, with the baseline that was fitted with it.
type fitted struct {
	emg
	areaSE   float64
	rSquared float64
	base     ground
}

const (
	// mostFitted bounds the peaks fitted together; longer clusters are cut at their deepest valleys.
	mostFitted = 8
	// leastRSquared is below what a fit must not fall to count.
	leastRSquared = 0.9
	// mostRestarted is the longest cluster for which another start is worth its time.
	mostRestarted = 4
	fitRounds     = 60
	fitSettled    = 1e-10
)

// fit puts fitted shapes to the peaks of every cluster that is to be parted so.
func (v *view) fit(found []candidate) {
	for from := 0; from < len(found); {
		to := from
		for to+1 < len(found) && touch(found[to], found[to+1]) && v.how(found[to], found[to+1]) == ByFit {
			to++
		}
		c := found[from]
		alone := to == from && (c.by == ByFit || c.saturated && v.howAlone(c) == ByFit)
		if to > from || alone {
			v.fitParts(found, from, to)
		}
		from = to + 1
	}
}

func (v *view) howAlone(c candidate) SplitKind { return v.how(c, c) }

// fitParts cuts a long cluster at its deepest valley, again and again.
func (v *view) fitParts(found []candidate, from, to int) {
	if to-from+1 > mostFitted {
		deepest, least := from, math.Inf(1)
		for i := from + 1; i < to-1; i++ { // at least two stay together
			lower := min(found[i].level, found[i+1].level) - found[i].base.at(v.timeS(found[i].end))
			if depth := (v.level(found[i].end) - found[i].base.at(v.timeS(found[i].end))) / max(lower, 1e-300); depth < least {
				deepest, least = i, depth
			}
		}
		v.fitParts(found, from, deepest)
		v.fitParts(found, deepest+1, to)
		return
	}
	cluster := found[from : to+1]
	for _, c := range cluster {
		if len(c.riders) > 0 || c.startKind == Skim {
			return
		}
	}
	// Beyond its ends a cluster has baseline to learn from, as far as the neighbours leave any.
	start, end := max(0, cluster[0].start-cluster[0].on.width), min(float64(len(v.raw)-1), cluster[len(cluster)-1].end+cluster[0].on.width)
	if from > 0 {
		start = min(cluster[0].start, max(start, found[from-1].end))
	}
	if to+1 < len(found) {
		end = max(cluster[len(cluster)-1].end, min(end, found[to+1].start))
	}
	f := newFitting(v, cluster, start, end)
	shapes, ok := f.solve()
	for i := range cluster {
		if !ok {
			cluster[i].noFit = true
			continue
		}
		cluster[i].shape = &shapes[i]
	}
}

// fitting is a least-squares problem: signal less the cluster's chord, as a sum of shapes on a straight line.
type fitting struct {
	t, y    []float64
	ground  ground
	peaks   int
	width   float64 // s
	noise   float64
	initial []float64 // per peak: log area, place of the maximum, log sigma, tau over sigma; then the line's level and slope
	middle  float64
	slack   float64 // how far from its start a maximum may go (s); the same in units of a tenth of the width is a log area's
}

func newFitting(v *view, cluster []candidate, start, end float64) *fitting {
	first, last := cluster[0], cluster[len(cluster)-1]
	f := &fitting{peaks: len(cluster), width: first.on.width * v.tr.StepS, noise: v.noise * v.memory, ground: first.base, middle: v.timeS((start + end) / 2)}
	if a, b := v.timeS(first.start), v.timeS(last.end); first.base.at(a) != last.base.at(a) || first.base.at(b) != last.base.at(b) {
		f.ground = line{a, first.base.at(a), b, last.base.at(b)}
	}
	top := math.Inf(1)
	for _, c := range cluster {
		if c.saturated {
			top = v.most
		}
	}
	for i := firstAfter(v.tr, v.timeS(start)-1e-9); i < v.tr.Len() && v.tr.TimeS(i) <= v.timeS(end)+1e-9; i++ {
		if v.recorded.Values[i] < top { // where the detector was full, the signal is not known
			f.t, f.y = append(f.t, v.tr.TimeS(i)), append(f.y, v.tr.Values[i]-f.ground.at(v.tr.TimeS(i)))
		}
	}
	for _, c := range cluster {
		apex := v.timeS(c.apex)
		height := max(c.level-f.ground.at(apex), v.noise, 1e-12*math.Abs(c.level))
		// The curvature of a Gaussian's top is its height over its variance.
		sigma := c.on.width / 2.355
		if r := c.on.scales[min(c.scale, len(c.on.scales)-1)].at(c.at); r > 0 && !c.saturated {
			sigma = max(sigma/3, min(3*sigma, math.Sqrt(height/r)))
		}
		if c.saturated {
			height, sigma = 1.5*height, (c.end-c.start)/7
		}
		s := sigma * v.tr.StepS
		f.initial = append(f.initial, math.Log(height*s*math.Sqrt(2*math.Pi)), apex, math.Log(s), 0.3)
	}
	f.initial = append(f.initial, 0, 0)
	return f
}

const perPeak = 4 // log area, place of the maximum, log sigma, tau over sigma

func shapeOf(p []float64) emg {
	sigma := math.Exp(p[2])
	// About where the maximum is, so that a tail that changes leaves the peak in its place.
	shift := sigma * p[3] / (1 + 0.45*math.Abs(p[3]))
	return emg{math.Exp(p[0]), p[1] - shift, sigma, p[3] * sigma}
}

// attempt is what one descent came to.
type attempt struct {
	p        []float64
	sum      float64
	cov      *mat.SymDense
	columnOf []int
	columns  int
	ok       bool
}

// solve fits one common shape first, then each its own, from a few starts, and takes what Akaike's corrected criterion prefers: shapes of
// their own must be worth their number. It stops at the first that leaves no more than noise.
func (f *fitting) solve() ([]fitted, bool) {
	shared, own := make([]int, len(f.initial)), make([]int, len(f.initial))
	columns := 0
	for i := range own {
		own[i], shared[i] = i, columns
		if k := i % perPeak; i < f.peaks*perPeak && i >= perPeak && k >= 2 {
			shared[i] = k // the columns of the first peak
			continue
		}
		columns++
	}
	if len(f.t) < len(own)+4 {
		return nil, false
	}
	n := float64(len(f.t))
	criterion := func(a attempt) float64 {
		k := float64(a.columns)
		return n*math.Log(a.sum/n+1e-300) + 2*k*n/max(1, n-k-1)
	}
	best := attempt{sum: math.Inf(1)}
	consider := func(a attempt) {
		if a.ok && (!best.ok || criterion(a) < criterion(best)) {
			best = a
		}
	}
	for _, tail := range []float64{0.3, 1.5, -0.7} {
		apart, together := slices.Clone(f.initial), slices.Clone(f.initial)
		largest := 0
		for i := range f.peaks {
			apart[perPeak*i+3] = tail
			if apart[perPeak*i] > apart[perPeak*largest] {
				largest = i
			}
		}
		for i := range f.peaks {
			together[perPeak*i+2], together[perPeak*i+3] = apart[perPeak*largest+2], tail
		}
		f.slack = 0.1 * f.width
		near := f.descend(together, shared, columns)
		f.slack = 0.5 * f.width
		one := f.descend(near.p, shared, columns)
		consider(one)
		if f.peaks > 1 {
			consider(f.descend(one.p, own, len(own)))
			if !f.enough(best) {
				consider(f.descend(apart, own, len(own)))
			}
		}
		if f.enough(best) || f.peaks > mostRestarted {
			break
		}
	}
	if !best.ok {
		return nil, false
	}
	return f.shapes(best)
}

// enough tells whether a fit leaves no more than the noise, or than rounding where there is none.
func (f *fitting) enough(a attempt) bool {
	total := 0.0
	for _, y := range f.y {
		total += y * y
	}
	return a.ok && a.sum < max(1.3*f.noise*f.noise*float64(len(f.y)), 1e-9*total)
}

func (f *fitting) shapes(a attempt) ([]fitted, bool) {
	p := a.p
	mean, total := 0.0, 0.0
	for _, y := range f.y {
		mean += y / float64(len(f.y))
	}
	for _, y := range f.y {
		total += (y - mean) * (y - mean)
	}
	rSquared := 1 - a.sum/total
	variance := max(a.sum/float64(len(f.y)-a.columns), f.noise*f.noise)
	n := len(p)
	level, slope := p[n-2], p[n-1]
	correction := line{f.middle, level, f.middle + 1, level + slope}
	base := sumOf{f.ground, correction}
	list := make([]fitted, f.peaks)
	for i := range list {
		shape := shapeOf(p[perPeak*i : perPeak*(i+1)])
		k := a.columnOf[perPeak*i]
		list[i] = fitted{shape, shape.area * math.Sqrt(max(0, variance*a.cov.At(k, k))), rSquared, base}
		if !(shape.area > 0) || math.IsNaN(list[i].areaSE) {
			return nil, false
		}
	}
	return list, rSquared >= leastRSquared
}

// sumOf is one baseline on another.
type sumOf struct{ a, b ground }

func (s sumOf) at(t float64) float64 { return s.a.at(t) + s.b.at(t) }

// model writes the sum of shapes and line at every time, and where jacobian is not nil its derivatives: by the log area and the line's
// two exactly, by the others as central differences.
func (f *fitting) model(p []float64, columnOf []int, into []float64, jacobian [][]float64) {
	n := len(p)
	for j := range f.t {
		d := f.t[j] - f.middle
		into[j] = p[n-2] + p[n-1]*d
		if jacobian != nil {
			clear(jacobian[j])
			jacobian[j][columnOf[n-2]], jacobian[j][columnOf[n-1]] = 1, d
		}
	}
	for i := range f.peaks {
		q := p[perPeak*i : perPeak*(i+1)]
		shape := shapeOf(q)
		from, to := shape.reach()
		sigma := shape.sigma
		steps := [perPeak]float64{0, 1e-5 * sigma, 1e-5, 1e-5}
		var up, down [perPeak]emg
		for k := 1; k < perPeak; k++ {
			var a, b [perPeak]float64
			copy(a[:], q)
			copy(b[:], q)
			a[k], b[k] = a[k]+steps[k], b[k]-steps[k]
			up[k], down[k] = shapeOf(a[:]), shapeOf(b[:])
		}
		first, _ := slices.BinarySearch(f.t, from)
		for j := first; j < len(f.t) && f.t[j] <= to; j++ {
			t := f.t[j]
			y := shape.at(t)
			into[j] += y
			if jacobian == nil {
				continue
			}
			row := jacobian[j]
			row[columnOf[perPeak*i]] += y
			for k := 1; k < perPeak; k++ {
				row[columnOf[perPeak*i+k]] += (up[k].at(t) - down[k].at(t)) / (2 * steps[k])
			}
		}
	}
}

// bound keeps each shape where a peak of this method can be.
func (f *fitting) bound(p []float64) {
	for i := range f.peaks {
		q := p[perPeak*i : perPeak*(i+1)]
		start := f.initial[perPeak*i:]
		scope := 10 * f.slack / f.width
		q[0] = max(start[0]-scope, min(start[0]+scope, q[0]))
		q[1] = max(start[1]-f.slack, min(start[1]+f.slack, q[1]))
		q[2] = max(math.Log(f.width/20), min(math.Log(3*f.width), q[2]))
		q[3] = max(-6, min(6, q[3]))
	}
}
