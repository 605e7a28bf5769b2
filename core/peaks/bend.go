package peaks

import (
	"math"
	"slices"

	"yugen/core/signal"
)

// bend is the curved part of the ground under a trace, on the even grid: what is left when it is taken away stands on ground that
// straight lines can follow.
type bend struct {
	values    []float64 // the ground's bend: zero curvature where the ground is straight
	curvature []float64 // per step squared
	rest      []float64 // the whole ground less its bend
	dips      []stretch // where the ground falls and comes back like a peak upside down
	change    []float64 // what the last fit changed; nil where there was one
}

const (
	// A baseline contradicts the signal where it lies above it by gateNoise times the noise of the smoothed signal and by gateShare of
	// the smallest peak's height.
	gateNoise = 5
	gateShare = 3e-4
	// skirtWidths from the apex, and skirtBeyond before its foot, a peak has come down to skirtShare of its height, whatever its tail.
	skirtWidths = 4
	skirtBeyond = 2
	skirtShare  = 0.05
	// cutOffContradicts is what the boundary of a cut-off peak counts.
	cutOffContradicts = 1000
	// worthMore is by how much more the first fit may contradict for a second to be tried.
	worthMore = 1
	// groundFits is how often the ground is fitted: from the peaks' own widths first, then from the feet found on it.
	groundFits = 3
	// nodesPerWidth and bendWidths set the stiffness: means every third of a width, and a wave of so many widths is halved.
	nodesPerWidth = 5
	bendWidths    = 7
	groundRounds  = 8
	// broadBend is the least breadth of a bend of the ground, in widths to each side; what is narrower may be a peak's.
	broadBend = 2
	// reopened gives a smooth bend back the top that the opening cuts off.
	reopened = 1.3
)

// contradiction is by how many times more than it may the baseline lies above the signal, over all peaks. A boundary shared with a cut-off peak, whose
// tail bends most, contradicts by itself while the ground is not followed.
func (v *view) contradiction(found []candidate) (sum float64) {
	for i := 1; i < len(found) && v.bend == nil; i++ {
		if touch(found[i-1], found[i]) && (found[i-1].saturated || found[i].saturated) {
			sum += cutOffContradicts
		}
	}
	tried := slices.Clone(found)
	v.chords(tried, false)
	for from := 0; from < len(tried); {
		to, least := from+1, math.Inf(1)
		for to < len(tried) && tried[to].ends == tried[from].ends {
			to++
		}
		for _, c := range tried[from:to] {
			least = min(least, c.level-c.base.at(v.timeS(c.apex)))
		}
		for _, c := range tried[from:to] {
			if c.saturated { // what is under it nobody knows
				continue
			}
			limit := max(gateNoise*v.memory*v.smoothNoise(c.on, c.start), gateShare*least)
			most := 0.0
			for i := int(math.Ceil(c.start)); i <= int(c.end); i++ {
				t := v.timeS(float64(i))
				if above := c.base.at(t) - c.on.smooth.Value[i]; above > most && above > limit && !v.inDip(float64(i)) && !v.settings.ruled(StraightGround, t/60) {
					most = above
				}
			}
			if most > 0 {
				sum += most / limit
			}
			sum += v.skirts(c)
		}
		from = to
	}
	return sum
}

// skirts tells whether a peak's sides go on far beyond what a peak's tail does, and stand high there: they count a hump of the ground. It is by how many
// times more than it may.
func (v *view) skirts(c candidate) (sum float64) {
	height := c.level - c.base.at(v.timeS(c.apex))
	limit := max(gateNoise*v.memory*v.smoothNoise(c.on, c.apex), skirtShare*height)
	for _, dir := range []float64{-1, 1} {
		edge := c.start
		if dir > 0 {
			edge = c.end
		}
		at := c.apex + dir*skirtWidths*c.on.width
		if (edge-at)*dir < skirtBeyond*c.on.width || v.inDip(at) || v.settings.ruled(StraightGround, v.timeS(at)/60) {
			continue
		}
		if above := v.level(at) - c.base.at(v.timeS(at)); above > limit {
			sum += above / limit
		}
	}
	return sum
}

