// Package signal holds sampled traces and what is measured on them before any peak is known: time axis, smoothing,
// derivatives, noise.
package signal

import (
	"fmt"
	"math"
	"slices"
)

// MinPoints is the fewest samples a trace may have.
const MinPoints = 8

// MaxPoints bounds a trace; a day at 100 Hz stays below it.
const MaxPoints = 20_000_000

// MaxValue bounds a signal: squares and sums of larger ones would be beyond all numbers.
const MaxValue = 1e30

// Trace is one signal against time. Times are in seconds and strictly increasing; values are in the detector's own unit.
type Trace struct {
	Name   string
	Unit   string
	StartS float64
	StepS  float64   // the step when uniform, else the median step
	TimesS []float64 // nil when the trace is uniform
	Values []float64
}

// PointError says which sample makes a trace unusable.
type PointError struct {
	Index  int
	Reason string
}

func (e *PointError) Error() string {
	return fmt.Sprintf("point %d: %s", e.Index+1, e.Reason)
}

// NewUniform makes a trace sampled every stepS seconds from startS on.
// It fails with a *PointError on a value that is not finite, on a step that is not positive, and on fewer than MinPoints.
func NewUniform(startS, stepS float64, values []float64) (Trace, error) {
	if !(stepS > 0) || math.IsInf(stepS, 0) {
		return Trace{}, &PointError{0, fmt.Sprintf("the sampling interval is %g s; it must be positive", stepS)}
	}
	if math.IsNaN(startS) || math.IsInf(startS, 0) {
		return Trace{}, &PointError{0, "the start time is not a finite number"}
	}
	if err := checkValues(values); err != nil {
		return Trace{}, err
	}
	return Trace{StartS: startS, StepS: stepS, Values: values}, nil
}

// New makes a trace from sample times (s) and values, or fails with a *PointError that says which is wrong. When every step is within 1 % of the median step the trace is
// uniform, else the times are kept as they are.
func New(timesS, values []float64) (Trace, error) {
	if len(timesS) != len(values) {
		return Trace{}, &PointError{min(len(timesS), len(values)), fmt.Sprintf("there are %d times and %d values", len(timesS), len(values))}
	}
	if err := checkValues(values); err != nil {
		return Trace{}, err
	}
	for i, t := range timesS {
		if math.IsNaN(t) || math.IsInf(t, 0) {
			return Trace{}, &PointError{i, "the time is not a finite number"}
		}
		if i > 0 && t <= timesS[i-1] {
			return Trace{}, &PointError{i, fmt.Sprintf("the time %s does not come after %s", clock(t), clock(timesS[i-1]))}
		}
	}
	tr := timed(timesS, values)
	if tr.TimesS == nil {
		return tr, nil
	}
	return tr, checkGaps(timesS, tr.StepS)
}

// timed is a trace of times that rise; it is uniform where every step is within 1 % of the median step.
func timed(timesS, values []float64) Trace {
	steps := make([]float64, len(timesS)-1)
	for i := range steps {
		steps[i] = timesS[i+1] - timesS[i]
	}
	slices.Sort(steps)
	median := steps[len(steps)/2]
	tr := Trace{StartS: timesS[0], StepS: median, Values: values}
	if steps[0] >= 0.99*median && steps[len(steps)-1] <= 1.01*median {
		tr.StepS = (timesS[len(timesS)-1] - timesS[0]) / float64(len(timesS)-1)
	} else {
		tr.TimesS = timesS
	}
	return tr
}

func checkValues(values []float64) error {
	if len(values) < MinPoints {
		return &PointError{len(values), fmt.Sprintf("the trace has %d points; it needs at least %d", len(values), MinPoints)}
	}
	if len(values) > MaxPoints {
		return &PointError{MaxPoints, fmt.Sprintf("the trace has %d points; at most %d are read", len(values), MaxPoints)}
	}
	for i, v := range values {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return &PointError{i, "the value is not a finite number"}
		}
		if math.Abs(v) > MaxValue {
			return &PointError{i, fmt.Sprintf("the value %g is beyond what any detector gives (%g)", v, MaxValue)}
		}
	}
	return nil
}

