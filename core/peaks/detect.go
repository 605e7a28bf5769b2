package peaks

import (
	"fmt"
	"math"
	"slices"

	"yugen/core/signal"
)

// view is a trace prepared for detection: an even grid without spikes, its noise, and the filter at a few scales.
type view struct {
	settings Settings
	tr       signal.Trace
	measured signal.Trace // what areas are taken from: the trace, or its smoothed copy
	recorded signal.Trace // as the detector gave it, with the bend of its ground
	gridded  []float64    // the same on the even grid
	bend     *bend        // what was taken away of tr, raw, clean and what is made of them; nil where nothing was
	raw      []float64    // on the even grid
	clean    []float64    // the same without spikes
	most     float64      // the greatest raw value
	noise    float64      // of single samples where nothing is
	growth   *growth      // how the noise grows with the signal and with the distance of samples; nil where it does not
	memory   float64      // how many times more than white noise the noise of a window is
	ladders  []*ladder    // in order of time
	// widthFirst and widthLast are the expected widths at the ends of the run, in samples.
	widthFirst, widthLast float64
	anchors               []anchor
	unwanted              []stretch  // peaks that are not to be found
	occupied              []detected // by what is no peak any more: removed by hand, or not wanted
	summed                summed     // clean, up to each step; made when asked for
	dropped               []Dropped  // peaks that were found and are not told as such
}

// stretch is a piece of the even grid.
type stretch struct{ from, to int }

// ladder is a stretch of the run with one expected width, and the filters that go with it. Its filters reach beyond it by farOut widths.
type ladder struct {
	from, to int     // even grid; to is past the end
	width    float64 // expected width at half height, in samples
	scales   []scale
	smooth   smoothed // at a quarter of the width: for apexes and valleys
}

// scale is the curvature filter at one width. response is the negative curvature: positive at a peak.
type scale struct {
	half     int
	first    int // where the response begins on the even grid
	response []float64
	noise    float64
}

// at is the response at a step; beyond what was filtered it is 0.
func (sc scale) at(i int) float64 {
	if k := i - sc.first; uint(k) < uint(len(sc.response)) {
		return sc.response[k]
	}
	return 0
}

func (sc scale) covers(i int) bool { return uint(i-sc.first) < uint(len(sc.response)) }

// mirrored is the scale of the trace upside down.
func (sc scale) mirrored() scale {
	response := make([]float64, len(sc.response))
	for i, r := range sc.response {
		response[i] = -r
	}
	sc.response = response
	return sc
}

// smoothed is the trace smoothed over 2·Half+1 samples.
type smoothed struct {
	Half  int
	Value []float64
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
	before     side // its left side
	after      side
	ends       [2]standing // of its baseline, where that is a chord
	base       ground
	baseKind   BaselineKind
	drawn      bool      // a hand has moved a boundary of it
	by         SplitKind // how a hand wants it parted; empty: as the settings say
	straight   bool      // wanted on a decay, stands on a tangent
	riders     []rider
	shape      *fitted
	noFit      bool // wanted fitted, is not
}

// spikeHeight is by how many times the noise a spike stands off its neighbours' median.
const spikeHeight = 5

// unsettled is a view that knows the trace's noise and nothing of its peaks.
func unsettled(tr signal.Trace, s Settings) *view {
	v := &view{settings: s, tr: tr, recorded: tr, measured: tr, raw: tr.Even()}
	v.gridded = v.raw
	v.most = slices.Max(v.raw)
	v.noise = tr.WhiteNoise()
	v.growth = v.learnGrowth()
	return v
}

func newView(tr signal.Trace, s Settings, expected *Estimate) *view {
	v := unsettled(tr, s)
	if s.Noise != nil {
		v.fix(*s.Noise)
	} else if expected != nil {
		v.expect(*expected)
	}
	v.clean = v.raw
	first, last := s.WidthMin*60/tr.StepS, s.EndWidthMin*60/tr.StepS
	switch {
	case first == 0 && expected != nil && expected.WidthMin > 0:
		first, last = expected.WidthMin*60/tr.StepS, expected.EndWidthMin*60/tr.StepS
	case first == 0:
		first, last = v.estimateWidth()
	case last == 0:
		last = first
	}
	if reach := min(2, int(min(first, last)/8)); reach > 0 {
		v.clean = signal.WithoutSpikes(v.raw, reach, spikeHeight*v.noise)
	}
	if half := int(math.Round(s.SmoothMin * 60 / tr.StepS / 2)); half > 0 {
		v.measured.Values = signal.Fit(tr.Values, half).Value
	}
	if v.growth != nil {
		v.growth.sumUp(v.clean, max(1, int(math.Round(min(first, last)/4))), v.noise*v.noise)
	}
	last = max(2, min(last, float64(len(v.raw))/4))
	first = max(2, min(first, float64(len(v.raw))/4))
	v.widthFirst, v.widthLast = first, last
	v.stretches(first, last)
	return v
}

