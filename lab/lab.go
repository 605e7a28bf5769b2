// Package lab holds what people do with Yugen: import, process, edit, undo, settle, report. It is the only place where the
// core, the formats and the store meet.
package lab

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"yugen/formats"

	"yugen/core/batch"
	"yugen/core/quantities"
	"yugen/formats/read"
	"yugen/jobs"
	"yugen/lab/change"
	"yugen/lab/taking"
	"yugen/store"
)

// Lab is the lab's work on one store.
type Lab struct {
	store   *store.Store
	peaks   batch.Cache
	traces  traceCache
	watch   watchers
	results resultCache
	trails  trails
	counts  shelfCounts
	// Laboratory is whose paper reports are on. Set it before the lab is used.
	Laboratory Laboratory
	// Backups is the folder that backups are written to; empty where the installation names none. Set it before the lab is used.
	Backups string
	// Folder is where reports are dropped for others, Receiver the address of a laboratory's information system that takes them up; empty where there is none. Set
	// them before the lab is used.
	Folder   string
	Receiver string
	// Messages is where somebody is told of what has ended or wants them; nil where nobody is. Set it before the lab is used.
	Messages *Messages
	// Jobs is the work that takes its time. Those who ask for the same share it.
	Jobs   jobs.Queue
	intake taking.Queue
	looks  looks
	bare   bare
	// shelves holds the spectra of all libraries ready for searching.
	shelves libraries
	// screens holds the evidence of batches that were looked at last.
	screens screens
	// wholes holds what was resolved of batches.
	wholes    wholeBatches
	strangers strangers
	// reckonings holds what changes by hand do to reported numbers.
	reckonings reckonings
	// runs holds what was recorded of runs, by the hashes of their files.
	runs struct {
		mu   sync.Mutex
		held map[string][]quantities.Recorded
	}
	// bench holds the instruments that are at hand.
	bench  atHand
	sender sync.Mutex // one delivery at a time
	making sync.Mutex // one set of reports at a time
}

// New opens a lab on a store. Close it before the store.
func New(s *store.Store) *Lab {
	l := &Lab{store: s}
	l.Jobs.Keeper, l.Jobs.NewID = s, store.NewID
	l.Jobs.Changed = func(j jobs.Job) {
		l.watch.tell(Event{Job: &j})
		l.jobTold(j)
	}
	return l
}

// Close stops the work that is under way; what was begun and is worth it goes on at the next start.
func (l *Lab) Close() {
	l.bench.close()
	l.Jobs.Close()
}

// ErrRefused marks what a person asked for and cannot have; its text says why and what to do.
var ErrRefused = errors.New("refused")

func refuse(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrRefused, fmt.Sprintf(format, args...))
}

// misplaced is an error of one field of what was asked.
type misplaced struct {
	error
	pointer string // RFC 6901, into what was asked
}

func (m misplaced) Unwrap() error { return m.error }

// refuseAt is refuse, of one field.
func refuseAt(pointer, format string, args ...any) error {
	return misplaced{refuse(format, args...), pointer}
}

// Pointer is the JSON pointer to the field that an error is of; empty where it is of none.
func Pointer(err error) string {
	var m misplaced
	if errors.As(err, &m) {
		return m.pointer
	}
	return ""
}

// Reason is the sentence of an error for a person.
func Reason(err error) string {
	return formats.Sentence(errors.New(strings.TrimPrefix(err.Error(), ErrRefused.Error()+": ")))
}

// Studies lists all studies.
func (l *Lab) Studies(ctx context.Context) (list []store.Study, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		list, err = t.Studies()
		return err
	})
	return list, err
}

// NewBatch starts a batch in the study of that name with a first method version. The batch of that name is given where
// it is there already.
func (l *Lab) NewBatch(ctx context.Context, study, name, method string, m batch.Method, who string) (id string, err error) {
	m = m.Today()
	if err := valid(m); err != nil {
		return "", err
	}
	return l.newBatch(ctx, study, name, "", who, func(t *store.Tx, studyID string) (store.Version, error) {
		return firstVersion(t, studyID, method, m, "first version", who)
	})
}

