package lab

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yugen/lab/change"
	"yugen/people"
	"yugen/store"
)

// ApprovedVersion is a version of a method that somebody has approved.
type ApprovedVersion struct {
	ID     string    `json:"id"`
	Number int       `json:"number"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
	Alone  bool      `json:"alone"`  // by who made it: not independent
	Proven bool      `json:"proven"` // by a password, just then
}

// approval is what the record says of an approved version.
type approval struct {
	Version string `json:"version"`
	Method  string `json:"method"`
	Number  int    `json:"number"`
	Hash    string `json:"hash"`
	Alone   bool   `json:"alone"`
	Proven  bool   `json:"proven"`
}

// approvals are those that the record tells of, by version.
func approvals(t *store.Tx) (map[string]ApprovedVersion, error) {
	rows, err := t.Approvals()
	out := map[string]ApprovedVersion{}
	for _, c := range rows {
		var a approval
		if err := json.Unmarshal([]byte(c.After), &a); err != nil {
			return out, err
		}
		out[a.Version] = ApprovedVersion{a.Version, a.Number, c.Who, c.At, a.Alone, a.Proven}
	}
	return out, err
}

// newestApproved is the newest version of a method that is approved; nil where none is.
func newestApproved(t *store.Tx, methodID string) (newest *ApprovedVersion, err error) {
	approved, err := approvals(t)
	if err != nil || len(approved) == 0 {
		return nil, err
	}
	list, err := t.Versions(methodID) // the newest first
	for _, v := range list {
		if a, is := approved[v.ID]; is {
			return &a, nil
		}
	}
	return nil, err
}

// approvedBefore is the newest approved version of a method up to one of them, with its document, and those after it up to that one; nil where none is approved.
func approvedBefore(t *store.Tx, v store.Version) (*store.Version, []store.Version, error) {
	approved, err := approvals(t)
	if err != nil {
		return nil, nil, err
	}
	list, err := t.Versions(v.MethodID) // the newest first
	if err != nil {
		return nil, nil, err
	}
	var since []store.Version
	for _, one := range list {
		if one.Number > v.Number {
			continue
		}
		whole, err := t.Version(one.ID)
		if err != nil {
			return nil, nil, err
		}
		if _, is := approved[one.ID]; is {
			return &whole, since, nil
		}
		since = append([]store.Version{whole}, since...)
	}
	return nil, nil, nil
}

// Approve approves a version of a method. Who saved it does not, except where one person works alone; then it is said.
func (l *Lab) Approve(ctx context.Context, versionID, password string, by people.Actor) (ApprovedVersion, error) {
	var v store.Version
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		v, err = t.Version(versionID)
		return err
	})
	switch {
	case err != nil:
		return ApprovedVersion{}, err
	case by.Limits != nil || !by.May(people.Approve):
		return ApprovedVersion{}, refuse("%s may not approve a method", by.Name)
	case !by.Alone && v.Author == by.Name:
		return ApprovedVersion{}, refuse("you saved version %d of %s, so somebody else approves it", v.Number, v.Name)
	}
	if !by.Alone {
		if err := l.proveAgain(ctx, by, password, "gave the password to approve", "an attempt to approve failed"); err != nil {
			return ApprovedVersion{}, err
		}
	}
	out := ApprovedVersion{ID: v.ID, Number: v.Number, By: by.Name, Alone: by.Alone, Proven: !by.Alone}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		done, err := approvals(t)
		if _, is := done[v.ID]; err != nil || is {
			return errors.Join(err, refuse("version %d of %s is approved already", v.Number, v.Name))
		}
		out.At = t.Now()
		_, err = t.Record(store.Change{Who: by.Name, Action: store.ApprovalAction, Subject: fmt.Sprintf("%s, version %d", v.Name, v.Number), After: change.JSON(approval{v.ID, v.MethodID, v.Number, v.Hash, by.Alone, !by.Alone})})
		return err
	})
	return out, err
}
