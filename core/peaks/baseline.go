package peaks

import (
	"math"
	"slices"

	"yugen/core/signal"
)

// anchor is a point through which a baseline must go, set by hand.
type anchor struct {
	at, level float64 // even grid
	used      bool
}

// baselines draws a straight line under each cluster of touching peaks, from its first to its last boundary. Where the
// signal passes below the line by more than noise, the cluster is divided there and each part gets a line of its own; so it is at
// each valley that parts valley to valley. Rules and a modelled background then replace what they cover.
func (v *view) baselines(found []candidate) {
	v.chords(found, v.bend != nil)
	if v.settings.Baseline == BackgroundBaseline && len(found) > 0 {
		ground := v.background()
		for i := range found {
			found[i].base, found[i].baseKind = ground, OnBackground
			found[i].ends = [2]standing{}
		}
	}
	v.ruledBaselines(found)
}

// chords draws the straight lines; with tight ones no line stands above the signal on an outer flank.
func (v *view) chords(found []candidate, tight bool) {
	for i := 1; i < len(found); i++ {
		if touch(found[i-1], found[i]) && v.how(found[i-1], found[i]) == ByValley {
			found[i-1].endKind, found[i].startKind = Valley, Valley
		}
	}
	if v.bend != nil {
		v.apartFromCutOff(found)
	}
	for from := 0; from < len(found); {
		to := from
		for to+1 < len(found) && touch(found[to], found[to+1]) && found[to].endKind != Valley && found[to].endKind != Base {
			to++
		}
		if from > 0 {
			found[from].before.wall = found[from-1].end
		}
		found[to].after.wall = math.Inf(1)
		if to+1 < len(found) {
			found[to].after.wall = found[to+1].start
		}
		v.chord(found[from:to+1], tight)
		from = to + 1
	}
}

func touch(a, b candidate) bool { return b.start <= a.end }

// how says in which way two peaks that touch are parted: by hand, by rule, by the settings.
func (v *view) how(a, b candidate) SplitKind {
	small, large := a, b
	if a.level > b.level {
		small, large = b, a
	}
	if small.by != "" {
		return small.by
	}
	if large.by == ByDrop || large.by == ByFit || large.by == ByValley {
		return large.by
	}
	if r, ok := v.settings.rule(Part, v.timeS(b.start)/60); ok {
		return r.How
	}
	return v.settings.Split
}

func (v *view) chord(cluster []candidate, tight bool) {
	first, last := &cluster[0], &cluster[len(cluster)-1]
	x0, x1 := first.start, last.end
	left, right := v.stand(x0, first.startKind, first.before, -1), v.stand(x1, last.endKind, last.after, 1)
	if anchored := v.anchored(x0, left.level, x1, right.level); anchored != nil {
		for i := range cluster {
			cluster[i].base, cluster[i].baseKind = anchored, OnAnchors
		}
		return
	}
	if len(cluster) == 1 {
		// A line from a valley to the foot may cut the flank; it ends where it touches.
		if at := v.tangent(x0, first.apex, x1); first.startKind == Valley && at > first.apex && at < x1 {
			last.end, last.endKind = at, Valley
			right = v.stand(at, Valley, last.after, 1)
		}
		if at := v.tangent(x1, first.apex, x0); first.endKind == Valley && at < first.apex && at > x0 {
			first.start, first.startKind = at, Valley
			left = v.stand(at, Valley, first.before, -1)
		}
	}
	line := line{left.at, left.level, right.at, right.level}
	deepest, below := -1, 0.0
	for i := 0; i+1 < len(cluster); i++ {
		valley := cluster[i].end
		if under := line.at(v.timeS(valley)) - v.level(valley); under > below && under > 3*v.smoothNoise(first.on, valley) {
			deepest, below = i, under
		}
	}
	if deepest >= 0 {
		cluster[deepest].endKind, cluster[deepest+1].startKind = Base, Base
		cluster[deepest].after.wall, cluster[deepest+1].before.wall = cluster[deepest].end, cluster[deepest].end
		v.chord(cluster[:deepest+1], tight)
		v.chord(cluster[deepest+1:], tight)
		return
	}
	left, right = v.outward(cluster)
	if tight {
		left, right = v.hull(cluster, left, right)
	}
	line.t0, line.y0, line.t1, line.y1 = left.at, left.level, right.at, right.level
	kind := OnChord
	if first.startKind == Valley || last.endKind == Valley {
		kind = OnValleys
	}
	for i := range cluster {
		cluster[i].base, cluster[i].baseKind = line, kind
		cluster[i].ends = [2]standing{left, right}
	}
}

