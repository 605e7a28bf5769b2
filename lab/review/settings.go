package review

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/lab/change"
	"yugen/store"
)

// settings are parts of the method that stand otherwise than in the approved version; where none is approved, that the one in use is not.
func (l *looked) settings() error {
	v := l.Now.Version
	if l.Approved == nil || l.Approved.ID != v.ID {
		says := "no version of it is approved"
		if l.Approved != nil {
			says = fmt.Sprintf("version %d is", l.Approved.Number)
		}
		i := Item{Kind: Version, What: fmt.Sprintf("%s, version %d, is not approved", v.Name, v.Number), Before: says, After: fmt.Sprintf("version %d is used", v.Number), Why: v.Reason}
		by := &changeOf{Change: store.Change{Who: v.Author, At: v.SavedAt}}
		if used := l.newest(func(c changeOf) bool { return c.after.Version == v.ID }); used != nil {
			i.Why, by = used.Why, used
		}
		l.add(i, by)
	}
	if l.Approved == nil {
		return nil
	}
	was, is := tree(l.Approved.Method), tree(v.Method)
	for _, d := range differences(nil, was, is) {
		i := Item{Kind: Setting, What: d.words(was, is), Before: text(d.was), After: text(d.is), Without: func(b store.Batch) (store.Batch, error) {
			document := tree(b.Version.Method)
			d.path.set(document, d.was)
			m, err := batch.ReadMethod([]byte(change.JSON(document)))
			if err == nil {
				err = m.Validate()
			}
			b.Version.Method = m
			return b, err
		}}
		if v, since := l.since(d); v != nil {
			i.Why = v.Reason
			l.add(i, &changeOf{Change: store.Change{Who: v.Author, At: v.SavedAt, Seq: since}})
			continue
		}
		l.add(i, nil)
	}
	return nil
}

// since is the version that gave a part the value it has, and the row that took it into use in this batch; 0 where none did.
func (l *looked) since(d difference) (*store.Version, int64) {
	value := text(d.is)
	for k := len(l.Versions) - 1; k >= 0; k-- {
		before := l.Approved.Method
		if k > 0 {
			before = l.Versions[k-1].Method
		}
		if text(d.path.get(tree(before))) == value {
			continue
		}
		v := &l.Versions[k]
		seq := int64(0)
		if by := l.newest(func(c changeOf) bool { return c.after.Version == v.ID }); by != nil {
			seq = by.Seq
		}
		return v, seq
	}
	return nil, 0
}

// path leads into a document: keys of maps, and of lists the id or name of one of their things, or its place.
type path []string

// difference is a part of a document that stands otherwise in another one.
type difference struct {
	path    path
	was, is any
}

// differences compares two documents down to single values, and to whole things of lists that are only in one of them.
func differences(at path, was, is any) (list []difference) {
	a, b := things(was), things(is)
	if a == nil && b == nil || a == nil && was != nil || b == nil && is != nil || was == nil || is == nil {
		if change.JSON(was) != change.JSON(is) && text(was) != text(is) {
			list = append(list, difference{slices.Clone(at), was, is})
		}
		return list
	}
	for _, key := range slices.Sorted(maps.Keys(merged(a, b))) {
		if key == "id" {
			continue
		}
		list = append(list, differences(append(slices.Clone(at), key), a[key], b[key])...)
	}
	return list
}

// things are the parts of a map, or of a list whose things bear ids or names; nil of anything else.
func things(v any) map[string]any {
	switch v := v.(type) {
	case map[string]any:
		return v
	case []any:
		out := map[string]any{}
		for _, one := range v {
			key := keyOf(one)
			if key == "" {
				return nil
			}
			out[key] = one
		}
		if len(out) == len(v) && len(v) > 0 {
			return out
		}
	}
	return nil
}

func keyOf(v any) string {
	m, _ := v.(map[string]any)
	for _, by := range []string{"id", "name"} {
		if key, ok := m[by].(string); ok && key != "" {
			return key
		}
	}
	return ""
}

func (p path) get(v any) any {
	for _, key := range p {
		v = things(v)[key]
	}
	return v
}

// set puts a value where the path leads; nil takes away what is there.
func (p path) set(document map[string]any, value any) {
	put(document, p, value)
}

func put(v any, p path, value any) any {
	switch v := v.(type) {
	case map[string]any:
		if len(p) == 1 {
			if v[p[0]] = value; value == nil {
				delete(v, p[0])
			}
			return v
		}
		v[p[0]] = put(v[p[0]], p[1:], value)
		return v
	case []any:
		at := slices.IndexFunc(v, func(one any) bool { return keyOf(one) == p[0] })
		switch {
		case len(p) > 1 && at >= 0:
			v[at] = put(v[at], p[1:], value)
		case at >= 0 && value == nil:
			return slices.Delete(v, at, at+1)
		case at >= 0:
			v[at] = value
		case value != nil:
			return append(v, value)
		}
		return v
	case nil: // a list or a map that is not there yet
		if len(p) == 1 && keyOf(value) == p[0] {
			return []any{value}
		}
		return put(map[string]any{}, p, value)
	}
	return v
}

// words are what a part is called: the way to it, with names for ids.
func (d difference) words(was, is map[string]any) string {
	var parts []string
	for k := range d.path {
		here := d.path[:k+1]
		part := strings.ReplaceAll(d.path[k], "_", " ")
		for _, document := range []map[string]any{is, was} {
			if m, ok := here.get(document).(map[string]any); ok {
				if name, ok := m["name"].(string); ok && name != "" {
					part = name
					break
				}
			}
		}
		if _, err := strconv.Atoi(part); err == nil {
			continue
		}
		parts = append(parts, part)
	}
	s := strings.Join(parts, ", ")
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
