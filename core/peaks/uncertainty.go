package peaks

import (
	"math"
	"slices"
)

// AreaTerms are what the standard uncertainty of an area is made of; their squares add up to its square. In signal · s.
type AreaTerms struct {
	NoiseS    float64 `json:"noise"`    // of the signal, and of the levels on which the baseline stands
	BaselineS float64 `json:"baseline"` // of the places where it stands, and of followed ground
	TailS     float64 `json:"tail"`     // of what the boundaries cut off, or take from a neighbour
}

func (t AreaTerms) total() float64 {
	return math.Sqrt(t.NoiseS*t.NoiseS + t.BaselineS*t.BaselineS + t.TailS*t.TailS)
}

// noiseKinds is the noise of a trace as a sum of three: white, with a 1/f spectrum, and a random walk, each as the variance that goes with its kernel.
type noiseKinds struct {
	white, pink, walk float64
	free              float64 // samples from which it was learned
}

// jump is where a weight changes, and by how much.
type jump struct{ at, by float64 }

// variance is that of a weighted sum of the noise, the weights being constant between jumps and vanishing on straight lines:
// Σ θ Σᵢⱼ jᵢ jⱼ K(xᵢ − xⱼ), with K = −|d|/2 for white noise, ½ d² ln |d| for 1/f and |d|³/6 for a random walk.
func (k noiseKinds) variance(jumps []jump) float64 {
	parts := spectra(jumps)
	return max(0, k.white*parts[0]+k.pink*parts[1]+k.walk*parts[2])
}

func spectra(jumps []jump) (parts [3]float64) {
	for i, a := range jumps {
		for _, b := range jumps[:i] {
			d := math.Abs(a.at - b.at)
			if d == 0 {
				continue
			}
			product := 2 * a.by * b.by
			parts[0] -= product * d / 2
			parts[1] += product * d * d * math.Log(d) / 2
			parts[2] += product * d * d * d / 6
		}
	}
	return parts
}

// learned is what one length of block tells of the noise: a mean square, what each kind would give, and how many independent values it is of.
type learned struct {
	square float64
	parts  [3]float64
	count  float64
}

const (
	shortestBlock = 0.25 // widths
	blockStep     = math.Sqrt2
	trimSD        = 3
	missedPeakSD  = 4.5
	fewestFree    = 5 // stretches whose means are compared
	likelihood    = 60
)

// learnNoise learns the kinds of noise from what lies outside all peaks: means of blocks of several lengths, each less the mean of both
// neighbours, and the means of whole stretches. The three variances are those of greatest gamma likelihood that are not negative. Where there
// is nothing outside, the noise is taken for white.
func (v *view) learnNoise(found []candidate) noiseKinds {
	white := noiseKinds{white: v.noise * v.noise * v.memory * v.memory}
	stretches := v.freeStretches(found)
	sums := prefix(v.clean)
	mean := func(from, length int) float64 { return (sums[from+length] - sums[from]) / float64(length) }
	var all []learned
	width := v.widthAt(float64(len(v.clean)) / 2)
	longest := 0
	for _, s := range stretches {
		longest = max(longest, s.to-s.from)
		white.free += float64(s.to - s.from)
	}
	missed := make([]bool, len(stretches))
	last := 0
	for size := max(1, shortestBlock*width); 3*int(size) <= longest; size *= blockStep {
		m := int(math.Round(size))
		if m == last {
			continue
		}
		last = m
		var values []float64
		var of []int
		for i, s := range stretches {
			if missed[i] {
				continue
			}
			for from := s.from; from+3*m <= s.to; from += max(1, m/2) {
				values, of = append(values, mean(from+m, m)-(mean(from, m)+mean(from+2*m, m))/2), append(of, i)
			}
		}
		if len(values) < 4 {
			continue
		}
		sd := medianAbsolute(values) * madToSD
		sum, n := 0.0, 0.0
		for i, x := range values {
			switch {
			case math.Abs(x) > missedPeakSD*sd && sd > 0:
				missed[of[i]] = true
			case math.Abs(x) <= trimSD*sd:
				sum, n = sum+x*x, n+1
			}
		}
		if n == 0 {
			continue
		}
		size := float64(m)
		parts := spectra([]jump{{0, -0.5 / size}, {size, 1.5 / size}, {2 * size, -1.5 / size}, {3 * size, 0.5 / size}})
		all = append(all, learned{sum / n / trimmedSquare, parts, max(1, n/3)}) // blocks overlap
	}
	all = append(all, v.stretchMeans(stretches, missed, sums)...)
	kinds, ok := likeliest(all)
	if !ok {
		return white
	}
	kinds.free = white.free
	return kinds
}

