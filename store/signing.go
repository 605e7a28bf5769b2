package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
)

// The rows of the record that tell of reviewing and signing a batch, and of approving a version of a method. What they say stands nowhere else.
const (
	ReviewAction    = "review"
	SignatureAction = "signature"
	UnlockAction    = "unlock"
	ApprovalAction  = "approval"
)

// AwayAction is of putting a batch away on the shelf, and of having it back.
const AwayAction = "away"

// What leaves: a copy of results, a report or the record, and a backup of everything. Refused marks what somebody asked for and may not do.
const (
	ExportAction  = "export"
	BackupAction  = "backup"
	RefusedAction = "refused"
)

// BenchAction is of what an instrument or somebody at it did.
const BenchAction = "bench"

// InstallationSetting holds what an installation has decided of itself, SettingsAction marks rows that tell of it.
const (
	InstallationSetting = "installation"
	SettingsAction      = "settings"
)

// noInput are actions on which no number of a batch stands.
var noInput = []string{ReportAction, LayoutAction, SetAction, DocumentAction, LibraryAction, ReviewAction, SignatureAction, UnlockAction, AwayAction, ExportAction, RefusedAction, BenchAction}

// whenSigned are those that a signed batch takes besides.
var whenSigned = append(slices.Clone(noInput), "profile", "columns")

// ErrSigned marks a change of a batch that a signature locks.
var ErrSigned = errors.New("signed")

// Signing is what a row about a signature says to the store.
type signing struct {
	Locks bool `json:"locks"`
}

// SigningRows are the rows about reviewing and signing a batch, in their order.
func (t *Tx) SigningRows(batchID string) ([]Change, error) {
	return t.changesWhere("batch_id = ? AND action IN ('review', 'signature', 'unlock') ORDER BY seq", batchID)
}

// Approvals are the rows about versions of methods that were approved, in their order.
func (t *Tx) Approvals() ([]Change, error) {
	return t.changesWhere("action = ? ORDER BY seq", ApprovalAction)
}

// ChangesOf are all rows of a batch, in their order.
func (t *Tx) ChangesOf(batchID string) ([]Change, error) {
	return t.changesWhere("batch_id = ? ORDER BY seq", batchID)
}

func (t *Tx) changesWhere(where string, values ...any) (list []Change, err error) {
	err = t.each("SELECT "+recordColumns+" FROM record WHERE "+where, values, func(r *sql.Rows) error {
		c, err := scanChange(r)
		list = append(list, c)
		return err
	})
	return list, err
}

// Where the review of a batch stands, for the shelf.
const (
	WaitsForReview = "waits for review"
	WasSentBack    = "sent back"
	IsSigned       = "signed"
)

// signingStates is where the review of each batch stands, of which the record tells anything.
func (t *Tx) signingStates() (map[string]string, error) {
	states := map[string]string{}
	err := t.each("SELECT batch_id, action, coalesce(json_extract(after, '$.locks'), 0), coalesce(json_extract(after, '$.verdict'), '') FROM record WHERE action IN ('review', 'signature', 'unlock') ORDER BY batch_id, seq", nil, func(r *sql.Rows) error {
		var id, action, verdict string
		var locks bool
		if err := r.Scan(&id, &action, &locks, &verdict); err != nil {
			return err
		}
		switch {
		case action == UnlockAction:
			states[id] = ""
		case action == SignatureAction && (locks || states[id] == IsSigned):
			states[id] = IsSigned
		case action == SignatureAction:
			states[id] = WaitsForReview
		case verdict == "sent back" && states[id] != IsSigned:
			states[id] = WasSentBack
		}
		return nil
	})
	return states, err
}

// Locked tells whether a signature locks a batch.
func (t *Tx) Locked(batchID string) (locked bool, err error) {
	rows, err := t.SigningRows(batchID)
	for _, c := range rows {
		locked = Locks(c, locked)
	}
	return locked, err
}

// Locks is whether a batch is locked after a row of its record, that was so or not before it.
func Locks(c Change, before bool) bool {
	switch c.Action {
	case UnlockAction:
		return false
	case SignatureAction:
		var s signing
		return before || json.Unmarshal([]byte(c.After), &s) == nil && s.Locks
	}
	return before
}

// TakenWhenSigned tells whether a signed batch takes what a row tells of.
func TakenWhenSigned(action string) bool { return slices.Contains(whenSigned, action) }

// unlessSigned refuses a row of the record that changes a signed batch.
func (t *Tx) unlessSigned(c Change) error {
	if c.BatchID == "" || TakenWhenSigned(c.Action) {
		return nil
	}
	return t.MayChange(c.BatchID)
}

// MayChange refuses where a signature locks a batch.
func (t *Tx) MayChange(batchID string) error {
	locked, err := t.Locked(batchID)
	if err != nil || !locked {
		return err
	}
	var name string
	if err := t.row("SELECT name FROM batches WHERE id = ?", []any{batchID}, &name); err != nil {
		return err
	}
	return fmt.Errorf("%w: %s is signed, so nothing in it changes. Unlock it first, with a reason", ErrSigned, name)
}
