// Package record reads the record of a laboratory: its newest rows with what each of them set, and all of it against what is kept.
package record

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"yugen/lab/change"
	"yugen/store"
)

// Row is a row of the record as it is read: who, when, what, why, and what stood there before and after.
type Row struct {
	Seq         int64        `json:"seq"`
	At          time.Time    `json:"at"`
	Who         string       `json:"who"`
	Actor       store.Actor  `json:"actor"`
	Place       string       `json:"place,omitempty"`
	Clock       string       `json:"clock,omitempty"`
	BatchID     string       `json:"batch_id"`
	Batch       string       `json:"batch"`
	Action      string       `json:"action"`
	Subject     string       `json:"subject"`
	Why         string       `json:"why"`
	Differences []Difference `json:"differences"`
	More        int          `json:"more"` // how many differences are not listed
}

// Difference is one thing that a change set; empty where there was, or is, nothing.
type Difference struct {
	What   string `json:"what"`
	Before string `json:"before"`
	After  string `json:"after"`
}

const (
	// Shown is how many of the newest rows of a batch's record are listed.
	Shown = 500
	// differencesShown is how many differences of a row are listed.
	differencesShown = 60
)

// Rows lists the newest changes of a batch with what each of them set.
func Rows(ctx context.Context, from *store.Store, batchID string) ([]Row, error) {
	return Find(ctx, from, store.Wanted{BatchID: batchID}, 0, Shown)
}

// Find lists rows of the record, the newest first, with what each of them set: at most limit of those before a row; 0 begins at the newest.
func Find(ctx context.Context, from *store.Store, wanted store.Wanted, before int64, limit int) ([]Row, error) {
	rows := []Row{}
	err := from.Read(ctx, func(t *store.Tx) error {
		list, err := t.FindChanges(wanted, before, limit)
		if err != nil {
			return err
		}
		batches := map[string]recordNames{}
		for _, c := range list {
			if _, known := batches[c.BatchID]; !known {
				if batches[c.BatchID], err = namesOf(t, c.BatchID, list); err != nil {
					return err
				}
			}
			r, err := batches[c.BatchID].row(c)
			if err != nil {
				return err
			}
			rows = append(rows, r)
		}
		return nil
	})
	return rows, err
}

// namesOf are what injections and versions of a batch are called, those that were removed since, too.
func namesOf(t *store.Tx, batchID string, list []store.Change) (recordNames, error) {
	names := recordNames{injections: map[string]string{}, versions: map[string]store.Version{}, t: t}
	if batchID == "" {
		return names, nil
	}
	b, err := t.Batch(batchID)
	if err != nil {
		return names, err
	}
	names.batch = b.Name
	for i, in := range b.Injections { // with its place in the run, which tells replicates apart
		names.injections[in.ID] = fmt.Sprintf("%d %s", i+1, in.Name)
	}
	for _, c := range list {
		for _, text := range []string{c.Before, c.After} {
			var s change.State
			if c.BatchID == batchID && json.Unmarshal([]byte(text), &s) == nil {
				for _, in := range s.Back {
					if names.injections[in.ID] == "" {
						names.injections[in.ID] = in.Name
					}
				}
			}
		}
	}
	return names, nil
}

// row is a change as it is read.
func (n recordNames) row(c store.Change) (r Row, err error) {
	r = Row{Seq: c.Seq, At: c.At, Who: c.Who, Actor: c.Actor, Place: c.Place, Clock: c.Clock, BatchID: c.BatchID, Batch: n.batch, Action: c.Action, Subject: c.Subject, Why: c.Why, Differences: []Difference{}}
	var before, after change.State
	if json.Unmarshal([]byte(c.Before), &before) == nil && json.Unmarshal([]byte(c.After), &after) == nil {
		if r.Differences, err = n.differences(before, after); err != nil {
			return r, err
		}
	}
	if extra := len(r.Differences) - differencesShown; extra > 0 {
		r.Differences, r.More = r.Differences[:differencesShown], extra
	}
	return r, nil
}

// recordNames are what ids in states are called.
type recordNames struct {
	batch      string
	injections map[string]string
	versions   map[string]store.Version
	t          *store.Tx
}

func (n recordNames) version(id string) (v store.Version, err error) {
	if v, known := n.versions[id]; known {
		return v, nil
	}
	v, err = n.t.Version(id)
	n.versions[id] = v
	return v, err
}

// differences compares two states, field by field.
func (n recordNames) differences(before, after change.State) ([]Difference, error) {
	list := []Difference{}
	if before.Version != "" && after.Version != "" && before.Version != after.Version {
		was, err := n.version(before.Version)
		if err != nil {
			return nil, err
		}
		is, err := n.version(after.Version)
		if err != nil {
			return nil, err
		}
		list = append(list, Difference{"method version", fmt.Sprint(was.Number), fmt.Sprint(is.Number)})
		list = append(list, differences("", leaves(was.Method), leaves(is.Method))...)
	}
	for _, id := range slices.Sorted(maps.Keys(after.Entries)) {
		list = append(list, differences(n.injections[id]+": ", leaves(before.Entries[id]), leaves(after.Entries[id]))...)
	}
	for _, id := range slices.Sorted(maps.Keys(after.Edits)) {
		list = append(list, differences(n.injections[id]+": ", leaves(named("edit", before.Edits[id])), leaves(named("edit", after.Edits[id])))...)
	}
	for i, id := range after.Order {
		if at := slices.Index(before.Order, id); at >= 0 && at != i && len(before.Order) == len(after.Order) {
			list = append(list, Difference{n.injections[id] + ": place", fmt.Sprint(at + 1), fmt.Sprint(i + 1)})
		}
	}
	for key, settled := range after.Settled {
		words := map[bool]string{true: "settled", false: "open"}
		list = append(list, Difference{"notice " + key, words[before.Settled[key]], words[settled]})
	}
	for _, in := range after.Back {
		list = append(list, Difference{What: in.Name, After: "in the batch"})
	}
	for _, id := range after.Gone {
		list = append(list, Difference{What: n.injections[id], Before: "in the batch"})
	}
	if before.Choices != nil || after.Choices != nil {
		list = append(list, differences("", leaves(before.Choices), leaves(after.Choices))...)
	}
	return list, nil
}

func named(name string, v any) map[string]any { return map[string]any{name: v} }

// leaves are the single values of a document by what they are called.
func leaves(document any) map[string]string {
	found := map[string]string{}
	var v any
	if err := json.Unmarshal([]byte(change.JSON(document)), &v); err != nil {
		return found
	}
	gather(found, "", v)
	return found
}

func gather(found map[string]string, path string, v any) {
	join := func(part string) string {
		if part = strings.ReplaceAll(part, "_", " "); path == "" {
			return part
		}
		return path + " " + part
	}
	switch v := v.(type) {
	case map[string]any:
		for key, inner := range v {
			if key != "id" {
				gather(found, join(key), inner)
			}
		}
	case []any:
		for i, inner := range v {
			part := fmt.Sprint(i + 1)
			if m, ok := inner.(map[string]any); ok {
				if name, ok := m["name"].(string); ok && name != "" {
					part = name
				}
			}
			gather(found, join(part), inner)
		}
	case nil:
	default:
		found[path] = fmt.Sprint(v)
	}
}

func differences(prefix string, before, after map[string]string) []Difference {
	var list []Difference
	keys := slices.Collect(maps.Keys(after))
	for key := range before {
		if _, both := after[key]; !both {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	for _, key := range keys {
		if before[key] != after[key] {
			list = append(list, Difference{prefix + key, before[key], after[key]})
		}
	}
	return list
}
