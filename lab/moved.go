package lab

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/store"
)

// shownDigits is how many significant digits of an amount are displayed at most.
const shownDigits = 4

// shown is one displayed thing: what it is, and how it reads.
type shown struct{ what, reads string }

// moved says what the first amount, flag or check is that reads differently in the second result; empty where all read the same.
func moved(before store.Batch, b batch.Result, after store.Batch, a batch.Result) string {
	was, is := display(before, b), display(after, a)
	for _, key := range slices.Sorted(maps.Keys(was)) {
		now, there := is[key]
		if !there {
			return was[key].what
		}
		if now.reads != was[key].reads {
			return fmt.Sprintf("%s from %s to %s", was[key].what, was[key].reads, now.reads)
		}
	}
	for _, key := range slices.Sorted(maps.Keys(is)) {
		if _, there := was[key]; !there {
			return is[key].what
		}
	}
	return ""
}

// display gives all amounts, flags and checks of a result as they are displayed.
func display(b store.Batch, r batch.Result) map[string]shown {
	names, all := map[string]string{}, map[string]shown{}
	for _, c := range b.Version.Method.Compounds {
		names[c.ID] = c.Name
	}
	unit := b.Version.Method.ReportedUnit()
	injected := map[string]string{}
	for i, in := range r.Injections {
		injected[in.ID] = b.Injections[i].Name
		for id, v := range in.Readings {
			reads := []string{value(v.Amount, unit)}
			if v.Amount == nil {
				reads[0] = value(v.Concentration, b.Version.Method.Curves.Unit)
			}
			for _, f := range v.Flags {
				reads = append(reads, string(f))
			}
			all["1 "+in.ID+" "+id] = shown{fmt.Sprintf("%s in %s", names[id], b.Injections[i].Name), strings.Join(reads, ", ")}
		}
	}
	for _, s := range r.Samples {
		for _, values := range []map[string]batch.SampleValue{s.Values, s.Groups} {
			for id, v := range values {
				reads := []string{value(v.Mean, unit), fmt.Sprint(v.N, " of ", v.Of)}
				for _, f := range v.Flags {
					reads = append(reads, string(f))
				}
				name := names[id]
				if name == "" {
					name = id
				}
				all["2 "+strings.Join(s.InjectionIDs, "+")+" "+id] = shown{fmt.Sprintf("the mean of %s in %s", name, s.Name), strings.Join(reads, ", ")}
			}
		}
	}
	for _, c := range r.Checks {
		reads := fmt.Sprintf("%.1f %%", c.Recovery)
		if c.Outside {
			reads += ", outside"
		}
		all["3 "+c.InjectionID+" "+c.CompoundID] = shown{fmt.Sprintf("%s in the check %s", names[c.CompoundID], injected[c.InjectionID]), reads}
	}
	for _, o := range r.Outcomes {
		all[fmt.Sprintf("4 %s %s %s %s", o.Kind, o.Measure, o.CompoundID, o.InjectionID)] = shown{fmt.Sprintf("the check of %s", o.Measure), fmt.Sprintf("%d of %d outside", o.Outside, o.Count)}
	}
	return all
}

func value(v *float64, unit string) string {
	if v == nil {
		return "nothing"
	}
	return fmt.Sprintf("%#.*g %s", shownDigits, *v, unit)
}