// anchored is the baseline of a cluster through the anchors within it, or nil where there are none. An anchor at an end of the cluster,
// to half a peak width, takes its place.
func (v *view) anchored(x0, y0, x1, y1 float64) ground {
	var inner knots
	near := v.widthAt(x0) / 2
	for i := range v.anchors {
		a := &v.anchors[i]
		if a.at < x0-near || a.at > x1+near {
			continue
		}
		a.used = true
		inner = append(inner, knot{v.timeS(a.at), a.level})
	}
	if inner == nil {
		return nil
	}
	if inner[0].t > v.timeS(x0+near) {
		inner = slices.Insert(inner, 0, knot{v.timeS(x0), y0})
	}
	if inner[len(inner)-1].t < v.timeS(x1-near) {
		inner = append(inner, knot{v.timeS(x1), y1})
	}
	return inner
}

// ruledBaselines are the held and forced baselines of time rules, under the peaks whose apexes they cover.
func (v *view) ruledBaselines(found []candidate) {
	for i := range found {
		c := &found[i]
		apex := v.timeS(c.apex) / 60
		if r, ok := v.settings.rule(Hold, apex); ok {
			at := v.inside(v.position(r.FromMin))
			y := v.footLevel(at, Base)
			y += v.bent(v.timeS(at))
			c.base, c.baseKind = v.asRecorded(line{v.timeS(at), y, v.timeS(at) + 1, y}), OnHeld
		}
		if r, ok := v.settings.rule(OneBaseline, apex); ok {
			from, to := v.inside(v.position(r.FromMin)), v.inside(v.position(r.ToMin))
			a, b := v.timeS(from), v.timeS(to)
			c.base, c.baseKind = v.asRecorded(line{a, v.footLevel(from, Base) + v.bent(a), b, v.footLevel(to, Base) + v.bent(b)}), OnForced
			if c.start < from {
				c.start, c.startKind = from, ByRule
			}
			if c.end > to {
				c.end, c.endKind = to, ByRule
			}
		}
	}
}

// inside keeps a position on the trace.
func (v *view) inside(position float64) float64 { return max(0, min(float64(len(v.raw)-1), position)) }

// background is the modelled background of the trace.
func (v *view) background() ground {
	width := v.ladders[0].width
	for _, l := range v.ladders {
		width = max(width, l.width)
	}
	return sampled{v.tr.StartS, v.tr.StepS, signal.Background(v.clean, v.settings.BackgroundWidths*width)}
}

// level is the smoothed signal at a position on the even grid.
func (v *view) level(position float64) float64 {
	i := max(0, min(len(v.clean)-2, int(position)))
	f := position - float64(i)
	value := v.ladder(position).smooth.Value
	return value[i]*(1-f) + value[i+1]*f
}

// footLevel is the signal on which a baseline stands. Noise there goes into the area times the whole width of the peak,
// so it is averaged over half a width to each side.
func (v *view) footLevel(position float64, kind SideKind) float64 {
	if kind == ByHand || kind == Drop || kind == ByRule || kind == Valley {
		return v.level(position)
	}
	i := int(math.Round(position))
	half := min(max(1, int(math.Round(v.widthAt(position)/2))), i, len(v.clean)-1-i)
	if half < 1 {
		return v.clean[i]
	}
	sum := 0.0
	for k := i - half; k <= i+half; k++ {
		sum += v.clean[k]
	}
	return sum / float64(2*half+1)
}
