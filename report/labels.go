package report

import (
	"math"
	"slices"
	"sort"
)

// label is a text that is to stand at an apex.
type label struct {
	x, y   float64 // of the apex, mm
	text   string
	font   Font
	colour Colour
	size   float64 // pt
	first  bool    // it is placed before those that are not
	rise   float64 // of its peak; of equals the higher is placed first
	long   float64 // mm of its text
}

// placed is a label with where its text begins.
type placed struct {
	label
	at   [2]float64
	quad [4][2]float64
}

// clear is the least distance between a label and what it must not touch, mm.
const clear = 0.35

// place finds room for labels at an angle (degrees) within bounds so that none touches another or the line; what finds none comes back as dropped, in the
// order in which it was given. It is tried at the apex first, then beside and above it.
func place(labels []label, angle float64, within [4]float64, line [][2]float64) (standing []placed, dropped []label) {
	order := make([]int, len(labels))
	for k := range order {
		order[k] = k
	}
	sort.SliceStable(order, func(i, j int) bool {
		a, b := labels[order[i]], labels[order[j]]
		if a.first != b.first {
			return a.first
		}
		return a.rise > b.rise
	})
	gone := map[int]bool{}
	for _, k := range order {
		l := labels[k]
		l.long = width(l.text, l.font, l.size)
		p, ok := l.room(angle, within, line, standing)
		if !ok {
			gone[k] = true
			continue
		}
		standing = append(standing, p)
	}
	for k, l := range labels {
		if gone[k] {
			dropped = append(dropped, l)
		}
	}
	return standing, dropped
}

// How far a label may stand from its apex, and in what steps, mm.
const (
	besideStep = 0.8
	mostBeside = 8.0
	aboveStep  = 1.0
	mostAbove  = 24.0
)

// room is the nearest place to the apex where a label is free.
func (l label) room(angle float64, within [4]float64, line [][2]float64, others []placed) (placed, bool) {
	best, found, cost := placed{}, false, math.Inf(1)
	for up := 0.0; up <= mostAbove; up += aboveStep {
		for beside := 0.0; beside <= mostBeside; beside += besideStep {
			away := up + 1.5*beside
			if away >= cost {
				break
			}
			for _, side := range []float64{beside, -beside} {
				p := l.standing(angle, side, up)
				if away < cost && p.inside(within) && !p.meets(line) && !slices.ContainsFunc(others, p.touches) {
					best, found, cost = p, true, away
				}
			}
		}
	}
	return best, found
}

// standing is a label that far beside and above its apex.
func (l label) standing(angle, beside, up float64) placed {
	sin, cos := math.Sincos(angle * math.Pi / 180)
	long := l.long
	high, deep := 0.74*l.size*mmPerPoint, 0.24*l.size*mmPerPoint
	x, y := l.x+beside, l.y-1.4-up
	// A level label stands in the middle over its apex, a steep one begins at it.
	x -= long / 2 * math.Max(0, 1-angle/30)
	x += high / 2 * sin
	on := func(along, over float64) [2]float64 {
		return [2]float64{x + along*cos - over*sin, y - along*sin - over*cos}
	}
	return placed{l, [2]float64{x, y}, [4][2]float64{on(-clear, -deep-clear), on(long+clear, -deep-clear), on(long+clear, high+clear), on(-clear, high+clear)}}
}

func (p placed) inside(within [4]float64) bool {
	for _, q := range p.quad {
		if q[0] < within[0] || q[0] > within[2] || q[1] < within[1] || q[1] > within[3] {
			return false
		}
	}
	return true
}

// touches tells whether two labels overlap: no line parts them that runs along a side of either.
func (p placed) touches(o placed) bool {
	for _, quad := range [][4][2]float64{p.quad, o.quad} {
		for k := range 2 {
			normal := [2]float64{quad[k][1] - quad[k+1][1], quad[k+1][0] - quad[k][0]}
			lowA, highA := along(p.quad[:], normal)
			lowB, highB := along(o.quad[:], normal)
			if highA < lowB || highB < lowA {
				return false
			}
		}
	}
	return true
}

// along are the least and greatest distance of points along a direction.
func along(points [][2]float64, direction [2]float64) (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, q := range points {
		d := q[0]*direction[0] + q[1]*direction[1]
		low, high = math.Min(low, d), math.Max(high, d)
	}
	return low, high
}

// meets tells whether a line through points runs through a label.
func (p placed) meets(line [][2]float64) bool {
	left, right := along(p.quad[:], [2]float64{1, 0})
	for k := 1; k < len(line); k++ {
		a, b := line[k-1], line[k]
		if math.Max(a[0], b[0]) < left || math.Min(a[0], b[0]) > right {
			continue
		}
		if p.touches(placed{quad: [4][2]float64{a, b, b, a}}) {
			return true
		}
	}
	return false
}