// firstVersion starts a method in a study.
func firstVersion(t *store.Tx, studyID, name string, m batch.Method, reason, who string) (store.Version, error) {
	methodID, err := t.NewMethod(studyID, name)
	if err != nil {
		return store.Version{}, err
	}
	return t.SaveVersion(methodID, who, reason, m)
}

func (l *Lab) newBatch(ctx context.Context, study, name, reason, who string, version func(t *store.Tx, studyID string) (store.Version, error)) (id string, err error) {
	if study = strings.TrimSpace(study); study == "" || len(study) > 200 {
		return "", refuseAt("/study", "a study needs a name of at most 200 characters")
	}
	if name = strings.TrimSpace(name); name == "" || len(name) > 200 {
		return "", refuseAt("/name", "a batch needs a name of at most 200 characters")
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		id, err = t.FindBatch(study, name)
		if !errors.Is(err, store.ErrNotFound) {
			return err
		}
		studyID, err := t.PutStudy(study)
		if err != nil {
			return err
		}
		v, err := version(t, studyID)
		if err != nil {
			return err
		}
		if id, err = t.NewBatch(studyID, name, v.ID); err != nil {
			return err
		}
		why := "in " + study
		if reason != "" {
			why += ": " + reason
		}
		_, err = t.Record(store.Change{Who: who, BatchID: id, Action: change.BatchAction, Subject: name, Why: why, After: change.JSON(change.State{Version: v.ID, VersionHash: v.Hash})})
		return err
	})
	return id, err
}

// Batch reads a batch.
func (l *Lab) Batch(ctx context.Context, id string) (b store.Batch, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		b, err = t.Batch(id)
		return err
	})
	return b, err
}

// blob hands a small file back byte for byte.
func (l *Lab) blob(ctx context.Context, hash string) (data []byte, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		data, err = t.Blob(hash)
		return err
	})
	return data, err
}

// injection gives the line of a batch with that id.
func injection(b store.Batch, id string) (store.Injection, error) {
	for _, in := range b.Injections {
		if in.ID == id {
			return in, nil
		}
	}
	return store.Injection{}, fmt.Errorf("injection %s: %w", id, store.ErrNotFound)
}

// Event tells that a batch has changed, or a job.
type Event struct {
	BatchID  string    `json:"batch_id,omitempty"`
	Revision int       `json:"revision,omitempty"`
	Job      *jobs.Job `json:"job,omitempty"`
}

type watchers struct {
	mu   sync.Mutex
	open map[chan Event]bool
}

// Watch gives a channel of changes, and what to call when it is no longer wanted. A slow reader misses events, never
// holds anyone up.
func (l *Lab) Watch() (<-chan Event, func()) {
	c := make(chan Event, 16)
	l.watch.mu.Lock()
	defer l.watch.mu.Unlock()
	if l.watch.open == nil {
		l.watch.open = map[chan Event]bool{}
	}
	l.watch.open[c] = true
	return c, func() {
		l.watch.mu.Lock()
		defer l.watch.mu.Unlock()
		delete(l.watch.open, c)
	}
}

func (w *watchers) tell(e Event) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for c := range w.open {
		select {
		case c <- e:
		default:
		}
	}
}

// RawOf opens the raw file of an injection, as it came, with its name.
func (l *Lab) RawOf(ctx context.Context, batchID, injectionID string) (name string, came *io.SectionReader, err error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return "", nil, err
	}
	in, err := injection(b, injectionID)
	if err != nil {
		return "", nil, err
	}
	f, err := l.store.OpenRaw(ctx, in.RawHash)
	if err != nil {
		return "", nil, err
	}
	came, err = read.Came(f, f.Size)
	return in.FileName, came, err
}
