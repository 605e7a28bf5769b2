package taking

import (
	"slices"
	"sync"

	"yugen/store"
)

// Arrived is a file that was sent to a batch, and what has become of it.
type Arrived struct {
	ID string `json:"id"`
	Outcome
}

const (
	// togetherFiles and togetherBytes bound how much is read before it is kept in one transaction, and so what lies in memory at once. One file larger than
	// that comes alone.
	togetherFiles = 8
	togetherBytes = 32 << 20
	// arrivedTold is of how many files per batch the outcome can still be asked.
	arrivedTold = 5000
)

// Queue knows the files that have arrived since the program started, by batch.
type Queue struct {
	mu      sync.Mutex
	batches map[string]*arrivals
}

// arrivals are the files of one batch, in the order in which they came.
type arrivals struct {
	all     []*Waiting
	ended   int // of those since nothing waited
	waiting []*Waiting
}

// Waiting is a file that waits to be taken in.
type Waiting struct {
	store.Arrival
	Out  Outcome
	Over chan struct{} // closed when the outcome is known
}

// Arrive lets a file wait.
func (n *Queue) Arrive(a store.Arrival) *Waiting {
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.batches == nil {
		n.batches = map[string]*arrivals{}
	}
	b := n.batches[a.BatchID]
	if b == nil {
		b = &arrivals{}
		n.batches[a.BatchID] = b
	}
	one := &Waiting{a, Outcome{File: a.Name, Status: Coming}, make(chan struct{})}
	b.all, b.waiting = append(b.all, one), append(b.waiting, one)
	if len(b.all) > arrivedTold {
		b.all = slices.Delete(b.all, 0, len(b.all)-arrivedTold)
	}
	return one
}

// Next gives the files that come in together: of one person and place, bounded.
func (n *Queue) Next(batchID string) []*Waiting {
	n.mu.Lock()
	defer n.mu.Unlock()
	b := n.batches[batchID]
	if b == nil {
		return nil
	}
	size := int64(0)
	group := []*Waiting{}
	for _, a := range b.waiting {
		size += a.Size
		if len(group) == togetherFiles || len(group) > 0 && (size > togetherBytes || a.Who != group[0].Who || a.Place != group[0].Place) {
			break
		}
		group = append(group, a)
	}
	return group
}

// End says what became of files, which wait no longer.
func (n *Queue) End(batchID string, files []*Waiting, outcomes []Outcome) {
	n.mu.Lock()
	defer n.mu.Unlock()
	b := n.batches[batchID]
	for i, a := range files {
		a.Out = outcomes[i]
		close(a.Over)
	}
	b.waiting, b.ended = b.waiting[len(files):], b.ended+len(files)
}

// Counts gives how many files have ended, of how many, since nothing waited.
func (n *Queue) Counts(batchID string) (ended, all int) {
	n.mu.Lock()
	defer n.mu.Unlock()
	b := n.batches[batchID]
	if b == nil { // nothing has come since the program started
		return 0, 0
	}
	ended, all = b.ended, b.ended+len(b.waiting)
	if len(b.waiting) == 0 {
		b.ended = 0
	}
	return ended, all
}

// List lists the files that were sent to a batch since the program started, in the order in which they came.
func (n *Queue) List(batchID string) []Arrived {
	n.mu.Lock()
	defer n.mu.Unlock()
	list := []Arrived{}
	if b := n.batches[batchID]; b != nil {
		for _, a := range b.all {
			list = append(list, Arrived{a.ID, a.Out})
		}
	}
	return list
}