// followGround estimates the ground's bend where the straight baselines of the first search contradict the signal; nil where none does, and
// where following it leaves no fewer contradictions: steps are no bends.
func (v *view) followGround(found []candidate, search func(*view) []candidate) *bend {
	if v.settings.Baseline != FollowedBaseline {
		return nil
	}
	least := v.contradiction(found)
	if least == 0 {
		return nil
	}
	dips := v.dips()
	masks := v.firstMasks(lessRims(found, dips))
	var best, before *bend
	for range groundFits {
		b := v.fitGround(masks, dips)
		if b == nil {
			return nil
		}
		if before != nil {
			b.change = minus(b.values, before.values)
		}
		before = b
		less := v.less(b)
		on := search(less)
		// A few peaks may come to light on flanks; many are the ripples of a curve that does not fit.
		rippled := len(on) > len(found)+2+len(found)/4
		if left := less.contradiction(on); !rippled && (left < least || best != nil && left == least) {
			best, least = b, left
		} else if best == nil && left > worthMore*least {
			return nil // what does not help at once is no bend
		}
		masks = less.laterMasks(on)
	}
	return best
}

// zeroOf is the distance from a place to where the response of a scale falls through zero.
func zeroOf(sc scale, at, dir int) float64 {
	i := at
	for sc.at(i) > 0 {
		i += dir
	}
	return math.Abs(float64(i - at))
}

// dips are peaks upside down: a bend upwards with a rim on both sides.
func (v *view) dips() []stretch {
	const clear, lowRim, highRim, wide = 12, 0.1, 0.9, 2
	var dips []stretch
	for _, l := range v.ladders {
		sc := l.scales[0]
		greatest := 0.0
		for _, r := range sc.response {
			if r > greatest {
				greatest = r
			}
		}
		up := sc.mirrored()
		rim := func(at int, d float64, dir int) float64 {
			most := 0.0
			for k := int(d); k <= int(2*d)+1; k++ {
				most = max(most, sc.at(at+dir*k))
			}
			return most
		}
		for at := max(1, l.from); at < min(len(v.clean)-1, l.to); at++ {
			bend := up.at(at)
			if bend <= 0 || bend <= clear*sc.noise || bend < up.at(at-1) || bend <= up.at(at+1) || bend <= clear*v.noiseOf(sc, at) || bend <= 1e-6*greatest {
				continue
			}
			dl, dr := zeroOf(up, at, -1), zeroOf(up, at, 1)
			if dl > wide*l.width || dr > wide*l.width {
				continue
			}
			left, right := rim(at, dl, -1)/bend, rim(at, dr, 1)/bend
			if left > lowRim && left < highRim && right > lowRim && right < highRim {
				dips = append(dips, stretch{at - int(beforePeak*dl), at + int(afterPeak*dr)})
			}
		}
	}
	return dips
}

// beforePeak and afterPeak are how far a peak is taken to reach before its feet are known, in distances from the apex to the inflection.
const (
	beforePeak = 3.3
	afterPeak  = 3.6
)

// lessRims leaves out the rims of dips, which bend like peaks.
func lessRims(found []candidate, dips []stretch) []candidate {
	const rimReach = 2.2
	return slices.DeleteFunc(slices.Clone(found), func(c candidate) bool {
		return slices.ContainsFunc(dips, func(d stretch) bool {
			middle := float64(d.from) + float64(d.to-d.from)*beforePeak/(beforePeak+afterPeak)
			distance, reach := middle-float64(c.at), (middle-float64(d.from))/beforePeak
			if distance < 0 {
				distance, reach = -distance, (float64(d.to)-middle)/afterPeak
			}
			return distance < rimReach*reach
		})
	})
}

// mask is a stretch that tells nothing of the ground, with what its peak leaves beyond it.
type mask struct {
	from, to   int
	height     float64 // of the peak
	distance   float64 // from apex to inflection
	unknowable bool    // cut off or very long: the ground under it is anybody's guess
}

