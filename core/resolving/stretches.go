package resolving

import (
	"math"
	"slices"
)

// Stretch is a piece of the run that is resolved by itself, min.
type Stretch struct {
	FromMin float64 `json:"from_min"`
	ToMin   float64 `json:"to_min"`
}

// Trace is the total signal of a sample.
type Trace struct {
	TimesS []float64
	Values []float64
}

// Of the stretches that are proposed.
const (
	apartNoise  = 5.0  // so many deviations of the quiet signal make something elute
	deepValley  = 0.12 // of the lower one of two neighbours, over all samples, below which a stretch is cut
	longStretch = 14.0 // widths at half height above which a stretch is cut at its deepest valley
	shareValley = 0.5  // that this valley may have of the lower neighbour
	besideScans = 8    // of quiet signal are left on each side where there is room
)

// Stretches proposes where the run is cut: nothing elutes in any sample at the cuts. The samples are laid over each other, each less its own quiet level, and their
// greatest and mean signal are looked at, so that a peak which shifts from sample to sample is never cut in two where it is clear of its neighbours.
func Stretches(traces []Trace) []Stretch {
	times, highest := overlaid(traces)
	if len(times) < leastScans {
		return []Stretch{}
	}
	smooth := running(highest, 3)
	level, noise := quietLevel(smooth)
	threshold := level + apartNoise*noise
	width := widthOf(smooth, threshold)
	var list [][2]int
	for from := 0; from < len(smooth); from++ {
		if smooth[from] <= threshold {
			continue
		}
		to := from
		for to < len(smooth) && smooth[to] > threshold {
			to++
		}
		if to-from >= max(3, width/2) {
			list = append(list, parted(smooth, level, width, from, to)...)
		}
		from = to
	}
	return widened(times, list)
}

// overlaid is the greatest signal of the samples at each time of the longest one, each less its own quiet level.
func overlaid(traces []Trace) (times, highest []float64) {
	for _, t := range traces {
		if len(t.TimesS) > len(times) {
			times = t.TimesS
		}
	}
	highest = make([]float64, len(times))
	for _, t := range traces {
		if len(t.Values) < leastScans {
			continue
		}
		level, _ := quietLevel(t.Values)
		k := 0
		for i, at := range times {
			for k+1 < len(t.TimesS) && t.TimesS[k+1] <= at {
				k++
			}
			v := t.Values[k]
			if k+1 < len(t.TimesS) && at > t.TimesS[k] {
				f := (at - t.TimesS[k]) / (t.TimesS[k+1] - t.TimesS[k])
				v += f * (t.Values[k+1] - v)
			}
			highest[i] = math.Max(highest[i], v-level)
		}
	}
	return times, highest
}

// quietLevel is the level of a signal where nothing elutes, and how it scatters there: of its lower half.
func quietLevel(y []float64) (level, noise float64) {
	sorted := slices.Sorted(slices.Values(y))
	n := len(sorted)
	level = sorted[n/4]
	low := sorted[n/20]
	differences := make([]float64, 0, n)
	for i := 1; i < n; i++ {
		if y[i] <= sorted[n/2] && y[i-1] <= sorted[n/2] {
			differences = append(differences, math.Abs(y[i]-y[i-1]))
		}
	}
	noise = math.Max(median(differences)/0.954, (level-low)/1.6)
	return level, math.Max(noise, 1e-12*math.Abs(sorted[n-1]))
}

// widthOf is a width at half height, in scans: the median over what stands out.
func widthOf(y []float64, threshold float64) int {
	var widths []float64
	for i := 1; i+1 < len(y); i++ {
		if y[i] <= 3*threshold || y[i] < y[i-1] || y[i] <= y[i+1] {
			continue
		}
		left, right := i, i
		for left > 0 && y[left] > y[i]/2 && y[left] <= y[i] {
			left--
		}
		for right+1 < len(y) && y[right] > y[i]/2 && y[right] <= y[i] {
			right++
		}
		if y[left] <= y[i]/2 && y[right] <= y[i]/2 {
			widths = append(widths, float64(right-left-1))
		}
	}
	if len(widths) == 0 {
		return 8
	}
	return max(3, int(median(widths)))
}

// parted cuts what stands out at deep valleys, and what is long at its deepest.
func parted(y []float64, level float64, width, from, to int) [][2]int {
	at, share := valley(y, level, width, from, to)
	if at > 0 && (share < deepValley || float64(to-from) > longStretch*float64(width) && share < shareValley) {
		return append(parted(y, level, width, from, at), parted(y, level, width, at, to)...)
	}
	return [][2]int{{from, to}}
}

// valley is the deepest place that is a width away from both ends, as a share of the lower one of the greatest signals on its sides.
func valley(y []float64, level float64, width, from, to int) (at int, share float64) {
	share = 1
	after := make([]float64, to-from+1)
	for i := to - 1; i >= from; i-- {
		after[i-from] = math.Max(after[i-from+1], y[i]-level)
	}
	before := 0.0
	for i := from; i < to; i++ {
		before = math.Max(before, y[i]-level)
		if i < from+width || i >= to-width {
			continue
		}
		if s := (y[i] - level) / math.Min(before, after[i-from]); s < share {
			at, share = i, s
		}
	}
	return at, share
}

// widened leaves a little quiet signal on each side, up to the middle between two stretches.
func widened(times []float64, list [][2]int) []Stretch {
	out := make([]Stretch, 0, len(list))
	for k, s := range list {
		from, to := max(0, s[0]-besideScans), min(len(times)-1, s[1]+besideScans)
		if k > 0 {
			from = max(from, (list[k-1][1]+s[0])/2)
		}
		if k+1 < len(list) {
			to = min(to, (s[1]+list[k+1][0])/2)
		}
		if to-from >= leastScans {
			out = append(out, Stretch{times[from] / 60, times[to] / 60})
		}
	}
	return out
}
