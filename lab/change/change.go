// Package change is what a person did to a batch, as the record keeps it: the part of the batch that it touches, before and after.
package change

import (
	"encoding/json"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/store"
)

// State is the part of a batch that a change touches, before or after it. Applying a state brings back all that it
// mentions, which is how undo and redo work.
type State struct {
	Version string `json:"version,omitempty"`
	// VersionHash is that of the version's document, where it was saved with this change.
	VersionHash string                  `json:"version_hash,omitempty"`
	Entries     map[string]batch.Entry  `json:"entries,omitempty"`
	Edits       map[string][]peaks.Edit `json:"edits,omitempty"`
	Order       []string                `json:"order,omitempty"`
	Settled     map[string]bool         `json:"settled,omitempty"`
	Traces      map[string]int          `json:"traces,omitempty"` // which trace of its file an injection is processed by
	// Files are the further files of injections.
	Files   map[string][]store.FurtherFile `json:"files,omitempty"`
	Gone    []string                       `json:"gone,omitempty"` // injections that are not in the batch
	Back    []store.Injection              `json:"back,omitempty"` // injections that are, where they were not
	Choices *batch.Choices                 `json:"choices,omitempty"`
	Name    string                         `json:"name,omitempty"` // of the batch
	Away    *bool                          `json:"away,omitempty"`
	// ByVersion leaves the choices to the method's version, as early ones have it.
	ByVersion bool `json:"choices_by_version,omitempty"`
}

// ChoicesOf is the part of a state that holds a batch's choices as they are.
func ChoicesOf(b store.Batch) State {
	if !b.OwnChoices {
		return State{ByVersion: true}
	}
	return State{Choices: &b.Choices}
}

// Apply brings a batch to the state.
func (s State) Apply(t *store.Tx, batchID string) error {
	for _, id := range s.Gone {
		if err := t.RemoveInjection(id); err != nil {
			return err
		}
	}
	for _, in := range s.Back {
		if err := t.RestoreInjection(batchID, in); err != nil {
			return err
		}
	}
	for id, files := range s.Files {
		if err := t.SetFiles(id, files); err != nil {
			return err
		}
	}
	if s.Version != "" {
		if err := t.UseVersion(batchID, s.Version); err != nil {
			return err
		}
	}
	if s.Name != "" {
		if err := t.Rename(batchID, s.Name); err != nil {
			return err
		}
	}
	if s.Away != nil {
		if err := t.PutAway(batchID, *s.Away); err != nil {
			return err
		}
	}
	if s.Choices != nil || s.ByVersion {
		if err := t.SetChoices(batchID, s.Choices); err != nil {
			return err
		}
	}
	for id, e := range s.Entries {
		if err := t.SetEntry(id, e); err != nil {
			return err
		}
	}
	for id, at := range s.Traces {
		if err := t.SetTrace(id, at); err != nil {
			return err
		}
	}
	for id, e := range s.Edits {
		if err := t.SetEdits(id, e); err != nil {
			return err
		}
	}
	for key, settled := range s.Settled {
		if err := t.SetSettled(batchID, key, settled); err != nil {
			return err
		}
	}
	return t.SetOrder(s.Order)
}

// Change is what a person did, as the record keeps it.
type Change struct {
	Action, Subject, Why string
	Before, After        State
}

// The actions of the record that take others back or bring them back.
const (
	UndoAction = "undo"
	RedoAction = "redo"
)

// The actions of the record that start a batch and keep a report.
const (
	BatchAction  = "batch"
	ReportAction = store.ReportAction
	// A run list is applied, or fields of it are set.
	RunListAction = "run list"
)

// Order is the run order of a batch, by the ids of its injections.
func Order(b store.Batch) []string {
	ids := make([]string, len(b.Injections))
	for i, in := range b.Injections {
		ids[i] = in.ID
	}
	return ids
}

// JSON is a value as the record keeps it.
func JSON(v any) string {
	text, err := json.Marshal(v)
	if err != nil { // only values of our own types come here, and all of them can be written
		panic(err)
	}
	return string(text)
}