// geometry is a candidate's distances from the apex to where its own response is zero, and about its height.
func (c candidate) geometry() (dl, dr, height float64) {
	sc := c.on.scales[c.scale]
	dl, dr = zeroOf(sc, c.at, -1), zeroOf(sc, c.at, 1)
	half := (dl + dr) / 2
	return dl, dr, max(0, sc.at(c.at)) * half * half
}

// broad tells whether only the coarsest filter sees it, or a coarse one and no maximum: a hump or a knee of the ground, which the opening
// tells from peaks.
func (c candidate) broad() bool { return c.scale >= 3 || c.shoulder && c.scale >= 1 }

// firstMasks are made from the peaks' curvature alone. What is very broad is ground.
func (v *view) firstMasks(found []candidate) []mask {
	var masks []mask
	for _, c := range found {
		dl, dr, height := c.geometry()
		switch {
		case c.saturated:
			masks = append(masks, v.cutOff(c))
		case dl+dr <= 3*c.on.width && !c.broad():
			masks = append(masks, mask{int(float64(c.at) - beforePeak*dl), int(float64(c.at) + afterPeak*dr), height, (dl + dr) / 2, false})
		}
	}
	return masks
}

// laterMasks are a little longer than the peaks found on less ground.
func (v *view) laterMasks(found []candidate) []mask {
	const longer, most = 1.1, 4
	var masks []mask
	for _, c := range found {
		if c.saturated {
			masks = append(masks, v.cutOff(c))
			continue
		}
		dl, dr, height := c.geometry()
		if dl+dr > 3*c.on.width || c.broad() {
			continue
		}
		left, right := min(longer*(c.apex-c.start), most*dl), min(longer*(c.end-c.apex), most*dr)
		masks = append(masks, mask{int(c.apex - left), int(c.apex + right), height, (dl + dr) / 2, false})
	}
	return masks
}

// cutOff reaches from a cut-off top out to where its flanks have all but stopped bending.
func (v *view) cutOff(c candidate) mask {
	const faded = 0.02
	sc := c.on.scales[min(1, len(c.on.scales)-1)]
	reach := func(dir int) int {
		deepest, at := 0.0, c.at
		for i := c.at; inside(i, v.clean) && math.Abs(float64(i-c.at)) < farOut*c.on.width; i += dir {
			if r := sc.at(i); r < deepest {
				deepest, at = r, i
			}
		}
		for sc.at(at) < faded*deepest {
			at += dir
		}
		return at
	}
	return mask{reach(-1), reach(1), 0, c.on.width, true}
}

