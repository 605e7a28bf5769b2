package curves

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
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
	if m == Average || m == OnePoint {
		w = PerX2
	}
	g, err := newWeighting(points, m, w)
	if err != nil {
		return Range{}, false
	}
	quick := newSieve(points, levels, m, g, limitPercent)
	for count := len(levels); count >= max(least, 2); count-- {
		for from := 0; from+count <= len(levels); from++ {
			if !quick.mayHold(from, from+count) {
				continue
			}
			low, high := levels[from], levels[from+count-1]
			fit, err := weightedBy(restricted(points, low, high), m, g)
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

// sieve tells for runs of levels, from sums over levels alone, that a curve through them cannot hold: so few fits are made in full, however many levels
// there are. Where it doubts it lets a run pass.
type sieve struct {
	powers []int
	levels []sieveLevel
	sums   [][9]float64 // up to each level: Σ w uᵏ for k 0 to 4, Σ w uᵏ y for k 0 to 2, Σ w y² within levels
	limit  float64      // of a deviation, as a share
	blind  bool
}

type sieveLevel struct{ u, y float64 }

// sieveSlack is by how much more than the limit a deviation must be to be sure of it.
const sieveSlack = 1.5

func newSieve(points []Point, levels []float64, m Model, g weighting, limitPercent float64) sieve {
	s := sieve{powers: newBasis(m, []float64{1}).powers, limit: sieveSlack * limitPercent / 100, sums: make([][9]float64, len(levels)+1)}
	highest := 0.0
	for _, x := range levels {
		highest = math.Max(highest, math.Abs(x))
	}
	index := make(map[float64]int, len(levels))
	for i, x := range levels {
		index[x] = i
	}
	at := make([]sieveLevel, len(levels))
	counts := make([]float64, len(levels))
	for _, p := range points {
		if p.Out {
			continue
		}
		u, y, weight := p.X/highest, p.Y, g.at(p.X, p.Y)
		if m == LogLog {
			u, y, weight = math.Log10(p.X), math.Log10(p.Y), g.at(p.X, p.Y)
		}
		if math.IsNaN(u+y+weight) || math.IsInf(u+y+weight, 0) {
			s.blind = true // the full fit says what is wrong
			return s
		}
		i := index[p.level()]
		row := &s.sums[i+1]
		power := weight
		for k := range 5 {
			row[k] += power
			if k < 3 {
				row[5+k] += power * y
			}
			power *= u
		}
		at[i].u, at[i].y, counts[i] = at[i].u+u, at[i].y+y, counts[i]+1
	}
	for i := range at {
		at[i].u, at[i].y = at[i].u/counts[i], at[i].y/counts[i]
		for k := range s.sums[i+1] {
			s.sums[i+1][k] += s.sums[i][k]
		}
	}
	s.levels, s.blind = at, m == LogLog
	return s
}

// mayHold is false where a level of the run deviates by clearly more than the limit from the curve through the run.
func (s sieve) mayHold(from, to int) bool {
	if s.blind {
		return true
	}
	n := len(s.powers)
	normal, right := mat.NewSymDense(n, nil), mat.NewVecDense(n, nil)
	sum := func(k int) float64 { return s.sums[to][k] - s.sums[from][k] }
	for i, p := range s.powers {
		right.SetVec(i, sum(5+p))
		for j := i; j < n; j++ {
			normal.SetSym(i, j, sum(p+s.powers[j]))
		}
	}
	var c mat.VecDense
	if c.SolveVec(normal, right) != nil {
		return true
	}
	for _, l := range s.levels[from:to] {
		y, slope := 0.0, 0.0
		for i, p := range s.powers {
			y += c.AtVec(i) * math.Pow(l.u, float64(p))
			if p > 0 {
				slope += c.AtVec(i) * float64(p) * math.Pow(l.u, float64(p-1))
			}
		}
		if l.u != 0 && math.Abs(l.y-y) > s.limit*math.Abs(slope*l.u) {
			return false
		}
	}
	return true
}

func levelsOf(points []Point) (levels []float64) {
	seen := map[float64]bool{}
	for _, p := range points {
		if level := p.level(); !p.Out && !seen[level] {
			seen[level] = true
			levels = append(levels, level)
		}
	}
	slices.Sort(levels)
	return levels
}

func restricted(points []Point, low, high float64) []Point {
	list := make([]Point, len(points))
	for i, p := range points {
		p.Out = p.Out || p.level() < low || p.level() > high
		list[i] = p
	}
	return list
}

func (f Fit) holds(low, high, limitPercent float64) bool {
	for _, level := range f.replicates() {
		x := level[0].level
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
		if p.level == x && p.DeviationPercent != nil {
			sum, n = sum+*p.DeviationPercent, n+1
		}
	}
	if n == 0 {
		return nil
	}
	mean := sum / n
	return &mean
}
