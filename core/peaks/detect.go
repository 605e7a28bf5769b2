package peaks

import (
	"math"
	"slices"

	"yugen/core/signal"
)

// view is a trace prepared for detection: an even grid without spikes, its noise, and the filter at a few scales.
type view struct {
	settings Settings
	tr       signal.Trace
	measured signal.Trace // what areas are taken from: the trace, or its smoothed copy
	raw      []float64    // on the even grid
	clean    []float64    // the same without spikes
	most     float64      // the greatest raw value
	noise    float64      // of single samples
	memory   float64      // how many times more than white noise the noise of a window is
	ladders  []*ladder    // in order of time
	anchors  []anchor
	unwanted []stretch // peaks that are not to be found
}

// stretch is a piece of the even grid.
type stretch struct{ from, to int }

// ladder is a stretch of the run with one expected width, and the filters that go with it. Its filters know the whole trace.
type ladder struct {
	from, to int     // even grid; to is past the end
	width    float64 // expected width at half height, in samples
	scales   []scale
	smooth   signal.Local // at a quarter of the width: for apexes and valleys
}

// scale is the curvature filter at one width. response is the negative curvature: positive at a peak.
type scale struct {
	half     int
	response []float64
	noise    float64
}

// candidate is a peak before it is measured. Positions are on the even grid, apex between samples.
type candidate struct {
	at         int // of the greatest response
	apex       float64
	level      float64 // smoothed signal at the apex
	on         *ladder
	scale      int
	shoulder   bool
	saturated  bool
	summed     bool
	start, end float64
	startKind  SideKind
	endKind    SideKind
	base       ground
	baseKind   BaselineKind
	drawn      bool      // a hand has moved a boundary of it
	by         SplitKind // how a hand wants it parted; empty: as the settings say
	straight   bool      // wanted on a decay, stands on a tangent
	riders     []rider
	shape      *fitted
	noFit      bool // wanted fitted, is not
}

func newView(tr signal.Trace, s Settings) *view {
	v := &view{settings: s, tr: tr, measured: tr, raw: tr.Even()}
	v.most = slices.Max(v.raw)
	v.noise = signal.WhiteNoise(v.raw)
	v.clean = v.raw
	first := s.WidthMin * 60 / tr.StepS
	if first == 0 {
		first = estimateWidth(v.raw, v.noise)
	}
	last := first
	if s.EndWidthMin > 0 {
		last = s.EndWidthMin * 60 / tr.StepS
	}
	if reach := min(2, int(min(first, last)/8)); reach > 0 {
		v.clean = signal.WithoutSpikes(v.raw, reach)
	}
	if half := int(math.Round(s.SmoothMin * 60 / tr.StepS / 2)); half > 0 {
		v.measured.Values = signal.Fit(tr.Values, half).Value
	}
	v.stretches(first, last)
	return v
}

// stretches cuts the run where the expected width changes: in steps along a run whose peaks widen, and where a rule sets another.
func (v *view) stretches(first, last float64) {
	const step = 1.4 // neighbouring scales overlap, so that a finer one gains nothing
	n := len(v.raw)
	pieces := max(1, min(8, int(math.Ceil(math.Abs(math.Log(last/first))/math.Log(step)))))
	cuts := []int{0, n}
	for i := 1; i < pieces; i++ {
		cuts = append(cuts, n*i/pieces)
	}
	for _, r := range v.settings.TimeRules {
		if r.Kind == Change && r.Setting == "width_min" {
			cuts = append(cuts, max(0, min(n, int(v.position(r.FromMin)))), max(0, min(n, int(v.position(r.ToMin))+1)))
		}
	}
	slices.Sort(cuts)
	cuts = slices.Compact(cuts)
	made := map[float64]*ladder{} // filters of one width are made once
	for i := 1; i < len(cuts); i++ {
		middle := (cuts[i-1] + cuts[i]) / 2
		width := first + (last-first)*float64(middle)/float64(n)
		if ruled := v.settings.at(v.timeS(float64(middle)) / 60).WidthMin; ruled != v.settings.WidthMin && ruled > 0 {
			width = ruled * 60 / v.tr.StepS
		}
		width = max(2, min(width, float64(n)/4))
		l := &ladder{width: width}
		if same := made[width]; same != nil {
			*l = *same
		} else {
			l.scales, v.memory = v.scalesFor(width)
			l.smooth = signal.Fit(v.clean, max(1, int(math.Round(width/4))))
			made[width] = l
		}
		l.from, l.to = cuts[i-1], cuts[i]
		v.ladders = append(v.ladders, l)
	}
}

