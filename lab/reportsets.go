package lab

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"yugen/jobs"
	"yugen/lab/change"
	"yugen/lab/review"
	"yugen/report"
	"yugen/report/layouts"
	"yugen/store"
)

// Where reports go besides being kept here.
const (
	ToFolder   = "folder"
	ToReceiver = "receiver"
)

// Why a report may be held back.
const (
	HeldByNotices = "notices" // something about it is open
	HeldByMissing = "missing" // it shows a value that is not there
	HeldByRange   = "range"   // an amount is outside the range of its curve
)

// How far a file, a set or a delivery is.
const (
	Waits   = "waits"
	Made    = "made"
	Held    = "held"
	Failed  = "failed"
	Stopped = "stopped"
	Paused  = "paused"
	Making  = "making"
	Sent    = "sent"
)

// SetAsked says which reports are to be made together.
type SetAsked struct {
	Layout  string            `json:"layout"`
	Each    layouts.Each      `json:"each"` // empty is as the layout says
	All     bool              `json:"all"`  // of injections: also those that are no sample
	Formats []report.FileKind `json:"formats"`
	Names   string            `json:"names"` // of the files, with values
	Hold    []string          `json:"hold"`
	To      []string          `json:"to"`
	Despite []string          `json:"despite,omitempty"` // subjects, by injection or sample, that are made although they would be held back
	Joined  bool              `json:"joined,omitempty"`  // one PDF of all that are made stands after them
}

// ReportSet are reports that are made together, with what became of each.
type ReportSet struct {
	ID            string       `json:"id"` // empty before they are begun
	State         string       `json:"state"`
	LayoutName    string       `json:"layout_name"`
	LayoutVersion int          `json:"layout_version"`
	InputsHash    string       `json:"inputs_hash"`
	Asked         SetAsked     `json:"asked"`
	MadeBy        string       `json:"made_by"`
	MadeAt        *time.Time   `json:"made_at"`
	Files         []ReportFile `json:"files"`
}

// ReportFile is one of them.
type ReportFile struct {
	Position    int             `json:"position"`
	InjectionID string          `json:"injection_id,omitempty"`
	Sample      string          `json:"sample,omitempty"`
	Injections  []string        `json:"injections"` // whose it is, by id
	Name        string          `json:"name"`
	Format      report.FileKind `json:"format"`
	State       string          `json:"state"`
	Says        string          `json:"says,omitempty"`
	Hash        string          `json:"hash,omitempty"`
	Size        int64           `json:"size"`
	Joined      bool            `json:"joined,omitempty"` // it is all the others in one
	Sent        []DeliveryState `json:"sent"`
}

// DeliveryState is where a file went, or when it was last tried.
type DeliveryState struct {
	Target string    `json:"target"`
	State  string    `json:"state"`
	Says   string    `json:"says,omitempty"`
	Tries  int       `json:"tries"`
	At     time.Time `json:"at"`
}

// MakeSet begins to make reports. What becomes of them is read with Sets.
func (l *Lab) MakeSet(ctx context.Context, batchID string, asked SetAsked, who string) (ReportSet, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return ReportSet{}, err
	}
	plan, err := l.plan(ctx, p, asked)
	if err != nil {
		return plan.set, err
	}
	if len(plan.set.Files) == 0 {
		return plan.set, refuse("there is nothing to make a report of: the batch has no %s", plan.one.Each)
	}
	var kept store.ReportSet
	err = l.store.Write(ctx, func(t *store.Tx) error {
		var files []store.ReportFile
		for _, f := range plan.set.Files {
			files = append(files, store.ReportFile{Position: f.Position, InjectionID: f.InjectionID, Sample: f.Sample, Name: f.Name, Format: string(f.Format), State: f.State, Says: f.Says})
		}
		kept, err = t.PutReportSet(store.ReportSet{BatchID: batchID, Layout: asked.Layout, LayoutName: plan.layout.Layout.Name, LayoutVersion: plan.layout.Version, Document: string(plan.one.JSON()),
			Asked: change.JSON(plan.set.Asked), InputsHash: p.InputsHash, State: Making, MadeBy: who}, files)
		if err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: store.SetAction, Subject: fmt.Sprintf("%d files by %s, version %d", len(files), plan.layout.Layout.Name, plan.layout.Version), After: change.JSON(map[string]string{"set": kept.ID, "inputs_hash": p.InputsHash})})
		return err
	})
	if err != nil {
		return plan.set, err
	}
	l.startSet(ctx, batchID, kept.ID, who)
	return l.set(ctx, batchID, kept.ID)
}

