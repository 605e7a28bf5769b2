package review

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/lab/change"
	"yugen/store"
)

// columnWords are what fields of the run list are called, where not as in the file.
var columnWords = map[string]string{"name": "Name", "role": "Role", "level": "Level", "vial": "Vial", "preparation": "Preparation", "dilution": "Dilution", "volume": "Extract", "sample": "Sample taken",
	"factor": "Factor", "internal": "Internal standard", "internals": "Internal standards", "added": "Added", "own": "Own columns", "mix": "Mixture", "doubts": "Doubt about a stretch"}

// typed are fields of the run list that stand otherwise than they came with the file; those that one step set together are one item.
func (l *looked) typed() {
	type group struct {
		field string
		seq   int64
	}
	sets := map[group][]string{} // ids of injections
	var order []group
	by := map[group]*changeOf{}
	var readings []string
	for _, in := range l.Now.Injections {
		came, known := l.first[in.ID]
		if !known {
			continue
		}
		if in.Typed != nil {
			readings = append(readings, in.ID)
		}
		was, is := tree(came.Entry), tree(in.Entry)
		for _, field := range slices.Sorted(maps.Keys(merged(was, is))) {
			value := text(is[field])
			if field == "id" || field == "typed" || text(was[field]) == value {
				continue
			}
			row := l.newest(func(c changeOf) bool {
				e, there := c.after.Entries[in.ID]
				return there && text(tree(e)[field]) == value && text(tree(c.before.Entries[in.ID])[field]) != value
			})
			g := group{field: field}
			if row != nil {
				g.seq = row.Seq
			}
			if sets[g] == nil {
				order, by[g] = append(order, g), row
			}
			sets[g] = append(sets[g], in.ID)
		}
	}
	for _, g := range order {
		l.add(l.typedItem(g.field, sets[g]), by[g])
	}
	if len(readings) > 0 {
		first := l.newest(func(c changeOf) bool {
			return slices.ContainsFunc(c.after.Back, func(in store.Injection) bool { return in.ID == readings[0] })
		})
		l.add(Item{Kind: Typed, What: "Readings typed or pasted", Where: many(len(readings)), After: "no trace is behind them"}, first)
	}
}

// wholeRun is from how many injections on a field that one step set is the run list itself, and no touch of a result.
const wholeRun = 4

func many(n int) string {
	if n == 1 {
		return "1 injection"
	}
	return fmt.Sprintf("%d injections", n)
}

func (l *looked) typedItem(field string, ids []string) Item {
	word := columnWords[field]
	if word == "" {
		word = field
	}
	came := map[string]any{}
	var was, is []string
	exactly := map[string]any{}
	for _, id := range ids {
		came[id] = tree(l.first[id].Entry)[field]
		was = appendNew(was, text(came[id]))
		exactly[id] = tree(l.Now.Injections[l.place[id]-1].Entry)[field]
		is = appendNew(is, text(exactly[id]))
	}
	i := Item{Kind: Typed, What: word, Where: many(len(ids)), Before: listed(was), After: listed(is), exactly: exactly, Without: func(b store.Batch) (store.Batch, error) {
		var wrong error
		b = each(b, func(in *store.Injection) {
			value, there := came[in.ID]
			if !there {
				return
			}
			e := tree(in.Entry)
			e[field] = value
			if value == nil {
				delete(e, field)
			}
			var entry batch.Entry
			if err := json.Unmarshal([]byte(change.JSON(e)), &entry); err != nil {
				wrong = err
				return
			}
			in.Entry = entry
		})
		b.Replicates = batch.Replicates(len(b.Injections), func(k int) batch.Entry { return b.Injections[k].Entry })
		return b, wrong
	}}
	i.RunList = len(ids) >= wholeRun
	if len(ids) == 1 {
		i.InjectionID, i.Where = ids[0], l.injected(ids[0])
	}
	return i
}

// tree is a value as JSON has it.
func tree(v any) map[string]any {
	out := map[string]any{}
	_ = json.Unmarshal([]byte(change.JSON(v)), &out) // written just now
	return out
}

func merged(a, b map[string]any) map[string]any {
	out := maps.Clone(a)
	maps.Copy(out, b)
	return out
}

// text is a value in a few letters; empty for nothing.
func text(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	case map[string]any:
		var parts []string
		for _, key := range slices.Sorted(maps.Keys(v)) {
			parts = append(parts, strings.ReplaceAll(key, "_", " ")+" "+text(v[key]))
		}
		return strings.Join(parts, ", ")
	case []any:
		var parts []string
		for _, one := range v {
			parts = append(parts, text(one))
		}
		return strings.Join(parts, "; ")
	}
	return fmt.Sprint(v)
}

func appendNew(list []string, s string) []string {
	if slices.Contains(list, s) {
		return list
	}
	return append(list, s)
}

// listed are some values, and how many more.
func listed(values []string) string {
	const shown = 4
	values = slices.DeleteFunc(slices.Clone(values), func(s string) bool { return s == "" })
	if len(values) > shown {
		return fmt.Sprintf("%s and %d more", strings.Join(values[:shown], ", "), len(values)-shown)
	}
	return strings.Join(values, ", ")
}
