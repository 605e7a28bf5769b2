package batch

import (
	"crypto/sha256"
	"encoding/json"
	"sync"

	"yugen/core/peaks"
)

// Cache keeps integrated traces by the hash of what they were made from. Its zero value and nil are empty caches; it is
// safe for use by many.
type Cache struct {
	mu    sync.Mutex
	held  map[[32]byte]peaks.Result
	order [][32]byte // oldest first
}

// cacheEntries bounds the cache; 300 injections under a dozen settings fit.
const cacheEntries = 4096

func (c *Cache) integrate(in Injection, s peaks.Settings) (peaks.Result, error) {
	if c == nil {
		return peaks.Find(in.Trace, s, in.Edits)
	}
	inputs, err := json.Marshal(struct {
		Trace    string
		Settings peaks.Settings
		Edits    []peaks.Edit
	}{in.TraceHash, s, in.Edits})
	if err != nil {
		return peaks.Result{}, err
	}
	key := sha256.Sum256(inputs)
	c.mu.Lock()
	r, ok := c.held[key]
	c.mu.Unlock()
	if ok {
		return r, nil
	}
	r, err = peaks.Find(in.Trace, s, in.Edits)
	if err != nil {
		return peaks.Result{}, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.held == nil {
		c.held = map[[32]byte]peaks.Result{}
	}
	if _, twice := c.held[key]; !twice {
		if len(c.order) == cacheEntries {
			delete(c.held, c.order[0])
			c.order = c.order[1:]
		}
		c.held[key], c.order = r, append(c.order, key)
	}
	return r, nil
}
