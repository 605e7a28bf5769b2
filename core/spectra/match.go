package spectra

import (
	"fmt"
	"math"
	"sort"
)

// Weighting says how lines count in a match: m^Mass · I^Height.
type Weighting struct {
	Mass   float64 `json:"a"`
	Height float64 `json:"b"`
}

// Usual is the weighting that is used where nobody says another.
var Usual = Weighting{1, 0.5}

// UsualWithin is the distance in m/z at which lines of unit resolution pair.
const UsualWithin = 0.4

// Validate refuses exponents under which a match means nothing.
func (w Weighting) Validate() error {
	if !(w.Mass >= 0 && w.Mass <= 10) || !(w.Height > 0 && w.Height <= 10) {
		return fmt.Errorf("the weights are m^a I^b with a from 0 to 10 and b above 0, up to 10, not a = %g, b = %g", w.Mass, w.Height)
	}
	return nil
}

// Score says how alike two spectra are, from 0 to 1.
type Score struct {
	Forward float64 `json:"forward"` // over the lines of both
	Reverse float64 `json:"reverse"` // over those of the entry alone, so that what else is in the query does not count
	Matched int     `json:"matched"` // how many lines have a partner
}

// weighted are lines with their weights, scaled so that no power overflows: the cosine knows no scale.
type weighted struct {
	lines  Lines
	weight []float64
	square float64 // the sum of squares
}

func (w Weighting) of(l Lines) weighted {
	highest, heaviest := l.Largest(), 0.0
	if n := len(l); n > 0 {
		heaviest = l[n-1].At
	}
	out := weighted{lines: l, weight: make([]float64, len(l))}
	for k, one := range l {
		if one.Height > 0 {
			out.weight[k] = math.Pow(one.At/heaviest, w.Mass) * math.Pow(one.Height/highest, w.Height)
		}
		out.square += out.weight[k] * out.weight[k]
	}
	return out
}

// Match is the cosine between the weighted lines of a query and of an entry. Lines pair within a distance in m/z, nearest first, each once. Source: Stein &
// Scott, J. Am. Soc. Mass Spectrom. 5 (1994) 859, of which it is the dot product without the term of ratios.
func Match(query, entry Lines, within float64, w Weighting) Score {
	return w.of(query).match(w.of(entry), within)
}

func (q weighted) match(e weighted, within float64) Score {
	var s Score
	dot, part := 0.0, 0.0
	for _, p := range pairs(q.lines, e.lines, within) {
		a, b := q.weight[p[0]], e.weight[p[1]]
		if a == 0 || b == 0 {
			continue
		}
		dot, part = dot+a*b, part+a*a
		s.Matched++
	}
	s.Forward, s.Reverse = cosine(dot, q.square, e.square), cosine(dot, part, e.square)
	return s
}

func cosine(dot, a, b float64) float64 {
	if !(a > 0) || !(b > 0) {
		return 0
	}
	return math.Min(1, dot/(math.Sqrt(a)*math.Sqrt(b)))
}

// pairs are the lines of two spectra that belong together, by their places in each, in the order of the first: those within a distance, the nearest pair first,
// each line in one pair at most.
func pairs(a, b Lines, within float64) [][2]int {
	type near struct {
		i, j int
		d    float64
	}
	within += 1e-9 // so that 100.4 is within 0.4 of 100 in binary, too
	var list []near
	alone := true // no line has two candidates, which is usual
	for i, j := 0, 0; i < len(a); i++ {
		for j < len(b) && b[j].At < a[i].At-within {
			j++
		}
		n := 0
		for k := j; k < len(b) && b[k].At <= a[i].At+within; k++ {
			list = append(list, near{i, k, math.Abs(a[i].At - b[k].At)})
			n++
		}
		alone = alone && n <= 1 && (len(list) < 2 || n == 0 || list[len(list)-2].j != list[len(list)-1].j)
	}
	out := make([][2]int, 0, len(list))
	if alone {
		for _, p := range list {
			out = append(out, [2]int{p.i, p.j})
		}
		return out
	}
	sort.SliceStable(list, func(x, y int) bool { return list[x].d < list[y].d })
	usedA, usedB := make([]bool, len(a)), make([]bool, len(b))
	for _, p := range list {
		if !usedA[p.i] && !usedB[p.j] {
			usedA[p.i], usedB[p.j] = true, true
			out = append(out, [2]int{p.i, p.j})
		}
	}
	sort.Slice(out, func(x, y int) bool { return out[x][0] < out[y][0] })
	return out
}

// Likeness is how like two spectra of one kind are, 0 to 1: of masses the forward match, of wavelengths the cosine of the contrast angle over the stretch that
// both have, the second read on the grid of the first. It is 0 where they have nothing in common to be compared by.
func Likeness(kind Kind, a, b Lines, w Weighting, within float64) float64 {
	if kind == Wavelength {
		u, v := onOneGrid(a, b)
		angle := Angle(u, v)
		if math.IsNaN(angle) {
			return 0
		}
		return math.Max(0, math.Cos(angle*math.Pi/180))
	}
	return Match(a, b, within, w).Forward
}

// onOneGrid are the heights of the first spectrum where both reach, and those of the second there, straight between its points.
func onOneGrid(a, b Lines) (u, v []float64) {
	k := 0
	for _, one := range a {
		for k+1 < len(b) && b[k+1].At < one.At {
			k++
		}
		if k+1 >= len(b) || one.At < b[k].At {
			if k < len(b) && b[k].At == one.At {
				u, v = append(u, one.Height), append(v, b[k].Height)
			}
			continue
		}
		f := (one.At - b[k].At) / (b[k+1].At - b[k].At)
		u, v = append(u, one.Height), append(v, b[k].Height*(1-f)+b[k+1].Height*f)
	}
	return u, v
}
