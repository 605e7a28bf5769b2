package peaks

import (
	"context"
	"fmt"
	"math"
	"math/bits"
	"runtime"
	"slices"
	"sync"

	"yugen/core/signal"
)

// Mark is an example: there is to be a peak, or none, at a time of a trace.
type Mark struct {
	Trace int     `json:"trace"` // which of the traces, from 0
	AtMin float64 `json:"at_min"`
	Keep  bool    `json:"keep"` // false: no peak is wanted there
}

// Suggestion is what the marks lead to.
type Suggestion struct {
	Settings  Settings `json:"settings"`
	Satisfied []bool   `json:"satisfied"` // of each mark, in their order
	// Contradicting are the fewest marks, by index, that no settings tried satisfy together; empty where all are satisfied.
	Contradicting []int `json:"contradicting"`
}

// MaxMarks bounds the examples of one question.
const MaxMarks = 60

// trial is one way to integrate: a width, a threshold and the least area or height, with the marks it satisfies as bits.
type trial struct {
	width, threshold, leastArea, leastHeight float64
	satisfied                                uint64
	distance                                 float64 // from the settings as they are
}

// Suggest finds settings that find a peak at every mark to keep and none at those to ignore. Only the width, the threshold and the
// least area or height are changed; of those that satisfy most marks the nearest to the settings as they are is taken. Apexes outside
// the stretch (min; none where its end is not after its start) are left out by time rules. The same question has the same answer.
func Suggest(ctx context.Context, traces []signal.Trace, marks []Mark, fromMin, toMin float64, s Settings) (Suggestion, error) {
	if len(marks) == 0 || len(marks) > MaxMarks {
		return Suggestion{}, fmt.Errorf("suggest: there are %d marks; from 1 to %d are taken", len(marks), MaxMarks)
	}
	for i, m := range marks {
		if m.Trace < 0 || m.Trace >= len(traces) {
			return Suggestion{}, fmt.Errorf("suggest: mark %d is on trace %d; there are %d", i+1, m.Trace+1, len(traces))
		}
		if tr := traces[m.Trace]; !(m.AtMin*60 >= tr.StartS && m.AtMin*60 <= tr.EndS()) {
			return Suggestion{}, fmt.Errorf("suggest: mark %d at %g min lies outside its trace", i+1, m.AtMin)
		}
	}
	s = within(s, fromMin, toMin)
	if err := s.Validate(); err != nil {
		return Suggestion{}, err
	}
	trials, err := tryAll(ctx, traces, marks, s)
	if err != nil {
		return Suggestion{}, err
	}
	best := trials[0]
	for _, t := range trials[1:] {
		more := bits.OnesCount64(t.satisfied) - bits.OnesCount64(best.satisfied)
		if more > 0 || more == 0 && t.distance < best.distance {
			best = t
		}
	}
	out := Suggestion{Settings: s, Satisfied: make([]bool, len(marks)), Contradicting: contradiction(trials, len(marks))}
	out.Settings.WidthMin, out.Settings.Threshold = best.width, best.threshold
	out.Settings.LeastArea, out.Settings.LeastHeight = best.leastArea, best.leastHeight
	for i := range marks {
		out.Satisfied[i] = best.satisfied&(1<<i) != 0
	}
	return out, nil
}

// within are the settings with what lies outside the stretch left out, in place of rules that left out runs' beginnings or ends.
func within(s Settings, fromMin, toMin float64) Settings {
	if !(fromMin < toMin) {
		return s
	}
	const endless = 1e5
	s.TimeRules = slices.DeleteFunc(slices.Clone(s.TimeRules), func(r TimeRule) bool {
		return r.Kind == LeaveOut && (r.FromMin <= 0 || r.ToMin >= endless)
	})
	if fromMin > 0 {
		s.TimeRules = append(s.TimeRules, TimeRule{Kind: LeaveOut, ToMin: fromMin})
	}
	s.TimeRules = append(s.TimeRules, TimeRule{Kind: LeaveOut, FromMin: toMin, ToMin: endless})
	return s
}

// tryAll integrates the traces under a grid of widths and thresholds, and for each finds which least areas and heights part the marks.
func tryAll(ctx context.Context, traces []signal.Trace, marks []Mark, s Settings) ([]trial, error) {
	now := s.withDefaults()
	widths := []float64{s.WidthMin}
	estimated := s.WidthMin
	if estimated == 0 {
		estimated = estimatedWidthMin(traces[marks[0].Trace])
	}
	for _, f := range []float64{0.5, 0.71, 1.41, 2, 3} {
		widths = append(widths, roundedTo2(f*estimated))
	}
	thresholds := []float64{now.Threshold}
	for _, t := range []float64{3, 5, 10, 20, 50, 100, 200, 500, 1000} {
		if t != now.Threshold {
			thresholds = append(thresholds, t)
		}
	}
	grid := make([]trial, 0, len(widths)*len(thresholds))
	for i, w := range widths {
		for _, t := range thresholds {
			d := math.Abs(math.Log(t / now.Threshold))
			if i > 0 {
				d += 1 + math.Abs(math.Log(w/estimated))
			}
			grid = append(grid, trial{width: w, threshold: t, distance: d})
		}
	}
	var used []int
	for _, m := range marks {
		if !slices.Contains(used, m.Trace) {
			used = append(used, m.Trace)
		}
	}
	results, errs := make([][]trial, len(grid)), make([]error, len(grid))
	var workers sync.WaitGroup
	next := make(chan int)
	for range runtime.GOMAXPROCS(0) {
		workers.Go(func() {
			for g := range next {
				func() {
					defer func() { // an odd trace must not end the program
						if r := recover(); r != nil {
							errs[g] = fmt.Errorf("suggest: a trial failed inside Yugen: %v", r)
						}
					}()
					results[g], errs[g] = cuts(ctx, grid[g], traces, used, marks, s)
				}()
			}
		})
	}
	for g := range grid {
		next <- g
	}
	close(next)
	workers.Wait()
	var all []trial
	for g, err := range errs {
		if err != nil {
			return nil, err
		}
		all = append(all, results[g]...)
	}
	return all, nil
}