// madToSD turns a median absolute deviation of normal noise into its standard deviation; trimmedSquare is what trimming at three of these leaves
// of the mean square.
const (
	madToSD       = 1.4826022185056018
	trimmedSquare = 0.9733
)

// stretchMeans compares each free stretch's mean with the line through its neighbours'.
func (v *view) stretchMeans(stretches []stretch, missed []bool, sums []float64) []learned {
	var kept []stretch
	for i, s := range stretches {
		if !missed[i] {
			kept = append(kept, s)
		}
	}
	if len(kept) < fewestFree {
		return nil
	}
	all := make([]learned, 0, len(kept))
	for i := 1; i+1 < len(kept); i++ {
		a, b, c := kept[i-1], kept[i], kept[i+1]
		centre := func(s stretch) float64 { return float64(s.from+s.to) / 2 }
		level := func(s stretch) float64 { return (sums[s.to] - sums[s.from]) / float64(s.to-s.from) }
		f := (centre(b) - centre(a)) / (centre(c) - centre(a))
		off := level(b) - (1-f)*level(a) - f*level(c)
		var jumps []jump
		for _, w := range []struct {
			s  stretch
			by float64
		}{{a, -(1 - f)}, {b, 1}, {c, -f}} {
			per := w.by / float64(w.s.to-w.s.from)
			jumps = append(jumps, jump{float64(w.s.from), per}, jump{float64(w.s.to), -per})
		}
		all = append(all, learned{off * off, spectra(jumps), 0.5})
	}
	// Beyond the trimming of blocks: one stretch that holds a missed peak must not speak for all.
	squares := make([]float64, len(all))
	for i, l := range all {
		squares[i] = math.Sqrt(l.square / max(l.parts[0], 1e-300))
	}
	limit := missedPeakSD * medianAbsolute(slices.Clone(squares)) * madToSD
	return slices.DeleteFunc(all, func(l learned) bool { return math.Sqrt(l.square/max(l.parts[0], 1e-300)) > limit })
}

// likeliest are the variances of greatest gamma likelihood, by multiplicative rounds, which keep them from being negative.
func likeliest(all []learned) (noiseKinds, bool) {
	var theta [3]float64
	usable := false
	for _, l := range all {
		usable = usable || l.square > 0
	}
	if !usable || len(all) < 2 {
		return noiseKinds{}, false
	}
	for p := range theta { // each begins as if it were all the noise
		for _, l := range all {
			if l.parts[p] > 0 {
				theta[p] += l.square / l.parts[p] / float64(len(all)) / 3
			}
		}
	}
	for range likelihood {
		var up, down [3]float64
		for _, l := range all {
			model := theta[0]*l.parts[0] + theta[1]*l.parts[1] + theta[2]*l.parts[2]
			if !(model > 0) {
				continue
			}
			for p := range theta {
				up[p] += l.count * l.square * l.parts[p] / (model * model)
				down[p] += l.count * l.parts[p] / model
			}
		}
		for p := range theta {
			if down[p] > 0 {
				theta[p] *= up[p] / down[p]
			}
		}
	}
	kinds := noiseKinds{white: theta[0], pink: theta[1], walk: theta[2]}
	return kinds, !math.IsNaN(theta[0]+theta[1]+theta[2]) && theta[0]+theta[1]+theta[2] > 0
}

