package batch

import (
	"crypto/sha256"
	"encoding/json"
	"sync"

	"yugen/core/peaks"
)

// Cache keeps integrated traces, and what traces alone say of widths and noise, by the hash of what they were made from. Its zero value and nil are
// empty caches; it is safe for use by many.
type Cache struct {
	results   kept[peaks.Result]
	estimates kept[peaks.Estimate]
}

// kept holds a bounded number of values, and lets the oldest go.
type kept[T any] struct {
	mu    sync.Mutex
	held  map[[32]byte]T
	order [][32]byte // oldest first
}

// cacheEntries bounds the cache; 300 injections under a dozen settings fit.
const cacheEntries = 4096

// get is the value made from these inputs, made now where it is not held.
func (k *kept[T]) get(inputs any, make1 func() (T, error)) (T, error) {
	var none T
	document, err := json.Marshal(inputs)
	if err != nil {
		return none, err
	}
	key := sha256.Sum256(document)
	k.mu.Lock()
	v, ok := k.held[key]
	k.mu.Unlock()
	if ok {
		return v, nil
	}
	if v, err = make1(); err != nil {
		return none, err
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.held == nil {
		k.held = map[[32]byte]T{}
	}
	if _, twice := k.held[key]; !twice {
		if len(k.order) == cacheEntries {
			delete(k.held, k.order[0])
			k.order = k.order[1:]
		}
		k.held[key], k.order = v, append(k.order, key)
	}
	return v, nil
}

func (c *Cache) integrate(of Signal, edits []peaks.Edit, s peaks.Settings, expected peaks.Estimate) (peaks.Result, error) {
	find := func() (peaks.Result, error) { return peaks.FindExpecting(of.Trace, s, edits, &expected) }
	if c == nil {
		return find()
	}
	return c.results.get(struct {
		Trace    string
		Settings peaks.Settings
		Edits    []peaks.Edit
		Expected peaks.Estimate
	}{of.Hash, s, edits, expected}, find)
}

func (c *Cache) estimate(of Signal) (peaks.Estimate, error) {
	estimate := func() (peaks.Estimate, error) { return peaks.EstimateOf(of.Trace), nil }
	if c == nil {
		return estimate()
	}
	return c.estimates.get(of.Hash, estimate)
}