func (l *Lab) startSet(ctx context.Context, batchID, setID, who string) {
	l.Jobs.Start(ctx, l.setJob(batchID, setID, who, ""), func(ctx context.Context, p *jobs.Progress) (any, error) {
		return nil, l.makeFiles(ctx, batchID, setID, p)
	})
}

// runSet makes a set whose making was stopped with the program.
func (l *Lab) runSet(ctx context.Context, batchID, setID, who, jobID string) error {
	_, err := l.Jobs.Do(ctx, l.setJob(batchID, setID, who, jobID), func(ctx context.Context, p *jobs.Progress) (any, error) {
		return nil, l.makeFiles(ctx, batchID, setID, p)
	})
	return err
}

func (l *Lab) setJob(batchID, setID, who, jobID string) jobs.Asked {
	return jobs.Asked{ID: jobID, Kind: jobs.Set, Key: "reports " + setID + " " + store.NewID(), BatchID: batchID, Subject: "reports", Who: who, Args: setID}
}

// makeFiles makes what waits of a set, one after the other, from the inputs that the set names: where they have changed, what is left is held back.
func (l *Lab) makeFiles(ctx context.Context, batchID, setID string, progress *jobs.Progress) error {
	l.making.Lock() // one that was halted ends before it is gone on with
	defer l.making.Unlock()
	kept := context.WithoutCancel(ctx)
	var set store.ReportSet
	var files []store.ReportFile
	if err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		if set, err = t.ReportSet(setID); err != nil {
			return err
		}
		files, err = t.ReportFiles(setID)
		return err
	}); err != nil {
		return err
	}
	one, err := layouts.Read([]byte(set.Document))
	if err != nil {
		return err
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return err
	}
	for k, f := range files {
		progress.Set(k, len(files))
		if f.State != Waits {
			continue
		}
		if ctx.Err() != nil {
			return ctx.Err() // what is made stays; the rest waits until it is taken up again
		}
		current, state, err := l.standing(ctx, batchID, setID)
		if err != nil || state != Making {
			return err // somebody has halted it
		}
		if current != set.InputsHash || p.InputsHash != set.InputsHash {
			f.State, f.Says = Held, "results changed"
		} else if err := l.makeFile(kept, p, one, set, files, &f); err != nil {
			f.State, f.Says = Failed, Reason(err)
		}
		if err := l.store.Write(kept, func(t *store.Tx) error { return t.SetReportFile(setID, f) }); err != nil {
			return err
		}
		files[k] = f
	}
	progress.Set(len(files), len(files))
	if err := l.store.Write(kept, func(t *store.Tx) error {
		if s, err := t.ReportSet(setID); err != nil || s.State != Making {
			return err
		}
		return t.SetReportSet(setID, Made)
	}); err != nil {
		return err
	}
	l.Deliver(ctx)
	l.watch.tell(Event{BatchID: batchID})
	return nil
}

// standing is the hash of what a batch would be computed from now, and how far a set of its reports is.
func (l *Lab) standing(ctx context.Context, batchID, setID string) (current, state string, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		s, err := t.ReportSet(setID)
		current, state = inputsHash(b), s.State
		return err
	})
	return current, state, err
}

// joined tells whether a file is the one that holds all the others: it has no subject, and they have.
func joined(f store.ReportFile, one layouts.Layout) bool {
	return one.Each != layouts.EachBatch && f.InjectionID == "" && f.Sample == ""
}

// written are the bytes of a file of a set: of one report, or of all that were made.
func (l *Lab) written(ctx context.Context, p Processed, one layouts.Layout, files []store.ReportFile, f store.ReportFile) ([]byte, error) {
	if !joined(f, one) {
		of := report.Subject{InjectionID: f.InjectionID, Sample: f.Sample}
		in, err := l.inputFor(ctx, p, one, of)
		if err != nil {
			return nil, err
		}
		return report.Write(one, in, of, report.FileKind(f.Format))
	}
	var list []*report.Report
	for _, other := range files {
		if other.State != Made || other.Format != f.Format || joined(other, one) {
			continue
		}
		of := report.Subject{InjectionID: other.InjectionID, Sample: other.Sample}
		in, err := l.inputFor(ctx, p, one, of)
		if err != nil {
			return nil, err
		}
		r, err := report.Make(one, in, of)
		if err != nil {
			return nil, err
		}
		list = append(list, r)
	}
	if len(list) == 0 {
		return nil, refuse("None was made that could stand in it.")
	}
	return report.Join(f.Name, list).PDF()
}

