package review

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"yugen/core/batch"
	"yugen/store"
)

// Effect is what a change does to the reported numbers: the largest of them, and on how many.
type Effect struct {
	CompoundID string   `json:"compound_id"`
	Of         string   `json:"of"` // the sample, or the injection where there are no samples
	Group      string   `json:"group,omitempty"`
	Before     *float64 `json:"before"` // without the change
	After      *float64 `json:"after"`
	Unit       string   `json:"unit"`
	Percent    *float64 `json:"percent"` // nil where there is no number on one side
	Moved      []string `json:"moved"`   // keys of the numbers that it moves
}

// Number is one reported number.
type Number struct {
	Key, CompoundID, Of, Group, Unit string
	Value                            *float64
}

// Listed are the reported numbers of a result: means of samples and groups, and recoveries of checks; without any of them what was read in each injection.
func Listed(b store.Batch, r batch.Result) (list []Number) {
	unit := b.Version.Method.ReportedUnit()
	rows := map[string]int{} // of a name
	for _, s := range r.Samples {
		rows[s.Name]++
		at := fmt.Sprintf("%s %d ", s.Name, rows[s.Name])
		for _, c := range b.Version.Method.Compounds {
			if v, there := s.Values[c.ID]; there {
				list = append(list, Number{"sample " + at + c.ID, c.ID, s.Name, "", unit, v.Mean})
			}
		}
		for _, g := range slices.Sorted(maps.Keys(s.Groups)) {
			list = append(list, Number{"group " + at + g, "", s.Name, g, unit, s.Groups[g].Mean})
		}
	}
	name := map[string]string{}
	for _, in := range b.Injections {
		name[in.ID] = in.Name
	}
	for _, c := range r.Checks {
		recovery := c.Recovery
		list = append(list, Number{"check " + c.InjectionID + " " + c.CompoundID, c.CompoundID, name[c.InjectionID], "", "%", &recovery})
	}
	if len(list) > 0 {
		return list
	}
	for _, in := range r.Injections {
		for _, c := range b.Version.Method.Compounds {
			v := in.Readings[c.ID]
			value, of := v.Amount, unit
			if value == nil {
				value, of = v.Concentration, b.Version.Method.Curves.Unit
			}
			list = append(list, Number{"reading " + in.ID + " " + c.ID, c.ID, name[in.ID], "", of, value})
		}
	}
	return list
}

// Reported are they by their keys.
func Reported(b store.Batch, r batch.Result) map[string]Number {
	out := map[string]Number{}
	for _, n := range Listed(b, r) {
		out[n.Key] = n
	}
	return out
}

// least is the relative change below which a number stands as it is.
const least = 1e-9

// EffectOf compares the reported numbers without a change and with it: nil where none moves. A number that comes or goes weighs more than any that moves.
func EffectOf(without, with map[string]Number) *Effect {
	var out *Effect
	most := 0.0
	var moved []string
	for _, key := range slices.Sorted(maps.Keys(mergedNumbers(without, with))) {
		a, b := without[key], with[key]
		weight := 0.0
		var percent *float64
		switch {
		case a.Value == nil && b.Value == nil:
		case a.Value == nil || b.Value == nil:
			weight = math.Inf(1)
		case *a.Value == *b.Value:
		case *a.Value == 0:
			weight = math.MaxFloat64
		default:
			p := 100 * (*b.Value - *a.Value) / math.Abs(*a.Value)
			if weight = math.Abs(p); weight/100 > least {
				percent = &p
			} else {
				weight = 0
			}
		}
		if weight == 0 {
			continue
		}
		moved = append(moved, key)
		if weight > most {
			most = weight
			n := b
			if n.Of == "" {
				n = a
			}
			out = &Effect{CompoundID: n.CompoundID, Of: n.Of, Group: n.Group, Before: a.Value, After: b.Value, Unit: n.Unit, Percent: percent}
		}
	}
	if out != nil {
		out.Moved = moved
	}
	return out
}

func mergedNumbers(a, b map[string]Number) map[string]Number {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

// Size orders effects: what comes or goes first, then by percent; 0 for none.
func (e *Effect) Size() float64 {
	switch {
	case e == nil:
		return 0
	case e.Percent == nil:
		return math.Inf(1)
	}
	return math.Abs(*e.Percent)
}
