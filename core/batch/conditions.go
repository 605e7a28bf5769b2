package batch

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"yugen/core/channels"
	"yugen/core/checks"
	"yugen/core/signal"
)

// ConditionsAsked are the conditions of the run on which the method has limits, each once.
func (m Method) ConditionsAsked() []channels.Signal {
	var list []channels.Signal
	for _, c := range m.Checks.Conditions {
		s := channels.Signal{Name: c.Name, Unit: c.Unit}
		if !slices.ContainsFunc(list, func(o channels.Signal) bool { return o.Key() == s.Key() }) {
			list = append(list, s)
		}
	}
	return list
}

// unsound is where a condition left its limit: by how much, in its unit, and when.
type unsound struct {
	value, atMin float64
	what         string // the rest of the sentence
}

// judgeConditions holds the conditions of every injection against the method's limits. A notice names the moment, and what eluted then.
func (p *process) judgeConditions() {
	for _, limit := range p.method.Checks.Conditions {
		key := channels.Key(limit.Name, limit.Unit)
		usual := p.usual(key, limit)
		for _, asked := range []struct {
			kind  string
			low   *float64
			high  *float64
			worst func(signal.Trace) (unsound, bool)
		}{
			{"within", limit.Low, limit.High, whereAsked(limit, limit.Low != nil || limit.High != nil, within)},
			{"change", nil, asked(limit.Fall), whereAsked(limit, limit.Fall > 0, change)},
			{"usual", nil, asked(limit.Usual), whereAsked(limit, limit.Usual > 0 && usual != nil, func(t signal.Trace, l checks.ConditionLimit) unsound { return besides(t, l, usual) })},
		} {
			if asked.worst == nil {
				continue
			}
			o := checks.Outcome{Kind: checks.RunCondition, Measure: conditionMeasure(limit, asked.kind), Unit: limit.Unit, Low: asked.low, High: asked.high}
			for i, in := range p.injections {
				tr, there := in.Conditions[key]
				if !there {
					continue
				}
				worst, ok := asked.worst(tr)
				if !ok {
					continue
				}
				before := o.Outside
				o.Worst(worst.value, in.ID)
				if o.Outside > before {
					n := checks.New(checks.RunCondition+checks.Kind(fmt.Sprintf("_%s_%s_%g", key, asked.kind, limit.FromMin)), checks.Decide, checks.Traces, in.ID, "", p.replicateName(i), limit.Name+" "+worst.what+p.elutedAt(i, worst.atMin))
					n.AtMin = &worst.atMin
					p.notice(n)
				}
			}
			p.outcome(o)
		}
	}
}

// whereAsked is nil for what is not asked.
func whereAsked(l checks.ConditionLimit, isAsked bool, of func(signal.Trace, checks.ConditionLimit) unsound) func(signal.Trace) (unsound, bool) {
	if !isAsked {
		return nil
	}
	return func(t signal.Trace) (unsound, bool) {
		from, to := stretchOf(t, l)
		if from >= to {
			return unsound{}, false
		}
		return of(t, l), true
	}
}

func conditionMeasure(l checks.ConditionLimit, kind string) string {
	switch kind {
	case "change":
		return fmt.Sprintf("%s, change within %g s", l.Name, l.WithinS)
	case "usual":
		return l.Name + ", from most injections"
	}
	return l.Name
}

// stretchOf are the points of a trace in which a limit holds, from the first up to, but not with, the last.
func stretchOf(t signal.Trace, l checks.ConditionLimit) (from, to int) {
	n := t.Len()
	if l.ToMin == 0 {
		return 0, n
	}
	from = sort.Search(n, func(i int) bool { return t.TimeS(i) >= 60*l.FromMin })
	to = sort.Search(n, func(i int) bool { return t.TimeS(i) > 60*l.ToMin })
	return from, to
}

// within is the value furthest beyond the limits, or next to them.
func within(t signal.Trace, l checks.ConditionLimit) unsound {
	from, to := stretchOf(t, l)
	beyond := func(v float64) float64 {
		d := math.Inf(-1)
		if l.Low != nil {
			d = max(d, *l.Low-v)
		}
		if l.High != nil {
			d = max(d, v-*l.High)
		}
		return d
	}
	worst := from
	for i := from; i < to; i++ {
		if beyond(t.Values[i]) > beyond(t.Values[worst]) {
			worst = i
		}
	}
	v, at := t.Values[worst], t.TimeS(worst)/60
	return unsound{v, at, fmt.Sprintf("stood at %s %s at %.2f min", Significant(v, 4), l.Unit, at)}
}