// makeFile makes one report and keeps it, with what is to be sent.
func (l *Lab) makeFile(ctx context.Context, p Processed, one layouts.Layout, set store.ReportSet, files []store.ReportFile, f *store.ReportFile) error {
	data, err := l.written(ctx, p, one, files, *f)
	if err != nil {
		return err
	}
	var asked SetAsked
	if err := json.Unmarshal([]byte(set.Asked), &asked); err != nil {
		return err
	}
	return l.store.Write(ctx, func(t *store.Tx) error {
		if f.Hash, err = t.PutBlob(data); err != nil {
			return err
		}
		f.Size, f.State, f.Says = int64(len(data)), Made, ""
		for _, to := range asked.To {
			if err := t.PutDelivery(store.Delivery{SetID: set.ID, Position: f.Position, Target: to, State: Waits}); err != nil {
				return err
			}
		}
		return nil
	})
}

// Sets lists the reports that were made together, the newest first.
func (l *Lab) Sets(ctx context.Context, batchID string) ([]ReportSet, error) {
	list := []ReportSet{}
	err := l.store.Read(ctx, func(t *store.Tx) error {
		sets, err := t.ReportSets(batchID)
		if err != nil {
			return err
		}
		for _, s := range sets {
			one, err := readSet(t, s)
			if err != nil {
				return err
			}
			list = append(list, one)
		}
		return nil
	})
	return list, err
}

func (l *Lab) set(ctx context.Context, batchID, id string) (ReportSet, error) {
	list, err := l.Sets(ctx, batchID)
	if err != nil {
		return ReportSet{}, err
	}
	for _, s := range list {
		if s.ID == id {
			return s, nil
		}
	}
	return ReportSet{}, fmt.Errorf("reports %s: %w", id, store.ErrNotFound)
}

func readSet(t *store.Tx, s store.ReportSet) (ReportSet, error) {
	one := ReportSet{ID: s.ID, State: s.State, LayoutName: s.LayoutName, LayoutVersion: s.LayoutVersion, InputsHash: s.InputsHash, MadeBy: s.MadeBy, MadeAt: &s.MadeAt, Files: []ReportFile{}}
	if err := json.Unmarshal([]byte(s.Asked), &one.Asked); err != nil {
		return one, err
	}
	files, err := t.ReportFiles(s.ID)
	if err != nil {
		return one, err
	}
	sent, err := t.Deliveries(s.ID, "")
	if err != nil {
		return one, err
	}
	for _, f := range files {
		file := ReportFile{Position: f.Position, InjectionID: f.InjectionID, Sample: f.Sample, Injections: []string{}, Name: f.Name, Format: report.FileKind(f.Format), State: f.State, Says: f.Says, Hash: f.Hash, Size: f.Size, Sent: []DeliveryState{}}
		file.Joined = one.Asked.Joined && f.InjectionID == "" && f.Sample == ""
		for _, d := range sent {
			if d.Position == f.Position {
				file.Sent = append(file.Sent, DeliveryState{d.Target, d.State, d.Says, d.Tries, d.At})
			}
		}
		one.Files = append(one.Files, file)
	}
	return one, nil
}

// HaltSet stops the making of a set: for now, or for good. What is made stays.
func (l *Lab) HaltSet(ctx context.Context, batchID, id string, forGood bool, who string) (ReportSet, error) {
	s, err := l.set(ctx, batchID, id)
	if err != nil {
		return s, err
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		files, err := t.ReportFiles(id)
		if err != nil {
			return err
		}
		waiting := 0
		for _, f := range files {
			if f.State != Waits {
				continue
			}
			waiting++
			if forGood {
				f.State, f.Says = Stopped, "stopped by "+who
				if err := t.SetReportFile(id, f); err != nil {
					return err
				}
			}
		}
		switch {
		case waiting == 0:
			return nil // it came to its end before
		case forGood:
			return t.SetReportSet(id, Stopped)
		}
		return t.SetReportSet(id, Paused)
	})
	if err != nil {
		return s, err
	}
	return l.set(ctx, batchID, id)
}

