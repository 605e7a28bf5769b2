package curves

import (
	"math"
	"slices"
)

// Range is a proposal of the levels over which a curve holds.
type Range struct {
	LowX   float64      `json:"low_x"`
	HighX  float64      `json:"high_x"`
	Levels int          `json:"levels"`
	Breaks []BreakLevel `json:"breaks"` // the levels outside it, and by how much each would deviate from the curve through it
}

// BreakLevel is a level that does not fit a range.
type BreakLevel struct {
	X                float64  `json:"x"`
	DeviationPercent *float64 `json:"deviation_percent"` // of the mean of its replicates, read back
}

// LeastLevels is how many levels a range has at least, unless a method asks for another number.
const LeastLevels = 5

// WidestRange is the widest run of neighbouring levels, at least as many as asked, in which every level's mean deviation lies within the
// limit (percent) and lack of fit is not significant at 5 %. Points left out stay out. ok is false where no run holds. Of runs of
// the same number the lower one is taken.
func WidestRange(points []Point, m Model, w Weight, least int, limitPercent float64) (r Range, ok bool) {
	levels := levelsOf(points)
	for count := len(levels); count >= max(least, 2); count-- {
		for from := 0; from+count <= len(levels); from++ {
			low, high := levels[from], levels[from+count-1]
			fit, err := New(restricted(points, low, high), m, w)
			if err != nil || !fit.holds(low, high, limitPercent) {
				continue
			}
			r = Range{LowX: low, HighX: high, Levels: count, Breaks: []BreakLevel{}}
			for _, x := range levels {
				if x < low || x > high {
					r.Breaks = append(r.Breaks, BreakLevel{x, fit.meanDeviation(x)})
				}
			}
			return r, true
		}
	}
	return Range{}, false
}

func levelsOf(points []Point) (levels []float64) {
	seen := map[float64]bool{}
	for _, p := range points {
		if !p.Out && !seen[p.X] {
			seen[p.X] = true
			levels = append(levels, p.X)
		}
	}
	slices.Sort(levels)
	return levels
}

func restricted(points []Point, low, high float64) []Point {
	list := make([]Point, len(points))
	for i, p := range points {
		p.Out = p.Out || p.X < low || p.X > high
		list[i] = p
	}
	return list
}

func (f Fit) holds(low, high, limitPercent float64) bool {
	for _, level := range f.replicates() {
		x := level[0].X
		if d := f.meanDeviation(x); x >= low && x <= high && x != 0 && (d == nil || math.Abs(*d) > limitPercent) {
			return false
		}
	}
	lack := f.Diagnose().LackOfFit
	return lack == nil || lack.P >= 0.05
}

// meanDeviation is the mean of the deviations of a level's points, whether they are in use or out of range.
func (f Fit) meanDeviation(x float64) *float64 {
	sum, n := 0.0, 0.0
	for _, p := range f.Points {
		if p.X == x && p.DeviationPercent != nil {
			sum, n = sum+*p.DeviationPercent, n+1
		}
	}
	if n == 0 {
		return nil
	}
	mean := sum / n
	return &mean
}