// Len is the number of samples.
func (t Trace) Len() int { return len(t.Values) }

// TimeS is the time of sample i in seconds.
func (t Trace) TimeS(i int) float64 {
	if t.TimesS != nil {
		return t.TimesS[i]
	}
	return t.StartS + float64(i)*t.StepS
}

// EndS is the time of the last sample in seconds.
func (t Trace) EndS() float64 { return t.TimeS(t.Len() - 1) }

// Index is the sample nearest to the time (s), clamped to the trace.
func (t Trace) Index(timeS float64) int {
	last := t.Len() - 1
	if t.TimesS == nil {
		return int(math.Max(0, math.Min(float64(last), math.Round((timeS-t.StartS)/t.StepS))))
	}
	i, _ := slices.BinarySearch(t.TimesS, timeS)
	switch {
	case i == 0:
		return 0
	case i > last:
		return last
	case t.TimesS[i]-timeS > timeS-t.TimesS[i-1]:
		return i - 1
	}
	return i
}

// ValueAt interpolates the signal linearly at a time (s); outside the trace it is the nearest sample's value.
func (t Trace) ValueAt(timeS float64) float64 {
	last := t.Len() - 1
	if timeS <= t.TimeS(0) {
		return t.Values[0]
	}
	if timeS >= t.EndS() {
		return t.Values[last]
	}
	i := t.Index(timeS)
	if t.TimeS(i) > timeS {
		i--
	}
	t0, t1 := t.TimeS(i), t.TimeS(i+1)
	return t.Values[i] + (t.Values[i+1]-t.Values[i])*(timeS-t0)/(t1-t0)
}

// Even is the trace's values on a uniform grid of the median step, by linear interpolation. A uniform trace gives its
// own values. Derivatives are taken on it; areas never are. Its length is bounded, also for a trace that came from elsewhere than New.
func (t Trace) Even() []float64 {
	if t.TimesS == nil {
		return t.Values
	}
	n := int(min((t.EndS()-t.StartS)/t.StepS, float64(gridPerPoint*t.Len()+spareGrid))) + 1
	even := make([]float64, n)
	for i, j := 0, 0; i < n; i++ {
		at := t.StartS + float64(i)*t.StepS
		for j < t.Len()-2 && t.TimesS[j+1] < at {
			j++
		}
		f := (at - t.TimesS[j]) / (t.TimesS[j+1] - t.TimesS[j])
		even[i] = t.Values[j] + f*(t.Values[j+1]-t.Values[j])
	}
	return even
}

// Envelope reduces the samples between fromS and toS to at most 2·columns points, the least and the greatest of each
// column in the order they occur, so that a drawing of that many columns loses nothing. It returns times (s) and values;
// with fewer samples than that it returns them all.
func (t Trace) Envelope(fromS, toS float64, columns int) (timesS, values []float64) {
	first, last := t.Index(fromS), t.Index(toS)
	first, last = max(0, first-1), min(t.Len()-1, last+1)
	n := last - first + 1
	if columns < 1 || n <= 2*columns {
		for i := first; i <= last; i++ {
			timesS, values = append(timesS, t.TimeS(i)), append(values, t.Values[i])
		}
		return timesS, values
	}
	for c := range columns {
		from, to := first+c*n/columns, first+(c+1)*n/columns
		low, high := from, from
		for i := from; i < to; i++ {
			if t.Values[i] < t.Values[low] {
				low = i
			}
			if t.Values[i] > t.Values[high] {
				high = i
			}
		}
		for _, i := range []int{min(low, high), max(low, high)} {
			timesS, values = append(timesS, t.TimeS(i)), append(values, t.Values[i])
		}
	}
	return timesS, values
}

// clock is a time as a person finds it again in a file, which may have it in seconds or in minutes.
func clock(s float64) string { return fmt.Sprintf("%.6g min (%.6g s)", s/60, s) }
