package lab

import (
	"context"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/formats/runlist"
	"yugen/lab/change"
	"yugen/lab/taking"
	"yugen/store"
)

// Import adds a file to a batch. A file that cannot be read is refused with its reason and changes nothing; the same file
// twice changes nothing either.
func (l *Lab) Import(ctx context.Context, batchID, name string, data []byte, who string) (taking.Outcome, error) {
	from, err := l.reading(ctx, batchID, nil, taking.InMemory(data))
	if err != nil {
		return taking.Outcome{}, err
	}
	d, err := taking.Keep(ctx, l.store, name, from, who, nil)
	if err != nil {
		return d.Out, err
	}
	outcomes, err := l.add(ctx, batchID, []taking.File{d})
	if err != nil {
		return d.Out, err
	}
	return outcomes[0], nil
}

// add keeps files that were read, all of them or none, and says what became of each.
func (l *Lab) add(ctx context.Context, batchID string, files []taking.File) ([]taking.Outcome, error) {
	outcomes := make([]taking.Outcome, len(files))
	revision := 0
	err := l.store.Write(ctx, func(t *store.Tx) error {
		m, err := t.MethodOf(batchID)
		if err != nil {
			return err
		}
		for i, d := range files {
			outcomes[i] = d.Out
			if d.Out.Status == taking.Refused {
				continue
			}
			if outcomes[i], err = keepFile(t, batchID, d, m.Curves.Unit); err != nil {
				return err
			}
			if outcomes[i].Status == taking.Already {
				continue
			}
			if revision, err = t.Touch(batchID, 0); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil && revision > 0 {
		l.watch.tell(Event{BatchID: batchID, Revision: revision})
	}
	return outcomes, err
}

// keepFile keeps one file that was read: as a further file of an injection that it belongs to, else as an injection of its own.
func keepFile(t *store.Tx, batchID string, d taking.File, levelUnit string) (taking.Outcome, error) {
	out := d.Out
	if err := t.PutKept(d.Kept); err != nil {
		return out, err
	}
	id, there, err := t.FileIn(batchID, d.Hash)
	if err != nil {
		return out, err
	}
	if there {
		out.InjectionID, out.Status, out.Message = id, taking.Already, "This file is in the batch already."
		return out, nil
	}
	var into *store.Injection
	var doubt string
	if !d.Apart {
		into, doubt, err = joining(t, batchID, d)
	}
	if err != nil {
		return out, err
	}
	if into != nil {
		out.InjectionID, out.Status, out.Message = into.ID, taking.Joined, "It belongs to "+into.FileName+": the same name, started at the same time."
		c, err := withFile(t, *into, store.FurtherFile{RawHash: d.Hash, FileName: d.Out.File, Header: d.Header}, d.Detector)
		if err != nil {
			return out, err
		}
		if err := c.After.Apply(t, batchID); err != nil {
			return out, err
		}
		_, err = t.Record(store.Change{Who: d.Who, BatchID: batchID, Action: "import", Subject: c.Subject, Before: change.JSON(c.Before), After: change.JSON(c.After)})
		return out, err
	}
	in := store.Injection{FileName: d.Out.File, Header: d.Header, Entry: taking.ProposedEntry(d.Out.File, d.Header, levelUnit), RawHash: d.Hash, Trace: max(0, d.Detector)}
	if err := claim(t, batchID, &in); err != nil {
		return out, err
	}
	if in.ID, _, err = t.AddInjection(batchID, in); err != nil {
		return out, err
	}
	in.Edits = []peaks.Edit{}
	out.InjectionID, out.Message = in.ID, strings.TrimSpace(strings.Join(append(d.Header.Doubts, doubt), " "))
	_, err = t.Record(store.Change{Who: d.Who, BatchID: batchID, Action: "import", Subject: d.Out.File,
		Before: change.JSON(change.State{Gone: []string{in.ID}}), After: change.JSON(change.State{Back: []store.Injection{in}})})
	return out, err
}

// ApplyRunList sets the entries of a batch from a run list, by file name.
func (l *Lab) ApplyRunList(ctx context.Context, batchID string, lines []runlist.Line, who string) (store.Batch, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return b, err
	}
	return l.make(ctx, batchID, b.Revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		c := change.Change{Action: change.RunListAction, Why: "from a file", Subject: "a run list of " + strconv.Itoa(len(lines)) + " lines", Before: change.State{Entries: map[string]batch.Entry{}}, After: change.State{Entries: map[string]batch.Entry{}}}
		for _, line := range lines {
			found := false
			for _, in := range b.Injections {
				if in.FileName == line.File {
					found = true
					entry := line.Entry
					entry.ID = in.ID
					c.Before.Entries[in.ID], c.After.Entries[in.ID] = in.Entry, entry
				}
			}
			if !found {
				return c, refuse("the run list names %s, which is not among the files", line.File)
			}
		}
		return c, nil
	})
}
