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
	for i := 1; i < len(found); i++ {
		if touch(found[i-1], found[i]) && v.how(found[i-1], found[i]) == ByValley {
			found[i-1].endKind, found[i].startKind = Valley, Valley
		}
	}
	for from := 0; from < len(found); {
		to := from
		for to+1 < len(found) && touch(found[to], found[to+1]) && found[to].endKind != Valley {
			to++
		}
		v.chord(found[from : to+1])
		from = to + 1
	}
	if v.settings.Baseline == BackgroundBaseline && len(found) > 0 {
		ground := v.background()
		for i := range found {
			found[i].base, found[i].baseKind = ground, OnBackground
		}
	}
	v.ruledBaselines(found)
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

func (v *view) chord(cluster []candidate) {
	first, last := &cluster[0], &cluster[len(cluster)-1]
	x0, x1 := first.start, last.end
	y0, y1 := v.footLevel(x0, first.startKind), v.footLevel(x1, last.endKind)
	if anchored := v.anchored(x0, y0, x1, y1); anchored != nil {
		for i := range cluster {
			cluster[i].base, cluster[i].baseKind = anchored, OnAnchors
		}
		return
	}
	if len(cluster) == 1 {
		// A line from a valley to the foot may cut the flank; it ends where it touches.
		if at := v.tangent(x0, first.apex, x1); first.startKind == Valley && at > first.apex && at < x1 {
			x1, y1, last.end = at, v.level(at), at
		}
		if at := v.tangent(x1, first.apex, x0); first.endKind == Valley && at < first.apex && at > x0 {
			x0, y0, first.start = at, v.level(at), at
		}
	}
	line := line{v.timeS(x0), y0, v.timeS(x1), y1}
	if x1 <= x0 {
		line.t1 = line.t0
	}
	deepest, below := -1, 3*v.noise*1.5/math.Sqrt(float64(first.on.smooth.Half))
	for i := 0; i+1 < len(cluster); i++ {
		valley := cluster[i].end
		if under := line.at(v.timeS(valley)) - v.level(valley); under > below && under > 0 {
			deepest, below = i, under
		}
	}
	if deepest >= 0 {
		cluster[deepest].endKind, cluster[deepest+1].startKind = Base, Base
		v.chord(cluster[:deepest+1])
		v.chord(cluster[deepest+1:])
		return
	}
	kind := OnChord
	if first.startKind == Valley || last.endKind == Valley {
		kind = OnValleys
	}
	for i := range cluster {
		cluster[i].base, cluster[i].baseKind = line, kind
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
			c.base, c.baseKind = line{v.timeS(at), y, v.timeS(at) + 1, y}, OnHeld
		}
		if r, ok := v.settings.rule(OneBaseline, apex); ok {
			from, to := v.inside(v.position(r.FromMin)), v.inside(v.position(r.ToMin))
			c.base, c.baseKind = line{v.timeS(from), v.footLevel(from, Base), v.timeS(to), v.footLevel(to, Base)}, OnForced
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
