package peaks

import "math"

// baselines draws a straight line under each cluster of touching peaks, from its first to its last boundary. Where the
// signal passes below the line by more than noise, the cluster is divided there and each part gets a line of its own.
func (v *view) baselines(found []candidate) {
	for from := 0; from < len(found); {
		to := from
		for to+1 < len(found) && found[to+1].start <= found[to].end {
			to++
		}
		v.chord(found[from : to+1])
		from = to + 1
	}
}

func (v *view) chord(cluster []candidate) {
	first, last := &cluster[0], &cluster[len(cluster)-1]
	x0, x1 := first.start, last.end
	y0, y1 := v.footLevel(x0, first.startKind), v.footLevel(x1, last.endKind)
	line := func(x float64) float64 { return y0 + (y1-y0)*(x-x0)/max(x1-x0, 1) }

	deepest, below := -1, 3*v.noise*1.5/math.Sqrt(float64(v.smooth.Half))
	for i := 0; i+1 < len(cluster); i++ {
		valley := cluster[i].end
		if under := line(valley) - v.level(valley); under > below && under > 0 {
			deepest, below = i, under
		}
	}
	if deepest >= 0 {
		cluster[deepest].endKind, cluster[deepest+1].startKind = Base, Base
		v.chord(cluster[:deepest+1])
		v.chord(cluster[deepest+1:])
		return
	}
	for i := range cluster {
		cluster[i].baseStart, cluster[i].baseEnd = line(cluster[i].start), line(cluster[i].end)
	}
}

// level is the smoothed signal at a position on the even grid.
func (v *view) level(position float64) float64 {
	i := max(0, min(len(v.clean)-2, int(position)))
	f := position - float64(i)
	return v.smooth.Value[i]*(1-f) + v.smooth.Value[i+1]*f
}

// footLevel is the signal on which a baseline stands. Noise there goes into the area times the whole width of the peak,
// so it is averaged over half a width to each side.
func (v *view) footLevel(position float64, kind SideKind) float64 {
	if kind == ByHand || kind == Drop {
		return v.level(position)
	}
	i := int(math.Round(position))
	half := min(max(1, int(math.Round(v.width/2))), i, len(v.clean)-1-i)
	if half < 1 {
		return v.clean[i]
	}
	sum := 0.0
	for k := i - half; k <= i+half; k++ {
		sum += v.clean[k]
	}
	return sum / float64(2*half+1)
}
