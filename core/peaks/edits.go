package peaks

import "math"

// Edit is a change made by hand to the integration of one trace. It names its peak by the apex the peak had when the
// edit was made, and is never applied to another peak.
type Edit struct {
	Kind    EditKind `json:"kind"`
	ApexMin float64  `json:"apex_min"`
	ToMin   float64  `json:"to_min,omitempty"` // where a moved boundary goes
}

// EditKind names what an edit does.
type EditKind string

// The edits: move a boundary, remove a peak.
const (
	MoveStart EditKind = "move_start"
	MoveEnd   EditKind = "move_end"
	Remove    EditKind = "remove"
)

// Valid tells whether the kind is known.
func (k EditKind) Valid() bool { return k == MoveStart || k == MoveEnd || k == Remove }

// applyMoves moves boundaries as the edits say. A boundary shared with a neighbour moves for both. A boundary cannot pass
// an apex: such a move, and one whose peak is not there, is returned as unmatched.
func (v *view) applyMoves(found []candidate, edits []Edit) (unmatched []Edit) {
	for _, e := range edits {
		if e.Kind == Remove {
			continue
		}
		i := v.nearest(found, e.ApexMin)
		to := (e.ToMin*60 - v.tr.StartS) / v.tr.StepS
		if i < 0 || math.IsNaN(to) || to < 0 || to > float64(len(v.raw)-1) || !v.move(found, i, e.Kind, to) {
			unmatched = append(unmatched, e)
		}
	}
	return unmatched
}

func (v *view) move(found []candidate, i int, kind EditKind, to float64) bool {
	c := &found[i]
	if kind == MoveStart {
		if to >= c.apex || (i > 0 && to <= found[i-1].apex) {
			return false
		}
		if i > 0 && to <= found[i-1].end || i > 0 && found[i-1].end >= c.start {
			found[i-1].end, found[i-1].endKind = to, ByHand
		}
		c.start, c.startKind, c.drawn = to, ByHand, true
		return true
	}
	if to <= c.apex || (i+1 < len(found) && to >= found[i+1].apex) {
		return false
	}
	if i+1 < len(found) && (to >= found[i+1].start || found[i+1].start <= c.end) {
		found[i+1].start, found[i+1].startKind = to, ByHand
	}
	c.end, c.endKind, c.drawn = to, ByHand, true
	return true
}

// nearest is the candidate whose apex lies within half the expected width of the time, or -1.
func (v *view) nearest(found []candidate, apexMin float64) int {
	best, distance := -1, v.width/2
	for i, c := range found {
		if d := math.Abs(v.timeS(c.apex)/60-apexMin) * 60 / v.tr.StepS; d <= distance {
			best, distance = i, d
		}
	}
	return best
}

// without leaves out the peaks that edits remove. Areas of the others stay as they are.
func without(peaks []Peak, edits []Edit) (kept []Peak, unmatched []Edit) {
	gone := make([]bool, len(peaks))
	for _, e := range edits {
		if e.Kind != Remove {
			continue
		}
		best, distance := -1, math.Inf(1)
		for i, p := range peaks {
			if d := math.Abs(p.ApexMin - e.ApexMin); d < distance && d <= (p.EndMin-p.StartMin)/6 {
				best, distance = i, d
			}
		}
		if best < 0 {
			unmatched = append(unmatched, e)
			continue
		}
		gone[best] = true
	}
	for i, p := range peaks {
		if !gone[i] {
			kept = append(kept, p)
		}
	}
	return kept, unmatched
}
