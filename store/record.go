package store

import (
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
	BatchID string    `json:"batch_id"`
	Action  string    `json:"action"`
	Subject string    `json:"subject"`
	Why     string    `json:"why"`
	Before  string    `json:"before"`
	After   string    `json:"after"`
}

// chain is the hash of a row together with the hash of the row before it, so that nothing can be altered unnoticed.
func (c Change) chain(previous string) string {
	return Hash([]byte(strings.Join([]string{previous, fmt.Sprint(c.Seq), stamp(c.At), c.Who, c.BatchID, c.Action, c.Subject, c.Why, c.Before, c.After}, "\x00")))
}

// Record adds a row to the record.
func (t *Tx) Record(c Change) (int64, error) {
	var previous string
	err := t.row("SELECT seq, hash FROM record ORDER BY seq DESC LIMIT 1", nil, &c.Seq, &previous)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return 0, err
	}
	c.Seq, c.At = c.Seq+1, t.now
	return c.Seq, t.exec("INSERT INTO record(seq, at, who, batch_id, action, subject, why, before, after, prev_hash, hash) VALUES (?,?,?,?,?,?,?,?,?,?,?)",
		c.Seq, stamp(c.At), c.Who, c.BatchID, c.Action, c.Subject, c.Why, c.Before, c.After, previous, c.chain(previous))
}

const recordColumns = "seq, at, who, batch_id, action, subject, why, before, after"

func scanChange(rows *sql.Rows, more ...any) (Change, error) {
	var c Change
	var at string
	err := rows.Scan(append([]any{&c.Seq, &at, &c.Who, &c.BatchID, &c.Action, &c.Subject, &c.Why, &c.Before, &c.After}, more...)...)
	c.At = unstamp(at)
	return c, err
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

// Verify checks the database, every raw file against its hash, and the chain of the record. It returns what is wrong, one
// sentence each.
func (t *Tx) Verify() (blobs int, rows int64, wrong []string, err error) {
	if err := t.each("PRAGMA integrity_check", nil, func(r *sql.Rows) error {
		var line string
		err := r.Scan(&line)
		if line != "ok" {
			wrong = append(wrong, "The database is damaged: "+line+".")
		}
		return err
	}); err != nil {
		return 0, 0, nil, err
	}
	var hashes []string
	if err := t.each("SELECT hash FROM blobs", nil, func(r *sql.Rows) error {
		var h string
		err := r.Scan(&h)
		hashes = append(hashes, h)
		return err
	}); err != nil {
		return 0, 0, nil, err
	}
	for _, h := range hashes {
		if _, err := t.Blob(h); err != nil {
			wrong = append(wrong, fmt.Sprintf("Raw data %.12s: %v.", h, err))
		}
	}
	previous := ""
	err = t.each("SELECT "+recordColumns+", prev_hash, hash FROM record ORDER BY seq", nil, func(r *sql.Rows) error {
		var before, hash string
		c, err := scanChange(r, &before, &hash)
		if err != nil {
			return err
		}
		rows++
		if c.Seq != rows || before != previous || c.chain(previous) != hash {
			wrong = append(wrong, fmt.Sprintf("Row %d of the record was altered or a row before it is missing.", c.Seq))
		}
		previous = hash
		return nil
	})
	return len(hashes), rows, wrong, err
}

// Newest is the newest change of a batch that its results and reports stand on, with who made such changes, in the order in which they came.
type Newest struct {
	Change
	Hash     string
	Analysts []string
}

// reportAction marks the rows of the record about a report that was kept, on which nothing stands.
const reportAction = "report"

// NewestInput finds it.
func (t *Tx) NewestInput(batchID string) (n Newest, err error) {
	err = t.each("SELECT "+recordColumns+", hash FROM record WHERE batch_id = ? AND action != ? ORDER BY seq", []any{batchID, reportAction}, func(r *sql.Rows) error {
		n.Change, err = scanChange(r, &n.Hash)
		if err == nil && !slices.Contains(n.Analysts, n.Who) {
			n.Analysts = append(n.Analysts, n.Who)
		}
		return err
	})
	return n, err
}