// stretches cuts the run where the expected width changes: in steps along a run whose peaks widen, and where a rule sets another.
func (v *view) stretches(first, last float64) {
	const step, mostStretches = 1.4, 12 // neighbouring scales overlap, so that a finer one gains nothing
	n := len(v.raw)
	cuts := []int{0, n}
	pieces := max(1, min(mostStretches, int(math.Ceil(math.Abs(math.Log(last/first))/math.Log(step)))))
	for i := 1; i < pieces; i++ { // each is wider than the one before by the same factor
		width := first * math.Pow(last/first, float64(i)/float64(pieces))
		cuts = append(cuts, int(float64(n)*(width-first)/(last-first)))
	}
	for _, r := range v.settings.TimeRules {
		if r.Kind == Change && r.Setting == "width_min" {
			cuts = append(cuts, max(0, min(n, int(v.position(r.FromMin)))), max(0, min(n, int(v.position(r.ToMin))+1)))
		}
	}
	slices.Sort(cuts)
	cuts = slices.Compact(cuts)
	for i := 1; i < len(cuts); i++ {
		middle := (cuts[i-1] + cuts[i]) / 2
		width := first + (last-first)*float64(middle)/float64(n)
		if ruled := v.settings.at(v.timeS(float64(middle)) / 60).WidthMin; ruled != v.settings.WidthMin && ruled > 0 {
			width = ruled * 60 / v.tr.StepS
		}
		width = max(2, min(width, float64(n)/4))
		l := &ladder{from: cuts[i-1], to: cuts[i], width: width}
		var memory float64
		l.scales, memory = v.scalesFor(width, max(0, cuts[i-1]-int(farOut*width)), min(n, cuts[i]+int(farOut*width)))
		v.memory = max(v.memory, memory)
		half := max(1, int(math.Round(width/4)))
		l.smooth = smoothed{half, signal.Smooth(v.clean, half)}
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

// mostMemory bounds how much more than white noise the noise of a window is taken to be.
const mostMemory = 20

// farOut is how many widths beyond its stretch a ladder's filters reach.
const farOut = 40

// scalesFor is the curvature filter at a few widths around the expected one, from one step to another, and how many times more than white noise the noise of
// a fine one is.
func (v *view) scalesFor(width float64, from, to int) (scales []scale, memory float64) {
	y, noise := v.clean[from:to], v.noise
	// At a fraction of the width peaks hardly bend, so that what exceeds white noise there is noise of longer memory. Noise with a
	// 1/f spectrum grows from there with the root of the window; what exceeds that is peaks.
	fine := newScale(y, max(1, int(math.Round(0.15*width))), from)
	memory = 1
	if noise > 0 {
		memory = max(1, min(mostMemory, signal.QuietLevel(fine.response, 12*fine.half)/(noise*signal.CurvatureGain(fine.half))))
	}
	for _, f := range []float64{0.4, 0.8, 1.6, 3.2} {
		half := max(2, int(math.Round(f*width)))
		n := len(scales)
		if n > 0 && (2*half+1 > len(y)/2 || scales[n-1].half == half) {
			break
		}
		sc := newScale(y, half, from)
		white := noise * signal.CurvatureGain(half)
		most := 1.5 * memory * math.Sqrt(float64(half)/float64(fine.half)) * white
		sc.noise = max(white, min(most, signal.QuietLevel(sc.response, 12*half)))
		scales = append(scales, sc)
	}
	return scales, memory
}

func newScale(y []float64, half, first int) scale {
	response := signal.Curvature(y, half)
	for i := range response {
		response[i] = -response[i]
	}
	return scale{half: half, first: first, response: response}
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
		// Beyond the stretch too: what a finer filter sees there keeps a coarse one from seeing it here.
		coarsest, slack := l.scales[len(l.scales)-1].half, l.scales[0].half
		var found []candidate
		for s, sc := range l.scales {
			for _, at := range v.maxima(sc, least) {
				if at < l.from-coarsest || at >= l.to+coarsest || ruled && sc.at(at) <= v.settings.at(v.timeS(float64(at))/60).Threshold*v.noiseOf(sc, at) {
					continue
				}
				if s == 0 || !slices.ContainsFunc(found, func(c candidate) bool { return abs(c.at-at) <= sc.half }) {
					found = append(found, candidate{at: at, on: l, scale: s})
				}
			}
		}
		found = slices.DeleteFunc(found, func(c candidate) bool { return c.at < l.from-slack || c.at >= l.to+slack })
		slices.SortFunc(found, func(a, b candidate) int { return a.at - b.at })
		if n := len(all); n > 0 && len(found) > 0 && sameBend(all[n-1], found[0]) { // seen on both sides of where the width changes
			if found[0].response() > all[n-1].response() {
				all = all[:n-1]
			} else {
				found = found[1:]
			}
		}
		all = append(all, found...)
	}
	all = v.narrowEnough(v.plateaus(all))
	v.apexes(all)
	return all
}

// Where nobody has set a width, what is wider at half height than broadest samples and broadestS seconds is taken for the ground, not for a peak.
// That is a prior, not evidence: it is told, and a width that is set overrules it.
const (
	broadest  = 300
	broadestS = 60
)

// response is the bend that made it a candidate.
func (c candidate) response() float64 { return c.on.scales[c.scale].at(c.at) }

// sameBend tells whether two candidates lie within one filter's window.
func sameBend(a, b candidate) bool {
	return abs(a.at-b.at) <= min(a.on.scales[a.scale].half, b.on.scales[b.scale].half)
}

// narrowEnough leaves out what is too broad for a peak.
func (v *view) narrowEnough(found []candidate) []candidate {
	return slices.DeleteFunc(found, func(c candidate) bool {
		if v.bend != nil && c.scale >= 2 && -v.bend.curvature[c.at] > c.response() {
			return true // less is left than was the ground's
		}
		if v.settings.at(v.timeS(float64(c.at))/60).WidthMin > 0 {
			return false
		}
		dl, dr, _ := c.geometry()
		width := 1.18 * (dl + dr)
		if width <= max(broadest, broadestS/v.tr.StepS) {
			return false
		}
		v.drop(float64(c.at), fmt.Sprintf("it is %.3g min wide at half height, which no width was set for: taken for the ground", width*v.tr.StepS/60))
		return true
	})
}

// plateaus joins the two edges of a cut-off top, both of which bend like a peak.
func (v *view) plateaus(found []candidate) []candidate {
	kept := found[:0]
	for _, c := range found {
		if n := len(kept); n > 0 {
			middle := (kept[n-1].at + c.at) / 2
			if v.gridded[middle] == v.most && v.gridded[middle-1] == v.most && v.gridded[middle+1] == v.most {
				kept[n-1].at, kept[n-1].scale = middle, max(kept[n-1].scale, c.scale)
				continue
			}
		}
		kept = append(kept, c)
	}
	return kept
}

// maxima are the local maxima of a response above the threshold times its noise there that stand out from their neighbours by at least
// that, or by a twentieth of themselves where that is more.
func (v *view) maxima(sc scale, threshold float64) []int {
	r := sc.response
	greatest, level := 0.0, threshold*sc.noise
	for _, x := range r {
		if x > greatest {
			greatest = x
		}
	}
	least := max(level, 1e-7*greatest)
	var at []int
	low := 0.0 // the least response since the last maximum
	for i := 1; i < len(r)-1; i++ {
		if r[i] < low {
			low = r[i]
		}
		if r[i] <= least || r[i] < r[i-1] || r[i] <= r[i+1] {
			continue
		}
		level := least
		if v.growth != nil {
			if level = max(least, threshold*v.noiseOf(sc, i+sc.first)); r[i] <= level {
				continue
			}
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
	for k := range at {
		at[k] += sc.first
	}
	return at
}

// apexes places each apex on the signal: at the maximum near the candidate, refined by a parabola; a candidate without a
// maximum of its own is a shoulder and keeps the place of its greatest curvature.
func (v *view) apexes(found []candidate) {
	for i := range found {
		c := &found[i]
		first, last := 1, len(v.clean)-2
		if i > 0 {
			first = max(first, (found[i-1].at+c.at)/2)
		}
		if i+1 < len(found) {
			last = min(last, (found[i+1].at+c.at)/2)
		}
		reach := c.on.scales[c.scale].half
		top, inner := v.topWithin(c, max(first, c.at-reach), min(last, c.at+reach))
		if !inner { // the top of a triangle may lie further off
			reach = max(reach, int(c.on.width))
			top, inner = v.topWithin(c, max(first, c.at-reach), min(last, c.at+reach))
		}
		from, to := max(first, c.at-reach), min(last, c.at+reach)
		c.apex, c.level = float64(c.at), c.on.smooth.Value[c.at]
		if !inner {
			c.shoulder = true
			c.saturated = v.flatTop(c.at)
			continue
		}
		c.apex, c.level = max(float64(from), min(float64(to), v.parabola(top))), c.on.smooth.Value[top]
		c.saturated = v.flatTop(top)
	}
}

// topWithin is where the smoothed signal is highest above the ground in a stretch, and whether that is within it.
func (v *view) topWithin(c *candidate, from, to int) (top int, inner bool) {
	top = from
	for k := from; k <= to; k++ {
		if c.on.smooth.Value[k]-v.lean(k) > c.on.smooth.Value[top]-v.lean(top) {
			top = k
		}
	}
	return top, top != from && top != to
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
	shift := (v.lean(min(len(v.raw)-1, top+1)) - v.lean(top) - f.Slope[half]) / f.Curvature[half]
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
		if fall := v.raw[top] - (v.raw[top-half]+v.raw[top+half])/2; fall > 50*v.noiseAt(float64(top)) && fall > 0 {
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
		if v.gridded[i] != v.most {
			run = 0
			continue
		}
		if run++; run >= 4 {
			return true
		}
	}
	return false
}

// lean is the ground's level at a sample where its bend has been followed: apexes and valleys are sought above it.
func (v *view) lean(i int) float64 {
	if v.bend == nil {
		return 0
	}
	return v.bend.rest[i]
}

func abs(x int) int { return max(x, -x) }