// fitGround fits a stiff curve to what lies outside the masks and keeps of it the bends that are broader than peaks.
func (v *view) fitGround(masks []mask, dips []stretch) *bend {
	width := math.Inf(1)
	for _, l := range v.ladders {
		width = min(width, l.width)
	}
	q := max(1, int(width/nodesPerWidth))
	n := len(v.clean) / q
	if n < 16 {
		return nil
	}
	widthOf := func(node int) float64 { return v.widthAt((float64(node) + 0.5) * float64(q)) }
	free := make([]bool, len(v.clean))
	for i := range free {
		free[i] = true
	}
	for _, d := range dips {
		masks = append(masks, mask{from: d.from, to: d.to, distance: float64(d.to-d.from) / (beforePeak + afterPeak)})
	}
	for _, m := range masks {
		for i := max(0, m.from); i <= min(len(free)-1, m.to); i++ {
			free[i] = false
		}
	}
	for from := 0; from < len(free); { // short free runs are gaps between flanks
		to := from
		for to < len(free) && free[to] == free[from] {
			to++
		}
		if free[from] && from > 0 && to < len(free) && float64(to-from) < 0.8*v.widthAt(float64(from)) {
			for i := from; i < to; i++ {
				free[i] = false
			}
		}
		from = to
	}
	level, count := make([]float64, n), make([]float64, n)
	for k := range n {
		to := (k + 1) * q
		if k == n-1 {
			to = len(v.clean)
		}
		all := 0.0
		for i := k * q; i < to; i++ {
			all += v.clean[i]
			if free[i] {
				level[k] += v.clean[i]
				count[k]++
			}
		}
		if count[k] > 0 {
			level[k] /= count[k]
		} else {
			level[k] = all / float64(to-k*q)
		}
	}
	stiff := make([]float64, n) // of the third difference that starts there
	for k := range stiff {
		stiff[k] = float64(q) * math.Pow(bendWidths*widthOf(k)/(2*math.Pi*float64(q)), 6)
	}
	tails := make([]float64, n)
	unknown, cutOff := make([]bool, n), make([]bool, n)
	for _, m := range masks {
		long := float64(m.to-m.from) / v.widthAt(float64(m.from+m.to)/2)
		if m.unknowable || long > 8 {
			middle := (m.from + m.to) / 2 / q
			for k := max(0, middle-2); k <= min(n-1, middle); k++ {
				stiff[k] = 0
			}
		}
		if m.unknowable || long > 5 {
			for k := max(0, m.from/q); k <= min(n-1, m.to/q); k++ {
				unknown[k] = true
				cutOff[k] = cutOff[k] || m.unknowable
			}
		}
		if m.height > 0 {
			reach := 12 * m.distance
			for k := max(0, int(float64(m.from)-reach)/q); k <= min(n-1, int(float64(m.to)+reach)/q); k++ {
				at := (float64(k) + 0.5) * float64(q)
				x := max(float64(m.from)-at, at-float64(m.to), 0)
				tails[k] = max(tails[k], 0.03*m.height*math.Exp(-x/(1.5*m.distance)))
			}
		}
	}
	f := groundFit{level, count, stiff, tails, v.noise * v.memory}
	z := f.solve(func(y float64) float64 { return y }, func(z float64) float64 { return z })
	for _, m := range masks {
		if m.unknowable {
			f.followDecay(z, max(0, min(n-1, m.to/q+1)), unknown, cutOff)
		}
	}
	if slices.ContainsFunc(z, func(y float64) bool { return math.IsNaN(y) || math.IsInf(y, 0) }) {
		return nil // too little is left outside the peaks
	}
	return v.opened(z, unknown, cutOff, q, widthOf, dips)
}

// groundFit is the means of neighbouring samples and what is known of them.
type groundFit struct {
	level []float64
	count []float64 // free samples
	stiff []float64 // of the third difference that starts there
	tails []float64 // what the tails of peaks may leave
	sigma float64   // noise of a sample
}

// solve fits the stiff curve on the scale of there, and gives it on that of the signal; what may be a peak's tail counts less and less.
func (f groundFit) solve(there, back func(float64) float64) []float64 {
	const clear = 2.5 // times its noise a mean lies above the curve
	n := len(f.level)
	y, z, weight := make([]float64, n), make([]float64, n), slices.Clone(f.count)
	for k := range y {
		y[k] = there(f.level[k])
	}
	curve := signal.StiffCurve(f.stiff)
	for range groundRounds {
		curve(z, y, weight)
		settled := true
		for k := range weight {
			w := f.count[k]
			if d := f.level[k] - back(z[k]); d > 0 && d < 3*f.tails[k] && w > 0 {
				if u := d * math.Sqrt(w) / max(f.sigma, 1e-300); u > clear {
					w *= max(1e-4, clear*clear/(u*u))
				}
			}
			settled = settled && math.Abs(w-weight[k]) <= 0.02*weight[k]
			weight[k] = w
		}
		if settled {
			break
		}
	}
	for k := range z {
		z[k] = back(z[k])
	}
	return z
}

