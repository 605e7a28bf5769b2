package lab

import (
	"fmt"
	"slices"
	"strings"

	"yugen/lab/change"
	"yugen/store"
)

// maxSettingChanges is how often a setting of the files may change to be told by marks: one that changes with every injection is no event.
const maxSettingChanges = 5

// step is the place of an injection among all those of the study.
type step struct{ batch, injection int }

func (a step) before(b step) bool {
	return a.batch < b.batch || a.batch == b.batch && a.injection < b.injection
}

// marksOf are those of a study along an axis: set by people, where the method changed from batch to batch, and where the files say that something was set
// otherwise from then on. A mark stands before the first point from there on.
func marksOf(all []Processed, rows []placed, place func(int) *float64, notes TrendNotes) []TrendAt {
	order := map[string]int{} // of batches
	for k, p := range all {
		order[p.Batch.ID] = k
	}
	var at []step
	for _, r := range rows {
		at = append(at, step{order[r.of.Batch.ID], r.row.Number - 1})
	}
	out := []TrendAt{}
	put := func(where step, mark TrendAt) {
		var last *float64
		for k, s := range at {
			x := place(k)
			if x == nil {
				continue
			}
			if !s.before(where) {
				mark.X = *x
				if last != nil {
					mark.X = (*x + *last) / 2
				}
				out = append(out, mark)
				return
			}
			last = x
		}
	}
	for _, m := range notes.Marks {
		for b, p := range all {
			if k := slices.IndexFunc(p.Batch.Injections, func(i store.Injection) bool { return i.ID == m.InjectionID }); k >= 0 {
				put(step{b, k}, TrendAt{ID: m.ID, Says: m.Says, By: m.By})
			}
		}
	}
	for b := 1; b < len(all); b++ {
		if now, before := all[b].Batch.Version, all[b-1].Batch.Version; now.ID != before.ID && change.JSON(now.Method) != change.JSON(before.Method) {
			put(step{b, 0}, TrendAt{Says: fmt.Sprintf("method: %s, version %d", now.Name, now.Number)})
		}
	}
	for name, changes := range settingChanges(all) {
		if len(changes) > maxSettingChanges {
			continue
		}
		for _, c := range changes {
			put(c.at, TrendAt{Says: name + ": " + c.value})
		}
	}
	slices.SortFunc(out, func(a, b TrendAt) int {
		if a.X != b.X {
			if a.X < b.X {
				return -1
			}
			return 1
		}
		return strings.Compare(a.Says, b.Says)
	})
	return out
}

type settingChange struct {
	at    step
	value string
}

// settingChanges are, by the names of settings, where the files say another value than the file before that said one.
func settingChanges(all []Processed) map[string][]settingChange {
	out, last := map[string][]settingChange{}, map[string]string{}
	for b, p := range all {
		for k, in := range p.Batch.Injections {
			for _, s := range in.Header.Settings {
				if before, said := last[s.Name]; said && before != s.Value {
					out[s.Name] = append(out[s.Name], settingChange{step{b, k}, strings.TrimSpace(s.Value + " " + s.Unit)})
				}
				last[s.Name] = s.Value
			}
		}
	}
	return out
}
