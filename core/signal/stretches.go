package signal

import "fmt"

// maxGap is how many median steps may lie between neighbouring samples of one stretch. A longer gap parts the trace: nothing is known of what the signal
// did in it, and a grid that filled it could be of any length.
const maxGap = 100

// The even grid of an uneven trace has at most spareGrid points more than gridPerPoint times those that were sampled.
const (
	gridPerPoint = 8
	spareGrid    = 1_000_000
)

// gaps are the samples before which a stretch begins.
func gaps(timesS []float64, median float64) (at []int) {
	for i := 1; i < len(timesS); i++ {
		if timesS[i]-timesS[i-1] > maxGap*median {
			at = append(at, i)
		}
	}
	return at
}

// checkGaps refuses times of which a few stand alone far from the others, as a misprint does, and times whose even grid would be beyond bounds.
func checkGaps(timesS []float64, median float64) error {
	from, grid := 0, 0.0
	for _, to := range append(gaps(timesS, median), len(timesS)) {
		if to-from < MinPoints {
			odd := from
			if from == 0 && to < len(timesS) { // the first ones stand alone
				odd = to
			}
			return &PointError{odd, fmt.Sprintf("the time %s lies %.3g sampling intervals from the one before, with fewer than %d points together; correct what may be a misprint", clock(timesS[odd]), (timesS[odd]-timesS[max(0, odd-1)])/median, MinPoints)}
		}
		grid += (timesS[to-1]-timesS[from])/median + 1
		from = to
	}
	if most := float64(gridPerPoint*len(timesS) + spareGrid); grid > most {
		return &PointError{0, fmt.Sprintf("the times are so uneven that an even grid of their median step (%s) would have %.3g points; at most %.3g are made", clock(median), grid, most)}
	}
	return nil
}

// Stretches are the parts of a trace between long gaps, each with an axis of its own; a trace without gaps is its one stretch. Stretches too short to
// say anything are left out.
func (t Trace) Stretches() []Trace {
	if t.TimesS == nil {
		return []Trace{t}
	}
	at := gaps(t.TimesS, t.StepS)
	if len(at) == 0 {
		return []Trace{t}
	}
	var list []Trace
	from := 0
	for _, to := range append(at, t.Len()) {
		if to-from >= MinPoints {
			part := timed(t.TimesS[from:to], t.Values[from:to])
			part.Name, part.Unit = t.Name, t.Unit
			list = append(list, part)
		}
		from = to
	}
	return list
}

// Longest is the longest stretch of a trace, in samples.
func (t Trace) Longest() Trace {
	best := t
	for i, part := range t.Stretches() {
		if i == 0 || part.Len() > best.Len() {
			best = part
		}
	}
	return best
}