// followDecay replaces the fit beyond a cut-off peak by one to the logarithm of the signal above its later level, which is almost straight
// there: a decay bends most where it is steepest, and a stiff curve cannot follow it. It ends where the decay comes near its noise, or rises.
func (f groundFit) followDecay(z []float64, from int, unknown, cutOff []bool) {
	const near, fewest = 30, 8 // times the noise; nodes
	n := len(z)
	floor := math.Inf(1)
	for k := from; k < n; k++ {
		if f.count[k] > 0 {
			floor = min(floor, f.level[k])
		}
	}
	to := from
	for to < n && (f.count[to] == 0 || f.level[to]-floor > near*f.sigma) {
		to++
	}
	if to-from < fewest || math.IsInf(floor, 1) {
		return
	}
	floor -= near * f.sigma / 10
	part := groundFit{f.level[from:to], f.count[from:to], f.stiff[from:to], f.tails[from:to], f.sigma}
	decay := part.solve(func(y float64) float64 { return math.Log(max(y-floor, f.sigma/10, 1e-300)) }, func(z float64) float64 { return floor + math.Exp(z) })
	copy(z[from:to], decay)
	for k := from + 2; k < to; k++ { // the first two have neighbours that are not of this fit
		unknown[k] = false
	}
	for k := from; k < min(to, from+2); k++ {
		unknown[k], cutOff[k] = true, true
	}
}

// opened keeps of the ground's curvature, upwards and downwards apart, what is as broad as broadBend widths to each side (an opening: the least, then the
// greatest, over a sliding window), and sums it twice.
func (v *view) opened(z []float64, unknown, cutOff []bool, q int, widthOf func(int) float64, dips []stretch) *bend {
	n := len(z)
	kept := make([]float64, n)
	reach := func(k int) int { return max(1, int(math.Round(broadBend*widthOf(k)/float64(q)))) }
	for _, sign := range []float64{1, -1} {
		part := make([]float64, n)
		for k := 1; k+1 < n; k++ {
			part[k] = max(0, sign*(z[k-1]-2*z[k]+z[k+1]))
		}
		part[0], part[n-1] = part[1], part[n-2]
		for k := range part {
			if unknown[k] {
				part[k] = math.Inf(1)
			}
		}
		least := sliding(part, reach, func(a, b float64) bool { return a < b })
		for k := range least {
			if math.IsInf(least[k], 1) {
				least[k] = 0
			}
		}
		greatest := sliding(least, reach, func(a, b float64) bool { return a > b })
		for k := range kept {
			if !unknown[k] {
				kept[k] += sign * min(reopened*greatest[k], part[k])
			}
		}
	}
	decayInto(kept, unknown, cutOff, reach)
	for k := range kept {
		if v.settings.ruled(StraightGround, v.timeS((float64(k)+0.5)*float64(q))/60) {
			kept[k] = 0
		}
	}
	g, slope := make([]float64, n), 0.0
	for k := 1; k < n; k++ {
		g[k] = g[k-1] + slope
		slope += kept[k]
	}
	rest := make([]float64, n)
	for k := range rest {
		rest[k] = z[k] - g[k]
	}
	size := len(v.clean)
	b := &bend{values: curveThrough(g, q, size), curvature: make([]float64, size), rest: curveThrough(rest, q, size), dips: dips}
	for i := range b.curvature {
		b.curvature[i] = kept[max(0, min(n-1, i/q))] / float64(q*q)
	}
	return b
}

// decayInto carries a decaying bend backwards into what is unknown under the tail of a cut-off peak: the logarithm of the curvature beyond it
// is taken for a straight line over as far as there is a bend, and followed back over the same length.
func decayInto(kept []float64, unknown, cutOff []bool, reach func(int) int) {
	const most, steepest = 3, 30 // times the opening's reach; times the curvature at the edge
	for k := 1; k < len(kept); k++ {
		if !cutOff[k-1] || unknown[k] || kept[k] <= 0 {
			continue
		}
		var n, sx, sy, sxx, sxy float64
		for i := k; i < min(len(kept), k+most*reach(k)) && !unknown[i] && kept[i] > kept[k]/steepest; i++ {
			x, y := float64(i-k), math.Log(kept[i])
			n, sx, sy, sxx, sxy = n+1, sx+x, sy+y, sxx+x*x, sxy+x*y
		}
		det := n*sxx - sx*sx
		if n < 4 || det <= 0 {
			continue
		}
		slope := (n*sxy - sx*sy) / det
		level := math.Exp((sy - slope*sx) / n)
		for i := k - 1; i >= max(0, k-most*reach(k)) && unknown[i] && slope < 0; i-- {
			kept[i] = level * math.Min(steepest, math.Exp(slope*float64(i-k)))
		}
	}
}

