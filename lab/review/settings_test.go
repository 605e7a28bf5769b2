package review

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
)

// grown is a document as those of methods are: what stands under a name is always of one kind, a value, a list of things with ids, a list of plain values, or a map;
// any of it may not be there.
func grown(r *rand.Rand, depth int) map[string]any {
	m := map[string]any{}
	values := []any{float64(r.IntN(4)), fmt.Sprint("t", r.IntN(3)), r.IntN(2) == 0}
	if r.IntN(4) > 0 {
		m["value"] = values[r.IntN(len(values))]
	}
	if r.IntN(3) > 0 {
		m["plain"] = []any{float64(r.IntN(3)), float64(r.IntN(3))}
	}
	if depth == 0 {
		return m
	}
	if r.IntN(4) > 0 {
		m["map"] = grown(r, depth-1)
	}
	list := []any{}
	for k := range 4 {
		if r.IntN(2) == 0 {
			one := grown(r, depth-1)
			one["id"] = fmt.Sprint("id", k)
			list = append(list, one)
		}
	}
	if r.IntN(4) > 0 {
		m["list"] = list
	}
	return m
}

func copied(t *testing.T, v any) (out map[string]any) {
	t.Helper()
	data, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(data, &out); err != nil {
		t.Fatal(err)
	}
	return out
}

// sorted puts the things of lists in the order of their ids, which differences do not look at, and leaves out what is empty.
func sorted(v any) any {
	switch v := v.(type) {
	case map[string]any:
		out := map[string]any{}
		for key, one := range v {
			if s := sorted(one); s != nil {
				out[key] = s
			}
		}
		if len(out) == 0 {
			return nil
		}
		return out
	case []any:
		if len(v) == 0 {
			return nil
		}
		if keyOf(v[0]) == "" {
			return v
		}
		var out []any
		for _, one := range v {
			out = append(out, sorted(one))
		}
		slices.SortFunc(out, func(a, b any) int { return strings.Compare(keyOf(a), keyOf(b)) })
		return out
	}
	return v
}

// Every difference between two documents, put into the one, makes it the other; put back one by one from the other side, it is what it was.
func TestDifferencesLeadFromOneDocumentToTheOther(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	told := 0
	for n := range 3000 {
		was, is := copied(t, grown(r, 3)), copied(t, grown(r, 3))
		if list := differences(nil, was, is); n%3 == 0 && len(list) > 0 { // two that are near
			is = copied(t, was)
			list[0].path.set(is, copied(t, map[string]any{"is": list[0].is})["is"])
		}
		list := differences(nil, was, is)
		told += len(list)
		there, back := copied(t, was), copied(t, is)
		for _, d := range list {
			d.path.set(there, d.is)
			d.path.set(back, d.was)
		}
		if !reflect.DeepEqual(sorted(there), sorted(is)) || !reflect.DeepEqual(sorted(back), sorted(was)) {
			a, _ := json.Marshal(was)
			b, _ := json.Marshal(is)
			c, _ := json.Marshal(there)
			d, _ := json.Marshal(back)
			t.Fatalf("%d\nwas   %s\nis    %s\nthere %s\nback  %s\n%+v", n, a, b, c, d, list)
		}
		if again := differences(nil, is, copied(t, is)); len(again) != 0 {
			t.Fatalf("a document differs from itself: %+v", again)
		}
	}
	if told < 3000 {
		t.Errorf("%d differences", told)
	}
}
