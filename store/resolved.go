package store

import "database/sql"

// Pack makes a document small, before a transaction begins.
func Pack(document []byte) []byte { return encoder.EncodeAll(document, nil) }

// MostResolved is how many stretches of a batch are kept: far more than a run is cut into, but cuts and numbers are tried out.
const MostResolved = 1000

// PutResolved keeps a packed stretch of a batch that was resolved. Those of other inputs go, and the oldest of too many: they can be computed again.
func (t *Tx) PutResolved(batchID, inputsHash, stretch string, packed []byte) error {
	if err := t.exec("DELETE FROM resolved WHERE batch_id = ? AND inputs_hash != ?", batchID, inputsHash); err != nil {
		return err
	}
	seal := ""
	if t.signer != nil {
		if err := t.useKey(); err != nil {
			return err
		}
		seal = t.signer.sign(resolvedText(batchID, inputsHash, stretch, packed))
	}
	if err := t.exec("INSERT OR REPLACE INTO resolved(batch_id, inputs_hash, stretch, document, seal) VALUES (?,?,?,?,?)", batchID, inputsHash, stretch, packed, seal); err != nil {
		return err
	}
	return t.exec("DELETE FROM resolved WHERE batch_id = ? AND rowid <= (SELECT rowid FROM resolved WHERE batch_id = ? ORDER BY rowid DESC LIMIT 1 OFFSET ?)", batchID, batchID, MostResolved)
}

func resolvedText(batchID, inputsHash, stretch string, document []byte) string {
	return resultText(batchID, inputsHash+" "+stretch, document)
}

// Resolved hands over the stretches of a batch that were resolved from these inputs. One whose seal is not of a key of this store is passed over.
func (t *Tx) Resolved(batchID, inputsHash string, take func(stretch string, document []byte) error) error {
	keys, err := t.keys()
	if err != nil {
		return err
	}
	return t.each("SELECT stretch, document, seal FROM resolved WHERE batch_id = ? AND inputs_hash = ?", []any{batchID, inputsHash}, func(r *sql.Rows) error {
		var stretch, seal string
		var packed []byte
		if err := r.Scan(&stretch, &packed, &seal); err != nil {
			return err
		}
		if _, ok := signedBy(resolvedText(batchID, inputsHash, stretch, packed), seal, keys); !ok && t.signer != nil {
			return nil
		}
		document, err := decoder.DecodeAll(packed, nil)
		if err != nil {
			return err
		}
		return take(stretch, document)
	})
}