// freeStretches are those without peaks, wanted or not.
func (v *view) freeStretches(found []candidate) []stretch {
	taken := slices.Clone(v.unwanted)
	for _, c := range found {
		taken = append(taken, stretch{int(c.start), int(math.Ceil(c.end))})
	}
	if v.bend != nil {
		taken = append(taken, v.bend.dips...)
	}
	slices.SortFunc(taken, func(a, b stretch) int { return a.from - b.from })
	var free []stretch
	at := 0
	add := func(to int) {
		if to-at >= 8 {
			free = append(free, stretch{at, to})
		}
	}
	for _, t := range taken {
		add(min(len(v.clean), t.from))
		at = max(at, t.to)
	}
	add(len(v.clean))
	return free
}

func prefix(y []float64) []float64 {
	sums := make([]float64, len(y)+1)
	origin := y[0]
	for i, x := range y {
		sums[i+1] = sums[i] + x - origin
	}
	for i := range sums { // the origin keeps digits while summing; level comes back exactly enough
		sums[i] += float64(i) * origin
	}
	return sums
}

func medianAbsolute(values []float64) float64 {
	a := make([]float64, len(values))
	for i, x := range values {
		a[i] = math.Abs(x)
	}
	slices.Sort(a)
	return a[len(a)/2]
}

// areaTerms is the uncertainty of an area between a candidate's boundaries, with the ends of its baseline. before and after are its neighbours where it
// touches any.
func (v *view) areaTerms(c candidate, before, after *candidate, kinds noiseKinds) AreaTerms {
	n := c.end - c.start
	left, right := v.ends(c)
	middle := (c.start + c.end) / 2
	share := 0.5 // of the right end in the area
	if span := right.over.centre() - left.over.centre(); span > 0 {
		share = (middle - left.over.centre()) / span
	}
	jumps := []jump{{c.start, 1}, {c.end, -1}}
	growing := v.grown(c.start, c.end)
	for _, e := range []struct {
		over  window
		share float64
	}{{left.over, 1 - share}, {right.over, share}} {
		per := -n * e.share / e.over.count()
		jumps = append(jumps, jump{float64(e.over.from) - 0.5, per}, jump{float64(e.over.to) + 0.5, -per})
		growing += per * per * v.grown(float64(e.over.from)-0.5, float64(e.over.to)+0.5)
	}
	degrees := max(6, kinds.free/max(1, n))
	t := student(degrees) / normal95
	step := v.tr.StepS
	terms := AreaTerms{NoiseS: step * math.Sqrt(kinds.variance(jumps)*t*t+growing)}
	terms.BaselineS = step * math.Hypot(v.placing(c, left, right), v.groundTerm(c, left, right))
	terms.TailS = step * v.tailTerm(c, before, after, left, right)
	return terms
}

// normal95 is what 95 % of a normal distribution lie within, in standard deviations.
const normal95 = 1.959963984540054

// student is the same of Student's distribution: the expansion of Abramowitz & Stegun 26.7.5, right to 0.6 % at 6 degrees of freedom and better above.
func student(degrees float64) float64 {
	const z = normal95
	z3, z5 := z*z*z, z*z*z*z*z
	return z + (z3+z)/(4*degrees) + (5*z5+16*z3+3*z)/(96*degrees*degrees)
}

// grown is the variance that noise growing with the signal adds to the sum of a stretch.
func (v *view) grown(from, to float64) float64 {
	if v.growth == nil {
		return 0
	}
	i, j := max(0, int(math.Round(from))), min(len(v.growth.sums)-1, int(math.Round(to)))
	return max(0, v.growth.sums[max(i, j)]-v.growth.sums[i])
}

// ends are those of the baseline; what is no chord counts as if it stood at the boundaries.
func (v *view) ends(c candidate) (left, right standing) {
	if c.ends[1].at > c.ends[0].at {
		return c.ends[0], c.ends[1]
	}
	return v.stand(c.start, ByHand, c.before, -1), v.stand(c.end, ByHand, c.after, 1)
}

