package lab

import (
	"bytes"
	"context"
	"encoding/gob"

	"yugen/core/resolving"
	"yugen/store"
)

// keptPiece is a resolved stretch as it is kept, so that a batch is not resolved again after a restart.
type keptPiece struct {
	Stack  resolving.Stack // without its values
	Totals [][]float64
	Result resolving.Result
	Err    string
}

func (l *Lab) keptPieces(ctx context.Context, w *wholeBatch) error {
	return l.store.Read(ctx, func(t *store.Tx) error {
		return t.Resolved(w.batchID, w.inputs, func(stretch string, document []byte) error {
			var k keptPiece
			if err := gob.NewDecoder(bytes.NewReader(document)).Decode(&k); err != nil {
				return nil // of another form: it is resolved again
			}
			w.done[stretch] = resolvedPiece{k.Stack, k.Totals, k.Result, k.Err}
			return nil
		})
	})
}

// keepPiece holds a resolved stretch and stores it. Where it cannot be stored it is still held, and that is said.
func (l *Lab) keepPiece(ctx context.Context, w *wholeBatch, key string, p resolvedPiece) error {
	w.mu.Lock()
	if len(w.done) >= store.MostResolved {
		w.done = map[string]resolvedPiece{}
	}
	w.done[key] = p
	w.mu.Unlock()
	var document bytes.Buffer
	if err := gob.NewEncoder(&document).Encode(keptPiece{p.stack, p.totals, p.result, p.err}); err != nil {
		return err
	}
	packed := store.Pack(document.Bytes())
	return l.store.Write(ctx, func(t *store.Tx) error { return t.PutResolved(w.batchID, w.inputs, key, packed) })
}