// sliding is the extreme within reach of each place, the first by the order of before: a queue keeps what may still become it, so that the time does
// not depend on the reach (Lemire, Nordic J. Comput. 13 (2006) 328).
func sliding(values []float64, reach func(int) int, before func(a, b float64) bool) []float64 {
	out := make([]float64, len(values))
	queue, head, next := make([]int, 0, len(values)), 0, 0
	for k := range values {
		r := reach(k)
		for ; next < len(values) && next <= k+r; next++ {
			for len(queue) > head && !before(values[queue[len(queue)-1]], values[next]) {
				queue = queue[:len(queue)-1]
			}
			queue = append(queue, next)
		}
		for queue[head] < k-r {
			head++
		}
		out[k] = values[queue[head]]
	}
	return out
}

// curveThrough draws a smooth curve through the nodes, each in the middle of q samples: cubic pieces whose slope at a node is that of its neighbours
// (Catmull & Rom, 1974).
func curveThrough(nodes []float64, q, size int) []float64 {
	out := make([]float64, size)
	n := len(nodes)
	at := func(k int) float64 {
		switch {
		case k < 0:
			return nodes[0] + float64(k)*(nodes[1]-nodes[0])
		case k >= n:
			return nodes[n-1] + float64(k-n+1)*(nodes[n-1]-nodes[n-2])
		}
		return nodes[k]
	}
	for i := range out {
		x := (float64(i)+0.5)/float64(q) - 0.5
		k := int(math.Floor(x))
		f := x - float64(k)
		p0, p1, p2, p3 := at(k-1), at(k), at(k+1), at(k+2)
		out[i] = p1 + f/2*(p2-p0+f*(2*p0-5*p1+4*p2-p3+f*(3*(p1-p2)+p3-p0)))
	}
	return out
}

// less is the view of the trace without the bend of its ground. Noise and widths stay; the responses change by the bend's own curvature.
func (v *view) less(b *bend) *view {
	w := *v
	w.bend, w.unwanted, w.anchors, w.summed = b, nil, nil, nil
	w.raw, w.clean = minus(v.raw, b.values), minus(v.clean, b.values)
	w.tr.Values = make([]float64, v.tr.Len())
	ground := sampled{v.tr.StartS, v.tr.StepS, b.values}
	for i, y := range v.tr.Values {
		w.tr.Values[i] = y - ground.at(v.tr.TimeS(i))
	}
	w.measured.Values = w.tr.Values
	if v.settings.SmoothMin > 0 {
		w.measured.Values = make([]float64, v.tr.Len())
		for i, y := range v.measured.Values {
			w.measured.Values[i] = y - ground.at(v.tr.TimeS(i))
		}
	}
	w.ladders = make([]*ladder, len(v.ladders))
	made := map[*ladder]*ladder{}
	for i, l := range v.ladders {
		m := made[l]
		if m == nil {
			m = &ladder{width: l.width, smooth: smoothed{l.smooth.Half, minus(l.smooth.Value, b.values)}}
			for _, sc := range l.scales {
				response := make([]float64, len(sc.response))
				for k, r := range sc.response {
					response[k] = r + b.curvature[sc.first+k]
				}
				m.scales = append(m.scales, scale{sc.half, sc.first, response, sc.noise})
			}
			made[l] = m
		}
		copied := *m
		copied.from, copied.to = l.from, l.to
		w.ladders[i] = &copied
	}
	return &w
}

func minus(a, b []float64) []float64 {
	out := make([]float64, len(a))
	for i := range a {
		out[i] = a[i] - b[i]
	}
	return out
}

