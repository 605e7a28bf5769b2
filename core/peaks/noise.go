package peaks

import (
	"cmp"
	"math"
	"slices"

	"yugen/core/signal"
)

// growth is how the variance of single samples grows beyond that of the quiet trace: with the signal, as counted ions and photons and
// multiplicative noise make it, and with the distance of the samples where the even grid is denser than they are.
type growth struct {
	floor  float64   // the signal where nothing is
	root   float64   // variance per signal above the floor: counting
	share  float64   // standard deviation per signal above the floor: multiplicative
	sparse []float64 // how many steps of the even grid one sample fills; nil where the trace is uniform
	sums   []float64 // of the variance beyond the quiet one, up to each step
}

// blockLength is that of the blocks whose noise is compared: long enough for the products of neighbours, short enough for the side of a peak.
const (
	blockLength = 8
	mostBlocks  = 4000
)

// floorQuantile is the part of the samples that may lie below the quiet trace.
const floorQuantile = 0.1

// learnGrowth compares the noise of short blocks with the signal there. It is nil where the noise is the same everywhere.
func (v *view) learnGrowth() *growth {
	g := &growth{floor: quantileOf(v.raw, floorQuantile)}
	if v.tr.TimesS != nil {
		g.sparse = v.sparseness()
	}
	g.fit(noiseBlocks(v.tr.Values, g.floor), v.noise*v.noise)
	if g.root == 0 && g.share == 0 && g.sparse == nil {
		return nil
	}
	return g
}

// variance is that of a sample of this signal at a step of the even grid.
func (g *growth) variance(quiet, y float64, at int) float64 {
	above := max(0, y-g.floor)
	variance := quiet + g.root*above + g.share*g.share*above*above
	if g.sparse != nil {
		variance *= g.sparse[at]
	}
	return variance
}

// sumUp prepares the variances along the trace, of the signal smoothed over a part of the width.
func (g *growth) sumUp(y []float64, half int, quiet float64) {
	g.sums = make([]float64, len(y)+1)
	for i, value := range signal.Fit(y, half).Value {
		g.sums[i+1] = g.sums[i] + g.variance(quiet, value, i) - quiet
	}
}

// beyond is the mean variance, beyond the quiet one, within half samples of a place.
func (g *growth) beyond(at, half int) float64 {
	from, to := max(0, at-half), min(len(g.sums)-1, at+half+1)
	if to <= from {
		return 0
	}
	return max(0, g.sums[to]-g.sums[from]) / float64(to-from)
}

// noiseOf is the noise of a scale's response at a place.
func (v *view) noiseOf(sc scale, at int) float64 {
	if v.growth == nil {
		return sc.noise
	}
	gain := signal.CurvatureGain(sc.half)
	return math.Sqrt(sc.noise*sc.noise + gain*gain*v.growth.beyond(at, sc.half))
}

// noiseAt is the standard deviation of single samples around a place.
func (v *view) noiseAt(position float64) float64 {
	if v.growth == nil {
		return v.noise
	}
	return math.Sqrt(v.noise*v.noise + v.growth.beyond(int(position), int(v.widthAt(position)/4)))
}

// smoothNoise is the noise of the smoothed signal there.
func (v *view) smoothNoise(l *ladder, position float64) float64 {
	return v.noiseAt(position) * 1.5 / math.Sqrt(float64(l.smooth.Half))
}

// sparseness is, at every step of the even grid, how many steps the samples around it are apart, at least 1.
func (v *view) sparseness() []float64 {
	times := v.tr.TimesS
	out := make([]float64, len(v.raw))
	for i, j := 0, 0; i < len(out); i++ {
		at := v.timeS(float64(i))
		for j < len(times)-2 && times[j+1] < at {
			j++
		}
		// Over a few samples: a rate that changes counts, a jitter does not.
		from, to := max(0, j-2), min(len(times)-1, j+3)
		out[i] = max(1, (times[to]-times[from])/float64(to-from)/v.tr.StepS)
	}
	return out
}