// cuts are the trials of one width and threshold: with the least area and height as they are, and with others that lie between the
// peaks at the marks.
func cuts(ctx context.Context, t trial, traces []signal.Trace, used []int, marks []Mark, s Settings) ([]trial, error) {
	at := make([]*Peak, len(marks))
	for _, k := range used {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		open := s
		open.WidthMin, open.EndWidthMin, open.Threshold, open.LeastArea, open.LeastHeight = t.width, 0, t.threshold, 0, 0
		open.Split = ByDrop // fitted shapes find no other peaks and take their time
		r, err := Find(traces[k], open, nil)
		if err != nil {
			return nil, err
		}
		for i, m := range marks {
			if m.Trace == k {
				at[i] = peakAt(r.Peaks, m.AtMin)
			}
		}
	}
	var areas, heights []float64
	for _, p := range at {
		if p != nil {
			areas, heights = append(areas, math.Abs(p.AreaS)), append(heights, math.Abs(p.Height))
		}
	}
	var list []trial
	consider := func(area, height, distance float64) {
		c := t
		c.leastArea, c.leastHeight, c.distance = area, height, t.distance+distance
		for i, m := range marks {
			there := at[i] != nil && math.Abs(at[i].AreaS) >= area && math.Abs(at[i].Height) >= height
			if there == m.Keep {
				c.satisfied |= 1 << i
			}
		}
		list = append(list, c)
	}
	consider(s.LeastArea, s.LeastHeight, 0)
	for _, a := range between(areas) {
		consider(a, s.LeastHeight, 0.5)
	}
	for _, h := range between(heights) {
		consider(s.LeastArea, h, 0.6)
	}
	return list, nil
}

// between are round values that part a list: below its least, and between neighbours.
func between(values []float64) []float64 {
	slices.Sort(values)
	var list []float64
	for i, v := range values {
		low := v / 4
		if i > 0 {
			low = values[i-1]
		}
		if middle := roundedTo2(math.Sqrt(low * v)); middle > low && middle <= v {
			list = append(list, middle)
		} else if v > low {
			list = append(list, (low+v)/2)
		}
	}
	if n := len(values); n > 0 {
		list = append(list, roundedTo2(2*values[n-1]))
	}
	return list
}

// roundedTo2 has two significant digits, as a person would type them.
func roundedTo2(v float64) float64 {
	if v <= 0 {
		return 0
	}
	unit := math.Pow(10, math.Floor(math.Log10(v))-1)
	return math.Round(v/unit) * unit
}

// peakAt is the peak whose boundaries hold the time; of several the one whose apex is nearest.
func peakAt(found []Peak, atMin float64) *Peak {
	var best *Peak
	for i := range found {
		p := &found[i]
		if p.StartMin <= atMin && atMin <= p.EndMin && (best == nil || math.Abs(p.ApexMin-atMin) < math.Abs(best.ApexMin-atMin)) {
			best = p
		}
	}
	return best
}

func estimatedWidthMin(tr signal.Trace) float64 {
	first, last := unsettled(tr, Settings{}).estimateWidth()
	return roundedTo2((first + last) / 2 * tr.StepS / 60)
}

// contradiction is a smallest set of marks that no trial satisfies together, the first in order of marks.
func contradiction(trials []trial, marks int) []int {
	seen := map[uint64]bool{}
	var ways []uint64
	for _, t := range trials {
		if !seen[t.satisfied] {
			seen[t.satisfied] = true
			ways = append(ways, t.satisfied)
		}
	}
	possible := func(set uint64) bool {
		return slices.ContainsFunc(ways, func(w uint64) bool { return w&set == set })
	}
	all := uint64(1)<<marks - 1
	if possible(all) {
		return []int{}
	}
	for size := 1; size <= 3; size++ {
		if set, ok := impossible(0, 0, size, marks, possible); ok {
			return indices(set)
		}
	}
	// Larger sets are rare: marks are taken away while the rest still contradicts itself.
	for i := range marks {
		if less := all &^ (1 << i); !possible(less) {
			all = less
		}
	}
	return indices(all)
}

func impossible(set uint64, from, size, marks int, possible func(uint64) bool) (uint64, bool) {
	if size == 0 {
		return set, !possible(set)
	}
	for i := from; i < marks; i++ {
		if found, ok := impossible(set|1<<i, i+1, size-1, marks, possible); ok {
			return found, true
		}
	}
	return 0, false
}

func indices(set uint64) []int {
	list := []int{}
	for ; set != 0; set &= set - 1 {
		list = append(list, bits.TrailingZeros64(set))
	}
	return list
}
