package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
)

// Change is one row of the record: who changed what, when, why, from what to what.
type Change struct {
	Seq     int64     `json:"seq"`
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	Actor   Actor     `json:"actor"` // what kind of one that is
	Place   string    `json:"place"` // from where, as the address that asked; empty for the machine itself
	Clock   string    `json:"clock"` // what was wrong with the clock; empty for nothing
	BatchID string    `json:"batch_id"`
	Action  string    `json:"action"`
	Subject string    `json:"subject"`
	Why     string    `json:"why"`
	Before  string    `json:"before"`
	After   string    `json:"after"`

	form int // how it is hashed
}

// Actor is what kind of one acted.
type Actor string

// The kinds. Rows from before they were told have none.
const (
	Person  Actor = "person"
	Program Actor = "program"
)

// recordForm is how new rows are hashed.
const recordForm = 2

// keyAction marks the row that tells of a new signing key.
const keyAction = "key"

// chain is the hash of a row together with the hash of the row before it, so that nothing can be altered unnoticed.
func (c Change) chain(previous string) string {
	parts := []string{previous, fmt.Sprint(c.Seq), stamp(c.At), c.Who, c.BatchID, c.Action, c.Subject, c.Why, c.Before, c.After}
	if c.form >= 2 {
		parts = append(parts, fmt.Sprint(c.form), string(c.Actor), c.Place, c.Clock)
	}
	return Hash([]byte(strings.Join(parts, "\x00")))
}

type placeKey struct{}

// From tells the record from where the changes of a context are asked.
func From(ctx context.Context, place string) context.Context {
	return context.WithValue(ctx, placeKey{}, place)
}

// PlaceOf is the place that a context bears; empty where it bears none.
func PlaceOf(ctx context.Context) string {
	place, _ := ctx.Value(placeKey{}).(string)
	return place
}

// Record adds a row to the record, and before the first row that a key signs one that tells of the key.
func (t *Tx) Record(c Change) (int64, error) {
	if err := t.useKey(); err != nil {
		return 0, err
	}
	if err := t.unlessSigned(c); err != nil {
		return 0, err
	}
	if c.Actor == "" {
		c.Actor = Person
	}
	return t.add(c)
}

// useKey tells of the key that signs, where the record does not know it yet.
func (t *Tx) useKey() error {
	if t.signer == nil {
		return nil
	}
	var since string
	err := t.row("SELECT since FROM keys WHERE public = ?", []any{t.signer.public}, &since)
	if !errors.Is(err, ErrNotFound) {
		return err
	}
	if err := t.exec("INSERT INTO keys(public, since) VALUES (?, ?)", t.signer.public, stamp(t.now)); err != nil {
		return err
	}
	_, err = t.add(Change{Who: "Yugen", Actor: Program, Action: keyAction, Subject: "signed from here on by " + t.signer.public[:16], After: t.signer.public})
	return err
}

func (t *Tx) add(c Change) (int64, error) {
	var previous, before string
	err := t.row("SELECT seq, at, hash FROM record ORDER BY seq DESC LIMIT 1", nil, &c.Seq, &before, &previous)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return 0, err
	}
	c.Seq, c.At, c.form = c.Seq+1, t.now, recordForm
	c.Place = PlaceOf(t.ctx)
	if back := unstamp(before).Sub(t.now); before != "" && back > 0 {
		c.Clock = fmt.Sprintf("%s before the row before it", back.Round(time.Millisecond))
	}
	t.end = head{c.Seq, c.chain(previous)}
	return c.Seq, t.exec("INSERT INTO record(seq, at, who, batch_id, action, subject, why, before, after, form, actor, place, clock, prev_hash, hash) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)",
		c.Seq, stamp(c.At), c.Who, c.BatchID, c.Action, c.Subject, c.Why, c.Before, c.After, c.form, string(c.Actor), c.Place, c.Clock, previous, t.end.hash)
}

const recordColumns = "record.seq, record.at, record.who, batch_id, action, record.subject, record.why, before, after, form, actor, place, clock"

func scanChange(rows *sql.Rows, more ...any) (Change, error) {
	var c Change
	var at, actor string
	err := rows.Scan(append([]any{&c.Seq, &at, &c.Who, &c.BatchID, &c.Action, &c.Subject, &c.Why, &c.Before, &c.After, &c.form, &actor, &c.Place, &c.Clock}, more...)...)
	c.At, c.Actor = unstamp(at), Actor(actor)
	return c, err
}

// EachChange goes through the whole record in its order.
func (t *Tx) EachChange(see func(Change) error) error {
	return t.each("SELECT "+recordColumns+" FROM record ORDER BY seq", nil, func(r *sql.Rows) error {
		c, err := scanChange(r)
		if err != nil {
			return err
		}
		return see(c)
	})
}

// Changes lists the newest rows of a batch's record, newest first, at most limit of them.
func (t *Tx) Changes(batchID string, limit int) ([]Change, error) {
	list := []Change{}
	err := t.each("SELECT "+recordColumns+" FROM record WHERE batch_id = ? ORDER BY seq DESC LIMIT ?", []any{batchID, limit}, func(rows *sql.Rows) error {
		c, err := scanChange(rows)
		list = append(list, c)
		return err
	})
	return list, err
}

// Step is a row of a batch's record without what it holds.
type Step struct {
	Seq      int64
	Action   string
	Subject  string
	Undoable bool // it says what was before
}

// Steps lists the rows of a batch after one of them, in their order.
func (t *Tx) Steps(batchID string, after int64) (list []Step, err error) {
	err = t.each("SELECT seq, action, subject, substr(before, 1, 1) = '{' FROM record WHERE batch_id = ? AND seq > ? ORDER BY seq", []any{batchID, after}, func(r *sql.Rows) error {
		var s Step
		err := r.Scan(&s.Seq, &s.Action, &s.Subject, &s.Undoable)
		list = append(list, s)
		return err
	})
	return list, err
}

// Change reads one row of the record.
func (t *Tx) Change(seq int64) (c Change, err error) {
	err = ErrNotFound
	failed := t.each("SELECT "+recordColumns+" FROM record WHERE seq = ?", []any{seq}, func(r *sql.Rows) error {
		c, err = scanChange(r)
		return err
	})
	if failed != nil {
		return c, failed
	}
	return c, err
}

// Newest is the newest change of a batch that its results and reports stand on, with who made such changes, in the order in which they came.
type Newest struct {
	Change
	Hash     string
	Analysts []string
}

// ReportAction marks the rows of the record about a report that was kept, on which nothing stands.
const ReportAction = "report"

// LayoutAction marks those about how pages look, on which no number stands.
const LayoutAction = "layout"

// SetAction marks those about many reports that were made together.
const SetAction = "reports"

// NewestInput finds it.
func (t *Tx) NewestInput(batchID string) (n Newest, err error) {
	values := []any{batchID}
	for _, a := range noInput {
		values = append(values, a)
	}
	err = t.each("SELECT "+recordColumns+", hash FROM record WHERE batch_id = ? AND action NOT IN ("+strings.TrimSuffix(strings.Repeat("?,", len(noInput)), ",")+") ORDER BY seq", values, func(r *sql.Rows) error {
		n.Change, err = scanChange(r, &n.Hash)
		if err == nil && !slices.Contains(n.Analysts, n.Who) {
			n.Analysts = append(n.Analysts, n.Who)
		}
		return err
	})
	return n, err
}