// ladder is the one that holds a position.
func (v *view) ladder(position float64) *ladder {
	for _, l := range v.ladders {
		if position < float64(l.to) {
			return l
		}
	}
	return v.ladders[len(v.ladders)-1]
}

// widthAt is the expected width at a position, in samples.
func (v *view) widthAt(position float64) float64 { return v.ladder(position).width }

// scalesFor is the curvature filter at a few widths around the expected one, and how many times more than white noise the noise of
// a fine one is.
func (v *view) scalesFor(width float64) (scales []scale, memory float64) {
	y, noise := v.clean, v.noise
	// At a fraction of the width peaks hardly bend, so that what exceeds white noise there is noise of longer memory. Noise with a
	// 1/f spectrum grows from there with the root of the window; what exceeds that is peaks.
	fine := newScale(y, max(1, int(math.Round(0.15*width))))
	memory = 1
	if noise > 0 {
		memory = max(1, min(8, signal.QuietLevel(fine.response, 12*fine.half)/(noise*signal.CurvatureGain(fine.half))))
	}
	for _, f := range []float64{0.4, 0.8, 1.6, 3.2} {
		half := max(2, int(math.Round(f*width)))
		n := len(scales)
		if n > 0 && (2*half+1 > len(y)/2 || scales[n-1].half == half) {
			break
		}
		sc := newScale(y, half)
		white := noise * signal.CurvatureGain(half)
		most := 1.5 * memory * math.Sqrt(float64(half)/float64(fine.half)) * white
		sc.noise = max(white, min(most, signal.QuietLevel(sc.response, 12*half)))
		scales = append(scales, sc)
	}
	return scales, memory
}

func newScale(y []float64, half int) scale {
	response := signal.Curvature(y, half)
	for i := range response {
		response[i] = -response[i]
	}
	return scale{half: half, response: response}
}

// position is a time (min) on the even grid.
func (v *view) position(min float64) float64 { return (min*60 - v.tr.StartS) / v.tr.StepS }

func (v *view) timeS(position float64) float64 {
	return v.tr.StartS + position*v.tr.StepS
}

// candidates are the maxima of the response that exceed the threshold, from the finest scale to the coarsest: a
// coarse one counts only where no finer one lies within it.
func (v *view) candidates() []candidate {
	least, ruled := v.settings.Threshold, false
	for _, r := range v.settings.TimeRules {
		if r.Kind == Change && r.Setting == "threshold" {
			least, ruled = min(least, r.Value), true
		}
	}
	var all []candidate
	for _, l := range v.ladders {
		var found []candidate
		for s, sc := range l.scales {
			for _, at := range maxima(sc.response, least*sc.noise) {
				if at < l.from || at >= l.to || ruled && sc.response[at] <= v.settings.at(v.timeS(float64(at))/60).Threshold*sc.noise {
					continue
				}
				if s == 0 || !slices.ContainsFunc(found, func(c candidate) bool { return abs(c.at-at) <= sc.half }) {
					found = append(found, candidate{at: at, on: l, scale: s})
				}
			}
		}
		slices.SortFunc(found, func(a, b candidate) int { return a.at - b.at })
		all = append(all, found...)
	}
	all = v.plateaus(all)
	v.apexes(all)
	return all
}

