package formula

import (
	"sync"
	"sync/atomic"

	"github.com/expr-lang/expr/ast"

	"yugen/core/compounds"
	"yugen/core/quantities"
)

// memory keeps what was computed of a batch, so that a field which looks at all of it is computed once.
type memory struct {
	register quantities.Register
	mu       sync.Mutex
	steps    atomic.Int64 // of all values
	batch    *quantities.Batch
	kept     map[string]quantities.Value
	lists    map[string][]value // of injections, by the compound that they are looked at for
	index    map[string]int     // of the register
	filters  map[filtering]value
}

// filtering is a filter of a formula over all injections, looked at for a compound.
type filtering struct {
	predicate ast.Node
	compound  string
}

func newMemory() *memory {
	return &memory{kept: map[string]quantities.Value{}, lists: map[string][]value{}, filters: map[filtering]value{}}
}

// find is a quantity of the register, which is looked at for every value.
func (m *memory) find(id string) (quantities.Quantity, bool) {
	m.mu.Lock()
	if len(m.index) != len(m.register) {
		m.index = make(map[string]int, len(m.register))
		for k, q := range m.register {
			m.index[q.ID] = k
		}
	}
	k, known := m.index[id]
	m.mu.Unlock()
	if !known {
		return quantities.Quantity{}, false
	}
	return m.register[k], true
}

// all are the injections of a batch as a list, each with what it has of a compound.
func (m *memory) all(b *quantities.Batch, c *compounds.Compound) []value {
	key := ""
	if c != nil {
		key = c.ID
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.follow(b)
	list, have := m.lists[key]
	if !have {
		for _, r := range b.Injections {
			if c != nil {
				r = r.Of(c)
			}
			list = append(list, rowValue(r))
		}
		m.lists[key] = list
	}
	return list
}

// follow forgets what was of another batch.
func (m *memory) follow(b *quantities.Batch) {
	if m.batch != b {
		m.batch, m.kept, m.lists, m.filters = b, map[string]quantities.Value{}, map[string][]value{}, map[filtering]value{}
	}
}

// shared is what a filter finds that is the same from every row of a batch, but for the compound.
func (m *memory) shared(predicate ast.Node, r quantities.Row, compute func() value) value {
	if r.Batch == nil {
		return compute()
	}
	key := filtering{predicate: predicate}
	if r.Compound != nil {
		key.compound = r.Compound.ID
	}
	m.mu.Lock()
	m.follow(r.Batch)
	v, have := m.filters[key]
	m.mu.Unlock()
	if have {
		return v
	}
	v = compute()
	m.mu.Lock()
	if m.batch == r.Batch && v.absent == "" {
		m.filters[key] = v
	}
	m.mu.Unlock()
	return v
}

func (m *memory) of(key string, b *quantities.Batch, compute func() quantities.Value) quantities.Value {
	m.mu.Lock()
	m.follow(b)
	v, have := m.kept[key]
	m.mu.Unlock()
	if have {
		return v
	}
	v = compute()
	m.mu.Lock()
	if m.batch == b {
		m.kept[key] = v
	}
	m.mu.Unlock()
	return v
}
