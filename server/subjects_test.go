package server

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
)

// Every operation of the contract is under one subject, and no subject speaks of what is not there.
func TestEveryOperationHasASubject(t *testing.T) {
	document, err := Contract()
	if err != nil {
		t.Fatal(err)
	}
	var told struct {
		Tags  []struct{ Name, Description string }
		Paths map[string]map[string]struct{ Tags []string }
	}
	if err := json.Unmarshal(document, &told); err != nil {
		t.Fatal(err)
	}
	used := map[string]int{}
	for path, methods := range told.Paths {
		for method, op := range methods {
			if len(op.Tags) != 1 || !slices.ContainsFunc(told.Tags, func(s struct{ Name, Description string }) bool { return s.Name == op.Tags[0] }) {
				t.Errorf("%s %s is under %v", method, path, op.Tags)
				continue
			}
			used[op.Tags[0]]++
		}
	}
	var words []string
	for _, s := range subjects {
		if used[s.name] == 0 {
			t.Errorf("nothing is under %s", s.name)
		}
		for _, w := range s.words {
			if slices.Contains(words, w) {
				t.Errorf("%q belongs to two subjects", w)
			}
			words = append(words, w)
			among := false
			for path := range told.Paths {
				if about, err := subjectOf(path); err != nil || about != s.name {
					continue
				}
				among = among || slices.Contains(strings.Split(path, "/"), w)
			}
			if !among {
				t.Errorf("no path of %s has the word %q", s.name, w)
			}
		}
	}
	if _, err := subjectOf("/api/batches/{batch}/weather"); err == nil {
		t.Error("a path of no subject is taken")
	}
}
