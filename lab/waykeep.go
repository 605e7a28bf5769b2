package lab

import (
	"context"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/lab/change"
	"yugen/store"
)

// KeepWay keeps proposals, those of the keys or, without any, all that stand without doubt. It is one change, undone as one.
func (l *Lab) KeepWay(ctx context.Context, batchID string, revision int, ask WholeWayAsk, keys []string, who string) (store.Batch, error) {
	w, err := l.wholeWay(ctx, batchID, ask)
	if err != nil {
		return store.Batch{}, err
	}
	kept := []Proposed{}
	for _, p := range w.Proposals {
		if len(keys) == 0 && p.Doubt == "" || slices.Contains(keys, p.Key) {
			kept = append(kept, p)
		}
	}
	if len(kept) == 0 {
		return store.Batch{}, refuse("nothing that is proposed here stands without doubt")
	}
	has := func(key string) bool {
		return slices.ContainsFunc(kept, func(p Proposed) bool { return p.Key == key })
	}
	if has(proposedPeak) && w.Compound == "" {
		return store.Batch{}, refuseAt("/name", "the peak needs a name before it is kept")
	}
	if has(proposedLevels) && w.Unit == "" {
		return store.Batch{}, refuseAt("/unit", "the levels need a unit before they are kept")
	}
	if revision == 0 {
		revision = w.b.Revision
	}
	return l.make(ctx, batchID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		c := change.Change{Action: "proposals", Subject: subjects(kept), Before: change.ChoicesOf(b), After: change.State{}}
		c.Before.Entries, c.After.Entries = map[string]batch.Entry{}, map[string]batch.Entry{}
		w.keepEntries(b, has, &c)
		m := w.keepMethod(b.Version.Method, has)
		if err := valid(m); err != nil {
			return c, err
		}
		if change.JSON(m) != change.JSON(b.Version.Method) {
			v, err := t.SaveVersion(b.Version.MethodID, who, "proposed and kept: "+c.Subject, m)
			if err != nil {
				return c, err
			}
			c.Before.Version, c.After.Version, c.After.VersionHash = b.Version.ID, v.ID, v.Hash
		}
		choices := b.Choices
		for _, p := range kept {
			choices.Agreed = append(slices.Clone(choices.Agreed), p.Key)
		}
		c.After.Choices = &choices
		return c, nil
	})
}

func subjects(kept []Proposed) string {
	parts := make([]string, len(kept))
	for i, p := range kept {
		parts[i] = p.Text
	}
	return strings.Join(parts, "; ")
}

// keepEntries sets roles and levels where nobody has set them.
func (w *wayUnderway) keepEntries(b store.Batch, has func(string) bool, c *change.Change) {
	for i, in := range b.Injections {
		if i >= len(w.Rows) || w.Rows[i].InjectionID != in.ID {
			continue
		}
		e := in.Entry
		if has(proposedRoles) && e.Role == batch.NoRole {
			e.Role = w.readings[i].Role
		}
		if v := w.levels[in.ID]; has(proposedLevels) && v != nil && e.Level == nil {
			e.Level = v
		}
		if change.JSON(e) != change.JSON(in.Entry) {
			c.Before.Entries[in.ID], c.After.Entries[in.ID] = in.Entry, e
		}
	}
}

// keepMethod is the method with the parts that are kept.
func (w *wayUnderway) keepMethod(m batch.Method, has func(string) bool) batch.Method {
	if has(proposedLevels) {
		m.Curves.Unit = w.Unit
	}
	if has(proposedLine) {
		m.Curves.Model, m.Curves.Weight = w.m.Curves.Model, w.m.Curves.Weight
	}
	if has(proposedPeak) && len(m.Targets()) == 0 {
		c := w.m.Compounds[len(w.m.Compounds)-1]
		c.ID = compounds.FreshID(c.Name, m.Compounds)
		m.Compounds = append(slices.Clone(m.Compounds), c)
	}
	if has(proposedAmounts) {
		m.Amounts.AsMeasured = true
	}
	return m
}