// placing is half the change of the area when a foot moves by a tenth of a width to either side, with its window, for each foot that noise has placed.
func (v *view) placing(c candidate, left, right standing) float64 {
	const shift = 0.1
	sum := 0.0
	area := func(start, end float64, l, r standing) float64 {
		return v.running().over(start, end) - (end-start)*line{l.at, l.level, r.at, r.level}.at(v.timeS((start+end)/2))
	}
	d := shift * c.on.width
	if c.startKind == Base && left.over.to < int(c.apex) {
		near, far := v.stand(c.start+d, Base, c.before, -1), v.stand(c.start-d, Base, c.before, -1)
		half := (area(c.start+d, c.end, near, right) - area(c.start-d, c.end, far, right)) / 2
		sum += half * half
	}
	if c.endKind == Base && right.over.from > int(c.apex) {
		near, far := v.stand(c.end-d, Base, c.after, 1), v.stand(c.end+d, Base, c.after, 1)
		half := (area(c.start, c.end-d, left, near) - area(c.start, c.end+d, left, far)) / 2
		sum += half * half
	}
	return math.Sqrt(sum)
}

// groundTerm is how much the last two fits of followed ground differ in the area.
func (v *view) groundTerm(c candidate, left, right standing) float64 {
	if v.bend == nil || v.bend.change == nil {
		return 0
	}
	change := v.bend.change
	at := func(position float64) float64 { return change[max(0, min(len(change)-1, int(math.Round(position))))] }
	straight := line{left.at, at(left.over.centre()), right.at, at(right.over.centre())}
	sum := 0.0
	for i := int(c.start); i <= int(c.end); i++ {
		sum += at(float64(i)) - straight.at(v.timeS(float64(i)))
	}
	return math.Abs(sum)
}

// tailTerm is three times what the tails leave outside and under the baseline, and at a drop twice what lies on the wrong side.
func (v *view) tailTerm(c candidate, before, after *candidate, left, right standing) float64 {
	sum := 0.0
	n := c.end - c.start
	base := line{left.at, left.level, right.at, right.level}
	foot := func(kind SideKind, at float64, end standing, dir int) {
		if kind != Base {
			return
		}
		if t, ok := v.tailOf(&c, base, dir); ok {
			beyond := 3 * (t.length*t.left(at) + n/2*t.left(end.over.centre()))
			sum += beyond * beyond
		}
	}
	foot(c.startKind, c.start, left, -1)
	foot(c.endKind, c.end, right, 1)
	cut := func(kind SideKind, at float64, neighbour *candidate) {
		if kind != Drop || neighbour == nil {
			return
		}
		valley := v.level(at) - c.base.at(v.timeS(at))
		wrong := 2 * math.Hypot(v.gaussTail(c, at, valley), v.gaussTail(*neighbour, at, valley))
		sum += wrong * wrong
	}
	cut(c.startKind, c.start, before)
	cut(c.endKind, c.end, after)
	return math.Sqrt(sum)
}

// gaussTail is the area of a flank beyond a place, at most as high there as the valley, as if it were a Gaussian's.
func (v *view) gaussTail(c candidate, at, valley float64) float64 {
	dl, dr, _ := c.geometry()
	sigma, distance := dr, at-c.apex
	if distance < 0 {
		sigma, distance = dl, -distance
	}
	if sigma == 0 || valley <= 0 || c.base == nil {
		return 0
	}
	height := c.level - c.base.at(v.timeS(c.apex))
	level := min(valley, height*math.Exp(-distance*distance/(2*sigma*sigma)))
	return max(0, level) * sigma * sigma / max(distance, sigma)
}

// summed is the signal summed up to each step.
type summed []float64

// over is the sum between two positions, in steps.
func (s summed) over(from, to float64) float64 {
	at := func(x float64) float64 {
		x = max(0, min(float64(len(s)-1), x+0.5))
		i := min(len(s)-2, int(x))
		return s[i] + (x-float64(i))*(s[i+1]-s[i])
	}
	return at(to) - at(from)
}

func (v *view) running() summed {
	if v.summed == nil {
		v.summed = prefix(v.clean)
	}
	return v.summed
}
