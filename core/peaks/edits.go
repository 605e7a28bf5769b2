package peaks

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Edit is a change made by hand to the integration of one trace. It names its peak by the apex the peak had when the
// edit was made, and is never applied to another peak.
type Edit struct {
	Kind    EditKind `json:"kind"`
	ApexMin float64  `json:"apex_min"`         // for Add, where the new peak starts; for Anchor, where it stands
	ToMin   float64  `json:"to_min,omitempty"` // where a moved boundary goes, where a peak is split, where a new one ends
	// Level is the signal of an anchor; where nil it lies on the trace.
	Level *float64  `json:"level,omitempty"`
	How   SplitKind `json:"how,omitempty"` // for Part
	// Channel is the channel of the method that the edit was made on; empty is the first.
	Channel string `json:"channel,omitempty"`
}

func (e Edit) equals(o Edit) bool {
	level := e.Level == nil && o.Level == nil || e.Level != nil && o.Level != nil && *e.Level == *o.Level
	return level && e.Kind == o.Kind && e.ApexMin == o.ApexMin && e.ToMin == o.ToMin && e.How == o.How && e.Channel == o.Channel
}

// EditKind names what an edit does.
type EditKind string

// The edits.
const (
	MoveStart EditKind = "move_start"
	MoveEnd   EditKind = "move_end"
	Split     EditKind = "split"      // in two, at ToMin, by a drop line
	MergeLeft EditKind = "merge_left" // with the peak before it, which it must touch
	Add       EditKind = "add"        // a peak from ApexMin to ToMin, where there is none
	Remove    EditKind = "remove"
	PartAs    EditKind = "part"   // from the peaks it touches, in the way of How
	Anchor    EditKind = "anchor" // a point through which the baseline goes
)

// EditKinds lists them.
var EditKinds = []EditKind{MoveStart, MoveEnd, Split, MergeLeft, Add, Remove, PartAs, Anchor}

// String says in a few words which edit it is, as "move end at 10.90 min".
func (e Edit) String() string {
	text := fmt.Sprintf("%s at %.2f min", strings.ReplaceAll(string(e.Kind), "_", " "), e.ApexMin)
	if e.How != "" {
		text += " by " + strings.ReplaceAll(string(e.How), "_", " ")
	}
	return text
}

// Validate says in a sentence what keeps an edit from being taken.
func (e Edit) Validate() error {
	finite := func(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }
	switch {
	case !slices.Contains(EditKinds, e.Kind):
		return fmt.Errorf("edit: the kind %q is unknown; known are %v", e.Kind, EditKinds)
	case !finite(e.ApexMin) || !finite(e.ToMin) || e.Level != nil && !finite(*e.Level):
		return fmt.Errorf("edit: times and level must be numbers")
	case len(e.Channel) > 200:
		return fmt.Errorf("edit: the name of its channel has %d characters; at most 200 are kept", len(e.Channel))
	case e.Kind == PartAs && !slices.Contains(SplitKinds, e.How):
		return fmt.Errorf("edit: peaks cannot be parted in the way %q; known are %v", e.How, SplitKinds)
	}
	return nil
}

// apply does what the edits say, in their order. A boundary shared with a neighbour moves for both. An edit whose peak is not
// there, and one that cannot be (a boundary that would pass an apex, a split outside its peak), is returned as unmatched. Peaks that
// are taken out stay until all are measured, so that they change no baseline; those that make room for one that is drawn are gone, and
// left are the edits without those by which they went.
func (v *view) apply(found []candidate, edits []Edit) (edited []candidate, left, unmatched []Edit) {
	for _, e := range edits {
		if e.Kind == Remove {
			left = append(left, e)
			continue
		}
		if e.Kind == Add {
			found, left = v.makeRoom(found, left, e)
		}
		left = append(left, e)
		if e.Kind == Anchor {
			v.anchor(e)
			continue
		}
		next, ok := v.edit(found, e)
		if !ok {
			unmatched = append(unmatched, e)
			continue
		}
		found = next
	}
	return found, left, unmatched
}

// makeRoom takes out, for a peak that is drawn, those peaks in its stretch that were taken out before, and touch no other.
func (v *view) makeRoom(found []candidate, edits []Edit, drawn Edit) (kept []candidate, left []Edit) {
	from, to := v.position(drawn.ApexMin), v.position(drawn.ToMin)
	for _, e := range edits {
		i := -1
		if e.Kind == Remove {
			i = v.nearest(found, e.ApexMin)
		}
		alone := i >= 0 && !(i > 0 && touch(found[i-1], found[i])) && !(i+1 < len(found) && touch(found[i], found[i+1]))
		if !alone || found[i].end <= from || found[i].start >= to {
			left = append(left, e)
			continue
		}
		found = slices.Delete(slices.Clone(found), i, i+1)
	}
	return found, left
}

// roomFor leaves out, where a person draws a peak, what was found there and does not count: nobody sees it, and it must not stand in the way.
func (v *view) roomFor(found []candidate, edits []Edit) []candidate {
	if !slices.ContainsFunc(edits, func(e Edit) bool { return e.Kind == Add }) {
		return found
	}
	tried, told := slices.Clone(found), v.dropped
	v.baselines(tried)
	v.skim(tried)
	counted := v.measure(tried)
	v.dropped = told
	return slices.DeleteFunc(slices.Clone(found), func(c candidate) bool {
		at := v.timeS(c.apex) / 60
		seen := slices.ContainsFunc(counted, func(p Peak) bool { return p.StartMin <= at && at <= p.EndMin })
		drawn := slices.ContainsFunc(edits, func(e Edit) bool {
			return e.Kind == Add && v.timeS(c.start)/60 < e.ToMin && v.timeS(c.end)/60 > e.ApexMin
		})
		return !seen && drawn
	})
}

