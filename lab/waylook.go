package lab

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
)

// look goes through the mistakes that are made most with few files.
func (w *wayUnderway) look() {
	w.lookAtUnits()
	w.lookAtPeaks()
	w.lookAtReplicates()
	w.lookAtLine()
	w.lookAtRange()
	w.lookAtBlanks()
}

func (w *wayUnderway) saw(text, found string, well bool) {
	state := "well"
	if !well {
		state = "wrong"
	}
	w.LookedAt = append(w.LookedAt, LookedAt{text, found, state})
}

func (w *wayUnderway) lookAtUnits() {
	standards, without, unlike := 0, 0, 0
	for _, row := range w.Rows {
		if row.Role != batch.Standard {
			continue
		}
		standards++
		if row.Level == nil {
			without++
		}
		if strings.Contains(row.Doubt, "header") || strings.Contains(row.Doubt, "cannot be told") {
			unlike++
		}
	}
	switch {
	case standards == 0:
		w.LookedAt = append(w.LookedAt, LookedAt{"Every level has a unit", "no standard yet", "open"})
	case unlike > 0:
		w.saw("Every level has a unit", plural(unlike, "name")+" in doubt", false)
	case without > 0:
		w.saw("Every level has a unit", fmt.Sprintf("%d of %d without a level", without, standards), false)
	case w.Unit == "":
		w.saw("Every level has a unit", "of what?", false)
	default:
		w.saw("Every level has a unit", fmt.Sprintf("%s, %d of %d", w.Unit, standards, standards), true)
	}
}

func (w *wayUnderway) lookAtPeaks() {
	if w.compound == "" {
		w.LookedAt = append(w.LookedAt, LookedAt{"One peak in all files", "none", "wrong"})
		return
	}
	var lacking []string
	for _, row := range w.Rows {
		if row.AreaS == nil && row.Role != batch.Blank {
			lacking = append(lacking, row.File)
		}
	}
	if len(lacking) > 0 {
		w.saw("One peak in all files", "missing in "+strings.Join(lacking, ", "), false)
	} else {
		w.saw("One peak in all files", plural(len(w.Rows), "file"), true)
	}
}

// farApart is from how far apart, in percent of their mean, two files of one level are pointed at.
const farApart = 10

func (w *wayUnderway) lookAtReplicates() {
	byLevel := map[float64][]float64{}
	for _, row := range w.Rows {
		if row.Role == batch.Standard && row.Level != nil && row.AreaS != nil {
			byLevel[*row.Level] = append(byLevel[*row.Level], *row.AreaS)
		}
	}
	worst, at, any := 0.0, 0.0, false
	for level, areas := range byLevel {
		if len(areas) < 2 {
			continue
		}
		any = true
		low, high := slices.Min(areas), slices.Max(areas)
		if apart := 200 * (high - low) / (high + low); apart > worst || apart == worst && level < at {
			worst, at = apart, level
		}
	}
	if !any {
		return
	}
	w.saw("Files of one level agree", fmt.Sprintf("%.1f %% apart at %g", worst, at), worst <= farApart)
}

// bent is below which p a line is no line.
const bent = 0.05

func (w *wayUnderway) lookAtLine() {
	if w.Curve == nil || w.Curve.Fit == nil {
		why := "no curve yet"
		if w.Curve != nil && w.Curve.Problem != "" {
			why = w.Curve.Problem
		}
		w.LookedAt = append(w.LookedAt, LookedAt{"The line is straight", why, "open"})
		return
	}
	largest := ""
	if v := w.Curve.Verdict.Largest; v != nil {
		largest = fmt.Sprintf(", levels within %s %%", strconv.FormatFloat(math.Abs(*v), 'f', 1, 64))
	}
	m := w.Curve.Tests.Mandel
	switch {
	case w.m.Curves.Model != "linear":
		w.saw("The curve", "of second order"+largest, true)
	case m == nil:
		w.LookedAt = append(w.LookedAt, LookedAt{"The line is straight", "too few levels to tell" + largest, "open"})
	default:
		w.saw("The line is straight", fmt.Sprintf("p %s%s", batch.Significant(m.P, 2), largest), m.P >= bent)
	}
}

func (w *wayUnderway) lookAtRange() {
	if w.Concentration == nil || w.Curve == nil || w.Curve.Fit == nil {
		w.LookedAt = append(w.LookedAt, LookedAt{"Samples inside the levels", "no reading yet", "open"})
		return
	}
	low, high := w.Curve.Fit.LowX, w.Curve.Fit.HighX
	outside := []string{}
	for i, in := range w.result.Injections {
		if w.b.Injections[i].Role != batch.Sample {
			continue
		}
		if v := in.Readings[w.compound].Concentration; v != nil && (*v < low || *v > high) {
			outside = append(outside, fmt.Sprintf("%s in %s", batch.Significant(*v, 3), w.b.Injections[i].Name))
		}
	}
	if len(outside) > 0 {
		w.saw("Samples inside the levels", fmt.Sprintf("%s, outside %g to %g", strings.Join(outside, ", "), low, high), false)
		return
	}
	w.saw("Samples inside the levels", fmt.Sprintf("%s in %g to %g", batch.Significant(*w.Concentration, 3), low, high), true)
}

func (w *wayUnderway) lookAtBlanks() {
	n := 0
	for _, row := range w.Rows {
		if row.Role == batch.Blank {
			n++
		}
	}
	if n == 0 {
		w.LookedAt = append(w.LookedAt, LookedAt{"Blank", "none here", "open"})
		return
	}
	w.saw("Blank", plural(n, "file"), true)
}