// change is the greatest fall or rise within the limit's seconds, at the moment at which it was over.
func change(t signal.Trace, l checks.ConditionLimit) unsound {
	from, to := stretchOf(t, l)
	var worst unsound
	first := from
	var highest, lowest []int // of the seconds before, the candidates for the greatest and the least, as queues
	for i := from; i < to; i++ {
		for t.TimeS(i)-t.TimeS(first) > l.WithinS {
			first++
		}
		highest = queue(highest, i, first, func(a, b int) bool { return t.Values[a] <= t.Values[b] })
		lowest = queue(lowest, i, first, func(a, b int) bool { return t.Values[a] >= t.Values[b] })
		fall, rise := t.Values[highest[0]]-t.Values[i], t.Values[i]-t.Values[lowest[0]]
		by, word := fall, "fell"
		if rise > fall {
			by, word = rise, "rose"
		}
		if by > worst.value {
			at := t.TimeS(i) / 60
			worst = unsound{by, at, fmt.Sprintf("%s by %s %s within %g s at %.2f min", word, Significant(by, 3), l.Unit, l.WithinS, at)}
		}
	}
	return worst
}

// queue keeps the candidates for an extreme of a sliding window: those that a later one cannot be beaten by go, and those before the window.
func queue(q []int, i, first int, beaten func(a, b int) bool) []int {
	for len(q) > 0 && beaten(q[len(q)-1], i) {
		q = q[:len(q)-1]
	}
	q = append(q, i)
	for q[0] < first {
		q = q[1:]
	}
	return q
}

// usualPoints is at how many times over the run the median over the batch is taken.
const usualPoints = 400

// usualTrace is what most injections have of a condition: medians at even times.
type usualTrace struct {
	startS, stepS float64
	median        []float64
}

// usual is nil where fewer than three injections have the condition.
func (p *process) usual(key string, l checks.ConditionLimit) *usualTrace {
	if l.Usual == 0 {
		return nil
	}
	var traces []signal.Trace
	start, end := math.Inf(-1), math.Inf(1)
	for _, in := range p.injections {
		if tr, there := in.Conditions[key]; there {
			traces = append(traces, tr)
			start, end = max(start, tr.StartS), min(end, tr.EndS())
		}
	}
	if len(traces) < 3 || start >= end {
		return nil
	}
	u := &usualTrace{startS: start, stepS: (end - start) / (usualPoints - 1), median: make([]float64, usualPoints)}
	values := make([]float64, len(traces))
	for k := range u.median {
		for i, tr := range traces {
			values[i] = tr.Values[nearestPoint(tr, u.startS+float64(k)*u.stepS)]
		}
		slices.Sort(values)
		u.median[k] = values[len(values)/2]
	}
	return u
}

func nearestPoint(t signal.Trace, atS float64) int {
	return min(t.Len()-1, sort.Search(t.Len(), func(i int) bool { return t.TimeS(i) >= atS-1e-9 }))
}

// besides is the greatest deviation from what most injections have.
func besides(t signal.Trace, l checks.ConditionLimit, u *usualTrace) unsound {
	var worst unsound
	for k, usual := range u.median {
		atS := u.startS + float64(k)*u.stepS
		if l.ToMin > 0 && (atS < 60*l.FromMin || atS > 60*l.ToMin) {
			continue
		}
		v := t.Values[nearestPoint(t, atS)]
		if d := math.Abs(v - usual); d > worst.value {
			worst = unsound{d, atS / 60, fmt.Sprintf("stood at %s %s at %.2f min, where most injections have %s", Significant(v, 4), l.Unit, atS/60, Significant(usual, 4))}
		}
	}
	return worst
}

// elutedAt names the compounds that eluted at a moment, or the next one after it.
func (p *process) elutedAt(i int, atMin float64) string {
	in := &p.result.Injections[i]
	var then []string
	next, nextAt := "", math.Inf(1)
	compounds := slices.Clone(p.method.Compounds)
	byRetention(compounds)
	for _, c := range compounds {
		peak := in.PeakOf(c.ID)
		if peak == nil {
			continue
		}
		switch {
		case peak.StartMin <= atMin && atMin <= peak.EndMin:
			then = append(then, c.Name)
		case peak.StartMin > atMin && peak.ApexMin < nextAt:
			next, nextAt = c.Name, peak.ApexMin
		}
	}
	switch {
	case len(then) > 0 && next != "":
		return fmt.Sprintf("; %s eluted then, %s next", strings.Join(then, ", "), next)
	case len(then) > 0:
		return "; " + strings.Join(then, ", ") + " eluted then"
	case next != "":
		return fmt.Sprintf("; the next to elute is %s at %.2f min", next, nextAt)
	}
	return ""
}
