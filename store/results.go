package store

import (
	"database/sql"
	"encoding/json"
	"time"

	"yugen/core/batch"
)

// PackedResult is a result as it is kept.
type PackedResult []byte

// PackResult packs a result, before a transaction begins.
func PackResult(r batch.Result) (PackedResult, error) {
	document, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	return encoder.EncodeAll(document, nil), nil
}

// PutResult keeps a result under the hash of what it was made from. Of a batch's earlier ones only those that a kept report was drawn from stay: all others
// can be computed again.
func (t *Tx) PutResult(batchID, inputsHash string, r PackedResult) error {
	if err := t.exec("DELETE FROM results WHERE batch_id = ? AND inputs_hash != ? AND inputs_hash NOT IN (SELECT inputs_hash FROM reports WHERE batch_id = ? UNION SELECT inputs_hash FROM report_sets WHERE batch_id = ?)", batchID, inputsHash, batchID, batchID); err != nil {
		return err
	}
	seal := ""
	if t.signer != nil {
		if err := t.useKey(); err != nil {
			return err
		}
		seal = t.signer.sign(resultText(batchID, inputsHash, r))
	}
	return t.exec("INSERT INTO results(batch_id, inputs_hash, computed_at, document, seal) VALUES (?,?,?,?,?) ON CONFLICT (batch_id, inputs_hash) DO UPDATE SET computed_at = excluded.computed_at, document = excluded.document, seal = excluded.seal",
		batchID, inputsHash, stamp(t.now), []byte(r), seal)
}

// resultText is what the seal of a kept result is of.
func resultText(batchID, inputsHash string, document []byte) string {
	return batchID + " " + inputsHash + " " + Hash(document)
}

// Result reads a kept result. One whose seal is not of a key of this store was altered, or is from before there were seals: it is as if there were none.
func (t *Tx) Result(batchID, inputsHash string) (batch.Result, error) {
	var r batch.Result
	var packed []byte
	var seal string
	if err := t.row("SELECT document, seal FROM results WHERE batch_id = ? AND inputs_hash = ?", []any{batchID, inputsHash}, &packed, &seal); err != nil {
		return r, err
	}
	if t.signer != nil {
		keys, err := t.keys()
		if err != nil {
			return r, err
		}
		if _, ok := signedBy(resultText(batchID, inputsHash, packed), seal, keys); !ok {
			return r, ErrNotFound
		}
	}
	document, err := decoder.DecodeAll(packed, nil)
	if err != nil {
		return r, err
	}
	return r, json.Unmarshal(document, &r)
}

// Report is a report that was made and kept.
type Report struct {
	ID          string    `json:"id"`
	Layout      string    `json:"layout"`
	InjectionID string    `json:"injection_id"`
	InputsHash  string    `json:"inputs_hash"`
	PDFHash     string    `json:"pdf_hash"`
	MadeAt      time.Time `json:"made_at"`
	MadeBy      string    `json:"made_by"`
}

// PutReport keeps a report.
func (t *Tx) PutReport(batchID string, r Report) (Report, error) {
	r.ID, r.MadeAt = NewID(), t.now
	return r, t.exec("INSERT INTO reports(id, batch_id, layout, injection_id, inputs_hash, pdf_hash, made_at, made_by) VALUES (?,?,?,?,?,?,?,?)",
		r.ID, batchID, r.Layout, r.InjectionID, r.InputsHash, r.PDFHash, stamp(t.now), r.MadeBy)
}

// Reports lists the kept reports of a batch, newest first.
func (t *Tx) Reports(batchID string) ([]Report, error) {
	list := []Report{}
	err := t.each("SELECT id, layout, injection_id, inputs_hash, pdf_hash, made_at, made_by FROM reports WHERE batch_id = ? ORDER BY id DESC", []any{batchID}, func(rows *sql.Rows) error {
		var r Report
		var at string
		err := rows.Scan(&r.ID, &r.Layout, &r.InjectionID, &r.InputsHash, &r.PDFHash, &at, &r.MadeBy)
		r.MadeAt = unstamp(at)
		list = append(list, r)
		return err
	})
	return list, err
}
