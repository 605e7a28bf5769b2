package peaks

import (
	"math"
	"slices"

	"yugen/core/signal"
)

const (
	// nodesPerWidth and bendWidths set the stiffness: so many means stand on each width of a peak, and a wave of so many widths is halved.
	nodesPerWidth = 5
	bendWidths    = 7
	groundRounds  = 8
	// broadBend is the least breadth of a bend of the ground, in widths to each side; what is narrower may be a peak's.
	broadBend = 2
	// reopened gives a smooth bend back the top that the opening cuts off.
	reopened = 1.3
)

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