// plateaus joins the two edges of a cut-off top, both of which bend like a peak.
func (v *view) plateaus(found []candidate) []candidate {
	kept := found[:0]
	for _, c := range found {
		if n := len(kept); n > 0 {
			middle := (kept[n-1].at + c.at) / 2
			if v.raw[middle] == v.most && v.raw[middle-1] == v.most && v.raw[middle+1] == v.most {
				kept[n-1].at, kept[n-1].scale = middle, max(kept[n-1].scale, c.scale)
				continue
			}
		}
		kept = append(kept, c)
	}
	return kept
}

// maxima are the local maxima of r above the level that stand out from their neighbours by at least the level, or by a
// twentieth of themselves where that is more.
func maxima(r []float64, level float64) []int {
	greatest := 0.0
	for _, x := range r {
		greatest = max(greatest, x)
	}
	level = max(level, 1e-7*greatest)
	var at []int
	low := 0.0 // the least response since the last maximum
	for i := 1; i < len(r)-1; i++ {
		low = min(low, r[i])
		if r[i] <= level || r[i] < r[i-1] || r[i] <= r[i+1] {
			continue
		}
		if n := len(at); n > 0 {
			last := r[at[n-1]]
			if dip := min(last, r[i]) - low; dip < max(level, 0.05*min(last, r[i])) {
				if r[i] > last {
					at[n-1], low = i, r[i]
				}
				continue
			}
		}
		at, low = append(at, i), r[i]
	}
	return at
}

// apexes places each apex on the signal: at the maximum near the candidate, refined by a parabola; a candidate without a
// maximum of its own is a shoulder and keeps the place of its greatest curvature.
func (v *view) apexes(found []candidate) {
	for i := range found {
		c := &found[i]
		reach := c.on.scales[c.scale].half
		from, to := max(1, c.at-reach), min(len(v.clean)-2, c.at+reach)
		if i > 0 {
			from = max(from, (found[i-1].at+c.at)/2)
		}
		if i+1 < len(found) {
			to = min(to, (found[i+1].at+c.at)/2)
		}
		top := from
		for k := from; k <= to; k++ {
			if c.on.smooth.Value[k] > c.on.smooth.Value[top] {
				top = k
			}
		}
		c.apex, c.level = float64(c.at), c.on.smooth.Value[c.at]
		if top == from || top == to {
			c.shoulder = true
			continue
		}
		c.apex, c.level = max(float64(from), min(float64(to), v.parabola(top))), c.on.smooth.Value[top]
		c.saturated = v.flatTop(top)
	}
}

// parabola is the apex of the least-squares parabola through the samples over the top.
func (v *view) parabola(top int) float64 {
	half := v.topHalf(top)
	if half < 1 {
		return float64(top)
	}
	f := signal.Fit(v.raw[top-half:top+half+1], half)
	if f.Curvature[half] >= 0 {
		return float64(top)
	}
	shift := -f.Slope[half] / f.Curvature[half]
	if math.Abs(shift) > float64(half) {
		return float64(top)
	}
	return float64(top) + shift
}

// topHalf is the half window of the parabola over a top: as narrow as noise allows, since a wide one is pulled towards the
// tail, and at most a seventh of the width.
func (v *view) topHalf(top int) int {
	widest := min(max(1, int(math.Round(v.widthAt(float64(top))/7))), top, len(v.raw)-1-top)
	for half := 1; half < widest; half++ {
		if fall := v.raw[top] - (v.raw[top-half]+v.raw[top+half])/2; fall > 50*v.noise && fall > 0 {
			return half
		}
	}
	return widest
}

// flatTop tells whether the top is cut off: at least four neighbouring samples that all equal the trace's maximum.
func (v *view) flatTop(top int) bool {
	run := 0
	reach := int(2 * v.widthAt(float64(top)))
	for i := max(0, top-reach); i <= min(len(v.raw)-1, top+reach); i++ {
		if v.raw[i] != v.most {
			run = 0
			continue
		}
		if run++; run >= 4 {
			return true
		}
	}
	return false
}

func abs(x int) int { return max(x, -x) }