// anchor notes a point for the baseline.
func (v *view) anchor(e Edit) {
	at := v.position(e.ApexMin)
	if !(at >= 0) || at > float64(len(v.raw)-1) {
		return
	}
	a := anchor{at: at, level: v.level(at)}
	if e.Level != nil {
		a.level = *e.Level - v.bent(v.timeS(at))
	}
	i := slices.IndexFunc(v.anchors, func(b anchor) bool { return b.at >= at })
	switch {
	case i < 0:
		v.anchors = append(v.anchors, a)
	case v.anchors[i].at == at:
		v.anchors[i] = a
	default:
		v.anchors = slices.Insert(v.anchors, i, a)
	}
}

// looseAnchors are the anchors under which no peak lies.
func (v *view) looseAnchors(edits []Edit) (unmatched []Edit) {
	for _, e := range edits {
		if e.Kind == Anchor && !slices.ContainsFunc(v.anchors, func(a anchor) bool { return a.used && a.at == v.position(e.ApexMin) }) {
			unmatched = append(unmatched, e)
		}
	}
	return unmatched
}

func (v *view) edit(found []candidate, e Edit) ([]candidate, bool) {
	to := v.position(e.ToMin)
	if placed := e.Kind != MergeLeft && e.Kind != PartAs; placed && (math.IsNaN(to) || to < 0 || to > float64(len(v.raw)-1)) {
		return found, false
	}
	if e.Kind == Add {
		return v.add(found, v.position(e.ApexMin), to)
	}
	i := v.nearest(found, e.ApexMin)
	if i < 0 {
		return found, false
	}
	switch e.Kind {
	case Split:
		return v.split(found, i, to, ByHand)
	case MergeLeft:
		return mergeLeft(found, i)
	case PartAs:
		if !(i > 0 && touch(found[i-1], found[i]) || i+1 < len(found) && touch(found[i], found[i+1])) && e.How != ByFit {
			return found, false
		}
		found[i].by = e.How
		return found, true
	}
	return found, v.move(found, i, e.Kind, to)
}

// split parts a peak in two at a place inside it.
func (v *view) split(found []candidate, i int, at float64, kind SideKind) ([]candidate, bool) {
	c := found[i]
	if at < c.start+2 || at > c.end-2 {
		return found, false
	}
	left, right := c, c
	left.end, left.endKind = at, kind
	right.start, right.startKind = at, kind
	for _, part := range []*candidate{&left, &right} {
		part.drawn = true
		v.top(part)
	}
	return slices.Concat(found[:i], []candidate{left, right}, found[i+1:]), true
}

// mergeLeft makes one peak of a peak and the one before it; the apex is that of the higher.
func mergeLeft(found []candidate, i int) ([]candidate, bool) {
	if i == 0 || found[i-1].end < found[i].start {
		return found, false
	}
	whole := joined(found[i-1], found[i])
	whole.drawn = true
	return slices.Concat(found[:i-1], []candidate{whole}, found[i+1:]), true
}

// joined is one peak of two neighbours; the apex is that of the higher.
func joined(left, right candidate) candidate {
	whole := left
	if right.level > left.level {
		whole = right
		whole.start, whole.startKind = left.start, left.startKind
	}
	whole.end, whole.endKind = right.end, right.endKind
	whole.before, whole.after = left.before, right.after
	whole.saturated = left.saturated || right.saturated
	return whole
}

// add puts a peak into a stretch that no other peak overlaps.
func (v *view) add(found []candidate, start, end float64) ([]candidate, bool) {
	if !(start >= 0) || end < start+3 {
		return found, false
	}
	i := 0
	for ; i < len(found) && found[i].start < end; i++ {
		if found[i].end > start {
			return found, false
		}
	}
	for i > 0 && found[i-1].start > start {
		i--
	}
	c := candidate{start: start, end: end, startKind: ByHand, endKind: ByHand, drawn: true, on: v.ladder((start + end) / 2)}
	v.top(&c)
	return slices.Insert(slices.Clone(found), i, c), true
}

// top sets the apex of a peak that a hand has drawn: the highest smoothed signal between its boundaries.
func (v *view) top(c *candidate) {
	from, to := int(math.Ceil(c.start))+1, int(math.Floor(c.end))-1
	top := from
	for k := from; k <= to; k++ {
		if c.on.smooth.Value[k] > c.on.smooth.Value[top] {
			top = k
		}
	}
	c.at, c.apex, c.level, c.shoulder = top, float64(top), c.on.smooth.Value[top], top == from || top == to
	if !c.shoulder {
		c.apex = math.Max(c.start, math.Min(c.end, v.parabola(top)))
	}
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
	best, distance := -1, v.widthAt(v.position(apexMin))/2
	for i, c := range found {
		if d := math.Abs(c.apex - v.position(apexMin)); d <= distance {
			best, distance = i, d
		}
	}
	return best
}

// spans tells whether a peak stands in the stretch that was drawn for one.
func (e Edit) spans(p Peak) bool { return p.ApexMin >= e.ApexMin && p.ApexMin <= e.ToMin }

// without leaves out the peaks that edits remove. Areas of the others stay as they are.
func without(peaks []Peak, edits []Edit) (kept, removed []Peak, unmatched []Edit) {
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
		if gone[i] {
			removed = append(removed, p)
		} else {
			kept = append(kept, p)
		}
	}
	return kept, removed, unmatched
}