// GoOn makes what waits of a set, and tries again what failed.
func (l *Lab) GoOn(ctx context.Context, batchID, id, who string) (ReportSet, error) {
	return l.makeFurther(ctx, batchID, id, who, "", func(f store.ReportFile, _ layouts.Layout) bool { return f.State == Failed || f.State == Stopped })
}

// Release makes a report that was held back all the same, in each of its formats, and the one that holds all of them anew.
func (l *Lab) Release(ctx context.Context, batchID, id string, position int, who string) (ReportSet, error) {
	s, err := l.set(ctx, batchID, id)
	if err != nil {
		return s, err
	}
	if position < 0 || position >= len(s.Files) || s.Files[position].State != Held {
		return s, refuse("this report is not held back")
	}
	held := s.Files[position]
	return l.makeFurther(ctx, batchID, id, who, held.Name+review.HeldBack+held.Says, func(f store.ReportFile, one layouts.Layout) bool {
		return f.State == Held && f.InjectionID == held.InjectionID && f.Sample == held.Sample || joined(f, one)
	})
}

// makeFurther lets files of a set wait again, and makes them. What is to be known of it goes to the record.
func (l *Lab) makeFurther(ctx context.Context, batchID, id, who, known string, which func(store.ReportFile, layouts.Layout) bool) (ReportSet, error) {
	s, err := l.set(ctx, batchID, id)
	if err != nil {
		return s, err
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		kept, err := t.ReportSet(id)
		if err != nil {
			return err
		}
		one, err := layouts.Read([]byte(kept.Document))
		if err != nil {
			return err
		}
		files, err := t.ReportFiles(id)
		if err != nil {
			return err
		}
		for _, f := range files {
			if which(f, one) {
				f.State, f.Says = Waits, ""
				if err := t.SetReportFile(id, f); err != nil {
					return err
				}
			}
		}
		if known != "" {
			if _, err := t.Record(store.Change{Who: who, BatchID: batchID, Action: store.SetAction, Subject: known, After: change.JSON(map[string]string{"set": id})}); err != nil {
				return err
			}
		}
		return t.SetReportSet(id, Making)
	})
	if err != nil {
		return ReportSet{}, err
	}
	l.startSet(ctx, batchID, id, who)
	return l.set(ctx, batchID, id)
}

// Again says whether a report that is made again is the same.
type Again struct {
	Same bool   `json:"same"`
	Says string `json:"says"`
}

// MakeAgain makes a kept report again, from what the batch is now, and compares the bytes. The kept one stays.
func (l *Lab) MakeAgain(ctx context.Context, batchID, id string, position int) (Again, error) {
	var set store.ReportSet
	var files []store.ReportFile
	if err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		if set, err = t.ReportSet(id); err != nil || set.BatchID != batchID {
			return fmt.Errorf("reports %s: %w", id, store.ErrNotFound)
		}
		files, err = t.ReportFiles(id)
		return err
	}); err != nil {
		return Again{}, err
	}
	if position < 0 || position >= len(files) || files[position].Hash == "" {
		return Again{}, fmt.Errorf("report %d: %w", position, store.ErrNotFound)
	}
	one, err := layouts.Read([]byte(set.Document))
	if err != nil {
		return Again{}, err
	}
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return Again{}, err
	}
	f := files[position]
	data, err := l.written(ctx, p, one, files, f)
	switch {
	case err != nil:
		return Again{false, "It cannot be made any more: " + Reason(err)}, nil
	case store.Hash(data) == f.Hash:
		return Again{true, "The same, byte for byte."}, nil
	case p.InputsHash != set.InputsHash:
		return Again{false, "Not the same: the batch was changed since. The kept one stays."}, nil
	}
	return Again{false, "Not the same, although the inputs are: the record has gone on, what is settled, or Yugen itself draws otherwise. The kept one stays."}, nil
}

// SetFile hands a report of a set back as it was made, with its name.
func (l *Lab) SetFile(ctx context.Context, batchID, id string, position int) (name string, data []byte, err error) {
	s, err := l.set(ctx, batchID, id)
	if err != nil {
		return "", nil, err
	}
	if position < 0 || position >= len(s.Files) || s.Files[position].Hash == "" {
		return "", nil, fmt.Errorf("report %d: %w", position, store.ErrNotFound)
	}
	f := s.Files[position]
	data, err = l.blob(ctx, f.Hash)
	return f.Name + "." + string(f.Format), data, err
}