// bent is the ground's bend at a time (s): what the recorded signal has beyond the view's.
func (v *view) bent(t float64) float64 {
	if v.bend == nil {
		return 0
	}
	return sampled{v.tr.StartS, v.tr.StepS, v.bend.values}.at(t)
}

// bentBetween tells whether the bend between two times (s) is more than a straight line by what can be seen.
func (v *view) bentBetween(start, end float64) bool {
	if v.bend == nil || end <= start {
		return false
	}
	const tenth = 0.1
	straight := line{start, v.bent(start), end, v.bent(end)}
	for k := range 9 {
		t := start + (end-start)*float64(k+1)/10
		if math.Abs(v.bent(t)-straight.at(t)) > tenth*v.noise {
			return true
		}
	}
	return false
}

// asRecorded is a baseline that is straight in the recorded signal, in the view's.
func (v *view) asRecorded(l line) ground {
	if v.bend == nil {
		return l
	}
	return lessBend{l, v}
}

type lessBend struct {
	line
	v *view
}

func (l lessBend) at(t float64) float64 { return l.line.at(t) - l.v.bent(t) }

// inDip tells whether a place lies in a dip of followed ground.
func (v *view) inDip(at float64) bool {
	return v.bend != nil && slices.ContainsFunc(v.bend.dips, func(d stretch) bool { return at >= float64(d.from) && at <= float64(d.to) })
}

// outOfDips moves a foot that lies in a dip of the ground inward until the signal has come up to the ground; the baseline stands on the ground there.
func (v *view) outOfDips(found []candidate) {
	for i := range found {
		c := &found[i]
		if c.startKind == Base && v.inDip(c.start) {
			for c.start < c.apex-1 && v.clean[int(c.start)] < v.bend.rest[int(c.start)] {
				c.start++
			}
			c.before.onRest = true
		}
		if c.endKind == Base && v.inDip(c.end) {
			for c.end > c.apex+1 && v.clean[int(c.end)] < v.bend.rest[int(c.end)] {
				c.end--
			}
			c.after.onRest = true
		}
	}
}

// apartFromCutOff gives the neighbours of a cut-off peak baselines of their own.
func (v *view) apartFromCutOff(found []candidate) {
	for i := 1; i < len(found); i++ {
		a, b := &found[i-1], &found[i]
		if touch(*a, *b) && a.endKind == Drop && (a.saturated || b.saturated) {
			a.endKind, b.startKind = Base, Base
			a.after, b.before = side{reach: a.end - a.apex, limit: a.end, wall: a.end}, side{reach: b.apex - b.start, limit: b.start, wall: b.start}
		}
	}
}

// hull moves an outer foot inward to where the chord stands highest above the signal on its flank, as long as it does so by more than noise.
func (v *view) hull(cluster []candidate, left, right standing) (standing, standing) {
	const rounds = 12
	first, last := &cluster[0], &cluster[len(cluster)-1]
	worst := func(c *candidate, from, to float64, base line) (at float64, most float64) {
		limit := gateNoise * v.memory * v.smoothNoise(c.on, from)
		for i := int(math.Ceil(from)); i <= int(to); i++ {
			if above := base.at(v.timeS(float64(i))) - c.on.smooth.Value[i]; above > max(most, limit) && !v.inDip(float64(i)) {
				at, most = float64(i), above
			}
		}
		return at, most
	}
	for range rounds {
		base := line{left.at, left.level, right.at, right.level}
		a, above := worst(first, first.start+1, first.apex, base)
		b, aboveRight := worst(last, last.apex, last.end-1, base)
		if first.startKind != Base {
			above = 0
		}
		if last.endKind != Base {
			aboveRight = 0
		}
		switch {
		case above == 0 && aboveRight == 0:
			return left, right
		case above >= aboveRight:
			first.start, first.before = a, side{reach: first.apex - a, limit: a, wall: a}
			left = v.stand(a, Base, first.before, -1)
		default:
			last.end, last.after = b, side{reach: b - last.apex, limit: b, wall: b}
			right = v.stand(b, Base, last.after, 1)
		}
	}
	return left, right
}
