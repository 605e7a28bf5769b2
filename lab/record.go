package lab

import (
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"yugen/lab/record"
	"yugen/report"
	"yugen/store"
)

// Record lists the newest changes of a batch with what each of them set.
func (l *Lab) Record(ctx context.Context, batchID string) ([]record.Row, error) {
	return record.Rows(ctx, l.store, batchID)
}

// RecordPage is a piece of the record that was looked for.
type RecordPage struct {
	Rows    []record.Row `json:"rows"` // the newest first
	More    bool         `json:"more"` // there are older ones
	Who     []string     `json:"who"`  // all that the record tells of
	Actions []string     `json:"actions"`
}

// recordPiece is how many rows come at once.
const recordPiece = 200

// FindRecord looks for rows of the record before one of them; 0 begins at the newest.
func (l *Lab) FindRecord(ctx context.Context, wanted store.Wanted, before int64) (RecordPage, error) {
	rows, err := record.Find(ctx, l.store, wanted, before, recordPiece+1)
	if err != nil {
		return RecordPage{}, err
	}
	page := RecordPage{Rows: rows[:min(recordPiece, len(rows))], More: len(rows) > recordPiece}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		page.Who, page.Actions, err = t.RecordWords()
		return err
	})
	return page, err
}

// RecordCSV writes all rows that are looked for, the newest first.
func (l *Lab) RecordCSV(ctx context.Context, wanted store.Wanted, to io.Writer) error {
	w := csv.NewWriter(to)
	if err := w.Write([]string{"row", "at", "who", "kind_of_actor", "from_where", "clock", "batch", "kind", "what", "differences", "why"}); err != nil {
		return err
	}
	for before := int64(0); ; {
		rows, err := record.Find(ctx, l.store, wanted, before, recordPiece)
		if err != nil {
			return err
		}
		for _, r := range rows {
			var differences []string
			for _, d := range r.Differences {
				differences = append(differences, fmt.Sprintf("%s: %s → %s", d.What, d.Before, d.After))
			}
			line := []string{strconv.FormatInt(r.Seq, 10), r.At.UTC().Format(time.RFC3339Nano), r.Who, string(r.Actor), r.Place, r.Clock, r.Batch, r.Action, r.Subject, strings.Join(differences, "; "), r.Why}
			for k := range line {
				line[k] = report.Harmless(line[k])
			}
			if err := w.Write(line); err != nil {
				return err
			}
			before = r.Seq
		}
		w.Flush()
		if w.Error() != nil || len(rows) < recordPiece {
			return w.Error()
		}
	}
}

// TakenOut tells the record that somebody takes a copy of something out, before it goes.
func (l *Lab) TakenOut(ctx context.Context, batchID, what, who string) error {
	return l.store.Write(ctx, func(t *store.Tx) error {
		if batchID != "" {
			if err := t.HasBatch(batchID); err != nil {
				return err
			}
		}
		_, err := t.Record(store.Change{Who: who, BatchID: batchID, Action: store.ExportAction, Subject: what})
		return err
	})
}

// Refused tells the record that somebody asked for what they may not do.
func (l *Lab) Refused(ctx context.Context, what, who string) error {
	return l.store.Write(ctx, func(t *store.Tx) error {
		_, err := t.Record(store.Change{Who: who, Action: store.RefusedAction, Subject: what})
		return err
	})
}

// signedEnd is the last line of a record that is taken out as JSON.
type signedEnd struct {
	Rows      int64  `json:"rows"`
	SHA256    string `json:"sha256"`    // of all lines before this one, in hex
	Key       string `json:"key"`       // Ed25519, public, in hex
	Signature string `json:"signature"` // of the 64 letters of sha256, in hex
}

// RecordJSON writes all rows that are looked for, the newest first, a line of JSON each with what stood before and after, and a last line that signs them.
func (l *Lab) RecordJSON(ctx context.Context, wanted store.Wanted, to io.Writer) error {
	sum := sha256.New()
	lines := json.NewEncoder(io.MultiWriter(to, sum))
	end := signedEnd{}
	for before := int64(0); ; {
		var rows []store.Change
		err := l.store.Read(ctx, func(t *store.Tx) (err error) {
			rows, err = t.FindChanges(wanted, before, recordPiece)
			return err
		})
		if err != nil {
			return err
		}
		for _, r := range rows {
			if err := lines.Encode(r); err != nil {
				return err
			}
			before = r.Seq
			end.Rows++
		}
		if len(rows) < recordPiece {
			break
		}
	}
	end.SHA256 = hex.EncodeToString(sum.Sum(nil))
	end.Key, end.Signature = l.store.SignText(end.SHA256)
	return json.NewEncoder(to).Encode(end)
}

// Verify checks everything that is kept; see record.Verify.
func (l *Lab) Verify(ctx context.Context, progress func(done, total int)) (record.Verification, error) {
	return record.Verify(ctx, l.store, progress)
}

// VerifyQuickly checks everything but what the raw files decode to; see record.VerifyQuickly.
func (l *Lab) VerifyQuickly(ctx context.Context) (record.Verification, error) {
	return record.VerifyQuickly(ctx, l.store)
}