// noiseBlock is a stretch's signal above the floor, and of its fourth differences the mean square and the mean product of neighbours.
type noiseBlock struct{ above, square, product float64 }

// variance is that of the noise: white noise gives the squares a mean of 70 σ² and the products one of −56 σ², a smooth bend gives both the same.
func (b noiseBlock) variance() float64 { return (b.square - b.product) / 126 }

func noiseBlocks(y []float64, floor float64) []noiseBlock {
	blocks := make([]noiseBlock, 0, min(mostBlocks, len(y)/blockLength)+1)
	fourth := func(i int) float64 { return y[i] - 4*y[i+1] + 6*y[i+2] - 4*y[i+3] + y[i+4] }
	stride := blockLength * (1 + len(y)/blockLength/mostBlocks)
	for from := 0; from+blockLength+5 <= len(y); from += stride {
		var b noiseBlock
		last := fourth(from)
		for i := from + 1; i <= from+blockLength; i++ {
			next := fourth(i)
			b.square += (last*last + next*next) / 2 / blockLength
			b.product += last * next / blockLength
			b.above += y[i+1] / blockLength
			last = next
		}
		b.above -= floor
		blocks = append(blocks, b)
	}
	return blocks
}

// fit finds the two terms that are not negative and fit the medians of blocks of like signal best, in relative terms.
func (g *growth) fit(blocks []noiseBlock, quiet float64) {
	const fewest, octave = 5, 2
	// In noise the product of neighbouring fourth differences is −0.8 of the square; where it is not nearly that, the bend of narrow peaks is seen.
	const leastAlike = -0.6
	blocks = slices.DeleteFunc(blocks, func(b noiseBlock) bool { return !(b.above > 0 && b.above*b.above > 25*quiet) })
	slices.SortFunc(blocks, func(a, b noiseBlock) int { return cmp.Compare(a.above, b.above) })
	type point struct{ above, variance, weight float64 }
	var points []point
	for from := 0; from < len(blocks); { // groups of like signal, each large enough for a median
		to := from + 1
		for to < len(blocks) && (to-from < fewest || blocks[to].above < octave*blocks[from].above || len(blocks)-to < fewest) {
			to++
		}
		variances := make([]float64, to-from)
		square, product := 0.0, 0.0
		for i, b := range blocks[from:to] {
			variances[i] = b.variance()
			square, product = square+b.square, product+b.product
		}
		slices.Sort(variances)
		if len(variances) >= fewest && product < leastAlike*square {
			points = append(points, point{blocks[(from+to)/2].above, variances[len(variances)/2], math.Sqrt(float64(len(variances)))})
		}
		from = to
	}
	for range 8 { // weights follow the model
		var aa, ab, bb, ay, by float64
		for _, p := range points {
			model := quiet + g.root*p.above + g.share*g.share*p.above*p.above
			if g.root == 0 && g.share == 0 {
				model = max(quiet, p.variance)
			}
			if model <= 0 {
				continue
			}
			w := p.weight / (model * model)
			x1, x2, y := p.above, p.above*p.above, p.variance-quiet
			aa, ab, bb, ay, by = aa+w*x1*x1, ab+w*x1*x2, bb+w*x2*x2, ay+w*x1*y, by+w*x2*y
		}
		if aa == 0 {
			return
		}
		root, square := ay/aa, 0.0
		if det := aa*bb - ab*ab; det > 1e-9*aa*bb {
			if r, q := (ay*bb-by*ab)/det, (by*aa-ay*ab)/det; r >= 0 && q >= 0 {
				root, square = r, q
			} else if r < 0 {
				root, square = 0, by/bb
			}
		}
		g.root, g.share = max(0, root), math.Sqrt(max(0, square))
	}
}

// quantileOf is a quantile of about a thousand of the values.
func quantileOf(y []float64, q float64) float64 {
	stride := 1 + len(y)/1024
	some := make([]float64, 0, len(y)/stride+1)
	for i := 0; i < len(y); i += stride {
		some = append(some, y[i])
	}
	slices.Sort(some)
	return some[int(q*float64(len(some)-1))]
}
